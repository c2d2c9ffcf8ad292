package tie

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// Groups that begin with their own total are all rows or none; rows that are all alike are none, however many they are.
func TestLeads(t *testing.T) {
	for _, test := range []struct {
		rows   []uint64
		digits int // of each total
		want   int // groups; less than 0 where they are not sure
	}{
		{[]uint64{1200, 500, 700, 1300, 600, 700}, 4, 2},
		{[]uint64{2500, 1200, 500, 700, 1300, 600, 700}, 4, 2}, // below a total of all
		{[]uint64{1200, 500, 700, 1300, 600, 700}, 2, 0},
		{[]uint64{1200, 500, 700, 0, 1300, 600, 700, 0}, 4, 2},
		{[]uint64{1200, 500, 700, 1300, 600, 701}, 4, 0},
		{[]uint64{1200, 500, 700, 1300, 1300, 800, 100, 700}, 4, 3}, // one of a single row
		{[]uint64{1200, 500, 700}, 9, 0},                            // too few
		{[]uint64{1200, 500, 700}, 10, -1},                          // but for such digits
		{[]uint64{1200, 1200}, 24, 0},                               // as one row twice
		{[]uint64{1200, 500, 700, 1300, 1300}, 6, -2},               // as many of a single row
		{[]uint64{1200, 500, 700, 1300, 1300}, 4, 0},
		{[]uint64{1300, 1300, 1200, 500, 700, 900, 900}, 12, 0},          // more of a single row
		{[]uint64{9, 5, 2, 3, 4, 3, 1, 11, 5, 4, 1, 6, 4, 2}, 6, 2},      // of two levels
		{[]uint64{500, 700, 1200, 600, 700, 1300}, 4, 2},                 // that end with their totals
		{[]uint64{500, 700, 1200, 600, 700, 1300, 2500}, 4, 3},           // above a total of all
		{[]uint64{400, 400, 500, 700, 1200, 600, 700, 1300}, 4, 3},       // one of a single row
		{[]uint64{500, 700, 1200, 600, 600, 1200, 700, 600, 1300}, 4, 3}, // two rows alike
		{[]uint64{500, 700, 1200, 600, 700}, 4, 0},
		{[]uint64{500, 700, 1201, 600, 700, 1300}, 4, 0},
		{slices.Repeat([]uint64{2, 1, 1}, 50), 1, 0},
		{slices.Repeat([]uint64{7}, 1000), 6, 0},
	} {
		for _, cut := range []int{1, 2, len(test.rows)} { // blocks of so many rows
			var l Leads
			l.Reset()
			hash := uint64(0)
			for block := range slices.Chunk(test.rows, cut) {
				l.Follow(block, hash, func(int, bool) Head { return Head{Digits: test.digits} })
				for _, own := range block {
					hash += own
				}
			}
			have := 0
			if g := l.Complete(hash); g != nil {
				if have = g.Count; !g.Sure() {
					have = -have
				}
			}
			require.Equal(t, test.want, have, "%v", test.rows[:min(len(test.rows), 9)])
			for _, g := range l {
				require.LessOrEqual(t, len(g.Heads), 2*mostSingle+3, "memory stays flat")
			}
		}
	}
	var l Leads
	l.Reset()
	l.Follow([]uint64{1200, 500, 700, 1300, 600, 700}, 0, func(i int, _ bool) Head { return Head{Digits: 6, None: i == 3} })
	require.Nil(t, l.Complete(5000), "the plan says of one that it is none")
}
