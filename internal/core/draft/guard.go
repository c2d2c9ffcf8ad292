package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// findGuards keeps an eye on currencies, and on what says whether figures were sold or planned, where only one stands and
// nobody asked for the column: the figures of a row that says something else, next month, may not be added to these.
func (d *drafter) findGuards() {
	said := sayings{}
	d.eachLabel(func(_ *entry, f *survey.Field) { said.add(f) })
	d.eachLabel(func(e *entry, f *survey.Field) {
		k := key.Of(f.Header)
		_, taken := e.measures[k]
		if !taken && k != "" && !e.mixes(f.Header) && len(said[k]) == 1 && len(f.Values) > 0 && terms.SaysOfFigures(f.Values[0]) {
			d.addGuard(f.Header, f.Values[0])
		}
	})
}

// eachLabel goes through the fields of all tables that are not wide.
func (d *drafter) eachLabel(do func(*entry, *survey.Field)) {
	for _, e := range d.entries {
		for _, s := range e.sheets {
			for _, i := range s.labels() {
				do(e, &s.Fields[i])
			}
		}
	}
}

// addGuard adds a column that says the same everywhere, where it stands.
func (d *drafter) addGuard(header, says string) {
	if c := d.helperOf(header); c != nil {
		c.always, c.note = says, "says "+says+" everywhere: a row that says something else stops the build"
	}
}

// helperOf adds a column of texts that is not delivered, for a header that no other column takes; nil where there may be none of its name.
func (d *drafter) helperOf(header string) *column {
	name, odd := snake(header), func(r rune) bool { return (r < 'a' || r > 'z') && r != '_' }
	if name == "" || d.named(name) != nil || strings.ContainsFunc(name, odd) {
		return nil
	}
	c := d.helper(name, terms.None)
	c.is = "text"
	lacks := func(s *sheet) bool {
		return !slices.ContainsFunc(s.labels(), func(i int) bool { return key.Of(s.Fields[i].Header) == key.Of(header) })
	}
	for _, e := range d.entries {
		if slices.ContainsFunc(e.sheets, lacks) {
			e.absent[name] = true
		}
		if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return !lacks(s) }) {
			e.take(header, c)
			c.claim(e, header, "")
		}
	}
	return c
}

// guardSpans has a helper take when the span of a title begins of which the month takes when it ends: in another month a build stops.
func (d *drafter) guardSpans() {
	var since *column
	for _, e := range d.entries {
		for i := range e.pieces {
			p := &e.pieces[i]
			if !p.Span || p.column == nil || i == 0 || !e.pieces[i-1].Span || e.pieces[i-1].from != p.from || e.pieces[i-1].title != p.title {
				continue
			}
			if since == nil {
				since = d.helper("since", terms.Month)
				since.is, since.within = "month", "="+since.name+" = "+p.column.name
			}
			e.pieces[i-1].give(e, since)
		}
	}
	for _, e := range d.entries {
		if since != nil && !since.used[e] {
			e.absent[since.name], since.within = true, fmt.Sprintf("=coalesce(%s, %s) = %[2]s", since.name, d.of(terms.Month).name)
		}
	}
}

// must is the formula of a column that says the same everywhere, or the month that another one says, "" of others. A row may say nothing,
// if a rule lets it.
func (c *column) must() string {
	if c.within != "" {
		return c.within
	}
	if c.always == "" {
		return ""
	}
	says := textInFormula(c.always)
	return fmt.Sprintf("=coalesce(%s, %s) = %s", c.name, says, says)
}
