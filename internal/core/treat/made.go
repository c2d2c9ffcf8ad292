package treat

import (
	"slices"
	"strings"

	"umbau/internal/core/formula"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// make works out a column that is made of others, and what formulas give to the
// gaps of a column.
func (w *Worker) make(ci int) {
	c, s := &w.program.Columns[ci], &w.columns[ci]
	if c.made {
		s.asRead = nil
		s.gapCells, s.rounded, s.currencies, s.changed = s.gapCells[:0], s.rounded[:0], s.currencies[:0], s.changed[:0]
		s.opens, s.empties, s.odd, s.ready = s.opens[:0], s.empties[:0], false, false
		switch {
		case c.spec.Formula != nil:
			w.makeByFormula(ci)
		case c.lookup != nil:
			w.makeByLookup(ci)
		case c.spec.Marks != "":
			w.mark(ci)
		default:
			w.makeOfTexts(ci)
		}
	}
	if c.spec.GapFormulas() {
		w.fillByFormula(ci)
	}
}

// makeOfTexts works out a column that is made of the texts of others. A value that
// is made of one other is worked out once for each that the other has.
func (w *Worker) makeOfTexts(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	n := w.size(c.level)
	out.Level = c.level
	numeric := c.spec.Kind.Numeric()
	if numeric {
		s.reads.reset(w.width(c), c.places())
		out.Texts, out.Codes, out.Wide = nil, out.Codes[:0], out.Wide[:0]
		out.Numbers = resized(out.Numbers, n)
	} else {
		s.texts = w.memory.of(w.program, ci)
		out.Texts, out.Numbers = s.texts.Dict, nil
		out.Codes = resized(out.Codes, n)
	}
	known := map[uint32]uint32{} // the code of the one it is made of → its own
	one := &w.batch.Columns[c.needs[0]]
	short := !numeric && len(c.needs) == 1 && one.Numbers == nil && one.Level == c.level
	for i := range n {
		if short {
			if code, ok := known[one.Codes[i]]; ok {
				out.Codes[i] = code
				s.odd = s.odd || s.texts.odd(code)
				continue
			}
		}
		text := w.made(c, i)
		if numeric {
			out.Numbers[i] = table.Number{}
			if len(value.Trim([]byte(text))) > 0 {
				w.readNumber(ci, i, table.Cell{}, []byte(text), w.readingOf(c, i, text))
			}
			continue
		}
		code := s.texts.code(c, []byte(text))
		out.Codes[i] = code
		s.odd = s.odd || s.texts.odd(code)
		if short {
			known[one.Codes[i]] = code
		}
	}
}

// readingOf is how the text that value i of a column is made of is read: as the cells of
// the entry are, but a number that a sheet stores as such.
func (w *Worker) readingOf(c *column, i int, text string) *value.Reading {
	if !c.ofTexts {
		return &value.Default
	}
	row, slot := w.rowAndSlot(c.level, i)
	for _, need := range c.needs {
		stored := w.storedNumber(need, row, slot)
		// A piece of it, or more around it, is the same number still; what a rule put there is not.
		// Whole ones beside others are written alike everywhere.
		if stored != "" && (strings.Contains(stored, text) || strings.Contains(text, stored)) &&
			(len(c.needs) == 1 || strings.Contains(stored, ".")) {
			return &value.Default
		}
	}
	return c.reading
}

// storedNumber is the number that the sheet stores in the cell that a column's value comes
// from alone, "" where there is none.
func (w *Worker) storedNumber(ci, row, slot int) string {
	c := &w.program.Columns[ci]
	for !c.fromCells() {
		if len(c.needs) != 1 {
			return ""
		}
		ci = c.needs[0]
		c = &w.program.Columns[ci]
	}
	at, _ := w.cellAt(c, w.batch.Columns[ci].At(row, slot, w.batch.Slots))
	if at < 0 || len(w.rows.Kinds) == 0 || w.rows.Kinds[at] != table.NumberCell {
		return ""
	}
	return string(w.rows.Text(w.rows.Cells[at]))
}

// made is the text that value i of a column is made of.
func (w *Worker) made(c *column, i int) string {
	row, slot := w.rowAndSlot(c.level, i)
	if c.spec.Write == nil {
		return w.valueText(c.needs[0], row, slot)
	}
	names := c.spec.Needs()
	return c.spec.Write.Write(func(name string) string {
		return w.valueText(c.needs[slices.Index(names, name)], row, slot)
	})
}

// rowAndSlot tells which row and slot value i of a level belongs to.
func (w *Worker) rowAndSlot(l table.Level, i int) (row, slot int) {
	switch l {
	case table.PerRow:
		return i, 0
	case table.PerSlot:
		return 0, i
	case table.PerCell:
		return i / w.batch.Slots, i % w.batch.Slots
	}
	return 0, 0
}

// valueText is the value that a column will have in a fact row, as it would be
// delivered: gaps filled and numbers rounded.
func (w *Worker) valueText(ci, row, slot int) string {
	c, out := &w.program.Columns[ci], &w.batch.Columns[ci]
	i := out.At(row, slot, w.batch.Slots)
	if out.Numbers == nil {
		if t := w.columns[ci].texts; t.open(out.Codes[i]) {
			return t.of(out.Codes[i]).text // its first spelling is not known yet
		}
		return out.Texts.Out(out.Codes[i])
	}
	d, ok := out.Decimal(i)
	if !ok {
		gaps := w.columns[ci].gapCells
		if k, found := slices.BinarySearchFunc(gaps, i, func(g gapCell, i int) int { return int(g.at) - i }); found {
			if d, state := w.gapValue(ci, &gaps[k]); state == formula.Valid {
				return d.String()
			}
		}
		return ""
	}
	return c.fit(d).String()
}

// placeOfMade is the place of what a value is made of first.
func (w *Worker) placeOfMade(c *column, i int) place.Place {
	row, slot := w.rowAndSlot(c.level, i)
	best := w.program.Lineup.Place
	for _, need := range c.needs { // the first that is a cell
		if at := w.place(need, w.batch.Columns[need].At(row, slot, w.batch.Slots)); at.Row > 0 {
			return at
		}
	}
	if l := c.level; l == table.PerRow || l == table.PerCell {
		best.Row = w.rows.Lines[w.sorted.Used[row]]
	}
	return best
}
