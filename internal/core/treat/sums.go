package treat

import (
	"slices"

	"umbau/internal/core/formula"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// MadeOfMeasures tells which columns of a plan are worked out from measures, by
// formulas or otherwise.
func MadeOfMeasures(p *plan.Plan) []bool {
	out := make([]bool, len(p.Columns))
	for _, ci := range p.Made {
		c := p.Columns[ci]
		if !c.Made() || c.Marks != "" || p.Amount(c) {
			continue
		}
		for _, name := range c.Needs() {
			for i, need := range p.Columns {
				if need.Name == name && (out[i] || p.Amount(need)) {
					out[ci] = true
				}
			}
		}
	}
	return out
}

// putSums puts sums in the place of the measures of delivered fact rows that stand for
// others, and works out what depends on them. Changes keep what they were.
func (w *Worker) putSums() {
	if w.repeats.Sums == nil {
		return
	}
	var rows []int
	for at, f := range w.batch.Fates {
		if f != table.Delivered {
			continue
		}
		sums := w.repeats.Sums(w.rows.Lines[w.sorted.Used[at/w.batch.Slots]], at%w.batch.Slots)
		if sums == nil {
			continue
		}
		if len(rows) == 0 {
			w.keepChanges()
		}
		rows = append(rows, at)
		for i := range sums {
			w.putSum(at, &sums[i])
		}
	}
	if len(rows) > 0 {
		w.rework(rows)
	}
}

// keepChanges keeps what changed values are before there are sums in their place.
func (w *Worker) keepChanges() {
	o := Outcome{Batch: &w.batch}
	for _, list := range [][]Change{w.changes, w.headChanges} {
		for i := range list {
			list[i].after = w.keepText(o.AppendAfter(nil, &list[i]))
			list[i].summed = true
		}
	}
}

func (w *Worker) putSum(at int, s *Summed) {
	w.raise(s.Column)
	out := &w.batch.Columns[s.Column]
	if !s.Filled {
		out.Numbers[at] = table.Number{}
		return
	}
	out.Set(at, w.program.Columns[s.Column].fit(s.Sum.Total()))
}

// raise gives a column a value for each fact row.
func (w *Worker) raise(ci int) {
	out, b := &w.batch.Columns[ci], &w.batch
	if out.Level == table.PerCell {
		return
	}
	n := b.Rows * b.Slots
	codes, numbers := []uint32(nil), []table.Number(nil)
	for at := range n {
		i := out.At(at/b.Slots, at%b.Slots, b.Slots)
		if out.Numbers != nil {
			numbers = append(numbers, out.Numbers[i])
		} else {
			codes = append(codes, out.Codes[i])
		}
	}
	out.Level, out.Codes, out.Numbers = table.PerCell, codes, numbers
}

// rework works out the columns that are made of measures once more, for fact rows
// whose measures are sums now.
func (w *Worker) rework(rows []int) {
	dirty := MadeOfMeasures(w.program.Plan)
	for _, ci := range w.program.Plan.Made {
		c := &w.program.Columns[ci]
		if !dirty[ci] {
			continue
		}
		w.raise(ci)
		if c.spec.Formula == nil {
			for _, at := range rows {
				if c.lookup != nil {
					w.lookAgain(ci, at)
				} else {
					w.setText(ci, at, w.finalText(c, at))
				}
			}
			continue
		}
		var inputs []*formula.Vector
		for _, need := range c.needs {
			inputs = append(inputs, w.finalVector(need, rows))
		}
		v := c.spec.Formula.Run(w.machine, len(rows), inputs)
		for k, at := range rows {
			w.setResult(ci, at, v, v.At(k))
		}
	}
}

// finalText is the text that a column is made of, from values as they are delivered.
func (w *Worker) finalText(c *column, at int) string {
	b := &w.batch
	text := func(ci int) string {
		return string(b.AppendText(nil, &b.Columns[ci], at/b.Slots, at%b.Slots))
	}
	if c.spec.Write == nil {
		return text(c.needs[0])
	}
	names := c.spec.Needs()
	return c.spec.Write.Write(func(name string) string { return text(c.needs[slices.Index(names, name)]) })
}

// finalVector has the values of a column in some fact rows, as they are delivered.
func (w *Worker) finalVector(ci int, rows []int) *formula.Vector {
	b, out, t := &w.batch, &w.batch.Columns[ci], w.program.Columns[ci].spec.Kind.Type()
	v := &formula.Vector{}
	v.Resize(len(rows), t)
	for k, at := range rows {
		i := out.At(at/b.Slots, at%b.Slots, b.Slots)
		v.States[k] = formula.Empty
		if out.Numbers != nil {
			if d, ok := out.Decimal(i); ok {
				v.Numbers[k], v.States[k] = d, formula.Valid
			}
			continue
		}
		text := out.Texts.Out(out.Codes[i])
		if text == "" {
			continue
		}
		v.States[k] = formula.Valid
		switch t {
		case formula.Year:
			v.Numbers[k] = formula.YearNumber(text)
		case formula.Flag:
			v.Flags[k] = text == "true"
		default:
			v.Texts[k] = text
		}
	}
	return v
}

// setText sets the value of a column in a fact row from a text.
func (w *Worker) setText(ci, at int, text string) {
	c, out := &w.program.Columns[ci], &w.batch.Columns[ci]
	if !c.spec.Kind.Numeric() {
		out.Codes[at] = w.columns[ci].texts.code(c, []byte(text))
		return
	}
	out.Numbers[at] = table.Number{}
	if d, _, ok := value.English.Number([]byte(text)); ok {
		w.setMade(ci, at, d)
	}
}

// setResult sets the value of a column in a fact row from that of its formula.
func (w *Worker) setResult(ci, at int, v *formula.Vector, i int) {
	c, out := &w.program.Columns[ci], &w.batch.Columns[ci]
	switch state := v.States[i]; {
	case state == formula.Bad:
		w.setFailed(ci, at)
	case state != formula.Valid:
		w.emptyMade(ci, at)
	case out.Numbers != nil && c.spec.Formula.Type == formula.Number:
		w.setMade(ci, at, v.Numbers[i])
	default:
		w.setText(ci, at, textOfResult(v, c.spec.Formula.Type, i))
	}
}

// setFailed decides a division by zero in a row of sums.
func (w *Worker) setFailed(ci, at int) {
	c, rule := &w.program.Columns[ci], &w.program.Columns[ci].spec.Gaps[value.Error]
	switch {
	case rule.Remedy == plan.Leave:
		w.emptyMade(ci, at)
	case rule.Remedy == plan.Put && rule.Formula == nil && c.spec.Kind.Numeric():
		w.batch.Columns[ci].Set(at, rule.Number)
	case rule.Remedy == plan.Put && rule.Formula == nil:
		w.setText(ci, at, rule.Text)
	default:
		where := w.program.Lineup.Place
		where.Row = w.rows.Lines[w.sorted.Used[at/w.batch.Slots]]
		p := place.At(where, "error gap", "divisions by zero in column %s, once its row was summed", c.spec.Name).ByRule()
		p.Column, p.Plan, p.Add = c.spec.Name, c.spec.Pos, "errors: leave"
		w.problems.Add(p)
	}
}
