package treat

import (
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// What a block takes over from those before it in its extract: rows that could
// not be decided, the heading of a section, the values above.

// takeTail takes over the rows that waited, if the block can decide them, and
// leaves those that it cannot decide itself.
func (w *Worker) takeTail(s *Shared) {
	if len(s.tail) > 0 {
		if !w.last && layout.LastMeasure(w.program.Lineup, &w.rows, w.begin) < w.begin {
			tooMany := w.wait(s, w.begin)
			w.rows.Reset()
			w.rows.Starts = append(w.rows.Starts, 0)
			w.begin = 0
			w.load()
			w.problems.Merge(tooMany)
			return
		}
		joined := table.JoinRows(append(s.tail, w.rows.Slice(w.begin, w.rows.Len()))...)
		s.tail, s.waiting = nil, 0
		joined.Scratch = w.rows.Scratch
		w.rows, w.begin = *joined, 0
		w.load()
	}
	if t := w.sorted.Tail; t < w.rows.Len() {
		w.problems.Merge(w.wait(s, t))
	}
}

// wait lets the rows from an index on wait for what decides them. That they become too many is a problem.
func (w *Worker) wait(s *Shared, from int) (tooMany place.List) {
	rows := w.rows.Slice(from, w.rows.Len())
	before := s.waiting
	s.waiting += rows.Bytes()
	if s.waiting <= table.MostRow {
		s.tail = append(s.tail, table.JoinRows(rows))
		return nil
	}
	if before > table.MostRow {
		return nil // told
	}
	p := place.At(w.program.Lineup.Place, "no measure", "more than %d MB of rows below one another have no measure: whether they "+
		"are rows or footnotes shows only below them", table.MostRow>>20).ByRule()
	p.Places[0].Row = rows.Lines[0]
	p.Plan, p.Add = w.program.Lineup.Entry.Pos, "footnotes: keep"
	p.Advice = "if they are rows; or say with area where the table ends"
	return place.List{p}
}

// takeHeadings gives the rows above the first section row of the block the
// heading of the blocks before.
func (w *Worker) takeHeadings(ci int, s *Shared) {
	c, st, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	headings := w.sorted.Headings
	upTo := w.batch.Rows
	if len(headings) > 0 {
		upTo = min(upTo, headings[0].Used)
	}
	if s.heading != "" && upTo > 0 {
		code := st.texts.code(c, []byte(s.heading))
		for i := range upTo {
			out.Codes[i] = code
		}
	}
	if len(headings) > 0 {
		s.heading = headings[len(headings)-1].Text
	}
	st.odd = true // the blanks may be gone, other texts be odd
}

// above reports whether a gap of the column takes the value above it.
func (c *column) above() bool {
	return c.fromCells() && slices.ContainsFunc(c.spec.Gaps[:], func(r plan.Rule) bool { return r.Remedy == plan.Above })
}

// textsAbove puts the last text above in the place of gaps.
func (w *Worker) textsAbove(ci int, s *Shared) {
	c, st, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	last := s.texts[ci]
	if last == nil {
		last = make([]*string, w.width(c))
		s.texts[ci] = last
	}
	codes := make([]int64, len(last)) // of the last text, -1 where there is none
	for j, text := range last {
		codes[j] = -1
		if text != nil {
			codes[j] = int64(st.texts.code(c, []byte(*text)))
		}
	}
	for i, code := range out.Codes {
		j := i % len(last)
		gap := st.texts.of(code).gap
		switch {
		case gap == value.NoGap:
			codes[j] = int64(code)
		case c.spec.Gaps[gap].Remedy == plan.Above && codes[j] >= 0 && !w.skipped(c, i):
			cell, _ := w.cell(c, i)
			st.changed = append(st.changed, gapCell{int32(i), gap, cell, 0})
			out.Codes[i] = uint32(codes[j])
			st.odd = st.odd || st.texts.odd(uint32(codes[j]))
		}
	}
	for j, code := range codes {
		if code >= 0 {
			text := st.texts.of(uint32(code)).text
			last[j] = &text
		}
	}
}

// numbersAbove puts the last number above in the place of gaps.
func (w *Worker) numbersAbove(ci int, s *Shared) {
	c, st, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	last := s.numbers[ci]
	if last == nil {
		last = make([]*value.Decimal, w.width(c))
		s.numbers[ci] = last
	}
	at := make([]int, len(last)) // where in the block the last number is, -1 for before it
	for j := range at {
		at[j] = -1
	}
	gaps := st.gapCells
	st.gapCells = st.gapCells[:0:0]
	if len(gaps) > 0 {
		st.asRead = slices.Clone(out.Numbers)
	}
	for i := range out.Numbers {
		j := i % len(last)
		if len(gaps) == 0 || int(gaps[0].at) != i {
			at[j] = i
			continue
		}
		g := gaps[0]
		gaps = gaps[1:]
		if at[j] >= 0 {
			d, _ := out.Decimal(at[j])
			last[j], at[j] = &d, -1
		}
		if c.spec.Gaps[g.kind].Remedy != plan.Above || last[j] == nil || w.skipped(c, i) {
			st.gapCells = append(st.gapCells, g)
			continue
		}
		out.Set(i, c.fit(*last[j]))
		st.changed = append(st.changed, g)
	}
	for j, i := range at {
		if i >= 0 {
			d, _ := out.Decimal(i)
			last[j] = &d
		}
	}
}

// width is how many columns of cells feed a column.
func (w *Worker) width(c *column) int {
	if c.level == table.PerCell {
		return w.batch.Slots
	}
	return 1
}

// skipped reports whether value i is a blank wide cell that is passed over.
func (w *Worker) skipped(c *column, i int) bool {
	return c.level == table.PerCell && w.batch.Fates[i] == table.Skipped
}
