package place

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestPlaceString(t *testing.T) {
	require.Equal(t, `raw/a.csv, sheet 2024, row 7, header "Dock Line"`, Place{"raw/a.csv", "2024", 7, "Dock Line"}.String())
	require.Equal(t, "raw/a.csv", Place{File: "raw/a.csv"}.String())
	require.Equal(t, `row 3`, Place{Row: 3}.String())
}

func TestShorten(t *testing.T) {
	require.Equal(t, "short", Shorten("short"))
	require.Equal(t, strings.Repeat("é", 60)+"… (61 characters)", Shorten(strings.Repeat("é", 61)))
}

func TestListCountsWhatIsTheSame(t *testing.T) {
	var l List
	for i := range 15 {
		p := At(Place{File: "a.csv", Row: i + 1}, "blank gap", "blank cells")
		p.Texts = []string{""}
		l.Add(p.ByRule())
	}
	l.Add(At(Place{File: "a.csv"}, "blank gap", "other cells").ByRule())
	require.Len(t, l, 2)
	require.Equal(t, 15, l[0].Count)
	require.Len(t, l[0].Places, MostPlaces)
	require.Equal(t, 3, l.ExitCode())
	l.Add(At(Place{File: "b.csv"}, "unreadable file", "gone"))
	require.Equal(t, 1, l.ExitCode())

	var names List
	for _, text := range []string{"Oar", "Buoy", "Oar", "Oar"} {
		names.Add(Problem{What: "unknown name", Count: 2, Once: true, Places: []Place{{File: "a.csv"}}, Texts: []string{text}})
	}
	require.Equal(t, 8, names[0].Count)
	require.Equal(t, []string{"Oar", "Buoy"}, names[0].Texts)
	require.Len(t, names[0].Places, 2)
}

func TestListError(t *testing.T) {
	var l List
	require.NoError(t, l.Err())
	require.Zero(t, l.ExitCode())
	for i := range 12 {
		p := InPlan(Pos{12 - i, 3}, "plan", "mistake %d", i)
		p.File = "umbau.yaml"
		l.Add(p)
	}
	l.SortByPlan()
	text := l.Err().Error()
	require.True(t, strings.HasPrefix(text, "umbau.yaml:1:3: mistake 11\numbau.yaml:2:3: mistake 10\n"), text)
	require.True(t, strings.HasSuffix(text, "\n… and 2 more"), text)
}
