package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Rows that say which measure their cell is, or those across are.

// findKind finds the field that says what the cell of a row is, or those across are: its values are names of measures, and there is one
// field of figures, or all stand across below headers that name none. Where it says another thing that keeps figures apart, no plan can
// tell by itself which of them are wanted.
func (s *sheet) findKind() {
	figures := s.figures()
	for i := range s.Fields {
		f := &s.Fields[i]
		if f.Is != "text" || len(f.Values) < 2 || len(f.Values) > 8 || terms.Of(f.Header) == terms.Aside { // a remark says this and that
			continue
		}
		all := func(is func(string) bool) bool {
			return !slices.ContainsFunc(f.Values, func(v string) bool { return !is(v) })
		}
		apart := mixOf(f.Values, s.belowZero())
		quantity := func(v string) bool { return terms.Of(v) == terms.Quantity } // beside this, costs are one figure of several
		price := func(v string) bool { return terms.Of(v) == terms.Price }
		measure := func(v string) bool { return terms.Of(v).OfMeasure() }
		named := func(v string) bool { return terms.OfWord(key.Of(v)).OfMeasure() }
		known := func(v string) bool { return measure(v) || price(v) || terms.Counts(v) || terms.Costs.In(v) }
		switch {
		case apart != "" && (apart != ofCosts || !slices.ContainsFunc(f.Values, quantity)):
		case (figures == 1 || s.figuresAcross()) && slices.ContainsFunc(f.Values, named) && !slices.Contains(things, terms.Of(f.Header)) &&
			!all(known):
			s.mixes = append(s.mixes, &mix{f, ofKinds, f.Values})
		case !all(known), all(terms.Counts):
		case s.figuresAcross():
			s.kind = i
		case figures > 1 && len(s.wide) > 1:
			s.mixes = append(s.mixes, &mix{f, ofMeasures, f.Values})
		case figures == 1:
			s.kind = i
		}
	}
}

// figuresAcross reports whether all figures of rows stand across, and headers do not say what they are, so that rows may.
func (s *sheet) figuresAcross() bool {
	for i := range s.Fields {
		header := s.Fields[i].Header
		if s.numeric(i) && !s.yearLike(i) && !s.isWide(i) && !slices.Contains(s.TotalColumns, header) && !slices.Contains(s.SumColumns, header) {
			return false
		}
	}
	headers := s.headersAcross()
	alike := all(headers, terms.SaysTime) || !slices.ContainsFunc(headers, terms.SaysTime) // months beside a size are not
	return len(s.wide) > 1 && s.rows == 1 && alike && measuresAmong(headers) == 0 && !s.actuals
}

// askOnce asks about labels that stand once above the rows they are of, where rows are put together that agree in all of them.
func (e *entry) askOnce() {
	s := e.sheets[0]
	for _, i := range s.labels() {
		if f := &s.Fields[i]; i != s.kind && !s.numeric(i) && f.Filled > 0 && 3*f.Blank >= f.Filled {
			e.open = append(e.open, fmt.Sprintf("%s: %s stands once above several rows, and widen puts rows together that agree in all cells: "+
				"have it delivered in each row", e.globs[0], strings.TrimSpace(f.Header)))
		}
	}
}

// headersAcross are the headers of the wide fields.
func (s *sheet) headersAcross() (out []string) {
	for _, i := range s.wide {
		out = append(out, s.Fields[i].Header)
	}
	return out
}

// sayings are the keys of what stands below headers, by the keys of these.
type sayings map[string]map[string]bool

func (s sayings) add(f *survey.Field) {
	k := key.Of(f.Header)
	if s[k] == nil {
		s[k] = map[string]bool{}
	}
	for _, v := range f.Values {
		s[k][key.Of(v)] = true
	}
}

// alignKinds takes fields that name one measure for what the cells of rows are, if tables with the same header name others.
func alignKinds(sheets []*sheet) {
	names := func(f *survey.Field) bool {
		other := func(v string) bool { return !terms.Of(v).OfMeasure() || value.IsCurrency(v) }
		return f.Is == "text" && len(f.Values) > 0 && !slices.ContainsFunc(f.Values, other) && !terms.CostsBesideSales(f.Values)
	}
	said := sayings{}
	for _, s := range sheets {
		for i := range s.Fields {
			if f := &s.Fields[i]; names(f) {
				said.add(f)
			}
		}
	}
	for _, s := range sheets {
		if s.kind >= 0 || s.figures() != 1 {
			continue
		}
		s.kind = slices.IndexFunc(s.Fields, func(f survey.Field) bool { return names(&f) && len(said[key.Of(f.Header)]) > 1 })
	}
}

// assignKinds finds the measures that rows name in a column of their own.
func (d *drafter) assignKinds(e *entry) {
	if e.sheets[0].kind < 0 {
		return
	}
	e.askOnce()
	for _, s := range e.sheets {
		figures := s.figures()
		for i := range s.Fields {
			f := &s.Fields[i]
			header := strings.TrimSpace(f.Header)
			switch {
			case i == s.kind:
				e.widen[0] = header
				for _, v := range f.Values {
					d.claimKind(e, v, f.Values)
				}
			case !s.numeric(i) || s.yearLike(i) || len(s.wide) > 0:
				continue
			case figures == 1 && s.derived(i) && d.named(key.Of(header)) == nil: // rows of one thing differ in it
				if !slices.Contains(e.others, header) {
					e.others = append(e.others, header)
				}
			default:
				e.widen[1] = header
			}
			e.measures[key.Of(f.Header)] = " taken"
		}
	}
}

// soldKinds are the names of figures but for those of another year, of plans or of costs of which others are of the same measure.
func soldKinds(all []string) []string {
	other := func(v string) bool { return terms.BesideActual(v) || terms.Costs.In(v) }
	return slices.DeleteFunc(slices.Clone(all), func(v string) bool {
		return other(v) && slices.ContainsFunc(all, func(o string) bool { return !other(o) && terms.Of(o) == terms.Of(v) })
	})
}

// claimKind claims the column that rows name, or leaves their figures aside: those of another year, say, where some are called as the
// column is.
func (d *drafter) claimKind(e *entry, said string, all []string) {
	c := d.columnFor(said)
	if c != nil && c.class == terms.None && key.Same(c.name, said) { // which is asked for by its own name
		c.class = terms.Amount
	}
	aside := terms.Costs.In(said) && (c == nil || !terms.Costs.In(c.name)) ||
		c != nil && !key.Same(said, c.name) && slices.ContainsFunc(all, func(v string) bool { return key.Same(v, c.name) })
	if !aside && c != nil && (c.class.OfMeasure() || c.class == terms.Price) {
		c.claim(e, said, "rows that say "+said)
		e.waits = e.waits || c.tossUps[e] != nil && len(c.tossUps[e]) == 0 // which are unlike: it is asked
		return
	}
	if said = strings.TrimSpace(said); slices.Contains(e.others, said) {
		return
	}
	if e.others = append(e.others, said); len(d.Columns) == 0 { // nobody said that they are not wanted
		e.open = append(e.open, fmt.Sprintf("%s: the figures of rows that say %s are left aside; umbau draft --columns says which are wanted",
			e.globs[0], said))
	}
}

// assignAcross says what the headers of cells are of which the rows say what these are.
func (d *drafter) assignAcross(e *entry, parts [][]string) {
	c := d.wideColumn(e, parts[0])
	if c == nil || len(parts) > 1 {
		e.open = append(e.open, fmt.Sprintf("%s: what stands across, of %s, does not show; unpivot: { header: … } says it", e.globs[0],
			e.widen[0]))
		e.unpivot, e.widen[0] = nil, ""
		return
	}
	e.readTimes(parts[0])
	c.claim(e, "", "wide headers")
	c.learn(parts[0])
	e.unpivot.header = "{" + c.name + "}"
}

// writeWiden writes which rows say what their cell is, or those across are.
func (e *entry) writeWiden(b *strings.Builder, in string) {
	switch {
	case e.widen[0] == "":
	case e.unpivot != nil:
		keyed(b, in, "widen", "{ header: "+layout.Flow(e.widen[0])+" }", "rows say what their cells across are")
	default:
		keyed(b, in, "widen", "{ header: "+layout.Flow(e.widen[0])+", cell: "+layout.Flow(e.widen[1])+" }", "rows say what their cell is")
	}
}
