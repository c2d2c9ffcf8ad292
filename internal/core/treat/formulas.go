package treat

import (
	"umbau/internal/core/formula"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Formulas see the values of other columns as these will be: gaps filled, numbers
// rounded, names standardised. A gap that a rule stops, drops or holds is open: it
// decides nothing, so that a filter never passes over a row because of it.

// MostPlaces is how many places a formula column without decimals has at most.
const MostPlaces = 15

// madeValue is what a formula gives to a gap.
type madeValue struct {
	state  formula.State
	number value.Decimal
}

// emptied is an empty value of a formula, and the column that made it so.
type emptied struct {
	at    int32
	cause int32
}

// Emptied counts the fact rows in which a formula is empty because a column is.
type Emptied struct{ Column, Because, Count int }

// gapValue is what a gap of a column of numbers becomes.
func (w *Worker) gapValue(ci int, g *gapCell) (value.Decimal, formula.State) {
	rule := &w.Program.Columns[ci].spec.Gaps[g.kind]
	switch {
	case rule.Remedy == plan.Put && rule.Formula == nil:
		return rule.Number, formula.Valid
	case rule.Remedy == plan.Put && g.made > 0:
		m := &w.columns[ci].made[g.made-1]
		return m.number, m.state
	case rule.Remedy == plan.Leave:
		return value.Decimal{}, formula.Empty
	}
	return value.Decimal{}, formula.Open
}

// vector returns the values of a column at its own level.
func (w *Worker) vector(ci int) *formula.Vector {
	s := &w.columns[ci]
	if !s.ready {
		if w.Batch.Columns[ci].Numbers != nil {
			w.numberVector(ci)
		} else {
			w.textVector(ci)
		}
		for _, i := range s.opens {
			s.vector.States[i] = formula.Open
		}
		s.ready = true
	}
	return &s.vector
}

func (w *Worker) numberVector(ci int) {
	c, s, out := &w.Program.Columns[ci], &w.columns[ci], &w.Batch.Columns[ci]
	v := &s.vector
	v.Resize(len(out.Numbers), formula.Number)
	for i := range out.Numbers {
		d, ok := out.Decimal(i)
		if v.Numbers[i], v.States[i] = d, formula.Valid; !ok {
			v.States[i] = formula.Empty
		}
	}
	for i := range s.gapCells {
		g := &s.gapCells[i]
		v.Numbers[g.at], v.States[g.at] = w.gapValue(ci, g)
	}
	for _, r := range s.rounded {
		v.Numbers[r.at], _ = r.read.Rescale(c.spec.Decimals)
	}
}

func (w *Worker) textVector(ci int) {
	c, s, out := &w.Program.Columns[ci], &w.columns[ci], &w.Batch.Columns[ci]
	v, t := &s.vector, c.spec.Kind.Type()
	v.Resize(len(out.Codes), t)
	for i, code := range out.Codes {
		in := s.texts.of(code)
		text := out.Texts.Out(code)
		if s.texts.open(code) || in.odd && in.gap == value.NoGap { // a name that is not decided, as it stands
			text = in.text
		}
		v.States[i] = textState(c, in, text)
		switch {
		case v.States[i] != formula.Valid:
		case t == formula.Year:
			v.Numbers[i] = formula.YearNumber(text)
		case t == formula.Flag:
			v.Flags[i] = text == "true"
		default:
			v.Texts[i] = text
		}
	}
}

// textState says whether a text has a value.
func textState(c *column, in *textInfo, text string) formula.State {
	if in.gap != value.NoGap {
		rule := &c.spec.Gaps[in.gap]
		if rule.Formula != nil || rule.Remedy != plan.Put && rule.Remedy != plan.Leave {
			return formula.Open
		}
	}
	if text == "" {
		return formula.Empty
	}
	return formula.Valid
}

// runFormula works a formula out at a level, from the columns that it needs.
func (w *Worker) runFormula(f *formula.Formula, needs []int, l table.Level) *formula.Vector {
	w.inputs = w.inputs[:0]
	for i, ci := range needs {
		v, own := w.vector(ci), w.Program.Columns[ci].level
		switch {
		case own == l:
		case own == table.PerExtract:
			v = v.Constant()
		default:
			for len(w.vectors) <= i {
				w.vectors = append(w.vectors, &formula.Vector{})
			}
			wide, slots := w.vectors[i], w.Batch.Slots
			wide.Gather(v, w.Program.Columns[ci].spec.Kind.Type(), w.size(l), func(at int) int {
				if own == table.PerRow {
					return at / slots
				}
				return at % slots
			})
			v = wide
		}
		w.inputs = append(w.inputs, v)
	}
	return f.Run(w.machine, w.size(l), w.inputs)
}

// textOfResult writes a value of a formula as a text.
func textOfResult(v *formula.Vector, t formula.Type, i int) string {
	switch t {
	case formula.Number, formula.Year:
		return v.Numbers[i].Round(MostPlaces).Shorten().String()
	case formula.Flag:
		if v.Flags[i] {
			return "true"
		}
		return "false"
	}
	return v.Texts[i]
}

// makeByFormula works out a column that a formula makes.
func (w *Worker) makeByFormula(ci int) {
	c, s, out := &w.Program.Columns[ci], &w.columns[ci], &w.Batch.Columns[ci]
	f := c.spec.Formula
	v := w.runFormula(f, c.needs, c.level)
	n := w.size(c.level)
	w.beginMade(ci, n)
	numeric := c.spec.Kind.Numeric()
	for i := range n {
		at := v.At(i)
		switch state := v.States[at]; {
		case state == formula.Bad:
			w.failMade(ci, i)
		case state != formula.Valid:
			w.emptyMade(ci, i)
			if state == formula.Open {
				s.opens = append(s.opens, int32(i))
			} else if cause := w.causeOf(c.needs, i); cause >= 0 {
				s.empties = append(s.empties, emptied{int32(i), int32(cause)})
			}
		case numeric && f.Type == formula.Number:
			w.setMade(ci, i, v.Numbers[at])
		case numeric:
			w.readNumber(ci, i, table.Cell{}, []byte(textOfResult(v, f.Type, at)), &value.English)
		default:
			out.Codes[i] = s.texts.code(c, []byte(textOfResult(v, f.Type, at)))
			s.odd = s.odd || s.texts.of(out.Codes[i]).odd
		}
	}
}

// beginMade makes room for n values of a column that is made.
func (w *Worker) beginMade(ci, n int) {
	c, s, out := &w.Program.Columns[ci], &w.columns[ci], &w.Batch.Columns[ci]
	out.Level = c.level
	if c.spec.Kind.Numeric() {
		s.reads.reset(w.width(c))
		out.Texts, out.Codes, out.Wide = nil, out.Codes[:0], out.Wide[:0]
		out.Numbers = resized(out.Numbers, n)
		return
	}
	s.texts = w.dict(ci)
	out.Texts, out.Numbers = s.texts.Dict, nil
	out.Codes = resized(out.Codes, n)
}

// failMade notes an error of a formula.
func (w *Worker) failMade(ci, i int) {
	if w.Program.Columns[ci].spec.Kind.Numeric() {
		w.gap(ci, i, table.Cell{}, value.Error)
		return
	}
	s := &w.columns[ci]
	w.Batch.Columns[ci].Codes[i] = s.texts.failed()
	s.odd = true
}

func (w *Worker) emptyMade(ci, i int) {
	out := &w.Batch.Columns[ci]
	if out.Numbers != nil {
		out.Numbers[i] = table.Number{}
		return
	}
	out.Codes[i] = w.columns[ci].texts.empty()
}

// setMade takes in a number of a formula, as its column wants it.
func (w *Worker) setMade(ci, i int, d value.Decimal) {
	c := &w.Program.Columns[ci]
	if c.spec.Decimals >= 0 {
		d, _ = d.Rescale(c.spec.Decimals)
	} else {
		d = d.Round(MostPlaces).Shorten()
	}
	if c.spec.Kind == plan.Whole && d.Places() > 0 {
		w.gap(ci, i, table.Cell{}, value.Unclear)
		return
	}
	w.Batch.Columns[ci].Set(i, d)
}

// causeOf is the first column that the formula that ran last found empty at value
// i, -1 for none.
func (w *Worker) causeOf(needs []int, i int) int {
	for k, v := range w.inputs {
		if v.States[v.At(i)] == formula.Empty {
			return needs[k]
		}
	}
	return -1
}

// countEmpties counts the fact rows that a formula leaves empty.
func (w *Worker) countEmpties(ci int) {
	counts := map[int32]int{}
	for _, e := range w.columns[ci].empties {
		w.factRows(w.Program.Columns[ci].level, int(e.at), func(f *table.Fate, _ int) {
			if *f == table.Delivered {
				counts[e.cause]++
			}
		})
	}
	for cause, n := range counts {
		w.Empties = append(w.Empties, Emptied{ci, int(cause), n})
	}
}

// fillByFormula works out what formulas give to the gaps of a column.
func (w *Worker) fillByFormula(ci int) {
	c, s, out := &w.Program.Columns[ci], &w.columns[ci], &w.Batch.Columns[ci]
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
	s, out := &w.columns[ci], &w.Batch.Columns[ci]
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
	m.number = v.Numbers[i]
	if c.spec.Decimals >= 0 {
		m.number, _ = m.number.Rescale(c.spec.Decimals)
	} else {
		m.number = m.number.Round(MostPlaces).Shorten()
	}
	if c.spec.Kind == plan.Whole && m.number.Places() > 0 {
		m.state = formula.Bad
	}
	return m
}

// fillText puts a value of a formula in the place of a gap in a column of texts.
func (w *Worker) fillText(ci, i int, kind value.Gap, v *formula.Vector, t formula.Type) {
	c, s, out := &w.Program.Columns[ci], &w.columns[ci], &w.Batch.Columns[ci]
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
	out.Codes[i] = code
	if v.States[at] != formula.Empty || kind != value.Blank { // which stays empty
		cell, _ := w.cell(c, i)
		s.changed = append(s.changed, gapCell{int32(i), kind, cell, 0})
	}
}

// putMade puts what a formula gives in the place of a gap.
func (w *Worker) putMade(ci int, g gapCell) {
	s, i := &w.columns[ci], int(g.at)
	d, state := w.gapValue(ci, &g)
	switch state {
	case formula.Valid:
		w.Batch.Columns[ci].Set(i, d)
		s.changed = append(s.changed, g)
	case formula.Empty:
		if g.kind != value.Blank { // which stays empty
			s.changed = append(s.changed, g)
		}
	case formula.Bad:
		w.stop(ci, i, g.kind)
	}
}

// mark names the kinds of gap that another column has.
func (w *Worker) mark(ci int) {
	s, out := &w.columns[ci], &w.Batch.Columns[ci]
	of := w.Program.Columns[ci].needs[0]
	from, marked := &w.columns[of], &w.Batch.Columns[of]
	n := w.size(w.Program.Columns[ci].level)
	w.beginMade(ci, n)
	empty := s.texts.empty()
	for i := range out.Codes {
		out.Codes[i] = empty
		if marked.Numbers == nil {
			w.markValue(ci, i, from.texts.of(marked.Codes[i]).gap)
		}
	}
	for _, gaps := range [][]gapCell{from.gapCells, from.changed} {
		for _, g := range gaps {
			w.markValue(ci, int(g.at), g.kind)
		}
	}
}

func (w *Worker) markValue(ci, i int, kind value.Gap) {
	if kind == value.NoGap {
		return
	}
	code, _ := w.columns[ci].texts.filled(&w.Program.Columns[ci], kind.String())
	w.Batch.Columns[ci].Codes[i] = code
}

// seenText is the text of a value that is made.
func (w *Worker) seenText(ci, i int) string {
	out := &w.Batch.Columns[ci]
	if out.Numbers != nil || w.columns[ci].texts == nil {
		return ""
	}
	return w.columns[ci].texts.of(out.Codes[i]).text
}

// forget lets all vectors be worked out again.
func (w *Worker) forget() {
	for i := range w.columns {
		w.columns[i].ready = false
	}
}

// filter passes over the fact rows that are not wanted. What is not decided yet
// filters nothing.
func (w *Worker) filter() {
	w.filtered = true
	l, f := w.Program.wanted, w.Program.Plan.Rows.Only
	v := w.runFormula(f, w.Program.only, l)
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

// stopFilter reports a division by zero.
func (w *Worker) stopFilter(i int) {
	at := w.Program.Lineup.Place
	if l := w.Program.wanted; l == table.PerRow || l == table.PerCell {
		row, _ := w.rowAndSlot(l, i)
		at.Row = w.Rows.Lines[w.Sorted.Used[row]]
	}
	p := place.At(at, "filter", "rows.only divides by zero").ByRule()
	p.Plan, p.Advice = w.Program.Plan.Rows.OnlyPos, "ask for the divisor first: if(quantity = 0, …)"
	w.Problems.Add(p)
}

// dropZeros takes out fact rows whose every measure is zero or empty, if the plan
// says so.
func (w *Worker) dropZeros() {
	measures := w.Program.Measures()
	if !w.Program.Plan.Rows.DropZeros || len(measures) == 0 {
		return
	}
	w.forget()
	for at, f := range w.Batch.Fates {
		if f != table.Delivered {
			continue
		}
		zero := true
		for _, ci := range measures {
			v := w.vector(ci)
			i := w.Batch.Columns[ci].At(at/w.Batch.Slots, at%w.Batch.Slots, w.Batch.Slots)
			zero = zero && (v.States[i] == formula.Empty || v.States[i] == formula.Valid && v.Numbers[i].Sign() == 0)
		}
		if zero {
			w.leave(at, table.Zero)
		}
	}
}

// endRepeats takes out fact rows for which another one is delivered.
func (w *Worker) endRepeats() {
	if w.Repeats == nil {
		return
	}
	slots := w.Batch.Slots
	for at, f := range w.Batch.Fates {
		if f != table.Delivered {
			continue
		}
		if fate := w.Repeats(w.Rows.Lines[w.Sorted.Used[at/slots]], at%slots); fate != table.Delivered {
			w.leave(at, fate)
		}
	}
}

// leave takes a fact row out for no column's sake.
func (w *Worker) leave(at int, fate table.Fate) {
	w.Batch.Fates[at] = fate
	w.Gone = append(w.Gone, Row{Index: int32(at), Fate: fate, Column: -1})
}
