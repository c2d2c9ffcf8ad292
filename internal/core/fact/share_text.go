package fact

import (
	"io"
	"os"
	"path/filepath"

	"umbau/internal/core/deliver"
	"umbau/internal/core/pass"
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// A delivery of plain lines is encoded by the shares, and copied by the join.

// lined is the sink of a delivery that is plain lines of text in the order of the rows, to be used for
// nothing but encoding; nil for another delivery.
func (b *build) lined(i int, dir string) (table.Lined, error) {
	d := &b.plan.Deliveries[i]
	outlet := b.plan.Formats.OutletOf(d.To)
	if outlet == nil || !outlet.Text || d.Origin || d.Star != nil || d.Describe || len(d.Sort) > 0 || divided(d) {
		return nil, nil
	}
	return linesOf(outlet, dir)
}

// linesOf is a sink of an outlet, in a folder, if it is one of plain lines; nil if not.
func linesOf(outlet *table.Outlet, dir string) (table.Lined, error) {
	s, err := outlet.NewSink(table.Target{To: filepath.Join(dir, "text"), Mark: ".umbau-aside-"})
	if err != nil {
		return nil, err
	}
	l, ok := s.(table.Lined)
	if !ok || !l.Lines() {
		s.Abandon()
		return nil, nil
	}
	return l, nil
}

// textsOf begins the texts of deliveries that are plain lines; rows are those that other
// deliveries of one file need.
func (b *build) textsOf(dir string) (list []*textKeeper, rows wantedRows, err error) {
	for i := range b.plan.Deliveries {
		l, err := b.lined(i, dir)
		if err != nil {
			return list, rows, err
		}
		if l == nil {
			if !divided(&b.plan.Deliveries[i]) {
				rows = allRows
			}
			continue
		}
		list = append(list, &textKeeper{delivery: i, sink: l})
		if err := l.Begin(deliver.Columns(b.plan, &b.plan.Deliveries[i])); err != nil {
			return list, rows, err
		}
	}
	return list, rows, nil
}

// textKeeper keeps the text of a delivery.
type textKeeper struct {
	delivery int
	sink     table.Lined
	to       io.Writer
	file     *whole.File // where it waits; nil where it goes to the part at once
	counted  int
	failed   error
}

// wait lets the text wait in a file in a folder.
func (k *textKeeper) wait(dir string) (err error) {
	k.file, err = whole.Create(filepath.Join(dir, textSection(k.delivery)), ".umbau-aside-")
	k.to = k.file
	return err
}

func (k *textKeeper) abandon() {
	k.sink.Abandon()
	if k.file != nil {
		k.file.Abandon()
	}
}

// read reads the text so far.
func (k *textKeeper) read(read func(io.Reader) error) error {
	f, err := os.Open(k.file.Temp)
	if err != nil {
		return err
	}
	defer f.Close()
	return read(f)
}

// Part implements pass.Keeper.
func (k *textKeeper) Part() pass.Part {
	return &textPart{to: k, part: k.sink.Part().(table.LinedPart)}
}

type textPart struct {
	to   *textKeeper
	part table.LinedPart
}

// See implements pass.Part.
func (p *textPart) See(b *pass.Block) { p.part.Encode(b.Batch) }

// Take implements pass.Part.
func (p *textPart) Take() {
	text, counted := p.part.Text()
	if p.to.counted += counted; p.to.failed == nil {
		_, p.to.failed = p.to.to.Write(text)
	}
}

// copyText gives the text of a part to a delivery.
func (b *build) copyText(d *out, in io.Reader, counted int) error {
	to := d.Sink.(table.Lined)
	buffer := make([]byte, 1<<20)
	for {
		n, err := io.ReadFull(in, buffer)
		if n > 0 && !b.out.failed {
			if failed := to.PutText(buffer[:n], counted); failed != nil {
				b.out.full(d.to, failed)
			}
			counted = 0
		}
		switch {
		case err == io.EOF || err == io.ErrUnexpectedEOF:
			return b.ctx.Err()
		case err != nil:
			return err
		}
	}
}
