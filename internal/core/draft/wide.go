package draft

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// assignWide says what wide headers and their cells are.
func (d *drafter) assignWide(e *entry) {
	defer e.passUnitsApart()
	s := e.sheets[0]
	if len(s.wide) == 0 || e.widen[1] != "" { // or what stands across is the cell of a row that says what it is
		return
	}
	e.unpivot = &unpivot{}
	parts := e.withoutUnits(e.wideParts())
	defer d.passSpelling(e)
	defer e.passUnits()
	two := len(parts) == 2
	switch {
	case e.widen[0] != "":
		d.assignAcross(e, parts)
		return
	case len(parts) > 1 && d.assignRows(e, parts):
		return
	case two && (d.assignTwoRows(e, [2][]string(parts), " | ") || d.assignTwoThings(e, [2][]string(parts))):
		return
	case len(parts) > 2, two && eachOfEach([2][]string(parts)) && key.Differ(parts[0]) && key.Differ(parts[1]):
		e.open = append(e.open, e.globs[0]+": which part of the wide headers names a measure, and which a thing, does not show; "+
			"unpivot: { header: … } says it")
		e.unpivot = nil
		return
	}
	for _, last := range []bool{false, true} {
		if own, sign, ok := partsOf(parts[0], last); ok { // a measure's name in each: never a thing's
			d.assignTwoRows(e, own, sign)
			return
		}
	}
	if own, sign, ok := partsByMonth(parts[0]); ok && d.assignTwoRows(e, own, sign) {
		return
	}
	if some := measuresAmong(parts[0]); some > 1 && some < len(parts[0]) && 3*some >= len(parts[0]) {
		e.open = append(e.open, e.globs[0]+": some of the wide headers name a measure, and some do not; unpivot: { header: … } says what "+
			"they are")
		e.unpivot = nil
		return
	}
	c := d.wideColumn(e, parts[0])
	cell := d.cellColumn(e)
	if c == nil && cell != nil {
		c = d.knownThing(e, parts[0])
	}
	if c == nil || cell == nil || c == cell {
		if t, _ := terms.TimesOf(parts[0]); t == terms.None && terms.BareTimes(parts[0]) == terms.None && !two {
			e.noneAcross()
		}
		d.assignSums(e)
		return
	}
	e.readTimes(parts[0])
	c.claim(e, "", "wide headers")
	cell.claim(e, "", "wide cells")
	c.learn(parts[0])
	e.unpivot.header, e.unpivot.cell = "{"+c.name+"}", cell.name
}

// assignSums claims columns that are sums of what stands across, where this has no place in the finished table.
func (d *drafter) assignSums(e *entry) {
	d.sumsBeside(e, func(s *sheet, header string, c *column) {
		if !c.taken(e, s, header) {
			c.claim(e, header, "column "+header)
			e.take(header, c)
		}
	})
}

// sumsBeside calls a function, if any, with headers of measures that are sums of what stands across, and reports whether there are some.
func (d *drafter) sumsBeside(e *entry, call func(s *sheet, header string, c *column)) (any bool) {
	for _, s := range e.sheets {
		for _, i := range s.labels() {
			header := strings.TrimSpace(s.Fields[i].Header)
			c := d.columnOf(s, header)
			measure := c != nil && c.class.OfMeasure() && c.tossUps[e] == nil
			if measure && slices.Contains(s.SumColumns, s.Fields[i].Header) {
				if any = true; call != nil {
					call(s, header, c)
				}
			}
		}
	}
	return any
}

// readTimes notes how times in wide headers are written: months in several ways, if files differ in that.
func (e *entry) readTimes(texts []string) {
	t, form := terms.TimesOf(texts)
	if t == terms.None {
		return
	}
	if value.DaysOfMonths(texts) {
		e.mayBeDays(path.Base(e.sheets[0].file)+", headers", texts)
		return
	}
	forms := []string{form}
	if t == terms.Month {
		for _, text := range texts {
			_, own := terms.TimeOf(text)
			forms = append(forms, own)
		}
	}
	for _, form := range forms {
		e.addForm(form)
	}
}

// assignTwoRows says what the two parts of wide headers are: one names the measure, the other what
// it is of. Measures that are not wanted are left aside; two that may be one column are a question.
func (d *drafter) assignTwoRows(e *entry, parts [2][]string, between string) bool {
	for m := range 2 {
		named, all := map[string]*column{}, true
		for _, text := range parts[m] {
			c := d.columnFor(text)
			if c != nil && c.class == terms.None && key.Same(c.name, text) { // which is asked for by its own name
				c.class = terms.Amount
			}
			if c != nil && c.class.OfMeasure() {
				named[key.Of(text)] = c
			} else {
				all = false
			}
		}
		if of := d.actual(e, parts[m]); of != nil {
			named, all = of, true
		}
		if len(named) == 0 {
			continue
		}
		if !all && !eachOfEach(parts) && slices.ContainsFunc(parts[m], func(text string) bool { return !terms.Of(text).OfMeasure() }) {
			e.open = append(e.open, e.globs[0]+": which part of the wide headers names a measure does not show; unpivot: { header: … } says it")
			e.unpivot = nil
			return true
		}
		c := d.wideColumn(e, parts[1-m])
		if c == nil && len(d.Columns) > 0 && !d.sumsBeside(e, nil) && !d.measuredBeside(e) {
			c = d.unaskedThing()
		}
		if c == nil {
			return false
		}
		e.unpivot.named, e.unpivot.part, e.unpivot.between, e.unpivot.others = named, m, between, 1
		measure, cell := d.claimMeasures(e, parts[m])
		e.readTimes(parts[1-m])
		c.claim(e, "", "wide headers")
		c.learn(parts[1-m])
		if between != " | " && m == 1 && measure == "{measure}" && slices.ContainsFunc(parts[0], func(text string) bool {
			return strings.Contains(text, between)
		}) { // else it would begin behind the first of these
			measure = "{measure:letters}"
		}
		e.unpivot.header, e.unpivot.cell = e.unpivot.joined(measure, "{"+c.name+"}"), cell
		return true
	}
	return false
}

// measuredBeside reports whether a measure has a column beside what stands across, which may be the sum of it.
func (d *drafter) measuredBeside(e *entry) bool {
	return slices.ContainsFunc(d.columns, func(c *column) bool { return c.class.OfMeasure() && c.used[e] })
}

// unaskedThing is the column of things that stand across, beside the names of measures or known from other tables, and that nobody asked
// for: all of them are added up.
func (d *drafter) unaskedThing() *column {
	if d.thing == nil {
		d.thing = d.helper("item", terms.Aside)
		d.thing.is, d.thing.further = "text", true
	}
	return d.thing
}

// noneAcross says that no things stand across, but figures of rows.
func (e *entry) noneAcross() {
	e.unpivot = nil
	for _, s := range e.sheets {
		s.wide = nil
	}
}

// knownThing is the column of things that nobody asked for, where nearly all that stand across stand in a book, or in a column of
// labels of another table, and no sums of theirs beside them; nil for others. What is not known there is asked about.
func (d *drafter) knownThing(e *entry, texts []string) *column {
	texts = slices.Clone(texts)
	for _, s := range e.sheets[1:] { // a file of another year may have more
		for _, i := range s.wide {
			if h := s.Fields[i].Header; !slices.ContainsFunc(texts, func(t string) bool { return key.Same(t, h) }) {
				texts = append(texts, h)
			}
		}
	}
	if len(d.Columns) == 0 || d.sumsBeside(e, nil) || slices.ContainsFunc(texts, noThing) {
		return nil
	}
	for _, file := range sortedKeys(d.books) {
		b := d.books[file]
		if c := d.thingOfMost(e, texts, func(t string) bool { _, _, ok := b.Find(t); return ok }); c != nil {
			return c
		}
	}
	s := e.sheets[0]
	for _, o := range d.extracts() {
		for _, i := range o.labels() {
			f := &o.Fields[i]
			if o == s || f.Is != "text" {
				continue
			}
			known := map[string]bool{}
			for _, k := range o.labelsOf(f) {
				known[k] = true
			}
			if c := d.thingOfMost(e, texts, func(t string) bool { return known[key.Of(t)] }); c != nil {
				return c
			}
		}
	}
	return nil
}

// noThing reports whether a header says that its figures are none of a thing that was sold: freight, tax, what came back.
func noThing(text string) bool {
	return terms.SaysFlow(text) || terms.NotSold(text) || terms.NotAdded(text) || terms.NoSales.In(text) || terms.Returns(text)
}

// thingOfMost is the column of things that nobody asked for, where four fifths of some texts are known; the rest is asked about.
func (d *drafter) thingOfMost(e *entry, texts []string, known func(string) bool) *column {
	rest := slices.DeleteFunc(slices.Clone(texts), known)
	if 5*len(rest) > len(texts) {
		return nil
	}
	if len(rest) > 0 {
		e.open = append(e.open, fmt.Sprintf("%s: nothing else knows %s, which the plan adds up with the other things across: is that right?",
			e.globs[0], joined(rest)))
	}
	return d.unaskedThing()
}

// assignTwoThings says what the two parts of wide headers are where none names a measure: a time and a thing or place, or a place and
// a thing, by what is known of them elsewhere. Where that does not show, it is a question.
func (d *drafter) assignTwoThings(e *entry, parts [2][]string) bool {
	cell := d.cellColumn(e)
	if cell == nil {
		return false
	}
	var of [2]*column
	for m := range 2 {
		t, _ := terms.TimesOf(parts[m])
		bare := d.bare != nil && !d.bare.used[e] && terms.BareTimes(parts[m]) != terms.None // with a year elsewhere
		if t != terms.None || bare && terms.BareTimes(parts[1-m]) == terms.None {
			if of[m] = d.wideColumn(e, parts[m]); of[m] != nil { // it is not the other one, too
				of[m].used[e] = true
				of[1-m] = d.wideColumn(e, parts[1-m])
				delete(of[m].used, e)
			}
			break
		}
	}
	if of[0] == nil {
		place, thing := d.placeAcross(e), d.of(terms.Product)
		if place == nil || thing == nil || thing.used[e] {
			return false
		}
		of = [2]*column{place, thing}
		switch as, other := place.knows(parts[0])+thing.knows(parts[1]), place.knows(parts[1])+thing.knows(parts[0]); {
		case as >= 4*other && as > 0:
		case other >= 4*as && other > 0:
			of[0], of[1] = thing, place
		default:
			e.open = append(e.open, fmt.Sprintf("%s: which part of the wide headers is %s, and which %s, does not show; "+
				"unpivot: { header: … } says it", e.globs[0], place.name, thing.name))
			e.unpivot = nil
			return true
		}
	}
	if of[0] == nil || of[1] == nil || of[0] == of[1] {
		return false
	}
	for m, c := range of {
		e.readTimes(parts[m])
		c.claim(e, "", "wide headers")
		if !c.class.OfTime() {
			c.learn(parts[m])
		}
	}
	cell.claim(e, "", "wide cells")
	e.unpivot.header, e.unpivot.cell = "{"+of[0].name+"} | {"+of[1].name+"}", cell.name
	return true
}

// joined is a header of several parts.
func (u *unpivot) joined(measure string, others ...string) string {
	text := strings.Join(slices.Insert(others, u.part, measure), u.between)
	if strings.HasSuffix(u.between, "(") {
		text += ")"
	}
	return text
}

// below is a pattern of the headers that name a measure.
func (u *unpivot) below(measure string) string {
	return u.over(u.joined(measure, slices.Repeat([]string{"*"}, u.others)...))
}

// eachOfEach reports whether the parts of some headers go with each other in every way, as measures
// of things do.
func eachOfEach(parts [2][]string) bool {
	seen := [3]map[string]bool{{}, {}, {}}
	for i := range parts[0] {
		a, b := key.Of(parts[0][i]), key.Of(parts[1][i])
		seen[0][a], seen[1][b], seen[2][a+"\x00"+b] = true, true, true
	}
	return len(seen[0])*len(seen[1]) == len(seen[2])
}

// notAcross are classes that what stands across is not, where nothing says so.
var notAcross = []terms.Class{terms.Region, terms.Branch, terms.Price}

// acrossTitle is what the line above the header says that stands across: one word right above the first wide header, alone but for
// what stands above labels; "" for none.
func (s *sheet) acrossTitle() (title string) {
	for k, row := range s.Head {
		if len(s.wide) == 0 || s.HeadLines[k] != s.HeaderTop-1 {
			continue
		}
		for i, cell := range row {
			switch {
			case cell == "" || i < s.wide[0]:
			case i > s.wide[0] || !terms.SaysThing(cell):
				return ""
			default:
				title = cell
			}
		}
	}
	return title
}

// wideColumn is the column that the texts of wide headers are values of.
func (d *drafter) wideColumn(e *entry, texts []string) *column {
	if c := d.bare; c != nil && !c.used[e] && terms.BareTimes(texts) != terms.None {
		return c
	}
	if c := d.bareDay; c != nil && !c.used[e] && e.daysAcross(true) {
		return c
	}
	t, _ := terms.TimesOf(texts)
	span, sure := spanOf(texts)
	title := ""
	if t == terms.None && span == "" && terms.BareTimes(texts) == terms.None { // times are what they are, whatever stands above
		title = snake(e.sheets[0].acrossTitle())
	}
	var best *column
	for _, c := range d.columns {
		switch {
		case c.used[e], c.class == terms.Aside && c.helper: // which nobody asked for
		case title != "" && key.Same(c.name, title), t != terms.None && c.class == t:
			return c
		case span == "week" && terms.SaysWeek(c.name), span == "period" && terms.SaysPeriod(c.name):
			return c
		case sure: // nothing else
		case t == terms.None && c.class == terms.Product:
			if best == nil || best.class != terms.Product || !terms.SaysCode(key.Of(c.name)) {
				best = c
			}
		case t != terms.None || best != nil || slices.Contains(notAcross, c.class) || c.class.OfTime() || c.class.OfMeasure() || d.referred(c):
		default:
			best = c
		}
	}
	if best == nil && t != terms.None {
		for _, c := range d.columns {
			if !c.used[e] && c.class.OfTime() {
				return c
			}
		}
	}
	timed := slices.ContainsFunc(texts, terms.SaysTime)
	if best == nil && t == terms.None && !timed && !sure {
		best = d.placeAcross(e)
	}
	if best == nil {
		return d.unaskedDay(e)
	}
	return best
}

// placeAcross is the region or branch that stands across: one more of them is asked for than
// paths, sheets, titles and sections can say.
func (d *drafter) placeAcross(e *entry) *column {
	var unmet []*column
	for _, want := range []terms.Class{terms.Branch, terms.Region} {
		for _, c := range d.columns {
			if c.class == want && !c.used[e] {
				unmet = append(unmet, c)
			}
		}
	}
	said := e.labelPieces()
	if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.sections }) {
		said++
	}
	if len(unmet) > said {
		return unmet[0]
	}
	return nil
}

// labelPieces is how many labels the names of files and sheets and the titles say.
func (e *entry) labelPieces() (n int) {
	for _, p := range e.pieces {
		if p.Time == terms.None && len(p.Values) > 0 && !slices.ContainsFunc(p.Values, terms.SaysNothing) {
			n++
		}
	}
	return n
}

// cellColumn is the measure that wide cells are.
func (d *drafter) cellColumn(e *entry) *column {
	var found []*column
	for _, c := range d.columns {
		if list := c.tossUps[e]; list != nil && len(list) == 0 { // unlike
			return nil
		}
		if c.class.OfMeasure() && !c.used[e] {
			found = append(found, c)
		}
	}
	if len(found) == 0 { // by elimination: the last one that is asked for
		for _, c := range d.columns {
			if c.class == terms.None && !c.used[e] && len(c.values) == 0 {
				found = append(found, c)
			}
		}
		if len(found) > 0 {
			found[len(found)-1].class = terms.Amount
			return found[len(found)-1]
		}
		return nil
	}
	want := terms.Amount
	if e.sheets[0].figuresAre == terms.Quantity {
		want = terms.Quantity
	}
	for _, c := range found {
		if c.class == want {
			return c
		}
	}
	if want == terms.Quantity { // which is none of those that are asked for
		return nil
	}
	return found[0]
}

// cellOf is the column of the cells below a wide header.
func (d *drafter) cellOf(e *entry, header string) *column {
	if e.unpivot == nil {
		return nil
	}
	if u := e.unpivot; u.named != nil {
		return u.named[key.Of(u.measureIn(header))]
	}
	return d.columnFor(e.unpivot.cell)
}
