package terms

import (
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/key"
)

// Saying is a sense in which figures of one name differ that cannot be added up.
type Saying struct {
	Name  string                   // of the sense
	Of    func(text string) string // which of them a text says, "" or the usual one for none
	Lines func(line string) bool   // the lines above a table that say it of all figures below them
	Names func(name string) bool   // the names of files and sheets that do so; nil for none
}

// The senses of figures that lines and names say of whole tables.
var (
	OfTax   = Saying{"tax", Tax, SaysTax, SaysNet}
	OfMoney = Saying{"money", Money, SaysMoney, SaysMoney}
	OfYears = Saying{"year", OfYear, SaysYear, SaysYear}
	OfUnit  = Saying{"unit", Unit, SaysUnit, nil}
	OfScale = Saying{"scale", Scale, SaysScale, SaysThousands}
)

// Said is what a line above a table, or a name, says of all its figures.
type Said struct {
	What string // the sense, and which: scale thousands, money EUR
	Text string // the line or the name
}

// SaidOfAll is what lines above a table, or the names of its file and sheet, say of all its figures, each once.
func SaidOfAll(lines, names []string) (out []Said) {
	add := func(s *Saying, text string) {
		what := s.Name + " " + s.Of(text)
		if !slices.ContainsFunc(out, func(o Said) bool { return o.What == what }) {
			out = append(out, Said{what, text})
		}
	}
	lines, names = slices.DeleteFunc(slices.Clone(lines), saysNothing), slices.DeleteFunc(slices.Clone(names), saysNothing)
	if len(lines)+len(names) == 0 {
		return nil
	}
	for _, s := range []*Saying{&OfTax, &OfMoney, &OfYears, &OfUnit, &OfScale} {
		for _, line := range lines {
			if s.Lines(line) {
				add(s, line)
			}
		}
		for _, name := range names {
			if s.Names != nil && s.Names(name) {
				add(s, name)
			}
		}
	}
	return out
}

// saysNothing is true of most texts that say nothing of figures, without asking of each sense.
func saysNothing(text string) bool {
	return !slices.ContainsFunc(strings.Fields(key.Of(text)), func(w string) bool { return sayings[w] }) && isoCode(text) == ""
}

// sayings are the words of which one at least is in each text that says something.
var sayings = func() Words {
	all := List("t 1000 1,000 1.000")
	for _, list := range append(append([]Words{net, gross, taxes, thousands, millions, cents}, monies...), units...) {
		maps.Copy(all, list)
	}
	for _, phrase := range append(slices.Clone(thisYear), lastYear...) {
		first, _, _ := strings.Cut(phrase, " ")
		all[first] = true
	}
	return all
}()
