package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Quarters often stand above their months. They say nothing that the months do not, but which of them a total beside these is of.

// nameMonthsBelow gives headers of months below quarters the names of the months alone.
func (s *sheet) nameMonthsBelow() {
	own := spelt{below: true, headers: map[int]string{}}
	months := map[string]int{} // of each quarter
	for i := range s.Fields {
		above, month, two := strings.Cut(s.Fields[i].Header, " | ")
		switch half := terms.IsHalf(above); {
		case !two && !terms.IsMonth(above):
		case two && terms.IsMonth(month) && (half || terms.IsQuarter(above)):
			sign, _ := yearAbove(above, month)
			if months[above]++; months[above] > 3 && !half || months[above] > 6 || len(own.headers) > 0 && sign != own.sign {
				return
			}
			own.headers[i], own.sign = s.Fields[i].Header, sign
		case !two, terms.IsMonth(month), !slices.Contains(s.SumColumns, s.Fields[i].Header) && !value.IsTotalWord(key.Of(month)):
			return
		case !half && !terms.IsQuarter(above) && !value.IsTotalWord(key.Of(above)):
			own.apart = append(own.apart, s.Fields[i].Header)
		}
	}
	if s.spelt != nil || s.HeaderRows != 2 || len(own.headers) < 2 {
		return
	}
	s.Fields = slices.Clone(s.Fields)
	for i := range own.headers {
		above, month, _ := strings.Cut(s.Fields[i].Header, " | ")
		if s.Fields[i].Header = month; own.sign != "" {
			_, year := yearAbove(above, month)
			s.Fields[i].Header = year + " | " + month
		}
		s.Fields[i].Wide = true
	}
	s.spelt = &own
}

// yearAbove is the year of a quarter above a month that has none, and the sign before it; "" where there is none.
func yearAbove(quarter, month string) (sign, year string) {
	m := quarterOfYear().FindStringSubmatch(quarter)
	if m == nil || terms.BareTimes([]string{month}) != terms.Month {
		return "", ""
	}
	return m[1], m[2]
}

var quarterOfYear = expression.Of(`[^ /-]([ /-])((?:19|20)\d\d)$`)

// quarterFirst and yearFirst are a quarter of a year, in two: Q1 2024, 2024-Q1.
var (
	quarterFirst = expression.Of(`^(.*?[^ /_-])([ /_-]?)((?:19|20)\d\d)$`)
	yearFirst    = expression.Of(`^((?:19|20)\d\d)([ /_-]?)(.*)$`)
)

// partQuarters parts quarters that the names of tables say into a quarter and a year, where months of these quarters have no other year.
func (e *entry) partQuarters() {
	at := slices.IndexFunc(e.pieces, func(p piece) bool { return p.Time == terms.Quarter && len(p.Values) == len(e.sheets) })
	header, ok := e.bareTime(&column{class: terms.Month})
	if at < 0 || !ok || e.saysYear() {
		return
	}
	p, first, second := e.pieces[at], piece{}, piece{}
	quarters, years, sign, ok := filenames.InTwo(p.Values, quarterFirst())
	if first.Values, second.Values, second.Time = quarters, years, terms.Year; !ok {
		if years, quarters, sign, ok = filenames.InTwo(p.Values, yearFirst()); !ok {
			return
		}
		first.Values, second.Values, first.Time, second.Time = years, quarters, terms.Year, terms.None
	}
	for n, s := range e.sheets {
		months, _ := s.bareMonths(header)
		quarter := quarterOf(p.Values[n])
		other := func(m int) bool { return quarter != fmt.Sprintf("%s-Q%d", years[n], (m+2)/3) }
		if slices.ContainsFunc(months, other) { // of another year than that of the calendar
			return
		}
	}
	first.Before, second.Before = p.Before, sign
	first.Absent, first.Folder = p.Absent, p.Folder
	first.from, first.title, second.from, second.title, second.Folder = p.from, p.title, p.from, p.title, p.Folder
	e.pieces = slices.Replace(e.pieces, at, at+1, first, second)
}

// passQuarters writes the quarters above months into the pattern of wide headers.
func (d *drafter) passQuarters(e *entry) {
	own, above := e.sheets[0].spelt, "{"+d.quarterAbove(e).name+"}"
	e.others = append(e.others, own.apart...)
	for _, c := range d.columns {
		piece := "{" + c.name + "}"
		switch {
		case own.sign != "" && (c == d.bareYear || c.class == terms.Year):
			e.unpivot.header = strings.Replace(e.unpivot.header, piece, above+own.sign+piece, 1)
		case own.sign == "" && (c == d.bare || c.class == terms.Month):
			e.unpivot.header = strings.Replace(e.unpivot.header, piece, above+" | "+piece, 1)
		}
	}
}

// quarterAbove is the column that takes the quarters above months, which nobody needs but who compares their totals.
func (d *drafter) quarterAbove(e *entry) *column {
	i := slices.IndexFunc(d.columns, func(c *column) bool { return c.helper && c.above })
	if i < 0 {
		i = len(d.columns)
		c := d.helper("above", terms.None)
		c.above = true
	}
	d.columns[i].claim(e, "", "wide headers")
	return d.columns[i]
}
