package build

import (
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"

	"umbau/internal/core/glob"
	"umbau/internal/core/layout"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
)

// input is one extract that an entry of the plan brings in.
type input struct {
	entry  *plan.Entry
	path   string // of the file, relative to the plan, with /
	file   string // the same, with the member of an archive
	sheet  string
	fields map[string]string
	table  table.Table
	size   int64 // of its file or member, unpacked, once it was read
}

func (in *input) place() place.Place { return place.Place{File: in.file, Sheet: in.sheet} }

// findInputs lists the extracts of all entries: entries as in the plan, files by
// path in byte order, members and sheets as they stand in their file.
func (r *run) findInputs() {
	opened := map[string][]table.Table{}
	for _, e := range r.plan.Entries {
		files := map[string]string{} // the file, and the glob for its members
		for _, g := range e.Files {
			g, members := archiveGlob(g)
			found, err := expand(r.dir, g)
			var folder *fs.PathError
			if errors.As(err, &folder) {
				p := place.At(place.Place{File: relative(r.dir, folder.Path, g)}, "unreadable file", "the folder cannot be read, and may hold extracts: %s", reason(err))
				p.Plan, p.Advice = e.Pos, "ask for the right to read it, or let files name the folders to look in"
				r.fail(p)
				continue
			}
			if err != nil {
				r.fail(cannot(e, "files: %q is no glob: %v", g, err))
				continue
			}
			kept := 0
			for _, f := range found {
				if !passedOver(f, g) && !excepted(f, e.Except) {
					files[f] = members
					kept++
				}
			}
			if kept == 0 {
				pr := cannot(e, "%q matches no file in %s", g, folderName(r.dir))
				pr.What = "no file"
				pr.Advice = "is the path relative to the plan, and are the files there?"
				r.fail(pr)
			}
		}
		for _, f := range slices.Sorted(maps.Keys(files)) {
			tables, ok := opened[f]
			if !ok {
				tables = r.lookInto(e, f)
				opened[f], r.opened = tables, opened
			}
			if tables != nil {
				r.addTables(e, f, files[f], tables)
			}
		}
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
func (r *run) lookInto(e *plan.Entry, name string) []table.Table {
	info, problem := inspect(r.dir, name)
	if problem == nil {
		tables, err := r.options.File(at(r.dir, name))
		if err == nil {
			r.addInput(name, info)
			return tables
		}
		p := table.Problem(place.Place{File: name}, err)
		problem = &p
	}
	problem.Plan = e.Pos
	r.fail(*problem)
	return nil
}

// addTables takes the tables of a file that an entry wants.
func (r *run) addTables(e *plan.Entry, name, members string, tables []table.Table) {
	var before string // the file or member whose path was looked at last
	var fields map[string]string
	used, sheets, first := 0, []string{}, len(r.inputs)
	for _, t := range tables {
		in := input{entry: e, path: name, file: place.UTF8(path.Join(name, t.Member)), sheet: t.Sheet, table: t}
		if t.Member != "" {
			if ok, _ := doublestar.Match(members, t.Member); members != "" && !ok || excepted(in.file, e.Except) {
				continue
			}
		}
		if in.file != before {
			before = in.file
			var problem *place.Problem
			if fields, problem = fieldsOf(e, in.file); problem != nil {
				problem.Plan = e.Pos
				r.fail(*problem)
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
				p := place.At(in.place(), "sheet does not fit", "the sheet's name does not fit the pattern %q", e.Sheet).ByRule()
				p.Plan, p.Advice = e.Pos, "let the pattern fit it, or leave the sheet out with except_sheets"
				r.fail(p)
				continue
			}
			maps.Copy(in.fields, pieces)
		}
		r.inputs = append(r.inputs, in)
	}
	r.stopSums(r.inputs[first:])
	if used == 0 {
		p := place.At(place.Place{File: name}, "no sheet", "no sheet or member of the file is wanted").ByRule()
		p.Plan, p.Advice = e.Pos, "it has "+place.Shorten(strings.Join(sheets, ", "))+"; name one with sheets, or leave the file out with except"
		r.fail(p)
	}
}

// stopSums stops for sheets of a workbook whose name says total, where there are others:
// they would be added to what they total.
func (r *run) stopSums(inputs []input) {
	for i := range inputs {
		in := &inputs[i]
		beside := slices.ContainsFunc(inputs, func(o input) bool { return o.file == in.file && o.sheet != in.sheet })
		if _, plain := fitsSheet(in.entry.Sheets, in.sheet); in.sheet == "" || plain || !beside || !in.entry.Labels.Sheet(in.sheet) {
			continue
		}
		p := place.At(in.place(), "sheet of totals", "a sheet whose name says total stands beside others: it would be added to what it totals").ByRule()
		p.Plan, p.Add = in.entry.Pos, "except_sheets: ["+layout.Flow(in.sheet)+"]"
		p.Advice = "or name it in sheets, if it is none"
		r.fail(p)
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

// expand finds what a glob matches, relative to dir. A path without wildcards
// is itself, if something is there.
func expand(dir, pattern string) ([]string, error) {
	if !strings.ContainsAny(pattern, `*?[{\`) {
		if _, err := os.Lstat(at(dir, pattern)); err != nil {
			return nil, nil
		}
		return []string{path.Clean(pattern)}, nil
	}
	found, err := glob.Files(at(dir, pattern))
	if err != nil {
		return nil, err
	}
	for i, f := range found {
		found[i] = relative(dir, f, pattern)
	}
	if path.Base(pattern) == "**" { // ** stands for folders too; what is in them is matched itself
		found = slices.DeleteFunc(found, func(f string) bool {
			info, err := os.Stat(at(dir, f))
			return err == nil && info.IsDir()
		})
	}
	return found, nil
}

// at is the path of a file that a plan in dir names.
func at(dir, file string) string {
	if filepath.IsAbs(file) {
		return file
	}
	return filepath.Join(dir, filepath.FromSlash(file))
}

// relative is how the plan would name a file that its glob matched.
func relative(dir, file, glob string) string {
	if filepath.IsAbs(glob) {
		return filepath.ToSlash(file)
	}
	if dir == "" {
		dir = "."
	}
	r, err := filepath.Rel(dir, file)
	if err != nil {
		return filepath.ToSlash(file)
	}
	return filepath.ToSlash(r)
}

// passedOver reports whether a name in the path begins with a dot or ~$ and is
// not written out in the glob.
func passedOver(file, glob string) bool {
	for _, name := range strings.Split(file, "/") {
		hidden := strings.HasPrefix(name, ".") && name != ".." && name != "." || strings.HasPrefix(name, "~$")
		if hidden && !slices.ContainsFunc(strings.Split(glob, "/"), func(g string) bool {
			return strings.HasPrefix(g, name[:1]) && g != ".." && g != "."
		}) {
			return true
		}
	}
	return false
}

func excepted(file string, globs []string) bool {
	return slices.ContainsFunc(globs, func(g string) bool {
		ok, _ := doublestar.Match(path.Clean(g), file)
		return ok
	})
}

// addInput lists a file that the build reads, as it was before that.
func (r *run) addInput(name string, info fs.FileInfo) {
	r.summary.Inputs = append(r.summary.Inputs, FileInfo{Name: name, Bytes: info.Size(), found: info})
}

// checkInput reports an input that is no longer what it was: what was read may be
// half of one and half of another.
func (r *run) checkInput(in *FileInfo) {
	before, what := in.found, ""
	switch now, err := os.Stat(at(r.dir, in.Name)); {
	case err != nil:
		what = "it is no longer there"
	case now.Size() != before.Size():
		what = fmt.Sprintf("it had %d bytes and has %d", before.Size(), now.Size())
	case !os.SameFile(before, now):
		what = "another file took its place"
	case !now.ModTime().Equal(before.ModTime()):
		what = "it was written to"
	default:
		return
	}
	p := place.At(place.Place{File: in.Name}, "changed file", "the file changed while it was read: %s", what)
	p.Advice = "let the one who writes it finish, then build again"
	r.fail(p)
}

// inspect checks that an input is a file that can be read.
func inspect(dir, file string) (fs.FileInfo, *place.Problem) {
	info, err := os.Stat(at(dir, file))
	what := ""
	switch {
	case errors.Is(err, fs.ErrNotExist):
		what = "a link to something that is not there"
	case err != nil:
		what = reason(err)
	case info.IsDir():
		what = "a folder, not a file; write " + file + "/* for the files in it, or leave it out with except"
	case !info.Mode().IsRegular():
		what = "no plain file (" + info.Mode().Type().String() + ")"
	default:
		return info, nil
	}
	p := place.At(place.Place{File: file}, "unreadable file", "%s", what)
	return nil, &p
}

// reason is an error of the file system without the path, which the place says.
func reason(err error) string {
	var pe *fs.PathError
	var le *os.LinkError
	switch {
	case errors.As(err, &pe):
		err = pe.Err
	case errors.As(err, &le):
		err = le.Err
	}
	return err.Error()
}

// withoutEnding leaves out what stands at the end of a path when it is held against
// its pattern: one ending of an extract, or two as in .csv.gz.
func withoutEnding(file string) string {
	for range 2 {
		for _, e := range table.Endings {
			if strings.HasSuffix(strings.ToLower(file), e) && len(path.Base(file)) > len(e) {
				file = file[:len(file)-len(e)]
				break
			}
		}
	}
	return file
}

// fieldsOf reads the constants of an extract: what set says and what its path does.
func fieldsOf(e *plan.Entry, file string) (map[string]string, *place.Problem) {
	fields := map[string]string{}
	for k, v := range e.Set {
		fields[k] = v
	}
	if e.Path == nil {
		return fields, nil
	}
	pieces, ok := fitPath(e.Path, file)
	if !ok {
		p := place.At(place.Place{File: file}, "path does not fit", "the path does not fit the pattern %q", e.Path).ByRule()
		p.Advice = "let the pattern fit it, or leave the file out with except"
		return nil, &p
	}
	for k, v := range pieces {
		fields[k] = v
	}
	return fields, nil
}

// fitPath holds a pattern against the last segments of a path, as many as the
// pattern has; the file's ending may be left out.
func fitPath(p *pattern.Pattern, file string) (map[string]string, bool) {
	segments := strings.Split(file, "/")
	for n := min(strings.Count(p.String(), "/")+1, len(segments)); n > 0; n-- {
		tail := strings.Join(segments[len(segments)-n:], "/")
		for _, text := range []string{withoutEnding(tail), tail} {
			if pieces, ok := p.Fit(text); ok && !crosses(pieces) {
				return pieces, true
			}
		}
	}
	return nil, false
}

// crosses reports whether a piece holds the boundary of a folder.
func crosses(pieces map[string]string) bool {
	for _, v := range pieces {
		if strings.Contains(v, "/") {
			return true
		}
	}
	return false
}

// wouldRead returns the entry that would take a path in as an extract, nil if
// none would.
func wouldRead(p *plan.Plan, file string) *plan.Entry {
	for _, e := range p.Entries {
		for _, g := range e.Files {
			if ok, _ := doublestar.Match(path.Clean(g), file); ok && !passedOver(file, g) && !excepted(file, e.Except) {
				return e
			}
		}
	}
	return nil
}
