package treat

import (
	"maps"
	"slices"

	"umbau/internal/core/formula"
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
	rule := &w.program.Columns[ci].spec.Gaps[g.kind]
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
		if w.batch.Columns[ci].Numbers != nil {
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
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
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
		v.Numbers[r.at] = c.fit(r.read)
	}
}

func (w *Worker) textVector(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
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
func textState(c *column, in textInfo, text string) formula.State {
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
		v, own := w.vector(ci), w.program.Columns[ci].level
		switch {
		case own == l:
		case own == table.PerExtract:
			v = v.Constant()
		default:
			for len(w.vectors) <= i {
				w.vectors = append(w.vectors, &formula.Vector{})
			}
			wide, slots := w.vectors[i], w.batch.Slots
			wide.Gather(v, w.program.Columns[ci].spec.Kind.Type(), w.size(l), func(at int) int {
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
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
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
			w.readNumber(ci, i, table.Cell{}, []byte(textOfResult(v, f.Type, at)), &value.Default)
		default:
			out.Codes[i] = s.texts.code(c, []byte(textOfResult(v, f.Type, at)))
			s.odd = s.odd || s.texts.odd(out.Codes[i])
		}
	}
}

// beginMade makes room for n values of a column that is made.
func (w *Worker) beginMade(ci, n int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	out.Level = c.level
	if c.spec.Kind.Numeric() {
		s.reads.reset(w.width(c), c.places())
		out.Texts, out.Codes, out.Wide = nil, out.Codes[:0], out.Wide[:0]
		out.Numbers = resized(out.Numbers, n)
		return
	}
	s.texts = w.memory.of(w.program, ci)
	out.Texts, out.Numbers = s.texts.Dict, nil
	out.Codes = resized(out.Codes, n)
}

// failMade notes an error of a formula.
func (w *Worker) failMade(ci, i int) {
	if w.program.Columns[ci].spec.Kind.Numeric() {
		w.gap(ci, i, table.Cell{}, value.Error)
		return
	}
	s := &w.columns[ci]
	w.batch.Columns[ci].Codes[i] = s.texts.failed()
	s.odd = true
}

func (w *Worker) emptyMade(ci, i int) {
	out := &w.batch.Columns[ci]
	if out.Numbers != nil {
		out.Numbers[i] = table.Number{}
		return
	}
	out.Codes[i] = w.columns[ci].texts.empty()
}

// setMade takes in a number of a formula, as its column wants it.
func (w *Worker) setMade(ci, i int, d value.Decimal) {
	c := &w.program.Columns[ci]
	d = c.fitResult(d)
	if c.spec.Kind == plan.Whole && d.Places() > 0 {
		w.gap(ci, i, table.Cell{}, value.Unclear)
		return
	}
	w.batch.Columns[ci].Set(i, d)
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
		w.factRows(w.program.Columns[ci].level, int(e.at), func(f *table.Fate, _ int) {
			if *f == table.Delivered {
				counts[e.cause]++
			}
		})
	}
	for _, cause := range slices.Sorted(maps.Keys(counts)) {
		w.empties = append(w.empties, Emptied{ci, int(cause), counts[cause]})
	}
}

// mark names the kinds of gap that another column has.
func (w *Worker) mark(ci int) {
	s, out := &w.columns[ci], &w.batch.Columns[ci]
	of := w.program.Columns[ci].needs[0]
	from, marked := &w.columns[of], &w.batch.Columns[of]
	n := w.size(w.program.Columns[ci].level)
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
	code, _ := w.columns[ci].texts.filled(&w.program.Columns[ci], kind.String())
	w.batch.Columns[ci].Codes[i] = code
}

// seenText is the text of a value that is made.
func (w *Worker) seenText(ci, i int) string {
	out := &w.batch.Columns[ci]
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
