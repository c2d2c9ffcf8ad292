package fact

import (
	"fmt"
	"slices"

	"umbau/internal/core/keep"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// check records a figure that was compared, and stops where it does not agree.
func (b *build) check(c keep.Check) {
	d := c.Difference()
	c.Broken = d.Sign() != 0
	b.summary.Checks.add(c.Check)
	if b.out != nil {
		b.out.record.Write(record.ChecksFile, record.AppendCheck(nil, b.plan, c.File, c.Sheet, c.Check))
	}
	if !c.Broken {
		return
	}
	p := place.At(place.Place{File: c.File, Sheet: c.Sheet, Row: c.Row, Header: c.Header}, "total",
		"a %s does not agree with the rows it totals", c.Kind).ByRule()
	if c.Kind == tie.TotalColumn {
		p.Message = "a total column does not agree with the wide cells of its row"
	}
	p.Column = b.plan.Columns[c.Column].Name
	shown := func(d value.Decimal) string { return b.plan.Columns[c.Column].Shown(d) }
	p.Texts = []string{fmt.Sprintf("says %s, they add up to %s, difference %s", shown(c.Said), shown(c.Have), shown(d))}
	p.Advice = "is a row missing or doubled in the extract? totals: drop leaves totals out without comparing; no_totals names a " +
		"label that is none"
	if i := slices.IndexFunc(b.inputs, func(in *pass.Input) bool { return in.File == c.File && in.Sheet == c.Sheet }); i >= 0 {
		p.Plan = b.inputs[i].Entry.Pos
	}
	p.Add = "totals: drop"
	b.fail(p)
}

// Checks counts the figures that were compared.
// Checks of controls that agree within an amount, but not to the last digit, are Within.
type Checks struct{ TotalRows, TotalColumns, Controls, Broken, Within int }

func (c *Checks) add(k tie.Check) {
	switch k.Kind {
	case tie.TotalRow:
		c.TotalRows++
	case tie.TotalColumn:
		c.TotalColumns++
	default:
		c.Controls++
	}
	switch {
	case k.Broken:
		c.Broken++
	case k.Within:
		c.Within++
	}
}

// All is how many figures were compared.
func (c *Checks) All() int { return c.TotalRows + c.TotalColumns + c.Controls }
