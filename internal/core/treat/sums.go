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

// PutSum puts sums in the place of the measures of a delivered fact row, before
// Rework works out what depends on them.
func (w *Worker) PutSum(at, ci int, sum value.Decimal, filled bool) {
	w.raise(ci)
	out := &w.Batch.Columns[ci]
	if !filled {
		out.Numbers[at] = table.Number{}
		return
	}
	if spec := w.Program.Columns[ci].spec; spec.Decimals < 0 {
		sum = sum.Shorten()
	}
	out.Set(at, sum)
}

// raise gives a column a value for each fact row.
func (w *Worker) raise(ci int) {
	out, b := &w.Batch.Columns[ci], &w.Batch
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

// Rework works out the columns that are made of measures once more, for fact rows
// whose measures are sums now.
func (w *Worker) Rework(rows []int) {
	dirty := MadeOfMeasures(w.Program.Plan)
	for _, ci := range w.Program.Plan.Made {
		c := &w.Program.Columns[ci]
		if !dirty[ci] {
			continue
		}
		w.raise(ci)
		if c.spec.Formula == nil {
			for _, at := range rows {
				w.setText(ci, at, w.finalText(c, at))
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
	b := &w.Batch
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
	b, out, t := &w.Batch, &w.Batch.Columns[ci], w.Program.Columns[ci].spec.Kind.Type()
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
	c, out := &w.Program.Columns[ci], &w.Batch.Columns[ci]
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
	c, out := &w.Program.Columns[ci], &w.Batch.Columns[ci]
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
	c, rule := &w.Program.Columns[ci], &w.Program.Columns[ci].spec.Gaps[value.Error]
	switch {
	case rule.Remedy == plan.Leave:
		w.emptyMade(ci, at)
	case rule.Remedy == plan.Put && rule.Formula == nil && c.spec.Kind.Numeric():
		w.Batch.Columns[ci].Set(at, rule.Number)
	case rule.Remedy == plan.Put && rule.Formula == nil:
		w.setText(ci, at, rule.Text)
	default:
		where := w.Program.Lineup.Place
		where.Row = w.Rows.Lines[w.Sorted.Used[at/w.Batch.Slots]]
		p := place.At(where, "error gap", "divisions by zero in column %s, once its row was summed", c.spec.Name).ByRule()
		p.Column, p.Plan, p.Add = c.spec.Name, c.spec.Pos, "errors: leave"
		w.Problems.Add(p)
	}
}
