package fact_test

import (
	"fmt"
	"maps"
	"math/big"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

func rational(d value.Decimal) *big.Rat {
	n, _ := new(big.Rat).SetString(d.String())
	return n
}

// runs adds up rows, and remembers where total rows stood.
type runs struct {
	n     int              // rows
	sums  map[int]*big.Rat // by column
	marks []mark
}

// mark is where a run of rows may begin.
type mark struct {
	n    int // rows before
	sums map[int]*big.Rat
}

func newRuns() *runs {
	return &runs{sums: map[int]*big.Rat{}, marks: []mark{{sums: map[int]*big.Rat{}}}}
}

func (t *runs) add(j int, d *big.Rat) { t.sums[j] = new(big.Rat).Add(sumOf(t.sums, j), d) }

func sumOf(sums map[int]*big.Rat, j int) *big.Rat {
	if sums[j] == nil {
		return new(big.Rat)
	}
	return sums[j]
}

// since is what a column has from a mark on.
func (t *runs) since(m, j int) *big.Rat {
	return new(big.Rat).Sub(sumOf(t.sums, j), sumOf(t.marks[m].sums, j))
}

// end marks that a total row stands here.
func (t *runs) end() {
	if t.marks[len(t.marks)-1].n < t.n {
		t.marks = append(t.marks, mark{t.n, maps.Clone(t.sums)})
	}
}

// best is the run that agrees with most of some figures, the shortest of them; else that
// which comes nearest.
func (t *runs) best(said map[int]*big.Rat) (at, agree int) {
	at, agree, near := -1, -1, new(big.Rat)
	for m := len(t.marks) - 1; m >= 0; m-- {
		if t.marks[m].n == t.n && t.n > 0 {
			continue
		}
		n, away := 0, new(big.Rat)
		for j, want := range said {
			d := t.since(m, j)
			if d.Sub(d, want); d.Sign() == 0 {
				n++
			}
			away.Add(away, d.Abs(d))
		}
		if n > agree || n == agree && away.Cmp(near) < 0 {
			at, agree, near = m, n, away
		}
	}
	return at, agree
}

// tie compares totals with the rows that they total, and looks for totals that nobody
// calls one. It returns the rows that are used.
func (s *second) tie(r *reading, rows []usedRow) (used []usedRow) {
	for _, u := range rows {
		if u.total == "" {
			used = append(used, u)
		}
	}
	if r.e.Totals == plan.Keep || len(r.measure) == 0 {
		return used
	}
	own := slices.Clone(s.currency) // settled where rows are taken; here as they will be
	t, last := newRuns(), usedRow{}
	var below []leadingRow
	for _, u := range rows {
		row := r.s.rows[u.i]
		if u.total == "" {
			f := s.figures(r, row, own)
			s.uncalled(r, row, f, t)
			below = append(below, leadingRow{row, f})
			for j, d := range f {
				t.add(j, d)
			}
			t.n++
			last = u
			s.totalColumns(r, u, row, own, nil)
			continue
		}
		if r.e.Totals == plan.Drop {
			s.leading(r, below)
		}
		if r.e.Totals == plan.Tie {
			said := s.said(r, u, row, own)
			best, agree := t.best(said)
			for j, want := range said {
				s.check("total row", r, u.i, j, r.measure[j], want, t.since(best, j))
			}
			if agree < len(said) {
				s.leading(r, below)
			}
			s.totalColumns(r, u, row, own, t)
			if len(said) > 0 && agree == len(said) && t.n-t.marks[best].n == 1 && !r.e.Labels.Alone(u.total) &&
				!s.shares(r, u.total, r.s.rows[last.i]) {
				s.stop("total or none", "", 1)
			}
		}
		t.end()
		below = nil
	}
	s.leading(r, below)
	s.uncalledColumns(r, used)
	return used
}

// leadingRow is a row that may have the sums of those below it.
type leadingRow struct {
	row     []cell
	figures map[int]*big.Rat
}

// leading looks whether rows are groups that begin with their own total, all of them or all but the first.
func (s *second) leading(r *reading, rows []leadingRow) {
	if r.e.Control {
		return
	}
	rows = slices.DeleteFunc(rows, func(l leadingRow) bool { // those without figures are of any group
		for j := range r.measure {
			if sumOf(l.figures, j).Sign() != 0 {
				return false
			}
		}
		return true
	})
	if len(rows) < 5 {
		return
	}
	for _, from := range []int{0, 1} {
		for _, depth := range []int64{1, 2} {
			if s.groups(r, rows[from:], depth) {
				s.stop("total or none", "", 1)
				return
			}
		}
	}
	if !r.asked && (s.endGroups(r, rows, 1) || s.endGroups(r, rows, 2)) {
		s.stop("total or none", "", 1)
	}
}

// groups reports whether rows are groups, of which the first row is a part of so many of the sums of the others.
func (s *second) groups(r *reading, rows []leadingRow, depth int64) bool {
	several, single, digits := 0, 0, 0
	var before map[int]*big.Rat // of the group before
	for len(rows) > 0 {
		n := 0
		for k := 2; k <= len(rows) && n == 0; k++ {
			n = k
			for j := range r.measure {
				sum := new(big.Rat)
				for _, l := range rows[1:k] {
					sum.Add(sum, sumOf(l.figures, j))
				}
				if new(big.Rat).Mul(sumOf(rows[0].figures, j), big.NewRat(depth, 1)).Cmp(sum) != 0 {
					n = 0
				}
			}
		}
		if n == 0 || slices.ContainsFunc(r.labels(rows[0].row), r.e.Labels.None) {
			return false
		}
		if n-1 <= int(depth) {
			single++
		} else {
			several++
		}
		same := before != nil
		for j := range r.measure {
			same = same && sumOf(before, j).Cmp(sumOf(rows[0].figures, j)) == 0
		}
		for j := range r.measure {
			if !same {
				digits += digitsOf(sumOf(rows[0].figures, j))
			}
		}
		before = rows[0].figures
		rows = rows[n:]
	}
	return digits >= 6 && several > single
}

// endGroups reports whether rows are groups of so many rows at least that each end with their sums; the rows of all groups may follow.
func (s *second) endGroups(r *reading, rows []leadingRow, least int) bool {
	sum := func(rows []leadingRow, j int) *big.Rat {
		total := new(big.Rat)
		for _, l := range rows {
			total.Add(total, sumOf(l.figures, j))
		}
		return total
	}
	is := func(k int, of func(j int) *big.Rat) bool {
		for j := range r.measure {
			if sumOf(rows[k].figures, j).Cmp(of(j)) != 0 {
				return false
			}
		}
		return true
	}
	several, single, digits, begin, before := 0, 0, 0, 0, -1
	for k := range rows {
		all := begin == k && before >= 0 && several+single > 1 &&
			is(k, func(j int) *big.Rat { return new(big.Rat).Quo(sum(rows[:k], j), big.NewRat(2, 1)) })
		if !all && (k-begin < least || !is(k, func(j int) *big.Rat { return sum(rows[begin:k], j) })) {
			continue
		}
		if slices.ContainsFunc(r.labels(rows[k].row), r.e.Labels.None) {
			return false
		}
		switch {
		case all:
		case k-begin > 1:
			several++
		default:
			single++
		}
		if before < 0 || !is(k, func(j int) *big.Rat { return sumOf(rows[before].figures, j) }) {
			for j := range r.measure {
				digits += digitsOf(sumOf(rows[k].figures, j))
			}
		}
		before, begin = k, k+1
	}
	return begin == len(rows) && digits >= 6 && several > single
}

// digitsOf is how many digits a number has, but for zeros at both ends.
func digitsOf(n *big.Rat) int {
	return len(strings.TrimLeft(strings.ReplaceAll(strings.TrimPrefix(exact(n), "-"), ".", ""), "0"))
}

// telling reports whether the figures of a row are no chance.
func (s *second) telling(r *reading, row []cell, f map[int]*big.Rat) bool {
	figures, long := 0, false
	for j := range r.measure {
		own := sumOf(f, j)
		if own.Sign() != 0 {
			figures++
			long = long || digitsOf(own) >= 6
		}
	}
	says := slices.ContainsFunc(r.labels(row), func(l string) bool { _, among := r.e.Labels.Says(l); return among && !s.known(l) })
	return figures > 1 || long || figures == 1 && says
}

// figures are the amounts of a row that is used, in the currency of their measure.
func (s *second) figures(r *reading, row []cell, own []string) map[int]*big.Rat {
	out := map[int]*big.Rat{}
	for _, j := range slices.Sorted(maps.Keys(r.measure)) {
		if j >= len(row) {
			continue
		}
		ci := r.measure[j]
		d, currency, ok := s.readMeasure(r, ci, row[j])
		if ok && own[ci] == "" && currency != "" {
			own[ci] = currency
		}
		if ok && (currency == "" || currency == own[ci]) {
			out[j] = rational(d)
		} else if ok {
			r.foreign = append(r.foreign, ci)
		}
	}
	return out
}

// said are the figures of a total row; one that cannot be compared stops.
func (s *second) said(r *reading, u usedRow, row []cell, own []string) map[int]*big.Rat {
	out := map[int]*big.Rat{}
	for j, ci := range r.measure {
		if j >= len(row) || row[j].trimmed() == "" || row[j].trimmed() == u.total {
			continue
		}
		d, currency, ok := r.number(row[j])
		if !ok || currency != "" && own[ci] != "" && currency != own[ci] {
			s.stop("total", s.p.Columns[ci].Name, 1)
			continue
		}
		out[j] = rational(d)
	}
	return out
}

// readMeasure reads a cell of a measure, or the piece of it that the measure keeps.
func (s *second) readMeasure(r *reading, ci int, c cell) (value.Decimal, string, bool) {
	d, currency, ok := r.number(c)
	if words := s.p.Columns[ci].Words; words.TextGap(c.trimmed()) == value.Null {
		ok = false
	}
	if s.p.Columns[ci].Kind == plan.Whole && d.Shorten().Places() > 0 {
		ok = false
	}
	return d.Shorten(), currency, ok
}

func (s *second) shares(r *reading, label string, row []cell) bool {
	words := strings.Fields(key.Of(strings.Join(r.labels(row), " ")))
	return slices.ContainsFunc(strings.Fields(key.Of(label)),
		func(w string) bool { return !value.IsTotalWord(w) && slices.Contains(words, w) })
}

// uncalled looks for a row that has the sums of a run.
func (s *second) uncalled(r *reading, row []cell, f map[int]*big.Rat, t *runs) {
	if r.e.Control {
		return
	}
next:
	for m := range t.marks {
		if t.n-t.marks[m].n < 2 {
			continue
		}
		for j := range r.measure {
			if t.since(m, j).Cmp(sumOf(f, j)) != 0 {
				continue next
			}
		}
		none := slices.ContainsFunc(r.labels(row), r.e.Labels.None)
		if !none && s.telling(r, row, f) {
			s.stop("total or none", "", 1)
			r.asked = true
			return
		}
	}
}

// exact writes a rational number that ends as a decimal one.
func exact(n *big.Rat) string {
	for places := 0; places < 60; places++ {
		if text := n.FloatString(places); func() bool { b, _ := new(big.Rat).SetString(text); return b.Cmp(n) == 0 }() {
			return text
		}
	}
	return n.FloatString(60)
}

func (s *second) check(kind string, r *reading, i, j, ci int, said, have *big.Rat) {
	d := new(big.Rat).Sub(said, have)
	s.checks = append(s.checks, fmt.Sprintf("%s,%s,%s,%d,%s,,%s,%s,%s,%s", kind, r.s.file, r.s.name, i+1, table.Quoted(r.header[j]),
		s.p.Columns[ci].Name, exact(said), exact(have), exact(d)))
	if d.Sign() != 0 {
		s.stop("total", s.p.Columns[ci].Name, 1)
	}
}

// totalColumns compares the total columns of a row with its wide cells; t is nil for a row
// that is no total row.
func (s *second) totalColumns(r *reading, u usedRow, row []cell, own []string, t *runs) {
	total := t != nil
	if r.e.Totals != plan.Tie {
		return
	}
	for _, column := range r.totals {
		j := column.cells[0]
		ci, named := s.totalled(r, column)
		if j >= len(row) || row[j].trimmed() == "" || ci < 0 || total && row[j].trimmed() == u.total {
			continue
		}
		d, currency, ok := r.number(row[j])
		if !ok || currency != "" && own[ci] != "" && currency != own[ci] {
			s.stop("total", s.p.Columns[ci].Name, 1)
			continue
		}
		have := new(big.Rat)
		any, slots := false, []int{}
		for _, sl := range r.slots {
			same := true
			for name, text := range column.pieces {
				if same = same && (name == named || r.e.Labels.Alone(text) || key.Same(text, sl.pieces[name]) || r.e.Unpivot.Cells != nil &&
					r.e.Unpivot.Cells.Has(name)); !same {
					break
				}
			}
			at, there := sl.cells[ci]
			if !same || !there || at >= len(row) {
				continue
			}
			any = any || row[at].trimmed() != "" && row[at].trimmed() != u.total
			if d, _, ok := r.number(row[at]); ok && total {
				have.Add(have, rational(d))
			} else if d, currency, ok := s.readMeasure(r, ci, row[at]); ok && !total && (currency == "" || currency == own[ci]) {
				have.Add(have, rational(d))
			}
			slots = append(slots, at)
		}
		if total && !any { // compared with the run that comes nearest
			near := -1
			for m := len(t.marks) - 1; m >= 0; m-- {
				sum := new(big.Rat)
				for _, at := range slots {
					sum.Add(sum, t.since(m, at))
				}
				away := func(n *big.Rat) *big.Rat { d := new(big.Rat).Sub(n, rational(d)); return d.Abs(d) }
				if near < 0 || away(sum).Cmp(away(have)) < 0 {
					near, have = m, sum
				}
			}
		}
		s.check("total column", r, u.i, j, ci, rational(d), have)
	}
}

// totalled is the measure of a total column, and the piece that names it.
func (s *second) totalled(r *reading, t slot) (measure int, piece string) {
	found, n := -1, 0
	for ci := range s.p.Columns {
		if r.source[ci].from == "cell" && s.p.Columns[ci].Measure() {
			found, n = ci, n+1
		}
	}
	if n == 1 {
		return found, ""
	}
	for name, text := range t.pieces {
		for ci := range s.p.Columns {
			if r.source[ci].from == "cell" && slices.Contains(s.keys(r, ci), key.Of(text)) {
				return ci, name
			}
		}
	}
	return -1, ""
}

// uncalledColumns looks for a wide column that is the sum of the others in every row.
func (s *second) uncalledColumns(r *reading, used []usedRow) {
	if r.e.Unpivot == nil || len(r.slots) < 3 {
		return
	}
	for ci := range s.p.Columns {
		if r.source[ci].from != "cell" || !s.p.Columns[ci].Measure() {
			continue
		}
		for _, sl := range r.slots {
			own, there := sl.cells[ci]
			none := r.e.Labels.None(sl.header)
			for _, p := range sl.pieces {
				none = none || r.e.Labels.None(p)
			}
			if !there || none {
				continue
			}
			rows, is := 0, true
			for _, u := range used {
				sum := new(big.Rat)
				var mine *big.Rat = new(big.Rat)
				for _, o := range r.slots {
					if at, there := o.cells[ci]; there {
						if d, _, ok := s.readMeasure(r, ci, r.s.rows[u.i][at]); ok {
							if at == own {
								mine = rational(d)
							} else {
								sum.Add(sum, rational(d))
							}
						}
					}
				}
				is = is && mine.Cmp(sum) == 0
				if mine.Sign() != 0 {
					rows++
				}
			}
			if is && rows >= 3 {
				s.stop("total or none", "", 1)
			}
		}
	}
}
