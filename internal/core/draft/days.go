package draft

import (
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// Days of months stand apart from their months where three columns say a date, or where they stand across in a table of one month.

// findBareDays makes the day that is asked for of its number, in a field or across, and its month and year, if all entries have it so.
func (d *drafter) findBareDays() {
	c := d.of(terms.Day)
	if c == nil || len(d.entries) == 0 {
		return
	}
	across := d.entries[0].daysAcross(false)
	parts := map[*entry]dateParts{}
	for _, e := range d.entries {
		p, apart := e.dateParts()
		date := func(i int) bool { return e.sheets[0].Fields[i].Is == "date" }
		if across != e.daysAcross(false) || across == apart || slices.ContainsFunc(e.sheets[0].labels(), date) {
			return
		}
		parts[e] = p
	}
	if across {
		d.writeDaysAcross(c)
	} else {
		d.writeDateParts(c, parts)
	}
}

// dateParts are the headers of the fields that say the day, the month and the year of a row, and whether months are numbers.
type dateParts struct {
	day, month, year string
	numbers          bool
}

// dateParts finds the fields that say a date in three parts.
func (e *entry) dateParts() (p dateParts, ok bool) {
	month := &column{class: terms.Month, name: "month"}
	for n, s := range e.sheets {
		own := ""
		for _, i := range s.labels() {
			f := &s.Fields[i]
			if f.Is == "whole" && terms.SaysDayOfMonth(f.Header) && daysOnly(f.Values) {
				own = strings.TrimSpace(f.Header)
			}
		}
		if own == "" || n > 0 && key.Of(own) != key.Of(p.day) {
			return p, false
		}
		p.day = own
	}
	p.month, ok = e.bareTime(month)
	p.year = e.yearField()
	p.numbers = e.monthNumber(p.month)
	return p, ok && p.month != "" && (p.year != "" || e.saysYear())
}

// daysOnly reports whether some texts are numbers of days, and some of these are of no month.
func daysOnly(texts []string) bool {
	beyond := false
	for _, t := range texts {
		n, err := strconv.Atoi(t)
		if err != nil || n < 1 || n > 31 {
			return false
		}
		beyond = beyond || n > 12
	}
	return beyond
}

// daysAcross reports whether the wide headers of all tables are days of the month that the name of the table says, in their order, and
// in some table to its end; with blank, there may be days of no month, if nothing stands below them.
func (e *entry) daysAcross(blank bool) bool {
	at := slices.IndexFunc(e.pieces, func(p piece) bool { return p.Time == terms.Month })
	if at < 0 || len(e.pieces[at].Values) != len(e.sheets) {
		return false
	}
	whole := false
	for n, s := range e.sheets {
		day, ok := dateOf(e.pieces[at].Values[n])
		if !ok || len(s.wide) < 2 {
			return false
		}
		last := 0
		for _, i := range s.wide {
			d, err := strconv.Atoi(strings.TrimSpace(s.Fields[i].Header))
			day.Day = d
			beyond := !day.Valid() && (!blank || s.Fields[i].Filled > 0 || d > 31)
			if err != nil || d <= last || beyond {
				return false
			}
			last = d
		}
		day.Day++
		whole = whole || !day.Valid() && len(s.wide) >= 20
	}
	return whole
}

// unaskedDay is the column of days that stand across, of which nobody asked more than the month that the name of each table says; nil where
// none do.
func (d *drafter) unaskedDay(e *entry) *column {
	if d.of(terms.Month) == nil || d.of(terms.Day) != nil || !e.daysAcross(true) {
		return nil
	}
	if d.bareDay == nil {
		d.bareDay = d.helper("day", terms.BareTime)
		d.bareDay.further = true // others have none
	}
	if d.bareDay.used[e] {
		return nil
	}
	return d.bareDay
}

// writeDateParts makes a date of three fields.
func (d *drafter) writeDateParts(c *column, parts map[*entry]dateParts) {
	numbers := false
	for _, p := range parts {
		numbers = numbers || p.numbers
	}
	if d.bare == nil {
		d.addBare("mon")
	}
	day := d.helper("day", terms.BareTime)
	if c.write = "{" + day.name + "} {" + d.bare.name + "} {" + d.bareYear.name + "}"; numbers {
		c.write = "{" + d.bareYear.name + "}-{" + d.bare.name + "}-{" + day.name + "}"
	}
	c.parts = []*column{d.bare, d.bareYear, day}
	for _, e := range d.entries {
		p := parts[e]
		c.used[e] = true
		for i, header := range []string{p.day, p.month, p.year} {
			if of := []*column{day, d.bare, d.bareYear}[i]; header != "" && !of.used[e] {
				of.claim(e, header, "column "+header)
				e.take(header, of)
			}
		}
		if numbers {
			e.addForm("2024-12-31")
		}
	}
}

// writeDaysAcross makes a date of a day that stands across and the month that a name says.
func (d *drafter) writeDaysAcross(c *column) {
	month := d.of(terms.Month)
	if month == nil {
		month = d.helper("mon", terms.Month)
	}
	d.bareDay = d.helper("day", terms.BareTime)
	c.write, c.parts = "{"+month.name+"}-{"+d.bareDay.name+"}", []*column{month, d.bareDay}
	for _, e := range d.entries {
		c.used[e] = true
		e.addForm("2024-12-31")
	}
}
