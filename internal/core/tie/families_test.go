package tie_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// cents are amounts.
func cents(of ...int64) (out []value.Decimal) {
	for _, n := range of {
		out = append(out, value.NewDecimal(n, 2))
	}
	return out
}

// Wide columns that are the sums of some beside them are found wherever these stand, and others are not.
func TestFamilies(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 2))
	found := func(rows int, most int64, of func(n []int64) []int64) []int {
		var f tie.Families
		for range rows {
			n := make([]int64, 6)
			for i := range n {
				n[i] = 1 + r.Int64N(most)
			}
			f.Row(cents(of(n)...))
		}
		return f.Sums(func(int) bool { return false })
	}
	const large = 1_000_000
	behind := func(n []int64) []int64 { return []int64{n[0], n[1], n[0] + n[1], n[2], n[3], n[4], n[2] + n[3] + n[4]} }
	ahead := func(n []int64) []int64 { return []int64{n[0] + n[1], n[0], n[1], n[5], n[2]} }
	require.Equal(t, []int{2, 6}, found(5, large, behind))
	require.Equal(t, []int{0}, found(5, large, ahead))
	require.Empty(t, found(2, large, behind))
	no := func(int) bool { return false }
	var one, two tie.Families
	for _, n := range [][6]int64{{1000, 300, 1300, 1000, 1095, 2095}, {100, 200, 300, 500, 600, 1100}, {150, 250, 400, 1000, 1100, 2100}} {
		one.Row(cents(n[:4]...))
		two.Row(cents(n[:]...))
	}
	require.Empty(t, one.Sums(no), "four digits may be a chance")
	require.Equal(t, []int{2, 5}, two.Sums(no), "but not beside others")
	require.Equal(t, []int{2}, one.Sums(func(n int) bool { return n == 2 }), "nor where it is called a sum")
	for range 300 {
		require.Empty(t, found(4, 5, func(n []int64) []int64 { return n }), "small figures agree by chance")
	}
	require.Empty(t, found(9, large, func(n []int64) []int64 { return []int64{n[0], 0, n[0], n[1]} }), "the same as one other")
}
