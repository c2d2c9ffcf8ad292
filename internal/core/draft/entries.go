package draft

import (
	"path"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/expression"
	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// entry is an entry of extracts under way: tables of one layout.
type entry struct {
	sheets   []*sheet
	globs    []string
	except   []string // of files that the glob matches, too, and whose names say that they are no sales
	pieces   []piece  // of the path, the sheet's name and titles
	path     string   // the patterns that read them
	sheet    string
	titles   int // how many of them say something
	sections string
	wanted   string // sheets
	header   string
	unpivot  *unpivot
	widen    [2]string // the headers of what a cell is, and of the cell; "" for none
	numbers  string
	also     []string // further ways in which numbers are written
	open     []string // what is a toss-up
	lacks    []string // labels that nothing there says
	dates    []string
	notDates string   // how dates are not written, as far as anybody knows
	waits    bool     // the build is to stop until a person has looked at it
	others   []string // headers that are left aside; nil for all that nothing claims
	drop     bool
	absent   map[string]bool
	against  []string            // headers across that may not be added up, nor left aside: the build stops at them
	headers  map[string][]string // of its own, by column
	measures map[string]string   // by header: the column of its cells
	note     string
	remarks  []string // what is left aside of what stands beside the tables
	unread   []string // lines above the tables that differ, and that no pattern takes apart

	totalWords []string // labels of all, among others
	sameRows   bool     // rows that repeat another one in every cell are dropped
	same       int      // and how many those are
}

// unpivot is how wide columns become rows.
type unpivot struct {
	header, cell string
	columns      []string
	named        map[string]*column // by the key of the part that names the measure; nil where none does
	part         int                // which part of a header that is
	others       int                // how many others there are
	between      string             // what stands between them
	units        int                // which header row has units alone, from 1; 0 for none
	unit         string             // what stands for them in patterns
	unknown      []string           // what stands where measures are named, and is none that is known
}

// piece is a part of a path, of a sheet's name or of a title that varies.
type piece struct {
	filenames.Piece
	from   string // path, sheet, titles
	title  int    // of the titles, which one
	bare   bool   // of a title that does not say what it is of
	column *column
}

// findEntries puts tables of one layout together.
func (d *drafter) findEntries() {
	d.settleNumbers()
	index := map[string]*entry{}
	for _, s := range d.extracts() {
		k := s.shape()
		e := index[k]
		if e == nil {
			e = &entry{absent: map[string]bool{}, headers: map[string][]string{}, measures: map[string]string{}}
			index[k] = e
			d.entries = append(d.entries, e)
		}
		e.sheets = append(e.sheets, s)
		s.entry = e
	}
	d.findMixed()
	for _, e := range d.entries {
		if e.sheets[0].database() {
			e.findTables(d)
		} else {
			e.findGlobs(d)
			e.readNames()
		}
		e.readSheets()
		e.readTitles()
		e.partQuarters()
		e.findStyles()
		e.askSide()
	}
}

// shape is what tables of one entry share: the layout, and how numbers are written.
func (s *sheet) shape() string {
	k := s.layout() + "\x00" + s.Numbers
	if s.side != nil {
		k += "\x00" + s.side.area
	}
	return k
}

// headings is what the headers name, those of figures apart, but for what is wide, in order.
func (s *sheet) headings() string {
	var labels []string
	for _, i := range s.labels() {
		f := &s.Fields[i]
		c := string(terms.Of(f.Header))
		if c == "" {
			c = key.Of(f.Header)
		}
		if s.numeric(i) && !s.yearLike(i) {
			c += "#"
		}
		labels = append(labels, c)
	}
	slices.Sort(labels)
	return strings.Join(labels, ",")
}

// layout is the folder, how the file is made, what the headers name, and how what is wide is made.
func (s *sheet) layout() string {
	wide := ""
	if s.kind >= 0 {
		wide = "measures in rows"
	}
	if len(s.wide) > 0 {
		wide = "wide " + string(s.wideTime()) + " " + strings.Repeat("|", s.rows)
		wide += string(terms.BareTimes(s.wideTimes())) + " " + s.spanAcross(s.wideTimes())
	}
	wide += s.measured()
	if s.figuresAre == terms.Quantity {
		wide += " of quantities"
	}
	sections := ""
	if s.sections {
		sections = "sections"
	}
	for _, title := range s.titles() {
		sections += " below " + key.Of(title)
	}
	if sheet := s.Place.Sheet; sheet != "" && terms.SaysNothing(s.nameOf()) && !terms.SaysNothing(sheet) {
		sections += " a place a sheet"
	}
	folder, ending := path.Dir(s.file), strings.ToLower(path.Ext(s.file))
	switch {
	case s.database():
		folder, ending = s.file, ""
	default:
		folder = s.starred() + strings.Repeat("/", len(s.folders)-s.outside()) // those within archives
	}
	return strings.Join([]string{folder, ending, s.headings(), wide, sections}, "\x00")
}

// wideTime is what the wide headers are as times.
func (s *sheet) wideTime() terms.Class {
	var texts []string
	for _, i := range s.wide {
		for _, part := range strings.Split(s.Fields[i].Header, " | ") {
			if part == s.Fields[i].Header {
				part = s.thingOf(part)
			}
			if c, _ := terms.TimeOf(part); c != terms.None {
				texts = append(texts, part)
			}
		}
	}
	if len(texts) < len(s.wide) {
		return terms.None
	}
	c, _ := terms.TimesOf(texts)
	return c
}

// files are the different files of the entry.
func (e *entry) files() (out []string) {
	known := map[string]bool{}
	for _, s := range e.sheets {
		if !known[s.file] {
			known[s.file] = true
			out = append(out, s.file)
		}
	}
	return out
}

const timeForm = `(19|20)\d\d([-_. ]?(0[1-9]|1[0-2])([-_. ]?(0[1-9]|[12]\d|3[01]))?)?`

// fullTime is a year, with a month or without, or a day; dateToken a number besides.
var (
	fullTime  = expression.Of(timeForm)
	dateToken = expression.Of(timeForm + `|\(?\d+\)?`)
)

// shortYear is the end of names such as Lakes Nov-23.csv.
var shortYear = expression.Of(`^[-_. ]\d\d\.[^.]+$`)

// begunTime is a time of which only the beginning is there.
var begunTime = expression.Of(`(19|20)\d\d([-_. ]\d\d)?[-_. ]$`)

// pathOf is how a glob names the file of a table: an archive alone where all of it is one entry's,
// else with its member.
func (d *drafter) pathOf(s *sheet) string {
	if s.member == "" {
		return s.file
	}
	if d.mixed[s.file] {
		return s.file + "/" + s.member
	}
	return s.file
}

// findMixed finds the archives whose members are of more than one entry, or of none.
func (d *drafter) findMixed() {
	first := map[string]*sheet{}
	d.mixed = map[string]bool{}
	for _, s := range d.sheets {
		if o := first[s.file]; o == nil {
			first[s.file] = s
		} else if o.entry != s.entry {
			d.mixed[s.file] = true
		}
	}
}

// findGlobs finds globs that cover the files of the entry, those of next month among them, and
// no file of another one.
func (e *entry) findGlobs(d *drafter) {
	var files []string
	known := map[string]bool{}
	for _, s := range e.sheets {
		if p := d.pathOf(s); !known[p] {
			known[p] = true
			files = append(files, p)
		}
	}
	dir, ending := path.Dir(files[0]), path.Ext(files[0])
	var globs []string
	several := slices.ContainsFunc(files, func(f string) bool { return path.Dir(f) != dir })
	if !d.mixed[e.sheets[0].file] && e.ofFolders(several) {
		folders, base := e.sheets[0].starred(), path.Base(timeless(files[0]))
		if strings.HasPrefix(base, "*") && strings.HasPrefix(path.Base(files[0]), "20") { // of 2024.csv
			base = "20" + base
		}
		globs = append(globs, path.Join(folders, "*"+ending), path.Join(folders, base))
	}
	prefix, suffix := filenames.CommonEnds(files)
	if len(files) == 1 {
		if glob := timeless(files[0]); glob != escapedGlob(files[0]) {
			globs = append(globs, glob)
		} else {
			globs = append(globs, path.Join(escapedGlob(dir), "*"+ending))
		}
	} else {
		begun := begunTime().ReplaceAllString(prefix, "")
		if glob := globOfPlaces(files, begun, suffix); glob != "" {
			globs = append(globs, glob)
		}
		begin := escapedGlob(begun) + "*"
		globs = append(globs, begin+anyTime(suffix), begin+escapedGlob(suffix), // next month's and next year's files, too
			escapedGlob(prefix)+"*"+escapedGlob(suffix))
	}
	for _, glob := range globs {
		if fitsAll(glob, files) && e.alone(d, glob) {
			e.globs = []string{glob}
			return
		}
	}
	if !e.findExcept(d, globs, files) {
		e.listFiles(d, files)
	}
}

// listFiles takes the files themselves, with any time in their names where that matches those of the entry alone.
func (e *entry) listFiles(d *drafter, files []string) {
	fits := map[string]bool{} // globs, whether they match files of this entry alone
	for _, f := range files { // one for each name that has times
		own := timeless(f)
		if alone, known := fits[own]; known && alone {
			continue
		} else if !known {
			fits[own] = e.alone(d, own)
			if fits[own] {
				e.globs = append(e.globs, own)
			}
		}
		if !fits[own] {
			e.globs = append(e.globs, escapedGlob(f))
		}
	}
}

// ofFolders reports whether the glob of the entry is for several folders: there are, or there will be those of other times.
func (e *entry) ofFolders(several bool) bool {
	s := e.sheets[0]
	return s.outside() > 0 && (several || slices.ContainsFunc(s.folders[:s.outside()], func(f folder) bool { return filenames.Alone(f.name) }))
}

// anyTime is a glob for what names end in, with any time of the century for the one in it.
func anyTime(end string) string {
	ending, name := path.Ext(end), strings.TrimLeft(end, "_- (")
	if label, between, text, ok := filenames.SplitTime(strings.TrimSuffix(name, ending)); ok {
		return escapedGlob(end[:len(end)-len(name)]+label+between) + timeGlob([]string{text}) + escapedGlob(ending)
	}
	list := fullTime().FindAllStringIndex(end, -1)
	if len(list) == 0 && shortYear().MatchString(end) {
		return end[:1] + "*" + escapedGlob(ending)
	}
	if len(list) == 0 {
		return escapedGlob(end)
	}
	at := list[len(list)-1]
	return escapedGlob(end[:at[0]+2]) + "*" + escapedGlob(end[at[1]:])
}

// timeless is a glob for a file of any time.
func timeless(file string) string {
	dir, base := path.Dir(file), path.Base(file)
	ending := path.Ext(base)
	base = strings.TrimSuffix(base, ending)
	if label, between, text, ok := filenames.SplitTime(base); ok && strings.Contains(text, " ") { // Nov 2024
		return path.Join(escapedGlob(dir), escapedGlob(label+between)+timeGlob([]string{text})+escapedGlob(ending))
	}
	at := dateToken().FindAllStringIndex(base, -1)
	if len(at) == 0 {
		return escapedGlob(file)
	}
	last := at[len(at)-1]
	begin := last[0]
	if first := fullTime().FindStringIndex(base); first != nil { // 2024-01 to 2024-03, 2024 v2
		begin = first[0]
	}
	return path.Join(escapedGlob(dir), escapedGlob(base[:begin])+"*"+escapedGlob(base[last[1]:]+ending))
}

// escapedGlob is a path as it stands in a glob.
func escapedGlob(p string) string {
	return strings.NewReplacer("*", `\*`, "?", `\?`, "[", `\[`, "{", `\{`).Replace(p)
}

// fitsAll reports whether a glob matches all of some files.
func fitsAll(glob string, files []string) bool {
	return all(files, func(f string) bool { fits, _ := path.Match(glob, f); return fits })
}

// findExcept takes the first of some globs that matches, besides the files of the entry, only such as say that they are no sales.
func (e *entry) findExcept(d *drafter, globs, files []string) bool {
	for _, glob := range globs {
		if except := e.exceptFrom(d, glob, files); len(except) > 0 && fitsAll(glob, files) {
			e.globs, e.except = []string{glob}, except
			return true
		}
	}
	return false
}

// exceptFrom are globs for the tables besides those of the entry that a glob matches, where the names of all of these say in a word that
// they are no sales; nil where one does not.
func (e *entry) exceptFrom(d *drafter, glob string, files []string) (out []string) {
	for _, s := range d.sheets {
		file := d.pathOf(s)
		if ok, _ := path.Match(glob, file); !ok || s.entry == e || slices.Contains(files, file) {
			continue
		}
		word := wordGlob(path.Base(file))
		own := path.Join(path.Dir(glob), word)
		inside := func(f string) bool { fits, _ := path.Match(own, f); return fits }
		if !s.apart || file != s.file || word == "" || !inside(file) || slices.ContainsFunc(files, inside) {
			return nil
		}
		if !slices.Contains(out, own) {
			out = append(out, own)
		}
	}
	slices.Sort(out)
	return out
}

// wordOfName is a word of a name, also one of several that only capitals part.
var wordOfName = expression.Of(`\p{Lu}?\p{Ll}+|\p{Lu}+`)

// wordGlob is a glob for the word of a name that says that there are no sales, with the signs around it, so that no longer word fits: of
// "Lakes Cost 2024.csv", "* Cost *", which "Costa Bay 2024.csv" does not fit; "" where there is none.
func wordGlob(name string) string {
	for _, at := range wordOfName().FindAllStringIndex(name, -1) {
		word := name[at[0]:at[1]]
		if k := key.Of(word); !terms.NoSales[k] && !terms.Planned[k] {
			continue
		}
		before, _ := utf8.DecodeLastRuneInString(name[:at[0]])
		after, _ := utf8.DecodeRuneInString(name[at[1]:])
		glob := word + signGlob(after) + "*"
		if at[0] > 0 {
			glob = "*" + signGlob(before) + glob
		}
		return glob
	}
	return ""
}

// signGlob is a glob for what stands beside a word of a name: any figure, any capital or other letter, or a sign.
func signGlob(r rune) string {
	switch {
	case unicode.IsDigit(r):
		return "[0-9]"
	case unicode.IsUpper(r):
		return "[A-Z]"
	case unicode.IsLetter(r):
		return "[a-z]"
	}
	return escapedGlob(string(r))
}

// alone reports whether a glob matches the files of the entry alone.
func (e *entry) alone(d *drafter, glob string) bool {
	for _, s := range d.sheets {
		for _, name := range []string{s.file, d.pathOf(s)} {
			if ok, _ := path.Match(glob, name); ok && s.entry != e && !slices.Contains(e.files(), s.file) {
				return false
			}
		}
		if ok, _ := path.Match(glob, d.pathOf(s)); ok && s.entry != e && d.pathOf(s) != s.file {
			return false
		}
	}
	return true
}

// globOfPlaces is a glob for files whose names have a part of those of places in common, such as New Quay and New Harbour; "" where they
// have none.
func globOfPlaces(files []string, prefix, suffix string) string {
	var middles, labels []string
	for _, f := range files {
		middle := f[len(prefix) : len(f)-len(suffix)]
		middles, labels = append(middles, middle), append(labels, filenames.Label(middle))
	}
	if c, _ := terms.TimesOf(middles); c != terms.None {
		return ""
	}
	folder, name := path.Split(prefix)
	ending := path.Ext(suffix)
	begin, end := folder+filenames.UntilPlace(name, labels), filenames.FromPlace(strings.TrimSuffix(suffix, ending), labels)+ending
	if slices.Contains(labels, "") && len(strings.Join(labels, "")) > 0 { // Skerries, Skerries East
		before, _ := filenames.GeneralEnds(name)
		begin = folder + before
	}
	if begin+end == prefix+suffix {
		return ""
	}
	return escapedGlob(begin) + "*" + anyTime(end)
}
