package names_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"umbau/internal/core/names"
)

func TestBook(t *testing.T) {
	b, err := names.ReadBook("b.csv", strings.NewReader("\ufeffSeen,Standard,note\r\nDock Line,Dock Line,x\nBras Cleat,Brass "+
		"Cleat\n\"a, b\",A B\nundecided,\nReed Line 1.5 m,Reed Line 1.5 m\nReed Line 15 m,Reed Line 15 m\n"))
	require.NoError(t, err)
	for in, want := range map[string]string{
		"Dock Line": "Dock Line same", "dock-line.": "Dock Line spelling", "BRAS cleat": "Brass Cleat book", "Brass Cleat": "Brass Cleat same",
		"brass  cleat": "Brass Cleat spelling", "A, B": "A B spelling", "reed line 15 M": "Reed Line 15 m spelling",
		"reed line 1.5m": " unknown", "undecided": " unknown",
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
		"seen;standard\nx;A\n":       {"row 1", "save the book as CSV with commas"},
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
	for _, c := range [][3]string{{"Dock Line", "Dock Line", "same"}, {"DOCK LINE", "Dock Line", "spelling"},
		{"Dock Line", "Dock Line", "same"}, {"Other", "Other", "same"}} {
		standard, how, _ := f.Take(c[0])
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

// Names that no book has yet are compared with each other, the commonest first; what was
// answered serves those to come; a name that begins where another ends may be a renaming.
// A name whose letters were read in another encoding is proposed what it was.
func TestGarbledNames(t *testing.T) {
	x := names.NewIndexOf([]string{"Größe L Weste", "Grüße", "Öljacke"})
	for seen, want := range map[string]string{"GrÃ¶ÃŸe L Weste": "Größe L Weste", "Gr√∂√üe L Weste": "Größe L Weste", "├ûljacke": "Öljacke"} {
		got := x.Suggest(seen)
		require.NotEmpty(t, got, seen)
		require.Equal(t, want, got[0].Standard)
		require.Equal(t, "letters read in another encoding", got[0].Why)
	}
}

func TestProposer(t *testing.T) {
	empty, err := names.ReadBook("b.csv", strings.NewReader("seen,standard\n"))
	require.NoError(t, err)
	seen := []names.Seen{{Text: "Brass Claet", Cells: 1, How: names.Unknown}, {Text: "Brass Cleat", Cells: 9, How: names.Unknown},
		{Text: "BRASS cleat", Cells: 2, How: names.Unknown}, {Text: "Storm Lantern", Cells: 5, How: names.Unknown}}
	var said []string
	for _, p := range names.Propose(seen, empty) {
		first := "-"
		if len(p.Candidates) > 0 {
			first = p.Candidates[0].Standard
		}
		said = append(said, fmt.Sprintf("%s: %s %v", p.Seen, first, p.Sure))
	}
	require.Equal(t, []string{"Brass Cleat: - false", "Storm Lantern: - false", "BRASS cleat: Brass Cleat true",
		"Brass Claet: Brass Cleat false"}, said)

	p := names.NewProposer(seen, empty)
	require.Empty(t, p.Propose(seen[3]).Candidates)
	p.Decide("Storm Lantern", "Gale Lamp")
	require.Equal(t, "Gale Lamp", p.Propose(names.Seen{Text: "Storm Lantren"}).Candidates[0].Standard)
	require.True(t, p.Propose(names.Seen{Text: "STORM lantern"}).Sure)
	p.Forget("Storm Lantern")
	require.False(t, p.Propose(names.Seen{Text: "STORM lantern"}).Sure &&
		p.Propose(names.Seen{Text: "STORM lantern"}).Candidates[0].Standard == "Gale Lamp")

	book, err := names.ReadBook("b.csv", strings.NewReader("seen,standard\nBilge Pump,Bilge Pump\nOar,Oar\n"))
	require.NoError(t, err)
	years := []names.Seen{{Text: "Bilge Pump", Standard: "Bilge Pump", From: "2022", To: "2023"},
		{Text: "Oar", Standard: "Oar", From: "2022", To: "2024"}, {Text: "Drain Master", How: names.Unknown, From: "2024", To: "2024"}}
	renamed := names.Propose(years, book)[0]
	require.False(t, renamed.Sure)
	require.Equal(t, "Bilge Pump", renamed.Candidates[0].Standard)
	require.Contains(t, renamed.Candidates[0].Why, "a renaming?")
	require.LessOrEqual(t, renamed.Candidates[0].Likeness, names.Least)

	for i := range years { // nobody has decided a name yet
		years[i].How, years[i].Standard = names.Unknown, ""
	}
	unwritten, err := names.ReadBook("b.csv", strings.NewReader("seen,standard\n"))
	require.NoError(t, err)
	all := names.Propose(years, unwritten)
	require.Empty(t, all[0].Candidates)
	require.Equal(t, "Bilge Pump", all[2].Candidates[0].Standard)
}

// A book is changed line by line, whatever else stands in it.
func TestLines(t *testing.T) {
	book := []byte("seen,standard,note\nBouy,,x\nOar,Oar,\n")
	decided, err := names.Decide(book, "bouy", "Buoy")
	require.NoError(t, err)
	require.Equal(t, "seen,standard,note\nBouy,Buoy,x\nOar,Oar,\n", string(decided))
	standard, there, err := names.LineOf(decided, "BOUY")
	require.NoError(t, err)
	require.Equal(t, "Buoy true", fmt.Sprint(standard, " ", there))
	more, err := names.Decide(decided, "Sail", "Sail")
	require.NoError(t, err)
	gone, err := names.Forget(more, "sail")
	require.NoError(t, err)
	require.Equal(t, string(decided), string(gone))
}

func TestCounts(t *testing.T) {
	var all names.Tally
	assert.Empty(t, all.Counts())
	for _, s := range []names.Seen{
		{Column: 2, Text: "Rope", Standard: "Rope", How: names.Same, Cells: 3},
		{Column: 1, Text: "Quay 4", Standard: "Quay 4", How: names.Same, Cells: 9},
		{Column: 2, Text: "rope", Standard: "Rope", How: names.Spelling, Cells: 1},
		{Column: 2, Text: "Rop", How: names.Unknown, Cells: 1},
		{Column: 2, Text: "rope", Standard: "Rope", How: names.Spelling, Cells: 5},
	} {
		all.Add(&s)
	}
	assert.Equal(t, []names.Count{{Column: 1, Spellings: 1, Names: 1}, {Column: 2, Spellings: 3, Unknown: 1, Names: 1}}, all.Counts())
}

// Names are counted the same whether it is known which first spelling each is or not, by however many workers: a
// plain table of them says what is right.
func TestCountsOfFirstSpellings(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	firsts := names.NewFirstSpellings()
	var known, unknown names.Tally
	cells, standards := map[string]int{}, map[string]bool{}
	for range 4 { // workers
		again, own := map[string]*int32{}, map[string]*int32{}
		for range 3000 {
			text := []byte(fmt.Sprintf("rope %d mm", random.IntN(500)))
			for range random.IntN(3) {
				text[random.IntN(4)] &^= 0x20
			}
			s := names.Seen{Column: 1, Text: string(text), Cells: 1 + random.IntN(3)}
			s.Standard, s.How, s.Which = firsts.Take(s.Text)
			cells[s.Text] += s.Cells
			standards[strings.ToLower(s.Standard)] = true
			if again[s.Text] == nil {
				again[s.Text], own[s.Text] = new(int32), new(int32)
			}
			s.Again = again[s.Text]
			known.Add(&s)
			s.Which, s.Again = 0, own[s.Text]
			unknown.Add(&s)
		}
	}
	var with, without []names.Seen
	for s := range known.All() {
		assert.Equal(t, cells[s.Text], s.Cells)
		own := *s
		own.Which = 0
		with = append(with, own)
	}
	for s := range unknown.All() {
		without = append(without, *s)
	}
	assert.Equal(t, without, with)
	assert.Len(t, with, len(cells))
	assert.Equal(t, []names.Count{{Column: 1, Spellings: len(cells), Names: len(standards)}}, known.Counts())
	assert.Equal(t, known.Counts(), unknown.Counts())
}
