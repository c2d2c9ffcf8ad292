package draft

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// contrary is what figures of one measure may mean that cannot be added up.
type contrary struct {
	terms.Saying
	class  terms.Class // of the measures; None for all
	silent string      // which is meant where nothing says it
	told   bool        // where some tables say it, and all of these the same, a person hears of it
}

var contraries = []contrary{
	{Saying: terms.OfTax, told: true},
	{Saying: terms.OfMoney, class: terms.Amount, told: true},
	{Saying: terms.Saying{Of: func(text string) string {
		return [...]string{"", "sold", "planned"}[1+terms.Sense(text, []terms.Words{terms.Sold, terms.Planned})]
	}}},
	{Saying: terms.OfYears},
	{Saying: terms.OfUnit, class: terms.Quantity, silent: terms.Pieces},
	{Saying: terms.OfScale, class: terms.Amount, silent: terms.Ones},
}

// unlike is in place of the headers of which each may be a measure, where it is none of them: titles say that it is other money.
var unlike = []string{}

// said is what a table says of a measure, and in which words: those of its header, or else of a line, which is a title or a name.
func (c *contrary) said(header string, titles, names []string) (which, words string) {
	if which = c.Of(header); which != "" && which != c.silent {
		return which, header
	}
	for _, line := range titles {
		if c.Lines != nil && c.Lines(line) {
			return c.Of(line), line
		}
	}
	for _, name := range names {
		if c.Names != nil && c.Names(name) {
			return c.Of(name), name
		}
	}
	return cmp.Or(which, c.silent), header
}

// findContraries finds measures that one table has net and another gross, in other money, or by the thousand: each
// table that says which is a question, and stops the build where its measure is found already.
func (d *drafter) findContraries() {
	for _, c := range d.columns {
		for i := range contraries {
			if of := contraries[i].class; c.class.OfMeasure() && (of == terms.None || of == c.class) {
				d.findContrary(c, &contraries[i])
			}
		}
	}
}

func (d *drafter) findContrary(c *column, of *contrary) {
	var headers, words []string
	said, entries, titled := map[string]bool{}, map[*entry]bool{}, false
	unsaid, where := 0, ""
	d.eachMeasure(c, func(e *entry, s *sheet, header string) {
		var names []string
		if of.class != terms.Amount || !d.asksCurrency() { // else that column says which money it is
			names = s.names()
		}
		which, in := of.said(header, s.above(), names)
		if which == "" {
			unsaid++
			return
		}
		where = cmp.Or(where, s.Place.String())
		said[which], entries[e] = true, true
		if header != "" && !slices.Contains(headers, header) {
			headers = append(headers, header)
		}
		if titled = titled || in != header; in != "" && !slices.Contains(words, in) {
			words = append(words, in)
		}
	})
	if len(said) == 1 && unsaid > 0 && of.told {
		c.some = fmt.Sprintf("%q in %s; of %s nothing says so", words[0], where, counted(unsaid, "table"))
	}
	if which := sortedKeys(said); len(said) == 1 && of.silent != "" && which[0] != of.silent && of.Of(c.name) == of.silent {
		c.some = fmt.Sprintf("in %s (%q), and delivered as they stand", which[0], words[0])
	}
	if len(said) < 2 {
		return
	}
	for e := range entries {
		why := fmt.Sprintf("%s: its %s cannot be added up to that of others (%s): it needs a plan of its own, or a delivery like the others",
			e.globs[0], c.name, strings.Join(words, "; "))
		switch {
		case c.tossUps[e] != nil && !titled, slices.Contains(e.open, why): // which is asked
		case c.used[e]:
			e.await(why)
		case titled:
			c.tossUps[e] = unlike
			e.open = append(e.open, why)
		default:
			c.tossUps[e] = headers
		}
	}
}

// asksCurrency reports whether a column of currencies is asked for.
func (d *drafter) asksCurrency() bool {
	return slices.ContainsFunc(d.Columns, terms.SaysCurrency)
}

// eachMeasure calls a function for each table that has a measure, with its header; "" where its figures stand across, and no header says
// which they are.
func (d *drafter) eachMeasure(c *column, call func(e *entry, s *sheet, header string)) {
	for _, e := range d.entries {
		for _, s := range e.sheets {
			switch {
			case len(s.wide) == 0:
			case e.unpivot != nil && e.unpivot.named != nil:
				for _, measure := range e.unpivot.measuresOf(c, s) {
					call(e, s, measure+s.unitOf(measure))
				}
			case c.class == terms.Amount:
				call(e, s, "")
			}
			if s.kind >= 0 {
				for _, value := range s.Fields[s.kind].Values {
					if d.columnFor(value) == c {
						call(e, s, value)
					}
				}
			}
			for _, i := range s.labels() {
				f := &s.Fields[i]
				if len(s.wide) > 0 && notSold(f.Header) { // is left aside beside what stands across
					continue
				}
				if d.columnFor(f.Header) == c && (c.best[s] == "" || c.best[s] == key.Of(f.Header)) && c.fits(s, i) {
					call(e, s, strings.TrimSpace(f.Header))
				}
			}
		}
	}
}
