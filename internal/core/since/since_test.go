package since

import (
	"bytes"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// state is one of lines; those of headers are of extracts that share them.
func state(by string, lines ...Line) *State {
	s := &State{By: strings.Fields(by)}
	for _, l := range lines {
		if n := len(s.Headers); l.What == Name {
			cells, _ := strconv.Atoi(l.Value)
			s.Names = append(s.Names, Named{l.Column, l.Name, cells})
		} else if l.What != Header {
			s.Lines = append(s.Lines, l)
		} else if n > 0 && s.Headers[n-1].File == l.File {
			s.Headers[n-1].Texts = append(s.Headers[n-1].Texts, l.Value)
		} else {
			s.Headers = append(s.Headers, Headed{File: l.File, Sheet: l.Sheet, Texts: []string{l.Value}})
		}
	}
	return s
}

func written(s *State) string {
	var b strings.Builder
	if err := s.Write(&b); err != nil {
		return err.Error()
	}
	return b.String()
}

// What differs is told kind by kind: what is new, what is another, what is gone.
func TestCompare(t *testing.T) {
	group := func(name, value string) Line { return Line{What: Group, Group: name, Measure: "amount", Value: value} }
	header := func(file, text string) Line { return Line{What: Header, File: file, Value: text} }
	last := state("region", Line{What: Extract, File: "a.csv", Value: "11"}, Line{What: Extract, File: "b.csv", Value: "22"},
		header("a.csv", "Oar"), header("a.csv", "Buoy"), header("b.csv", "Rope"),
		Line{What: Name, Column: "product", Name: "Oar", Value: "5"}, Line{What: Name, Column: "product", Name: "Rope", Value: "2"},
		Line{What: Rows, File: "a.csv", Value: "7"}, Line{What: Rows, File: "b.csv", Value: "2"},
		group("Lakes", "10.00"), group("Skerries", "5.00"), group("Coast", "1"), group("Empty", ""), group("Same", "3.0"))
	now := state("region", Line{What: Extract, File: "a.csv", Value: "33"}, Line{What: Extract, File: "c.csv", Value: "44"},
		header("a.csv", "OAR"), header("a.csv", "Rope"), header("c.csv", "Oar"), header("c.csv", "Flag"),
		Line{What: Name, Column: "product", Name: "OAR", Value: "6"}, Line{What: Name, Column: "product", Name: "Flag", Value: "1"},
		Line{What: Rows, File: "a.csv", Value: "8"}, Line{What: Rows, File: "c.csv", Value: "1"},
		group("Lakes", "10.50"), group("Skerries", "7.00"), group("New", "1"), group("Empty", "4"), group("Same", "3"))
	var text []byte
	changes := Compare(last, now)
	for i := range changes {
		text = changes[i].Append(text)
	}
	require.Equal(t, `extract,a.csv,,,,,,11,33
extract,c.csv,,,,,,,44
extract,b.csv,,,,,,22,
header,a.csv,,,,,,,Rope
header,c.csv,,,,,,,Oar
header,c.csv,,,,,,,Flag
header,a.csv,,,,,,Buoy,
header,b.csv,,,,,,Rope,
name,,,product,Flag,,,,1
name,,,product,Rope,,,2,
rows,a.csv,,,,,,7,8
rows,c.csv,,,,,,,1
rows,b.csv,,,,,,2,
group,,,,,Skerries,amount,5.00,7.00
group,,,,,Coast,amount,1,
group,,,,,Lakes,amount,10.00,10.50
`, string(text))
	elsewhere := map[string]bool{}
	for _, c := range changes {
		if c.What == Header {
			elsewhere[c.File+" "+c.Before+c.Now] = c.Elsewhere
		}
	}
	require.Equal(t, map[string]bool{"a.csv Rope": true, "c.csv Oar": true, "c.csv Flag": false, "a.csv Buoy": false, "b.csv Rope": true},
		elsewhere)

	require.Empty(t, Compare(now, now))
	other := &State{By: []string{"month"}, Headers: now.Headers, Names: now.Names, Lines: now.Lines}
	for _, c := range Compare(last, other) { // groups of other columns are no groups of these
		require.NotEqual(t, Group, c.What)
	}
}

// A state is read as it was written; what is none is an error.
func TestState(t *testing.T) {
	s := state("region month", Line{Header, "a,b.csv", "2024", "", "", "", "", "say \"so\"\nthen"},
		Line{What: Group, Group: "x | y", Measure: "m", Value: "-1.5"})
	back, err := Read(strings.NewReader(written(s)))
	require.NoError(t, err)
	require.Equal(t, s, back)
	for _, text := range []string{"", "a,b\n1,2\n", "what,file,sheet,column,name,group,measure,value\nshort\n",
		"what,file,sheet,column,name,group,measure,value\nwhatever,,,,,,,\n"} {
		_, err := Read(strings.NewReader(text))
		require.Error(t, err, text)
	}
}

func FuzzRead(f *testing.F) {
	f.Add("what,file,sheet,column,name,group,measure,value\nby,,,region,,,,\ngroup,,,,,a,b,1\n")
	f.Fuzz(func(t *testing.T, text string) {
		s, err := Read(strings.NewReader(text))
		if err != nil {
			return
		}
		ids := map[Line]bool{}
		for i := range s.Lines {
			if ids[s.Lines[i].id()] {
				return // no build writes what is of one thing twice
			}
			ids[s.Lines[i].id()] = true
		}
		again, err := Read(strings.NewReader(written(s)))
		require.NoError(t, err)
		require.Equal(t, s.By, again.By)
		require.Empty(t, Compare(s, again))
	})
}

// A state is as in a file only where each byte is.
func TestIsAsIn(t *testing.T) {
	s := &State{By: []string{"month"}, Names: []Named{{Column: "product", Name: "Dock Line", Cells: 3}},
		Lines: []Line{{What: Rows, File: "a.csv", Value: "3"}}}
	var b bytes.Buffer
	require.NoError(t, s.Write(&b))
	text := b.String()
	require.True(t, s.IsAsIn(strings.NewReader(text)))
	for i := range text {
		require.False(t, s.IsAsIn(strings.NewReader(text[:i])), i)
		require.False(t, s.IsAsIn(strings.NewReader(text[:i]+"~"+text[i+1:])), i)
	}
	require.False(t, s.IsAsIn(strings.NewReader(text+"\n")))
}

// Texts are compared where both builds knew them, and spans as they are written; both come back as they were.
func TestValues(t *testing.T) {
	last := &State{Values: []Valued{{"branch", []string{"Pier", "Quay, \"old\""}}, {"note", []string{"x"}}},
		Lines: []Line{{What: Span, Column: "day", Value: "2024-01-01/2024-01-31"}}}
	now := &State{Values: []Valued{{"branch", []string{"Mole", "Pier"}}, {"product", []string{"Oar"}}},
		Lines: []Line{{What: Span, Column: "day", Value: "2024-01-01/2024-02-29"}, {What: Span, Column: "year", Value: "2024/2024"}}}
	back, err := Read(strings.NewReader(written(last)))
	require.NoError(t, err)
	require.Equal(t, last, back)
	require.Equal(t, []Change{{What: Value, Column: "branch", Name: "Mole", Now: "Mole"},
		{What: Value, Column: "branch", Name: `Quay, "old"`, Before: `Quay, "old"`},
		{What: Span, Column: "day", Before: "2024-01-01/2024-01-31", Now: "2024-01-01/2024-02-29"},
		{What: Span, Column: "year", Now: "2024/2024"}}, Compare(last, now))

	now = &State{Says: []Said{{"money EUR", "a.csv", "", "in EUR"}}}
	require.Empty(t, Compare(&State{}, now), "an older program did not look")
	require.Equal(t, []Change{{What: Says, File: "a.csv", Name: "money EUR", Now: "in EUR"}}, Compare(&State{Values: last.Values}, now))
}

// Names are compared whatever their order: those that stay where they are cost nothing.
func TestNamesInAnyOrder(t *testing.T) {
	named := func(list string) *State {
		s := &State{}
		for _, n := range strings.Fields(list) {
			s.Names = append(s.Names, Named{Column: "product", Name: n, Cells: 1})
		}
		return s
	}
	for _, test := range []struct{ last, now, want string }{
		{"a b c", "a b c", ""}, {"a b c", "c b a", ""}, {"a b c", "a x b c", "+x"}, {"a b c", "a c", "-b"}, {"", "a", "+a"}, {"a", "", "-a"},
		{"a b c d", "a c b e", "+e -d"}, {"a b", "A B", ""}, {"a b c", "b c", "-a"},
	} {
		var got []string
		for _, c := range Compare(named(test.last), named(test.now)) {
			got = append(got, map[bool]string{true: "+", false: "-"}[c.Before == ""]+c.Name)
		}
		require.Equal(t, test.want, strings.Join(got, " "), "%q and then %q", test.last, test.now)
	}
}
