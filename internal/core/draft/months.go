package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// bareMonths reports whether some texts are all names of months without a year.
func bareMonths(texts []string) bool {
	for _, t := range texts {
		d, ok := value.ReadDate(strings.TrimSpace(t) + " 2024")
		if !ok || d.Day != 0 || strings.ContainsAny(t, "0123456789") {
			return false
		}
	}
	return len(texts) > 0
}

// findBareMonths makes the month of a month's name and a year, where all entries have the name alone,
// in one field, as wide headers, or in the names of sheets or files. Both are columns that are not delivered, unless they are asked for.
func (d *drafter) findBareMonths() {
	var c *column
	for _, own := range d.columns {
		if own.class == month && c == nil {
			c = own
		}
	}
	headers := map[*entry]string{}
	for _, e := range d.entries {
		header, ok := e.bareMonth(c)
		if c == nil || !ok && e.monthPiece() == nil || !e.saysYear() {
			return
		}
		headers[e] = header
	}
	mon := d.helper("mon", monthName)
	years := d.of(year)
	if years == nil {
		years = d.helper("year", year)
	}
	c.write = "{" + mon.name + "} {" + years.name + "}"
	for _, e := range d.entries {
		header := headers[e]
		c.used[e] = true
		if header != "" {
			mon.claim(e, header, "column "+header)
			e.take(header, mon)
		}
		if _, below := e.bareMonth(c); !below {
			e.monthPiece().give(e, mon)
		}
	}
	c.sources = []string{mon.name + " and " + years.name}
}

// helper adds a column that is not delivered.
func (d *drafter) helper(name string, of class) *column {
	for d.named(name) != nil {
		name += "_"
	}
	c := newColumn(name)
	c.class, c.helper = of, true
	d.columns = append(d.columns, c)
	return c
}

// of is the first column of a class.
func (d *drafter) of(want class) *column {
	for _, c := range d.columns {
		if c.class == want {
			return c
		}
	}
	return nil
}

// bareMonth is the header of the field that has names of months alone, "" where they are the wide
// headers.
func (e *entry) bareMonth(c *column) (header string, ok bool) {
	if c == nil {
		return "", false
	}
	for n, s := range e.sheets {
		own, found := "", false
		for _, i := range s.labels() {
			f := &s.Fields[i]
			if (classOf(f.Header) == month || key.Of(f.Header) == key.Of(c.name)) && bareMonths(f.Values) && !found {
				own, found = f.Header, true
			}
		}
		if wide := s.wideHeaders(); !found && bareMonths(wide) {
			found = true
		}
		if !found || n > 0 && key.Of(own) != key.Of(header) {
			return "", false
		}
		header = own
	}
	return header, true
}

// monthPiece is the part of paths or sheets that is a month's name alone.
func (e *entry) monthPiece() *piece {
	for i := range e.pieces {
		if bareMonths(e.pieces[i].values) {
			return &e.pieces[i]
		}
	}
	return nil
}

// saysYear reports whether a path, a sheet, a title or a field says the year.
func (e *entry) saysYear() bool {
	return slices.ContainsFunc(e.pieces, func(p piece) bool { return p.time == year }) ||
		slices.ContainsFunc(e.sheets[0].labels(), func(i int) bool { return e.sheets[0].yearLike(i) })
}

// wideHeaders are the wide headers.
func (s *sheet) wideHeaders() (out []string) {
	for _, i := range s.wide {
		out = append(out, s.Fields[i].Header)
	}
	return slices.DeleteFunc(out, func(h string) bool { return strings.Contains(h, " | ") })
}
