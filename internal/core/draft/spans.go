package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// Times that no calendar has: weeks, periods of a year whose beginning nobody knows, months without a year. They stand
// in the table as texts.

// mostPeriods is how many periods a year has; so many that are only numbered are no products.
const mostPeriods = 12

// spanOf is what all of some texts are, if these are such times: week or period; "" for none. A few numbers may as well be of things.
func spanOf(texts []string) (span string, sure bool) {
	if terms.Weeks(texts) {
		return "week", true
	}
	dated, ok := terms.Periods(texts)
	if !ok {
		return "", false
	}
	distinct := map[string]bool{}
	for _, text := range texts {
		distinct[key.Of(text)] = true
	}
	return "period", dated || len(distinct) >= mostPeriods
}

// spanAcross is which such times some wide headers are, or a part of them; a few numbers are periods where a field has the product.
func (s *sheet) spanAcross(texts []string) string {
	span, sure := spanOf(texts)
	if !sure && !slices.ContainsFunc(s.labels(), func(i int) bool { return terms.Of(s.Fields[i].Header) == terms.Product }) {
		return ""
	}
	return span
}

// timely reports whether what stands below a header of a time can be read as one, with the year that something else says.
func (e *entry) timely(s *sheet, i int) bool {
	f := &s.Fields[i]
	switch c := terms.Of(f.Header); {
	case c == terms.Year, c == terms.Day && f.Is == "whole", f.Filled == 0:
		return true
	case f.Is == "date", f.Is == "month", f.Is == "quarter", s.yearLike(i), terms.BareTimes(f.Values) != terms.None:
		return true
	default:
		return c == terms.Month && (terms.MonthNumbers(f.Values) || terms.MonthsAtM(f.Values)) && e.saysYear()
	}
}

// findSpans finds the columns that are called a time, and are none by what stands there: texts, then, where nobody asked for another
// time than a period.
func (d *drafter) findSpans() {
	for _, c := range d.columns {
		if !c.class.OfTime() {
			continue
		}
		found, time := false, false
		for _, e := range d.entries {
			for _, s := range e.sheets {
				f, t := e.timesOf(s, c)
				found, time = found || f, time || t
			}
		}
		if !found || time {
			continue
		}
		asText := len(d.Columns) == 0 || terms.SaysPeriod(c.name)
		for _, e := range d.entries {
			e.tellSpans(c, asText)
		}
		if asText {
			c.class = terms.None
		}
	}
}

// timesOf reports whether a table has such times for a column, and whether it has others.
func (e *entry) timesOf(s *sheet, c *column) (span, time bool) {
	if len(s.wide) > 0 {
		parts := append(s.parts(), s.wideTimes())
		span = terms.SaysPeriod(c.name) && slices.ContainsFunc(parts, func(texts []string) bool { return s.spanAcross(texts) == "period" })
		time = s.wideTime() == c.class
	}
	for _, i := range s.labels() {
		f := &s.Fields[i]
		switch of := terms.Of(f.Header); {
		case !of.OfTime():
		case e.timely(s, i):
			time = time || of == c.class
		case key.Same(snake(f.Header), c.name):
			span = true
		}
	}
	return span, time
}

// tellSpans says that fields whose header promises a month or a day have something else.
func (e *entry) tellSpans(c *column, asText bool) {
	for _, s := range e.sheets {
		for _, i := range s.labels() {
			f := &s.Fields[i]
			_, periods := terms.Periods(f.Values)
			if !key.Same(snake(f.Header), c.name) || terms.SaysPeriod(f.Header) && (periods || terms.Weeks(f.Values)) {
				continue
			}
			if text := e.spanText(f, asText); !slices.Contains(e.open, text) {
				e.open = append(e.open, text)
			}
		}
	}
}

func (e *entry) spanText(f *survey.Field, asText bool) string {
	shown := make([]string, 0, 3)
	for _, v := range f.Values[:min(3, len(f.Values))] {
		shown = append(shown, place.Shorten(v))
	}
	header := layout.Flow(strings.TrimSpace(f.Header))
	text := fmt.Sprintf("%s: %s has %s, ", e.globs[0], header, joined(shown))
	stands := "; it stands as a text"
	if !asText {
		stands = "; in fact, period: { headers: [" + header + "] } takes it as a text"
	}
	if !terms.MonthNumbers(f.Values) || terms.Of(f.Header) != terms.Month {
		return text + "in which no time is read" + stands
	}
	return text + "and nothing says the year" + stands + ". set: { year: … } and dates: 2024-12 in the entry, with year: { is: year, " +
		"keep: no }, mon: { headers: [" + header + "], keep: no } and month: { is: month, write: \"{year}-{mon}\" } in fact, makes months of it"
}
