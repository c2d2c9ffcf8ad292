package lookup_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/lookup"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// line is a line of a reference: a branch, a product, and what is taken.
type line struct {
	branch, product, taken string
	stored                 bool
}

var textKinds = []plan.Kind{plan.Name, plan.Text}

// tableOf is a reference of these lines, in rows from 2 on.
func tableOf(lines ...line) *lookup.Table {
	t := lookup.NewTable(&plan.Reference{Name: "costs", Entry: &plan.Entry{Reading: value.Default}}, nil, 1)
	for i, l := range lines {
		k, label := lookup.KeyOf(textKinds, []string{l.branch, l.product})
		t.Add(place.Place{File: "costs.csv", Row: i + 2}, []byte(k), []byte(label), []lookup.Raw{{Text: []byte(l.taken), Stored: l.stored}})
	}
	return t
}

// columnOf takes a column of a kind from these lines.
func columnOf(kind plan.Kind, repeats plan.Remedy, lines ...line) (*lookup.Column, place.List) {
	spec := &plan.Column{Name: "cost", Kind: kind, Lookup: &plan.Lookup{Repeats: repeats}}
	spec.Gaps[value.Blank].Remedy = plan.Leave
	spec.Gaps[value.Null] = plan.Rule{Remedy: plan.Put, Number: value.NewDecimal(5, 0)}
	return lookup.NewColumn(tableOf(lines...), spec, 0, "Cost")
}

func TestKeys(t *testing.T) {
	same := func(kinds []plan.Kind, a, b []string) bool {
		x, _ := lookup.KeyOf(kinds, a)
		y, _ := lookup.KeyOf(kinds, b)
		return x == y
	}
	require.True(t, same(textKinds, []string{"Dock-Line", "HOLM"}, []string{"dock line", "Holm "}))
	require.False(t, same(textKinds, []string{"Dock", "Line Holm"}, []string{"Dock Line", "Holm"}), "what stands on either side of a seam")
	numbers := []plan.Kind{plan.Number}
	require.True(t, same(numbers, []string{"1.50"}, []string{"1.5"}))
	require.True(t, same(numbers, []string{"100"}, []string{"100.00"}))
	require.False(t, same(numbers, []string{"1.5"}, []string{"-1.5"}))
	require.False(t, same(numbers, []string{"1.5"}, []string{"15"}))
	require.False(t, same(numbers, []string{"100"}, []string{"1"}))
	k, label := lookup.KeyOf(textKinds, []string{"Holm", ""})
	require.Equal(t, "", k, "a key with an empty piece finds nothing")
	require.Equal(t, "Holm | ", label)
}

func TestTable(t *testing.T) {
	lines := []line{{"Holm", "Oar", "1", false}, {"", "Oar", "2", false}, {"HOLM", "oar.", "3", true},
		{"Lowe", "Oar", "", false}, {"", "oar", "5", false}}
	table := tableOf(lines...)
	require.Equal(t, 5, table.Len())
	require.Equal(t, []bool{false, false, true, false, false}, table.Repeats(), "lines without a key repeat none")
	for i, l := range lines {
		require.Equal(t, l.branch+" | "+l.product, table.Label(i))
		require.Equal(t, lookup.Cell{Text: l.taken, Stored: l.stored}, table.Cell(i, 0))
		require.Equal(t, i+2, table.Place(i).Row)
	}
	require.Equal(t, []int32{0, 2}, table.LinesOfKey(2))
	require.Empty(t, table.LinesOfKey(1))
	require.Empty(t, table.Lines(""))
	require.Len(t, table.Distinct(0), 5)
}

// A key that stands several times: a stop with both places, the first line, or the sum of
// what each line is read as.
func TestRepeats(t *testing.T) {
	k, _ := lookup.KeyOf(textKinds, []string{"holm", "OAR"})
	for _, c := range []struct {
		name    string
		kind    plan.Kind
		repeats plan.Remedy
		taken   []string
		want    string // a number, a text, a gap in a row, or the stop's text
	}{
		{"stop", plan.Number, plan.Silent, []string{"1", "2"}, `Holm | Oar, first costs.csv, row 2: "1", here "2"`},
		{"stop, the same twice", plan.Text, plan.Stop, []string{"x", "x"}, `Holm | Oar, first costs.csv, row 2: the same value`},
		{"the first", plan.Number, plan.First, []string{"1", "x"}, "1"},
		{"a sum, exact", plan.Number, plan.Sum, []string{"0.1", "0.2", "1,000"}, "1000.3"},
		{"a sum with a blank that is left", plan.Number, plan.Sum, []string{"", "4"}, "4"},
		{"a sum of blanks that are left", plan.Number, plan.Sum, []string{"", ""}, "blank, row 2"},
		{"a sum with a null that has a value", plan.Number, plan.Sum, []string{"n/a", "4", "n/a"}, "14"},
		{"a sum with a word", plan.Number, plan.Sum, []string{"1", "closed", "4"}, "text, row 3"},
		{"a sum of whole numbers", plan.Whole, plan.Sum, []string{"0.5", "0.5"}, "unclear, row 2"},
		{"a sum in two currencies", plan.Number, plan.Sum, []string{"€ 1", "$ 1"}, "unclear, row 3"},
		{"texts that agree", plan.Text, plan.Sum, []string{"East", "EAST"}, "East"},
		{"texts that do not", plan.Text, plan.Sum, []string{"East", "West"}, `Holm | Oar, first costs.csv, row 2: "East" and "West"`},
	} {
		t.Run(c.name, func(t *testing.T) {
			var lines []line
			for _, text := range c.taken {
				lines = append(lines, line{"Holm", "Oar", text, false})
			}
			column, problems := columnOf(c.kind, c.repeats, lines...)
			if len(problems) > 0 {
				require.Equal(t, []string{c.want}, problems[0].Texts)
				require.Equal(t, 3, problems[0].Places[0].Row)
				return
			}
			found := column.Find(k)
			have := found.Text
			if c.kind.Numeric() {
				d, gap := column.Found(found)
				if have = d.String(); gap != value.NoGap {
					have = fmt.Sprintf("%v, row %d", gap, column.Table.Place(int(found.At)).Row)
				}
			}
			require.Equal(t, c.want, have)
			require.Nil(t, column.Find("nobody"))
		})
	}
}
