package fact

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// explain says of cells that are unclear how else they may be written: which
// examples would read them, and how many each; if one reads all, the line to add.
func (s *Summary) explain(p *place.Problem) {
	c := s.Plan.Column(p.Column)
	if c == nil {
		return
	}
	if signs := s.foreign(p, c); signs != nil {
		own := "what the column had before"
		if c.Currency != "" {
			own = c.Currency
		}
		p.Advice = fmt.Sprintf("they are in %s, not in %s: convert them, or give them a column or a file of their own; or a value, "+
			"leave, drop, hold or stop", strings.Join(signs, ", "), own)
		return
	}
	if len(p.Other) == 0 {
		return
	}
	key := "dates"
	if c.Kind.Numeric() {
		key = "numbers"
	}
	examples := slices.Collect(maps.Keys(p.Other))
	slices.SortFunc(examples, func(a, b string) int {
		if n := p.Other[b] - p.Other[a]; n != 0 {
			return n
		}
		return strings.Compare(a, b)
	})
	if 2*p.Other[examples[0]] < p.Count {
		return // few of them are meant so
	}
	if c.Kind.Dated() {
		for _, text := range p.Texts {
			if days := value.Readings(text); len(days) > 1 {
				p.Message += fmt.Sprintf(": %q is %s", text, strings.Join(days, " or "))
				break
			}
		}
	}
	var shares []string
	for _, e := range examples[:min(3, len(examples))] {
		shares = append(shares, fmt.Sprintf("%s reads %d of %d", e, p.Other[e], p.Count))
	}
	p.Advice = fmt.Sprintf("%s; %s in the entry of extracts says how they are written, or a value, leave, drop, hold or stop",
		strings.Join(shares, ", "), key)
	if entry := s.entryOf(p); p.Other[examples[0]] == p.Count && (len(examples) == 1 || p.Other[examples[1]] < p.Count) && entry != nil {
		p.Add, p.Plan = fmt.Sprintf("%s: %q", key, examples[0]), entry.Pos
	}
}

// foreign lists the currencies of cells that are unclear for nothing else; nil if others are
// among them.
func (s *Summary) foreign(p *place.Problem, c *plan.Column) (signs []string) {
	if p.What != "unclear gap" || c.Kind != plan.Number {
		return nil
	}
	for i, at := range p.Places {
		entry := s.entryOf(&place.Problem{Places: []place.Place{at}})
		if entry == nil || i >= len(p.Texts) {
			return nil
		}
		_, sign, ok := entry.Reading.Number([]byte(p.Texts[i]))
		if !ok || sign == "" {
			return nil
		}
		if !slices.Contains(signs, sign) {
			signs = append(signs, sign)
		}
	}
	slices.Sort(signs)
	return signs
}

// entryOf is the entry of extracts that a problem stands in; nil for several.
func (s *Summary) entryOf(p *place.Problem) *plan.Entry {
	var entry *plan.Entry
	for _, at := range p.Places {
		for i := range s.Extracts {
			if e := &s.Extracts[i]; e.File == at.File && e.Sheet == at.Sheet {
				if own := s.entries[i]; entry == nil || entry == own {
					entry = own
				} else {
					return nil
				}
			}
		}
	}
	return entry
}
