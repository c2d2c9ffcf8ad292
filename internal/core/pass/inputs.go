package pass

import (
	"errors"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"

	"umbau/internal/core/layout"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/terms"
	"umbau/internal/core/whole"
)

// Input is one extract that an entry of the plan brings in.
type Input struct {
	Entry *plan.Entry
	Path  string // of the file, relative to the plan, with /
	File  string // the same, with the member of an archive
	Sheet string
	Table table.Table
	// Known once a pass has read it:
	Size     int64        // of its file or member, unpacked
	Measures []int        // the columns that it has amounts of
	Slots    []string     // the headers of its wide columns
	Headers  []string     // all of them, as they stand
	Says     []terms.Said // of all its figures, above the table or by its names
	Doubts   place.List   // what a person should look at in them, though nothing stops

	fields map[string]string
}

// Place is that of the extract as a whole.
func (in *Input) Place() place.Place { return place.Place{File: in.File, Sheet: in.Sheet} }

// Named is what the path and the sheet of the extract say of a column; "" where they say nothing.
func (in *Input) Named(column string) string {
	if _, set := in.Entry.Set[column]; set {
		return ""
	}
	return in.fields[column]
}

// File is a file that was looked into, as it was then.
type File struct {
	Name string // relative to the plan
	Info fs.FileInfo
}

// Found is what the entries of a plan bring in: entries as in the plan, files by
// path in byte order, members and sheets as they stand in their file.
type Found struct {
	Inputs   []*Input
	Files    []File
	Tables   map[string][]table.Table // of each file, those that no entry wants among them
	Problems place.List
}

// finder looks for the extracts of a plan.
type finder struct {
	Found
	plan    *plan.Plan
	endings []string
}

// Find lists the extracts of all entries.
func Find(p *plan.Plan) *Found {
	f := &finder{plan: p, endings: p.Formats.Endings(), Found: Found{Tables: map[string][]table.Table{}}}
	for _, e := range p.Entries {
		if e.From != "" {
			f.addDatabase(e)
			continue
		}
		files := f.files(e)
		for _, name := range slices.Sorted(maps.Keys(files)) {
			tables, ok := f.Tables[name]
			if !ok {
				tables = f.lookInto(e, name)
				f.Tables[name] = tables
			}
			if tables != nil {
				f.addTables(e, name, files[name], tables)
			}
		}
		f.stopMembers(e, files)
	}
	return &f.Found
}

// files are those of an entry, each with the globs for its members, "" for all.
func (f *finder) files(e *plan.Entry) map[string][]string {
	files := map[string][]string{}
	dir := f.plan.Dir()
	for _, g := range e.Files {
		g, members := archiveGlob(g)
		found, err := expand(dir, g)
		var folder *fs.PathError
		if errors.As(err, &folder) {
			p := place.At(place.Place{File: relative(dir, folder.Path, g)}, "unreadable file",
				"the folder cannot be read, and may hold extracts: %s", whole.Reason(err))
			p.Plan, p.Advice = e.Pos, "ask for the right to read it, or let files name the folders to look in"
			f.Problems.Add(p)
			continue
		}
		if err != nil {
			f.Problems.Add(cannot(e, "files: %q is no glob that can be looked through: %v", g, err))
			continue
		}
		kept := 0
		for _, name := range found {
			if !passedOver(name, g) && !excepted(name, e.Except) {
				files[name] = append(files[name], members)
				kept++
			}
		}
		if kept == 0 {
			pr := cannot(e, "%q matches no file in %s", g, folderName(dir))
			pr.What = "no file"
			pr.Advice = "is the path relative to the plan, and are the files there?"
			f.Problems.Add(pr)
		}
	}
	return files
}

// Names are the files that the entries of a plan match, without looking into them, relative to the
// plan.
func Names(p *plan.Plan) (out []string) {
	f := &finder{plan: p}
	for _, e := range p.Entries {
		if file, ok := plan.FileOf(e.From); e.From != "" {
			if ok {
				out = append(out, file)
			}
			continue
		}
		out = slices.AppendSeq(out, maps.Keys(f.files(e)))
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// addDatabase takes the tables of a database that an entry wants.
func (f *finder) addDatabase(e *plan.Entry) {
	shown := plan.Shown(e.From)
	fail := func(p place.Problem) {
		p.Plan = e.Pos
		f.Problems.Add(p)
	}
	address, err := plan.Address(e.From)
	if err != nil {
		var list place.List
		if errors.As(err, &list) {
			fail(list[0])
		}
		return
	}
	name := shown
	if file, ok := plan.FileOf(address); ok {
		name = file
		info, problem := Inspect(f.plan, file)
		if problem != nil {
			problem.File = shown
			fail(*problem)
			return
		}
		f.Files = append(f.Files, File{file, info})
	}
	var all []string
	tables, err := f.plan.Formats.LookIn(f.plan.AddressAt(address), e.Query, func(table string) bool {
		all = append(all, table)
		return slices.ContainsFunc(e.Tables, func(glob string) bool {
			ok, _ := doublestar.Match(glob, table)
			return ok || glob == table
		})
	})
	if err != nil {
		fail(table.Problem(place.Place{File: shown}, err))
		return
	}
	for _, want := range e.Tables {
		if !slices.ContainsFunc(tables, func(t table.Table) bool {
			ok, _ := doublestar.Match(want, t.Sheet)
			return ok || want == t.Sheet
		}) {
			p := place.At(place.Place{File: shown}, "no sheet", "the database has no table %q", want)
			p.Advice = "it has " + place.Shorten(strings.Join(all, ", "))
			fail(p)
		}
	}
	f.Tables[name] = append(f.Tables[name], tables...)
	f.addTablesOf(e, name, tables)
}

// addTablesOf takes tables of a database that is called so.
func (f *finder) addTablesOf(e *plan.Entry, name string, tables []table.Table) {
	for i := range tables {
		in := &Input{Entry: e, Path: name, File: plan.Shown(e.From), Sheet: tables[i].Sheet, Table: tables[i], fields: map[string]string{}}
		if e.Sheet != nil {
			pieces, ok := e.Sheet.Fit(in.Sheet)
			if !ok {
				p := place.At(in.Place(), "sheet does not fit", "the table's name does not fit the pattern %q", e.Sheet).ByRule()
				p.Plan, p.Advice = e.Pos, "let the pattern fit it, or name the tables that are meant"
				f.Problems.Add(p)
				continue
			}
			maps.Copy(in.fields, pieces)
		}
		f.Inputs = append(f.Inputs, in)
	}
}

// archiveGlob parts a glob for members of archives, such as all.zip/*.csv.
func archiveGlob(glob string) (file, members string) {
	if i := strings.Index(strings.ToLower(glob), ".zip/"); i >= 0 {
		return glob[:i+4], glob[i+5:]
	}
	return glob, ""
}

// lookInto finds the tables in a file; nil where it cannot be read.
func (f *finder) lookInto(e *plan.Entry, name string) []table.Table {
	info, problem := Inspect(f.plan, name)
	if problem == nil {
		tables, err := f.plan.Formats.Look(f.plan.At(name))
		if err == nil {
			f.Files = append(f.Files, File{name, info})
			return tables
		}
		p := table.Problem(place.Place{File: name}, err)
		problem = &p
	}
	problem.Plan = e.Pos
	f.Problems.Add(*problem)
	return nil
}

// stopMembers stops for globs for members that take none, while others take some of the same archive: it would be missed silently.
func (f *finder) stopMembers(e *plan.Entry, files map[string][]string) {
	met := map[string]bool{}
	for name, globs := range files {
		for _, g := range globs {
			met[g] = met[g] || slices.ContainsFunc(f.Tables[name], func(t table.Table) bool { return fitsMember(g, t) })
		}
	}
	for _, name := range slices.Sorted(maps.Keys(files)) {
		for _, g := range files[name] {
			if len(files[name]) > 1 && f.Tables[name] != nil && !met[g] {
				p := place.At(place.Place{File: name}, "no file", "%q matches no member of the archive", g).ByRule()
				p.Plan, p.Advice = e.Pos, "is it called otherwise there? umbau survey lists them"
				f.Problems.Add(p)
			}
		}
	}
}

// fitsMember reports whether a glob takes a table of a file: any, where it has none for members.
func fitsMember(glob string, t table.Table) bool {
	if glob == "" {
		return true
	}
	ok, _ := doublestar.Match(glob, t.Member)
	return ok
}

// addTables takes the tables of a file that an entry wants.
func (f *finder) addTables(e *plan.Entry, name string, globs []string, tables []table.Table) {
	var before string // the file or member whose path was looked at last
	var fields map[string]string
	used, sheets, first := 0, []string{}, len(f.Inputs)
	for _, t := range tables {
		in := &Input{Entry: e, Path: name, File: place.UTF8(path.Join(name, t.Member)), Sheet: t.Sheet, Table: t}
		if t.Member != "" {
			if !slices.ContainsFunc(globs, func(g string) bool { return fitsMember(g, t) }) || excepted(in.File, e.Except) {
				continue
			}
		}
		if in.File != before {
			before = in.File
			var problem *place.Problem
			if fields, problem = fieldsOf(e, in.File, f.endings); problem != nil {
				problem.Plan = e.Pos
				f.Problems.Add(*problem)
				used++
			}
		}
		if fields == nil {
			continue
		}
		sheets = append(sheets, t.Sheet)
		if t.Sheet != "" && !wantsSheet(e, t) {
			continue
		}
		used++
		in.fields = maps.Clone(fields)
		if e.Sheet != nil && t.Sheet != "" {
			pieces, ok := e.Sheet.Fit(t.Sheet)
			if !ok {
				p := place.At(in.Place(), "sheet does not fit", "the sheet's name does not fit the pattern %q", e.Sheet).ByRule()
				p.Plan, p.Advice = e.Pos, "let the pattern fit it, or leave the sheet out with except_sheets"
				f.Problems.Add(p)
				continue
			}
			maps.Copy(in.fields, pieces)
		}
		f.Inputs = append(f.Inputs, in)
	}
	f.stopSums(f.Inputs[first:])
	if used == 0 {
		p := place.At(place.Place{File: name}, "no sheet", "no sheet or member of the file is wanted").ByRule()
		p.Plan, p.Advice = e.Pos, "it has "+place.Shorten(strings.Join(sheets, ", "))+"; name one with sheets, or leave the file out with except"
		f.Problems.Add(p)
	}
}

// stopSums stops for sheets of a workbook whose name says total, where there are others:
// they would be added to what they total.
func (f *finder) stopSums(inputs []*Input) {
	sheets := map[string]int{} // of each file or member
	for _, in := range inputs {
		sheets[in.File]++
	}
	for _, in := range inputs {
		if in.Sheet == "" || sheets[in.File] < 2 {
			continue
		}
		if _, plain := fitsSheet(in.Entry.Sheets, in.Sheet); plain || !in.Entry.Labels.Sheet(in.Sheet) {
			continue
		}
		p := place.At(in.Place(), "sheet of totals", "a sheet whose name says total stands beside others: it would be added to what it "+
			"totals").ByRule()
		p.Plan, p.Add = in.Entry.Pos, "except_sheets: ["+layout.Flow(in.Sheet)+"]"
		p.Advice = "or name it in sheets, if it is none"
		f.Problems.Add(p)
	}
}

// wantsSheet reports whether an entry takes a sheet: a hidden one only when it is
// named without a wildcard.
func wantsSheet(e *plan.Entry, t table.Table) bool {
	if except, _ := fitsSheet(e.ExceptSheets, t.Sheet); except {
		return false
	}
	wanted, plain := fitsSheet(e.Sheets, t.Sheet)
	if t.Hidden {
		return plain
	}
	return wanted || len(e.Sheets) == 0
}

// fitsSheet reports whether one of some patterns fits the name of a sheet, and whether one
// without a wildcard does.
func fitsSheet(list []*pattern.Pattern, sheet string) (any, plain bool) {
	for _, p := range list {
		if p.Fits(sheet) {
			any, plain = true, plain || p.Literal()
		}
	}
	return any, plain
}

func cannot(e *plan.Entry, format string, args ...any) place.Problem {
	return place.InPlan(e.Pos, "files", format, args...)
}

func folderName(dir string) string {
	if dir == "" || dir == "." {
		return "this folder"
	}
	return filepath.ToSlash(dir)
}

// Inspect checks that an input is a file that can be read.
func Inspect(p *plan.Plan, file string) (fs.FileInfo, *place.Problem) {
	info, err := os.Stat(p.At(file))
	what := ""
	switch {
	case errors.Is(err, fs.ErrNotExist):
		what = "a link to something that is not there"
	case err != nil:
		what = whole.Reason(err)
	case info.IsDir():
		what = "a folder, not a file; write " + file + "/* for the files in it, or leave it out with except"
	case !info.Mode().IsRegular():
		what = "no plain file (" + info.Mode().Type().String() + ")"
	default:
		return info, nil
	}
	problem := place.At(place.Place{File: file}, "unreadable file", "%s", what)
	return nil, &problem
}

// WouldRead returns the entry that would take a path in as an extract, nil if
// none would.
func WouldRead(p *plan.Plan, file string) *plan.Entry {
	for _, e := range p.Entries {
		for _, g := range e.Files {
			if ok, _ := doublestar.Match(path.Clean(g), file); ok && !passedOver(file, g) && !excepted(file, e.Except) {
				return e
			}
		}
	}
	return nil
}
