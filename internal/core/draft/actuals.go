package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// Figures that were sold stand across beside those that were planned, those of the last year and what lies between: Jan Actual, Jan Budget.

// besideActuals are fields of figures whose headers name a month and, in each of some ways, which figures these are: those that were sold
// by one of them, or by the names of measures.
func (s *sheet) besideActuals() (out []int) {
	months := map[string]bool{}
	var rests []string
	for i := range s.Fields {
		if !s.numeric(i) || slices.Contains(s.TotalColumns, s.Fields[i].Header) {
			continue
		}
		month, _, rest, _, ok := terms.MonthBeside(s.Fields[i].Header)
		if !ok {
			continue
		}
		months[key.Of(month)] = true
		if out = append(out, i); !slices.ContainsFunc(rests, func(r string) bool { return key.Same(r, rest) }) {
			rests = append(rests, rest)
		}
	}
	if len(months) < 2 || len(rests) < 2 || len(out) != len(months)*len(rests) || !actuals(rests) {
		return nil
	}
	return out
}

// thingOf is what stands beside the name of a measure in a header, or beside what says that figures were sold or not; or all of it.
func (s *sheet) thingOf(header string) string {
	if month, _, _, _, ok := terms.MonthBeside(header); ok && s.actuals {
		return month
	}
	return thingOf(header)
}

// actuals reports whether some texts say figures that were sold and others beside these: of those that say so by no measure there is one
// at most, and no measure then.
func actuals(texts []string) bool {
	measures, actual, others := 0, 0, 0
	for _, text := range texts {
		switch {
		case terms.BesideActual(text):
			others++
		case terms.SaysActual(text):
			actual++
		case terms.Of(text).OfMeasure():
			measures++
		default:
			return false
		}
	}
	return others > 0 && (actual == 1 && measures == 0 || actual == 0 && measures > 0)
}

// partsByMonth parts headers of months and of what stands beside them, if all are parted alike.
func partsByMonth(headers []string) (parts [2][]string, sign string, ok bool) {
	side := false
	for i, h := range headers {
		month, by, rest, first, ok := terms.MonthBeside(h)
		if !ok || i > 0 && (by != sign || first != side) {
			return parts, "", false
		}
		sign, side = by, first
		two := [2]string{rest, month}
		if first {
			two = [2]string{month, rest}
		}
		parts[0], parts[1] = append(parts[0], two[0]), append(parts[1], two[1])
	}
	return parts, sign, len(headers) > 0
}

// actual is the amount that is asked for, where a part of wide headers says which figures were sold by no name of a measure, and others
// beside these: by the text that says so.
func (d *drafter) actual(e *entry, texts []string) map[string]*column {
	var distinct []string
	for _, text := range texts {
		if !slices.ContainsFunc(distinct, func(o string) bool { return key.Same(o, text) }) {
			distinct = append(distinct, text)
		}
	}
	at := slices.IndexFunc(distinct, func(text string) bool { return terms.SaysActual(text) && !terms.BesideActual(text) })
	c := d.cellColumn(e)
	if at < 0 || c == nil || !actuals(distinct) || strings.Contains(distinct[at], " | ") {
		return nil
	}
	return map[string]*column{key.Of(distinct[at]): c}
}
