package layout

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/shape"
)

// The wide columns of an extract, and the columns of the plan that their cells go to.

// wide finds the wide columns.
func (l *lining) wide() {
	u := l.entry.Unpivot
	if u == nil {
		return
	}
	isTotal := func(string) bool { return false }
	if l.entry.Totals != plan.Keep {
		isTotal = l.entry.Labels.Alone
	}
	wordy := func(i int) bool { return l.wordy(i) && l.ofNumbers(l.header.Texts[i]) }
	wide, totals, unfit, missing := shape.Wide(u, l.header.Texts, l.free, isTotal, wordy)
	l.out.Totals = totals
	l.group(wide)
	for _, h := range unfit {
		p := l.stop(h, "header does not fit", "the wide header does not fit the pattern %q", u.Header)
		p.Plan = u.Pos
		p.Advice = "claim it in a column's headers, leave it out of unpivot.columns, or let the pattern fit it"
	}
	for _, m := range missing {
		if l.absentPattern(m) == plan.Stop {
			p := l.stop("", "missing header", "no header fits %q of unpivot.columns", m)
			p.Plan, p.Add = u.Pos, "absent: leave"
		}
	}
	if l.entry.Absent == plan.Stop {
		if len(wide)+len(unfit)+len(missing) == 0 && len(l.header.Texts) > 0 {
			p := l.stop("", "missing header", "there is no wide column: the plan claims every header of the extract for something else")
			p.Plan = u.Pos
		}
	} else if len(wide)+len(unfit) == 0 {
		at := l.at
		at.Row = l.header.Row
		p := place.At(at, "missing header", "an extract has no wide column: nothing of its rows is delivered")
		p.Plan, p.Advice = u.Pos, "let unpivot fit its wide headers, if it has any; else except in the entry of extracts leaves it out"
		l.out.Doubts.Add(p)
	}
}

// free reports whether header i may be wide: nothing else claims it.
func (l *lining) free(i int) bool {
	h := l.header.Texts[i]
	if l.claimed[i] != nil || l.header.Keys[i] == "" || l.entry.LeftAside(h) {
		return false
	}
	return len(l.owners[i]) == 0 || l.namesCell(i)
}

// namesCell reports whether header i does nothing but name the column of its cells.
func (l *lining) namesCell(i int) bool {
	u := l.entry.Unpivot
	if u.Cells == nil {
		return false
	}
	pieces, ok := u.Header.Fit(l.header.Texts[i])
	return ok && key.Of(u.Cells.Write(func(name string) string { return pieces[name] })) == l.header.Keys[i]
}

// ofNumbers reports whether the cells below a wide header go to a column of numbers.
func (l *lining) ofNumbers(header string) bool {
	pieces, ok := l.entry.Unpivot.Header.Fit(header)
	if !ok {
		return true
	}
	c := l.cellColumn(pieces)
	return c == nil || c.Kind.Numeric()
}

// absentPattern is what the entry says where no header fits an entry of
// unpivot.columns: of the column that its cells would go to.
func (l *lining) absentPattern(p *pattern.Pattern) plan.Remedy {
	u := l.entry.Unpivot
	if u.Cells == nil {
		return l.entry.AbsentOf(u.Cell)
	}
	if pieces, ok := u.Header.Fit(p.String()); ok {
		if c := l.cellColumn(pieces); c != nil {
			return l.entry.AbsentOf(c.Name)
		}
	}
	return l.entry.Absent
}

// findCells finds the columns that wide cells go to: the one that the plan names,
// or those that some header names by the pattern of unpivot.cell.
func (l *lining) findCells() {
	u := l.entry.Unpivot
	switch {
	case u == nil, l.entry.Widen != nil:
	case u.Cells == nil:
		l.cells = []*plan.Column{l.plan.Column(u.Cell)}
	default:
		for _, c := range l.plan.Columns {
			for i, h := range l.header.Texts {
				pieces, ok := u.Header.Fit(h)
				if owned := len(l.owners[i]) > 0 && !l.namesCell(i); ok && !owned && l.cellColumn(pieces) == c {
					l.cells = append(l.cells, c)
					break
				}
			}
		}
	}
}

// cellColumn is the column that the pieces of a wide header name, nil for none.
func (l *lining) cellColumn(pieces map[string]string) *plan.Column {
	u := l.entry.Unpivot
	switch {
	case l.entry.Widen != nil:
		return nil
	case u.Cells == nil:
		return l.cells[0]
	}
	k := key.Of(u.Cells.Write(func(name string) string { return pieces[name] }))
	for _, c := range l.plan.Columns {
		if slices.Contains(keysOf(c, l.entry), k) {
			return c
		}
	}
	return nil
}

// isCell reports whether wide cells go to a column.
func (l *lining) isCell(c *plan.Column) bool {
	return l.entry.Unpivot != nil && slices.Contains(l.cells, c)
}

// group makes slots of the wide columns.
func (l *lining) group(wide []shape.Column) {
	u := l.entry.Unpivot
	if l.entry.Widen != nil {
		l.groupAcross(wide)
		return
	}
	fit, columns := make([]shape.Column, 0, len(wide)), make([]int, 0, len(wide))
	for _, w := range wide {
		c := l.cellColumn(w.Pieces)
		if c == nil {
			p := l.stop(w.Header, "header does not fit", "the wide header names no column by the pattern %q of unpivot.cell", u.Cells)
			p.Plan = u.Pos
			p.Advice = "name what it says in headers of the column, or leave it out of unpivot.columns"
			continue
		}
		fit, columns = append(fit, w), append(columns, slices.Index(l.cells, c))
	}
	named := func(piece string) bool { return u.Cells != nil && u.Cells.Has(piece) && l.plan.Column(piece) == nil }
	slots, clashes := shape.Group(fit, columns, len(l.cells), named)
	for _, c := range clashes {
		p := l.stop(c[1].Header, "header twice", "two wide columns go to one cell of the fact table: %q and %q", c[0].Header, c[1].Header)
		p.Plan, p.Advice = u.Pos, "let unpivot.header tell them apart"
	}
	if u.Itself && len(slots) > 0 {
		itself := shape.Slot{Itself: true, Cells: slices.Repeat([]int{-1}, len(l.cells))}
		slots = append([]shape.Slot{itself}, slots...)
	}
	l.out.Slots = slots
}

// groupAcross makes a slot of each wide column, with a cell for each column that rows may name.
func (l *lining) groupAcross(wide []shape.Column) {
	w := l.out.Widen
	if w == nil {
		return
	}
	for _, c := range wide {
		s := shape.Slot{Header: c.Header, Pieces: c.Pieces}
		for k := range w.Columns {
			s.Cells = append(s.Cells, len(l.header.Texts)+w.At(len(w.Across), k))
		}
		w.Across, l.out.Slots = append(w.Across, c.Index), append(l.out.Slots, s)
	}
}
