package draft

import (
	"strconv"
	"strings"

	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// contradicted reports whether most dates or months below a header are not of the year or the month that paths, sheets or titles say:
// when it was entered, perhaps, or is due.
func (e *entry) contradicted(header string) bool {
	agree, all := 0, 0
	for n, s := range e.sheets {
		said := e.timeSaid(n)
		f := s.field(strings.TrimSpace(header))
		if f == nil || said == (value.Date{}) {
			continue
		}
		for _, d := range s.datesOf(f) {
			if all++; (said.Year == 0 || d.Year == said.Year) && (said.Month == 0 || d.Month == said.Month) {
				agree++
			}
		}
	}
	return 2*agree < all
}

// timeSaid is the year and the month that the path, the name or a title of a table says, 0 where it says none.
func (e *entry) timeSaid(n int) (said value.Date) {
	for i := range e.pieces {
		p := &e.pieces[i]
		if n >= len(p.Values) {
			continue
		}
		switch text := strings.TrimSpace(p.Values[n]); {
		case p.Time == terms.Year:
			said.Year, _ = strconv.Atoi(text)
		case p.Time == terms.Month:
			if d, ok := dateOf(text); ok {
				said = value.Date{Year: d.Year, Month: d.Month}
			}
		case terms.BareTimes(p.Values) == terms.Month:
			d, _ := value.ReadDate(text + " 2024")
			said.Month = d.Month
		}
	}
	return said
}

// datesOf are the dates and months of a field.
func (s *sheet) datesOf(f *survey.Field) (out []value.Date) {
	form, formed := value.DateFormOf(s.Dates)
	for _, v := range f.Values {
		d, ok := value.ReadDate(v)
		if !ok && formed {
			d, ok = form.Read(v)
		}
		if ok {
			out = append(out, d)
		}
	}
	return out
}

// dateOf reads a date in the one way that fits.
func dateOf(text string) (value.Date, bool) {
	if d, ok := value.ReadDate(text); ok {
		return d, true
	}
	if _, example := terms.TimeOf(text); example != "" {
		form, _ := value.DateFormOf(example)
		return form.Read(text)
	}
	return value.Date{}, false
}
