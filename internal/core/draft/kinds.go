package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// settleKinds says what each column is.
func (d *drafter) settleKinds() {
	for _, c := range d.columns {
		d.settleKind(c)
		d.fromFiner(c)
		missing := 0
		for _, e := range d.entries {
			if !c.used[e] && c.from == "" && c.lookup == nil {
				missing++
				if list := e.unclaimed(c); len(list) > 0 && c.tossUps[e] == nil {
					c.tossUps[e] = list
				}
				if list := e.figures(c.class); c.class.OfMeasure() && c.tossUps[e] == nil && len(list) > 0 && !d.measures(e) {
					if c.tossUps[e] = list; len(e.open) > 0 { // figures that are none of those asked for, as far as anybody knows
						c.tossUps[e] = unlike // another question comes before
					}
				}
				e.askUnknown(c)
				if (c.class.OfMeasure() || c.further) && c.tossUps[e] == nil { // a label that is asked for and not found stops
					e.absent[c.name] = true
				} else {
					e.lacks = append(e.lacks, c.name)
				}
			}
		}
		asked := c == d.bareYear && d.bare != nil && len(d.bare.used) > 0 // the year of months that have none: set says it
		c.missing = missing == len(d.entries) && c.from == "" && c.lookup == nil && !asked
		if c.missing {
			for _, e := range d.entries {
				delete(e.absent, c.name)
				e.lacks = slices.DeleteFunc(e.lacks, func(name string) bool { return name == c.name })
			}
		}
	}
	if d.bare != nil && d.bare.missing { // then nothing is made of it
		for _, c := range d.columns {
			c.missing = c.missing || slices.Contains(c.parts, d.bare)
		}
	}
	for _, c := range d.columns {
		c.missing = c.missing || c.from != "" && d.named(c.from).missing
	}
}

// settleKind says what a column is.
func (d *drafter) settleKind(c *column) {
	switch {
	case c.class == terms.Year && c.helper:
		c.is = "year"
	case c.class == terms.Year:
		c.is = "year"
		d.yearOfMonth(c)
	case c.class == terms.BareTime || c == d.bare, c == d.section, c == d.thing:
		c.is = "text"
	case c.class == terms.Month:
		c.is = "month"
	case c.class == terms.Day:
		c.is = "date"
	case c.class == terms.Quarter:
		c.is = "quarter"
	case c.class.OfMeasure(), c.class == terms.Price:
		c.is, c.decimals = d.measureKind(c)
	case c.lookup != nil:
	default:
		c.is = "name"
	}
}

// askUnknown makes a question of what names no known measure in wide headers, where one is lacking.
func (e *entry) askUnknown(c *column) {
	if !c.class.OfMeasure() || e.unpivot == nil || len(e.unpivot.unknown) == 0 {
		return
	}
	for _, text := range e.unpivot.unknown {
		c.tossUps[e] = append(c.tossUps[e], key.Of(text))
		e.others = slices.DeleteFunc(e.others, func(h string) bool { return h == e.unpivot.below(text) })
	}
}

// figures are the headers of figures that no column has, a few of them, of a class or of which no word says what they are.
func (e *entry) figures(of terms.Class) (out []string) {
	s := e.sheets[0]
	for i := range s.Fields {
		header := strings.TrimSpace(s.Fields[i].Header)
		_, claimed := e.measures[key.Of(header)]
		own := terms.Of(header)
		unlike := s.yearLike(i) || terms.SaysCode(key.Of(header)) || terms.Counts(header) || terms.NoSales.In(header) ||
			s.Fields[i].Is == "whole" && s.identifies(i)
		if !claimed && s.numeric(i) && !unlike && (own == terms.None || own == of) && len(out) < mostLikely {
			out = append(out, header)
		}
	}
	return out
}

// unclaimed are the headers that may be those of a column, and that no column has: of figures of its class, or a few of labels of which
// no word says what they are.
func (e *entry) unclaimed(c *column) (out []string) {
	s, label := e.sheets[0], !c.class.OfTime() && !c.class.OfMeasure() && c.class != terms.Price && !c.further
	for _, i := range s.labels() {
		f := &s.Fields[i]
		header := strings.TrimSpace(f.Header)
		if _, claimed := e.measures[key.Of(header)]; claimed || header == "" {
			continue
		}
		of := terms.Of(header)
		figures := c.class.OfMeasure() && of == c.class && (s.numeric(i) || unclear(f))
		if figures || label && f.Is == "text" && of == terms.None {
			out = append(out, header)
		}
	}
	if label && len(out) > mostLikely {
		return nil
	}
	return out
}

// mostLikely is how many headers are asked about.
const mostLikely = 4

// eachField calls a function with every field that has cells of a measure.
func (d *drafter) eachField(c *column, call func(*entry, *survey.Field)) {
	for _, e := range d.entries {
		for _, s := range e.sheets {
			for i := range s.Fields {
				f := &s.Fields[i]
				if e.measures[key.Of(f.Header)] == c.name || s.isWide(i) && d.cellOf(e, f.Header) == c ||
					s.kind >= 0 && (c.class == terms.Amount || c.class == terms.Price) && (s.isWide(i) || key.Of(f.Header) == key.Of(e.widen[1])) {
					call(e, f)
				}
			}
		}
	}
}

// measureKind is what the cells of a measure are, and how many places they have.
func (d *drafter) measureKind(c *column) (is string, decimals int) {
	is, decimals = "whole", -1
	d.eachField(c, func(e *entry, f *survey.Field) {
		if f.Is == "number" {
			is, decimals = "number", max(decimals, placesOf(f.Values, e.numbers))
		}
	})
	if is == "whole" && c.class == terms.Amount {
		return "number", -1
	}
	return is, decimals
}
