package draft

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// column is a column of the finished table under way.
type column struct {
	name     string
	class    terms.Class
	is       string
	headers  []string            // besides its name
	decimals int                 // -1 for none
	finest   int                 // before it was rounded as its control totals are, 0 where it is not, -1 where that did not help
	from     string              // a column of times that it is made of
	write    string              // how it is put together
	read     string              // what of its text is kept
	parts    []*column           // of these
	helper   bool                // not delivered
	above    bool                // takes the quarters above months
	besides  []string            // labels of rows that stand beside others
	always   string              // what it says everywhere, if a row that says something else is to stop the build
	within   string              // the formula that it lies in a month, if another one is to stop the build
	further  bool                // nobody asked for it: empty where an entry lacks it
	tossUps  map[*entry][]string // headers of which each may be it
	some     string              // what some tables say of its figures, and none otherwise
	best     map[*sheet]string   // the key of the header that says so best, where others may be it
	book     string
	missing  bool
	rules    map[string]string // by kind of gap
	counts   map[string]int    // how many cells met them
	foreseen bool              // it has rules for gaps that may not occur
	sources  []string
	note     string
	open     string
	values   map[string]bool // of labels, by the key
	totalled map[string]bool // labels that control files have totals of, or lists have, each once
	used     map[*entry]bool // the entries that have a source for it
	lookup   *lookup         // nil where it stands in the extracts
}

func newColumn(name string) *column {
	return &column{name: name, class: terms.Of(name), decimals: -1, rules: map[string]string{}, counts: map[string]int{},
		values: map[string]bool{}, totalled: map[string]bool{}, used: map[*entry]bool{},
		tossUps: map[*entry][]string{}, best: map[*sheet]string{}}
}

// addColumns adds the columns of the finished table, and further ones that some extracts may lack.
func (d *drafter) addColumns(names, further []string) {
	for i, name := range slices.Concat(names, further) {
		c := newColumn(strings.TrimSpace(name))
		c.further = i >= len(names)
		if header, ok := d.signs[c.name]; ok {
			c.headers = []string{header}
		}
		d.columns = append(d.columns, c)
	}
}

// findColumns finds the columns, and the source of each in each entry.
func (d *drafter) findColumns() {
	names, further := d.Columns, []string(nil)
	if len(names) == 0 {
		names, further = d.proposeColumns()
	}
	d.addColumns(names, further)
	d.addFiner()
	d.takeAsTexts()
	d.findBareTimes()
	d.findBareDays()
	d.findMixes()
	for _, e := range d.entries {
		d.findTossUps(e)
	}
	d.findContraries()
	d.findAgainst()
	d.askNamed()
	for _, e := range d.entries {
		d.assignKinds(e)
		d.assignFields(e)
	}
	d.learnTotalled()
	for _, e := range d.entries {
		if d.assignWide(e); len(e.against) > 0 && e.unpivot != nil {
			e.listWide()
		}
	}
	for range 2 { // values that one entry says help with another
		for _, e := range d.entries {
			d.assignPieces(e)
		}
	}
	d.findLookups()
	for _, e := range d.entries {
		d.assignRest(e)
	}
	d.findLookups() // by labels of section rows, too
	d.eliminate()
	d.keepFields()
	d.findContraries() // among headers that say no measure by themselves, too
	for _, e := range d.entries {
		e.preferFields()
		d.settlePatterns(e)
	}
	d.askRivals()
	d.askSigns()
	d.askFiscal()
	d.settleKinds()
	d.askEntries()
	d.partHeaders()
	d.noteGuesses()
	d.askFigures()
	if len(d.Columns) > 0 { // else they are delivered
		d.findGuards()
	}
	d.findTies()
}

// askEntries asks what the columns leave open in each entry.
func (d *drafter) askEntries() {
	for _, e := range d.entries {
		e.leaveFigures()
		e.findTotalWords()
		d.findBesides(e)
		e.lacks = slices.DeleteFunc(e.lacks, func(name string) bool { return d.named(name).tossUps[e] != nil })
		d.ask(e)
	}
	d.awaitTossUps()
}

// ask says what nothing in the extracts of an entry settles.
func (d *drafter) ask(e *entry) {
	if len(e.lacks) > 0 {
		e.open = append(e.open, fmt.Sprintf("%s: nothing there says %s, and a build stops; set: { %s: … } in the entry can", e.globs[0],
			joined(e.lacks), e.lacks[0]))
	}
	e.askMixed()
	d.tellMixed(e)
	for _, c := range d.columns {
		beside := c.used[e] && e.unpivot != nil && all(c.tossUps[e], notSold)
		if list := c.tossUps[e]; len(list) > 0 && !beside {
			text := fmt.Sprintf("%s: %s may be %s; in fact %s: { headers: [%s] } says which", e.globs[0], c.name,
				strings.Join(list, " or "), layout.Flow(c.name), layout.Flow(list[0]))
			if thing := thingOfAll(list); len(list) > 2 && c.class.OfMeasure() && thing != "" {
				text += fmt.Sprintf("; or if all are, umbau draft --columns with %s takes them", thing)
			}
			e.open = append(e.open, text)
		}
	}
}

// thingOfAll is the column that may take headers of figures that nothing says more of; "" for none.
func thingOfAll(headers []string) string {
	switch span, sure := spanOf(headers); {
	case sure:
		return "the column " + span
	case all(headers, ofThing):
		return "a column for what they are of"
	}
	return ""
}

// ofThing reports whether a header of figures says neither which they are nor when: it may be of a thing.
func ofThing(header string) bool {
	_, form := terms.SeemsMonth(header)
	return !form && thingOf(header) == header && terms.Of(header) == terms.None && !terms.IsPeriod(header) &&
		!fullTime().MatchString(header) && !besideTimes(header) && !terms.SaysActual(header) && strings.Trim(header, "0123456789") != ""
}

// awaitTossUps stops the build where a measure is a question in one entry, though other entries have it, and a header there has its name
// or one of theirs, or headers across name measures, so that a build would take it.
func (d *drafter) awaitTossUps() {
	for _, c := range d.columns {
		taken := func(f survey.Field) bool {
			k := key.Of(f.Header)
			return k == key.Of(c.name) || slices.ContainsFunc(c.headers, func(h string) bool { return key.Of(h) == k })
		}
		for _, e := range d.entries {
			if !c.class.OfMeasure() || c.tossUps[e] == nil || c.missing {
				continue
			}
			named := e.unpivot != nil && e.unpivot.named != nil && len(c.tossUps[e]) == 0
			if named || !c.used[e] && slices.ContainsFunc(e.sheets, func(s *sheet) bool { return slices.ContainsFunc(s.Fields, taken) }) {
				e.waits = true
			}
		}
	}
}

// preferFields takes the field for the source of a column that a piece of a path, a sheet or a title says too, where other
// entries have such a field: one of both has to.
func (e *entry) preferFields() {
	for i := range e.pieces {
		c := e.pieces[i].column
		if c == nil {
			continue
		}
		for _, s := range e.sheets {
			for _, k := range s.labels() {
				f := &s.Fields[k]
				_, taken := e.measures[key.Of(f.Header)]
				named := slices.ContainsFunc(c.headers, func(h string) bool { return key.Of(h) == key.Of(f.Header) })
				if !taken && named && c.fits(s, k) {
					e.pieces[i].column = nil
					e.take(f.Header, c)
				}
			}
		}
	}
}

// column is the column of a name, or else of a class.
func (d *drafter) columnFor(header string) *column {
	k, name := key.Of(header), snake(header)
	for _, c := range d.columns {
		if c.made() {
			continue
		}
		if c.name == name || key.Of(c.name) == k || slices.ContainsFunc(c.headers, func(h string) bool { return key.Of(h) == k }) {
			return c
		}
	}
	cl := terms.Of(header)
	if cl == terms.None || cl == terms.Aside {
		return nil
	}
	var found *column
	several := false
	for _, c := range d.columns {
		switch {
		case c.class != cl || c.made():
		case found == nil || c.aside() < found.aside():
			found, several = c, false
		case c.aside() == found.aside():
			several = true
		}
	}
	if several {
		return nil
	}
	return found
}

// aside is how far a column stands behind others of its class: one that nobody asked for, and one of codes.
func (c *column) aside() (n int) {
	if c.further {
		n += 2
	}
	if terms.SaysCode(key.Of(c.name)) {
		n++
	}
	return n
}

// partHeaders gives headers that are of one column in some entries, and of another, in question or a total in others, to the entries.
func (d *drafter) partHeaders() {
	claims := map[string][]*column{}
	for _, c := range d.columns {
		if c.made() {
			continue
		}
		known := map[string]bool{}
		for _, h := range append(slices.Clone(c.headers), c.name) {
			if k := key.Of(h); !known[k] {
				known[k] = true
				claims[k] = append(claims[k], c)
			}
		}
		others := slices.Collect(maps.Values(c.tossUps))
		for _, e := range d.entries {
			others = append(others, e.totalWords, e.others, e.besideOwn(c))
		}
		for _, list := range others {
			for _, h := range list {
				if k := key.Of(h); known[k] && k != key.Of(c.name) {
					claims[k] = append(claims[k], c)
				}
			}
		}
	}
	for _, e := range d.entries {
		for _, k := range sortedKeys(e.measures) {
			c := d.named(e.measures[k])
			if len(claims[k]) < 2 || c == nil || key.Of(c.name) == k {
				continue
			}
			for _, s := range e.sheets {
				for i := range s.Fields {
					if h := strings.TrimSpace(s.Fields[i].Header); key.Of(h) == k && !slices.Contains(e.headers[c.name], h) {
						e.headers[c.name] = append(e.headers[c.name], h)
					}
				}
			}
		}
	}
	for k, list := range claims {
		for _, c := range list {
			if len(list) > 1 {
				c.headers = slices.DeleteFunc(c.headers, func(h string) bool { return key.Of(h) == k })
			}
		}
	}
}

// besideOwn are the headers of a column that stand in an entry where it has another source.
func (e *entry) besideOwn(c *column) (out []string) {
	for _, h := range c.headers {
		if c.used[e] && e.measures[key.Of(h)] != c.name && e.sheets[0].field(h) != nil {
			out = append(out, h)
		}
	}
	return out
}

// made reports whether a column is put together of others.
func (c *column) made() bool { return c.write != "" || c.from != "" }

// claim makes a field the source of a column in an entry.
func (c *column) claim(e *entry, header, source string) {
	c.used[e] = true
	if header != "" && key.Of(header) != key.Of(c.name) &&
		!slices.ContainsFunc(c.headers, func(h string) bool { return key.Of(h) == key.Of(header) }) {
		c.headers = append(c.headers, strings.TrimSpace(header))
	}
	c.sources = append(c.sources, source)
}

// learn keeps the values of a field.
func (c *column) learn(values []string) {
	for _, v := range values {
		if k := key.Of(v); k != "" {
			c.values[k] = true
		}
	}
}

// knows is how many of some texts are labels of the column.
func (c *column) knows(texts []string) (n int) {
	for _, t := range texts {
		if k := key.Of(t); c.values[k] || c.totalled[k] {
			n++
		}
	}
	return n
}

// findTossUps finds columns that several fields of a table may be, of which none says so better than
// the others: by its header being the column's, or one word for it.
func (d *drafter) findTossUps(e *entry) {
	for _, s := range e.sheets {
		best, of, several, below := map[*column]int{}, map[*column][]string{}, map[*column]int{}, map[*column][]string{}
		for _, i := range s.labels() {
			f := &s.Fields[i]
			c := d.columnOf(s, f.Header)
			if c == nil || !c.fits(s, i) {
				continue
			}
			several[c]++
			rank := 1
			switch k := key.Of(f.Header); {
			case k == key.Of(c.name):
				rank = 3
			case terms.SaysCode(k) && !terms.SaysCode(key.Of(c.name)):
				rank = 0
			case terms.OfWord(terms.WithoutUnit(k)) == c.class:
				rank = 2
			}
			if rank > best[c] {
				best[c], of[c], below[c] = rank, nil, append(below[c], of[c]...)
			}
			if header := strings.TrimSpace(f.Header); rank < best[c] {
				below[c] = append(below[c], header)
			} else if !slices.Contains(of[c], header) {
				of[c] = append(of[c], header)
			}
		}
		for c, list := range of {
			net := c.class == terms.Amount && best[c] < 3 && len(list) == 1 &&
				(ofNet[key.Of(list[0])] || slices.ContainsFunc(below[c], func(h string) bool { return terms.Tax(h) != "" }))
			if net || best[c] == 0 && slices.Contains(things, c.class) {
				list = append(append(list, below[c]...), c.others(s)...)
			}
			switch {
			case (len(list) > 1 || c.class.OfMeasure() && best[c] < 3 && notSold(list[0])) && c.tossUps[e] == nil:
				c.tossUps[e] = list
			case len(list) == 1 && several[c] > 1:
				c.best[s] = key.Of(list[0])
			}
		}
	}
}

// notSold reports whether a header says that its figures are no sums of what was sold, or numbers of something.
func notSold(header string) bool {
	return terms.NotSold(header) || terms.Returns(header) || terms.SaysCode(key.Of(header))
}

// ofNet are words for amounts that say less of them than of what is in them.
var ofNet = terms.List("net gross netto brutto")

// others are the headers of fields of which no word says what they are, and which may be a column as well as one with codes, or net of
// something.
func (c *column) others(s *sheet) (out []string) {
	for _, i := range s.labels() {
		f := &s.Fields[i]
		if c.class == terms.Amount && f.Is == "number" && c.likely(s, i) ||
			c.class != terms.Amount && f.Is == "text" && comesAgain(f) && !saysElse(f) {
			out = append(out, strings.TrimSpace(f.Header))
		}
	}
	return out
}

// assignFields finds the columns of the fields that are not wide, by what their headers say.
func (d *drafter) assignFields(e *entry) {
	for _, s := range e.sheets {
		for _, i := range s.labels() {
			f := &s.Fields[i]
			c := d.columnOf(s, f.Header)
			if c == nil || c.tossUps[e] != nil || c.best[s] != "" && c.best[s] != key.Of(f.Header) || !c.fits(s, i) ||
				e.measures[key.Of(f.Header)] == " taken" {
				continue
			}
			if _, claimed := e.measures[key.Of(f.Header)]; !claimed && c.used[e] && c.taken(e, s, f.Header) {
				continue
			}
			c.claim(e, f.Header, "column "+f.Header)
			e.take(f.Header, c)
			c.learn(s.withoutSections(f.Values))
			c.classByContent(s, i)
			figures := s.numeric(i) && (c.class == terms.None || c.class.OfMeasure())
			if len(d.Columns) == 0 && figures && (terms.NotAdded(f.Header) || len(f.Values) > 0 && all(f.Values, percent)) {
				c.class = terms.Price // which is not added up
			}
		}
	}
}

// classByContent is the class of a column whose header says nothing, or period.
func (c *column) classByContent(s *sheet, i int) {
	f := &s.Fields[i]
	counted := len(f.Values) > 20 || terms.SaysFlow(c.name) || terms.SaysActual(c.name) || slices.ContainsFunc(f.Values, minus)
	switch is := f.Is; {
	case terms.SaysPeriod(c.name) && is == "quarter":
		c.class = terms.Quarter
	case terms.SaysPeriod(c.name) && s.yearLike(i):
		c.class = terms.Year
	case c.class != terms.None, terms.SaysCode(key.Of(f.Header)):
	case is == "date":
		c.class = terms.Day
	case is == "month":
		c.class = terms.Month
	case is == "number", is == "whole" && counted && !s.identifies(i):
		c.class = terms.Amount
	}
}

// percent reports whether a figure is one of a hundred.
func percent(figure string) bool { return strings.HasSuffix(strings.TrimSpace(figure), "%") }

// fits reports whether a field holds what a column may be.
func (c *column) fits(s *sheet, i int) bool {
	f := &s.Fields[i]
	switch {
	case c.class.OfMeasure(), c.class == terms.Price:
		return s.numeric(i) && (len(s.wide) == 0 || !slices.Contains(s.SumColumns, f.Header)) // else what stands across is what is asked for
	case c.class == terms.Year:
		return s.yearLike(i) || f.Is == "text"
	case c.class.OfTime():
		return f.Is == "date" || f.Is == "month" || f.Is == "quarter" || s.yearLike(i)
	}
	return !s.numeric(i) || f.Is == "whole" || c.class == terms.None
}

// take says that a header of the entry is that of a column.
func (e *entry) take(header string, c *column) { e.measures[key.Of(header)] = c.name }

// taken reports whether another header of a table of the entry is the column's already.
func (c *column) taken(e *entry, s *sheet, header string) bool {
	return slices.ContainsFunc(s.Fields, func(f survey.Field) bool {
		k := key.Of(f.Header)
		return e.measures[k] == c.name && k != key.Of(header)
	})
}
