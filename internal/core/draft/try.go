package draft

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// mostTries is how often a plan is tried and mended.
const mostTries = 12

// try builds with the plan, without writing anything, and mends the plan by what the build
// says, until nothing is left to mend.
func (d *drafter) try(ctx context.Context) (*fact.Summary, error) {
	d.guardSpans()
	d.setGrain()
	d.useBooks()
	d.passNumbers()
	d.foresee()
	s, err := d.settle(ctx)
	if err != nil {
		return nil, err
	}
	holds := slices.ContainsFunc(s.Extracts, func(e record.Extract) bool { return e.Rows.Held > 0 })
	if d.forget(s) && holds { // rows in which such gaps may stand all the same
		if s, err = d.settle(ctx); err != nil {
			return nil, err
		}
	}
	asked, err := d.askSumsOfLabels(ctx, s)
	if err == nil && asked {
		s, err = d.build(ctx)
	}
	if err != nil {
		return nil, err
	}
	d.endSameRows(s)
	d.askReturns()
	d.nameNames(s)
	d.note(s)
	d.noteHeld(s)
	if !d.result.Sampled {
		d.result.Rows, d.result.Exit = s.FactRows, s.ExitCode()
	}
	for _, p := range s.Problems {
		if !d.result.Sampled || !slices.Contains(ofAllRows, p.What) {
			d.result.Problems.Add(p)
		}
	}
	return s, nil
}

// noteHeld tells of extracts of which all fact rows are held: their reading is not settled.
func (d *drafter) noteHeld(s *fact.Summary) {
	for i := range s.Extracts {
		x := &s.Extracts[i]
		if x.Rows.Held > 1 && x.Rows.Held == x.Rows.Made-x.Rows.Skipped {
			text := fmt.Sprintf("%s: all its %s are held, for something in each of them does not read", place.Place{File: x.File, Sheet: x.Sheet},
				counted(x.Rows.Held, "fact row"))
			d.result.Open, d.rules = append(d.result.Open, text), append(d.rules, "? "+text)
		}
	}
}

// settle builds until nothing is left to mend.
func (d *drafter) settle(ctx context.Context) (s *fact.Summary, err error) {
	for range mostTries {
		if s, err = d.build(ctx); err != nil {
			return nil, err
		}
		only := d.onlyRepeats(s)
		may := repeated(s) || len(d.grain) == 0 // where no label is asked for, nothing repeats
		if d.repeats == "" && (d.full == unknown || d.full == copies) && may && !slices.ContainsFunc(s.Problems, ofHeaders) {
			d.between = s.Between
			d.full = d.byAllLabels(ctx)
		}
		switch changed := d.mend(s); {
		case changed:
		case len(d.grain) == 0 && d.full == copies && !d.sameTried:
			d.dropSame()
			continue
		default:
			return s, nil
		}
		if only && d.repeats == "keep" { // another build would find nothing else
			s.Problems = nil
			break
		}
	}
	return s, nil
}

// onlyRepeats reports whether repeats are all that stands in the way, and all rows are counted.
func (d *drafter) onlyRepeats(s *fact.Summary) bool {
	return len(s.Problems) == 1 && s.Problems[0].What == "repeated grain" && len(d.ties) == 0
}

// repeated reports whether rows repeat the grain.
func repeated(s *fact.Summary) bool {
	return slices.ContainsFunc(s.Problems, func(p place.Problem) bool { return p.What == "repeated grain" })
}

// ofAllRows are the problems that a sample of the rows makes.
var ofAllRows = []string{"total", "control total"}

// foreseen are the kinds of gaps that measures are likely to have, so that a build needs not stop
// at them first.
var foreseen = []string{"blank", "null", "text"}

// foresee gives measures the rules for the gaps that they are likely to have.
func (d *drafter) foresee() {
	for _, c := range d.columns {
		if !c.class.OfMeasure() || c.missing {
			continue
		}
		for _, kind := range foreseen {
			if c.rules[kind+"s"] == "" {
				c.rules[kind+"s"], c.foreseen = "0", true
			}
		}
	}
}

// forget takes away the rules for gaps that did not occur in delivered rows, and reports whether there were any.
func (d *drafter) forget(s *fact.Summary) (some bool) {
	for _, c := range d.columns {
		for _, kind := range foreseen {
			if c.foreseen && !slices.ContainsFunc(s.Changes, func(ch fact.ChangeCount) bool { return ch.Column == c.name && ch.Kind == kind }) {
				delete(c.rules, kind+"s")
				some = true
			}
		}
	}
	return some
}

// build is a build with the plan as it is.
func (d *drafter) build(ctx context.Context) (*fact.Summary, error) {
	p, err := d.planned()
	if err != nil {
		return nil, err
	}
	return fact.Build(ctx, p, fact.Options{Workers: d.Workers, DryRun: true})
}

// planned is the plan as it is.
func (d *drafter) planned() (*plan.Plan, error) {
	p, err := plan.Read(filepath.Join(d.Dir, "umbau.yaml"), []byte(d.write()), d.Formats)
	var list place.List
	if errors.As(err, &list) {
		for i := range list {
			list[i].Message = "the drafted plan has a mistake: " + list[i].Message
		}
		return nil, list
	}
	return p, err
}

// setGrain takes all labels as the grain.
func (d *drafter) setGrain() {
	timed := slices.ContainsFunc(d.columns, func(c *column) bool {
		return (c.class == terms.Month || c.class == terms.Day) && !c.missing && !c.helper
	})
	for _, c := range d.columns {
		if c.missing || c.helper || c.class.OfMeasure() || c.class == terms.Price ||
			c.from != "" && !d.named(c.from).helper || c.lookup != nil || c.class == terms.Year && timed {
			continue
		}
		d.grain = append(d.grain, c.name)
	}
}

// gapInGrain reports whether a problem is a gap in a column of the grain.
func (d *drafter) gapInGrain(p place.Problem) bool {
	return strings.HasSuffix(p.What, " gap") && slices.Contains(d.grain, p.Column)
}

// mend changes the plan by what stands in the way, and reports whether it did.
func (d *drafter) mend(s *fact.Summary) (changed bool) {
	if d.askDoubled(s) || d.holdTotals(s) {
		return true
	}
	var last *place.Problem // to be mended when no row stops that may repeat others, too
	for i := range s.Problems {
		p := &s.Problems[i]
		if p.What == "repeated grain" {
			d.between = s.Between
			timed := slices.ContainsFunc(d.columns, func(c *column) bool { return c.class.OfTime() && slices.Contains(d.grain, c.name) })
			if d.across = timed && 2*s.Across > len(p.Places); 2*s.Twice > len(p.Places) {
				d.twice = p
			}
			if slices.ContainsFunc(s.Problems, d.gapInGrain) {
				last = p
				continue
			}
		}
		if p.What != "control total" && d.mendOne(p, s) {
			changed = true
		}
	}
	if last != nil && !changed {
		changed = d.mendOne(last, s)
	}
	for _, c := range s.Changes {
		if own := d.named(c.Column); c.Kind == "rounding" && own != nil && own.decimals < 6 && own.finest <= own.decimals {
			own.decimals++
			changed = true
		}
	}
	if len(s.Differing) > 0 && d.repeats == "first" {
		if d.repeats = "keep"; d.apartByMeasure(d.entries) { // some were exported twice, others have measures of their own
			d.repeats = "sum"
			d.dropSame()
		} else if d.askVersions(s) {
			d.repeats = ""
		}
		changed = true
	}
	for i := range s.Problems { // once nothing else is in their way
		if p := &s.Problems[i]; p.What == "control total" && !changed && !d.result.Sampled {
			changed = d.mendTie(p, d.named(p.Column))
		}
	}
	return changed
}

// named is the column of a name.
func (d *drafter) named(name string) *column {
	for _, c := range d.columns {
		if c.name == name {
			return c
		}
	}
	return nil
}

// entriesAt are the entries that the places of a problem are in.
func (d *drafter) entriesAt(p *place.Problem) (out []*entry) {
	for _, at := range p.Places {
		for _, s := range d.sheets {
			if s.entry != nil && (at.File == s.file || strings.HasPrefix(at.File, s.file+"/")) && (at.Sheet == "" || at.Sheet == s.Place.Sheet) &&
				!slices.Contains(out, s.entry) {
				out = append(out, s.entry)
			}
		}
	}
	return out
}

func (d *drafter) mendOne(p *place.Problem, s *fact.Summary) bool {
	c := d.named(p.Column)
	switch p.What {
	case "blank gap", "null gap", "text gap", "unclear gap", "error gap":
		return d.mendGap(p, c)
	case "unexpected header", "number beside wide columns", "header does not fit":
		return d.leaveHeaders(p)
	case "cell without a header":
		return d.leaveUnnamed(p)
	case "missing header":
		changed := false
		for _, e := range d.entriesAt(p) {
			if c != nil && c.class.OfMeasure() && !e.absent[c.name] && c.tossUps[e] == nil {
				e.absent[c.name], changed = true, true
			}
		}
		return changed
	case "repeated grain":
		return d.mendRepeats(p, s)
	case "repeats differ":
		if d.repeats == "first" {
			if d.repeats, d.differ = "keep", true; d.askVersions(s) {
				d.repeats = ""
			}
			return true
		}
	}
	return false
}

// holdAbove holds rows whose blanks took the value above, where that makes rows of one grain that
// differ: the blank ones may be subtotals.
func (d *drafter) holdAbove() (changed bool) {
	for _, c := range d.columns {
		if c.rules["blanks"] == "above" {
			c.rules["blanks"], changed = "hold", true
			c.open = c.name + ": a blank with the value above repeats another row with other figures, it may be a subtotal: held"
		}
	}
	return changed
}

// kinds are the rules for kinds of gaps.
var kinds = map[string]string{"blank gap": "blanks", "null gap": "nulls", "text gap": "texts", "unclear gap": "unclear",
	"error gap": "errors"}

// mendGap gives a column a rule for a kind of gaps, or the entry a way to read what is unclear.
func (d *drafter) mendGap(p *place.Problem, c *column) bool {
	if c == nil {
		return false
	}
	if name, text, ok := strings.Cut(p.Add, ": "); ok && (name == "dates" || name == "numbers") {
		changed := false
		for _, e := range d.entriesAt(p) {
			text = strings.Trim(text, `"'`)
			if name == "dates" && text != countedDays.Example && e.addForm(text) { // numbers among dates may be anything
				changed = true
			}
			if name == "numbers" && e.addNumbers(text, p.Count) {
				changed = true
			}
		}
		if changed {
			return true
		}
	}
	kind := kinds[p.What]
	if kind == "unclear" && c.class.OfMeasure() && slices.ContainsFunc(d.entriesAt(p), func(e *entry) bool { return e.numbers == neither }) {
		return false // a toss-up stops
	}
	if c.rules[kind] != "" || kind == "unclear" && d.askCurrency(p, c) {
		return false
	}
	rule := map[string]string{"blanks": "0", "nulls": "0", "texts": "0", "unclear": "hold", "errors": "hold"}[kind]
	switch {
	case c.class.OfMeasure():
	case c.always != "":
		rule = "leave"
	case c.class == terms.Price: // which is not 0 where nothing says it
		if rule == "0" {
			rule = "leave"
		}
	case c.class.OfTime() && kind == "unclear" && len(p.Other) > 1: // a toss-up stops
		c.open = c.name + ": dates can be read in several ways; say dates: in the entry"
		return false
	case c.class.OfTime():
		rule = "hold"
		if kind == "blanks" && d.firstOnly(c) {
			rule = "above"
		}
	case kind == "errors" || kind == "unclear":
		rule = "hold"
	case kind == "blanks" && d.headless(p, c): // a toss-up stops
		return false
	default:
		rule = d.labelRule(kind, p.Count, c)
	}
	if rule == "above" && c.carriesMark() { // a toss-up stops
		return false
	}
	c.rules[kind], c.counts[kind] = rule, p.Count
	return true
}

// labelRule is the rule for so many cells that say no label.
func (d *drafter) labelRule(kind string, cells int, c *column) string {
	switch {
	case kind == "blanks" && d.firstOnly(c):
		return "above"
	case (kind == "blanks" || kind == "nulls") && d.atEnds(c):
		c.open = c.name + ": " + counted(cells, "row") + " without one at the ends of tables, where sums and averages stand: held; " + kind +
			": Unassigned takes in what was sold"
		return "hold"
	}
	return "Unassigned"
}

// carriesMark reports whether blanks of a column that take the value above would take what stands between the pages of a table, and asks.
func (c *column) carriesMark() bool {
	i := slices.IndexFunc(c.besides, value.Mark)
	if i >= 0 {
		c.open = fmt.Sprintf("%s: blanks would take the value above, which is %s in places, no label, and a build stops: take such lines out of "+
			"the extracts", c.name, c.besides[i])
	}
	return i >= 0
}

// firstOnly reports whether values of a column stand only in the first row of a group.
func (d *drafter) firstOnly(c *column) bool {
	for _, e := range d.entries {
		for _, s := range e.sheets {
			for i := range s.Fields {
				f := &s.Fields[i]
				again := c.class == terms.None && !f.EachOnce(f.Filled) // a group of rows has a label that others have not
				if e.measures[key.Of(f.Header)] == c.name && 3*f.Blank > s.Rows && !again && s.firstFilled(i) && !s.inEachRow(i) {
					return true
				}
			}
		}
	}
	return false
}

// firstFilled reports whether the first row of data has a value in a field.
func (s *sheet) firstFilled(i int) bool {
	column := s.Left + i
	for k, row := range s.Head {
		filled := 0
		for _, text := range row {
			if text != "" {
				filled++
			}
		}
		if s.HeadLines[k] > s.HeaderRow && filled > 1 {
			return column < len(row) && row[column] != ""
		}
	}
	return false
}

// leaveHeaders leaves headers aside that nothing claims.
func (d *drafter) leaveHeaders(p *place.Problem) (changed bool) {
	for _, at := range p.Places {
		one := *p
		one.Places = []place.Place{at}
		for _, e := range d.entriesAt(&one) {
			if d.asks(e, at.Header) || e.mixes(at.Header) || slices.Contains(e.against, at.Header) {
				continue
			}
			if e.nameWide(at.Header) {
				changed = true
				continue
			}
			if !slices.ContainsFunc(e.others, func(h string) bool { return key.Of(h) == key.Of(at.Header) }) {
				e.others, changed = append(e.others, strings.TrimSpace(at.Header)), true
			}
			e.drop = e.mayDrop()
		}
	}
	return changed
}

// mayDrop reports whether all that nothing claims may be left aside, next month's too.
func (e *entry) mayDrop() bool { return e.unpivot == nil && len(e.mixed()) == 0 && len(e.remarks) == 0 }

// nameWide lists the wide headers of an entry if one of its tables has nothing but words below a header that is wide
// all the same: nobody would take it for one. It reports whether that is new.
func (e *entry) nameWide(header string) bool {
	found := slices.ContainsFunc(e.sheets, func(s *sheet) bool {
		return slices.ContainsFunc(s.wide, func(i int) bool { return key.Of(s.header(i)) == key.Of(header) })
	})
	if !found || e.unpivot == nil || len(e.unpivot.columns) > 0 {
		return false
	}
	e.listWide()
	return true
}

// listWide lists the wide headers of an entry.
func (e *entry) listWide() {
	var wide []string
	known := map[string]bool{}
	for _, s := range e.sheets {
		for _, i := range s.wide {
			if h := strings.TrimSpace(s.header(i)); !known[h] {
				known[h], wide = true, append(wide, h)
			}
		}
	}
	if glob := timeGlob(wide); glob != "*" && len(e.against) == 0 { // which it may fit, too
		e.unpivot.columns = []string{glob}
		return
	}
	for i, h := range wide {
		wide[i] = pattern.Escape(h)
	}
	e.unpivot.columns = wide
}

// asks reports whether a wide header may be that of a measure, and evidence does not settle it.
func (d *drafter) asks(e *entry, header string) bool {
	return e.unpivot != nil && e.unpivot.named != nil && slices.ContainsFunc(d.columns, func(c *column) bool {
		return slices.Contains(c.tossUps[e], key.Of(e.unpivot.measureIn(header)))
	})
}
