package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Rows that stand beside the others and are of no place or thing: averages, the year before, differences, parts of others.

// mayBeNoSales reports whether a label is of a row that may be no sales, or is of costs.
func mayBeNoSales(label string) bool {
	list := strings.Fields(key.Of(label))
	return len(list) > 1 && terms.Costs[list[len(list)-1]] || value.MayBeNoSale(label)
}

// standing are the labels of a field whose rows stand beside others; the largest and the smallest, where both are there.
func standing(f *survey.Field) (out []string) {
	in := func(words terms.Words) func(v string) bool { return func(v string) bool { return words[key.Of(v)] } }
	both := slices.ContainsFunc(f.Values, in(terms.Largest)) && slices.ContainsFunc(f.Values, in(terms.Smallest))
	for _, v := range f.Values {
		if value.StandsBeside(v) || both && (in(terms.Largest)(v) || in(terms.Smallest)(v)) {
			out = append(out, v)
		}
	}
	if len(out) == len(f.Values) {
		return nil
	}
	return out
}

// findBesides finds the rows of an entry that stand beside others: they are filtered, by the column of their label.
func (d *drafter) findBesides(e *entry) {
	for _, s := range e.sheets {
		for _, i := range s.labels() {
			f := &s.Fields[i]
			list := standing(f)
			if f.Is != "text" || terms.Of(f.Header) == terms.Aside || len(list) == 0 || d.inBook(list[0]) {
				continue
			}
			c := d.claimant(e, s, f.Header)
			if c == nil {
				c = d.helperOf(f.Header)
			}
			switch {
			case c == nil || c.class.OfTime(): // held as a text
			default:
				for _, label := range list {
					if !slices.Contains(c.besides, label) {
						c.besides = append(c.besides, label)
					}
				}
				slices.Sort(c.besides)
			}
		}
	}
}

// askNoSales asks about rows that may be no sales, among others.
func (d *drafter) askNoSales(e *entry) {
	for _, s := range e.sheets {
		for _, i := range s.labels() {
			f := &s.Fields[i]
			k := slices.IndexFunc(f.Values, mayBeNoSales)
			if slices.ContainsFunc(s.mixes, func(m *mix) bool { return key.Of(m.Header) == key.Of(f.Header) }) {
				continue // which is asked about
			}
			if f.Is != "text" || terms.Of(f.Header) == terms.Aside || k < 0 || len(f.Values) < 2 || d.inBook(f.Values[k]) {
				continue
			}
			e.askAbout(d, fmt.Sprintf("%s: rows of %s in %s may be no sales, and would be added to these; rows: { only: … } leaves them out",
				e.globs[0], f.Values[k], strings.TrimSpace(f.Header)))
		}
	}
}

// inBook reports whether a book that came with the extracts has a label.
func (d *drafter) inBook(label string) bool {
	for _, b := range d.books {
		if _, _, ok := b.Find(label); ok {
			return true
		}
	}
	return false
}

// claimant is the column that takes a header of a table, nil for none.
func (d *drafter) claimant(e *entry, s *sheet, header string) *column {
	if name := e.measures[key.Of(header)]; name != "" {
		return d.named(name)
	}
	if c := d.columnOf(s, header); c != nil && c.used[e] {
		return c
	}
	return nil
}

// filter is the formula for rows that do not stand beside others, "" where none do. An empty label is none of these.
func (d *drafter) filter() string {
	var all []string
	for _, c := range d.columns {
		for _, label := range c.besides {
			all = append(all, nameInFormula(c.name)+" = "+textInFormula(label))
		}
	}
	if len(all) == 0 {
		return ""
	}
	return "=not (" + strings.Join(all, " or ") + ")"
}

// textInFormula is a text as a formula has it.
func textInFormula(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }

// nameInFormula is the name of a column as a formula has it.
func nameInFormula(name string) string {
	if strings.ContainsFunc(name, func(r rune) bool { return (r < 'a' || r > 'z') && r != '_' }) {
		return "{" + name + "}"
	}
	return name
}
