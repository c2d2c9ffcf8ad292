package survey

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/value"
)

func cents(list ...int64) (out []value.Decimal) {
	for _, n := range list {
		out = append(out, value.NewDecimal(n, 2))
	}
	return out
}

// Rows that end groups with their sums are found where all rows stand in such groups.
func TestGroupsThatEndWithSums(t *testing.T) {
	for _, test := range []struct {
		figures    []int64
		bare, want []int // rows with fewer labels, and those found
	}{
		{[]int64{1050, 2345, 3395}, []int{3}, []int{3}},
		{[]int64{1050, 2345, 3395}, []int{2, 3}, []int{3}},
		{[]int64{1050, 2345, 3395}, nil, nil},
		{[]int64{1050, 2345, 3395, 690, 710, 1400}, nil, []int{3, 6}},
		{[]int64{1050, 2345, 3395, 690, 710, 1400, 4795}, nil, []int{3, 6, 7}},
		{[]int64{1050, 0, 2345, 3395, 0}, []int{4}, []int{4}},
		{[]int64{1050, 2345, 3395, 690}, []int{3}, nil}, // the last row is none
		{[]int64{1050, 1050}, []int{2}, nil},            // of one row
		{[]int64{1, 1, 2}, []int{3}, nil},               // by chance
		{[]int64{12, 7, 19}, []int{3}, []int{3}},
		{[]int64{12, 7, 5, 6, 30}, nil, nil},
		{[]int64{1050, 2345, 3396}, []int{3}, nil},
	} {
		var g groups
		sums := make([]value.Sum, 1)
		for i, n := range test.figures {
			labels := texts(fmt.Sprint("row ", i), "Buoy")
			if slices.Contains(test.bare, i+1) {
				labels = labels[:1]
			}
			g.row(cents(n), sums, labels, i+1)
			sums[0].Add(cents(n)[0])
		}
		var have []int
		for _, r := range g.ends() {
			have = append(have, r.Row)
		}
		require.Equal(t, test.want, have, "%v", test.figures)
	}
	for last, want := range map[string]int{"Whole coast": 1, " HOLM": 0} { // which stands above, too
		var g groups
		sums := make([]value.Sum, 1)
		for i, n := range []int64{3395, 1400, 4795} {
			g.row(cents(n), sums, texts([]string{"Holm", "Saltby", last}[i]), i+1)
			sums[0].Add(cents(n)[0])
		}
		require.Len(t, g.ends(), want, last)
	}
}

// Rows that have the sums of those of one label above them, and fewer labels, are found wherever they stand.
func TestRunsOfOneLabel(t *testing.T) {
	type row struct {
		label  string
		labels int
		cents  int64
	}
	for _, test := range []struct {
		rows []row
		want []int
	}{
		{[]row{{"Pier", 2, 835}, {"Holm", 2, 120}, {"Holm", 2, 95}, {"Holm", 1, 215}, {"Quay", 2, 7}}, []int{4}},
		{[]row{{"Holm", 2, 120}, {"Holm", 2, 95}, {"Holm", 1, 215}, {"Holm", 2, 10}, {"Holm", 2, 11}, {"Holm", 1, 21}}, []int{3, 6}},
		{[]row{{"Holm", 2, 120}, {"Holm", 2, 95}, {"Holm", 2, 215}}, nil},
		{[]row{{"Holm", 2, 120}, {"Holm", 2, 95}, {"Holm", 1, 216}}, nil},
		{[]row{{"Holm", 2, 120}, {"Holm", 1, 120}}, nil},
		{[]row{{"Holm", 2, 120}, {"Pier", 2, 95}, {"Pier", 1, 215}}, nil},
	} {
		var r runs
		sums := make([]value.Sum, 1)
		for i, row := range test.rows {
			r.row(cents(row.cents), sums, texts([]string{row.label, "Oar"}[:row.labels]...), i+1)
			sums[0].Add(cents(row.cents)[0])
		}
		var have []int
		for _, f := range r.found {
			have = append(have, f.Row)
		}
		require.Equal(t, test.want, have, "%v", test.rows)
	}
}

// texts are the cells of a row.
func texts(list ...string) (out [][]byte) {
	for _, t := range list {
		out = append(out, []byte(t))
	}
	return out
}
