package draft

import (
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// findBareTimes makes the month, or the quarter, of its name (of a month, its number too) and a year, where
// entries have these apart: in one field, as wide headers, or in the names of sheets or files. Both are columns
// that are not delivered, unless they are asked for. Entries that say the whole month say it in place of its name.
func (d *drafter) findBareTimes() {
	c := d.of(terms.Month)
	if c == nil {
		c = d.of(terms.Quarter)
	}
	if c == nil {
		return
	}
	headers := map[*entry]string{}
	numbers := false
	for _, e := range d.entries {
		header, ok := e.bareTime(c)
		if !ok && (e.barePiece(c) == nil || e.saysMonth()) || !e.saysYear() && (!ok || e.saysMonth()) {
			continue
		}
		headers[e] = header
		if e.monthNumber(header) || header == "" && e.sheets[0].spelt != nil && e.sheets[0].spelt.Numbered {
			numbers, e.dates = true, append(e.dates, "2024-12")
		}
		if e.monthsAtM(header) {
			numbers, e.dates = true, append(e.dates, "2024M12")
		}
		if p := e.barePiece(c); !ok && p.Digits {
			numbers = true
		}
	}
	switch mixed := len(headers) < len(d.entries); {
	case len(headers) == 0 || mixed && c.class != terms.Month:
		return
	case mixed:
		d.bare, d.bareYear = d.helper("mon", terms.Month), d.helper("yr", terms.Year)
		c.write = "[{" + d.bareYear.name + "}-]{" + d.bare.name + "}"
		c.note = "whole months as they are, names and numbers of months with their year"
		d.spareBareTimes(c, headers)
	default:
		d.addBare(map[terms.Class]string{terms.Month: "mon", terms.Quarter: "q"}[c.class])
		if c.write = "{" + d.bare.name + "} {" + d.bareYear.name + "}"; numbers {
			c.write = "{" + d.bareYear.name + "}-{" + d.bare.name + "}"
		}
	}
	c.parts = []*column{d.bare, d.bareYear}
	for _, e := range d.entries {
		c.used[e] = true
		header, bare := headers[e]
		switch {
		case !bare:
			continue
		case header != "":
			d.bare.claim(e, header, "column "+header)
			e.take(header, d.bare)
		}
		if _, below := e.bareTime(c); !below {
			e.barePiece(c).give(e, d.bare)
		}
		if year := e.yearField(); year != "" {
			d.bareYear.claim(e, year, "column "+year)
			e.take(year, d.bareYear)
		}
	}
}

// addBare adds the column that takes the names of times, and that of their years, if none is asked for.
func (d *drafter) addBare(name string) {
	if d.bare, d.bareYear = d.helper(name, terms.BareTime), d.of(terms.Year); d.bareYear == nil {
		d.bareYear = d.helper("year", terms.Year)
	}
}

// yearField is the header of the field that has the years of rows, if no word of it says so, and nothing else says a year; "" for none.
func (e *entry) yearField() (header string) {
	s := e.sheets[0]
	if slices.ContainsFunc(e.pieces, func(p piece) bool { return p.Time == terms.Year }) || s.wideTime() == terms.Year || s.yearsAcross() {
		return ""
	}
	for _, i := range s.labels() {
		switch {
		case !s.yearLike(i):
		case header != "" || terms.Of(s.Fields[i].Header) == terms.Year:
			return ""
		default:
			header = strings.TrimSpace(s.Fields[i].Header)
		}
	}
	return header
}

// spareBareTimes says, of entries that have the whole month, that no year stands beside it; a year that is asked
// for comes from the month.
func (d *drafter) spareBareTimes(c *column, headers map[*entry]string) {
	for _, e := range d.entries {
		if _, bare := headers[e]; !bare {
			d.bareYear.used[e], e.absent[d.bareYear.name] = true, true
		}
		if y := d.of(terms.Year); y != d.bareYear {
			y.from, y.used[e] = c.name, true
		}
	}
}

// monthNumber reports whether the field below a header has the numbers of months.
func (e *entry) monthNumber(header string) bool {
	return header != "" && slices.ContainsFunc(e.sheets[0].Fields, func(f survey.Field) bool { return f.Header == header && f.Is == "whole" })
}

// monthsAtM reports whether the field below a header has months such as M01.
func (e *entry) monthsAtM(header string) bool {
	return header != "" && slices.ContainsFunc(e.sheets[0].Fields, func(f survey.Field) bool {
		return f.Header == header && terms.MonthsAtM(f.Values)
	})
}

// helper adds a column that is not delivered.
func (d *drafter) helper(name string, of terms.Class) *column {
	free := name
	for n := 2; slices.ContainsFunc(d.columns, func(c *column) bool { return key.Same(c.name, free) }); n++ {
		free = name + strconv.Itoa(n)
	}
	c := newColumn(free)
	c.class, c.helper = of, true
	d.columns = append(d.columns, c)
	return c
}

// of is the first column of a class.
func (d *drafter) of(want terms.Class) *column {
	for _, c := range d.columns {
		if c.class == want {
			return c
		}
	}
	return nil
}

// bareTime is the header of the field that has names of times alone, "" where they are the wide
// headers.
func (e *entry) bareTime(c *column) (header string, ok bool) {
	if c == nil {
		return "", false
	}
	for n, s := range e.sheets {
		own, found := "", false
		for _, i := range s.labels() {
			f := &s.Fields[i]
			named := terms.Of(f.Header) == c.class || key.Of(f.Header) == key.Of(c.name)
			if found || !named && (terms.Of(f.Header) != terms.None || len(f.Values) < 3) { // of some names of months no word has to say so
				continue
			}
			if terms.BareTimes(f.Values) == c.class || named && c.class == terms.Month &&
				(f.Is == "whole" && terms.MonthNumbers(f.Values) || terms.MonthsAtM(f.Values)) {
				own, found = f.Header, true
			}
		}
		if !found && terms.BareTimes(s.wideTimes()) == c.class {
			found = true
		}
		if !found || n > 0 && key.Of(own) != key.Of(header) {
			return "", false
		}
		header = own
	}
	return header, true
}

// saysMonth reports whether wide headers are whole months or days, or a field has such, of which a word says so or which agree with what
// names say.
func (e *entry) saysMonth() bool {
	s := e.sheets[0]
	across := s.wideTime()
	return across == terms.Month || across == terms.Day || slices.ContainsFunc(s.labels(), func(i int) bool {
		f := &s.Fields[i]
		return (f.Is == "month" || f.Is == "date") && (terms.Of(f.Header).OfTime() || !e.contradicted(f.Header))
	})
}

// barePiece is the part of paths or sheets that is the name of a time alone.
func (e *entry) barePiece(c *column) *piece {
	for i := range e.pieces {
		p := &e.pieces[i]
		numbers := p.Digits && p.Time == terms.None && terms.MonthNumbers(p.Values)
		if terms.BareTimes(p.Values) == c.class || numbers && c.class == terms.Month {
			return &e.pieces[i]
		}
	}
	return nil
}

// saysYear reports whether a path, a sheet, a title, a field or a header row says the year.
func (e *entry) saysYear() bool {
	return slices.ContainsFunc(e.pieces, func(p piece) bool { return p.Time == terms.Year }) || e.sheets[0].wideTime() == terms.Year ||
		slices.ContainsFunc(e.sheets[0].labels(), func(i int) bool { return e.sheets[0].yearLike(i) }) || e.sheets[0].yearsAcross()
}

// wideTimes are the wide headers, or the names of times among their parts.
func (s *sheet) wideTimes() (out []string) {
	for _, texts := range s.parts() {
		if terms.BareTimes(texts) != terms.None {
			return texts
		}
	}
	for _, i := range s.wide {
		if header := s.Fields[i].Header; !strings.Contains(header, " | ") {
			out = append(out, s.thingOf(header))
		}
	}
	return out
}

// thingOf is what stands beside the name of a measure in a header, or all of it.
func thingOf(header string) string {
	if _, _, thing, ok := terms.MeasureFirst(header); ok {
		return thing
	}
	if thing, _, _, ok := terms.MeasureLast(header); ok {
		return thing
	}
	return header
}

// yearsAcross reports whether one of several header rows has years alone, and another the names of times.
func (s *sheet) yearsAcross() bool {
	parts := s.parts()
	return slices.ContainsFunc(parts, func(texts []string) bool { t, _ := terms.TimesOf(texts); return t == terms.Year }) &&
		len(parts) > 1 && terms.BareTimes(s.wideTimes()) != terms.None
}

// keepTimes takes figures that stand beside months, or other times of one kind, for none of the wide ones where their
// headers say what they are: a quarter, a sum of the year so far, a share. A month that is misspelt is none of these.
func (s *sheet) keepTimes(asked []string) {
	own := func(i int) terms.Class {
		header := s.Fields[i].Header
		if c, _ := terms.TimeOf(header); c != terms.None {
			return c
		}
		if terms.BareTimes([]string{header}) != terms.None {
			return terms.BareTimes([]string{header}) + " alone"
		}
		return terms.None
	}
	count := map[terms.Class]int{}
	for _, i := range s.wide {
		header := s.Fields[i].Header
		if count[own(i)]++; own(i) == terms.None && !besideTimes(header) && (terms.Returns(header) || mayBeTime(header)) {
			return
		}
	}
	sums := count[terms.Quarter] + count[terms.Year] // of months
	months := count[terms.Month] > 0 && sums > 0 && count[terms.Month]+sums == len(s.wide) && (len(asked) == 0 || asksMonths(asked))
	for c, n := range count {
		if c == terms.Month && months || !months && c != terms.None && n > 1 && 2*n > len(s.wide) {
			s.wide = slices.DeleteFunc(s.wide, func(i int) bool { return own(i) != c })
			return
		}
	}
}

// mayBeTime reports whether a header that is no time may be one that is misspelt: it has figures, or begins like the name of a month.
func mayBeTime(header string) bool {
	begin := []rune(strings.TrimSpace(header))
	return strings.ContainsAny(header, "0123456789") || strings.Contains(header, " | ") ||
		terms.BareTimes([]string{string(begin[:min(3, len(begin))])}) == terms.Month
}

// besideTimes reports whether a header says that its figures stand beside those of times: an average, the highest, a balance; but not
// what came back, which may be to be taken off.
func besideTimes(header string) bool {
	return terms.SaysBeside(header) || terms.NotSold(header) && !terms.Returns(header)
}

// asksMonths reports whether months or days are asked for.
func asksMonths(asked []string) bool {
	return slices.ContainsFunc(asked, func(name string) bool { return terms.Of(name) == terms.Month || terms.Of(name) == terms.Day })
}
