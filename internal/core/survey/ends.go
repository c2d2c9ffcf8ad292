package survey

import "umbau/internal/core/table"

// mostEnds is how many rows at either end of a table are remembered.
const mostEnds = 5

// ends are the numbers of the first and the last rows of data.
type ends struct{ first, last []int }

// add remembers some rows.
func (e *ends) add(rows *table.Rows, of []int) {
	for k, i := range of {
		if len(e.first) < mostEnds {
			e.first = append(e.first, rows.Lines[i])
		}
		if k >= len(of)-mostEnds {
			e.last = append(e.last, rows.Lines[i])
		}
	}
	e.last = e.last[max(0, len(e.last)-mostEnds):]
}

// Ends are the numbers of the first and the last rows of data, up to five each, as far as they are none of the others.
func (t *Table) Ends(others func(line int) bool) (out []int) {
	for _, line := range t.ends.first {
		if others(line) {
			break
		}
		out = append(out, line)
	}
	for i := len(t.ends.last) - 1; i >= 0 && !others(t.ends.last[i]); i-- {
		out = append(out, t.ends.last[i])
	}
	return out
}
