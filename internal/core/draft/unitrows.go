package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/value"
)

// A row of units among several header rows.

// withoutUnits are header rows but for one of units alone, which says nothing that the others do not: patterns pass it over.
func (e *entry) withoutUnits(parts [][]string) [][]string {
	at := slices.IndexFunc(parts, func(texts []string) bool { return all(texts, value.IsUnit) })
	if len(parts) < 2 || at < 0 {
		return parts
	}
	var money []string
	for _, text := range parts[at] {
		if code := value.CurrencyOf(text); code != "" && !slices.Contains(money, code) {
			money = append(money, code)
		}
	}
	if len(money) > 1 || slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.unitsTell(at) }) {
		return parts
	}
	e.unpivot.units, e.unpivot.unit = at+1, "*"
	if !key.Differ(parts[at]) {
		e.unpivot.unit = pattern.Escape(parts[at][0])
	}
	return slices.Delete(parts, at, at+1)
}

// unitsTell reports whether a row of units tells columns of a table apart that the other rows do not.
func (s *sheet) unitsTell(at int) bool {
	seen := map[string]bool{}
	for _, i := range s.wide {
		k := key.Of(strings.Join(slices.Delete(strings.Split(s.Fields[i].Header, " | "), at, at+1), " | "))
		if seen[k] {
			return true
		}
		seen[k] = true
	}
	return false
}

// passUnits lets the patterns of wide headers pass over the row of units, if it has those that it has now: another currency would be
// added up with it.
func (e *entry) passUnits() {
	u := e.unpivot
	if u == nil || u.units == 0 || u.header == "" {
		return
	}
	u.header = u.over(u.header)
	if u.unit != "*" {
		return
	}
	for _, s := range e.sheets {
		for _, i := range s.wide {
			parts := strings.Split(s.Fields[i].Header, " | ")
			measure := u.measureIn(s.Fields[i].Header)
			if u.named != nil && u.named[key.Of(measure)] == nil { // is left aside
				continue
			}
			for k, part := range parts {
				if parts[k] = "*"; k == u.units-1 || u.named != nil && part == measure {
					parts[k] = pattern.Escape(part)
				}
			}
			if pattern := strings.Join(parts, " | "); !slices.Contains(u.columns, pattern) {
				u.columns = append(u.columns, pattern)
			}
		}
	}
}

// over is a pattern of headers with a row of units.
func (u *unpivot) over(header string) string {
	if u.units == 0 {
		return header
	}
	return strings.Join(slices.Insert(strings.Split(header, " | "), u.units-1, u.unit), " | ")
}
