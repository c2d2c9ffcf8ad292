package draft

import (
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Months across are often numbers, with a word before them or without, or stand in brackets or behind their number. Draft
// takes such headers for the names of months, and writes patterns of what stands there.

// spelt is how the headers of a table that stand for months are written, where that is not by the name of the month.
type spelt struct {
	before, behind string         // patterns of what stands around the time
	numbered       bool           // months are numbers
	form           string         // the example of a form that only all of them together show
	headers        map[int]string // as they stand, by the field
}

// seemingTime is a header, or the part of one beside a measure, that may stand for a month.
type seemingTime struct {
	spelt
	field      int
	start, end int    // of the part, in the header
	name       string // of the month, or the month as 2024-07
	month      int    // its number, from the year 0 on where it has one
	word       bool   // a word says that it is one …
	letter     bool   // … but a letter alone, as it stands before sizes
}

var (
	monthWords    = `m|mth|mon|month|monat|mois|mes|mês|mese|maand`
	numberedMonth = regexp.MustCompile(`(?i)^((?:` + monthWords + `)[ ._-]?)?(0?[1-9]|1[0-2])$`)
	orderedMonth  = regexp.MustCompile(`^(0?[1-9]|1[0-2])(\. ?| ?- ?| |_)(\pL+)\.?$`)
	bracketed     = regexp.MustCompile(`^\[(.+)\]$`)
)

// seemsTime takes a text for a month, if it may stand for one and is not read as one as it stands.
func seemsTime(text string) (t seemingTime, ok bool) {
	if m := numberedMonth.FindStringSubmatch(text); m != nil {
		n, _ := strconv.Atoi(m[2])
		t.before, t.numbered, t.month, t.name, t.word = escaped(m[1]), true, n, monthNames[n-1], m[1] != ""
		t.letter = len(m[1]) == 1
		return t, true
	}
	if m := orderedMonth.FindStringSubmatch(text); m != nil {
		n, _ := strconv.Atoi(m[1])
		t.before, t.month, t.name, t.word = "*"+m[2], n, m[3], true
		return t, monthOf(m[3]) == n
	}
	if m := bracketed.FindStringSubmatch(text); m != nil {
		c, _ := terms.TimeOf(m[1])
		t.before, t.behind, t.name, t.word = `\[`, `\]`, m[1], true
		d, _ := dateOf(m[1])
		t.month = 12*d.Year + max(d.Month, monthOf(m[1]))
		return t, c == terms.Month || terms.BareTimes([]string{m[1]}) == terms.Month
	}
	for _, f := range value.DateForms {
		if d, ok := f.Read(text); ok && f.Brief() {
			t.form, t.month, t.name = f.Example, 12*d.Year+d.Month, d.String()
			return t, true
		}
	}
	return t, false
}

// monthNames are names of the months, as headers that say their numbers are read.
var monthNames = strings.Fields("January February March April May June July August September October November December")

// nameTimesAcross gives headers that stand for months their names, in all tables. Numbers alone are months where a month is
// asked for that no column and no name of a file says, and a table of the same folder has all twelve; of a letter before them nobody has
// to ask.
func (d *drafter) nameTimesAcross() {
	if len(d.Columns) > 0 && !asksMonths(d.Columns) {
		return
	}
	years := map[string]bool{} // folders in which a table has all months
	found := make([][]seemingTime, len(d.sheets))
	for n, s := range d.sheets {
		found[n] = s.seemingTimes()
		years[path.Dir(s.file)] = years[path.Dir(s.file)] || isRun(found[n], 12)
	}
	for n, s := range d.sheets {
		list := found[n]
		switch {
		case !isRun(list, 3):
		case list[0].word && !list[0].letter:
			s.spell(list)
		case len(d.Columns) == 0 && !list[0].letter || s.saysTimeOtherwise():
		case list[0].form != "", list[0].month == 1 && years[path.Dir(s.file)]:
			s.spell(list)
		}
	}
}

// seemingTimes are the headers of figures that may stand for months, all written alike; none where some are not.
func (s *sheet) seemingTimes() (out []seemingTime) {
	for i := range s.Fields {
		header := s.Fields[i].Header
		if slices.Contains(s.TotalColumns, header) || slices.Contains(s.SumColumns, header) || !s.numeric(i) && s.Fields[i].Filled > 0 {
			continue
		}
		start := strings.LastIndex(header, " | ") + len(" | ")
		if start < len(" | ") {
			start = 0
		}
		part := header[start:]
		thing := thingOf(part)
		at := strings.Index(part, thing)
		t, ok := seemsTime(thing)
		if !ok || at < 0 {
			continue
		}
		t.field, t.start, t.end = i, start+at, start+at+len(thing)
		if len(out) > 0 && t.spelling() != out[0].spelling() {
			return nil
		}
		out = append(out, t)
	}
	return out
}

// isRun reports whether some times are so many months at least, without a hole between them.
func isRun(list []seemingTime, least int) bool {
	months := map[int]bool{}
	for _, t := range list {
		months[t.month] = true
	}
	if len(months) < least {
		return false
	}
	first, last := list[0].month, list[0].month
	for m := range months {
		first, last = min(first, m), max(last, m)
	}
	return last-first == len(months)-1
}

// saysTimeOtherwise reports whether a column, a name around the table or a line above it says a month or a day.
func (s *sheet) saysTimeOtherwise() bool {
	for i := range s.Fields {
		c := terms.Of(s.Fields[i].Header)
		if f := &s.Fields[i]; f.Is == "date" || f.Is == "month" || (c == terms.Month || c == terms.Day) && !s.numeric(i) {
			return true
		}
	}
	lines := slices.DeleteFunc(s.titleLines(), terms.SaysMaking)
	return slices.ContainsFunc(append(s.allNames(), lines...), func(text string) bool {
		return slices.ContainsFunc(fullTime.FindAllString(text, -1), func(t string) bool { return len(t) > len("2024") }) ||
			slices.ContainsFunc(strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(" _-./,", r) }), func(w string) bool {
				return terms.BareTimes([]string{w}) == terms.Month
			})
	})
}

// spell gives the headers of some fields the names of the months that they stand for.
func (s *sheet) spell(list []seemingTime) {
	s.Fields = slices.Clone(s.Fields)
	own := list[0].spelt
	own.headers = map[int]string{}
	for _, t := range list {
		header := s.Fields[t.field].Header
		own.headers[t.field] = header
		s.Fields[t.field].Header = header[:t.start] + t.name + header[t.end:]
		s.Fields[t.field].Wide = s.Fields[t.field].Wide || t.start == 0
	}
	s.spelt = &own
}

// header is that of a field, as it stands in the file.
func (s *sheet) header(i int) string {
	if s.spelt != nil && s.spelt.headers[i] != "" {
		return s.spelt.headers[i]
	}
	return s.Fields[i].Header
}

// spelling is what tells different spellings apart.
func (s *spelt) spelling() string {
	if s == nil {
		return ""
	}
	return strings.ToLower(s.before+"\x00"+s.behind+"\x00"+s.form) + strconv.FormatBool(s.numbered)
}

// measured is where the name of a measure stands in headers of months or quarters across, and the sign beside it; "" where these have none.
func (s *sheet) measured() string {
	if len(s.wide) == 0 || s.rows > 1 {
		return ""
	}
	header := s.Fields[s.wide[0]].Header
	if thing := s.thingOf(header); !terms.IsMonth(thing) && !terms.IsQuarter(thing) {
		return ""
	}
	if !s.actuals && thingOf(header) == header {
		return ""
	}
	if _, sign, _, ok := terms.MeasureFirst(header); ok {
		return " behind a measure" + sign
	}
	if _, sign, _, ok := terms.MeasureLast(header); ok {
		return " before a measure" + sign
	}
	_, sign, _, first, _ := terms.MonthBeside(header)
	return " beside figures of some kind" + sign + strconv.FormatBool(first)
}

// passSpelling writes the pattern of wide headers as these stand in the files, or gives them back their own texts where they have no
// place in the finished table.
func (d *drafter) passSpelling(e *entry) {
	own, u := e.sheets[0].spelt, e.unpivot
	if own == nil {
		return
	}
	if u == nil || u.header == "" {
		for _, s := range e.sheets {
			for i := range s.Fields {
				s.Fields[i].Header = s.header(i)
			}
			s.spelt = nil
		}
		return
	}
	for _, c := range d.columns {
		if c == d.bare || c.class == terms.Month {
			u.header = strings.Replace(u.header, "{"+c.name+"}", own.before+"{"+c.name+"}"+own.behind, 1)
		}
	}
	if own.form != "" {
		e.addForm(own.form)
	}
}
