package fact

import (
	"path"
	"path/filepath"
	"slices"

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
	to       []string // of the deliveries
	sinks    []table.Sink
	record   *record.Files
	folder   string // of the record, as the plan names it
	folders  whole.Folders
	lock     *lock
	appeared bool // the deliveries have
	recorded bool // the record has
}

// openOutputs begins all files that the build will write.
func (b *build) openOutputs() {
	o := &outputs{fail: b.fail, folder: b.plan.Record}
	b.out = o
	if !b.lockRecord(o) {
		return
	}
	for _, d := range b.plan.Deliveries {
		target := table.Target{To: b.plan.At(d.To), Mark: o.lock.mark}
		err := o.folders.Make(filepath.Dir(target.To))
		var s table.Sink
		if err == nil {
			s, err = b.plan.Formats.SinkOf(d.To)(target)
		}
		if err != nil {
			o.cannotBegin(d.To, d.Pos, err)
			return
		}
		o.sinks, o.to = append(o.sinks, s), append(o.to, d.To)
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
	p := place.At(place.Place{File: file}, "output", "the file cannot be written: %s", whole.Reason(err))
	p.Plan, p.Advice = pos, "nothing was read or written yet; choose another path, or make room for this one"
	o.fail(p)
}

// full reports a file that could not be written to; the first ends the build.
func (o *outputs) full(file string, err error) {
	o.cannot(file, err, "make room on the disk and build again; the older files are as they were")
}

func (o *outputs) cannot(file string, err error, advice string) {
	if o.failed {
		return
	}
	o.failed = true
	p := place.At(place.Place{File: file}, "output", "the file cannot be written: %s", whole.Reason(err))
	p.Advice = advice
	o.fail(p)
}

// begin begins all outputs, or begins them again with nothing.
func (o *outputs) begin(p *plan.Plan) {
	if o == nil {
		return
	}
	var columns []table.SinkColumn
	for _, ci := range p.Kept() {
		c := p.Columns[ci]
		columns = append(columns, table.SinkColumn{Index: ci, Name: c.Name, Is: c.Kind.String(), Decimals: c.Decimals})
	}
	for i, s := range o.sinks {
		if err := s.Begin(columns); err != nil {
			o.full(o.to[i], err)
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
	for i, s := range o.sinks {
		out = append(out, &keep.Delivery{Sink: s, Failed: func(err error) { o.full(o.to[i], err) }})
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

// end ends the deliveries, of so many rows.
func (o *outputs) end(rows int, digests bool) (out []FileInfo) {
	for i, s := range o.sinks {
		bytes, file, err := s.End()
		if err != nil {
			o.cannot(o.to[i], err, "")
			return nil
		}
		out = append(out, FileInfo{Name: o.to[i], Rows: rows, Bytes: bytes, Digest: digestOf(file, bytes, digests)})
	}
	return out
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
	for i, s := range o.sinks {
		if !deliver {
			break
		}
		if err := s.Publish(); err != nil {
			o.cannot(o.to[i], err, "")
			return false
		}
	}
	if name, err := o.record.Publish(); err != nil {
		o.cannot(path.Join(o.folder, name), err, "")
		return false
	}
	o.appeared, o.recorded = deliver, true
	return true
}

// abandon removes what has not appeared.
func (o *outputs) abandon() {
	if o == nil {
		return
	}
	for _, s := range o.sinks {
		if !o.appeared {
			s.Abandon()
		}
	}
	if !o.recorded {
		o.record.Abandon()
	}
	o.lock.release()
	o.folders.Remove()
}
