package survey

import (
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"

	"umbau/internal/core/table"
)

// A sample is of rows from all over a table, the same ones every time, and never more than wanted.
func TestSample(t *testing.T) {
	take := func(n int) (out []int) {
		var s sample
		for i := range n {
			text := " " + strconv.Itoa(i)
			rows := &table.Rows{Data: []byte(text), Cells: []table.Cell{{End: uint32(len(text))}}, Starts: []uint32{0, 1}}
			s.take(rows, 0, i, 100)
		}
		for _, row := range s.rows {
			n, _ := strconv.Atoi(row[0])
			out = append(out, n)
		}
		return out
	}
	few := take(60)
	assert.Len(t, few, 60, "all of few")
	all := take(100_000)
	assert.Equal(t, all, take(100_000))
	assert.Greater(t, len(all), 40)
	assert.LessOrEqual(t, len(all), 100)
	tenths := map[int]bool{}
	for _, n := range all {
		tenths[n/10_000] = true
	}
	assert.Len(t, tenths, 10)
}
