package treat

import (
	"slices"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// make works out a column that is made of others. A value that is made of one
// other is worked out once for each that the other has.
func (w *Worker) make(ci int) {
	c, s, out := &w.Program.Columns[ci], &w.columns[ci], &w.Batch.Columns[ci]
	n := w.size(c.level)
	out.Level = c.level
	numeric := c.spec.Kind.Numeric()
	if numeric {
		s.reads.reset(w.width(c))
		out.Texts, out.Codes, out.Wide = nil, out.Codes[:0], out.Wide[:0]
		out.Numbers = resized(out.Numbers, n)
	} else {
		s.texts = w.dict(ci)
		out.Texts, out.Numbers = s.texts.Dict, nil
		out.Codes = resized(out.Codes, n)
	}
	known := map[uint32]uint32{} // the code of the one it is made of → its own
	one := &w.Batch.Columns[c.needs[0]]
	short := !numeric && len(c.needs) == 1 && one.Numbers == nil && one.Level == c.level
	for i := range n {
		if short {
			if code, ok := known[one.Codes[i]]; ok {
				out.Codes[i] = code
				s.odd = s.odd || s.texts.info[code].odd
				continue
			}
		}
		text := w.made(c, i)
		if numeric {
			out.Numbers[i] = table.Number{}
			if len(value.Trim([]byte(text))) > 0 {
				w.readNumber(ci, i, table.Cell{}, []byte(text))
			}
			continue
		}
		code := s.texts.code(c, []byte(text))
		out.Codes[i] = code
		s.odd = s.odd || s.texts.info[code].odd
		if short {
			known[one.Codes[i]] = code
		}
	}
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
		return i / w.Batch.Slots, i % w.Batch.Slots
	}
	return 0, 0
}

// valueText is the value that a column will have in a fact row, as it would be
// delivered: gaps filled and numbers rounded.
func (w *Worker) valueText(ci, row, slot int) string {
	c, out := &w.Program.Columns[ci], &w.Batch.Columns[ci]
	i := out.At(row, slot, w.Batch.Slots)
	if out.Numbers == nil {
		return out.Texts.Out[out.Codes[i]]
	}
	d, ok := out.Decimal(i)
	if !ok {
		gaps := w.columns[ci].gapCells
		if k, found := slices.BinarySearchFunc(gaps, i, func(g gapCell, i int) int { return int(g.at) - i }); found {
			return c.spec.Gaps[gaps[k].kind].Text
		}
		return ""
	}
	if c.spec.Decimals >= 0 {
		d, _ = d.Rescale(c.spec.Decimals)
	}
	return d.String()
}

// placeOfMade is the place of what a value is made of first.
func (w *Worker) placeOfMade(c *column, i int) place.Place {
	row, slot := w.rowAndSlot(c.level, i)
	need := c.needs[0]
	return w.place(need, w.Batch.Columns[need].At(row, slot, w.Batch.Slots))
}
