package survey

import (
	"fmt"
	"math/rand/v2"
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
	texts := func(list ...string) (out [][]byte) {
		for _, t := range list {
			out = append(out, []byte(t))
		}
		return out
	}
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
			r.row(cents(row.cents), sums, []byte(row.label), row.labels, i+1)
			sums[0].Add(cents(row.cents)[0])
		}
		var have []int
		for _, f := range r.found {
			have = append(have, f.Row)
		}
		require.Equal(t, test.want, have, "%v", test.rows)
	}
}

// Wide columns that are the sums of some beside them are found wherever these stand, and others are not.
func TestFamilies(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 2))
	found := func(rows int, most int64, of func(n []int64) []int64) []int {
		var f families
		for range rows {
			n := make([]int64, 6)
			for i := range n {
				n[i] = 1 + r.Int64N(most)
			}
			f.row(cents(of(n)...))
		}
		return f.sums(func(int) bool { return false })
	}
	const large = 1_000_000
	behind := func(n []int64) []int64 { return []int64{n[0], n[1], n[0] + n[1], n[2], n[3], n[4], n[2] + n[3] + n[4]} }
	ahead := func(n []int64) []int64 { return []int64{n[0] + n[1], n[0], n[1], n[5], n[2]} }
	require.Equal(t, []int{2, 6}, found(5, large, behind))
	require.Equal(t, []int{0}, found(5, large, ahead))
	require.Empty(t, found(2, large, behind))
	no := func(int) bool { return false }
	var one, two families
	for _, n := range [][6]int64{{1000, 300, 1300, 1000, 1095, 2095}, {100, 200, 300, 500, 600, 1100}, {150, 250, 400, 1000, 1100, 2100}} {
		one.row(cents(n[:4]...))
		two.row(cents(n[:]...))
	}
	require.Empty(t, one.sums(no), "four digits may be a chance")
	require.Equal(t, []int{2, 5}, two.sums(no), "but not beside others")
	require.Equal(t, []int{2}, one.sums(func(n int) bool { return n == 2 }), "nor where it is called a sum")
	for range 300 {
		require.Empty(t, found(4, 5, func(n []int64) []int64 { return n }), "small figures agree by chance")
	}
	require.Empty(t, found(9, large, func(n []int64) []int64 { return []int64{n[0], 0, n[0], n[1]} }), "the same as one other")
}
