package treat

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/pattern"
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
	words  []string       // of the labels of the last used row
	line   int            // of it
}

// beginning is where a run may begin: how many rows stand before it, and their sums.
type beginning struct {
	rows int
	line int // of the last of them
	sums []value.Decimal
}

func newRuns(p *Program) *runs {
	n := len(p.Lineup.Header.Texts)
	if w := p.Lineup.Widen; w != nil {
		n += len(w.Columns)
	}
	return &runs{sums: make([]value.Sum, n), before: []beginning{{sums: make([]value.Decimal, n)}}, starts: map[uint64]int{0: 0}}
}

// here is the end of a run.
func (r *runs) here() beginning {
	b := beginning{rows: r.rows, line: r.line, sums: make([]value.Decimal, len(r.sums))}
	for c := range r.sums {
		b.sums[c] = r.sums[c].Total().Shorten()
	}
	return b
}

// begin lets runs begin here, behind a total row.
func (r *runs) begin(here beginning) {
	if r.before[len(r.before)-1].rows < r.rows {
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
		if b.rows == r.rows && r.rows > 0 {
			continue // no rows between
		}
		agree := 0
		var away value.Decimal
		for _, f := range figures {
			d := here.sums[f.column].Sub(b.sums[f.column]).Sub(f.said)
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
	return l.Entry.Totals != plan.Keep && !l.Entry.Control && l.Measures() && l.Widen == nil
}

// compareTotals compares the total rows of the block with the rows that they total, and
// looks for rows and columns that nobody calls totals. Blocks do so in their order.
func (w *Worker) compareTotals(s *Shared) {
	if !w.program.compares() {
		return
	}
	r, from := s.runs, 0
	if !w.hashed {
		w.hashRows()
	}
	for k := 0; k <= len(w.totals); k++ {
		to := w.batch.Rows
		if k < len(w.totals) {
			to = w.totals[k].used
		}
		w.findUncalled(r, from, to)
		w.addRows(r, from, to)
		if k < len(w.totals) {
			w.compare(r, &w.totals[k])
		}
		from = to
	}
	w.uncalledColumns(s)
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
			case len(w.totals) == 0: // all of the block
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

// compare compares a total row with the run that comes nearest.
func (w *Worker) compare(r *runs, t *total) {
	here := r.here()
	defer r.begin(here)
	var figures []figure
	for _, f := range t.figures {
		if w.readable(f, w.program.MeasureAt(f.column), t.line, w.program.Lineup.Header.Name(f.column)) {
			figures = append(figures, f)
		}
	}
	from, all := r.nearest(here, figures)
	for _, f := range figures {
		w.checks = append(w.checks, tie.Check{Kind: tie.TotalRow, Row: t.line, Header: w.program.Lineup.Header.Name(f.column),
			Column: w.program.MeasureAt(f.column), Said: f.said, Have: here.sums[f.column].Sub(from.sums[f.column])})
	}
	for i := range t.corners {
		w.compareCorner(r, here, t, &t.corners[i])
	}
	if all && len(figures) > 0 && here.rows-from.rows == 1 && !w.program.Lineup.Entry.Labels.Alone(t.label) && !sharesWord(t.label, r.words) {
		w.doubtful(t, r.line)
	}
}

// compareCorner compares the grand total in a total column: with the wide cells of its
// row, or where these are blank with those of a run.
func (w *Worker) compareCorner(r *runs, here beginning, t *total, c *corner) {
	column := &w.program.totals[c.of]
	if !w.readable(c.figure, column.measure, t.line, column.Header) {
		return
	}
	have := c.have.Total()
	if !c.any {
		least := value.Decimal{}
		for i, b := range slices.Backward(r.before) {
			var sum value.Decimal
			for _, slot := range column.slots {
				if at := w.program.cellOf(&w.program.Columns[column.measure], slot); at >= 0 {
					sum = sum.Add(here.sums[at].Sub(b.sums[at]))
				}
			}
			if away := sum.Sub(c.said).Abs(); i == len(r.before)-1 || away.Cmp(least) < 0 {
				have, least = sum, away
			}
		}
	}
	w.checks = append(w.checks, tie.Check{Kind: tie.TotalColumn, Row: t.line, Header: column.Header, Column: column.measure, Said: c.said,
		Have: have})
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
	at.Row = t.line
	p := place.At(at, "total or none", "a row says total and has the figures of one row of another name: is it a total, or a product "+
		"of that name?").ByRule()
	p.Texts = []string{fmt.Sprintf("%s, with the figures of row %d", t.label, line)}
	p.Plan, p.Add = w.program.Lineup.Entry.Pos, "no_totals: ["+layout.Flow(t.label)+"]"
	p.Advice = "if it is none; if it is a total: total_words: [" + layout.Flow(t.label) + "]"
	w.problems.Add(p)
}

// findFactors are the factors of the hashes of rows, by column of the extract.
func (p *Program) findFactors() []uint64 {
	var out []uint64
	for i := range p.Lineup.Header.Texts {
		out = append(out, table.Mix(uint64(i)+1)|1)
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

// findUncalled looks among used rows for one that has the sums of a run of two or more
// rows above it. One such figure may be chance, unless it is long or the row says total.
func (w *Worker) findUncalled(r *runs, from, to int) {
	hash := r.hash
	single := len(r.before) == 1
	for i := from; i < to; i++ {
		own := w.hashes[i]
		if own != 0 && (single && hash == own || !single && r.has(hash-own)) {
			w.lookAt(r, i, r.rows+i-from, r.starts[hash-own], from)
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
// run that begins at a beginning.
func (w *Worker) lookAt(r *runs, i, rows, start, from int) {
	begin := &r.before[start]
	if rows-begin.rows < 2 {
		return
	}
	l, row := w.program.Lineup, int(w.sorted.Used[i])
	figures, long := 0, false
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
			own, _ := out.Decimal(i*width + slot)
			if sum.Total().Sub(begin.sums[column]).Cmp(own) != 0 {
				return // by chance
			}
			if own.Sign() != 0 {
				figures++
				long = long || own.Digits() >= longFigure
			}
		}
	}
	if figures == 0 || figures < 2 && !long && !l.SaysTotal(&w.rows, row) || l.NoTotal(&w.rows, row) {
		return
	}
	at := l.Place
	at.Row = w.rows.Lines[row]
	label := l.FirstLabel(&w.rows, row)
	p := place.At(at, "total or none", "a row has the sums of the rows above it, and nothing says that it is a total: is it one?").ByRule()
	above := "the rows above"
	if begin.rows > 0 {
		above = fmt.Sprintf("the rows below row %d", begin.line)
	}
	p.Texts = []string{fmt.Sprintf("%s, which %s add up to", label, above)}
	p.Plan, p.Add = l.Entry.Pos, "total_words: ["+layout.Flow(label)+"]"
	p.Advice = "if it is a total; if it is none: no_totals: [" + layout.Flow(label) + "]"
	w.problems.Add(p)
}

// longFigure is how many digits a figure has that is no chance.
const longFigure = 6

// columnTotals are the wide columns of an extract that may be the sums of the others, so
// far.
type columnTotals struct {
	begun bool
	slots []candidate
}

// candidate is one of them: in a measure, the slot, and how many rows have a figure there.
type candidate struct{ measure, slot, rows int }

// findNamed finds the slots of which the plan says that they are no totals: a plain entry
// of unpivot.columns names them, or no_totals.
func (p *Program) findNamed() []bool {
	u, labels := p.Lineup.Entry.Unpivot, &p.Lineup.Entry.Labels
	named := make([]bool, len(p.Slots))
	for slot, s := range p.Slots {
		named[slot] = labels.None(s.Header)
		for _, piece := range s.Pieces {
			named[slot] = named[slot] || labels.None(piece)
		}
		for _, cell := range s.Cells {
			named[slot] = named[slot] || u != nil && cell >= 0 && slices.ContainsFunc(u.Columns, func(c *pattern.Pattern) bool {
				return c.Literal() && plan.FitsHeader(c, p.Lineup.Header.Texts[cell])
			})
		}
	}
	return named
}

// findCandidates looks for the wide columns whose cells are the sums of the others in
// every row of the block.
func (w *Worker) findCandidates() {
	w.candidates = w.candidates[:0]
	p := w.program
	if p.Lineup.Entry.Unpivot == nil || p.Lineup.Entry.Totals == plan.Keep {
		return
	}
	for ci := range p.Columns {
		c := &p.Columns[ci]
		if !c.measure || c.source.From != layout.WideCell {
			continue
		}
		first := len(w.candidates)
		for slot, own := range p.Slots {
			if own.Cells[c.source.Index] >= 0 && !p.named[slot] {
				w.candidates = append(w.candidates, candidate{ci, slot, 0})
			}
		}
		if len(p.Slots) < 3 {
			w.candidates = w.candidates[:first]
			continue
		}
		out := &w.batch.Columns[ci]
		for i := 0; i < w.batch.Rows && len(w.candidates) > first; i++ {
			w.candidates = w.candidates[:first+siftRow(out, w.candidates[first:], i*w.batch.Slots, w.batch.Slots)]
		}
	}
}

// siftRow keeps the candidates whose cell in a row is the sum of the others, and returns
// how many there are.
func siftRow(out *table.Column, list []candidate, at, slots int) int {
	var all uint64
	figure := func(n *table.Number) uint64 {
		if n.Form == table.Large {
			return out.Wide[n.Coef].Modulo(value.MaxPlaces)
		}
		return uint64(n.Coef) * shiftOf(n.Places)
	}
	for k := range slots {
		all += figure(&out.Numbers[at+k])
	}
	kept := 0
	for _, c := range list {
		own := figure(&out.Numbers[at+c.slot])
		if 2*own != all {
			continue
		}
		if own != 0 {
			c.rows++
		}
		list[kept] = c
		kept++
	}
	return kept
}

// uncalledColumns stops for a wide column that is the sum of the others in every row of
// the extract, three rows with a figure there at least.
func (w *Worker) uncalledColumns(s *Shared) {
	t := &s.columns
	if w.batch.Rows > 0 {
		if !t.begun {
			t.begun, t.slots = true, slices.Clone(w.candidates)
		} else {
			kept := t.slots[:0]
			for _, c := range t.slots {
				if k := slices.IndexFunc(w.candidates, func(o candidate) bool { return o.measure == c.measure && o.slot == c.slot }); k >= 0 {
					c.rows += w.candidates[k].rows
					kept = append(kept, c)
				}
			}
			t.slots = kept
		}
	}
	if !w.last {
		return
	}
	for _, c := range t.slots {
		if c.rows < 3 {
			continue
		}
		l := w.program.Lineup
		at := l.Place
		at.Row, at.Header = l.Header.Row, w.program.CellHeader(c.measure, c.slot)
		p := place.At(at, "total or none", "a wide column is the sum of the others in every row, and nothing says that it is a total: "+
			"is it one?").ByRule()
		p.Plan, p.Add = l.Entry.Pos, "total_words: ["+layout.Flow(at.Header)+"]"
		p.Advice = "if it is a total; if it is none: no_totals: [" + layout.Flow(at.Header) + "]"
		w.problems.Add(p)
	}
}
