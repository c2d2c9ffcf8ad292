package fact_test

import (
	"math/big"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/plan"
)

// across is where a slot has its cell, of entries with unpivot and widen.
const across = -1

// widened is a row that widen makes of others.
type widened struct {
	row   []cell
	i     int
	cells map[[2]int]cell // by slot and column
	lines map[int]int
}

// widening makes one row of those that agree in all other cells.
type widening struct {
	*second
	r     *reading
	list  []*widened
	index map[string]*widened
	named map[int]bool // columns that rows name
	runs  *runs
	last  usedRow
	cuts  map[int]bool // total rows stand below so many of the list: all of them tie
}

func (s *second) widen(r *reading, rows []usedRow, headings map[int]string) {
	w := &widening{second: s, r: r, index: map[string]*widened{}, named: map[int]bool{}, runs: newRuns(), cuts: map[int]bool{}}
	for _, u := range rows {
		if u.total != "" {
			ties, known := w.cuts[len(w.list)]
			w.cuts[len(w.list)] = w.total(u) && (ties || !known)
			w.runs.end()
		} else {
			w.take(u, headings[u.i])
		}
	}
	for ci, c := range s.p.Columns {
		if r.source[ci].from == "figure" && !w.named[ci] {
			r.source[ci].from = ""
			delete(r.read, ci)
			if r.e.AbsentOf(c.Name) != plan.Leave && r.count["used"] > 0 {
				s.stop("missing header", c.Name, 1)
			}
		}
	}
	w.uncalled()
	above := map[string]*val{}
	for _, one := range w.list {
		s.row(r, one.i, one.row, headings[one.i], above, func(ci, slot int) (cell, int) {
			line := one.lines[ci]
			if line == 0 {
				line = one.i + 1
			}
			return one.cells[[2]int{slot, ci}], line
		})
	}
}

// at are the columns of the sheet with the cells that rows name.
func (w *widening) at() (out []int) {
	if w.r.cell >= 0 {
		return []int{w.r.cell}
	}
	for _, sl := range w.r.slots {
		out = append(out, sl.cells[across])
	}
	return out
}

// number of a measure in a slot, among the columns of runs.
func (w *widening) number(slot, ci int) int { return slot*len(w.p.Columns) + ci }

// find is the column that the text of a row names.
func (w *widening) find(text string) int {
	found := -1
	for ci := range w.p.Columns {
		if w.r.source[ci].from == "figure" && slices.Contains(w.keys(w.r, ci), key.Of(text)) {
			found = ci
		}
	}
	if found < 0 && w.r.e.Others != plan.Drop {
		w.stop("unexpected figure", "", 1)
	}
	return found
}

// said is what a cell of a total says of a measure; ok is false for none, and for one that cannot be compared, which stops.
func (w *widening) said(row []cell, j, ci int, label string) (d *big.Rat, filled, ok bool) {
	if j >= len(row) || row[j].trimmed() == "" || row[j].trimmed() == label {
		return nil, false, false
	}
	n, currency, ok := w.r.number(row[j])
	if !ok || currency != "" && w.currency[ci] != "" && currency != w.currency[ci] {
		w.stop("total", w.p.Columns[ci].Name, 1)
		return nil, true, false
	}
	return rational(n), true, true
}

// total compares a total row with those above it, and reports whether these do not say another figure.
func (w *widening) total(u usedRow) bool {
	row, r := w.r.s.rows[u.i], w.r
	says := func(j int) bool { return j < len(row) && row[j].trimmed() != "" && row[j].trimmed() != u.total }
	columns := w.at()
	for _, t := range r.totals {
		columns = append(columns, t.cells[0])
	}
	if r.e.Totals != plan.Tie || len(row) <= r.figure || !slices.ContainsFunc(columns, says) {
		return true
	}
	ci := w.find(row[r.figure].trimmed())
	if ci < 0 || !w.p.Columns[ci].Measure() {
		return true
	}
	figures, where := map[int]*big.Rat{}, map[int]int{}
	for slot, j := range w.at() {
		if d, _, ok := w.said(row, j, ci, u.total); ok {
			figures[w.number(slot, ci)], where[w.number(slot, ci)] = d, j
		}
	}
	best, agree := w.runs.best(figures)
	for k, d := range figures {
		w.check("total row", r, u.i, where[k], ci, d, w.runs.since(best, k))
	}
	w.totalColumns(u, ci, u.total)
	if len(figures) > 0 && agree == len(figures) && w.runs.n-w.runs.marks[best].n == 1 && !r.e.Labels.Alone(u.total) &&
		!w.shares(r, u.total, r.s.rows[w.last.i]) {
		w.stop("total or none", "", 1)
	}
	return agree >= len(figures)
}

// totalColumns compares the total columns of a row with its cells across; those of a total row without any with rows above.
func (w *widening) totalColumns(u usedRow, ci int, label string) {
	row := w.r.s.rows[u.i]
	if w.r.e.Totals != plan.Tie || !w.p.Columns[ci].Measure() {
		return
	}
	for _, t := range w.r.totals {
		d, _, ok := w.said(row, t.cells[0], ci, label)
		if !ok {
			continue
		}
		have, any := new(big.Rat), false
		for _, j := range w.at() {
			if j >= len(row) || row[j].trimmed() == "" || label != "" && row[j].trimmed() == label {
				continue
			}
			any = true
			if n, _, ok := w.r.number(row[j]); ok {
				have.Add(have, rational(n))
			}
		}
		for m := len(w.runs.marks) - 1; label != "" && !any && m >= 0; m-- {
			sum := new(big.Rat)
			for slot := range w.at() {
				sum.Add(sum, w.runs.since(m, w.number(slot, ci)))
			}
			away := func(n *big.Rat) *big.Rat { n = new(big.Rat).Sub(n, d); return n.Abs(n) }
			if m == len(w.runs.marks)-1 || away(sum).Cmp(away(have)) < 0 {
				have = sum
			}
		}
		w.check("total column", w.r, u.i, t.cells[0], ci, d, have)
	}
}

// take puts a row to those that it agrees with.
func (w *widening) take(u usedRow, heading string) {
	row, r := w.r.s.rows[u.i], w.r
	ci := w.find(row[r.figure].trimmed())
	if ci < 0 && r.e.Others != plan.Drop {
		return
	}
	w.runs.n++
	w.last = u
	figures := append(w.at(), r.figure)
	for _, t := range r.totals {
		figures = append(figures, t.cells[0])
	}
	parts := []string{heading} // rows of two sections are two
	for j := range r.header {
		if !slices.Contains(figures, j) && (r.cell >= 0 || !slices.Contains(r.dropped, j)) {
			parts = append(parts, row[j].trimmed())
		}
	}
	k := strings.Join(parts, "\x00")
	one := w.index[k]
	if one == nil {
		one = &widened{row: slices.Clone(row), i: u.i, cells: map[[2]int]cell{}, lines: map[int]int{}}
		for _, j := range figures {
			one.row[j] = cell{}
		}
		w.index[k] = one
		w.list = append(w.list, one)
	}
	if ci < 0 {
		return
	}
	w.named[ci] = true
	for slot, j := range w.at() {
		if d, _, ok := r.number(row[j]); ok {
			w.runs.add(w.number(slot, ci), rational(d))
		}
	}
	if _, twice := one.lines[ci]; twice {
		w.stop("figure twice", "", 1)
		return
	}
	one.lines[ci] = u.i + 1
	for slot, j := range w.at() {
		one.cells[[2]int{slot, ci}] = row[j]
	}
	w.totalColumns(u, ci, "")
}

// uncalled looks for rows that came out and have the sums of others, and for columns that have those of others.
func (w *widening) uncalled() {
	if w.r.e.Totals == plan.Keep || len(w.r.measure) == 0 {
		return
	}
	r := *w.r // as if each column of the plan were one of the sheet, in each slot
	r.measure, r.s, r.slots, r.source = map[int]int{}, &sheet{}, nil, slices.Clone(r.source)
	for slot, sl := range w.r.slots {
		own := sl
		own.cells = map[int]int{}
		for ci, c := range w.p.Columns {
			if w.r.source[ci].from == "figure" && c.Measure() {
				own.cells[ci], r.measure[w.number(slot, ci)], r.source[ci].from = w.number(slot, ci), ci, "cell"
			}
		}
		r.slots = append(r.slots, own)
	}
	var rows []usedRow
	own, t := slices.Clone(w.currency), newRuns()
	var below []leadingRow
	for k := 0; k <= len(w.list); k++ {
		if ties, cut := w.cuts[k]; cut {
			if !ties || r.e.Totals == plan.Drop {
				w.leading(&r, below)
			}
			below = nil
			t.end()
		}
		if k == len(w.list) {
			break
		}
		one, cells := w.list[k], make([]cell, len(r.slots)*len(w.p.Columns))
		for j, ci := range r.measure {
			cells[j] = one.cells[[2]int{j / len(w.p.Columns), ci}]
		}
		rows, r.s.rows = append(rows, usedRow{i: k}), append(r.s.rows, cells)
		f := w.figures(&r, cells, own)
		w.second.uncalled(&r, one.row, f, t)
		below = append(below, leadingRow{one.row, f})
		for j, d := range f {
			t.add(j, d)
		}
		t.n++
	}
	w.leading(&r, below)
	w.uncalledColumns(&r, rows)
}
