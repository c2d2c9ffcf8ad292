package names_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"umbau/internal/core/names"
)

func TestBook(t *testing.T) {
	b, err := names.ReadBook("b.csv", strings.NewReader("\ufeffSeen,Standard,note\r\nDock Line,Dock Line,x\nBras Cleat,Brass Cleat\n\"a, b\",A B\nundecided,\nReed Line 1.5 m,Reed Line 1.5 m\nReed Line 15 m,Reed Line 15 m\n"))
	require.NoError(t, err)
	for in, want := range map[string]string{
		"Dock Line": "Dock Line same", "dock-line.": "Dock Line spelling", "BRAS cleat": "Brass Cleat book", "Brass Cleat": "Brass Cleat same",
		"brass  cleat": "Brass Cleat spelling", "A, B": "A B spelling", "reed line 15 M": "Reed Line 15 m spelling", "reed line 1.5m": " unknown", "undecided": " unknown",
	} {
		standard, how, ok := b.Find(in)
		assert.Equal(t, want, standard+" "+how.String(), in)
		assert.Equal(t, how != names.Unknown, ok)
	}
}

func TestBookMistakes(t *testing.T) {
	for in, want := range map[string][]string{
		"":                           {"empty"},
		"a,b\n":                      {"seen and standard"},
		"seen,standard\nx,A\nX.,B\n": {"row 3", "line 2"},
		"seen,standard\nx,A\nA,B\n":  {"row 2", `"A" is itself replaced by "B" in line 3`},
		"seen,standard\nx,Dock Line\ny,dock line": {"row 3", "keep one spelling"},
		"seen,standard\n\"x,A\n":                  {"row 2", "cannot be read"},
		"seen,standard\nx,\xff\n":                 {"row 2", "UTF-8"},
		"seen,standard\nx,A\x00\n":                {"row 2", "UTF-8"},
		"seen,standard\nx,A\nx,B\ny,A\ny,C\n":     {"row 3", "row 5"},
	} {
		_, err := names.ReadBook("b.csv", strings.NewReader(in))
		for _, w := range want {
			assert.ErrorContains(t, err, w, in)
		}
	}
}

func TestFirstSpellings(t *testing.T) {
	f := names.NewFirstSpellings()
	for _, c := range [][3]string{{"Dock Line", "Dock Line", "same"}, {"DOCK LINE", "Dock Line", "spelling"}, {"Dock Line", "Dock Line", "same"}, {"Other", "Other", "same"}} {
		standard, how := f.Take(c[0])
		assert.Equal(t, c[1], standard)
		assert.Equal(t, c[2], how.String())
	}
}

func FuzzReadBook(f *testing.F) {
	f.Add("seen,standard\nx,A\n\"y,z\",B\n")
	f.Fuzz(func(t *testing.T, s string) {
		b, err := names.ReadBook("b.csv", strings.NewReader(s))
		if err == nil {
			assert.NotNil(t, b)
		}
	})
}

// Thousands of names that are codes, or have one each, are like no others.
func TestSuggestCodes(t *testing.T) {
	x := names.NewIndexOf(nil)
	for i := range 3000 {
		x.Add(fmt.Sprintf("HM-%04d", i), fmt.Sprintf("HM-%04d", i))
		x.Add(fmt.Sprintf("HM-%04d Dock Line", i), fmt.Sprintf("HM-%04d Dock Line", i))
	}
	require.Empty(t, x.Suggest("HM-9999"))
	require.Empty(t, x.Suggest("HM-9999 Dock Line"))
	got := x.Suggest("HM-0007 Dcok Line")
	require.NotEmpty(t, got)
	require.Equal(t, "HM-0007 Dock Line", got[0].Standard)
}
