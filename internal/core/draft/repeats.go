package draft

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// What becomes of rows of one grain.

// mendRepeats decides about rows of one grain. Those that are the same in every cell were exported twice, and go; those
// that differ stay. Where they agree in all that is asked for, and columns that are dropped may tell them apart, few of them
// stay; where as many repeat as an extract has, it is a question.
func (d *drafter) mendRepeats(p *place.Problem, s *fact.Summary) (changed bool) {
	alike := p.Add == "repeats: first" // those shown agree in everything
	entries := d.entriesAt(p)
	dropped, around := d.apartIn(entries)
	telling := slices.DeleteFunc(slices.Clone(dropped), func(header string) bool { return terms.Of(header) == terms.Aside })
	telling = append(telling, around...)
	switch {
	case slices.ContainsFunc(d.entriesAt(p), func(e *entry) bool { return !d.measures(e) }): // another question comes before
		return false
	case d.doubled, d.full == unknown && slices.ContainsFunc(s.Problems, ofHeaders): // what tells rows apart is not known yet
		return false
	case !alike && (d.askKinds(p) || d.askWhole(p) || d.askCalledVersions()):
		return false
	case d.full == unique && d.repeats == "":
		if d.repeats, d.again, d.telling = "keep", p.Count, telling; d.apartByMeasure(d.entries) || d.keptApart(p, s) {
			d.repeats = "sum"
		}
		return true
	case d.full == copies && !d.sameTried:
		d.dropSame()
		return true
	case !alike && d.repeats == "" && d.apartByMeasure(d.entriesAt(p)):
		d.repeats, d.again = "sum", p.Count
		return true
	case !alike && d.holdAbove():
		return true
	case (!alike || d.differ) && d.askVersions(s), d.repeats != "":
		return false
	case !alike && d.keptApart(p, s):
		d.repeats, d.again = "sum", p.Count
		return true
	case !alike && d.halves(p, s):
		d.askAll("rows that widen puts together by what stands in them remain apart, each with a part of the figures, for names in them " +
			"are spelt in two ways, and a build stops: rows: { repeats: sum } puts them together, keep leaves them apart")
		return false
	case !alike:
		d.repeats, d.again = "keep", p.Count
		return true
	}
	switch {
	case len(dropped) > 0 && !d.sameTried:
		d.dropSame()
	case len(telling) == 0, d.full == copies && d.copied == p.Count: // written in other ways, in cells that say the same
		d.repeats, d.again = "first", p.Count
	case 2*p.Count < leastRows(entries), slices.ContainsFunc(entries, d.acrossFiner):
		d.repeats, d.again, d.telling = "keep", p.Count, telling
	default:
		text := fmt.Sprintf("rows of one grain agree in all that is asked for, %s may tell them apart, and a build stops: were they exported "+
			"twice (repeats: first), or not (repeats: keep)?", joined(telling))
		d.askAll(text)
		return false
	}
	return true
}

// dropSame drops rows that are the same in every cell; entries without such forget it again.
func (d *drafter) dropSame() {
	d.sameTried = true
	for _, e := range d.entries {
		e.sameRows = true
	}
}

// ofHeaders reports whether a problem is one of headers that nothing claims.
func ofHeaders(p place.Problem) bool {
	return p.What == "unexpected header" || p.What == "header does not fit" || p.What == "number beside wide columns"
}

// kindWords are words for what says what the figure of a row is.
var kindWords = terms.List(`type typ art kind sorte soort tipo measure measures figure figures metric kennzahl kennzahlen mesure indicador
	misura maat basis level ebene niveau nivel livello valuation period`)

// askKinds asks about rows of one grain that a column tells apart which says of what kind they are: as many rows for each of a few
// kinds, as of measures that no word names.
func (d *drafter) askKinds(p *place.Problem) (asked bool) {
	for _, e := range d.entriesAt(p) {
		s, rows := e.sheets[0], 0
		for _, own := range e.sheets {
			rows += own.Rows
		}
		for _, i := range s.labels() {
			f := &s.Fields[i]
			kinds := len(f.Values)
			named := kindWords.In(f.Header) && f.Is == "text" && kinds < 5 && terms.BareTimes(f.Values) == terms.None || terms.SaysSnapshot(f.Header)
			if _, taken := e.measures[key.Of(f.Header)]; !taken && named && kinds > 1 &&
				10*kinds*p.Count >= 9*(kinds-1)*rows {
				d.askAll(fmt.Sprintf("%s: rows of one grain differ in %s (%s), and a build stops: are these measures (widen), or are they to be "+
					"added up (repeats: keep)?", e.globs[0], strings.TrimSpace(f.Header), joined(f.Values)))
				asked = true
			}
		}
	}
	return asked
}

// askWhole asks about rows of one grain that stand in tables without decimals, nearly all of theirs, and in others with decimals: these
// may have quantities, and those amounts.
func (d *drafter) askWhole(p *place.Problem) (asked bool) {
	for _, e := range d.entriesAt(p) {
		var whole, others []*sheet
		rows := 0
		for _, s := range e.sheets {
			if !s.wholeFigures() {
				others = append(others, s)
				continue
			}
			whole, rows = append(whole, s), rows+s.Rows*max(1, len(s.wide))
		}
		if len(whole) > 0 && len(others) > 0 && 10*p.Count >= 9*rows && len(d.measuresIn(e)) == 1 {
			d.askAll(fmt.Sprintf("%s has no decimals, %s has some, and their rows are of the same grain: are these quantities? A build "+
				"stops; except leaves them aside, repeats: keep adds them up", whole[0].Place.Source(), others[0].Place.Source()))
			asked = true
		}
	}
	return asked
}

// measuresIn are the names of the measures that an entry has.
func (d *drafter) measuresIn(e *entry) (names []string) {
	for _, c := range d.columns {
		if c.class.OfMeasure() && c.used[e] {
			names = append(names, c.name)
		}
	}
	return names
}

// halves reports whether the rows of one grain are of entries that are widened, and each measure is blank as often as rows repeat:
// then none of them has all figures.
func (d *drafter) halves(p *place.Problem, s *fact.Summary) bool {
	entries := d.entriesAt(p)
	if len(entries) == 0 || slices.ContainsFunc(entries, func(e *entry) bool { return e.widen[0] == "" }) {
		return false
	}
	for _, c := range d.columns {
		if !c.class.OfMeasure() || c.missing {
			continue
		}
		blanks := 0
		for _, ch := range s.Changes {
			if ch.Column == c.name && ch.Kind == "blank" {
				blanks += ch.Count
			}
		}
		for i := range s.Problems {
			if gap := &s.Problems[i]; gap.Column == c.name && gap.What == "blank gap" {
				blanks += gap.Count
			}
		}
		if blanks < p.Count {
			return false
		}
	}
	return true
}

// keptApart reports whether rows of one grain have the measures of one thing, and are apart for what is left aside.
func (d *drafter) keptApart(p *place.Problem, s *fact.Summary) bool {
	return d.halves(p, s) && !slices.ContainsFunc(d.entriesAt(p), func(e *entry) bool { return !e.keepsApart() })
}

// measures reports whether an entry has a measure, if one is wanted.
func (d *drafter) measures(e *entry) bool {
	wanted := slices.ContainsFunc(d.columns, func(c *column) bool { return c.class.OfMeasure() })
	return !wanted || slices.ContainsFunc(d.columns, func(c *column) bool { return c.class.OfMeasure() && c.used[e] })
}

// apartByMeasure reports whether some entries are such that others have none of their measures: files of quantities, and files of amounts.
func (d *drafter) apartByMeasure(entries []*entry) bool {
	return slices.ContainsFunc(entries, func(e *entry) bool {
		return slices.ContainsFunc(d.entries, func(o *entry) bool { return d.unlikeMeasures(e, o) })
	})
}

// askDoubled asks about rows that were summed though no entry before has another measure for them: they are there a second time. It
// reports whether there are such.
func (d *drafter) askDoubled(s *fact.Summary) bool {
	if d.repeats != "sum" || d.full == unique {
		return false
	}
	x := d.doubledIn(s)
	if x == nil {
		return false
	}
	d.askAll(fmt.Sprintf("%s has rows that stand in other files too, with the same measures, and a build stops: they would count twice; "+
		"except leaves one of them aside, repeats: keep leaves both", x.File))
	d.repeats, d.doubled = "", true
	return true
}

// doubledIn is an extract of which rows were summed though no entry before has another measure for them, nil for none.
func (d *drafter) doubledIn(s *fact.Summary) *record.Extract {
	for i := range s.Extracts {
		x := &s.Extracts[i]
		if x.Rows.Repeated == 0 {
			continue
		}
		for _, e := range d.entriesAt(&place.Problem{Places: []place.Place{{File: x.File, Sheet: x.Sheet}}}) {
			before := d.entries[:slices.Index(d.entries, e)]
			if !e.keepsApart() && !slices.ContainsFunc(before, func(o *entry) bool { return d.unlikeMeasures(e, o) }) {
				return x
			}
		}
	}
	return nil
}

// unlikeMeasures reports whether two entries have measures, and none in common.
func (d *drafter) unlikeMeasures(a, b *entry) bool {
	var in [2]bool
	for _, c := range d.columns {
		if !c.class.OfMeasure() || c.missing {
			continue
		}
		if c.used[a] && c.used[b] {
			return false
		}
		in[0], in[1] = in[0] || c.used[a], in[1] || c.used[b]
	}
	return in[0] && in[1]
}

// apartIn are what may tell rows of one grain apart, though the finished table does not have it: headers that are left aside or of which
// a column takes a part, such as the year of a day, and what stands around the rows.
func (d *drafter) apartIn(entries []*entry) (headers, around []string) {
	add := func(list *[]string, text string) {
		if !slices.Contains(*list, text) {
			*list = append(*list, text)
		}
	}
	for _, e := range entries {
		for _, s := range e.sheets {
			for _, f := range s.Fields {
				aside := slices.ContainsFunc(e.others, func(header string) bool { return key.Of(f.Header) == key.Of(header) })
				if f.Distinct > 1 && (aside || d.takesPart(e, &f)) {
					add(&headers, strings.TrimSpace(f.Header))
				}
			}
		}
		for _, text := range d.around(e) {
			add(&around, text)
		}
	}
	return headers, around
}

// leastRows is how many rows the smallest table of some entries has.
func leastRows(entries []*entry) (least int) {
	for i, e := range entries {
		for k, s := range e.sheets {
			if i+k == 0 || s.Rows < least {
				least = s.Rows
			}
		}
	}
	return least
}

// takesPart reports whether a column takes only a part of what stands in a field: of times coarser ones, of texts what fits a pattern.
func (d *drafter) takesPart(e *entry, f *survey.Field) bool {
	of := timeIn(f)
	for _, c := range d.columns {
		if e.measures[key.Of(f.Header)] == c.name || key.Same(f.Header, c.name) {
			return c.read != "" || c.class.OfTime() && fineness[of] > fineness[c.class]
		}
	}
	return false
}

// around are what stands around the rows of an entry and differs, and that no column takes: names of tables that share rows, wide headers
// and section rows.
func (d *drafter) around(e *entry) (out []string) {
	if slices.ContainsFunc(d.sharing(), func(b sharing) bool { return b.first.entry == e && b.first.toldFrom(b.again) }) {
		out = append(out, "the names of tables")
	}
	if d.acrossFiner(e) {
		out = append(out, "the wide headers")
	}
	if d.section != nil && e.sections == d.section.name {
		out = append(out, "section rows")
	}
	return out
}

// acrossFiner reports whether times stand across that are finer than those that columns take.
func (d *drafter) acrossFiner(e *entry) bool {
	finest := 0
	for _, c := range d.columns {
		if c.used[e] && !c.helper {
			finest = max(finest, fineness[c.class])
		}
	}
	s := e.sheets[0]
	return e.unpivot != nil && fineness[cmp.Or(s.wideTime(), terms.BareTimes(s.wideTimes()))] > finest
}

// askAll asks about all extracts.
func (d *drafter) askAll(text string) {
	if !slices.Contains(d.result.Open, text) {
		d.result.Open, d.rules = append(d.result.Open, text), append(d.rules, "? "+text)
	}
}

// endSameRows forgets same_rows: drop where no row was dropped by it, and counts those that were.
func (d *drafter) endSameRows(s *fact.Summary) {
	for _, e := range d.entries {
		e.same = 0
		for i := range s.Extracts {
			x := &s.Extracts[i]
			if x.Rows.Same > 0 && slices.ContainsFunc(e.sheets, func(o *sheet) bool {
				return (x.File == o.file || strings.HasPrefix(x.File, o.file+"/")) && x.Sheet == o.Place.Sheet
			}) {
				e.same += x.Rows.Same
			}
		}
		e.sameRows = e.sameRows && e.same > 0
	}
}
