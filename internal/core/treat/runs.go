package treat

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Runs are what total rows of one extract are compared with. A total row ties to a run of
// used rows that ends just above it and begins at the first row or after some total row:
// the sums of all rows so far, less those at that beginning.
//
// A row that nobody calls a total may have the sums of a run all the same. To find it
// among millions, each row has a hash that is linear in its figures (the sum of each one
// times a factor of its column, in 64 bits), so that the hash of a run is the sum of
// those of its rows: a row whose hash is that of a run is looked at in earnest.
type runs struct {
	rows   int         // used so far
	sums   []value.Sum // of them, by column of the extract
	hash   uint64      // of them
	before []beginning
	starts map[uint64]int // the first of before with a hash
	words  []string       // of the labels of the last used row …
	labels []string       // … and these, by the key
	line   int            // of it
	leads  tie.Leads
	asked  bool // a row that has the sums of those above it was asked about
}

// beginning is where a run may begin: how many rows stand before it, and their sums.
type beginning struct {
	Rows int
	Line int // of the last of them
	Sums []value.Decimal
}

func newRuns(p *Program) *runs {
	n := p.Lineup.Width()
	r := &runs{sums: make([]value.Sum, n), before: []beginning{{Sums: make([]value.Decimal, n)}}, starts: map[uint64]int{0: 0}}
	r.leads.Reset()
	return r
}

// here is the end of a run.
func (r *runs) here() beginning {
	b := beginning{Rows: r.rows, Line: r.line, Sums: make([]value.Decimal, len(r.sums))}
	for c := range r.sums {
		b.Sums[c] = r.sums[c].Total().Shorten()
	}
	return b
}

// begin lets runs begin here, behind a total row.
func (r *runs) begin(here beginning) {
	if r.before[len(r.before)-1].Rows < r.rows {
		if _, known := r.starts[r.hash]; !known {
			r.starts[r.hash] = len(r.before)
		}
		r.before = append(r.before, here)
	}
}

// nearest is the run that gives most of some figures, of those that give as many the one
// that comes nearest, and of these the shortest. all says that it gives each of them.
func (r *runs) nearest(here beginning, figures []figure) (from beginning, all bool) {
	best, most := 0, -1
	var least value.Decimal
	for i := len(r.before) - 1; i >= 0; i-- {
		b := &r.before[i]
		if b.Rows == r.rows && r.rows > 0 {
			continue // no rows between
		}
		agree := 0
		var away value.Decimal
		for _, f := range figures {
			d := here.Sums[f.Column].Sub(b.Sums[f.Column]).Sub(f.Said)
			if d.Sign() == 0 {
				agree++
			}
			away = away.Add(d.Abs())
		}
		if agree > most || agree == most && away.Cmp(least) < 0 {
			best, most, least = i, agree, away
		}
		if agree == len(figures) {
			break
		}
	}
	return r.before[best], most == len(figures)
}

// compares reports whether rows are looked at for totals, with a name or without.
func (p *Program) compares() bool {
	l := p.Lineup
	return l.Entry.Totals != plan.Keep && !l.Entry.Control && l.Measures()
}

// compareTotals compares the total rows of the block with the rows that they total, and
// looks for rows and columns that nobody calls totals. Blocks do so in their order.
func (w *Worker) compareTotals(s *Shared) {
	if !w.program.compares() {
		return
	}
	if w.program.Lineup.Widen != nil {
		w.lookAtWidened(s)
		return
	}
	if !w.hashed {
		w.hashRows()
	}
	w.siftColumns(&s.columns)
	if w.program.Cut {
		w.leaveOpen(s.runs)
		return
	}
	r, from := s.runs, 0
	for k := 0; k <= len(w.totals); k++ {
		to := w.batch.Rows
		if k < len(w.totals) {
			to = w.totals[k].used
		}
		w.lookAtRows(r, from, to)
		switch {
		case k < len(w.totals):
			if l, ties := r.takeLeads(), w.compare(r, &w.totals[k]); !ties || w.program.Lineup.Entry.Totals == plan.Drop {
				w.askLeads(l, r)
			}
		case w.last:
			w.askLeads(r.takeLeads(), r)
		}
		from = to
	}
	w.uncalledColumns(&s.columns)
}

// lookAtRows looks for used rows that have the sums of others, and adds all of these to those that runs are made of.
func (w *Worker) lookAtRows(r *runs, from, to int) {
	r.uncalled(w.hashes[from:to], func(i, rows, start int) { w.lookAt(r, from+i, rows, start, from) })
	r.leads.Follow(w.hashes[from:to], r.hash, func(i int, behind bool) tie.Head { return w.headOf(r, from+i, behind) })
	w.addRows(r, from, to)
}

// addRows adds used rows to those that runs are made of.
func (w *Worker) addRows(r *runs, from, to int) {
	if from == to {
		return
	}
	for ci := range w.program.Columns {
		c := &w.program.Columns[ci]
		if !c.measure || c.origin < 0 {
			continue
		}
		out := w.asRead(ci)
		for slot := range w.width(c) {
			column := w.program.cellOf(c, slot)
			switch {
			case column < 0:
			case len(w.totals) == 0 && to-from == w.batch.Rows: // all of the block
				w.columns[ci].reads.addTo(&r.sums[column], slot)
			case c.level == table.PerCell:
				addEvery(&r.sums[column], out, from*w.batch.Slots+slot, to*w.batch.Slots, w.batch.Slots, c.places())
			default:
				addEvery(&r.sums[column], out, from, to, 1, c.places())
			}
		}
	}
	for _, h := range w.hashes[from:to] {
		r.hash += h
	}
	last := w.sorted.Used[to-1]
	r.rows += to - from
	r.words, r.line = w.program.Lineup.Words(&w.rows, int(last)), w.rows.Lines[last]
	r.labels = w.program.Lineup.LabelKeys(&w.rows, int(last))
}

// addEvery adds every step-th number from one index up to another.
func addEvery(s *value.Sum, c *table.Column, from, to, step, places int) {
	var usual value.Sum128
	for i := from; i < to; i += step {
		if n := &c.Numbers[i]; int(n.Places) == places && (n.Form == table.Copy || n.Form == table.Print) {
			usual.Add(n.Coef)
		} else {
			c.AddTo(s, i)
		}
	}
	s.Add128(usual, places)
}

// compare compares a total row with the run that comes nearest, and reports whether that has its figures.
func (w *Worker) compare(r *runs, t *total) (ties bool) {
	ties = true
	readable := func(f *figure) bool { return w.readable(f, t.Line) }
	add := func(c tie.Check) {
		w.checks = append(w.checks, c)
		ties = ties && (c.Kind != tie.TotalRow || c.Difference().Sign() == 0)
	}
	if r.compare(r.here(), t, readable, add) {
		w.doubtful(t, r.line)
	}
	return ties
}

// compare compares what can be read of a total row, above which a run ends, with the run that comes
// nearest. It is in doubt when that is a single row of another name. Runs begin behind it.
func (r *runs) compare(here beginning, t *total, readable func(*figure) bool, add func(tie.Check)) (doubtful bool) {
	defer r.begin(here)
	var figures []figure
	for _, f := range t.Figures {
		if readable(&f) {
			figures = append(figures, f)
		}
	}
	from, all := r.nearest(here, figures)
	for _, f := range figures {
		add(tie.Check{Kind: tie.TotalRow, Row: t.Line, Header: f.Header, Column: f.Measure, Said: f.Said,
			Have: here.Sums[f.Column].Sub(from.Sums[f.Column])})
	}
	for i := range t.Corners {
		if c := &t.Corners[i]; readable(&c.Figure) {
			add(tie.Check{Kind: tie.TotalColumn, Row: t.Line, Header: c.Figure.Header, Column: c.Figure.Measure, Said: c.Figure.Said,
				Have: r.corner(here, c)})
		}
	}
	return all && len(figures) > 0 && here.Rows-from.Rows == 1 && !t.Alone && !sharesWord(t.Label, r.words)
}

// corner is what the grand total in a total column is compared with: the wide cells of its row, or where
// these are blank those of a run.
func (r *runs) corner(here beginning, c *corner) value.Decimal {
	have := c.Have.Total()
	if c.Any {
		return have
	}
	least := value.Decimal{}
	for i, b := range slices.Backward(r.before) {
		var sum value.Decimal
		for _, at := range c.Cells {
			sum = sum.Add(here.Sums[at].Sub(b.Sums[at]))
		}
		if away := sum.Sub(c.Figure.Said).Abs(); i == len(r.before)-1 || away.Cmp(least) < 0 {
			have, least = sum, away
		}
	}
	return have
}

// sharesWord reports whether a word of a total's label, total words aside, is among some.
func sharesWord(label string, words []string) bool {
	return slices.ContainsFunc(strings.Fields(key.Of(label)), func(word string) bool {
		return !value.IsTotalWord(word) && slices.Contains(words, word)
	})
}

// doubtful stops for a total row that totals a single row of another name: it may be a
// product.
func (w *Worker) doubtful(t *total, line int) {
	at := w.program.Lineup.Place
	at.Row = t.Line
	p := place.At(at, "total or none", "a row says total and has the figures of one row of another name: is it a total, or a product "+
		"of that name?").ByRule()
	p.Texts = []string{fmt.Sprintf("%s, with the figures of row %d", t.Label, line)}
	p.Plan, p.Add = w.program.Lineup.Entry.Pos, "no_totals: ["+layout.Flow(t.Label)+"]"
	p.Advice = "if it is none; if it is a total: total_words: [" + layout.Flow(t.Label) + "]"
	w.problems.Add(p)
}

// findFactors are the factors of the hashes of rows, by column of the extract.
func (p *Program) findFactors() []uint64 {
	out := make([]uint64, p.Lineup.Width())
	for i := range out {
		out[i] = table.Mix(uint64(i)+1) | 1
	}
	return out
}

// shiftOf is what a coefficient with so many places is multiplied with.
func shiftOf(places uint8) uint64 { return uint64(value.Power(value.MaxPlaces - int(places))) }

// hashRows works out the hashes of the used rows, as their cells were read.
func (w *Worker) hashRows() {
	w.hashed = true
	w.hashes = resized(w.hashes, w.batch.Rows)
	clear(w.hashes)
	for ci := range w.program.Columns {
		c := &w.program.Columns[ci]
		if !c.measure || c.origin < 0 {
			continue
		}
		out, width, places := w.asRead(ci), w.width(c), uint8(c.places())
		w.factors = w.factors[:0]
		for slot := range width {
			factor := uint64(0)
			if column := w.program.cellOf(c, slot); column >= 0 {
				factor = w.program.factors[column]
			}
			w.factors = append(w.factors, factor)
		}
		usual := shiftOf(places)
		for i := range w.hashes {
			var sum uint64
			numbers := out.Numbers[i*width:][:width]
			for slot, factor := range w.factors {
				switch n := &numbers[slot]; {
				case n.Form == table.Large:
					d := out.Wide[n.Coef]
					sum += factor * d.Modulo(value.MaxPlaces)
				case n.Places == places:
					sum += factor * uint64(n.Coef) * usual
				default:
					sum += factor * uint64(n.Coef) * shiftOf(n.Places)
				}
			}
			w.hashes[i] += sum
		}
	}
}

// uncalled gives those of the rows behind the runs, by their hashes, that may have the sums of a run:
// which of them, how many rows stand above, and where the run begins.
func (r *runs) uncalled(hashes []uint64, found func(i, rows, start int)) {
	hash := r.hash
	single := len(r.before) == 1
	for i, own := range hashes {
		if own != 0 && (single && hash == own || !single && r.has(hash-own)) {
			found(i, r.rows+i, r.starts[hash-own])
		}
		hash += own
	}
}

// has reports whether a run may begin where the rows before have a hash.
func (r *runs) has(hash uint64) bool {
	_, ok := r.starts[hash]
	return ok
}

// lookAt stops for used row i, above which so many rows stand, if it has the sums of the
// run of two or more rows that begins at a beginning. One such figure may be chance, unless it is long
// or the row says total.
func (w *Worker) lookAt(r *runs, i, rows, start, from int) {
	begin := &r.before[start]
	if rows-begin.Rows < 2 {
		return
	}
	for ci := range w.program.Columns {
		c := &w.program.Columns[ci]
		if !c.measure || c.origin < 0 {
			continue
		}
		out, width := w.asRead(ci), w.width(c)
		for slot := range width {
			column := w.program.cellOf(c, slot)
			if column < 0 {
				continue
			}
			sum := r.sums[column].Clone()
			for k := from; k < i; k++ {
				out.AddTo(&sum, k*width+slot)
			}
			if own, _ := out.Decimal(i*width + slot); sum.Total().Sub(begin.Sums[column]).Cmp(own) != 0 {
				return // by chance
			}
		}
	}
	h := w.headOf(r, i, true)
	if !h.Telling || h.None {
		return
	}
	r.asked = true
	more := ""
	if h.Shared {
		more = moreOfShared
	}
	above := "the rows above"
	if begin.Rows > 0 {
		above = fmt.Sprintf("the rows below row %d", begin.Line)
	}
	w.askTotal(h, "above", fmt.Sprintf("which %s add up to", above), []string{h.Label}, more)
}

// askTotal stops for a row that has the sums of rows above or below it; what to do about it has more to say, or nothing.
func (w *Worker) askTotal(h tie.Head, side, why string, labels []string, more string) {
	l := w.program.Lineup
	at := l.Place
	at.Row = h.Line
	p := place.At(at, "total or none", "a row has the sums of the rows %s it, and nothing says that it is a total: is it one?", side).ByRule()
	p.Texts = []string{h.Label + ", " + why}
	for i, label := range labels {
		labels[i] = layout.Flow(label)
	}
	list := "[" + strings.Join(labels, ", ") + "]"
	if p.Plan = l.Entry.Pos; !h.Shared {
		p.Add = "total_words: " + list
	}
	p.Advice = "if it is a total" + more + "; if it is none: no_totals: " + list
	w.problems.Add(p)
}
