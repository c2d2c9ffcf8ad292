package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/terms"
)

// Times that are made of finer ones.

// fineness orders the times.
var fineness = map[terms.Class]int{terms.Year: 1, terms.Quarter: 2, terms.Month: 3, terms.Day: 4}

// yearOfMonth takes the year from another column of times, where an entry has none.
func (d *drafter) yearOfMonth(c *column) {
	if slices.ContainsFunc(d.entries, func(e *entry) bool { return e.unpivot != nil && strings.Contains(e.unpivot.header, "{"+c.name+"}") }) {
		return // where it stands across it cannot be made
	}
	for _, e := range d.entries {
		if c.used[e] {
			continue
		}
		for _, t := range d.columns {
			if (t.class == terms.Month || t.class == terms.Day) && t.used[e] && t.write == "" {
				c.from = t.name
			}
		}
	}
	if lacks := slices.ContainsFunc(d.entries, func(e *entry) bool { return !c.used[e] }); c.from == "" && lacks {
		c.from = d.finerOf(c)
	}
	if c.from == "" {
		return
	}
	c.headers = nil
	for _, e := range d.entries { // one way for all
		for i := range e.pieces {
			if e.pieces[i].column == c {
				e.pieces[i].column = nil
			}
		}
	}
}

// addFiner adds a column for times that are finer than those asked for, where these are made of them, or stand across: then the cells are
// of them, whether any time is asked for or not. Where sums stand beside what is across, and nobody needs the parts, these are taken.
func (d *drafter) addFiner() {
	measured := func(c *column) bool { return c.class.OfMeasure() }
	if len(d.Columns) == 0 || d.of(terms.Month) != nil || d.of(terms.Day) != nil || !slices.ContainsFunc(d.columns, measured) {
		return
	}
	year, quarter := d.of(terms.Year) != nil, d.of(terms.Quarter) != nil
	common, across, made := terms.Day, false, false
	for _, e := range d.entries {
		finest := e.finestTime()
		if fineness[finest] < fineness[common] {
			common = finest
		}
		header, bare := e.bareTime(&column{class: terms.Month})
		switch whole := e.sheets[0].wideTime(); {
		case quarter && bare && header != "":
			made = made || e.saysYear()
		case quarter && whole != terms.None && !year: // is read from each of them
		case whole == terms.None && !e.monthsAcross():
			made = made || quarter && e.timeOfNames() > fineness[terms.Quarter] || year && e.timeOfNames() > fineness[terms.Year]
		case quarter || !d.sumsBeside(e, nil) || year && !e.saysYear():
			across = true
		}
	}
	if (across || made) && common != terms.None && d.of(common) == nil {
		d.helper(string(common), common)
	}
}

// finestTime is the finest time of the rows of an entry, None where none is told.
func (e *entry) finestTime() terms.Class {
	finest := max(e.timeOfNames(), fineness[e.finestOfRows()])
	if _, ok := e.bareTime(&column{class: terms.Month}); ok && e.saysYear() {
		finest = max(finest, fineness[terms.Month])
	}
	if finest == 0 && e.saysYear() {
		return terms.Year
	}
	for of, n := range fineness {
		if n == finest {
			return of
		}
	}
	return terms.None
}

// finestOfRows is the finest time that stands across, or else in fields of which a word says so, or that agree with what names say.
func (e *entry) finestOfRows() terms.Class {
	s := e.sheets[0]
	finest := s.wideTime()
	if finest != terms.None {
		return finest
	}
	for _, i := range s.labels() {
		f := &s.Fields[i]
		if of := timeIn(f); fineness[of] > fineness[finest] && (terms.Of(f.Header).OfTime() || !e.contradicted(f.Header)) {
			finest = of
		}
	}
	return finest
}

// monthsAcross reports whether months stand across whose year something else says.
func (e *entry) monthsAcross() bool {
	return len(e.sheets[0].wide) > 0 && terms.BareTimes(e.sheets[0].wideTimes()) == terms.Month && e.saysYear()
}

// timeOfNames is how fine a time the names of files and sheets and the titles say.
func (e *entry) timeOfNames() (finest int) {
	for i := range e.pieces {
		if p := &e.pieces[i]; !p.Span || p.Time == terms.Month { // when the month begins says no more
			finest = max(finest, fineness[p.Time])
		}
	}
	if e.barePiece(&column{class: terms.Month}) != nil && e.saysYear() {
		finest = max(finest, fineness[terms.Month])
	}
	return finest
}

// finer are the times of which those of a class can be made.
var finer = map[terms.Class][]terms.Class{
	terms.Year:    {terms.Quarter},
	terms.Quarter: {terms.Month, terms.Day},
	terms.Month:   {terms.Day},
}

// fromFiner takes a column of times that has no source from another one that each table has.
func (d *drafter) fromFiner(c *column) {
	if c.made() || c.helper || c == d.bare || c == d.bareYear || len(c.used) > 0 || len(c.tossUps) > 0 {
		return
	}
	c.from = d.finerOf(c)
}

// finerOf is a column that each table has, and of which a column of coarser times can be made; "" for none.
func (d *drafter) finerOf(c *column) string {
	for _, of := range finer[c.class] {
		t := d.of(of)
		if t != nil && t != c && t != d.bare && !slices.ContainsFunc(d.entries, func(e *entry) bool { return !t.used[e] }) {
			return t.name
		}
	}
	return ""
}
