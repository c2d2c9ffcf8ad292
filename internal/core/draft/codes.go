package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Codes beside figures across: numbers of customers and documents are none of these.

// identifies reports whether a field of whole numbers says what other figures are of: a customer, a document, a week.
func (s *sheet) identifies(i int) bool {
	for k := range s.Fields {
		if k != i && s.numeric(k) && !s.yearLike(k) && !terms.Identifies(s.Fields[k].Header) {
			return terms.Identifies(s.Fields[i].Header)
		}
	}
	return false
}

// leaveCodes leaves fields out of those across that hold codes, by their header or by what they hold, if some others remain.
func (s *sheet) leaveCodes() {
	code := func(i int) bool { return s.saysCodes(i) || s.holdsCodes(i) }
	if rest := slices.DeleteFunc(slices.Clone(s.wide), code); len(rest) > 1 {
		s.wide = rest
	}
}

// saysCodes reports whether the header of whole numbers says that they are codes.
func (s *sheet) saysCodes(i int) bool {
	f := &s.Fields[i]
	return f.Is == "whole" && (s.identifies(i) || terms.SaysCode(key.Of(f.Header)))
}

// holdsCodes reports whether whole numbers are all as long as each other, of four digits at least, and all others across stand behind them
// and have decimals, or fewer digits by two.
func (s *sheet) holdsCodes(i int) bool {
	f := &s.Fields[i]
	if t, _ := terms.TimeOf(f.Header); f.Is != "whole" || len(f.Values) < 3 || t != terms.None {
		return false
	}
	for _, v := range f.Values {
		if len(v) != len(f.Values[0]) || len(v) < 4 || strings.Trim(v, "0123456789") != "" {
			return false
		}
	}
	return !slices.ContainsFunc(s.wide, func(k int) bool {
		o := &s.Fields[k]
		long := slices.ContainsFunc(o.Values, func(v string) bool { return len(v) > len(f.Values[0])-2 })
		return k < i || k != i && o.Is != "number" && long
	})
}

// unclear reports whether a build might take the texts of a field for figures that do not read: dates, times of the day, documents.
func unclear(f *survey.Field) bool {
	return timeIn(f) != terms.None ||
		f.Is == "text" && slices.ContainsFunc(f.Values, func(v string) bool { return value.GapOf(v) == value.Unclear })
}
