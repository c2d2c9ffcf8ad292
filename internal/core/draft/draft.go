// Package draft works out a plan from extracts alone.
//
// It surveys what came in, tells extracts from what is none, puts tables of one layout into
// one entry, finds the source of each column in each entry, and writes the plan. Then it
// builds with the plan, without writing anything: what the build says settles the rest, such
// as which gaps occur and which spellings stand for one name.
package draft

import (
	"context"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"umbau/internal/core/fact"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/survey"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Options say what to draft from.
type Options struct {
	Paths   []string // files, folders, sources
	Dir     string   // the folder that the plan will be in
	Columns []string // of the finished table, in order; empty where they are to be found
	Workers int
	Formats *table.Formats
	// Progress, if not nil, hears how many bytes were read.
	Progress func(done, all int64)
}

// Result is a drafted plan.
type Result struct {
	Text     string // of the plan
	Books    []Book
	Files    []File
	Columns  []Column
	Missing  []string // of the columns that were asked for
	Waiting  []string // those of them that have a source, and are left out until a question is settled
	Open     []string // what is a toss-up
	Problems place.List
	Sampled  bool // of some files only a sample was read: Rows and Exit are unknown
	Rows     int  // fact rows that the plan makes
	Exit     int  // of a build with it
}

// File is what became of a file, or a table of it.
type File struct{ File, Sheet, As, Entry, Why string }

// Column is a column of the drafted table.
type Column struct {
	Name, Is, Source, Evidence string
	Some                       string // what some tables say of its figures, and none otherwise
	Sure                       bool
}

// Book is a book that the plan begins.
type Book struct {
	File, Column string
	Names        int
	Proposals    int
	Text         []byte
}

// drafter is a draft under way.
type drafter struct {
	Options
	knowledge
	result    *Result
	report    *survey.Report
	sheets    []*sheet
	labels    map[string]bool // the columns of the extracts, by the key
	mixed     map[string]bool // archives whose members are of several entries
	entries   []*entry
	columns   []*column
	bare      *column                // takes the names of times, of which a year makes times; nil for none
	bareYear  *column                // that year
	bareDay   *column                // the days that stand across, nil for none
	lines     *column                // takes lines of dashes; nil for none
	thing     *column                // takes what stands across beside measures and nobody asked for; nil for none
	section   *column                // takes section rows that nobody asked for; nil for none
	books     map[string]*names.Book // that came with the extracts, by file
	ties      []*tie
	grain     []string
	repeats   string
	waits     bool              // the build does, for something in no entry
	doubled   bool              // rows of files that have a measure each stand in others too
	differ    bool              // rows of one grain do, though those shown do not
	across    bool              // most rows of one grain, and of one time, stand in two files
	between   []fact.Between    // how many rows of one grain which tables have
	twice     *place.Problem    // rows of one grain of which most stand the same in two files; nil for none
	telling   []string          // headers left aside that may tell rows of one grain apart
	sameTried bool              // whether they are the same in every cell
	full      full              // what they are by all labels
	copied    int               // how many rows of one grain are copies, by these
	sumsHeld  bool              // rows that have the sums of others are held, or asked about
	again     int               // rows that repeat
	signs     map[string]string // by the column: its header, where that is only signs
	rules     []string          // notes for the head of the plan
}

// Draft works out a plan. The error is that of ctx, or a place.List where nothing can be
// drafted.
func Draft(ctx context.Context, o Options) (*Result, error) {
	if problems := secrets(o.Paths); len(problems) > 0 {
		return nil, problems
	}
	begun := time.Now()
	report, err := survey.Run(ctx, survey.Options{Paths: o.Paths, Workers: o.Workers, Formats: o.Formats, Progress: o.Progress, Values: true,
		Records: true})
	if err != nil {
		return nil, err
	}
	for known := (knowledge{}); ; {
		d := &drafter{Options: o, report: report, knowledge: known, result: &Result{Problems: slices.Clone(report.Problems)},
			books: map[string]*names.Book{}, signs: map[string]string{}}
		s, err := d.draft(ctx)
		if err != nil {
			return nil, err
		}
		if more := d.show(s); more != known { // without what it says, or with a question
			known = more
			continue
		}
		d.result.Text = d.write()
		d.describe()
		d.noteChanged(begun)
		return d.result, nil
	}
}

// knowledge is what a build has shown of the extracts: tables by their sources, "" for none.
type knowledge struct {
	sums   string    // it sums up all others
	twins  [2]string // two that are one
	group  string    // it sums up some others
	scaled string    // its amounts are out of scale
}

// show is what is known after a build: one thing more, or as much as before.
func (d *drafter) show(s *fact.Summary) knowledge {
	known := d.knowledge
	if known.sums == "" && !d.result.Sampled {
		known.sums = d.sumsOfAll(s)
	}
	if known != d.knowledge || d.result.Exit != 0 || len(d.result.Missing) > 0 || d.result.Sampled {
		return known
	}
	if known.twins[0] == "" {
		known.twins[0], known.twins[1] = d.twinsOf(s)
	}
	if known.group == "" {
		known.group = d.sumsOfSome(s)
	}
	if known.scaled == "" {
		known.scaled = d.outOfScale(s)
	}
	return known
}

// draft works out a plan, and builds with it.
func (d *drafter) draft(ctx context.Context) (*fact.Summary, error) {
	d.takeTables()
	d.findEntries()
	if len(d.entries) == 0 {
		p := place.Problem{What: "no file", Message: "there are no extracts: no table with figures was found", Count: 1,
			Advice: "umbau survey says what the files hold"}
		if len(d.sheets) > 0 {
			p.Message += "; " + d.sheets[0].Place.String() + ": " + d.sheets[0].why
		}
		if slices.ContainsFunc(d.result.Problems, func(q place.Problem) bool { return q.What == p.What }) {
			return nil, d.result.Problems
		}
		return nil, append(d.result.Problems, p)
	}
	d.findColumns()
	if !slices.ContainsFunc(d.columns, func(c *column) bool { return !c.missing && !c.helper }) {
		p := place.Problem{What: "missing header", Count: 1, Message: "nothing in the extracts says any of the columns asked for; umbau survey " +
			"says which headers there are, and without --columns all of them are taken"}
		return nil, append(d.result.Problems, p.ByRule())
	}
	for _, e := range d.entries {
		e.widenGlob(d)
	}
	d.noteSamples()
	d.noteFigureless()
	d.noteUnread()
	return d.try(ctx)
}

// noteChanged tells of files that changed while they were read.
func (d *drafter) noteChanged(begun time.Time) {
	for _, name := range d.report.Files {
		file, ok := plan.FileOf(name)
		if !ok {
			continue
		}
		if info, err := os.Stat(file); err != nil || info.ModTime().After(begun) {
			d.result.Problems.Add(place.At(place.Place{File: filepath.ToSlash(name)}, "changed file",
				"it changed while the plan was drafted; draft again when it is at rest"))
		}
	}
}

// noteSamples tells of the files that were not read to their end.
func (d *drafter) noteSamples() {
	for _, s := range d.extracts() {
		if read := s.From.Sampled; read > 0 {
			d.result.Sampled = true
			text := fmt.Sprintf("%s: a sample of its rows was read, %d of %s MB: what a build finds further on is not settled", s.file, read>>20,
				value.Grouped(strconv.FormatInt(s.From.Bytes>>20, 10)))
			d.result.Open = append(d.result.Open, text)
			d.rules = append(d.rules, "? "+text)
		}
	}
}

// noteFigureless tells of tables without figures among the extracts, which may be extracts whose header was not found.
func (d *drafter) noteFigureless() {
	folders := d.folders()
	for _, s := range d.sheets {
		if s.as == "left aside" && s.figureless && s.Rows > 2 && len(s.Fields) > 2 && folders[path.Dir(s.file)] {
			text := fmt.Sprintf("%s stands among the extracts and is left aside, for it has no column of figures: is its header row %d?",
				place.Place{File: s.file, Sheet: s.Place.Sheet}, s.HeaderRow)
			d.result.Open = append(d.result.Open, text)
			d.rules = append(d.rules, "? "+text)
		}
	}
}

// folders are those of the extracts.
func (d *drafter) folders() map[string]bool {
	folders := map[string]bool{}
	for _, s := range d.extracts() {
		folders[path.Dir(s.file)] = true
	}
	return folders
}

// relative is a file as the plan names it.
func (d *drafter) relative(file string) string {
	if inFile, is := plan.FileOf(file); plan.IsAddress(file) {
		if is {
			return file[:len(file)-len(inFile)] + d.relative(inFile)
		}
		return file
	}
	abs, err := filepath.Abs(file)
	dir, err2 := filepath.Abs(d.Dir)
	if err == nil && err2 == nil {
		if rel, err := filepath.Rel(dir, abs); err == nil {
			return filepath.ToSlash(rel)
		}
	}
	return filepath.ToSlash(file)
}

// describe fills in what the result says beside the plan.
func (d *drafter) describe() {
	for _, s := range d.sheets {
		f := File{File: s.file, Sheet: s.Place.Sheet, As: s.as, Why: s.why}
		if s.entry != nil {
			f.Entry = strings.Join(s.entry.globs, ", ")
		}
		d.result.Files = append(d.result.Files, f)
	}
	slices.SortStableFunc(d.result.Files, func(a, b File) int {
		return strings.Compare(a.File+"\x00"+a.Sheet, b.File+"\x00"+b.Sheet)
	})
	for _, e := range d.entries {
		d.result.Open = append(d.result.Open, e.open...)
	}
	for _, c := range d.columns {
		proposed := len(d.Columns) == 0 && !c.class.OfMeasure() // by a first look: nobody misses it
		if c.helper || c.missing && proposed {
			continue
		}
		if c.missing {
			d.result.Missing = append(d.result.Missing, c.name)
			if c.waits() {
				d.result.Waiting = append(d.result.Waiting, c.name)
			}
			continue
		}
		evidence := c.note
		if len(c.besides) > 0 {
			evidence = strings.TrimPrefix(evidence+"; rows of "+strings.Join(c.besides, ", ")+" are left out", "; ")
		}
		d.result.Columns = append(d.result.Columns, Column{c.name, c.is, strings.Join(d.sourcesOf(c), "; "), evidence, c.some, c.open == ""})
		if c.open != "" {
			d.result.Open = append(d.result.Open, c.open)
		}
	}
}

// sourcesOf is where a column comes from: of one that is made of others, where these do.
func (d *drafter) sourcesOf(c *column) []string {
	switch {
	case c.from != "":
		return []string{"column " + c.from + " of the table"}
	case c.write != "":
		var of []string
		for _, part := range c.parts {
			of = append(of, part.sources...)
		}
		return of
	}
	return c.sources
}

// counted is a count with its noun.
func counted(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	if strings.HasSuffix(noun, "y") {
		noun = strings.TrimSuffix(noun, "y") + "ie"
	}
	return value.Grouped(strconv.Itoa(n)) + " " + noun + "s"
}
