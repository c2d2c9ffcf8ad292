package fact

import (
	"errors"
	"path"
	"path/filepath"
	"slices"

	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/whole"
)

// checkTargets refuses outputs that would overwrite what the build reads, or
// that the next build would take for extracts.
func (b *build) checkTargets() bool {
	before := len(b.summary.Problems)
	real := b.realSources()
	check := func(to string, pos place.Pos) {
		refuse := func(format string, args ...any) {
			p := place.InPlan(pos, "output", format, args...)
			p.File = b.plan.File
			b.fail(p)
		}
		if what := real[whole.Resolved(b.plan.At(to))]; what != "" {
			refuse("%s is %s of this build and would be overwritten; choose another path", to, what)
			return
		}
		if e := pass.WouldRead(b.plan, path.Clean(to)); e != nil {
			refuse("%s fits the files of %s and would be read as an extract next time; choose another path, or add except: %s", to, e.Name,
				path.Dir(path.Clean(to))+"/**")
		}
	}
	for i := range b.plan.Deliveries {
		d := &b.plan.Deliveries[i]
		to := d.File()
		if to == "" { // a server
			continue
		}
		check(to, d.Pos)
		if whole.Resolved(filepath.Dir(b.plan.At(to))) == whole.Resolved(b.plan.At(b.plan.Record)) &&
			slices.Contains(record.Names(), path.Base(to)) {
			p := place.InPlan(d.Pos, "output", "%s is a file of the record; choose another path", d.To)
			p.File = b.plan.File
			b.fail(p)
		}
	}
	for _, name := range record.Names() {
		if name == record.ChangesFile || real[whole.Resolved(b.plan.At(path.Join(b.plan.Record, name)))] != "" {
			check(path.Join(b.plan.Record, name), b.plan.RecordPos)
		}
	}
	return len(b.summary.Problems) == before
}

// realSources are those by their paths without links.
func (b *build) realSources() map[string]string {
	real := map[string]string{}
	for file, what := range b.sources() {
		real[whole.Resolved(file)] = what
	}
	return real
}

// sources are the files that the build reads, and what they are.
func (b *build) sources() map[string]string {
	sources := map[string]string{b.plan.File: "the plan"}
	for _, in := range b.inputs {
		sources[b.plan.At(in.Path)] = "an extract"
	}
	for _, file := range b.references {
		sources[b.plan.At(file)] = "a reference"
	}
	for _, t := range b.plan.Ties {
		for _, file := range t.Entry.Files {
			sources[b.plan.At(file)] = "a control file"
		}
	}
	if b.plan.Corrections != "" {
		sources[b.plan.At(b.plan.Corrections)] = "the file of corrections"
	}
	for _, c := range b.plan.Columns {
		if c.Book != "" {
			sources[b.plan.At(c.Book)] = "a book"
		}
	}
	return sources
}

// SourceFiles are the files that a plan names beside its extracts: references, control files, books and
// corrections.
func SourceFiles(p *plan.Plan) (out []string) {
	add := func(file string) {
		if file != "" {
			out = append(out, p.At(file))
		}
	}
	for _, r := range p.References {
		for _, file := range r.Entry.Files {
			add(file)
		}
	}
	for _, t := range p.Ties {
		for _, file := range t.Entry.Files {
			add(file)
		}
	}
	for _, c := range p.Columns {
		add(c.Book)
	}
	add(p.Corrections)
	return out
}

// CheckTarget reports why a file must not be written by a command that has read a plan or
// other files: it is one of them, or no plain file; nil where it may be. p may be nil.
func CheckTarget(p *plan.Plan, inputs []string, file string) error {
	own := whole.Resolved(file)
	if p != nil {
		if own == whole.Resolved(p.File) {
			return errors.New("it is the plan")
		}
		for i := range p.Deliveries {
			if to := p.Deliveries[i].File(); to != "" && own == whole.Resolved(p.At(to)) {
				return errors.New("it is a delivery of the plan")
			}
		}
		if filepath.Dir(own) == whole.Resolved(p.At(p.Record)) && slices.Contains(record.Names(), filepath.Base(own)) {
			return errors.New("it is a file of the record")
		}
	}
	for _, in := range inputs {
		if own == whole.Resolved(in) {
			return errors.New("it is one of the files that were read")
		}
	}
	return nil
}

// ReadFiles are the paths of the files that a build has read, or wanted to.
func (s *Summary) ReadFiles() []string {
	p := s.Plan
	var out []string
	for _, in := range s.Inputs {
		out = append(out, p.At(in.Name))
	}
	for _, c := range p.Columns {
		if c.Book != "" {
			out = append(out, p.At(c.Book))
		}
	}
	for _, t := range p.Ties {
		for _, file := range t.Entry.Files {
			out = append(out, p.At(file))
		}
	}
	if p.Corrections != "" {
		out = append(out, p.At(p.Corrections))
	}
	return out
}
