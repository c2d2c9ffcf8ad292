package draft

import (
	"maps"
	"path"
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
	terms.Seeming                // of the first one
	headers       map[int]string // as they stand, by the field
	below         bool           // quarters …
	sign          string         // … with a year behind it
	apart         []string       // totals beside these, of none of them
}

// seemingTime is a header, or the part of one beside a measure, that may stand for a month.
type seemingTime struct {
	terms.Seeming
	field      int
	start, end int // of the part, in the header
}

// nameTimesAcross gives headers that stand for months their names, in all tables. Numbers alone are months where a month is
// asked for that no column and no name of a file says, and a table of the same folder has all twelve; of a letter before them nobody has
// to ask, nor of a form that may be something else, if nothing else stands across.
func (d *drafter) nameTimesAcross() {
	asked := asksMonths(d.Columns)
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
		case list[0].Word && !list[0].Letter:
			s.spell(list)
		case s.saysTimeOtherwise():
		case list[0].Form != "" && (asked || s.onlyAcross(list)),
			(asked || list[0].Letter) && list[0].Month == 1 && years[path.Dir(s.file)]:
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
		t, ok := terms.SeemsMonth(thing)
		if !ok || at < 0 {
			continue
		}
		if len(out) > 0 && spelling(t) != spelling(out[0].Seeming) {
			return nil
		}
		out = append(out, seemingTime{t, i, start + at, start + at + len(thing)})
	}
	return out
}

// isRun reports whether some times are so many months at least, without a hole between them, or with their years two and more of each
// without one.
func isRun(list []seemingTime, least int) bool {
	set := map[int]bool{}
	for _, t := range list {
		set[t.Month] = true
	}
	months := slices.Sorted(maps.Keys(set))
	runs, shortest, run := 0, len(months), 0
	for i, m := range months {
		if run++; i+1 == len(months) || months[i+1] != m+1 {
			runs, shortest, run = runs+1, min(shortest, run), 0
		}
	}
	return len(months) >= least && (runs == 1 || shortest > 1 && months[0] > 12)
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
		return slices.ContainsFunc(fullTime().FindAllString(text, -1), func(t string) bool { return len(t) > len("2024") }) ||
			slices.ContainsFunc(strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(" _-./,", r) }), func(w string) bool {
				return terms.BareTimes([]string{w}) == terms.Month
			})
	})
}

// onlyAcross reports whether nothing else than some fields stands across.
func (s *sheet) onlyAcross(list []seemingTime) bool {
	for i, f := range s.Fields {
		if f.Wide && !slices.ContainsFunc(list, func(t seemingTime) bool { return t.field == i }) {
			return false
		}
	}
	return true
}

// spell gives the headers of some fields the names of the months that they stand for.
func (s *sheet) spell(list []seemingTime) {
	s.Fields = slices.Clone(s.Fields)
	own := spelt{Seeming: list[0].Seeming, headers: map[int]string{}}
	for _, t := range list {
		header := s.Fields[t.field].Header
		own.headers[t.field] = header
		s.Fields[t.field].Header = header[:t.start] + t.Name + header[t.end:]
		s.Fields[t.field].Wide = s.Fields[t.field].Wide || t.start == 0
	}
	s.spelt = &own
}

// header is that of a field, as it stands in the file.
func (s *sheet) header(i int) string {
	if s.units != nil && s.units.headers[i] != "" {
		return s.units.headers[i]
	}
	if s.spelt != nil && s.spelt.headers[i] != "" {
		return s.spelt.headers[i]
	}
	return s.Fields[i].Header
}

// spelling is what tells different spellings of months apart.
func spelling(t terms.Seeming) string {
	return strings.ToLower(t.Before+"\x00"+t.Behind+"\x00"+t.Form) + strconv.FormatBool(t.Numbered)
}

// whyMonths is why headers across are taken for months that may be something else, behind what they are; "" where a word says it.
func (s *sheet) whyMonths() string {
	switch {
	case s.spelt == nil || s.spelt.below || s.spelt.Word && !s.spelt.Letter:
		return ""
	case s.spelt.Numbered:
		return ": months by their numbers, of which some table has all twelve"
	}
	return ": months, for they follow each other"
}

// measured is how months across are spelt, where the name of a measure stands in headers of these or of quarters, and the sign beside it;
// "" where they are plain.
func (s *sheet) measured() (how string) {
	if s.spelt != nil {
		how = spelling(s.spelt.Seeming) + strconv.FormatBool(s.spelt.below)
	}
	if len(s.wide) == 0 || s.rows > 1 {
		return how
	}
	header := s.Fields[s.wide[0]].Header
	if thing := s.thingOf(header); !terms.IsMonth(thing) && !terms.IsQuarter(thing) {
		return how
	}
	if !s.actuals && thingOf(header) == header {
		return how
	}
	if _, sign, _, ok := terms.MeasureFirst(header); ok {
		return how + " behind a measure" + sign
	}
	if _, sign, _, ok := terms.MeasureLast(header); ok {
		return how + " before a measure" + sign
	}
	_, sign, _, first, _ := terms.MonthBeside(header)
	return how + " beside figures of some kind" + sign + strconv.FormatBool(first)
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
	if own.below {
		d.passQuarters(e)
		return
	}
	for _, c := range d.columns {
		if c == d.bare || c.class == terms.Month {
			u.header = strings.Replace(u.header, "{"+c.name+"}", own.Before+"{"+c.name+"}"+own.Behind, 1)
		}
	}
	if own.Form != "" {
		e.addForm(own.Form)
	}
}

// readBriefMonths takes a column whose header says that it has months for one, where all of it is written in a form that may be
// something else below other headers: 01/24, JAN24.
func (s *sheet) readBriefMonths() {
	for i := range s.Fields {
		f := &s.Fields[i]
		if c := terms.Of(f.Header); f.Is != "text" || c != terms.Month && c != terms.Day || len(f.Values) == 0 || s.Dates != "" {
			continue
		}
		for _, form := range value.DateForms {
			read := func(text string) bool {
				d, ok := form.Read(text)
				return ok && d.Year >= 1990
			}
			if form.Brief() && all(f.Values, read) && (form.Named() || yearsTell(f.Values)) {
				s.Fields = slices.Clone(s.Fields)
				s.Fields[i].Is, s.Dates = "month", form.Example
				return
			}
		}
	}
}

// readCountedDays takes a column of numbers whose header says that it has days or months for one of days, where all of them count days
// as spreadsheets do.
func (s *sheet) readCountedDays() {
	for i := range s.Fields {
		f := &s.Fields[i]
		if c := terms.Of(f.Header); !s.numeric(i) || c != terms.Month && c != terms.Day || len(f.Values) == 0 || s.Dates != "" {
			continue
		}
		form, is := countedDays, "month"
		read := func(text string) bool {
			d, ok := form.Read(text)
			if d.Day != 1 {
				is = "date"
			}
			return ok && d.Year >= 1990 && d.Year < 2060
		}
		if all(f.Values, read) {
			s.Fields = slices.Clone(s.Fields)
			s.Fields[i].Is, s.Dates = is, form.Example
			return
		}
	}
}

var countedDays = value.DateForms[slices.IndexFunc(value.DateForms, value.DateForm.Counted)]

// yearsTell reports whether of some months and years of two digits each the years cannot be months: 01/24, but not 05/06.
func yearsTell(texts []string) bool {
	return slices.ContainsFunc(texts, func(text string) bool {
		n, err := strconv.Atoi(text[max(0, len(text)-2):])
		return err == nil && n > 12
	})
}
