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

// addAcross adds a column for the times that stand across, where a coarser one is asked for, or none, and no sums of them stand beside
// these: the cells are of these.
func (d *drafter) addAcross() {
	measured := func(c *column) bool { return c.class.OfMeasure() }
	if len(d.Columns) == 0 || d.of(terms.Month) != nil || d.of(terms.Day) != nil || !slices.ContainsFunc(d.columns, measured) {
		return
	}
	across, bare, summed := terms.None, false, false
	for _, e := range d.entries {
		s := e.sheets[0]
		own := s.wideTime()
		if own == terms.None && terms.BareTimes(s.wideTimes()) == terms.Month && e.saysYear() {
			own, bare = terms.Month, true
		}
		if own == terms.None || across != terms.None && own != across {
			return
		}
		across = own
		summed = summed || d.sumsBeside(e, func(*sheet, string, *column) {}) && (d.of(terms.Year) == nil || e.saysYear())
	}
	quarters := d.of(terms.Quarter) != nil
	read := quarters && d.of(terms.Year) == nil && !bare // from whole months
	if d.of(across) == nil && !read && (quarters || !summed) {
		d.helper(string(across), across)
	}
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
	for _, of := range finer[c.class] {
		t := d.of(of)
		if t != nil && t != d.bare && !slices.ContainsFunc(d.entries, func(e *entry) bool { return !t.used[e] }) {
			c.from = t.name
			return
		}
	}
}
