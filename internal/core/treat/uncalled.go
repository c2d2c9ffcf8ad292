package treat

import (
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// columnTotals are the wide columns of an extract that may be the sums of the others, so
// far.
type columnTotals struct {
	Begun bool
	Slots []candidate
}

// candidate is one of them: in a measure, the slot, and how many rows have a figure there.
type candidate struct{ Measure, Slot, Rows int }

// sift leaves those that further rows leave too.
func (t *columnTotals) sift(more []candidate) {
	if !t.Begun {
		t.Begun, t.Slots = true, slices.Clone(more)
		return
	}
	kept := t.Slots[:0]
	for _, c := range t.Slots {
		if k := slices.IndexFunc(more, func(o candidate) bool { return o.Measure == c.Measure && o.Slot == c.Slot }); k >= 0 {
			c.Rows += more[k].Rows
			kept = append(kept, c)
		}
	}
	t.Slots = kept
}

// uncalled reports whether there are enough rows to call the column a total.
func (c *candidate) uncalled() bool { return c.Rows >= 3 }

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
				return c.Literal() && plan.FitsHeader(c, p.Lineup.Header.Texts[p.Lineup.InExtract(cell)])
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
		own := figure(&out.Numbers[at+c.Slot])
		if 2*own != all {
			continue
		}
		if own != 0 {
			c.Rows++
		}
		list[kept] = c
		kept++
	}
	return kept
}

// siftColumns leaves the wide columns that are the sums of the others in the block too.
func (w *Worker) siftColumns(t *columnTotals) {
	if w.batch.Rows > 0 {
		t.sift(w.candidates)
	}
}

// uncalledColumns stops for a wide column that is the sum of the others in every row of
// the extract, three rows with a figure there at least.
func (w *Worker) uncalledColumns(t *columnTotals) {
	if !w.last {
		return
	}
	for _, c := range t.Slots {
		if !c.uncalled() {
			continue
		}
		l := w.program.Lineup
		at := l.Place
		at.Row, at.Header = l.Header.Row, w.program.CellHeader(c.Measure, c.Slot)
		p := place.At(at, "total or none", "a wide column is the sum of the others in every row, and nothing says that it is a total: "+
			"is it one?").ByRule()
		p.Plan, p.Add = l.Entry.Pos, "total_words: ["+layout.Flow(at.Header)+"]"
		p.Advice = "if it is a total; if it is none: no_totals: [" + layout.Flow(at.Header) + "]"
		w.problems.Add(p)
	}
}
