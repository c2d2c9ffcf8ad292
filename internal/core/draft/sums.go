package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/record"
	"umbau/internal/core/value"
)

// Files that sum up others: added to these they would count twice.

// sumsUp reports whether the name of a file says that it has the figures of all: "Gesamt", "All coasts 2024", "Sales overview",
// but not "All Weather".
func sumsUp(name string) bool {
	var words []string
	for _, w := range strings.Fields(key.Of(name)) {
		if t, _ := timeOf(w); t == noClass && strings.Trim(w, "0123456789") != "" {
			words = append(words, w)
		}
	}
	label := strings.Join(words, " ")
	other := func(w string) bool { return !summaries[w] && !general[w] }
	return saysAll(label) || new(value.Totals).Alone(label) || hasWord(summaries, label) && !slices.ContainsFunc(words, other)
}

// source tells tables apart.
func (s *sheet) source() string {
	name := s.file
	if s.member != "" {
		name += "/" + s.member
	}
	return name + "\x00" + s.Place.Sheet
}

// sumsOfAll finds the table of which every measure is the sum of those of all others, to the last digit: at least two, in
// figures of at least five digits. It is called by its source.
func (d *drafter) sumsOfAll(s *fact.Summary) string {
	var left []*record.Extract
	for i := range s.Extracts {
		left = append(left, &s.Extracts[i])
	}
	sure := false
	for _, c := range d.columns {
		if c.missing || !c.class.ofMeasure() {
			continue
		}
		ci := s.Plan.Index(c.name)
		of := func(e *record.Extract) value.Decimal { return e.Account(ci).Fact.Total() }
		var all value.Decimal
		some := 0
		for i := range s.Extracts {
			if one := of(&s.Extracts[i]); one.Sign() != 0 {
				all, some = all.Add(one), some+1
			}
		}
		left = slices.DeleteFunc(left, func(e *record.Extract) bool {
			one := of(e)
			return one.Sign() == 0 && some > 0 || one.Add(one).Sub(all).Sign() != 0
		})
		sure = sure || some > 2 && all.Sign() != 0 && len(strings.Trim(all.Shorten().String(), "-.")) > 5
	}
	if !sure || len(left) != 1 {
		return ""
	}
	return left[0].File + "\x00" + left[0].Sheet
}
