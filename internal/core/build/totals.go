package build

import (
	"fmt"
	"slices"

	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// check records a figure that was compared, and stops where it does not agree.
func (r *run) check(e *record.Extract, c tie.Check) {
	d := c.Difference()
	c.Broken = d.Sign() != 0
	r.summary.Checks.add(c)
	r.write(r.record[record.ChecksFile], record.AppendCheck(nil, r.plan, e, c))
	if !c.Broken {
		return
	}
	p := place.At(place.Place{File: e.File, Sheet: e.Sheet, Row: c.Row, Header: c.Header}, "total", "a %s does not agree with the rows it totals", c.Kind).ByRule()
	if c.Kind == tie.TotalColumn {
		p.Message = "a total column does not agree with the wide cells of its row"
	}
	p.Column = r.plan.Columns[c.Column].Name
	shown := func(d value.Decimal) string { return r.amount(c.Column, d) }
	p.Texts = []string{fmt.Sprintf("says %s, they add up to %s, difference %s", shown(c.Said), shown(c.Have), shown(d))}
	p.Advice = "is a row missing or doubled in the extract? totals: drop leaves totals out without comparing; no_totals names a label that is none"
	if i := slices.IndexFunc(r.inputs, func(in input) bool { return in.file == e.File && in.sheet == e.Sheet }); i >= 0 {
		p.Plan = r.inputs[i].entry.Pos
	}
	p.Add = "totals: drop"
	r.fail(p)
}

// amount writes an amount of a column for a person.
func (r *run) amount(column int, d value.Decimal) string { return r.plan.Columns[column].Shown(d) }

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

// note is a footnote and the row it stands in.
type note struct {
	row  int
	text string
}

// Note is a footnote that was left out, and where.
type Note struct {
	Place place.Place
	Text  string
}

// addNote keeps the first footnotes of the build.
func (s *Summary) addNote(e *record.Extract, n note) {
	s.FootnoteRows++
	if len(s.Footnotes) < place.MostPlaces {
		s.Footnotes = append(s.Footnotes, Note{place.Place{File: e.File, Sheet: e.Sheet, Row: n.row}, n.text})
	}
}
