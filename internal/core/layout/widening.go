package layout

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/plan"
)

// Widening says how rows become one: the cell under Header names the column that
// the one under Cell goes to. Those columns follow those of the extract, in the
// order of Columns. Where cells stand across, Cell is -1, and these columns follow
// once for each of them.
type Widening struct {
	Header, Cell int
	Columns      []*plan.Column
	Across       []int  // by slot: the wide column
	figures      []bool // by column of the extract: its cell is Header's or a figure, …
	apart        []bool // … or need not agree in rows that become one, for it is left aside beside such
}

// Figure reports whether the cell in column i of the extract says what a figure is, or is one.
func (w *Widening) Figure(i int) bool { return w.figures[i] }

// Apart reports whether rows become one whatever stands in column i of the extract.
func (w *Widening) Apart(i int) bool { return w.apart[i] }

// Cells are the columns of the extract with the cells that rows name, by slot where they stand across.
func (w *Widening) Cells() []int {
	if w.Cell >= 0 {
		return []int{w.Cell}
	}
	return w.Across
}

// At is which of the columns that widen adds has the cells of a slot for one of Columns; slot is 0 where none stand across.
func (w *Widening) At(slot, column int) int { return slot*len(w.Columns) + column }

// InExtract is the column of the extract whose cell goes to column i of a row that is widened, or i itself.
func (l *Lineup) InExtract(i int) int {
	w, n := l.Widen, len(l.Header.Texts)
	if i < n || w == nil {
		return i
	}
	return w.Cells()[(i-n)/len(w.Columns)]
}

// Width is how many columns rows have, with those that widen adds.
func (l *Lineup) Width() int {
	if l.Widen == nil {
		return len(l.Header.Texts)
	}
	return len(l.Header.Texts) + len(l.Widen.Cells())*len(l.Widen.Columns)
}

// widen finds the two columns by which rows become one.
func (l *lining) widen() {
	e := l.entry.Widen
	if e == nil {
		return
	}
	claim := func(header string) int {
		i := slices.Index(l.header.Keys, key.Of(header))
		for j := range l.header.Keys {
			if i < 0 && l.header.Keys[j] == "" && key.Same(l.header.Letter(j), header) {
				i = j
			}
		}
		if i < 0 {
			p := l.stop("", "missing header", "no header %q, which widen names", header)
			p.Plan, p.Advice = e.Pos, "which of its headers is it: "+l.some()+"? Name that in widen"
			return 0
		}
		l.claimed[i] = &plan.Column{Name: header}
		return i
	}
	if len(l.header.Texts) == 0 {
		return
	}
	l.out.Widen = &Widening{Header: claim(e.Header), Cell: -1}
	if l.entry.Unpivot == nil {
		l.out.Widen.Cell = claim(e.Cell)
	}
}

// findFigures notes which columns of the extract have figures, or say what these are. Sums of those across that are left aside are others
// in each row that becomes one.
func (l *lining) findFigures() {
	w := l.out.Widen
	if w == nil {
		return
	}
	w.figures = make([]bool, len(l.header.Texts))
	w.figures[w.Header] = true
	for _, i := range w.Cells() {
		w.figures[i] = true
	}
	for _, t := range l.out.Totals {
		w.figures[t.Index] = true
	}
	w.apart = slices.Clone(w.figures)
	for _, i := range l.out.Dropped {
		w.apart[i] = w.apart[i] || w.Cell < 0
	}
}
