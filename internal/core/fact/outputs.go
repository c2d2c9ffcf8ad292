package fact

import (
	"errors"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/deliver"
	"umbau/internal/core/keep"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// outputs are the deliveries and the record of a build, which appear together or not at
// all. A build that writes nothing has none: nil.
type outputs struct {
	fail     func(place.Problem)
	failed   bool
	outs     []*out
	record   *record.Files
	folder   string // of the record, as the plan names it
	folders  whole.Folders
	lock     *lock
	recorded bool // the record has

	taken func(file string) (what string) // which of the files that the build reads one is; "" for none
}

// out is a delivery under way.
type out struct {
	table.Sink
	of       *plan.Delivery
	to       string // as a person sees it
	broken   bool   // it has not begun
	appeared bool
}

// openOutputs begins all files that the build will write.
func (b *build) openOutputs() {
	sources := b.realSources()
	o := &outputs{fail: b.fail, folder: b.plan.Record, taken: func(file string) string { return sources[whole.Resolved(b.plan.At(file))] }}
	b.out = o
	if !b.lockRecord(o) {
		return
	}
	for i := range b.plan.Deliveries {
		d := &b.plan.Deliveries[i]
		s, err := deliver.New(d, deliver.Options{Plan: b.plan, Mark: o.lock.mark, Make: func(file string) error {
			return o.folders.Make(filepath.Dir(file))
		}})
		if err != nil {
			o.cannotBegin(plan.Shown(d.To), d.Pos, err)
			return
		}
		o.outs = append(o.outs, &out{Sink: s, of: d, to: plan.Shown(d.To)})
	}
	files := record.Names()
	if b.rules.Lookups == nil {
		files = slices.DeleteFunc(files, func(name string) bool { return name == record.UnmatchedFile })
	}
	o.record = record.Create(files, func(name string) *whole.File {
		name = path.Join(o.folder, name)
		f, err := whole.Create(b.plan.At(name), o.lock.mark)
		if err != nil {
			o.cannotBegin(name, b.plan.RecordPos, err)
			return nil
		}
		return f
	}, func(name string, err error) { o.full(path.Join(o.folder, name), err) })
}

func (o *outputs) cannotBegin(file string, pos place.Pos, err error) {
	if o.told(err) {
		return
	}
	p := place.At(place.Place{File: file}, "output", "the %s: %s", cannotBe(file), whole.Reason(err))
	p.Plan, p.Advice = pos, "nothing was read or written yet; choose another path, or make room for this one"
	if plan.IsAddress(file) {
		p.Advice = "nothing was read or written yet; is it the database that is meant?"
	}
	o.fail(p)
}

// full reports a file that could not be written to; the first ends the build.
func (o *outputs) full(file string, err error) {
	advice := "make room on the disk and build again; the older files are as they were"
	if plan.IsAddress(file) {
		advice = "see to the database and build again; what was delivered before is as it was"
	}
	o.cannot(file, err, advice)
}

func (o *outputs) cannot(file string, err error, advice string) {
	if o.failed {
		return
	}
	o.failed = true
	if o.told(err) {
		return
	}
	p := place.At(place.Place{File: file}, "output", "the %s: %s", cannotBe(file), whole.Reason(err))
	p.Advice = advice
	o.fail(p)
}

// cannotBe says what cannot be done with a file, or a database.
func cannotBe(to string) string {
	if plan.IsAddress(to) {
		return "table cannot be filled"
	}
	return "file cannot be written"
}

// told reports the problems that an error is, if it is some.
func (o *outputs) told(err error) bool {
	var list place.List
	if !errors.As(err, &list) {
		return false
	}
	for _, p := range list {
		o.fail(p)
	}
	return true
}

// begin begins all outputs, or begins them again with nothing.
func (o *outputs) begin(p *plan.Plan) {
	if o == nil {
		return
	}
	for _, d := range o.outs {
		if err := d.Begin(deliver.Columns(p, d.of)); err != nil {
			d.broken = true
			o.full(d.to, err)
		}
	}
	if err := o.record.Begin(); err != nil {
		o.full(o.folder, err)
	}
}

// keepers write what comes with the rows.
func (o *outputs) keepers() (out []pass.Keeper) {
	if o == nil {
		return nil
	}
	for _, d := range o.outs {
		if d.broken {
			continue
		}
		out = append(out, &deliver.Keeper{Sink: d, Origin: d.of.Origin, Failed: func(err error) { o.full(d.to, err) }})
	}
	return append(out, keep.NewLines(o.record))
}

// writeNames writes the names, some at a time: there may be very many.
func (o *outputs) writeNames(p *plan.Plan, tally *names.Tally) {
	var lines []byte
	for n := range tally.All() {
		if lines = record.AppendName(lines, p, n); len(lines) > 1<<16 {
			o.record.Write(record.NamesFile, lines)
			lines = lines[:0]
		}
	}
	o.record.Write(record.NamesFile, lines)
}

// end ends the deliveries, of so many rows, and says what they are and what is to be said
// of them. Those that show the build come last: tell says what there is to tell, with the others.
func (o *outputs) end(rows int, digests bool, tell func(others []FileInfo) table.Told) (files []FileInfo, remarks []string) {
	files = make([]FileInfo, len(o.outs))
	var order, last []int
	for i, d := range o.outs {
		if _, tells := d.Sink.(table.Telling); tells {
			last = append(last, i)
		} else {
			order = append(order, i)
		}
	}
	for _, i := range append(order, last...) {
		d := o.outs[i]
		if t, ok := d.Sink.(table.Telling); ok {
			t.Tell(tell(slices.DeleteFunc(slices.Clone(files), func(f FileInfo) bool { return f.Name == "" })))
		}
		written, err := d.End()
		if err != nil {
			o.cannot(d.to, err, "")
			return nil, nil
		}
		one := FileInfo{Name: d.to, Rows: rows, Table: d.of.Table}
		for _, w := range written {
			if w.Rows < 0 {
				w.Rows = rows
			}
			if what := o.taken(w.To); w.To != "" && what != "" {
				o.overwrites(d, w.To, what)
				return nil, nil
			}
			digest := &w.Digest
			if w.Digest == "" || w.Bytes > DigestLimit && !digests {
				digest = digestOf(w.File, w.Bytes, digests)
			}
			one.Bytes += w.Bytes
			if w.To == "" {
				one.Digest = digest
				continue
			}
			one.Files = append(one.Files, FileInfo{Name: w.To, Rows: w.Rows, Bytes: w.Bytes, Digest: digest})
		}
		files[i] = one
		for _, text := range table.RemarksOf(d.Sink) {
			remarks = append(remarks, d.to+": "+text)
		}
	}
	return files, remarks
}

// overwrites reports a file of a delivery that the build reads: its path has a value of the rows in it.
func (o *outputs) overwrites(d *out, file, what string) {
	p := place.At(place.Place{File: file}, "output", "the file is %s of this build and would be overwritten", what)
	p.Plan, p.Advice = d.of.Pos, "nothing was delivered; choose another path for the delivery, such as a folder of its own"
	o.failed = true
	o.fail(p)
}

// appear lets the outputs appear, one after another, and reports whether all have; the
// deliveries only if they are to.
func (o *outputs) appear(deliver bool) bool {
	if name, err := o.record.End(); err != nil {
		o.cannot(path.Join(o.folder, name), err, "")
	}
	if o.failed {
		return false
	}
	o.record.Retire()
	if deliver && !o.publishAll() {
		return false
	}
	if name, err := o.record.Publish(); err != nil {
		o.cannot(path.Join(o.folder, name), err, "")
		return false
	}
	o.recorded = true
	return true
}

// publishAll lets the deliveries appear: databases first, for a server may refuse.
func (o *outputs) publishAll() bool {
	var order, others []*out
	for _, d := range o.outs {
		if d.of.Database() {
			order = append(order, d)
		} else {
			others = append(others, d)
		}
	}
	order = append(order, others...)
	var before []string
	for i, d := range order {
		if err := d.Publish(); err != nil {
			var old []string
			for _, d := range order[i:] {
				old = append(old, d.to)
			}
			advice := ""
			if len(before) > 0 {
				advice = strings.Join(before, ", ") + " new, " + strings.Join(old, ", ") + " as before; build again"
			}
			o.cannot(d.to, err, advice)
			return false
		}
		d.appeared = true
		before = append(before, d.to)
	}
	return true
}

// abandon removes what has not appeared.
func (o *outputs) abandon() {
	if o == nil {
		return
	}
	for _, d := range o.outs {
		if !d.appeared {
			d.Abandon()
		}
	}
	if !o.recorded {
		o.record.Abandon()
	}
	o.lock.release()
	o.folders.Remove()
}
