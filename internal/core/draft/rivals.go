package draft

import (
	"fmt"
	"iter"
	"maps"
	"math/bits"
	"path"
	"slices"
	"strings"
	"unicode"

	"umbau/internal/core/expression"
	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// Tables that are called as others are, but for words that say which figures they have: Lakes 2024, and Lakes cost 2024.

// nameWords are the words of the names of a table, its file, its folders and its sheet, that say more than that it is a table of
// sales, and of when.
func (s *sheet) nameWords() terms.Words {
	names := s.allNames()
	out := wordsOf(names...)
	for _, name := range names {
		for _, m := range numbered().FindAllString(name, -1) {
			out[strings.Trim(key.Of(m), "- ")] = true
		}
	}
	return out
}

// numbered is which version a name says a file is of.
var numbered = expression.Of(`(?i)\b(v|ver|version|rev|revision|fassung)[ .-]?\d{1,2}\b`)

// allNames are the names of a table, and of all folders around its file.
func (s *sheet) allNames() []string {
	names := []string{path.Dir(s.file), s.nameOf(), s.Place.Sheet}
	if s.member != "" {
		names = append(names, strings.TrimSuffix(path.Base(s.file), path.Ext(s.file)), path.Dir(s.member))
	}
	return names
}

// titleWords are those of the lines above a table.
func (s *sheet) titleWords() terms.Words {
	return wordsOf(slices.DeleteFunc(s.otherTitles(), terms.SaysMaking)...)
}

func wordsOf(texts ...string) terms.Words {
	out := terms.Words{}
	for _, text := range texts {
		for _, w := range strings.Fields(key.Of(parted(text))) {
			w = strings.Trim(w, "0123456789.,")
			if t, _ := terms.TimeOf(w); t == terms.None && len(w) > 1 && (!terms.SaysNothing(w) || terms.NoSales[w]) {
				out[w] = true
			}
		}
	}
	return out
}

// parted is a name with its words apart: LakesCost2024, lakes/cost.
func parted(name string) string {
	var out strings.Builder
	before := ' '
	for _, r := range name {
		if (unicode.IsUpper(r) || unicode.IsDigit(r)) && unicode.IsLower(before) || r == '/' || r == '.' {
			out.WriteByte(' ')
		}
		out.WriteRune(r)
		before = r
	}
	return out.String()
}

// beyond are the words that others have not, in order.
func beyond(words, others terms.Words) (out []string) {
	for w := range words {
		if !others[w] {
			out = append(out, w)
		}
	}
	slices.Sort(out)
	return out
}

// sharesLabels reports whether another table shares the rows of a table and, where one of them says no times, the figures in its name.
func (s *sheet) sharesLabels(o *sheet) bool {
	alike, timed := s.sharesRows(o)
	return alike && (timed || slices.Equal(s.nameTimes(), o.nameTimes()))
}

// sharesRows reports whether another table has a measure of a table and half its labels, at least, below the same headers, and one of
// its times; timed is false where one of them says none.
func (s *sheet) sharesRows(o *sheet) (alike, timed bool) {
	measure := func(i int) bool { return s.numeric(i) && !s.yearLike(i) && o.counterpart(&s.Fields[i]) != nil }
	if (len(s.wide) == 0 || len(o.wide) == 0) && !slices.ContainsFunc(s.labels(), measure) {
		return false, false
	}
	for _, i := range s.labels() {
		f := &s.Fields[i]
		g := o.counterpart(f)
		if f.Is != "text" || terms.Of(f.Header) == terms.Aside || g == nil {
			continue
		}
		own := s.labelsOf(f)
		if 2*shared(own, o.labelsOf(g)) < len(own) {
			return false, false
		}
		alike = true
	}
	times, others := s.times(), o.times()
	if len(times) == 0 || len(others) == 0 {
		return alike, false
	}
	return alike && shared(times, others) > 0, true
}

// shared is how many of some texts are among others.
func shared(texts, others []string) (n int) {
	in := map[string]bool{}
	for _, t := range others {
		in[t] = true
	}
	for _, t := range texts {
		if in[t] {
			n++
		}
	}
	return n
}

// times are the months of a table, and times across.
func (s *sheet) times() (out []string) {
	for _, i := range s.labels() {
		if f := &s.Fields[i]; f.Is == "date" || f.Is == "month" {
			out = append(out, s.labelsOf(f)...)
		}
	}
	for _, i := range s.wide {
		if t, _ := terms.TimeOf(s.Fields[i].Header); t != terms.None {
			out = append(out, key.Of(s.Fields[i].Header))
		}
	}
	return out
}

// counterpart is the field of a table that has the header of one of another table, or says the same of what stands below; nil for none.
func (s *sheet) counterpart(f *survey.Field) *survey.Field {
	for _, i := range s.labels() {
		g := &s.Fields[i]
		number := (f.Is == "number" || f.Is == "whole") && (g.Is == "number" || g.Is == "whole")
		if c := terms.Of(f.Header); (g.Is == f.Is || number) && (key.Same(f.Header, g.Header) || c != terms.None && c == terms.Of(g.Header)) {
			return g
		}
	}
	return nil
}

// nameTimes are the figures, single letters and months in the names of a table.
func (s *sheet) nameTimes() []string {
	if s.inNames == nil {
		s.inNames = s.findTimes()
	}
	return s.inNames
}

func (s *sheet) findTimes() []string {
	out := []string{}
	for _, name := range s.allNames() {
		if name == s.Place.Sheet && terms.BareSheet(name) {
			continue
		}
		for _, w := range strings.Fields(key.Of(parted(numbered().ReplaceAllString(name, " ")))) {
			if t, _ := terms.TimeOf(w); t != terms.None || len(w) == 1 && w != "." || strings.ContainsAny(w, "0123456789") {
				out = append(out, w)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// namedTables are tables by the words that they are called by, those aside that all of them have.
type namedTables struct {
	words map[*sheet][]string
	of    map[string][]*sheet // by these words

	beside map[string][]string // by words: the one that some have beside them
	with   map[string][]string // by a word: those that some have beside it
}

func nameTables(all []*sheet, wordsOf func(*sheet) terms.Words) namedTables {
	n := namedTables{map[*sheet][]string{}, map[string][]*sheet{}, map[string][]string{}, map[string][]string{}}
	count := map[string]int{}
	for _, s := range all {
		for w := range wordsOf(s) {
			n.words[s] = append(n.words[s], w)
			count[w]++
		}
	}
	for _, s := range all {
		own := slices.DeleteFunc(n.words[s], func(w string) bool { return count[w] == len(all) })
		slices.Sort(own)
		n.words[s] = own
		joined := strings.Join(own, " ")
		if n.of[joined] = append(n.of[joined], s); len(n.of[joined]) > 1 {
			continue
		}
		for _, w := range own {
			rest := without(own, w)
			n.beside[rest], n.with[w] = append(n.beside[rest], w), append(n.with[w], rest)
		}
	}
	return n
}

// noSales reports whether the name of a table says that it has no sales, beside the words of another table, or none.
func (n namedTables) noSales(s *sheet) bool {
	rest := slices.DeleteFunc(slices.Clone(n.words[s]), func(w string) bool { return terms.NoSales[w] })
	return len(rest) < len(n.words[s]) && (len(rest) == 0 || len(n.of[strings.Join(rest, " ")]) > 0)
}

const (
	mostWords   = 10 // of a name that are looked at
	mostBesides = 3  // words that a name has besides those of another
	mostRivals  = 24 // tables of one name that are looked at
)

// besides goes through the tables that are called as another one is, without some of its words, and these.
func (n namedTables) besides(s *sheet) iter.Seq2[*sheet, []string] {
	return func(yield func(*sheet, []string) bool) {
		words := n.words[s]
		for mask := range 1 << min(len(words), mostWords) {
			if k := bits.OnesCount(uint(mask)); k == 0 || k > mostBesides {
				continue
			}
			var rest, more []string
			for i, w := range words {
				if mask>>i&1 > 0 {
					more = append(more, w)
				} else {
					rest = append(rest, w)
				}
			}
			list := n.of[strings.Join(rest, " ")]
			for _, o := range foremost(list) {
				if !yield(o, more) {
					return
				}
			}
		}
	}
}

// calls is what tables are called, by their names and titles.
type calls struct {
	all           []*sheet
	called        map[string]*sheet // by calledIn
	names, titles namedTables
	step          map[*sheet]int  // of a sale
	against       map[*sheet]bool // what was sold
}

// askRivals asks about tables that are called as others are, but for words that no column takes, and have their labels.
func (d *drafter) askRivals() {
	all := d.extracts()
	c := calls{all, calledTables(all), nameTables(all, (*sheet).nameWords), nameTables(all, (*sheet).titleWords), map[*sheet]int{},
		map[*sheet]bool{}}
	for _, s := range all {
		c.step[s] = terms.StepOfSale(strings.Join(append(s.names(), s.otherTitles()...), " "))
		c.against[s] = s.against()
	}
	for _, e := range d.entries {
		for i, s := range e.sheets {
			if text := e.rivalOf(i, &c); text != "" {
				e.await(s.Place.Source() + text)
				break
			}
		}
	}
}

// await asks about an entry, and stops the build until somebody has looked at it.
func (e *entry) await(text string) {
	if e.waits = true; !slices.Contains(e.open, text) {
		e.open = append(e.open, text)
	}
}

// rivalOf says which table a table of an entry may count with twice, "" for none.
func (e *entry) rivalOf(i int, c *calls) string {
	s, names, titles := e.sheets[i], &c.names, &c.titles
	if c.against[s] {
		return "" // which is asked, or well
	}
	for o, more := range names.besides(s) {
		timed := len(o.nameTimes()) > 0 && slices.Equal(s.nameTimes(), o.nameTimes())
		said := len(more) < len(names.words[s]) || timed || len(wordsOf(o.nameOf(), o.Place.Sheet)) > 0 ||
			slices.ContainsFunc(o.names(), terms.SaysSold) // what both are
		if said && !e.takes(i, more) && !filenames.OfPlace(more) && s.sharesLabels(o) {
			return fmt.Sprintf(" has the labels of %s, and its name with %s besides: %s", o.Place.Source(), joined(more), rivals)
		}
	}
	if o := s.versionOf(c.called); o != nil && s.calledApart(o) {
		return fmt.Sprintf(" has the labels of %s, and may be a version of it, by its name: %s", o.Place.Source(), rivals)
	}
	alike := names.of[strings.Join(names.words[s], " ")]
	for _, o := range foremost(alike) {
		switch {
		case o == s || !slices.Equal(titles.words[s], titles.words[o]):
		case slices.Equal(s.nameTimes(), o.nameTimes()) && s.calledApart(o) && s.sharesLabels(o):
			return fmt.Sprintf(" has the labels of %s, and its name but for words that say nothing of it: %s", o.Place.Source(), rivals)
		case !c.against[o] && c.step[s] != c.step[o] && s.sharesLabels(o):
			return fmt.Sprintf(" has the labels of %s, and its name or title says another step of a sale: %s", o.Place.Source(), rivals)
		}
	}
	for o, more := range titles.besides(s) {
		said := len(more) < len(titles.words[s]) || slices.ContainsFunc(o.otherTitles(), terms.SaysSold)
		if said && slices.Equal(names.words[s], names.words[o]) && !e.takes(i, more) && !filenames.OfPlace(more) && s.sharesLabels(o) {
			return fmt.Sprintf(" has the labels of %s, and its title with %s besides: %s", o.Place.Source(), joined(more), rivals)
		}
	}
	if text := e.crossed(i, names); text != "" {
		return text
	}
	if s.ofLastYear() {
		for _, o := range foremost(c.all) {
			if alike, _ := s.sharesRows(o); alike && !o.ofLastYear() {
				return fmt.Sprintf(" is of the year before, by its name, and has the labels of %s: %s", o.Place.Source(), rivals)
			}
		}
	}
	if text := s.noSums(alike); text != "" {
		return text
	}
	for _, name := range s.names() {
		list := slices.DeleteFunc(strings.Fields(key.Of(name)), func(w string) bool { return !slices.Contains(names.words[s], w) })
		if n := len(list); n > 1 && terms.NoSales[list[n-1]] && !e.takes(i, list[n-1:]) {
			return " may have no sales, by its name, and a build stops: except leaves it aside, and if it has, say in the entry where it is from"
		}
	}
	return ""
}

// ofLastYear reports whether the file or the sheet of a table is called so.
func (s *sheet) ofLastYear() bool {
	return terms.OfYear(parted(s.nameOf())) == "last" || terms.OfYear(parted(s.Place.Sheet)) == "last"
}

// calledApart reports whether columns take different labels from the names of two tables.
func (s *sheet) calledApart(o *sheet) bool {
	said := func(s *sheet) map[*column]string {
		out := map[*column]string{}
		i := slices.Index(s.entry.sheets, s)
		for _, p := range s.entry.pieces {
			if p.column != nil && !p.column.helper && p.Time == terms.None && p.from != "titles" && i < len(p.Values) {
				out[p.column] = key.Of(p.Values[i])
			}
		}
		return out
	}
	return !maps.Equal(said(s), said(o))
}

// noSums says why the figures of a table cannot be added up, by its names or titles, to those of tables called alike; "" if they can.
func (s *sheet) noSums(alike []*sheet) string {
	says := append(s.names(), s.otherTitles()...)
	if slices.ContainsFunc(says, terms.SaysAverage) {
		return " has averages, by its name or title: added up they are no amount, and a build stops; except leaves it aside"
	}
	other := func(o *sheet) bool {
		return o != s && !slices.Equal(o.nameTimes(), s.nameTimes()) && len(o.times()) == 0
	}
	if !slices.ContainsFunc(says, terms.SaysSoFar) || len(s.times()) > 0 || !slices.ContainsFunc(foremost(alike), other) {
		return ""
	}
	return " has sums of all months so far, by its name or title: added up to those of other months they count several times, and a build " +
		"stops; except leaves all but the last month aside"
}

// rivals is what is said of tables that may not be added up.
const rivals = "are both sales, and none of them twice? A build stops; except leaves one aside"

// crossed says which table is called as a table of an entry, but for one word, where others are called so too, with these two words:
// Lakes trade, Lakes retail, Skerries trade, Skerries retail; "" for none.
func (e *entry) crossed(i int, names *namedTables) string {
	s := e.sheets[i]
	for _, word := range names.words[s] {
		rest := without(names.words[s], word)
		alone := func(p piece) bool {
			return p.column != nil && i < len(p.Values) && slices.Equal(beyond(wordsOf(p.Values[i]), nil), []string{word})
		}
		if rest == "" || filenames.OfPlace([]string{word}) || slices.ContainsFunc(e.pieces, alone) {
			continue
		}
		for _, other := range foremost(names.beside[rest]) {
			again := func(r string) bool { return r != rest && slices.Contains(names.beside[r], other) }
			if other == word || ofMonth(word) && ofMonth(other) || !slices.ContainsFunc(foremost(names.with[word]), again) ||
				filenames.OfPlace([]string{other}) {
				continue
			}
			list := strings.Fields(rest + " " + other)
			slices.Sort(list)
			for _, o := range foremost(names.of[strings.Join(list, " ")]) {
				if s.sharesLabels(o) {
					return fmt.Sprintf(" has the labels of %s, and its name with %s for %s: %s", o.Place.Source(), word, other, rivals)
				}
			}
		}
	}
	return ""
}

// foremost are the first of some that are looked at.
func foremost[T any](list []T) []T { return list[:min(len(list), mostRivals)] }

// without are words without one of them.
func without(words []string, word string) string {
	return strings.Join(slices.DeleteFunc(slices.Clone(words), func(w string) bool { return w == word }), " ")
}

// takes reports whether a column takes some words from the names or titles of a table: one of things or branches if none of the words says
// of figures that they are no sales, or that a file is a version of another, or one of these or of places where another takes what stands
// beside them.
func (e *entry) takes(i int, words []string) bool {
	has := func(p piece, in bool) bool { // words of these, or others
		return p.column != nil && i < len(p.Values) && slices.ContainsFunc(beyond(wordsOf(p.Values[i]), nil), func(w string) bool {
			return slices.Contains(words, w) == in
		})
	}
	beside := slices.ContainsFunc(e.pieces, func(p piece) bool { return has(p, false) && !has(p, true) })
	said := slices.ContainsFunc(words, func(w string) bool { return terms.OfNoSales(w) || terms.OfVersion(w) })
	return slices.ContainsFunc(e.pieces, func(p piece) bool {
		place := p.column != nil && (p.column.class == terms.Region || said)
		return has(p, true) && (!place || beside && !has(p, false))
	})
}
