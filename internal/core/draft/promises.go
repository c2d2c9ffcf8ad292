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

// timely reports whether what stands below a header of a time can be read as one, with a year beside it where it lacks one.
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
	if terms.BareTimes(f.Values) != terms.None { // without a year: a build stops, and asks for it
		return true
	}
	numbers := c == terms.Month && (terms.MonthNumbers(f.Values) || terms.MonthsAtM(f.Values))
	return numbers && (!terms.SaysPeriod(f.Header) || e.saysYear())
}

// takeAsTexts finds the columns that are called a time, and are none by what stands there: texts, then, where nobody asked for another
// time than a period.
func (d *drafter) takeAsTexts() {
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
			e.tellBroken(c, asText)
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

// tellBroken says that fields whose header promises a month or a day have something else.
func (e *entry) tellBroken(c *column, asText bool) {
	for _, s := range e.sheets {
		for _, i := range s.labels() {
			f := &s.Fields[i]
			span, _ := spanOf(f.Values)
			asCalled := span != "" && (terms.SaysPeriod(f.Header) || c.class == terms.Year)
			if !key.Same(snake(f.Header), c.name) || asCalled || e.timely(s, i) {
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
		d.eachLabel(func(e *entry, f *survey.Field) {
			figures := c.class.OfMeasure() && f.Is != "text" // which are a question
			if figures || !key.Same(snake(f.Header), c.name) || f.Filled == 0 || e.measures[key.Of(f.Header)] != "" {
				return
			}
			if e.tell(e.brokenPromise(f, !asked)); asked {
				return
			}
			c.class = terms.None
			c.claim(e, f.Header, "column "+f.Header)
			e.take(f.Header, c)
			c.learn(f.Values)
		})
	}
}

// tell asks something once.
func (e *entry) tell(text string) {
	if !slices.Contains(e.open, text) {
		e.open = append(e.open, text)
	}
}

// brokenPromise says what stands below a header instead, and how it is taken.
func (e *entry) brokenPromise(f *survey.Field, asText bool) string {
	shown := make([]string, 0, 3)
	for _, v := range f.Values[:min(3, len(f.Values))] {
		shown = append(shown, place.Shorten(v))
	}
	header := layout.Flow(strings.TrimSpace(f.Header))
	stands := "; it stands as a text"
	switch {
	case !asText && terms.Of(f.Header).OfTime():
		stands = "; in fact, period: { headers: [" + header + "] } takes it as a text"
	case !asText:
		stands = ""
	}
	what := "figure"
	if c := terms.Of(f.Header); c == terms.Day {
		what = "date"
	} else if c.OfTime() {
		what = string(c)
	}
	if terms.BareTimes(f.Values) != terms.None {
		what = "whole " + what
	}
	return fmt.Sprintf("%s: %s has %s, in which no %s is read%s", e.globs[0], header, joined(shown), what, stands)
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

// askFigures asks about figures of a time that stand beside others and are left aside, and about entries of which no column is taken
// for figures, though some have figures, where nobody asked for columns.
func (d *drafter) askFigures() {
	for _, e := range d.entries {
		if len(d.Columns) > 0 {
			return
		}
		taken := func(c *column) bool {
			return c.used[e] && (c.class.OfMeasure() || c.class == terms.Price) || c.tossUps[e] != nil
		}
		some := slices.ContainsFunc(d.columns, taken)
		var headers []string
		s := e.sheets[0]
		for i := range s.Fields {
			header := strings.TrimSpace(s.Fields[i].Header)
			across := e.unpivot != nil && e.unpivot.header != "" && s.isWide(i)
			switch _, claimed := e.measures[key.Of(header)]; {
			case across, slices.Contains(s.TotalColumns, header), slices.Contains(s.SumColumns, header):
			case !s.numeric(i), header == "", s.yearLike(i), terms.SaysCode(key.Of(header)), terms.Identifies(header):
			case !some:
				headers = append(headers, header)
			case !claimed && terms.SaysTime(header) && len(e.open) == 0:
				e.tell(fmt.Sprintf("%s: the figures below %s are left aside: are they of the time that this says?", e.globs[0], header))
			}
		}
		if len(headers) > 0 {
			e.tell(fmt.Sprintf("%s: no column is taken for figures: are %s? In fact, %s: { is: number, headers: [%s] } takes one", e.globs[0],
				place.Shorten(joined(headers)), snake(headers[0]), layout.Flow(headers[0])))
		}
	}
}
