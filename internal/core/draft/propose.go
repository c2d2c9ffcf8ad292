package draft

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/value"
)

// proposal is what the extracts have, by class and as it is called there.
type proposal struct {
	byClass map[class][]string
	others  []string
	entries map[class]map[*entry]bool // by class, those that have it
	entry   *entry                    // at hand
}

func (p *proposal) add(c class, name string) {
	p.byClass[c] = append(p.byClass[c], name)
	if p.entries[c] == nil {
		p.entries[c] = map[*entry]bool{}
	}
	p.entries[c][p.entry] = true
}

// proposeColumns names the columns of the finished table by what the extracts have. Further ones are those that
// some extracts may lack.
func (d *drafter) proposeColumns() (out, further []string) {
	p := &proposal{byClass: map[class][]string{}, entries: map[class]map[*entry]bool{}}
	for _, e := range d.entries {
		p.entry = e
		for _, s := range e.sheets {
			p.addFields(s)
			d.addWide(p, s)
		}
		p.addPieces(e)
	}
	p.oneTime(len(d.entries))
	for i, c := range []class{region, year, branch, day, month, quarter, product, quantity, amount} {
		list := p.byClass[c]
		if len(list) == 0 {
			continue
		}
		header := commonest(list)
		name := snake(header)
		if name == "" { // only signs
			name = strings.Fields("region year branch day month quarter product quantity amount")[i]
			d.signs[name] = strings.TrimSpace(header)
		}
		if !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	for _, h := range p.others {
		name := snake(h)
		if name == "" && strings.TrimSpace(h) != "" { // only signs
			name = fmt.Sprintf("column_%d", len(d.signs)+1)
			d.signs[name] = strings.TrimSpace(h)
		}
		if name != "" && !slices.Contains(out, name) && !slices.Contains(further, name) {
			further = append(further, name)
		}
	}
	return out, further
}

// oneTime leaves times out that not all entries have, where another one says them: days beside months of other
// entries, months beside days of all, years.
func (p *proposal) oneTime(entries int) {
	days, months := len(p.entries[day]), len(p.entries[month])
	switch {
	case months > 0 && days > 0 && days < entries:
		delete(p.byClass, day)
	case days == entries && months < entries:
		delete(p.byClass, month)
	}
	if days+months > 0 || len(p.entries[quarter]) == entries {
		delete(p.byClass, year)
	}
}

// addFields adds the fields of a table that are not wide.
func (p *proposal) addFields(s *sheet) {
	seen, named := map[class]bool{}, map[class]bool{}
	for _, i := range s.labels() {
		if h := s.Fields[i].Header; !saysCode(key.Of(h)) {
			named[classOf(h)] = true
		}
	}
	for _, i := range s.labels() {
		f := &s.Fields[i]
		c := classOf(f.Header)
		if len(s.wide) > 0 && slices.Contains(s.SumColumns, f.Header) { // is left aside
			continue
		}
		switch {
		case saysPeriod(f.Header) && f.Is == "quarter":
			c = quarter
		case saysPeriod(f.Header) && s.yearLike(i):
			c = year
		}
		again := c.ofMeasure() && seen[c] || named[c] && saysCode(key.Of(f.Header)) // net beside gross, codes beside names: both are wanted
		seen[c] = true
		switch {
		case again, c == price:
			p.others = append(p.others, f.Header)
		case i == s.kind:
			for _, v := range f.Values {
				p.add(classOf(v), v)
			}
		case s.kind >= 0 && s.numeric(i) && !s.yearLike(i), c == aside, s.numbersRows(i), s.saysMeasure(i),
			s.addsTimes(i), len(s.wide) > 0 && s.numeric(i) && saysBeside(f.Header):
		case c == day && monthsAlone(f.Values):
			p.add(month, "month")
		case c != noClass:
			p.add(c, f.Header)
		case f.Is == "date":
			p.add(day, f.Header)
		case f.Is == "month":
			p.add(month, f.Header)
		default:
			p.others = append(p.others, f.Header)
		}
	}
}

// addsTimes reports whether a field of figures has a time for its header, as those across have: it adds some of them up.
func (s *sheet) addsTimes(i int) bool {
	t, _ := timeOf(s.Fields[i].Header)
	return t != noClass && s.numeric(i) && s.wideTime() != noClass
}

// numbersRows reports whether a field has the number of each row; the first one may lack a header, and is called A.
func (s *sheet) numbersRows(i int) bool {
	f := &s.Fields[i]
	numbers := counts(f.Header) || i == 0 && f.Header == "A"
	return numbers && f.Is == "whole" && f.Distinct > 1 && f.EachOnce(f.Filled) && !classOf(f.Header).ofTime()
}

// monthsAlone reports whether most texts are months, and none is a day.
func monthsAlone(texts []string) bool {
	n := 0
	for _, t := range texts {
		switch c, _ := timeOf(t); c {
		case day:
			return false
		case month:
			n++
		}
	}
	return 2*n > len(texts)
}

// addWide adds what wide headers and their cells are.
func (d *drafter) addWide(p *proposal, s *sheet) {
	if len(s.wide) == 0 {
		return
	}
	named := false
	for _, i := range s.wide {
		parts := strings.Split(s.Fields[i].Header, " | ")
		if measure, _, ok := measureFirst(s.Fields[i].Header); ok && len(parts) == 1 {
			parts = []string{measure}
		} else if _, measure, ok := measureLast(s.Fields[i].Header); ok && len(parts) == 1 {
			parts = []string{measure}
		}
		for _, part := range parts {
			if c := classOf(part); c.ofMeasure() && (len(parts) == 1 || !value.IsUnit(part)) {
				p.add(c, part)
				named = true
			}
		}
	}
	if parts := s.parts(); len(parts) > 2 || len(parts) > 1 && (!named || s.yearsAcross()) {
		d.addParts(p, s, parts)
	} else if t := s.wideTime(); t != noClass {
		p.add(t, string(t))
	} else if t := bareTimes(s.wideTimes()); t != noClass {
		p.add(t, string(t))
	} else if c := p.entry.across(s); c != noClass {
		p.add(c, string(c))
	} else {
		p.add(product, d.itemName(s))
	}
	if !named {
		which := amount
		if s.figuresAre == quantity {
			which = quantity
		}
		p.add(which, string(which))
	}
}

// addParts adds what the parts of wide headers are, but for those that name measures or units.
func (d *drafter) addParts(p *proposal, s *sheet, parts [][]string) {
	var things [][]string
	for k, r := range rowsSay(parts) {
		switch {
		case r.class == year && s.yearsAcross(), r.class == aside, r.class == amount:
		case r.class != noClass:
			p.add(r.class, string(r.class))
		default:
			things = append(things, parts[k])
		}
	}
	across := p.entry.across(s)
	switch {
	case len(things) == 0:
	case len(things) > 1 && across == region && nested(things[0], things[1]):
		p.add(region, string(region))
		p.add(branch, string(branch))
	case len(things) == 1 && across != noClass:
		p.add(across, string(across))
	default:
		if p.add(product, d.itemName(s)); len(things) > 1 {
			p.add(branch, "branch")
		}
	}
}

// all reports whether something holds of all texts.
func all(texts []string, holds func(text string) bool) bool {
	return !slices.ContainsFunc(texts, func(text string) bool { return !holds(text) })
}

// across is which place stands across in a table, where a field has the things: the region, or else the branch, if the names of files,
// sheets and titles do not say it; "" where neither is lacking.
func (e *entry) across(s *sheet) class {
	has := map[class]bool{}
	for _, i := range s.labels() {
		has[classOf(s.Fields[i].Header)] = true
	}
	if !has[product] {
		return noClass
	}
	said := e.labelPieces()
	for _, c := range []class{region, branch} {
		if !has[c] {
			if said == 0 {
				return c
			}
			said--
		}
	}
	return noClass
}

// itemName is what wide headers are called: product where a book knows most of them.
func (d *drafter) itemName(s *sheet) string {
	for _, b := range d.books {
		known := 0
		for _, i := range s.wide {
			if slices.ContainsFunc(strings.Split(s.Fields[i].Header, " | "), func(part string) bool {
				_, _, ok := b.Find(part)
				return ok
			}) {
				known++
			}
		}
		if 2*known > len(s.wide) {
			return "product"
		}
	}
	return "item"
}

// addPieces adds what paths, sheets, titles and sections say that no field of the entry does.
func (p *proposal) addPieces(e *entry) {
	has := map[class]bool{}
	for _, i := range e.sheets[0].labels() {
		has[classOf(e.sheets[0].Fields[i].Header)] = true
	}
	for i, piece := range e.pieces {
		switch c := classOf(piece.before); {
		case len(piece.values) == 0, e.saidBefore(i):
		case piece.time != noClass:
			if !has[month] && !has[day] && e.sheets[0].wideTime() == noClass {
				p.add(piece.time, string(piece.time))
			}
		case piece.from == "titles" && c != noClass && !has[c]:
			name, _, _ := strings.Cut(piece.before, ":")
			p.add(c, strings.TrimSpace(name))
			has[c] = true
		case piece.digits && monthNumbers(piece.values):
			if !has[month] && !has[day] && e.saysYear() && e.sheets[0].wideTime() == noClass {
				p.add(month, string(month))
			}
		case slices.ContainsFunc(piece.values, saysNothing):
		case bareTimes(piece.values) != noClass:
			if t := bareTimes(piece.values); !has[t] && e.saysYear() {
				p.add(t, string(t))
			}
		case !has[region]:
			p.add(region, "region")
			has[region] = true
		case !has[product] && piece.varies() && (len(e.sheets[0].wide) == 0 || e.sheets[0].wideTime() != noClass):
			p.add(product, "item")
			has[product] = true
		case has[product] && !has[branch] && piece.varies():
			p.add(branch, "branch")
			has[branch] = true
		}
	}
	if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.sections }) {
		switch {
		case !has[branch] && !p.entries[branch][e]:
			p.add(branch, "branch")
		case !has[product] && !p.entries[product][e] && (len(e.sheets[0].wide) == 0 || e.sheets[0].wideTime() != noClass):
			p.add(product, "item")
		case !has[region]:
			p.add(region, "region")
		}
	}
}

// saidBefore reports whether a piece says of each table what one before it says.
func (e *entry) saidBefore(i int) bool {
	own := &e.pieces[i]
	return own.varies() && slices.ContainsFunc(e.pieces[:i], func(p piece) bool { return slices.EqualFunc(p.values, own.values, key.Same) })
}

// commonest is the text that stands most often by its key, in the spelling seen first.
func commonest(list []string) string {
	count, best := map[string]int{}, ""
	for _, t := range list {
		k := key.Of(t)
		if count[k]++; best == "" || count[k] > count[key.Of(best)] {
			best = t
		}
	}
	return best
}

// snake is a header as the name of a column: small letters and digits, with low lines; "" where it has
// none. A word that the plan's notation reads as no text gets one more.
func snake(header string) string {
	words := strings.FieldsFunc(key.Of(once(header)), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r)
	})
	name := strings.Join(words, "_")
	if name != "" && layout.Flow(name) != name {
		name += "_"
	}
	return name
}
