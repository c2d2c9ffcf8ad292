package treat

import (
	"slices"
	"strings"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// SumsBeside warns of wide columns that are, in all of the first rows of an extract, the sums of some beside them, and of
// which nothing says what they are: subtotals, that all would count twice. Or of all, which may be sums so far.
func (p *Program) SumsBeside(rows *table.Rows) (doubts place.List) {
	e := p.Lineup.Entry
	if e.Unpivot == nil || e.Totals == plan.Keep || e.Control {
		return nil
	}
	for ci := range p.Columns {
		if c := &p.Columns[ci]; c.measure && c.source.From == layout.WideCell {
			if p.sumsOf(ci, rows, &doubts); p.Lineup.Widen != nil { // all rows were looked at
				break
			}
		}
	}
	return doubts
}

// sumsOf looks at the wide columns of a measure.
func (p *Program) sumsOf(ci int, rows *table.Rows, doubts *place.List) {
	c, l := &p.Columns[ci], p.Lineup
	var slots []int
	for slot := range p.Slots {
		if p.cellOf(c, slot) >= 0 {
			slots = append(slots, slot)
		}
	}
	slices.SortFunc(slots, func(a, b int) int { return p.cellOf(c, a) - p.cellOf(c, b) }) // what stands beside what
	var families tie.Families
	var growing tie.Growing
	figures := make([]value.Decimal, len(slots))
	for i := range rows.Len() {
		if rows.Lines[i] <= l.Header.Row {
			continue
		}
		cells := rows.Row(i)
		for k, slot := range slots {
			figures[k] = value.Decimal{}
			if cell := l.InExtract(p.cellOf(c, slot)); cell < len(cells) {
				figures[k] = c.figure(rows, i, cell)
			}
		}
		families.Row(figures)
		growing.Row(figures)
	}
	if growing.All() {
		doubts.Add(p.sumsSoFar())
	}
	p.families(ci, slots, &families, doubts)
}

// sumsSoFar asks about wide columns that grow from left to right.
func (p *Program) sumsSoFar() place.Problem {
	at := p.Lineup.Place
	at.Row = p.Lineup.Header.Row
	d := place.At(at, "sum of others", "wide columns grow from left to right in every row: are they sums so far, of all months before, say? "+
		"Then these count several times")
	d.Plan, d.Advice = p.Lineup.Entry.Pos, "if so, ask for the figures of each month: a plan cannot take them apart"
	return d
}

// families asks about wide columns that sum up some beside them, of slots of a measure.
func (p *Program) families(ci int, slots []int, found *tie.Families, doubts *place.List) {
	l := p.Lineup
	d := place.Problem{What: "sum of others", Plan: l.Entry.Pos,
		Message: "wide columns have the sums of some beside them: do they sum them up? Then all counts twice"}
	called := func(k int) bool {
		_, total := l.Entry.Labels.Says(p.CellHeader(ci, slots[k]))
		return total
	}
	var labels, headers []string
	for _, k := range found.Sums(called) {
		if p.named[slots[k]] {
			continue
		}
		at := l.Place
		at.Row, at.Header = l.Header.Row, p.CellHeader(ci, slots[k])
		labels, headers = append(labels, layout.Flow(at.Header)), append(headers, layout.FlowHeader(at.Header))
		if d.Count++; d.Count <= place.MostPlaces {
			d.Places = append(d.Places, at)
		}
	}
	if d.Count == 0 {
		return
	}
	d.Advice = "if so, say in its entry of extracts: others: [" + strings.Join(headers, ", ") + "]; if they are none: no_totals: [" +
		strings.Join(labels, ", ") + "]"
	doubts.Add(d)
}

// figure is the number in a cell; 0 where none can be read.
func (c *column) figure(rows *table.Rows, i, cell int) value.Decimal {
	text := rows.Text(rows.Row(i)[cell])
	if rows.Kind(i, cell) == table.NumberCell {
		d, _, _ := value.Default.Number(text)
		return d
	}
	d, _, _ := c.reading.Number(text)
	return d
}
