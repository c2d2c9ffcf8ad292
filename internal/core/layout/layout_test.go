package layout

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
)

// rowsOf makes raw rows of lines with cells parted by |.
func rowsOf(lines ...string) *table.Rows {
	r := &table.Rows{}
	for i, line := range lines {
		r.Starts = append(r.Starts, uint32(len(r.Cells)))
		r.Lines = append(r.Lines, i+1)
		for _, cell := range strings.Split(line, "|") {
			begin := uint32(len(r.Data))
			r.Data = append(r.Data, cell...)
			r.Cells = append(r.Cells, table.Cell{Off: begin, End: uint32(len(r.Data))})
		}
	}
	r.Starts = append(r.Starts, uint32(len(r.Cells)))
	r.Data = append(r.Data, make([]byte, table.BlockSlack)...)
	return r
}

func planOf(t *testing.T, entry, fact string) *plan.Plan {
	p, err := plan.Read("umbau.yaml", []byte("umbau: 1\nextracts: [{ files: a.csv, "+entry+" }]\nfact: { "+fact+" }\ndeliver: [{ to: out.csv }]\n"))
	require.NoError(t, err)
	return p
}

const wide = `unpivot: { header: "{product}", cell: amount }`

func lineUp(t *testing.T, entry, fact, header string, fields map[string]string) (*Lineup, place.List) {
	p := planOf(t, entry, fact)
	return LineUp(p, p.Entries[0], ReadHeader(rowsOf(header), 0, 0), fields, place.Place{File: "a.csv"})
}

func TestFind(t *testing.T) {
	for _, test := range []struct {
		name, entry string
		lines       []string
		want        int
		sure        bool
	}{
		{"first filled", wide, []string{"", " | ", "Month|Buoy", "1|2"}, 2, true},
		{"under titles", wide, []string{"Sales of all coasts|", "Month: March|2024", "", "Buoy|MONTH.", "1|2"}, 3, true},
		{"nothing claimed: two filled cells", wide, []string{"Sales||", "|Zeitraum|Buoy", "1|2|3"}, 1, false},
		{"one column only", wide, []string{"Buoy", "1"}, 0, false},
		{"most headers", wide + ", headers: { month: Period }", []string{"Period", "a|b", "Period|Buoy", "Month|Period"}, 0, true},
		{"a number", wide + ", header: 3", []string{"Month|Buoy", "1|2", "Month|Oar", "1|2"}, 2, true},
		{"a number too far", wide + ", header: 9", []string{"Month|Buoy", "1|2"}, -1, false},
		{"nothing", wide, []string{"", " | "}, -1, false},
	} {
		t.Run(test.name, func(t *testing.T) {
			p := planOf(t, test.entry, "month: month, product: name, amount: number")
			at, sure := NewFinder(p, p.Entries[0]).Find(rowsOf(test.lines...))
			require.Equal(t, test.want, at)
			require.Equal(t, test.sure, sure)
		})
	}
}

func TestTitles(t *testing.T) {
	rows := rowsOf("Coast:|Lakes|", "|Year 2024|", "printed|2024-05-01|", "Month|Buoy")
	for _, test := range []struct{ titles, problem, want string }{
		{`"Coast: {coast}"`, "", "Lakes"},
		{`"Year {year}"`, "", "2024"},
		{`["Year {year}", "Coast: {coast}"]`, "", "Lakes 2024"},
		{`"Land: {coast}"`, "no line above", ""},
		{`"* {coast}"`, "different things", ""},
	} {
		p := planOf(t, wide+", titles: "+test.titles, "coast: text, year: year, month: month, product: name, amount: number")
		fields, problems := Titles(p.Entries[0], rows, 3, place.Place{File: "a.csv"})
		if test.problem != "" {
			require.Len(t, problems, 1, test.titles)
			require.Contains(t, problems[0].Message, test.problem)
			continue
		}
		require.Empty(t, problems)
		require.Equal(t, test.want, strings.TrimSpace(fields["coast"]+" "+fields["year"]))
	}
}

func TestCropAndPad(t *testing.T) {
	rows := rowsOf("a|b|c|d", "1|2|3|4", "", "5|6", "7|8|9|10")
	Crop(rows, &plan.Area{FirstColumn: 1, LastColumn: 2, FirstRow: 2, LastRow: 4})
	Pad(rows, 2)
	require.Equal(t, []int{2, 3, 4}, rows.Lines)
	var texts []string
	for i := range rows.Len() {
		for _, c := range rows.Row(i) {
			texts = append(texts, string(rows.Text(c)))
		}
		texts = append(texts, "/")
	}
	require.Equal(t, []string{"2", "3", "/", "/", "6", "", "/"}, texts)
}

// Rows with a single filled cell are sections, footnotes or rows like others, or
// wait for what comes.
func TestSingleCells(t *testing.T) {
	lines := []string{"Month|Buoy|Oar", "Ropes||", "1|5|", "Paints||", "2|x|", "3||7", "Printed in May||", "||", "Source: ledger||"}
	for _, test := range []struct {
		name, entry string
		last        bool
		used        []int32
		out         []LeftOut
		headings    []Heading
		tail        int
	}{
		{"footnotes", wide, true, []int32{1, 2, 3, 4, 5}, []LeftOut{{6, Footnote}, {7, BlankRow}, {8, Footnote}}, nil, 9},
		{"kept", wide + ", footnotes: keep", true, []int32{1, 2, 3, 4, 5, 6, 8}, []LeftOut{{7, BlankRow}}, nil, 9},
		{"sections", wide + ", sections: family", true, []int32{2, 4, 5}, []LeftOut{{1, SectionRow}, {3, SectionRow}, {6, Footnote}, {7, BlankRow}, {8, Footnote}},
			[]Heading{{0, "Ropes"}, {1, "Paints"}}, 9},
		{"more to come", wide, false, []int32{1, 2, 3, 4, 5}, nil, nil, 6},
	} {
		t.Run(test.name, func(t *testing.T) {
			l, problems := lineUp(t, test.entry, "family: text, month: { is: text, headers: [Month] }, product: name, amount: number", lines[0], nil)
			if test.entry != wide+", sections: family" {
				problems = nil // family has no header here
			}
			require.Empty(t, problems)
			var out Sorted
			require.Empty(t, (&Sorter{}).Sort(l, rowsOf(lines...), 1, test.last, &out))
			require.Equal(t, test.used, out.Used)
			require.ElementsMatch(t, test.out, out.Out)
			require.ElementsMatch(t, test.headings, out.Headings)
			require.Equal(t, test.tail, out.Tail)
		})
	}
}

func TestLineUp(t *testing.T) {
	l, problems := lineUp(t, wide+", headers: { month: Period }", "region: text, month: month, branch: { headers: [Outlet] }, product: name, amount: number",
		" Buoy.|OUTLET|PERIOD|Dock  Line|", map[string]string{"region": "Lakes"})
	require.Empty(t, problems)
	require.Equal(t, []Source{{From: Constant, Text: "Lakes"}, {From: Label, Index: 2}, {From: Label, Index: 1}, {From: Piece}, {From: WideCell}}, l.Sources)
	require.Len(t, l.Slots, 2)
	require.Equal(t, []int{0}, l.Slots[0].Cells)
	require.Equal(t, "Dock  Line", l.Slots[1].Header)
}

func TestLineUpStops(t *testing.T) {
	for _, test := range []struct {
		name, entry, fact, header string
		fields                    map[string]string
		what, message, add        string
	}{
		{"header twice", wide, "product: name, amount: number", "Buoy|Oar|buoy.", nil, "header twice", "columns A and C", ""},
		{"two headers for one column", wide, "month: { headers: [Period] }, product: name, amount: number", "Month|Period|Oar", nil, "two headers for one column", `"Month" and "Period"`, ""},
		{"missing", wide, "month: month, product: name, amount: number", "Months|Oar", nil, "missing header", "no header for column month", "headers: [Months]"},
		{"missing, nothing near", wide, "month: month, product: name, amount: number", "Zeitraum|Oar", nil, "missing header", "no header for column month", "absent: leave"},
		{"unexpected", "others: stop", "month: month, amount: number", "Month|Amount|Note", nil, "unexpected header", "", "others: drop"},
		{"two places", `path: "{region}", ` + wide, "region: text, product: name, amount: number", "Region|Oar", map[string]string{"region": "Lakes"}, "value from two places", "region", ""},
		{"does not fit", `unpivot: { header: "{product} ({unit})", cell: amount }`, "product: name, unit: text, amount: number", "Oar (pc)|Buoy", nil, "header does not fit", "", ""},
		{"number beside wide columns", wide, "price: number, product: name, amount: number", "Price|Oar", nil, "number beside wide columns", "price", "add: no"},
	} {
		t.Run(test.name, func(t *testing.T) {
			_, problems := lineUp(t, test.entry, test.fact, test.header, test.fields)
			require.NotEmpty(t, problems)
			require.Equal(t, test.what, problems[0].What)
			require.Contains(t, problems[0].Message, test.message)
			require.Equal(t, test.add, problems[0].Add)
			require.True(t, problems[0].Rule)
			require.Equal(t, "a.csv", problems[0].Places[0].File)
			require.False(t, problems[0].Plan.IsZero())
		})
	}
}

func TestLineUpAllowed(t *testing.T) {
	l, problems := lineUp(t, "others: drop, absent: leave", "month: month, amount: number", "Amount|Note", nil)
	require.Empty(t, problems)
	require.Equal(t, []Source{{From: Absent}, {From: Label, Index: 0}}, l.Sources)
}

func TestSort(t *testing.T) {
	l, problems := lineUp(t, wide, "month: month, product: name, amount: number", "Month|Buoy||Oar", nil)
	require.Empty(t, problems)
	rows := rowsOf("Month|Buoy||Oar", "1|2||3", "| ||", "", "month|BUOY.||oar|", "Month|5||6", "1|2", "1|2|x|3", "1|2||3|x", "1|2||3| ")
	var s Sorter
	var out Sorted
	stray := s.Sort(l, rows, 1, true, &out)
	require.Equal(t, []int32{1, 5, 9}, out.Used)
	require.Equal(t, []LeftOut{{2, BlankRow}, {3, BlankRow}, {4, RepeatedHeader}}, out.Out)
	require.Len(t, stray, 2)
	require.Equal(t, "short row", stray[0].What)
	require.Equal(t, "a.csv, row 7", stray[0].Places[0].String())
	require.Equal(t, 2, stray[1].Count)
	require.Equal(t, `a.csv, row 8, header "column C"`, stray[1].Places[0].String())
	require.Equal(t, `a.csv, row 9, header "column E"`, stray[1].Places[1].String())
}

// Only rows that remain can be too short.
func TestShortTotal(t *testing.T) {
	l, problems := lineUp(t, wide, "month: month, product: name, amount: number", "Month|Buoy|Oar", nil)
	require.Empty(t, problems)
	var out Sorted
	short := (&Sorter{}).Sort(l, rowsOf("Month|Buoy|Oar", "1|2|3", "Total|2", "Holm total|2", "Holm|2"), 1, true, &out)
	require.Equal(t, []LeftOut{{2, TotalRow}, {3, TotalRow}}, out.Out)
	require.Equal(t, []int32{2, 3}, out.Totals)
	require.Len(t, short, 1)
	require.Equal(t, "a.csv, row 5", short[0].Places[0].String())
}

func TestLetter(t *testing.T) {
	for i, want := range map[int]string{0: "A", 25: "Z", 26: "AA", 701: "ZZ", 702: "AAA"} {
		require.Equal(t, want, Letter(i))
	}
}
