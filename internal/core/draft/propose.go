package draft

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// proposal is what the extracts have, by class and as it is called there.
type proposal struct {
	byClass map[terms.Class][]string
	others  []string
	entries map[terms.Class]map[*entry]bool // by class, those that have it
	entry   *entry                          // at hand
	texts   []string                        // before products: weeks, periods, what a title says that stands across, times that are none
}

func (p *proposal) add(c terms.Class, name string) {
	p.byClass[c] = append(p.byClass[c], name)
	if p.entries[c] == nil {
		p.entries[c] = map[*entry]bool{}
	}
	p.entries[c][p.entry] = true
}

// addText adds a column of texts that has no class.
func (p *proposal) addText(name string) {
	if name != "" && !slices.Contains(p.texts, name) {
		p.texts = append(p.texts, name)
	}
}

// proposeColumns names the columns of the finished table by what the extracts have. Further ones are those that
// some extracts may lack.
func (d *drafter) proposeColumns() (out, further []string) {
	p := &proposal{byClass: map[terms.Class][]string{}, entries: map[terms.Class]map[*entry]bool{}}
	for _, e := range d.entries {
		p.entry = e
		for _, s := range e.sheets {
			p.addFields(s)
			d.addWide(p, s)
		}
		p.addPieces(e)
	}
	p.oneTime(len(d.entries))
	for i, c := range []terms.Class{terms.Region, terms.Year, terms.Branch, terms.Day, terms.Month, terms.Quarter, terms.Product,
		terms.Quantity, terms.Amount} {
		list := p.byClass[c]
		if c == terms.Product {
			out = append(out, slices.DeleteFunc(p.texts, func(name string) bool { return slices.Contains(out, name) })...)
		}
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
	days, months := len(p.entries[terms.Day]), len(p.entries[terms.Month])
	switch {
	case months > 0 && days > 0 && days < entries:
		delete(p.byClass, terms.Day)
	case days == entries && months < entries:
		delete(p.byClass, terms.Month)
	}
	if days+months > 0 || len(p.entries[terms.Quarter]) == entries {
		delete(p.byClass, terms.Year)
	}
}

// addFields adds the fields of a table that are not wide.
func (p *proposal) addFields(s *sheet) {
	seen, named := map[terms.Class]bool{}, map[terms.Class]bool{}
	for _, i := range s.labels() {
		if h := s.Fields[i].Header; !terms.SaysCode(key.Of(h)) {
			named[terms.Of(h)] = true
		}
	}
	for _, i := range s.labels() {
		f := &s.Fields[i]
		c := s.classOf(f.Header)
		if len(s.wide) > 0 && slices.Contains(s.SumColumns, f.Header) { // is left aside
			continue
		}
		if f.Unnamed && !slices.ContainsFunc(f.Values, saysNoRule) { // is nothing, or lines of dashes
			continue
		}
		switch {
		case terms.SaysPeriod(f.Header) && f.Is == "quarter":
			c = terms.Quarter
		case terms.SaysPeriod(f.Header) && s.yearLike(i):
			c = terms.Year
		}
		if c.OfTime() && !p.entry.timely(s, i) {
			p.addText(snake(f.Header))
			continue
		}
		again := c.OfMeasure() && seen[c] || named[c] && terms.SaysCode(key.Of(f.Header)) // net beside gross, codes beside names: both are wanted
		seen[c] = true
		switch {
		case again, c == terms.Price:
			p.others = append(p.others, f.Header)
		case i == s.kind:
			for _, v := range soldKinds(f.Values) {
				p.add(terms.Of(v), v)
			}
		case s.kind >= 0 && s.numeric(i) && !s.yearLike(i), c == terms.Aside, s.numbersRows(i), s.saysMeasure(i),
			s.addsTimes(i), len(s.wide) > 0 && s.numeric(i) && terms.SaysBeside(f.Header):
		case c == terms.Day && monthsAlone(f.Values):
			p.add(terms.Month, "month")
		case c != terms.None:
			p.add(c, f.Header)
		case f.Is == "date":
			p.add(terms.Day, f.Header)
		case f.Is == "month":
			p.add(terms.Month, f.Header)
		default:
			p.others = append(p.others, f.Header)
		}
	}
}

// addsTimes reports whether a field of figures has a time for its header, as those across have: it adds some of them up.
func (s *sheet) addsTimes(i int) bool {
	t, _ := terms.TimeOf(s.Fields[i].Header)
	return t != terms.None && s.numeric(i) && s.wideTime() != terms.None
}

// numbersRows reports whether a field has the number of each row; the first one may lack a header, and is called A.
func (s *sheet) numbersRows(i int) bool {
	f := &s.Fields[i]
	numbers := terms.Counts(f.Header) || i == 0 && f.Header == "A"
	return numbers && f.Is == "whole" && f.Distinct > 1 && f.EachOnce(f.Filled) && !terms.Of(f.Header).OfTime()
}

// monthsAlone reports whether most texts are months, and none is a day.
func monthsAlone(texts []string) bool {
	n := 0
	for _, t := range texts {
		switch c, _ := terms.TimeOf(t); c {
		case terms.Day:
			return false
		case terms.Month:
			n++
		}
	}
	return 2*n > len(texts)
}

// firstDays reports whether dates are the first days of several months, as sheets store months.
func firstDays(texts []string) bool {
	for i, t := range texts {
		d, ok := value.ReadDate(t)
		if before, _ := value.ReadDate(texts[max(0, i-1)]); !ok || d.Day != 1 || i > 0 && d == before {
			return false
		}
	}
	return len(texts) > 1
}

// addWide adds what wide headers and their cells are.
func (d *drafter) addWide(p *proposal, s *sheet) {
	if len(s.wide) == 0 {
		return
	}
	named := false
	rows := s.parts()
	units := func(k int) bool { // and not Units above one thing, Sales above another
		return len(rows) > 1 && k < len(rows) && all(rows[k], value.IsUnit) && !s.unitsTell(k)
	}
	var things []string // beside measures
	for _, i := range s.wide {
		parts := strings.Split(s.Fields[i].Header, " | ")
		if measure, _, thing, ok := terms.MeasureFirst(s.Fields[i].Header); ok && len(parts) == 1 {
			parts, things = []string{measure}, append(things, thing)
		} else if thing, _, measure, ok := terms.MeasureLast(s.Fields[i].Header); ok && len(parts) == 1 {
			parts, things = []string{measure}, append(things, thing)
		}
		for k, part := range parts {
			if c := terms.Of(part); c.OfMeasure() && !units(k) {
				p.add(c, part)
				named = true
			}
		}
	}
	if parts := s.parts(); len(parts) > 2 || len(parts) > 1 && (!named || s.yearsAcross()) {
		d.addParts(p, s, parts)
	} else if t := s.wideTime(); t == terms.Day && firstDays(s.headersAcross()) {
		p.add(terms.Month, string(terms.Month))
	} else if t != terms.None {
		p.add(t, string(t))
	} else if t, _ := terms.TimesOf(things); t != terms.None && len(things) == len(s.wide) {
		p.add(t, string(t))
	} else if t := terms.BareTimes(things); t != terms.None && len(things) == len(s.wide) {
		p.add(t, string(t))
	} else if t := terms.BareTimes(s.wideTimes()); t != terms.None {
		p.add(t, string(t))
	} else if span := s.spanAcross(s.wideTimes()); span != "" {
		p.addText(span)
	} else if title := s.acrossTitle(); terms.Of(title) != terms.None {
		p.add(terms.Of(title), title)
	} else if title != "" {
		p.addText(snake(title))
	} else if c := p.entry.across(s); c != terms.None {
		p.add(c, string(c))
	} else {
		p.add(terms.Product, d.itemName(s))
	}
	if !named && s.kind < 0 {
		which := terms.Amount
		if s.figuresAre == terms.Quantity {
			which = terms.Quantity
		}
		p.add(which, string(which))
	}
}

// addParts adds what the parts of wide headers are, but for those that name measures or units.
func (d *drafter) addParts(p *proposal, s *sheet, parts [][]string) {
	var things [][]string
	for k, r := range rowsSay(parts) {
		switch {
		case r.Class == terms.Year && s.yearsAcross(), r.Class == terms.Aside, r.Class == terms.Amount:
		case r.Class != terms.None:
			p.add(r.Class, string(r.Class))
		case s.spanAcross(parts[k]) != "":
			p.addText(s.spanAcross(parts[k]))
		default:
			things = append(things, parts[k])
		}
	}
	across := p.entry.across(s)
	switch {
	case len(things) == 0:
	case len(things) > 1 && across == terms.Region && nested(things[0], things[1]):
		p.add(terms.Region, string(terms.Region))
		p.add(terms.Branch, string(terms.Branch))
	case len(things) == 1 && across != terms.None:
		p.add(across, string(across))
	default:
		if p.add(terms.Product, d.itemName(s)); len(things) > 1 {
			p.add(terms.Branch, "branch")
		}
	}
}

// all reports whether something holds of all texts.
func all(texts []string, holds func(text string) bool) bool {
	return !slices.ContainsFunc(texts, func(text string) bool { return !holds(text) })
}

// across is which place stands across in a table, where a field has the things: the region, or else the branch, if the names of files,
// sheets and titles do not say it; "" where neither is lacking.
func (e *entry) across(s *sheet) terms.Class {
	has := map[terms.Class]bool{}
	for _, i := range s.labels() {
		has[terms.Of(s.Fields[i].Header)] = true
	}
	if !has[terms.Product] {
		return terms.None
	}
	said := e.labelPieces()
	for _, c := range []terms.Class{terms.Region, terms.Branch} {
		if !has[c] {
			if said == 0 {
				return c
			}
			said--
		}
	}
	return terms.None
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
	has := map[terms.Class]bool{}
	for _, i := range e.sheets[0].labels() {
		has[terms.Of(e.sheets[0].Fields[i].Header)] = true
	}
	for i, piece := range e.pieces {
		switch c := terms.Of(piece.Before); {
		case len(piece.Values) == 0, e.saidBefore(i):
		case piece.Time != terms.None:
			if !has[terms.Month] && !has[terms.Day] && e.sheets[0].wideTime() == terms.None {
				p.add(piece.Time, string(piece.Time))
			}
		case piece.from == "titles" && !piece.bare && c != terms.None && !c.OfMeasure() && !has[c]:
			name, _, _ := strings.Cut(piece.Before, ":")
			words := strings.Fields(name)
			if n := len(words) - 1; n > 0 && (words[n] == "of" || terms.Genitive(words[n])) {
				words = words[:n]
			}
			p.add(c, strings.Join(words, " "))
			has[c] = true
		case piece.Digits && terms.MonthNumbers(piece.Values):
			if !has[terms.Month] && !has[terms.Day] && e.saysYear() && e.sheets[0].wideTime() == terms.None {
				p.add(terms.Month, string(terms.Month))
			}
		case slices.ContainsFunc(piece.Values, terms.SaysNothing), piece.Aside:
		case terms.BareTimes(piece.Values) != terms.None:
			if t := terms.BareTimes(piece.Values); !has[t] && e.saysYear() {
				p.add(t, string(t))
			}
		case !has[terms.Region]:
			p.add(terms.Region, "region")
			has[terms.Region] = true
		case !has[terms.Product] && piece.varies() && (len(e.sheets[0].wide) == 0 || e.sheets[0].wideTime() != terms.None):
			p.add(terms.Product, "item")
			has[terms.Product] = true
		case !has[terms.Branch] && piece.varies():
			p.add(terms.Branch, "branch")
			has[terms.Branch] = true
		}
	}
	if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.sections }) {
		switch {
		case !has[terms.Branch] && !p.entries[terms.Branch][e]:
			p.add(terms.Branch, "branch")
		case !has[terms.Product] && !p.entries[terms.Product][e] && (len(e.sheets[0].wide) == 0 || e.sheets[0].wideTime() != terms.None):
			p.add(terms.Product, "item")
		case !has[terms.Region]:
			p.add(terms.Region, "region")
		}
	}
}

// saidBefore reports whether a piece says of each table what one before it says.
func (e *entry) saidBefore(i int) bool {
	own := &e.pieces[i]
	return own.varies() && slices.ContainsFunc(e.pieces[:i], func(p piece) bool { return slices.EqualFunc(p.Values, own.Values, key.Same) })
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
	words := strings.FieldsFunc(key.Of(terms.Once(header)), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r)
	})
	name := strings.Join(words, "_")
	if name != "" && layout.Flow(name) != name {
		name += "_"
	}
	return name
}
