package draft

import (
	"context"
	"maps"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// Where fewer labels are asked for than the extracts have, or coarser times, rows repeat the grain that are no copies of each other. What
// they are shows by all labels.

// full is what a build says of rows of one grain when all labels are in it.
type full int

const (
	unknown full = iota // all are asked for
	differ              // some have other figures
	copies              // all that repeat are the same in everything
	unique              // none repeat
)

// byAllLabels tries a plan whose grain has all labels of the extracts, columns that are not delivered and labels that are left aside too.
func (d *drafter) byAllLabels(ctx context.Context) full {
	columns, grain, repeats := d.columns, d.grain, d.repeats
	others, absent, pieces := map[*entry][]string{}, map[*entry]map[string]bool{}, map[*entry][]piece{}
	for _, e := range d.entries {
		others[e], absent[e], pieces[e] = e.others, maps.Clone(e.absent), slices.Clone(e.pieces)
	}
	defer func() {
		d.columns, d.grain, d.repeats = columns, grain, repeats
		for _, e := range d.entries {
			e.others, e.absent, e.pieces = others[e], absent[e], pieces[e]
		}
	}()
	d.columns, d.grain, d.repeats = nil, slices.Clone(grain), ""
	for _, c := range columns {
		d.columns = append(d.columns, d.inFull(c))
	}
	added := map[string]*column{}
	for _, e := range d.entries {
		d.addLeftAside(e, added)
	}
	same := slices.Equal(d.grain, grain) && slices.Equal(d.columns, columns)
	// Names count where they tell all tables apart that share rows.
	if !slices.ContainsFunc(d.sharing(), func(b sharing) bool { return !b.first.toldFrom(b.again) }) {
		for _, e := range d.entries {
			d.addNames(e, added)
		}
	}
	if same && (len(added) == 0 || len(d.sharing()) == 0) { // names alone say nothing of the rows of one table
		return unknown
	}
	for _, e := range d.entries {
		for _, c := range added {
			if !c.used[e] {
				e.absent[c.name] = true
			}
		}
	}
	if d.apartByMeasure(d.entries) {
		d.repeats = "sum"
	}
	s, err := d.build(ctx)
	switch {
	case err != nil:
		return unknown
	case d.repeats == "sum" && d.doubledIn(s) != nil:
		return differ
	}
	for i := range s.Problems {
		if p := &s.Problems[i]; p.What == "repeated grain" {
			if p.Add == "repeats: first" {
				d.copied = p.Count
				return copies
			}
			return differ
		}
	}
	return unique
}

// inFull is a column that takes all of what stands in its fields, or itself where it does. Times that are not delivered are in the grain.
func (d *drafter) inFull(c *column) *column {
	if c.helper && (c.class.OfTime() && c.is != "text" || c == d.section || c == d.thing) && c.is != "" && !c.missing {
		d.grain = append(d.grain, c.name)
		return c
	}
	if c.helper {
		return c
	}
	finest := terms.Class("")
	for _, e := range d.entries {
		if own := e.finestOf(c); c.used[e] && (finest == "" || fineness[own] < fineness[finest]) {
			finest = own
		}
	}
	if c.read == "" && (!c.class.OfTime() || c.made() || fineness[finest] <= fineness[c.class]) {
		return c
	}
	all := *c
	all.read = ""
	if c.class.OfTime() && !c.made() && fineness[finest] > fineness[c.class] {
		all.is = map[terms.Class]string{terms.Day: "date"}[finest]
		if all.is == "" {
			all.is = string(finest)
		}
	}
	return &all
}

// finestOf is the time that stands where a column of times takes its values, in a field or across.
func (e *entry) finestOf(c *column) terms.Class {
	s := e.sheets[0]
	if e.unpivot != nil && strings.Contains(e.unpivot.header, "{"+c.name+"}") {
		return s.wideTime()
	}
	for i := range s.Fields {
		if f := &s.Fields[i]; e.measures[key.Of(f.Header)] == c.name || key.Same(f.Header, c.name) {
			return timeIn(f)
		}
	}
	return c.class
}

// timeIn is the class of the times in a field, None where there are none.
func timeIn(f *survey.Field) terms.Class {
	return map[string]terms.Class{"quarter": terms.Quarter, "month": terms.Month, "date": terms.Day}[f.Is]
}

// addLeftAside adds a column for each label that is left aside.
func (d *drafter) addLeftAside(e *entry, added map[string]*column) {
	s := e.sheets[0]
	var left []string
	for _, header := range e.others {
		f := s.field(strings.TrimSpace(header))
		figures := f == nil || (f.Is == "number" || f.Is == "whole") && !terms.SaysCode(key.Of(header)) &&
			!s.identifies(slices.IndexFunc(s.Fields, func(g survey.Field) bool { return g.Header == f.Header }))
		if figures || terms.Of(header) == terms.Aside {
			left = append(left, header)
			continue
		}
		d.addLabel(e, added, "column "+key.Of(header)).headers = []string{f.Header}
	}
	e.others = left
}

// addNames adds a column for each label in names around tables that no column takes, and for times if the rows have none.
func (d *drafter) addNames(e *entry, added map[string]*column) {
	for i := range e.pieces {
		p := &e.pieces[i]
		time := !p.IsLabel() && e.finestOfRows() == terms.None
		if p.column == nil && len(p.Values) > 0 && !p.bare && (p.IsLabel() || time) {
			p.column = d.addLabel(e, added, "name "+strconv.Itoa(i))
		}
	}
}

// addLabel adds a column of texts to the grain, once for all entries.
func (d *drafter) addLabel(e *entry, added map[string]*column, of string) *column {
	c := added[of]
	if c == nil {
		c = newColumn("label " + strconv.Itoa(len(added)+1))
		c.class, c.is, c.helper = terms.None, "text", true
		c.rules = map[string]string{"blanks": "leave", "nulls": "leave", "errors": "leave"}
		added[of] = c
		d.columns, d.grain = append(d.columns, c), append(d.grain, c.name)
	}
	c.used[e] = true
	return c
}
