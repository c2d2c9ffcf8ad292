package treat

import (
	"fmt"
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// stop is what stops the build in one column and for one reason.
type stop struct {
	column int
	gap    value.Gap // NoGap: an unknown name
	count  int
	first  []int // values of the column
	texts  []string
	other  map[string]int // of cells that are unclear: the ways in which they would read
}

func (w *Worker) stop(ci, i int, gap value.Gap) {
	k := slices.IndexFunc(w.stops, func(s stop) bool { return s.column == ci && s.gap == gap })
	if k < 0 {
		k = len(w.stops)
		w.stops = append(w.stops, stop{column: ci, gap: gap})
	}
	s := &w.stops[k]
	s.count += w.weight(ci, i)
	w.factRows(w.program.Columns[ci].level, i, func(_ *table.Fate, at int) { w.markStopped(at) })
	if c := &w.program.Columns[ci]; gap == value.Unclear && (c.spec.Kind.Numeric() || c.spec.Kind.Dated()) && c.fromCells() {
		if s.other == nil {
			s.other = map[string]int{}
		}
		for _, example := range c.reading.Otherwise(w.textOf(ci, i), c.spec.Kind.Numeric()) {
			s.other[example]++
		}
	}
	if len(s.first) >= place.MostPlaces {
		return
	}
	text := w.textOf(ci, i)
	if gap == value.NoGap && slices.Contains(s.texts, text) {
		return
	}
	s.first, s.texts = append(s.first, i), append(s.texts, text)
}

// markStopped notes that a rule stops a fact row: it has no value to compare.
func (w *Worker) markStopped(at int) {
	if len(w.stopped) == 0 {
		w.stopped = resized(w.stopped, len(w.batch.Fates))
		clear(w.stopped)
	}
	w.stopped[at] = true
}

// weight is how many cells a stop of a value counts for: what stands above the rows, in
// a header or a path, does in each fact row that is still there.
func (w *Worker) weight(ci, i int) int {
	l := w.program.Columns[ci].level
	if l == table.PerRow || l == table.PerCell {
		return 1
	}
	n := 0
	w.factRows(l, i, func(f *table.Fate, _ int) {
		if f.InFact() {
			n++
		}
	})
	return n
}

func (w *Worker) reportStops() {
	for _, s := range w.stops {
		c := w.program.Columns[s.column].spec
		p := place.Problem{Count: s.count, Column: c.Name, Texts: s.texts, Rule: true, Plan: c.Pos, Other: s.other}
		for _, i := range s.first {
			p.Places = append(p.Places, w.placeOfGap(s.column, i))
		}
		if s.gap == value.NoGap {
			p.What, p.Once = "unknown name", true
			p.Message = fmt.Sprintf("names of column %s are not in the book %s", c.Name, c.Book)
			p.Advice = "umbau names review decides them one by one; or add a line seen,standard to the book for each"
			p.Add = "unknown: hold"
			if !c.Unknown.Pos.IsZero() {
				p.Plan = c.Unknown.Pos
			}
		} else {
			gapStop(&p, c, s.gap)
			l := w.program.Columns[s.column].level
			p.Once = l == table.PerExtract || l == table.PerSlot // the same in every block
			if l == table.PerSlot && p.Add != "" && len(p.Places) > 0 {
				p.Advice += "; if its wide column is none of these, others: [" + layout.FlowHeader(p.Places[0].Header) +
					"] in the entry of extracts leaves it aside"
			}
		}
		w.problems.Add(p)
	}
}

var gapMessages = [value.Gaps]string{
	value.Blank:   "blank cells in column %s",
	value.Null:    "words for nothing in column %s",
	value.Text:    "words in column %s, which wants a %s",
	value.Unclear: "cells of column %s that may be a %[2]s, but cannot be read for certain",
	value.Error:   "spreadsheet errors in column %s",
	value.Missing: "keys of column %s are not in its reference",
}

// gapStop words the stop for a gap.
func gapStop(p *place.Problem, c *plan.Column, gap value.Gap) {
	p.What = gap.String() + " gap"
	wants := c.Kind.String()
	if c.Kind == plan.Whole {
		wants = "whole number"
	}
	p.Message = fmt.Sprintf(gapMessages[gap], c.Name, wants)
	if gap < value.Text || gap >= value.Error {
		p.Message = fmt.Sprintf(gapMessages[gap], c.Name)
	}
	if gap == value.Missing {
		p.What, p.Once = "missing key", true
		p.Message = fmt.Sprintf("keys of column %s are not in the reference %s", c.Name, c.Lookup.Of)
		p.Plan = c.Lookup.Pos
	}
	if gap == value.Error && c.Formula != nil {
		p.Message = fmt.Sprintf("divisions by zero in column %s", c.Name)
	}
	if rule := c.Gaps[gap]; rule.Remedy == plan.Above {
		p.Plan, p.Message = rule.Pos, fmt.Sprintf("%s cells of column %s have no value above them to take", gap, c.Name)
		p.Advice = "fill them in the extract, or choose another rule"
		return
	} else if rule.Formula != nil {
		p.Plan, p.Message = rule.Pos, fmt.Sprintf("%s cells of column %s get no value from the formula that fills them: it divides by "+
			"zero, or its value is no %s", gap, c.Name, wants)
		p.Advice = "mend the formula, or choose another rule"
		return
	} else if rule.Remedy == plan.Stop {
		p.Plan = rule.Pos
		p.Advice = fmt.Sprintf("the plan says %s: stop; mend the cells, or change the rule", plan.GapKey(gap))
		return
	}
	p.Add = AddLine(c, gap)
	p.Advice = "or a value, leave, drop, hold or stop"
}

// AddLine is the line of the plan that would settle a kind of gap in a column.
func AddLine(c *plan.Column, gap value.Gap) string {
	put := "leave"
	if c.Kind.Numeric() && gap < value.Text {
		put = "0"
	} else if gap >= value.Text {
		put = "hold"
	}
	return plan.GapKey(gap) + ": " + put
}
