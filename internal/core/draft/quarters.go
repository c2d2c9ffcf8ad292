package draft

import (
	"slices"
	"strings"

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
			own.headers[i] = s.Fields[i].Header
			if months[above]++; months[above] > 3 && !half || months[above] > 6 {
				return
			}
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
		_, s.Fields[i].Header, _ = strings.Cut(s.Fields[i].Header, " | ")
		s.Fields[i].Wide = true
	}
	s.spelt = &own
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
