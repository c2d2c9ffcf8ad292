package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/survey"
)

// What becomes of rows of one grain.

// mendRepeats decides about rows of one grain. Those that are the same in every cell were exported twice, and go; those
// that differ stay. Where they agree in all that is asked for, and columns that are dropped may tell them apart, few of them
// stay; where as many repeat as an extract has, it is a question.
func (d *drafter) mendRepeats(p *place.Problem) (changed bool) {
	alike := p.Add == "repeats: first" // those shown agree in everything
	switch {
	case !alike && d.holdAbove():
		return true
	case (!alike || d.differ) && d.askVersions(), d.repeats != "":
		return false
	case !alike:
		d.repeats, d.again = "keep", p.Count
		return true
	}
	entries := d.entriesAt(p)
	dropped, least := apartIn(entries)
	telling := slices.DeleteFunc(slices.Clone(dropped), func(header string) bool { return classOf(header) == aside })
	switch {
	case len(dropped) > 0 && !d.sameTried:
		d.sameTried = true
		for _, e := range entries {
			e.sameRows = true
		}
	case len(telling) == 0:
		d.repeats, d.again = "first", p.Count
	case 2*p.Count < least:
		d.repeats, d.again, d.telling = "keep", p.Count, telling
	default:
		text := fmt.Sprintf("rows of one grain agree in all that is asked for, %s may tell them apart, and a build stops: were they exported "+
			"twice (repeats: first), or not (repeats: keep)?", joined(telling))
		if !slices.Contains(d.result.Open, text) {
			d.result.Open, d.rules = append(d.result.Open, text), append(d.rules, "? "+text)
		}
		return false
	}
	return true
}

// apartIn are the headers that entries leave aside, and that may tell rows apart, and how many rows their smallest table has.
func apartIn(entries []*entry) (headers []string, least int) {
	for _, e := range entries {
		for _, s := range e.sheets {
			if least == 0 || s.Rows < least {
				least = s.Rows
			}
			for _, header := range e.others {
				k := slices.IndexFunc(s.Fields, func(f survey.Field) bool { return key.Of(f.Header) == key.Of(header) })
				if k >= 0 && s.Fields[k].Distinct > 1 && !slices.Contains(headers, header) {
					headers = append(headers, header)
				}
			}
		}
	}
	return headers, least
}

// endSameRows forgets same_rows: drop where no row was dropped by it, and counts those that were.
func (d *drafter) endSameRows(s *fact.Summary) {
	for _, e := range d.entries {
		e.same = 0
		for i := range s.Extracts {
			x := &s.Extracts[i]
			if slices.ContainsFunc(e.sheets, func(o *sheet) bool {
				return (x.File == o.file || strings.HasPrefix(x.File, o.file+"/")) && x.Sheet == o.Place.Sheet
			}) {
				e.same += x.Rows.Same
			}
		}
		e.sameRows = e.sameRows && e.same > 0
	}
}
