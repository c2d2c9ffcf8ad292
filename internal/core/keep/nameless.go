package keep

import (
	"umbau/internal/core/layout"
	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// nameless is in place of the column of rows that have figures and no label, among the others.
const nameless = -3

// Nameless are the rows that have figures and, of several labels, none: a total that nobody calls one, maybe, of some measures alone.
func (k *Sections) Nameless() []SectionRow { return k.in(nameless) }

// lookForNameless looks for such rows among those of a block in which a blank was filled.
func (p *sectionsPart) lookForNameless(b *pass.Block) {
	l, labels := b.Program.Lineup, 0
	for ci, c := range b.Program.Plan.Columns {
		if s := l.Sources[ci]; s.From == layout.Label && !c.Kind.Numeric() {
			if labels++; c.Gaps[value.Blank].Remedy == plan.Above {
				return
			}
		}
	}
	if labels < 2 || l.Widen != nil { // its rows are made of several
		return
	}
	last, own := -1, -1
	for i := range b.Changes {
		c := &b.Changes[i]
		if c.Kind != value.Blank || int(c.Row) == last {
			continue
		}
		if last = int(c.Row); !figuresAlone(b, last) {
			continue
		}
		if own < 0 {
			own = len(p.rows)
			p.rows = append(p.rows, SectionRow{SectionLabel{nameless, "", true}, "", b.Input.Place(), 0})
			p.rows[own].Place.Row = b.Line(last)
		}
		p.rows[own].Count++
	}
}

// figuresAlone reports whether a row has measures, and no cell but of numbers.
func figuresAlone(b *pass.Block, row int) (any bool) {
	l := b.Program.Lineup
	for i, cell := range b.Rows.Row(int(b.Sorted.Used[row])) {
		if cell.End == cell.Off || len(value.Trim(b.Rows.Text(cell))) == 0 {
			continue
		}
		if !l.Numeric(i) {
			return false
		}
		any = any || l.Measure(i)
	}
	return any
}
