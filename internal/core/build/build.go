// Package build runs a plan: extracts in, one fact table and its record out.
//
// One goroutine reads the extracts block by block, workers turn blocks into
// rows of text, one goroutine writes these in order. Blocks hand what depends
// on order (first spellings, currencies) from one to the next, so that any
// number of workers gives the same bytes. What is global (accounts, names,
// problems, the grain) is added up block by block where the blocks are in order
// again. Nothing appears under its own name before every rule has held.
package build

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/whole"
)

// Encoder writes batches in the format of a delivery; each worker has its own.
type Encoder interface {
	// Header returns what stands before all rows.
	Header(names []string) []byte
	// Encode appends the delivered rows of a batch.
	Encode(dst []byte, b *table.Batch) []byte
}

// Options say how to build.
type Options struct {
	Version string // of the program, for build.json
	Command string // its words, for build.json
	Workers int    // how many blocks are worked on at once; 0 for one a core
	DryRun  bool   // deliver and record nothing
	Where   bool   // find out where, and in which years, each name stands
	Begin   bool   // names are decided: a book that is not there, or empty, has no names yet, and others may write to it
	Digests bool   // work out SHA-256 of files of any size
	// File looks into a file of extracts for its tables.
	File func(name string) ([]table.Table, error)
	// Text reads a text file of any encoding as UTF-8.
	Text func(in io.Reader) io.Reader
	// Gaps, if not nil, hears of each cell without a usable value, in the order of
	// the fact table; nothing else is done with repeats or control totals then.
	Gaps func(treat.GapCell)
	// NewEncoder returns an encoder for a delivery.
	NewEncoder func(to string, columns []int) Encoder
	// Progress, if not nil, hears how many bytes of the extracts were read.
	Progress func(done, all int64)
}

// Run builds. What stands in the way, the summary says; deliveries and record
// are then as they were, but for the record of a build that a rule stopped. The
// error is that of ctx, when it ended the build.
func Run(ctx context.Context, p *plan.Plan, o Options) (*Summary, error) {
	begin := time.Now()
	if o.Workers <= 0 {
		o.Workers = runtime.GOMAXPROCS(0)
	}
	r := &run{ctx: ctx, plan: p, options: o, dir: filepath.Dir(p.File), summary: &Summary{Plan: p, DryRun: o.DryRun}}
	defer r.cleanUp()
	r.prepare()
	if len(r.summary.Problems) == 0 || r.summary.ExitCode() == 3 {
		r.prepared = slices.Clone(r.summary.Problems)
		r.pipeline()
		if o.Gaps == nil {
			r.repeat()
		}
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	r.conclude()
	r.summary.Seconds = time.Since(begin).Seconds()
	r.publish()
	return r.summary, nil
}

// run is one build under way.
type run struct {
	ctx     context.Context
	plan    *plan.Plan
	options Options
	dir     string // of the plan
	summary *Summary

	inputs      []input
	books       []*names.Book            // by column
	labels      []*names.Book            // further ones that know a label
	opened      map[string][]table.Table // the files of extracts, by path
	shared      *treat.Shared            // what blocks have handed on
	columns     []int                    // those delivered
	deliveries  []*whole.File
	record      map[string]*whole.File
	folders     folders
	lock        *lock
	prepared    place.List // what was wrong before anything was read
	grain       *grain
	spill       *spill         // of the grain, to be removed
	again       *marked        // what becomes of rows whose grain stands again
	looking     *marked        // rows that are looked for …
	looked      func(lookedAt) // … and who hears of them
	controls    []*control
	batches     func(extract int, t *treat.Worker) // hears of each batch, if not nil
	slots       [][]string                         // the wide headers of each extract, for the grain
	headers     []layout.Header
	places      map[[2]int]treat.Places // by extract and column
	corrections []*correction
	cells       map[place.Place][]readCells // by file, sheet and member: what was read into measures
	headChanges map[headKey]bool            // changes above the rows that are on record
	failed      error                       // of writing
	done        bool                        // published
}

func (r *run) fail(p place.Problem) { r.summary.Problems.Add(p) }

// prepare finds all that the build needs, before any work is done.
func (r *run) prepare() {
	r.findInputs()
	r.readBooks()
	r.readCorrections()
	if r.options.Gaps == nil {
		r.readControls()
	}
	r.summary.Books = r.books
	for i, c := range r.plan.Columns {
		if c.Kept {
			r.columns = append(r.columns, i)
		}
	}
	r.grain = newGrain(r.plan)
	if r.checkTargets() && !r.options.DryRun && r.lockRecord() {
		r.openOutputs()
	}
}

func (r *run) readBooks() {
	r.books = make([]*names.Book, len(r.plan.Columns))
	read := map[string]*names.Book{}
	for i, c := range r.plan.Columns {
		if c.Book == "" {
			continue
		}
		if b, ok := read[c.Book]; ok {
			r.books[i] = b
			continue
		}
		b, err := r.readBook(c.Book)
		var list place.List
		switch {
		case errors.As(err, &list):
			r.summary.Problems.Merge(list)
		case err != nil:
			p := place.At(place.Place{File: c.Book}, "book", "the book cannot be read: %s", reason(err))
			p.Plan, p.Advice = c.BookPos, "a book is a CSV file; its first line is seen,standard"
			r.fail(p)
		}
		read[c.Book], r.books[i] = b, b
	}
}

func (r *run) readBook(file string) (*names.Book, error) {
	info, err := os.Stat(at(r.dir, file))
	if r.options.Begin && (errors.Is(err, fs.ErrNotExist) || err == nil && info.Size() == 0) {
		return names.ReadBook(file, strings.NewReader("seen,standard\n"))
	}
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, errors.New("it is no plain file")
	}
	f, err := os.Open(at(r.dir, file))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := names.ReadBook(file, r.options.Text(f))
	if err == nil {
		r.addInput(file, info)
	}
	return b, err
}

// openOutputs begins all files that the build will write.
func (r *run) openOutputs() {
	create := func(file string, pos place.Pos) *whole.File {
		full := at(r.dir, file)
		err := r.folders.make(filepath.Dir(full))
		var o *whole.File
		if err == nil {
			o, err = whole.Create(full, r.lock.mark)
		}
		if err != nil {
			p := place.At(place.Place{File: file}, "output", "the file cannot be written: %s", reason(err))
			p.Plan, p.Advice = pos, "nothing was read or written yet; choose another path, or make room for this one"
			r.fail(p)
			return nil
		}
		return o
	}
	for _, d := range r.plan.Deliveries {
		o := create(d.To, d.Pos)
		if o == nil {
			return
		}
		r.deliveries = append(r.deliveries, o)
	}
	r.record = map[string]*whole.File{}
	for _, name := range []string{record.RowsFile, record.ChangesFile, record.NamesFile, record.HeldFile, record.LeftOutFile, record.TiesFile, record.ChecksFile, record.BuildFile} {
		o := create(path.Join(r.plan.Record, name), r.plan.RecordPos)
		if o == nil {
			return
		}
		r.record[name] = o
	}
	r.beginRecord()
}

// beginRecord writes the header lines of the record.
func (r *run) beginRecord() {
	for name, o := range r.record {
		if name != record.BuildFile {
			r.write(o, []byte(record.Line(name)))
		}
	}
}

// recordFiles are the files of the record.
func (r *run) recordFiles() []*whole.File {
	var out []*whole.File
	for _, o := range r.record {
		out = append(out, o)
	}
	return out
}

// write appends to an output; the first failure ends the build.
func (r *run) write(o *whole.File, b []byte) {
	if r.failed != nil || o == nil || len(b) == 0 {
		return
	}
	if _, err := o.Write(b); err != nil {
		r.failed = err
		p := place.At(place.Place{File: r.shown(o)}, "output", "the file cannot be written: %s", reason(err))
		p.Advice = "make room on the disk and build again; the older files are as they were"
		r.fail(p)
	}
}

// shown is how messages call an output.
func (r *run) shown(o *whole.File) string {
	for i, d := range r.deliveries {
		if d == o {
			return r.plan.Deliveries[i].To
		}
	}
	return path.Join(r.plan.Record, filepath.Base(o.Target))
}

// conclude checks what only the whole build can tell.
func (r *run) conclude() {
	r.checkCorrections()
	r.compareControls()
	s := r.summary
	for i := range s.Extracts {
		e := &s.Extracts[i]
		s.FactRows += e.Rows.Fact
		for _, m := range e.Measures {
			if t := e.Accounts[m].Totals(); t.Difference.Sign() != 0 || !e.Rows.Balanced() {
				p := place.At(place.Place{File: e.File, Sheet: e.Sheet}, "account", "column %s does not tie: read %s + changed %s is not fact %s + held %s + left out %s",
					s.Plan.Columns[m].Name, t.Read, t.Changed, t.Fact, t.Held, t.LeftOut)
				p.Advice = "this is a mistake in the program, not in your extracts; please report it"
				r.fail(p)
			}
		}
	}
	for i := range s.Inputs {
		in := &s.Inputs[i]
		if !r.options.Begin || !slices.ContainsFunc(r.plan.Columns, func(c *plan.Column) bool { return c.Book == in.Name }) {
			r.checkInput(in)
		}
		in.Digest = digestOf(at(r.dir, in.Name), in.Bytes, r.options.Digests)
	}
	if r.options.Gaps == nil {
		r.checkCopies()
		r.warnPlaces()
		r.findNotRead()
	}
	s.sortChanges()
	s.sortEmpties()
	s.listUnknown(r.books)
	for i := range s.Problems {
		s.explain(&s.Problems[i])
	}
	s.sortProblems()
}

// publish lets the files appear: deliveries if nothing stops the build, the
// record if the extracts could be read. build.json goes first and comes last, so
// that no record is ever taken for another build's.
func (r *run) publish() {
	s := r.summary
	if r.options.DryRun || s.ExitCode() == 1 {
		return
	}
	for i := range s.Extracts {
		r.write(r.record[record.RowsFile], record.AppendRows(nil, &s.Extracts[i]))
		r.write(r.record[record.TiesFile], record.AppendTies(nil, s.Plan, &s.Extracts[i]))
	}
	r.writeNames(r.record[record.NamesFile])
	s.Recorded = true
	if s.ExitCode() == 0 {
		for i, d := range r.deliveries {
			s.Deliveries = append(s.Deliveries, FileInfo{Name: s.Plan.Deliveries[i].To, Rows: s.FactRows, Bytes: d.Bytes, Digest: digestOf(d.Temp, d.Bytes, r.options.Digests)})
		}
	}
	last := r.record[record.BuildFile]
	r.write(last, s.Document(r.options.Version, r.options.Command).JSON())
	finished := []*whole.File{}
	if s.ExitCode() == 0 {
		finished = append(finished, r.deliveries...)
	}
	for name, o := range r.record {
		if name != record.BuildFile {
			finished = append(finished, o)
		}
	}
	finished = append(finished, last)
	r.appear(finished, last)
}

// writeNames writes the names, some at a time: there may be very many.
func (r *run) writeNames(o *whole.File) {
	var lines []byte
	for n := range r.summary.Names.All() {
		if lines = record.AppendName(lines, r.summary.Plan, n); len(lines) > 1<<16 {
			r.write(o, lines)
			lines = lines[:0]
		}
	}
	r.write(o, lines)
}

// appear finishes all outputs and then renames them, one after another.
func (r *run) appear(finished []*whole.File, last *whole.File) {
	step := func(o *whole.File, do func() error) bool {
		if err := do(); err != nil && r.failed == nil {
			r.failed = err
			p := place.At(place.Place{File: r.shown(o)}, "output", "the file cannot be written: %s", reason(err))
			r.fail(p)
		}
		return r.failed == nil
	}
	for _, o := range finished {
		if !step(o, o.Finish) {
			break
		}
	}
	if r.failed == nil {
		os.Remove(last.Target)
		for _, o := range finished {
			if !step(o, o.Publish) {
				break
			}
		}
	}
	if r.failed != nil {
		r.summary.Recorded, r.summary.Deliveries = false, nil
		return
	}
	r.done = true
}

// cleanUp removes what is not published.
func (r *run) cleanUp() {
	for i, o := range r.deliveries {
		if !r.done || i >= len(r.summary.Deliveries) {
			o.Abandon()
		}
	}
	for _, o := range r.record {
		if !r.done {
			o.Abandon()
		}
	}
	r.spill.close()
	r.lock.release()
	r.folders.remove()
}
