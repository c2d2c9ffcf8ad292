package finished

import (
	"bytes"

	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// kinds is the keeper of what the columns of a table may be.
type kinds struct{ columns []evidence }

// evidence is what the values of one column say of its kind.
type evidence struct {
	Figures int // usable values that are numbers
	Texts   int // those that are none
	Places  int // the most decimal places of a number
	Not     [plan.Flag + 1]bool
}

// kind is the narrowest that reads all usable values; or, where nine of ten are numbers,
// number.
func (e *evidence) kind() plan.Kind {
	if e.Figures+e.Texts == 0 {
		return plan.Text
	}
	for _, k := range []plan.Kind{plan.Year, plan.Whole, plan.Number, plan.Date, plan.Month, plan.Quarter, plan.Flag} {
		if !e.Not[k] {
			return k
		}
	}
	if !e.Not[plan.Name] && e.Figures >= 9*e.Texts { // no figure that begins with a zero
		return plan.Number
	}
	return plan.Text
}

func (e *evidence) add(o *evidence) {
	e.Figures, e.Texts = e.Figures+o.Figures, e.Texts+o.Texts
	e.Places = max(e.Places, o.Places)
	for k := range e.Not {
		e.Not[k] = e.Not[k] || o.Not[k]
	}
}

// see looks at a value.
func (e *evidence) see(text []byte, kind table.CellKind) {
	if len(text) == 0 {
		return
	}
	d, currency, number := value.English.Number(text)
	if !number {
		gap := value.GapOf(string(text))
		if gap != value.Text && gap != value.Unclear {
			return
		}
		e.Texts++
	} else {
		e.Figures++
		e.Places = max(e.Places, d.Places())
	}
	leading := kind != table.NumberCell && leadingZero(text)
	whole := number && d.Shorten().Places() == 0
	e.Not[plan.Number] = e.Not[plan.Number] || !number || leading
	e.Not[plan.Name] = e.Not[plan.Name] || leading
	e.Not[plan.Whole] = e.Not[plan.Whole] || !whole || leading
	e.Not[plan.Year] = e.Not[plan.Year] || !whole || leading || currency != "" || d.Cmp(value.NewDecimal(1900, 0)) < 0 ||
		d.Cmp(value.NewDecimal(2100, 0)) > 0
	for _, k := range []plan.Kind{plan.Date, plan.Month, plan.Quarter, plan.Flag} {
		if !e.Not[k] {
			_, ok := k.Read(&value.Default, string(text))
			e.Not[k] = !ok
		}
	}
}

// leadingZero reports whether figures begin with a zero that a number does not need.
func leadingZero(figures []byte) bool {
	for len(figures) > 0 && (figures[0] == '-' || figures[0] == '+') {
		figures = figures[1:]
	}
	return len(figures) > 1 && figures[0] == '0' && figures[1] >= '0' && figures[1] <= '9'
}

// seePlain is see for a cell with a plain number, of which it says all that is still open;
// ok is false for another cell.
func (e *evidence) seePlain(data []byte, c table.Cell) (ok bool) {
	if !e.Not[plan.Date] || !e.Not[plan.Month] || !e.Not[plan.Quarter] || !e.Not[plan.Flag] {
		return false
	}
	coef, places, _, ok := value.PlainAt(data, c.Off, c.End, '.')
	if !ok || places > 0 && !e.Not[plan.Whole] || leadingZero(data[c.Off:c.End]) {
		return false
	}
	e.Figures++
	e.Places = max(e.Places, places)
	e.Not[plan.Year] = e.Not[plan.Year] || places > 0 || coef < 1900 || coef > 2100
	return true
}

// kindsPart looks at blocks.
type kindsPart struct {
	to   *kinds
	have []evidence
	seen []looked
}

// looked are texts of a column that were looked at, as far as they are few: they have said
// what they say.
type looked struct {
	texts *table.Dict
	what  []counts // by code
}

// counts says as what a text counts.
type counts uint8

const (
	asNothing counts = iota
	asFigure
	asText
	asOpen // nobody knows yet
)

// Part implements pass.Keeper.
func (k *kinds) Part() pass.Part {
	p := &kindsPart{to: k, have: make([]evidence, len(k.columns)), seen: make([]looked, len(k.columns))}
	for i := range p.seen {
		p.seen[i].texts = table.NewDict()
	}
	return p
}

// See implements pass.Part.
func (p *kindsPart) See(b *pass.Block) {
	for i := range p.have {
		not := p.have[i].Not
		p.have[i] = evidence{Not: not}
		p.see(b, i)
	}
}

// see looks at a column.
func (p *kindsPart) see(b *pass.Block, i int) {
	e, seen := &p.have[i], &p.seen[i]
	if seen.texts.Full() {
		seen.texts, seen.what = seen.texts.Next(), nil
	}
	var before []byte
	last := asNothing
	for _, row := range b.Sorted.Used {
		cells := b.Rows.Row(int(row))
		if i >= len(cells) {
			continue
		}
		raw := b.Rows.Text(cells[i])
		if last == asOpen || !bytes.Equal(raw, before) {
			before, last = raw, asOpen
			if len(b.Rows.Kinds) == 0 && e.seePlain(b.Rows.Data, cells[i]) {
				continue
			}
			code, fresh := seen.texts.Code(raw)
			if fresh {
				seen.what = append(seen.what, e.look(raw, b.Rows.Kind(int(row), i)))
				continue
			}
			last = seen.what[code]
		}
		switch last {
		case asFigure:
			e.Figures++
		case asText:
			e.Texts++
		}
	}
}

// look sees a cell, and says as what it counts.
func (e *evidence) look(raw []byte, kind table.CellKind) counts {
	figures, texts := e.Figures, e.Texts
	e.see(value.Trim(raw), kind)
	switch {
	case e.Figures > figures:
		return asFigure
	case e.Texts > texts:
		return asText
	}
	return asNothing
}

// Take implements pass.Part.
func (p *kindsPart) Take() {
	for i := range p.have {
		p.to.columns[i].add(&p.have[i])
	}
}
