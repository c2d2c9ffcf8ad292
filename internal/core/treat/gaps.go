package treat

import (
	"cmp"
	"slices"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// GapCell is a cell without a usable value.
type GapCell struct {
	Place  place.Place
	Column int // of the plan
	Kind   value.Gap
	Text   string
	Row    int // used row of the batch
	cell   int // of the row
}

// gapCells lists the cells of the block without a usable value, in the columns that
// come from cells: row by row, in the order of the cells. Blank wide cells that are
// passed over are not among them. Nothing is decided yet.
func (w *Worker) gapCells() []GapCell {
	var out []GapCell
	for ci := range w.program.Columns {
		c, s, b := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
		if !c.fromCells() {
			continue
		}
		add := func(i int, kind value.Gap) {
			if w.skipped(c, i) {
				return
			}
			row, slot := w.rowAndSlot(c.level, i)
			out = append(out, GapCell{w.place(ci, i), ci, kind, w.textOf(ci, i), row, c.cellColumn(w.program, slot)})
		}
		for _, g := range s.changed {
			add(int(g.at), g.kind)
		}
		if b.Numbers != nil {
			for _, g := range s.gapCells {
				add(int(g.at), g.kind)
			}
			continue
		}
		for i, code := range b.Codes {
			if c.level == table.PerCell && w.program.Slots[i%w.batch.Slots].Itself {
				continue
			}
			if kind := s.texts.of(code).gap; kind != value.NoGap {
				add(i, kind)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b GapCell) int { return cmp.Or(a.Row-b.Row, a.cell-b.cell, a.Column-b.Column) })
	return out
}
