package draft

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/value"
)

// What must not be added up together: measures in rows, currencies, and what was planned beside what was sold.

// mix is a field that says what the figures of a row are.
type mix struct {
	*survey.Field
	of string // measures, currencies, plans or sides
}

const (
	ofMeasures   = "measures"
	ofCurrencies = "currencies"
	ofPlans      = "plans"
	ofSides      = "sides"
)

// planned are words for figures that were not sold, and sold for those that were, in the usual languages.
var planned, sold = wordsByKey(`budget budgets budgeted plan plans planned planning forecast forecasts target targets soll planzahlen
	prognose vorgabe budgété prévu prévision prévisions objectif presupuesto previsto previsión objetivo begroting previsione`),
	wordsByKey(`actual actuals sold ist istzahlen réel réalisé reel real reales effettivo werkelijk`)

func wordsByKey(list string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(list) {
		out[key.Of(w)] = true
	}
	return out
}

// hasWord reports whether one of the words is in a text.
func hasWord(words map[string]bool, text string) bool {
	return slices.ContainsFunc(strings.Fields(key.Of(text)), func(w string) bool { return words[w] })
}

// findKind finds the field that says what the cell of a row is: its values are names of measures,
// and there is one field of figures. Where several figures stand across, or it says another thing that keeps them
// apart, no plan can tell by itself which of them are wanted.
func (s *sheet) findKind() {
	figures := 0
	for i := range s.Fields {
		if s.numeric(i) && !s.yearLike(i) {
			figures++
		}
	}
	for i := range s.Fields {
		f := &s.Fields[i]
		if f.Is != "text" || len(f.Values) < 2 || len(f.Values) > 8 || classOf(f.Header) == aside { // a remark says this and that
			continue
		}
		all := func(is func(string) bool) bool {
			return !slices.ContainsFunc(f.Values, func(v string) bool { return !is(v) })
		}
		some := func(is func(string) bool) bool { return slices.ContainsFunc(f.Values, is) }
		price := func(v string) bool { return classOf(v) == price }
		plans := func(v string) bool { return hasWord(planned, v) }
		counter := func(v string) bool { return countsAgainst(v) || hasWord(returned, v) }
		switch {
		case all(value.IsCurrency):
			s.mix = &mix{f, ofCurrencies}
		case some(plans) && all(func(v string) bool { return plans(v) || hasWord(sold, v) }):
			s.mix = &mix{f, ofPlans}
		case sides(f.Values), some(counter) && !all(counter) && !s.belowZero():
			s.mix = &mix{f, ofSides}
		case !all(func(v string) bool { return classOf(v).ofMeasure() || price(v) }):
		case figures > 1 && len(s.wide) > 1:
			s.mix = &mix{f, ofMeasures}
		case figures == 1 && !some(price):
			s.kind = i
		}
	}
}

// saysMeasure reports whether a field says which measure the figures of a row are, and they stand across.
func (s *sheet) saysMeasure(i int) bool {
	return s.mix != nil && s.mix.of == ofMeasures && s.mix.Field == &s.Fields[i]
}

// returned are words for what came back, where others are sold.
var returned = wordsByKey(`return returns returned rückgabe retour retours devuelto reso`)

// sides reports whether texts are the two sides of an account.
func sides(texts []string) bool {
	var keys []string
	for _, t := range texts {
		keys = append(keys, key.Of(t))
	}
	slices.Sort(keys)
	return slices.ContainsFunc([][]string{{"c", "d"}, {"cr", "dr"}, {"h", "s"}, {"credit", "debit"}, {"haben", "soll"}, {"crédit", "débit"}},
		func(pair []string) bool { return slices.Equal(keys, pair) })
}

// mixes reports whether a header is the one that says what the figures of a row are: it is not left aside.
func (e *entry) mixes(header string) bool {
	return slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.mix != nil && key.Of(s.mix.Header) == key.Of(header) })
}

// mixed is the field that says what the figures of a row are, if no column takes it; nil for none.
func (e *entry) mixed() *mix {
	for _, s := range e.sheets {
		if s.mix != nil && e.measures[key.Of(s.mix.Header)] == "" {
			return s.mix
		}
	}
	return nil
}

// askMixed asks about figures that may not be added up, if no column says which they are.
func (e *entry) askMixed() {
	m := e.mixed()
	if m == nil {
		return
	}
	advice := map[string]string{
		ofMeasures:   "and they stand across: no plan takes that apart; have them delivered in long rows, or a table for each",
		ofCurrencies: "added up they are no amount; ask for the column, or say which are wanted (rows: { only: … })",
		ofSides:      "added up one counts for the other; have figures below zero delivered, or say which are wanted (rows: { only: … })",
		ofPlans:      "added up they count twice; ask for the column, or say which are wanted (rows: { only: … })",
	}[m.of]
	e.open = append(e.open, fmt.Sprintf("%s: %s says what the figures of a row are (%s), and a build stops: %s", e.globs[0],
		strings.TrimSpace(m.Header), strings.Join(m.Values, ", "), advice))
}

// against are words for what counts against what was sold.
var against = wordsByKey(`refund refunds gutschrift gutschriften storno stornos retoure retouren avoir avoirs abono abonos
	devolución devoluciones`)

// countsAgainst reports whether a text is of what counts against what was sold: credit notes, but no credit cards.
func countsAgainst(text string) bool {
	k := key.Of(text)
	return hasWord(against, text) || strings.Contains(k, "credit note") || strings.Contains(k, "credit memo")
}

// findAgainst asks about tables whose sheet or file says that they count against what others say, if no figure in them is
// below zero.
func (d *drafter) findAgainst() {
	all := d.extracts()
	said := func(s *sheet) bool { return countsAgainst(s.Place.Sheet) || countsAgainst(s.nameOf()) }
	if !slices.ContainsFunc(all, func(s *sheet) bool { return !said(s) }) {
		return
	}
	for _, e := range d.entries {
		i := slices.IndexFunc(e.sheets, func(s *sheet) bool { return said(s) && !s.belowZero() })
		if i < 0 {
			continue
		}
		for _, c := range d.columns {
			if c.class.ofMeasure() {
				c.tossUps[e] = unlike
			}
		}
		e.open = append(e.open, e.sheets[i].Place.Source()+" counts against what was sold, by its name, and has no figure below zero: "+
			"added up it would be sold, too; it needs figures below zero, or a plan of its own")
	}
}

// belowZero reports whether some figure is, as far as the values that are kept tell.
func (s *sheet) belowZero() bool {
	minus := func(v string) bool { return strings.ContainsAny(v, "-−(") }
	for i := range s.Fields {
		if f := &s.Fields[i]; s.numeric(i) && slices.ContainsFunc(f.Values, minus) {
			return true
		}
	}
	return false
}

// everything are words that begin labels of all places or things, and sums those of totals that a build does not know.
var everything, sums = wordsByKey(`all alle alles tous toutes todos todas tutti tutte`),
	wordsByKey(`totales subtotales sumas somma sommes totali subtotali tot ttl summen zwischensummen gesamtsummen insges`)

// saysAll reports whether a label is of all places or things, or a total: "All", "alle Filialen", "Totales", but not "All Weather".
func saysAll(label string) bool {
	list := strings.Fields(key.Of(label))
	switch {
	case len(list) == 1:
		return everything[list[0]] || sums[list[0]]
	case len(list) == 2:
		return everything[list[0]] && (general[list[1]] || classOf(strings.TrimSuffix(list[1], "s")) != noClass)
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
				if saysAll(v) && !slices.Contains(e.totalWords, v) {
					e.totalWords = append(e.totalWords, v)
				}
			}
		}
	}
	slices.Sort(e.totalWords)
}

// leavePlans leaves tables aside whose sheet, file or folder says that they are planned, where others are not, unless a
// column for that is asked for.
func (d *drafter) leavePlans() {
	if slices.ContainsFunc(d.Columns, func(name string) bool {
		return hasWord(planned, name) || hasWord(sold, name) || slices.Contains([]string{"scenario", "version", "szenario", "type"}, key.Of(name))
	}) {
		return
	}
	var plans []*sheet
	all := d.extracts()
	for _, s := range all {
		names := []string{s.Place.Sheet, s.nameOf(), path.Dir(s.file), path.Dir(s.member)}
		if slices.ContainsFunc(names, func(name string) bool { return hasWord(planned, name) }) {
			plans = append(plans, s)
		}
	}
	if len(plans) == len(all) {
		return
	}
	for _, s := range plans {
		s.apart = true
		s.leaveAside("left aside", "its name says that it was planned: beside what was sold it would count twice")
	}
}
