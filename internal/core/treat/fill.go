package treat

import (
	"umbau/internal/core/formula"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// fillByFormula works out what formulas give to the gaps of a column.
func (w *Worker) fillByFormula(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	s.ready = false
	s.made = s.made[:0]
	for kind := value.Blank; kind < value.Gaps; kind++ {
		rule := &c.spec.Gaps[kind]
		if rule.Formula == nil || !w.hasGap(ci, kind) {
			continue
		}
		v := w.runFormula(rule.Formula, c.puts[kind], c.level)
		if out.Numbers != nil {
			for k := range s.gapCells {
				if g := &s.gapCells[k]; g.kind == kind {
					s.made = append(s.made, c.madeValue(v, rule.Formula.Type, v.At(int(g.at))))
					g.made = int32(len(s.made))
				}
			}
			continue
		}
		for i, code := range out.Codes {
			if s.texts.of(code).gap == kind && !w.skipped(c, i) {
				w.fillText(ci, i, kind, v, rule.Formula.Type)
			}
		}
	}
}

// hasGap reports whether the block has a gap of a kind in a column.
func (w *Worker) hasGap(ci int, kind value.Gap) bool {
	s, out := &w.columns[ci], &w.batch.Columns[ci]
	if out.Numbers != nil {
		for i := range s.gapCells {
			if s.gapCells[i].kind == kind {
				return true
			}
		}
		return false
	}
	for _, code := range out.Codes {
		if s.texts.of(code).gap == kind {
			return true
		}
	}
	return false
}

// madeValue is a value of a formula as a column of numbers wants it.
func (c *column) madeValue(v *formula.Vector, t formula.Type, i int) madeValue {
	m := madeValue{state: v.States[i]}
	if m.state != formula.Valid {
		return m
	}
	m.number = c.fitResult(v.Numbers[i])
	if c.spec.Kind == plan.Whole && m.number.Places() > 0 {
		m.state = formula.Bad
	}
	return m
}

// fillText puts a value of a formula in the place of a gap in a column of texts.
func (w *Worker) fillText(ci, i int, kind value.Gap, v *formula.Vector, t formula.Type) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	code, at := s.texts.empty(), v.At(i)
	switch v.States[at] {
	case formula.Bad:
		return
	case formula.Open:
		s.opens = append(s.opens, int32(i))
	case formula.Valid:
		var ok bool
		if code, ok = s.texts.filled(c, textOfResult(v, t, at)); !ok {
			return
		}
	}
	before := s.texts.of(out.Codes[i]).text
	out.Codes[i] = code
	if v.States[at] != formula.Empty || kind != value.Blank { // which stays empty
		s.changed = append(s.changed, gapCell{int32(i), kind, w.said(c, i, before), 0})
	}
}

// putMade puts what a formula gives in the place of a gap.
func (w *Worker) putMade(ci int, g gapCell) {
	s, i := &w.columns[ci], int(g.at)
	d, state := w.gapValue(ci, &g)
	switch state {
	case formula.Valid:
		w.batch.Columns[ci].Set(i, d)
		s.changed = append(s.changed, g)
	case formula.Empty:
		if g.kind != value.Blank { // which stays empty
			s.changed = append(s.changed, g)
		}
	case formula.Bad:
		w.stop(ci, i, g.kind)
	}
}
