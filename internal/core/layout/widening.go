package layout

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/plan"
)

// Widening says how rows become one: the cell under Header names the column that
// the one under Cell goes to. Those columns follow those of the extract, in the
// order of Columns.
type Widening struct {
	Header, Cell int
	Columns      []*plan.Column
}

// Width is how many columns rows have, with those that widen adds.
func (l *Lineup) Width() int {
	if l.Widen == nil {
		return len(l.Header.Texts)
	}
	return len(l.Header.Texts) + len(l.Widen.Columns)
}

// widen finds the two columns by which rows become one.
func (l *lining) widen() {
	e := l.entry.Widen
	if e == nil {
		return
	}
	claim := func(header string) int {
		i := slices.Index(l.header.Keys, key.Of(header))
		if i < 0 {
			p := l.stop("", "missing header", "no header %q, which widen names", header)
			p.Plan = e.Pos
			return 0
		}
		l.claimed[i] = &plan.Column{Name: header}
		return i
	}
	if len(l.header.Texts) == 0 {
		return
	}
	l.out.Widen = &Widening{Header: claim(e.Header), Cell: claim(e.Cell)}
}
