package finished

import (
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
	digits := text
	for len(digits) > 0 && (digits[0] == '-' || digits[0] == '+') {
		digits = digits[1:]
	}
	leading := len(digits) > 1 && digits[0] == '0' && digits[1] >= '0' && digits[1] <= '9' && kind != table.NumberCell
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

// kindsPart looks at blocks.
type kindsPart struct {
	to   *kinds
	have []evidence
	seen []map[string]bool // texts that were looked at, by column; as far as they are few
}

// mostSeen is how many texts of a column are known at once.
const mostSeen = 4096

// Part implements pass.Keeper.
func (k *kinds) Part() pass.Part {
	p := &kindsPart{to: k, have: make([]evidence, len(k.columns)), seen: make([]map[string]bool, len(k.columns))}
	for i := range p.seen {
		p.seen[i] = map[string]bool{}
	}
	return p
}

// See implements pass.Part.
func (p *kindsPart) See(b *pass.Block) {
	for i := range p.have {
		e := &p.have[i]
		*e = evidence{}
		seen := p.seen[i]
		for _, row := range b.Sorted.Used {
			cells := b.Rows.Row(int(row))
			if i >= len(cells) {
				continue
			}
			text := value.Trim(b.Rows.Text(cells[i]))
			if len(text) == 0 {
				continue
			}
			if number, again := seen[string(text)]; again { // it has said what it says
				if number {
					e.Figures++
				} else {
					e.Texts++
				}
				continue
			}
			before := *e
			e.see(text, b.Rows.Kind(int(row), i))
			if len(seen) < mostSeen && (e.Figures > before.Figures || e.Texts > before.Texts) {
				seen[string(text)] = e.Figures > before.Figures
			}
		}
	}
}

// Take implements pass.Part.
func (p *kindsPart) Take() {
	for i := range p.have {
		p.to.columns[i].add(&p.have[i])
	}
}
