package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// contraries are words of which two in the headers of one measure mean figures that cannot be added up. Where the
// first ones are none, figures without such a word are meant.
var contraries = [][]terms.Words{
	{terms.List("net netto nets excl exkl ht"), terms.List("gross brutto brut bruto lordo incl inkl ttc")},
	{terms.List("eur euro euros €"), terms.List("usd dollar dollars $"), terms.List("gbp pounds £"), terms.List("chf franken")},
	{terms.Sold, terms.Planned},
	{terms.List("pcs pieces piece pc stk stück unit units unités unidades uds"),
		terms.List("box boxes karton kartons carton cartons caja cajas pack packs"), terms.List("kg kilo kilos"),
		terms.List("m metre metres meter meters"), terms.List("l litre litres liter")},
	{nil, terms.List("k keur teur kusd kgbp tsd thousand thousands tausend milliers 000 000s"),
		terms.List("mio mn million millions millionen")},
}

// ofTitles are those that titles say of all figures below them, too: money and its scale; money is in the names of sheets and files, too.
var ofTitles, ofNames = []int{1, 4}, 1

// unlike is in place of the headers of which each may be a measure, where it is none of them: titles say that it is other money.
var unlike = []string{}

// said is what a table says of a measure: which of some contraries, and in which words. It is in its header, or else in
// a line, which is a title or a name; -1 for nothing.
func (s *sheet) said(header string, of []terms.Words, lines []string) (k int, words string) {
	if k = terms.Sense(header, of); k < 0 {
		for _, line := range lines {
			if k = terms.Sense(line, of); k >= 0 {
				return k, line
			}
		}
	}
	if k < 0 && of[0] == nil {
		k = 0
	}
	return k, header
}

// findContraries finds measures that one table has net and another gross, or in other money: each
// table that says which is a question.
func (d *drafter) findContraries() {
	for _, c := range d.columns {
		if !c.class.OfMeasure() {
			continue
		}
		for n, of := range contraries {
			var headers, words []string
			senses, entries, titled := map[int]bool{}, map[*entry]bool{}, false
			d.eachMeasure(c, func(e *entry, s *sheet, header string) {
				var lines []string
				if c.class == terms.Amount && slices.Contains(ofTitles, n) {
					if lines = s.above(); n == ofNames && !d.asksCurrency() {
						lines = append(lines, s.names()...)
					}
				}
				k, in := s.said(header, of, lines)
				if k < 0 {
					return
				}
				senses[k], entries[e] = true, true
				if header != "" && !slices.Contains(headers, header) {
					headers = append(headers, header)
				}
				if titled = titled || in != header; in != "" && !slices.Contains(words, in) {
					words = append(words, in)
				}
			})
			for e := range entries {
				switch {
				case len(senses) < 2:
				case titled:
					c.tossUps[e] = unlike
					e.open = append(e.open, fmt.Sprintf("%s: its %s cannot be added up to that of others (%s): it needs a plan of its own, or %s",
						e.globs[0], c.name, strings.Join(words, "; "), "a delivery like the others"))
				case c.tossUps[e] == nil:
					c.tossUps[e] = headers
				}
			}
		}
	}
}

// asksCurrency reports whether a column of currencies is asked for.
func (d *drafter) asksCurrency() bool {
	words := terms.List("currency currencies money währung devise moneda divisa valuta")
	return slices.ContainsFunc(d.Columns, func(name string) bool { return words.In(name) })
}

// eachMeasure calls a function for each table that has a measure, with its header; "" where its figures stand across.
func (d *drafter) eachMeasure(c *column, call func(e *entry, s *sheet, header string)) {
	for _, e := range d.entries {
		for _, s := range e.sheets {
			if len(s.wide) > 0 && c.class == terms.Amount {
				call(e, s, "")
			}
			for _, i := range s.labels() {
				f := &s.Fields[i]
				if d.columnFor(f.Header) == c && (c.best[s] == "" || c.best[s] == key.Of(f.Header)) && c.fits(s, i) {
					call(e, s, strings.TrimSpace(f.Header))
				}
			}
		}
	}
}
