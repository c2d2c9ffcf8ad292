package build

import (
	"errors"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
)

// checkTargets refuses outputs that would overwrite what the build reads, or
// that the next build would take for extracts.
func (r *run) checkTargets() bool {
	sources := map[string]string{r.plan.File: "the plan"}
	for _, in := range r.inputs {
		sources[at(r.dir, in.path)] = "an extract"
	}
	for _, t := range r.plan.Ties {
		sources[at(r.dir, t.Entry.Files[0])] = "a control file"
	}
	if r.plan.Corrections != "" {
		sources[at(r.dir, r.plan.Corrections)] = "the file of corrections"
	}
	for _, c := range r.plan.Columns {
		if c.Book != "" {
			sources[at(r.dir, c.Book)] = "a book"
		}
	}
	before := len(r.summary.Problems)
	real := map[string]string{}
	for file, what := range sources {
		real[resolved(file)] = what
	}
	check := func(to string, pos place.Pos) {
		refuse := func(format string, args ...any) {
			p := place.InPlan(pos, "output", format, args...)
			p.File = r.plan.File
			r.fail(p)
		}
		if what := real[resolved(at(r.dir, to))]; what != "" {
			refuse("%s is %s of this build and would be overwritten; choose another path", to, what)
			return
		}
		if e := wouldRead(r.plan, path.Clean(to)); e != nil {
			refuse("%s fits the files of %s and would be read as an extract next time; choose another path, or add except: %s", to, e.Name, path.Dir(path.Clean(to))+"/**")
		}
	}
	for _, d := range r.plan.Deliveries {
		check(d.To, d.Pos)
		if resolved(at(r.dir, filepath.Dir(d.To))) == resolved(at(r.dir, r.plan.Record)) && record.Headers[path.Base(d.To)] != nil {
			p := place.InPlan(d.Pos, "output", "%s is a file of the record; choose another path", d.To)
			p.File = r.plan.File
			r.fail(p)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(record.Headers)) {
		if name == record.ChangesFile || real[resolved(at(r.dir, filepath.Join(r.plan.Record, name)))] != "" {
			check(path.Join(r.plan.Record, name), r.plan.RecordPos)
		}
	}
	return len(r.summary.Problems) == before
}

// CheckTarget reports why a file must not be written by a command that has read a plan or
// other files: it is one of them, or no plain file; nil where it may be. p may be nil.
func CheckTarget(p *plan.Plan, inputs []string, file string) error {
	own := resolved(file)
	if p != nil {
		dir := filepath.Dir(p.File)
		if own == resolved(p.File) {
			return errors.New("it is the plan")
		}
		for _, d := range p.Deliveries {
			if own == resolved(at(dir, d.To)) {
				return errors.New("it is a delivery of the plan")
			}
		}
		if filepath.Dir(own) == resolved(at(dir, p.Record)) && record.Headers[filepath.Base(own)] != nil {
			return errors.New("it is a file of the record")
		}
	}
	for _, in := range inputs {
		if own == resolved(in) {
			return errors.New("it is one of the files that were read")
		}
	}
	return nil
}

// SameFile reports whether two paths lead to one file, links followed.
func SameFile(a, b string) bool { return resolved(a) == resolved(b) }

// ReadFiles are the paths of the files that a build has read, or wanted to.
func (s *Summary) ReadFiles() []string {
	dir, p := filepath.Dir(s.Plan.File), s.Plan
	var out []string
	for _, in := range s.Inputs {
		out = append(out, at(dir, in.Name))
	}
	for _, c := range p.Columns {
		if c.Book != "" {
			out = append(out, at(dir, c.Book))
		}
	}
	for _, t := range p.Ties {
		out = append(out, at(dir, t.Entry.Files[0]))
	}
	if p.Corrections != "" {
		out = append(out, at(dir, p.Corrections))
	}
	return out
}

// resolved is a path without links and dots, as far as it is there.
func resolved(file string) string {
	if abs, err := filepath.Abs(file); err == nil {
		file = abs
	}
	rest := ""
	for dir := file; ; dir = filepath.Dir(dir) {
		if real, err := filepath.EvalSymlinks(dir); err == nil {
			return filepath.Join(real, rest)
		}
		if _, err := os.Lstat(dir); dir == filepath.Dir(dir) || strings.HasSuffix(dir, string(filepath.Separator)) && err == nil {
			return file
		}
		rest = filepath.Join(filepath.Base(dir), rest)
	}
}
