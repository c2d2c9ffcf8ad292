package treat

import (
	"umbau/internal/core/formula"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// filter passes over the fact rows that are not wanted. What is not decided yet
// filters nothing.
func (w *Worker) filter() {
	w.filtered = true
	l, f := w.program.wanted, w.program.Plan.Rows.Only
	v := w.runFormula(f, w.program.only, l)
	for i := range w.size(l) {
		at := v.At(i)
		switch state := v.States[at]; {
		case state == formula.Bad:
			w.stopFilter(i)
		case state == formula.Empty || state == formula.Valid && !v.Flags[at]:
			w.passed = true
			w.factRows(l, i, func(f *table.Fate, _ int) {
				if *f == table.Delivered {
					*f = table.Filtered
				}
			})
		}
	}
}

// filterKind is the kind of problem of a filter that divides by zero.
const filterKind = "filter"

// stopFilter reports a division by zero.
func (w *Worker) stopFilter(i int) {
	at := w.program.Lineup.Place
	if l := w.program.wanted; l == table.PerRow || l == table.PerCell {
		row, _ := w.rowAndSlot(l, i)
		at.Row = w.rows.Lines[w.sorted.Used[row]]
	}
	p := place.At(at, filterKind, "rows.only divides by zero").ByRule()
	p.Plan, p.Advice = w.program.Plan.Rows.OnlyPos, "ask for the divisor first: if(quantity = 0, …)"
	w.problems.Add(p)
}

// dropZeros takes out fact rows whose every measure is zero or empty, if the plan
// says so.
func (w *Worker) dropZeros() {
	measures := w.program.Measures()
	if !w.program.Plan.Rows.DropZeros || len(measures) == 0 {
		return
	}
	w.forget()
	for at, f := range w.batch.Fates {
		if f != table.Delivered {
			continue
		}
		zero := true
		for _, ci := range measures {
			v := w.vector(ci)
			i := w.batch.Columns[ci].At(at/w.batch.Slots, at%w.batch.Slots, w.batch.Slots)
			zero = zero && (v.States[i] == formula.Empty || v.States[i] == formula.Valid && v.Numbers[i].Sign() == 0)
		}
		if zero {
			w.leave(at, table.Zero)
		}
	}
}

// endRepeats takes out fact rows for which another one is delivered.
func (w *Worker) endRepeats() {
	if w.repeats.Fate == nil {
		return
	}
	slots := w.batch.Slots
	for at, f := range w.batch.Fates {
		if f != table.Delivered {
			continue
		}
		if fate := w.repeats.Fate(w.rows.Lines[w.sorted.Used[at/slots]], at%slots); fate != table.Delivered {
			w.leave(at, fate)
		}
	}
}

// leave takes a fact row out for no column's sake.
func (w *Worker) leave(at int, fate table.Fate) {
	w.batch.Fates[at] = fate
	w.gone = append(w.gone, Row{Index: int32(at), Fate: fate, Column: -1})
}
