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

// Headers that promise a time, or figures, that do not stand below them. Where nobody asks for columns, their texts stay in the table.

// timely reports whether what stands below a header of a time can be read as one, with the year that something else says.
func (e *entry) timely(s *sheet, i int) bool {
	f := &s.Fields[i]
	c, years := terms.Of(f.Header), s.yearLike(i)
	switch {
	case f.Filled == 0, c == terms.Day && f.Is == "whole" && !years, terms.SaysPeriod(f.Header) && years:
		return true
	case c == terms.Year:
		return years || f.Is == "date" || f.Is == "month" || f.Is == "quarter"
	case f.Is == "date", f.Is == "month", f.Is == "quarter" && c != terms.Day:
		return true
	}
	numbers := c == terms.Month && (terms.MonthNumbers(f.Values) || terms.MonthsAtM(f.Values))
	return (numbers || terms.BareTimes(f.Values) != terms.None) && e.saysYear()
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
		span = span || e.yearless(s) == c.class
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

// yearless is the class of wide headers that are months or quarters of which nothing says the year; none for others.
func (e *entry) yearless(s *sheet) terms.Class {
	if len(s.wide) == 0 || e.saysYear() {
		return terms.None
	}
	return terms.BareTimes(s.wideTimes())
}

// tellYearless says so, and how to say the year.
func (e *entry) tellYearless(texts []string, asText bool) {
	of, part := terms.BareTimes(texts), "mon"
	texts = slices.Compact(slices.Clone(texts))
	if of == terms.Quarter {
		part = "q"
	}
	stand := ""
	if asText {
		stand = "; they stand as texts"
	}
	e.tell(fmt.Sprintf("%s: nothing says the year of the wide headers %s%s. set: { year: … } in the entry, and {%s} in its unpivot, with "+
		"year: { is: year, keep: no }, %[4]s: { keep: no } and %s: { is: %[5]s, write: \"{%[4]s} {year}\" } in fact, makes %[5]ss of them",
		e.globs[0], joined(texts[:min(3, len(texts))]), stand, part, of))
}

// tellSpans says that fields whose header promises a month or a day have something else.
func (e *entry) tellSpans(c *column, asText bool) {
	for _, s := range e.sheets {
		if of := e.yearless(s); of != terms.None && of == c.class {
			e.tellYearless(s.wideTimes(), asText)
		}
		for _, i := range s.labels() {
			f := &s.Fields[i]
			span, _ := spanOf(f.Values)
			asCalled := span != "" && (terms.SaysPeriod(f.Header) || c.class == terms.Year)
			if !key.Same(snake(f.Header), c.name) || asCalled {
				continue
			}
			e.tell(e.brokenPromise(f, asText))
		}
	}
}

// keepFields takes the fields of columns that found no source, though they are called so, as texts, where nobody asked for columns.
func (d *drafter) keepFields() {
	asked := len(d.Columns) > 0
	for _, c := range d.columns {
		if c.helper || asked && c.class.OfTime() || c.from != "" || c.write != "" || c.lookup != nil || len(c.used) > 0 {
			continue
		}
		for _, e := range d.entries {
			for _, s := range e.sheets {
				for _, i := range s.labels() {
					f := &s.Fields[i]
					figures := c.class.OfMeasure() && f.Is != "text" // which are a question
					if figures || !key.Same(snake(f.Header), c.name) || f.Filled == 0 || e.measures[key.Of(f.Header)] != "" {
						continue
					}
					if e.tell(e.brokenPromise(f, !asked)); asked {
						continue
					}
					c.class = terms.None
					c.claim(e, f.Header, "column "+f.Header)
					e.take(f.Header, c)
					c.learn(f.Values)
				}
			}
		}
	}
}

// tell asks something once.
func (e *entry) tell(text string) {
	if !slices.Contains(e.open, text) {
		e.open = append(e.open, text)
	}
}

// brokenPromise says what stands below a header instead, and what can be made of it.
func (e *entry) brokenPromise(f *survey.Field, asText bool) string {
	shown := make([]string, 0, 3)
	for _, v := range f.Values[:min(3, len(f.Values))] {
		shown = append(shown, place.Shorten(v))
	}
	header := layout.Flow(strings.TrimSpace(f.Header))
	text := fmt.Sprintf("%s: %s has %s, ", e.globs[0], header, joined(shown))
	stands := "; it stands as a text"
	switch {
	case !asText && terms.Of(f.Header).OfTime():
		stands = "; in fact, period: { headers: [" + header + "] } takes it as a text"
	case !asText:
		stands = ""
	}
	of, part, write, dates := terms.BareTimes(f.Values), "mon", "{mon} {year}", ""
	switch c := terms.Of(f.Header); {
	case of == terms.Quarter:
		part, write = "q", "{q} {year}"
	case of == terms.Month:
	case c == terms.Month && terms.MonthNumbers(f.Values):
		of, write, dates = c, "{year}-{mon}", " and dates: 2024-12"
	case c == terms.Day:
		return text + "in which no date is read" + stands
	case c.OfTime():
		return text + "in which no " + string(c) + " is read" + stands
	default:
		return text + "in which no figure is read" + stands
	}
	return text + fmt.Sprintf("and nothing says the year%s. set: { year: … }%s in the entry, with year: { is: year, keep: no }, "+
		"%s: { headers: [%s], keep: no } and %s: { is: %[5]s, write: %[6]q } in fact, makes %[5]ss of it", stands, dates, part, header, of, write)
}

// noteGuesses says which columns are places only because things stand in a column, and something stands across.
func (d *drafter) noteGuesses() {
	for _, c := range d.columns {
		across := len(c.sources) > 0 && !slices.ContainsFunc(c.sources, func(source string) bool { return source != "wide headers" })
		titled := slices.ContainsFunc(d.entries, func(e *entry) bool { return e.sheets[0].acrossTitle() != "" })
		if len(d.Columns) == 0 && across && !titled && c.note == "" && (c.class == terms.Region || c.class == terms.Branch) {
			c.note = "nothing says what stands across: if it is no " + c.name + ", call it what it is"
		}
	}
}
