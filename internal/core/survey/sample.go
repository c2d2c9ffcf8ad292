package survey

import (
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// mostSampled is how many columns of a row are sampled: labels stand in the first ones.
const mostSampled = 24

// sample is rows from all over a table, by chance that is the same every time: half of those there are go where there would be too many.
type sample struct {
	rows    [][]string
	numbers []uint64 // hashes of the numbers of these rows
	shift   int      // the leading bits of these are 0
}

// take takes a row of data, the nth one, if it is one of at most so many.
func (s *sample) take(rows *table.Rows, row, n, most int) {
	h := table.Mix(uint64(n))
	if h>>(64-s.shift) != 0 {
		return
	}
	if len(s.rows) >= most {
		s.shift++
		kept := 0
		for i, of := range s.numbers {
			if of>>(64-s.shift) == 0 {
				s.rows[kept], s.numbers[kept] = s.rows[i], of
				kept++
			}
		}
		s.rows, s.numbers = s.rows[:kept], s.numbers[:kept]
		s.take(rows, row, n, most)
		return
	}
	var texts []string
	for j, c := range rows.Row(row) {
		if j < mostSampled {
			texts = append(texts, string(value.Trim(rows.Text(c))))
		}
	}
	s.rows, s.numbers = append(s.rows, texts), append(s.numbers, h)
}
