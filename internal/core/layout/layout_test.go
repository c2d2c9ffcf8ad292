package layout

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/format"
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
	r.End()
	return r
}

func planOf(t *testing.T, entry, fact string) *plan.Plan {
	p, err := plan.Read("umbau.yaml", []byte("umbau: 1\nextracts: [{ files: a.csv, "+entry+" }]\nfact: { "+fact+
		" }\ndeliver: [{ to: out.csv }]\n"), format.All())
	require.NoError(t, err)
	return p
}

const wide = `unpivot: { header: "{product}", cell: amount }`

func lineUp(t *testing.T, entry, fact, header string, fields map[string]string) (*Lineup, place.List) {
	p := planOf(t, entry, fact)
	return LineUp(p, p.Entries[0], ReadHeader(rowsOf(header), 0, 0), fields, func(int) bool { return false }, place.Place{File: "a.csv"})
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
		{"figures called as columns are", "set: { month: 2024-01, product: Buoy }, widen: { header: Figure, cell: Value }",
			[]string{"Sales", "Shop|Figure|Value", "Quay|Amount|1", "Quay|Month|2"}, 1, false},
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
		{"sections", wide + ", sections: family", true, []int32{2, 4, 5},
			[]LeftOut{{1, SectionRow}, {3, SectionRow}, {6, Footnote}, {7, BlankRow}, {8, Footnote}},
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
	l, problems := lineUp(t, wide+", headers: { month: Period }",
		"region: text, month: month, branch: { headers: [Outlet] }, product: name, amount: number",
		" Buoy.|OUTLET|PERIOD|Dock  Line|", map[string]string{"region": "Lakes"})
	require.Empty(t, problems)
	require.Equal(t, []Source{{From: Constant, Text: "Lakes"}, {From: Label, Index: 2}, {From: Label, Index: 1}, {From: Piece},
		{From: WideCell}}, l.Sources)
	require.Len(t, l.Slots, 2)
	require.Equal(t, []int{0}, l.Slots[0].Cells)
	require.Equal(t, "Dock  Line", l.Slots[1].Header)
}

// A header that stands several times is no question where all of them are left aside; a header with signs of patterns is left aside as
// it is written.
func TestLineUpLeavesAside(t *testing.T) {
	for _, others := range []string{`["%", "Avg [EUR]"]`, `["%", "Avg \\[EUR\\]"]`, `["%", "Avg *"]`} {
		l, problems := lineUp(t, strings.ReplaceAll(wide, "others: stop", "")+", others: "+others, "product: name, amount: number",
			"Buoy|%|Oar|%|Avg [EUR]", nil)
		require.Empty(t, problems, others)
		require.Len(t, l.Slots, 2)
		require.Equal(t, []int{1, 3, 4}, l.Dropped)
	}
	_, problems := lineUp(t, wide+`, others: [Buoy]`, "buoy: text, product: name, amount: number", "Buoy|Oar|Buoy", nil)
	require.Equal(t, "header twice", problems[0].What, "a column claims it")
	_, problems = lineUp(t, wide, "product: name, amount: number", "Buoy|%|Oar|%", nil)
	require.Contains(t, problems[0].Advice, `others: ["%"]`)
}

func TestLineUpStops(t *testing.T) {
	for _, test := range []struct {
		name, entry, fact, header string
		fields                    map[string]string
		what, message, add        string
	}{
		{"header twice", wide, "product: name, amount: number", "Buoy|Oar|buoy.", nil, "header twice", "columns A and C", ""},
		{"two headers for one column", wide, "month: { headers: [Period] }, product: name, amount: number", "Month|Period|Oar", nil,
			"two headers for one column", `"Month" and "Period"`, ""},
		{"missing", wide, "month: month, product: name, amount: number", "Months|Oar", nil, "missing header", "no header for column month",
			"headers: [Months]"},
		{"missing, nothing near", wide, "month: month, product: name, amount: number", "Zeitraum|Oar", nil, "missing header",
			"no header for column month", "absent: leave"},
		{"unexpected", "others: stop", "month: month, amount: number", "Month|Amount|Note", nil, "unexpected header", "", "others: drop"},
		{"two places", `path: "{region}", ` + wide, "region: text, product: name, amount: number", "Region|Oar",
			map[string]string{"region": "Lakes"}, "value from two places", "region", ""},
		{"does not fit", `unpivot: { header: "{product} ({unit})", cell: amount }`, "product: name, unit: text, amount: number",
			"Oar (pc)|Buoy", nil, "header does not fit", "", ""},
		{"an example that needs quotes", "headers: { month: [M] }", "month: month, amount: number", "Month, or period|Amount", nil,
			"unexpected header", "", "others: drop"},
		{"an entry of unpivot.columns", `unpivot: { columns: [Buoy, "Sail *"], header: "{product}", cell: amount }`,
			"product: name, amount: number", "Buoy", nil, "missing header", `"Sail *"`, "absent: leave"},
		{"no wide column at all", wide, "month: month, product: name, amount: number", "Month", nil, "missing header", "no wide column", ""},
		{"a column that is made", "others: drop", "amount: number, double: =amount * 2", "Amount|Double", nil, "value from two places",
			"which makes it", ""},
		{"a piece of the wide headers", wide, "product: name, amount: number", "Product|Buoy", nil, "value from two places", "the wide headers",
			""},
		{"two cells for one", `unpivot: { header: "{what} {product}", cell: "{what}" }, headers: { amount: [Value] }`,
			"product: name, amount: number, quantity: whole", "Value Buoy|Quantity Buoy|Amount buoy", nil, "header twice",
			`"Value Buoy" and "Amount buoy"`, ""},
		{"a header that names no column", `unpivot: { header: "{what} {product}", cell: "{what}" }`, "product: name, amount: number",
			"Amount Buoy|Weight Buoy", nil, "header does not fit", `names no column by the pattern "{what}"`, ""},
		{"widen", "widen: { header: Figure, cell: Value }", "branch: text, amount: number", "Branch|Figure|Sum", nil, "missing header",
			`no header "Value"`, ""},
		{"number beside wide columns", wide, "price: number, product: name, amount: number", "Price|Oar", nil, "number beside wide columns",
			"price", "add: no"},
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

// The advice for a header that needs quotes can be pasted as it stands.
func TestAdviceIsYAML(t *testing.T) {
	_, problems := lineUp(t, "", "month: month, amount: number", "Month: {or} period|Amount", nil)
	require.Len(t, problems, 2)
	require.Contains(t, problems[0].Advice, `headers: ["Month: {or} period"]`)
	p := planOf(t, "", `month: { is: month, headers: ["Month: {or} period"] }, amount: number`)
	require.Equal(t, []string{"Month: {or} period"}, p.Columns[0].Headers)
}

// Columns without a header are called by their letter.
func TestLetters(t *testing.T) {
	l, problems := lineUp(t, "", "branch: { headers: [A] }, b: text, amount: number", "|B||Amount|", nil)
	require.Empty(t, problems)
	require.Equal(t, []Source{{From: Label, Index: 0}, {From: Label, Index: 1}, {From: Label, Index: 3}}, l.Sources)
	require.Equal(t, []int{2}, l.blank, "whose cells must be blank")

	p := planOf(t, "header: none", "branch: { headers: [A] }, amount: { is: number, headers: [C] }, note: { headers: [B] }")
	l, problems = LineUp(p, p.Entries[0], Lettered(3, 0), nil, func(int) bool { return false }, place.Place{File: "a.csv"})
	require.Empty(t, problems)
	require.Equal(t, []Source{{From: Label, Index: 0}, {From: Label, Index: 2}, {From: Label, Index: 1}}, l.Sources)
	require.Equal(t, "C", l.Header.Letter(2))
	h := Lettered(3, 2)
	require.Equal(t, "E", h.Letter(2), "in an area, that of the sheet")
}

// Several wide headers of one fact row, and the figures of total columns.
func TestPairs(t *testing.T) {
	entry := `unpivot: { columns: ["Qty *", "Value *"], header: "{what} {product}", cell: "{what}" }, headers: { quantity: [Qty], ` +
		`amount: [Value] }, others: drop`
	l, problems := lineUp(t, entry, "month: month, product: name, quantity: whole, amount: number",
		"Month|Qty Buoy|Note|Value Oar|Value Buoy|Qty Total", nil)
	require.Empty(t, problems)
	require.Equal(t, [][]int{{1, 4}, {-1, 3}}, [][]int{l.Slots[0].Cells, l.Slots[1].Cells})
	require.Equal(t, []int{2}, l.Dropped)
	require.Len(t, l.Totals, 1)
	require.Equal(t, "Qty Total", l.Totals[0].Header)
	require.Equal(t, []bool{false, true, false, true, true, false}, l.measure)
	require.True(t, l.Measures())
	require.False(t, l.Measure(9))
}

// Where rows become one, columns without a header of their own are figures.
func TestWiden(t *testing.T) {
	l, problems := lineUp(t, "widen: { header: Figure, cell: Value }, others: drop", "branch: text, quantity: whole, amount: number",
		"Value|Branch|Figure|Note", nil)
	require.Empty(t, problems)
	require.Equal(t, []Source{{From: Label, Index: 1}, {From: Label, Index: 4}, {From: Label, Index: 5}}, l.Sources)
	require.Equal(t, 2, l.Widen.Header)
	require.Equal(t, 0, l.Widen.Cell)
	require.Equal(t, []string{"quantity", "amount"}, []string{l.Widen.Columns[0].Name, l.Widen.Columns[1].Name})
	require.Equal(t, []bool{true, false, false, false}, l.measure, "their cells hold the measures")
}

// A header that is left aside and nearly that of a column which is empty for it is told, unless the plan names it.
func TestDoubts(t *testing.T) {
	for _, test := range []struct{ entry, header, want string }{
		{"others: drop, absent: leave", "month|Qantity|amount", "Qantity"},
		{"others: drop, absent: { quantity: leave }", "month|amount|Quantities|Note", "Quantities"},
		{"others: drop, absent: leave, headers: { quantity: [Pieces] }", "month|Peices|amount", "Peices"},
		{"others: drop, absent: leave", "month|Note|amount", ""},
		{"others: drop, absent: leave", "month|quantity|Qantity|amount", ""},
		{"others: [Qantity], absent: leave", "month|Qantity|amount", ""},
	} {
		l, problems := lineUp(t, test.entry, "month: text, quantity: whole, amount: number", test.header, nil)
		require.Empty(t, problems, test.header)
		got := ""
		for _, p := range l.Doubts {
			require.Equal(t, "quantity", p.Column)
			got = p.Places[0].Header
		}
		require.Equal(t, test.want, got, test.header)
	}
}

// An extract that may lack wide columns and has none is told: nothing of it is delivered.
func TestNoWideColumn(t *testing.T) {
	for header, want := range map[string]int{"Month": 1, "Month|Buoy": 0} {
		l, problems := lineUp(t, wide+", absent: leave", "month: month, product: name, amount: number", header, nil)
		require.Empty(t, problems)
		require.Len(t, l.Doubts, want)
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
