package draft

import (
	"cmp"
	"fmt"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// What must not be added up together: measures in rows, currencies, and what was planned beside what was sold.

// mix is a field that says what the figures of a row are.
type mix struct {
	*survey.Field
	of     string   // measures, kinds, currencies, plans, sides or costs
	values []string // of all tables
}

const (
	ofMeasures   = "measures"
	ofKinds      = "kinds" // measures in long rows, of which no word names some
	ofCurrencies = "currencies"
	ofPlans      = "plans"
	ofSides      = "sides"
	ofCosts      = "costs"
	ofStates     = "states" // which rows were no sales in the end
	ofTaxes      = "taxes"
	ofUnits      = "units"
)

// mixOf is what texts say of figures that are not to be added up, "" for nothing. What counts against what was sold may be, if
// it is below zero.
func mixOf(texts []string, belowZero bool) string {
	all := func(is func(string) bool) bool {
		return !slices.ContainsFunc(texts, func(v string) bool { return !is(v) })
	}
	plans := func(v string) bool { return terms.Planned.In(v) }
	some := slices.ContainsFunc(texts, plans)
	currencies := map[string]bool{}
	for _, t := range texts {
		currencies[value.CurrencyOf(t)] = true
	}
	switch {
	case len(currencies) > 1 && !currencies[""]:
		return ofCurrencies
	case len(texts) > 1 && some && all(func(v string) bool { return plans(v) || terms.Sold.In(v) }):
		return ofPlans
	case terms.StepsOfSale(texts), terms.Again(texts):
		return ofPlans
	case terms.CostsBesideSales(texts):
		return ofCosts
	case terms.SidesOfAccount(texts), slices.ContainsFunc(texts, terms.Returns) && !all(terms.Returns) && !belowZero:
		return ofSides
	}
	return ""
}

// takeMarks takes a field for one that says what the figures of a row are, if it marks some rows alone: with a plus, as a minus alone is a
// null word, or as planned, where the others say nothing.
func (s *sheet) takeMarks(f *survey.Field) {
	plan := func(v string) bool { return terms.Planned[key.Of(v)] }
	some := f.Blank+f.Null > 0
	switch {
	case terms.AsksUndone(f.Header) && f.Distinct == 2: // yes and no, 0 and 1
		s.mixes = append(s.mixes, &mix{f, ofStates, f.Values})
	case terms.AsksUndone(f.Header) && some && len(f.Values) > 0 && (f.Distinct == 1 || f.Is == "date"):
		s.mixes = append(s.mixes, &mix{f, ofStates, []string{f.Values[0], "nothing"}})
	case f.Is != "text" || len(f.Values) > 8:
	case slices.Equal(f.Values, []string{"+"}) && f.Null > 0:
		s.mixes = append(s.mixes, &mix{f, ofSides, []string{"+", "-"}})
	case f.Blank > 0 && slices.ContainsFunc(f.Values, plan):
		s.mixes = append(s.mixes, &mix{f, ofPlans, append(slices.Clone(f.Values), "nothing")})
	}
}

// findMixes finds the fields that say what the figures of a row are, where the tables together say several things.
func (d *drafter) findMixes() {
	type where struct {
		sheet *sheet
		field *survey.Field
	}
	fields, said, unlike := map[string][]where{}, map[string][]string{}, map[string]bool{}
	for _, s := range d.extracts() {
		for _, i := range s.labels() {
			f := &s.Fields[i]
			k := key.Of(f.Header)
			s.takeMarks(f)
			says := f.Is == "text" && terms.Of(f.Header) != terms.Aside || numbersVersions(f) // a remark says this and that
			if !says || len(f.Values) == 0 || len(f.Values) > 8 {
				continue
			}
			if d.countsThings() && s.twoUnits(i) {
				s.mixes = append(s.mixes, &mix{f, ofUnits, f.Values})
			}
			fields[k] = append(fields[k], where{s, f})
			against := func(v string) bool { return terms.Returns(v) || terms.CreditCode(v) }
			unlike[k] = unlike[k] || slices.ContainsFunc(f.Values, against) && !s.belowZero()
			for _, v := range f.Values {
				if !slices.Contains(said[k], v) {
					said[k] = append(said[k], v)
				}
			}
		}
	}
	for _, k := range sortedKeys(fields) {
		of := mixOf(said[k], !unlike[k])
		if of == "" && !slices.Contains(things, terms.Of(fields[k][0].field.Header)) {
			of = mixBelow(k, said[k], !unlike[k])
		}
		kind := func(w where) bool { return w.sheet.kind >= 0 && w.field == &w.sheet.Fields[w.sheet.kind] }
		if of == ofTaxes && slices.ContainsFunc(fields[k], kind) {
			of = "" // each is a measure
		}
		if k == "" || len(said[k]) < 2 || len(said[k]) > 8 || of == "" {
			continue
		}
		for _, w := range fields[k] {
			w.sheet.mixes = append(w.sheet.mixes, &mix{w.field, of, said[k]})
		}
	}
}

// numbersVersions reports whether a field has numbers of versions, by its header.
func numbersVersions(f *survey.Field) bool {
	return f.Is == "whole" && terms.SaysVersion(f.Header) && all(f.Values, func(v string) bool { return len(v) < 3 })
}

// countsThings reports whether a quantity is asked for.
func (d *drafter) countsThings() bool {
	return slices.ContainsFunc(d.columns, func(c *column) bool { return c.class == terms.Quantity })
}

// twoUnits reports whether a field says what is counted, and that of one product in several units, as far as rows were kept.
func (s *sheet) twoUnits(i int) bool {
	if slices.ContainsFunc(s.Fields[i].Values, func(v string) bool { return terms.Unit(v) == "" }) {
		return false
	}
	product := slices.IndexFunc(s.Fields, func(f survey.Field) bool { return terms.Of(f.Header) == terms.Product })
	units := map[string]string{}
	return product >= 0 && slices.ContainsFunc(s.Sample, func(row []string) bool {
		if max(i, product) >= len(row) || row[product] == "" || row[i] == "" {
			return false
		}
		k, unit := key.Of(row[product]), terms.Unit(row[i])
		before, known := units[k]
		units[k] = unit
		return known && before != unit
	})
}

// mixBelow is what texts say below a header, of which alone they do not.
func mixBelow(header string, texts []string, belowZero bool) string {
	alive := func(v string) bool { return !terms.Undone(v) }
	monies := map[string]bool{}
	for _, v := range texts {
		monies[cmp.Or(value.CurrencyOf(v), terms.Money(v), key.Of(v))] = true
	}
	switch {
	case slices.ContainsFunc(texts, terms.Undone) && slices.ContainsFunc(texts, alive):
		return ofStates
	case terms.SaysDocument(header) && terms.DocumentCodes(texts) && !belowZero:
		return ofSides
	case terms.SaysVersion(header):
		return ofPlans
	case terms.Taxes(texts):
		return ofTaxes
	case terms.SaysCurrency(header) && len(monies) > 1:
		return ofCurrencies
	}
	return ""
}

// saysMeasure reports whether a field says which measure the figures of a row are, and they stand across.
func (s *sheet) saysMeasure(i int) bool {
	return slices.ContainsFunc(s.mixes, func(m *mix) bool { return m.of == ofMeasures && m.Field == &s.Fields[i] })
}

// mixed are the fields that say what the figures of a row are, if no column takes them.
func (e *entry) mixed() (out []*mix) {
	for _, s := range e.sheets {
		for _, m := range s.mixes {
			same := func(o *mix) bool { return key.Of(o.Header) == key.Of(m.Header) }
			if e.measures[key.Of(m.Header)] == "" && !slices.ContainsFunc(out, same) {
				out = append(out, m)
			}
		}
	}
	return out
}

// mixes reports whether a header is one of those that say what the figures of a row are: it is not left aside.
func (e *entry) mixes(header string) bool {
	return slices.ContainsFunc(e.mixed(), func(m *mix) bool { return key.Of(m.Header) == key.Of(header) })
}

// askMixed asks about figures that may not be added up, if no column says which they are.
func (e *entry) askMixed() {
	advice := map[string]string{
		ofMeasures:   "widen makes columns of them, beside an unpivot of what stands across that names no measure; or have a table for each",
		ofKinds:      "widen makes columns of them, and headers of a column say which of them it is",
		ofCurrencies: "added up they are no amount; ask for the column, or say which are wanted (rows: { only: … })",
		ofSides:      "added up one counts for the other; have figures below zero delivered, or say which are wanted (rows: { only: … })",
		ofStates:     "some of them are no sales, by this; say which are wanted (rows: { only: … }), or ask for the column",
		ofCosts:      "added up they are no sales; say which are wanted (rows: { only: … })",
		ofUnits:      "one product has several, which add up to no quantity; ask for the column, or say which are wanted (rows: { only: … })",
		ofTaxes:      "added up they are neither; ask for the column, or say which are wanted (rows: { only: … })",
		ofPlans:      "added up they count twice; ask for the column, or say which are wanted (rows: { only: … })",
	}
	for _, m := range e.mixed() {
		e.open = append(e.open, fmt.Sprintf("%s: %s says what the figures of a row are (%s), and a build stops: %s", e.globs[0],
			strings.TrimSpace(m.Header), strings.Join(m.values, ", "), advice[m.of]))
	}
}

// tellMixed tells of columns that nobody asked for, and that say which figures are not to be added up with others: all are.
func (d *drafter) tellMixed(e *entry) {
	told := map[string]string{
		ofKinds:      "figures of several kinds are added up alike",
		ofMeasures:   "figures of several kinds are added up alike",
		ofCurrencies: "amounts in several currencies are added up alike",
		ofSides:      "figures of one count against those of the other, and all are added up alike",
		ofStates:     "some of these are no sales, and all are added up alike",
		ofCosts:      "costs are added up with sales",
		ofUnits:      "quantities in several units are added up alike",
		ofTaxes:      "amounts with tax are added up with those without",
		ofPlans:      "figures that were not sold are added up with those that were",
	}
	for _, s := range e.sheets {
		for _, m := range s.mixes {
			if c := d.named(e.measures[key.Of(m.Header)]); c != nil && len(d.Columns) == 0 {
				c.some = joined(m.values) + ": " + told[m.of]
			}
		}
	}
}

// findAgainst asks about tables whose sheet, file or title says that they count against what others say, and about headers among
// things that say so, if no figure in them is below zero.
func (d *drafter) findAgainst() {
	all := d.extracts()
	for _, e := range d.entries {
		e.askAcross()
		e.askQuarters()
		d.askNoSales(e)
	}
	d.askTwins()
	d.askOddities()
	if !slices.ContainsFunc(all, func(s *sheet) bool { return !s.against() }) {
		return
	}
	for _, e := range d.entries {
		i := slices.IndexFunc(e.sheets, func(s *sheet) bool { return s.against() && !s.mostBelowZero() })
		if i < 0 {
			continue
		}
		d.withhold(e)
		e.open = append(e.open, e.sheets[i].Place.Source()+" counts against what was sold, by its name or title, and its figures are not "+
			"below zero: added up it would be sold, too; it needs figures below zero, or a plan of its own")
	}
}

// against reports whether the names or titles of a table say that it counts against what was sold.
func (s *sheet) against() bool {
	return slices.ContainsFunc(append(s.names(), s.otherTitles()...), terms.Returns)
}

// askAcross asks about headers of nothing but what counts against what was sold, among those of things, without a figure below
// zero, and about those of what is charged or paid beside goods: no plan may add them up, and the build stops at them.
func (e *entry) askAcross() {
	for _, s := range e.sheets {
		timed := s.wideTime() != terms.None
		s.wide = slices.DeleteFunc(s.wide, func(i int) bool {
			f := &s.Fields[i]
			header, why, more := strings.TrimSpace(f.Header), "", ""
			switch {
			case len(s.wide) < 3:
			case terms.OnlyReturns(header) && !slices.ContainsFunc(f.Values, minus):
				why = "counts against what was sold, and has no figure below zero, so that a build stops: added up it would be sold, too"
			case !timed && terms.BesideGoods(thingIn(header)):
				why = "stands among things that were sold, and may be none, so that a build stops"
				more = ", and named there it is one of them"
			}
			if why != "" && !slices.Contains(e.against, header) {
				e.against = append(e.against, header)
				e.open = append(e.open, fmt.Sprintf("%s: %s %s; others: [%s] in the place of unpivot.columns leaves it aside%s", e.globs[0],
					header, why, layout.FlowHeader(header), more))
			}
			return why != ""
		})
	}
}

// thingIn is what a header names beside a measure: Freight of "Qty Freight" and "Amount | Freight"; else all of it.
func thingIn(header string) string {
	if a, b, two := strings.Cut(header, " | "); two {
		switch {
		case terms.Of(a).OfMeasure():
			return b
		case terms.Of(b).OfMeasure():
			return a
		}
		return header
	}
	if _, _, thing, ok := terms.MeasureFirst(header); ok {
		return thing
	}
	if thing, _, _, ok := terms.MeasureLast(header); ok {
		return thing
	}
	return header
}

// askQuarters asks about quarters among months of which none is theirs: they are no sums of what stands across, and hold the rest.
func (e *entry) askQuarters() {
	for _, s := range e.sheets {
		if s.wideTime() != terms.Month {
			continue
		}
		had := map[string]bool{}
		for _, i := range s.wide {
			had[quarterOf(s.Fields[i].Header)] = true
		}
		for i := range s.Fields {
			header := strings.TrimSpace(s.Fields[i].Header)
			if t, _ := terms.TimeOf(header); t != terms.Quarter || s.isWide(i) || had[quarterOf(header)] || slices.Contains(e.against, header) {
				continue
			}
			e.against = append(e.against, header)
			e.open = append(e.open, fmt.Sprintf("%s: %s stands beside months, and is the sum of none of them, so that a build stops; "+
				"others: [%s] in the place of unpivot.columns leaves it aside", e.globs[0], header, layout.FlowHeader(header)))
		}
	}
}

// quarterOf is the quarter that a month or a quarter lies in, as 2024-Q1.
func quarterOf(header string) string {
	reading := value.Default
	if _, form := terms.TimeOf(header); form != "" {
		if f, ok := value.DateFormOf(form); ok {
			reading.Dates = []value.DateForm{f}
		}
	}
	out, _ := reading.Quarter(strings.TrimSpace(header))
	return out
}

// minus reports whether a figure is below zero.
func minus(figure string) bool { return strings.ContainsAny(figure, "-−(") }

// mostBelowZero reports whether most figures are, in some field, as far as the values that are kept tell.
func (s *sheet) mostBelowZero() bool {
	for i := range s.Fields {
		if f := &s.Fields[i]; s.numeric(i) {
			below := 0
			for _, v := range f.Values {
				if minus(v) {
					below++
				}
			}
			if 2*below > len(f.Values) {
				return true
			}
		}
	}
	return false
}

// belowZero reports whether some figure is, as far as the values that are kept tell.
func (s *sheet) belowZero() bool {
	for i := range s.Fields {
		if f := &s.Fields[i]; s.numeric(i) && slices.ContainsFunc(f.Values, minus) {
			return true
		}
	}
	return false
}

// findTotalWords finds labels of all places or things among others, and of totals: rows of them are totals, which must agree.
func (e *entry) findTotalWords() {
	for _, s := range e.sheets {
		for _, i := range s.labels() {
			f := &s.Fields[i]
			if f.Is != "text" || len(f.Values) < 2 {
				continue
			}
			for _, v := range f.Values {
				if terms.SaysAll(v) || terms.IsResult(v, f.Values) {
					e.totalWords = append(e.totalWords, v)
				}
			}
		}
		for _, i := range s.wide {
			if h := strings.TrimSpace(s.Fields[i].Header); terms.SaysAll(h) {
				e.totalWords = append(e.totalWords, h)
			}
		}
	}
	slices.Sort(e.totalWords)
	e.totalWords = slices.Compact(e.totalWords)
}

// askCurrency asks about a measure of which whole tables are in another currency. It reports whether that is so.
func (d *drafter) askCurrency(p *place.Problem, c *column) bool {
	i := slices.IndexFunc(p.Texts, func(text string) bool {
		return value.CurrencyIn(text) != "" && len(numbersIn([]string{text}, "")) > 0
	})
	if i < 0 || !c.class.OfMeasure() {
		return false
	}
	if 2*p.Count < leastRows(d.entriesAt(p)) {
		return false
	}
	c.open = fmt.Sprintf("%s: %s has %s, while others are in another currency: added up they are no amount, and a build stops; a plan for "+
		"each keeps them apart", c.name, p.Places[i].Source(), p.Texts[i])
	return true
}

// leavePlans leaves tables aside whose sheet, file or folder says that they are planned, where others are not, unless a
// column for that is asked for.
func (d *drafter) leavePlans() {
	if slices.ContainsFunc(d.Columns, func(name string) bool {
		return terms.Planned.In(name) || terms.Sold.In(name) ||
			slices.Contains([]string{"scenario", "version", "szenario", "type"}, key.Of(name))
	}) {
		return
	}
	var plans []*sheet
	all := d.extracts()
	for _, s := range all {
		names := append(s.names(), path.Dir(s.file), path.Dir(s.member))
		named := func(name string) bool { return terms.Planned.In(name) }
		if slices.ContainsFunc(names, named) || slices.ContainsFunc(s.titleLines(), terms.SaysPlan) {
			plans = append(plans, s)
		}
	}
	if len(plans) == len(all) {
		return
	}
	for _, s := range plans {
		if !slices.ContainsFunc(s.titleLines(), terms.SaysPlan) && s.ofOthers(all) {
			s.perhaps = "it was planned"
			continue
		}
		s.apart = true
		s.leaveAside("left aside", "its name or title says that it was planned: beside what was sold it would count twice")
	}
}
