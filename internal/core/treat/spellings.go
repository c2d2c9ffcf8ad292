package treat

import (
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// takeFirsts decides names by their first spelling, in the order in which
// their fact rows stand.
func (w *Worker) takeFirsts(ci int, first *names.FirstSpellings) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	take := func(i int) {
		code := out.Codes[i]
		if !s.texts.open(code) {
			return
		}
		s.texts.marks[code] &^= openMark
		in := s.texts.name(code)
		standard, how, which := first.Take(in.text)
		if c.book == nil {
			in.how = how
			if c.spec.Case == plan.AsSeen {
				in.which = which
			}
		}
		s.texts.SetOut(code, cased(c.spec.Case, standard))
	}
	b := &w.batch
	if b.Rows == 0 || b.Slots == 0 { // an extract without wide columns has no fact rows
		return
	}
	if !w.passed { // fact rows come in the order of the codes
		for i := range out.Codes {
			take(i)
		}
		return
	}
	for row := range b.Rows {
		for slot := range b.Slots {
			if !b.Fates[row*b.Slots+slot].Passed() {
				take(out.At(row, slot, b.Slots))
			}
		}
	}
}

// alive counts the fact rows of a row that are not passed over.
func (w *Worker) alive(row int) int {
	b := &w.batch
	if !w.passed {
		return b.Slots
	}
	n := 0
	for _, f := range b.Fates[row*b.Slots : (row+1)*b.Slots] {
		if !f.Passed() {
			n++
		}
	}
	return n
}

// countNames counts in how many fact rows each name stands, those not skipped.
func (w *Worker) countNames(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	if c.spec.Kind != plan.Name || c.source.From == layout.Absent {
		return
	}
	count := func(i, cells int) {
		code := out.Codes[i]
		in := s.texts.name(code)
		if in == nil || cells == 0 {
			return
		}
		if in.cells == 0 {
			s.touched, in.first = append(s.touched, code), int32(i)
		}
		in.cells += int32(cells)
	}
	b := &w.batch
	switch c.level {
	case table.PerExtract, table.PerSlot:
		for _, s := range w.slotsByRow() {
			count(out.At(0, s.slot, b.Slots), s.rows)
		}
	case table.PerRow:
		for row := range b.Rows {
			count(row, w.alive(row))
		}
	case table.PerCell:
		for i, f := range b.Fates {
			if !f.Passed() {
				count(i, 1)
			}
		}
	}
	amounts, years := w.atStake(ci), w.yearsOf(ci)
	for _, code := range s.touched {
		in := s.texts.name(code)
		seen := names.Seen{Column: ci, Text: in.text, Standard: s.texts.Out(code), How: in.how, Which: in.which, Cells: int(in.cells),
			Again: &in.again, Amount: amounts[code]}
		if w.wants.Where || in.how == names.Unknown {
			first := w.place(ci, int(in.first))
			seen.First = &first
		}
		if years != nil {
			seen.From, seen.To = years[code][0], years[code][1]
		}
		w.names = append(w.names, seen)
		in.cells = 0
	}
}

// slotRows is a slot and in how many rows it has a fact row that is not passed over.
type slotRows struct{ slot, first, rows int }

// slotsByRow are the slots in the order in which their fact rows come.
func (w *Worker) slotsByRow() []slotRows {
	b := &w.batch
	out := make([]slotRows, b.Slots)
	for slot := range out {
		s := slotRows{slot: slot, rows: b.Rows}
		if w.passed {
			s.first, s.rows = b.Rows, 0
			for row := range b.Rows {
				if !b.Fates[row*b.Slots+slot].Passed() {
					s.first = min(s.first, row)
					s.rows++
				}
			}
		}
		out[slot] = s
	}
	slices.SortStableFunc(out, func(a, b slotRows) int { return a.first - b.first })
	return out
}

// yearsOf are the first and the last year in which each name of a column stands in the
// block, by its code, where it is asked where names stand: by the first column of time.
func (w *Worker) yearsOf(ci int) map[uint32][2]string {
	time := slices.IndexFunc(w.program.Columns, func(c column) bool { return c.spec.Kind.Dated() })
	if !w.wants.Where || time < 0 {
		return nil
	}
	years, b := map[uint32][2]string{}, &w.batch
	names, times := &b.Columns[ci], &b.Columns[time]
	for at, f := range b.Fates {
		if f.Passed() {
			continue
		}
		year := times.Texts.Out(times.Codes[times.At(at/b.Slots, at%b.Slots, b.Slots)])
		if len(year) < 4 {
			continue
		}
		code := names.Codes[names.At(at/b.Slots, at%b.Slots, b.Slots)]
		y, known := years[code]
		if year = year[:4]; !known || year < y[0] {
			y[0] = year
		}
		y[1] = max(y[1], year)
		years[code] = y
	}
	return years
}

// atStake sums up what the last measure of the plan, a value rather than a
// quantity, has in the fact rows of each unknown name of a column, by its code.
func (w *Worker) atStake(ci int) map[uint32]*value.Sum {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	measure := w.program.Plan.LastMeasure()
	if measure < 0 || !w.program.Columns[measure].measure ||
		!slices.ContainsFunc(s.touched, func(code uint32) bool { return s.texts.name(code).how == names.Unknown }) {
		return nil
	}
	amounts := map[uint32]*value.Sum{}
	numbers, slots := &w.batch.Columns[measure], w.batch.Slots
	for i, code := range out.Codes {
		if in := s.texts.name(code); in == nil || in.how != names.Unknown {
			continue
		}
		sum := amounts[code]
		if sum == nil {
			sum = &value.Sum{}
			amounts[code] = sum
		}
		w.factRows(c.level, i, func(_ *table.Fate, at int) {
			if numbers.Level == table.PerCell || at%slots == 0 || c.level == table.PerCell {
				numbers.AddTo(sum, numbers.At(at/slots, at%slots, slots))
			}
		})
	}
	return amounts
}
