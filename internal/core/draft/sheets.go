package draft

import (
	"fmt"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// sheet is a table that came in.
type sheet struct {
	*survey.Table
	path     string // where it is read, with the member of an archive; its Place is from the folder of the plan
	file     string // its path from the folder of the plan, without the member of an archive
	member   string // of an archive
	as       string // extract, book, control, reference, left aside
	why      string
	own      bool // a build wrote it
	entry    *entry
	wide     []int    // fields that are wide
	sections bool     // some rows have a label alone
	blocked  bool     // with a header below each, and such a line above the first
	block    string   // what the lines begin with, which head such blocks
	heads    []string // the lines above its headers, where it has several
	alone    bool     // each of these is one cell
	ruled    bool     // lines of dashes stand between rows …
	mixed    bool     // … and labels alone
	rows     int      // header rows
	kind     int      // the field that says what the cell of a row is, -1 for none
	mixes    []*mix   // what keeps its figures apart
	folders  []folder // around it, from the outer one on, as far as they say more than the file's name
	two      bool     // its path has to say two of what is asked for
	inNames  []string // see nameTimes; nil before they were looked for
	actuals  bool     // across stand figures that were sold beside others, in one header row
	spelt    *spelt   // how headers across stand for months; nil where they say them
	units    *units   // nil where headers across have none, or are told with them
	side     *side    // a small table to the right of it; nil for none
	total    string   // the header of its amounts, which is a word for totals; "" for none

	figureless bool        // it has no column of figures
	figuresAre terms.Class // quantity, amount or neither, as names and titles say; "" where headers do
	apart      bool        // its name says that its figures were planned or sum up others, or that it waits
	perhaps    string      // what its name says that its figures are, though it has labels that no other table has; "" for nothing
}

// takeTables sorts what came in.
func (d *drafter) takeTables() {
	for _, t := range d.report.Tables {
		shown := *t // the report may be drafted from again
		s := &sheet{Table: &shown, path: t.Place.File, as: "extract", rows: 1, kind: -1}
		s.file = d.relative(s.path)
		shown.Place.File = s.file
		if t.From.Member != "" {
			s.file, s.member = d.relative(strings.TrimSuffix(s.path, "/"+t.From.Member)), t.From.Member
		}
		s.leaveSide()
		d.sheets = append(d.sheets, s)
	}
	d.nameWithoutUnits()
	for _, s := range d.sheets {
		s.keepParts(d.Columns)
		s.readBriefMonths()
		s.readCountedDays()
		s.nameMonthsBelow()
	}
	alignFigures(d.sheets)
	d.nameTimesAcross()
	for _, s := range d.sheets {
		s.lookAtRows()
		s.findWide(d.Columns)
		s.findTotal()
		s.findBlocks()
		s.findKind()
	}
	alignKinds(d.sheets)
	slices.SortStableFunc(d.sheets, func(a, b *sheet) int {
		return strings.Compare(a.file+"\x00"+a.member+"\x00"+a.Place.Sheet, b.file+"\x00"+b.member+"\x00"+b.Place.Sheet)
	})
	records, deliveries, besides := own(d.report.Files)
	for _, s := range d.sheets {
		file := filepath.Clean(filepath.FromSlash(strings.TrimSuffix(s.path, "/"+s.member)))
		folder := filepath.Dir(file)
		s.own = slices.Contains(records, folder) || slices.Contains(deliveries, file) || slices.Contains(besides, folder)
		switch {
		case slices.Contains(records, folder):
			s.leaveAside("left aside", "it is the record of a build")
		case slices.Contains(deliveries, file):
			s.leaveAside("left aside", "it is what a build has delivered")
		case slices.Contains(besides, folder):
			s.leaveAside("left aside", "it stands beside the record of a build that stopped, where earlier ones deliver")
		default:
			d.classify(s)
		}
	}
	d.leavePriceLists()
	d.findControls()
	d.leavePlans()
	d.findNamed()
	d.findFolders()
}

// keepParts takes the sum of columns that are no months for a measure, and these for parts of it, where nobody says what is asked for, and
// a field has the things already.
func (s *sheet) keepParts(asked []string) {
	month := func(f survey.Field) bool {
		_, seems := terms.SeemsMonth(thingOf(f.Header))
		return seems || terms.IsMonth(thingOf(f.Header))
	}
	thing := func(f survey.Field) bool { return terms.Of(f.Header) == terms.Product }
	if len(asked) > 0 || !slices.ContainsFunc(s.Fields, thing) || slices.ContainsFunc(s.Fields, month) {
		return
	}
	s.SumColumns = slices.DeleteFunc(slices.Clone(s.SumColumns), func(h string) bool { return terms.Of(h).OfMeasure() })
}

// alignFigures takes columns for figures in which a table has hardly any, and for wide, if tables with the same headers in the same
// folder have them.
func alignFigures(sheets []*sheet) {
	alike := map[string][]*sheet{}
	for _, s := range sheets {
		headers := []string{path.Dir(s.file)}
		for i := range s.Fields {
			headers = append(headers, key.Of(s.Fields[i].Header))
		}
		all := strings.Join(headers, "\x00")
		alike[all] = append(alike[all], s)
	}
	for _, group := range alike {
		best, wide := map[string]*survey.Field{}, map[string]bool{}
		for _, s := range group {
			for i := range s.Fields {
				f := &s.Fields[i]
				header := key.Of(f.Header)
				if b := best[header]; b == nil || f.Filled > b.Filled || f.Filled == b.Filled && b.Is == "text" {
					best[header] = f
				}
				wide[header] = wide[header] || f.Wide
			}
		}
		for _, s := range group {
			for i := range s.Fields {
				f := &s.Fields[i]
				b := best[key.Of(f.Header)]
				if f.Is == "text" && (b.Is == "number" || b.Is == "whole") {
					f.Is = b.Is
				}
				f.Wide = wide[key.Of(f.Header)] && s.numeric(i)
			}
		}
	}
}

// extracts are the tables that are extracts.
func (d *drafter) extracts() (out []*sheet) {
	for _, s := range d.sheets {
		if s.as == "extract" {
			out = append(out, s)
		}
	}
	return out
}

// leaveAside says that a table is no extract.
func (s *sheet) leaveAside(as, why string) { s.as, s.why = as, why }

// waiting are names of folders of files that do not belong to the extracts of today.
var waiting = []string{"next", "backup", "backups", "trash", "papierkorb", "sicherung"}

// awaiting is the folder of a file, or one above it, whose name says so; "" for none.
func awaiting(file string) string {
	pieces := strings.Split(path.Dir(file), "/")
	i := slices.IndexFunc(pieces, func(p string) bool { return slices.Contains(waiting, strings.ToLower(p)) })
	if i < 0 {
		return ""
	}
	return pieces[i]
}

// classify tells what a table is by itself.
func (d *drafter) classify(s *sheet) {
	if base := path.Base(s.file); strings.HasPrefix(base, ".") || strings.HasPrefix(base, "~$") {
		s.leaveAside("left aside", "its name says that it is hidden")
		return
	}
	if folder := awaiting(s.file); folder != "" && !slices.ContainsFunc(d.Paths, func(p string) bool { // which was asked for
		return awaiting(filepath.ToSlash(p)+"/") == folder
	}) {
		s.apart = true
		s.leaveAside("left aside", "its folder is called "+folder+": it is not of this month yet, or not any more")
		return
	}
	var keys []string
	measures := 0
	for i := range s.Fields {
		keys = append(keys, key.Of(s.Fields[i].Header))
		if s.numeric(i) && !s.yearLike(i) {
			measures++
		}
	}
	switch {
	case slices.Contains(keys, "seen") && slices.Contains(keys, "standard"):
		s.leaveAside("book", "it has the columns seen and standard")
		if f, err := os.Open(s.path); err == nil {
			defer f.Close()
			if b, err := names.ReadBook(s.file, d.Formats.Text(f)); err == nil {
				d.books[s.file] = b
			}
		}
	case s.Rows == 0:
		s.leaveAside("left aside", "it has no rows")
	case len(s.Fields) < 2:
		s.leaveAside("left aside", "it has one column: no table")
	case measures == 0:
		s.figureless = true
		s.leaveAside("left aside", "it has no column of figures")
	default:
		d.countLabels(s)
	}
}

// mostLabels is how many different columns a plan is drafted for; columns that are read below one another are one.
const mostLabels = 2000

// countLabels leaves a table aside with which the extracts would have more columns than anybody reads a plan of.
func (d *drafter) countLabels(s *sheet) {
	list := s.labels()
	if d.labels == nil {
		d.labels = map[string]bool{}
	}
	fresh := map[string]bool{}
	for _, i := range list {
		if k := key.Of(s.Fields[i].Header); !d.labels[k] {
			fresh[k] = true
		}
	}
	if n := len(d.labels) + len(fresh); n > mostLabels {
		s.leaveAside("left aside", fmt.Sprintf("with it the plan would be of %d columns; draft writes one of %d at most", n, mostLabels))
		return
	}
	maps.Copy(d.labels, fresh)
}

// numeric reports whether a field holds figures.
func (s *sheet) numeric(i int) bool { return s.Fields[i].Is == "number" || s.Fields[i].Is == "whole" }

// yearLike reports whether a field holds years.
func (s *sheet) yearLike(i int) bool {
	f := &s.Fields[i]
	if f.Is != "whole" || len(f.Values) == 0 || terms.Of(f.Header).OfMeasure() {
		return false
	}
	for _, v := range f.Values {
		if len(v) != 4 || v < "1900" || v > "2100" {
			return false
		}
	}
	return true
}

// findWide finds the wide columns: those of the survey, those whose headers are times, and, where
// some columns are asked for, all columns of figures, if no header of them is one of these or names
// a measure.
func (s *sheet) findWide(asked []string) {
	named, above, months := s.namesAmount(), false, s.monthsAcross()
	if s.spelt != nil && s.spelt.below {
		s.rows = s.HeaderRows
	}
	for i := range s.Fields {
		f := &s.Fields[i]
		if !s.numeric(i) || slices.Contains(s.TotalColumns, f.Header) || terms.Counts(f.Header) {
			continue
		}
		parts := strings.Split(f.Header, " | ")
		if s.rows = max(s.rows, len(parts)); len(parts) > 1 {
			s.rows = max(s.rows, s.HeaderRows)
		}
		if n := len(parts); n > 1 && value.IsUnit(parts[n-1]) {
			parts = parts[:n-1]
		}
		above = above || len(parts) > 1
		first, last := parts[0], parts[len(parts)-1]
		t, _ := terms.TimeOf(last)
		u, _ := terms.TimeOf(first)
		bare := terms.BareTimes([]string{last}) != terms.None && (months || !terms.OtherWord(last))
		if f.Wide && !named || t != terms.None || u != terms.None || above || bare {
			s.wide = append(s.wide, i)
		}
	}
	if !slices.ContainsFunc(s.wide, func(i int) bool { return !terms.FiguresAlone(s.Fields[i].Header) }) { // of no thing
		s.wide = nil
	}
	if beside := s.besideActuals(); beside != nil {
		s.wide, s.actuals = beside, true
		return
	}
	s.keepTimes(asked)
	timed := s.wideTime() != terms.None || terms.BareTimes(s.wideTimes()) != terms.None
	if len(s.wide) == 0 || len(s.wide) == 1 && !timed { // but for one month alone
		s.wide = s.besideEachOther(asked)
	}
	if len(s.wide) == 0 && len(asked) > 0 && !named {
		s.wide = s.unnamed(asked)
	}
	s.addGaps()
	s.leaveBalances()
	s.leaveCodes()
	s.wide = slices.DeleteFunc(s.wide, func(i int) bool { // of a family of others
		return slices.Contains(s.SumColumns, s.Fields[i].Header) && !terms.SaysAll(s.Fields[i].Header)
	})
}

// monthsAcross reports whether some header is the name of a month, and no other word, or two are names of different ones.
func (s *sheet) monthsAcross() bool {
	words := map[string]bool{}
	for i := range s.Fields {
		parts := strings.Split(s.Fields[i].Header, " | ")
		switch last := parts[len(parts)-1]; {
		case terms.BareTimes([]string{last}) != terms.Month:
		case !terms.OtherWord(last):
			return true
		default:
			words[key.Of(last)] = true
		}
	}
	return len(words) > 1
}

// bareColumn is a header that says no more than that it is one.
var bareColumn = expression.Of(`^(col|column|field|feld|spalte|champ|colonne|campo|columna|kolom|var) ?\d+$`)

// namesAmount reports whether a column of figures is called by a word for amounts alone, or by none, and is not the sum of others: then
// others beside it are no wide ones, unless times stand above them. Nor are they beside a word for costs or plans, if they are few.
func (s *sheet) namesAmount() bool {
	things := 0
	for i := range s.Fields {
		if h := s.Fields[i].Header; s.numeric(i) && !s.yearLike(i) && terms.Of(h) == terms.None && !terms.Counts(h) && !terms.BesideGoods(h) &&
			!s.saysCodes(i) {
			things++
		}
	}
	return slices.ContainsFunc(s.Fields, func(f survey.Field) bool {
		c, k := terms.OfWord(key.Of(f.Header)), key.Of(f.Header)
		besides := c != terms.Price && (terms.NoSales[k] || terms.Planned[k]) && things < 3
		named := c == terms.Amount || besides || terms.SaysActual(f.Header) ||
			bareColumn().MatchString(k)
		return (f.Is == "number" || f.Is == "whole") && named && !terms.Counts(f.Header) &&
			!slices.Contains(s.SumColumns, f.Header) && !slices.Contains(s.TotalColumns, f.Header)
	})
}

// addGaps adds wide columns in which most cells are gaps: those with times above, as others have, or with what stands
// above others in both of two header rows.
func (s *sheet) addGaps() {
	if len(s.wide) < 2 {
		return
	}
	var parts [2][]string
	for _, i := range s.wide {
		a, b, _ := strings.Cut(s.Fields[i].Header, " | ")
		parts[0], parts[1] = append(parts[0], a), append(parts[1], b)
	}
	c, bare := s.wideTime(), terms.BareTimes(parts[0])
	for i := range s.Fields {
		t, _ := terms.TimeOf(s.Fields[i].Header)
		timed := c != terms.None && t == c || bare != terms.None && terms.BareTimes([]string{s.Fields[i].Header}) == bare
		a, b, two := strings.Cut(s.Fields[i].Header, " | ")
		both := two && slices.Contains(parts[0], a) && slices.Contains(parts[1], b)
		if !s.isWide(i) && !slices.Contains(s.TotalColumns, s.Fields[i].Header) && (both || timed) {
			s.wide = append(s.wide, i)
			slices.Sort(s.wide)
		}
	}
}

// unnamed are all fields of figures that are no codes of labels and no prices, where there are several and no header
// of them says what they are.
func (s *sheet) unnamed(asked []string) (out []int) {
	for i := range s.Fields {
		f := &s.Fields[i]
		c := terms.Of(f.Header)
		switch {
		case !s.numeric(i), s.yearLike(i), slices.Contains(s.TotalColumns, f.Header), terms.Counts(f.Header):
		case c.OfMeasure(), slices.ContainsFunc(asked, func(name string) bool { return key.Of(name) == key.Of(f.Header) }):
			return nil
		case c == terms.None:
			out = append(out, i)
		}
	}
	if len(out) < 2 {
		return nil
	}
	return out
}

// besideEachOther are fields of figures whose headers name measures and what they are of, each of
// some measures for each of some things: Qty Oar, Amount Oar, Qty Rope, Amount Rope. Months and quarters may have one measure, and
// products that are asked for and stand nowhere else.
func (s *sheet) besideEachOther(asked []string) (out []int) {
	measures, things := map[string]bool{}, map[string]bool{}
	var months, quarters, years []int
	asksYears := len(asked) == 0 || slices.ContainsFunc(asked, func(name string) bool { return terms.Of(name) == terms.Year })
	for i := range s.Fields {
		if !s.numeric(i) || slices.Contains(s.TotalColumns, s.Fields[i].Header) {
			continue
		}
		measure, _, thing, ok := terms.MeasureFirst(s.Fields[i].Header)
		if !ok {
			thing, _, measure, ok = terms.MeasureLast(s.Fields[i].Header)
		}
		if !ok || terms.SaysAll(thing) {
			continue
		}
		measures[key.Of(measure)], things[key.Of(thing)] = true, true
		time, _ := terms.TimeOf(thing)
		switch out = append(out, i); {
		case terms.IsMonth(thing):
			months = append(months, i)
		case terms.IsQuarter(thing):
			quarters = append(quarters, i)
		case time == terms.Year && asksYears:
			years = append(years, i)
		}
	}
	switch {
	case len(measures) == 1 && len(years) > 1 && len(years) == len(out):
		return years
	case len(measures) == 1 && len(months) > 1:
		return months
	case len(measures) == 1 && len(quarters) > 1:
		return quarters
	case len(measures) == 1 && len(out) > 1 && len(out) == len(things) && s.lacksProducts(asked, things):
		return out
	}
	if len(measures) < 2 || len(things) < 2 || len(out) != len(measures)*len(things) {
		return nil
	}
	return out
}

// lacksProducts reports whether products are asked for that no column can have, and some things across may be.
func (s *sheet) lacksProducts(asked []string, things map[string]bool) bool {
	for i := range s.Fields {
		if c := terms.Of(s.Fields[i].Header); !s.numeric(i) && (c == terms.Product || c == terms.None) {
			return false
		}
	}
	products := func(name string) bool { return terms.Of(name) == terms.Product }
	return slices.ContainsFunc(asked, products) && all(slices.Collect(maps.Keys(things)), ofThing)
}

// isWide reports whether a field is wide.
func (s *sheet) isWide(i int) bool {
	_, ok := slices.BinarySearch(s.wide, i)
	return ok
}

// labels are the fields that are none of the wide ones, nor totals.
func (s *sheet) labels() (out []int) {
	for i := range s.Fields {
		if !s.isWide(i) && !slices.Contains(s.TotalColumns, s.Fields[i].Header) {
			out = append(out, i)
		}
	}
	return out
}

// field is the field below a header, nil where there is none.
func (s *sheet) field(header string) *survey.Field {
	for i := range s.Fields {
		if strings.TrimSpace(s.Fields[i].Header) == header {
			return &s.Fields[i]
		}
	}
	return nil
}
