package survey

import (
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
)

// Values are counted exactly up to the most, by the groups that are meant, in any order.
func TestCounter(t *testing.T) {
	in := func(groups ...int) func(int) bool {
		return func(g int) bool {
			for _, of := range groups {
				if of == g {
					return true
				}
			}
			return false
		}
	}
	c := newCounter(1)
	for i := range 60_000 {
		c.add(table.Hash([]byte(strconv.Itoa(i%20_000))), i/20_000) // each in three groups
	}
	for i := range 9_000 {
		c.add(table.Hash([]byte("word"+strconv.Itoa(i))), 3+i%20)
	}
	for _, want := range []struct {
		n      int
		groups []int
	}{{20_000, []int{0}}, {20_000, []int{0, 1, 2}}, {450, []int{4}}, {20_450, []int{2, 5}}, {0, nil}} {
		n, exact := c.count(23, in(want.groups...))
		require.True(t, exact)
		require.Equal(t, want.n, n, want.groups)
	}
	for i := range 3_769 { // one more than it counts exactly
		c.add(table.Hash([]byte("more"+strconv.Itoa(i))), 0)
	}
	n, exact := c.count(23, in(0))
	require.False(t, exact)
	require.InEpsilon(t, 32_769, n, 0.03)
}

// However many values there are, their estimate is as good.
func TestSketch(t *testing.T) {
	for _, most := range []int{5_000, 20_000, 40_000, 45_000, 300_000} {
		off := 0.0
		for round := range 10 {
			c := newCounter(1000)
			for i := range most {
				hash, _ := hashOfNumber(int64(i+round*10_000_000), 0)
				c.add(hash, 0)
			}
			n, _ := c.count(1, func(int) bool { return true })
			require.InEpsilon(t, most, n, 0.03)
			off += float64(n)/float64(most) - 1
		}
		require.InDelta(t, 0, off/10, 0.008, most)
	}
}
