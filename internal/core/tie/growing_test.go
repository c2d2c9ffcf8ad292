package tie_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Sums of the months so far grow in every row; amounts of single ones, plans that stand still and few rows or months are none.
func TestGrowing(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 1))
	all := func(rows, months int, of func(k, before, own int64) int64) bool {
		var g tie.Growing
		for range rows {
			var figures []value.Decimal
			last := int64(0)
			for k := range months {
				last = of(int64(k), last, 1+r.Int64N(1000))
				figures = append(figures, value.NewDecimal(last, 2))
			}
			g.Row(figures)
		}
		return g.All()
	}
	soFar := func(_, before, own int64) int64 { return before + own }
	require.True(t, all(5, 12, soFar))
	require.True(t, all(8, 5, soFar))
	require.True(t, all(8, 12, func(k, before, own int64) int64 { // from the third month to the ninth
		if k < 2 || k > 8 {
			return 0
		}
		return before + own
	}))
	require.True(t, all(8, 30, func(k, before, own int64) int64 { // from October to March of the year after the next
		if k%12 == 3 {
			return own
		}
		return before + own
	}))
	require.False(t, all(20, 16, func(k, before, own int64) int64 {
		if k%4 == 0 {
			return own
		}
		return before + own
	}), "falls too often")
	require.False(t, all(4, 12, soFar), "too few rows")
	require.False(t, all(20, 4, soFar), "too few months")
	require.False(t, all(20, 12, func(_, _, own int64) int64 { return own }), "single months")
	require.False(t, all(20, 12, func(int64, int64, int64) int64 { return 500 }), "a plan")
	require.False(t, all(20, 12, func(k, before, own int64) int64 { return before + own - k%7/6*1000 }), "one that falls")
	require.False(t, all(20, 12, func(k, before, own int64) int64 { return before + own - 5000 }), "below nothing")
	for range 200 {
		require.False(t, all(5, 5, func(_, _, own int64) int64 { return own }))
	}
}
