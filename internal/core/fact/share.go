package fact

import (
	"bufio"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"umbau/internal/core/deliver"
	"umbau/internal/core/keep"
	"umbau/internal/core/parts"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/terms"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// A build cut into shares. A share reads a run of the extracts, or pieces of them, as if there were no
// others, and leaves in a part what it has kept of them, the lines of the record, and the fact rows. The join merges what
// was kept in the order of the extracts, and gives the fact rows to the deliveries. What a share could
// not know is how names were spelt before its own extracts, and in which currency amounts were: where
// that matters, and where rows repeat the grain, the join reads the extracts again, as a build does.

// Share is one of the shares of a build.
type Share struct {
	N, Of int    // from 1
	Dir   string // of the parts
}

// about is what a part is of.
type about struct {
	Version string
	Plan    string // the digest of its text
	N, Of   int
	Inputs  []inputStamp
}

// inputStamp is a file that was read, as it was then.
type inputStamp struct {
	Name  string
	Bytes int64
	Time  time.Time
}

// shareState is what a share knows of its extracts beside what keepers keep.
type shareState struct {
	Inputs     map[int]inputState // by extract
	Checks     []keep.Check
	Met        place.List
	Within     place.List
	Firsts     []map[string]string
	Currencies []string
	Passed     [][]string
	Texts      map[int]int // by delivery whose text is kept: what was counted in it
	Pieces     []*treat.PieceEnd
	Broken     []int // extracts that could not be read to their end
	Cuts       []pass.Cut
	Heads      []keep.HeadLine     // among the changes
	Rows       bool                // there are fact rows
	Files      map[int][]shareFile // by delivery of several files
}

type inputState struct {
	Size     int64
	Measures []int
	Slots    []string
	Headers  []string
	Says     []terms.Said
	Doubts   place.List
}

// sections of a part, beside the files of the record.
const (
	rowsSection   = "rows"
	stateSection  = "state"
	stripsSection = "strips"
)

// textSection names the section of a delivery's text.
func textSection(delivery int) string { return fmt.Sprintf("text-%d", delivery) }

// keptSection names the section of a keeper.
func keptSection(i int) string { return fmt.Sprintf("kept-%d", i) }

// about says what a part of the build would be of.
func (b *build) about(n, of int) about {
	digest := sha256.Sum256(b.plan.Source())
	a := about{Version: b.options.Version, Plan: hex.EncodeToString(digest[:]), N: n, Of: of}
	for _, in := range b.summary.Inputs {
		if in.found != nil {
			a.Inputs = append(a.Inputs, inputStamp{in.Name, in.found.Size(), in.found.ModTime().UTC()})
		}
	}
	return a
}

// portable are the keepers that travel, in their order.
func (k *kept) portable() []pass.Portable {
	list := []pass.Portable{k.accounts, &k.names, k.changes, &k.notes, &k.applied, k.noSales, k.values, &k.sections}
	if k.grain != nil {
		list = append(list, k.grain)
	}
	if k.lookups != nil {
		list = append(list, k.lookups)
	}
	for _, g := range k.groups {
		list = append(list, g)
	}
	if k.history != nil {
		list = append(list, k.history)
	}
	return list
}

// readShare reads the extracts of a share, and leaves its part.
func (b *build) readShare(share *Share) {
	w, err := b.writeShare(share)
	if err != nil {
		if w != nil {
			w.Abandon()
		}
		p := place.At(place.Place{File: filepath.Join(share.Dir, parts.Name(share.N, share.Of))}, "output", "the part cannot be written: %s",
			whole.Reason(err))
		p.Advice = "make room in the folder of the parts, and run the share again"
		b.fail(p)
	}
}

func (b *build) writeShare(share *Share) (w *parts.Writer, err error) {
	if err := os.MkdirAll(share.Dir, 0o777); err != nil {
		return nil, err
	}
	if w, err = parts.Create(share.Dir, share.N, share.Of); err != nil {
		return nil, err
	}
	own := b.cut(share.Of)[share.N-1]
	b.rules.Piece = own.of
	s := sharing{build: b, w: w, state: shareState{Inputs: map[int]inputState{}, Texts: map[int]int{}}}
	defer s.abandon()
	keepers, err := s.keepers(share)
	if err != nil {
		return w, err
	}
	pass.Run(b.ctx, &b.rules, b.inputs, keepers...)
	if err := b.ctx.Err(); err != nil {
		return w, err
	}
	if err := s.finish(); err != nil {
		return w, err
	}
	return w, w.Publish(b.about(share.N, share.Of))
}

// sharing is a share that is being read: what its part shall hold.
type sharing struct {
	build *build
	w     *parts.Writer
	state shareState
	rows  *rowsSink // nil when every delivery is text
	lines *record.Files
	texts []*textKeeper
	files []*filesKeeper

	changes *keep.Lines
	strips  keep.Strips
}

// keepers are what keeps from the share's blocks; what is long goes into files in the folder.
func (s *sharing) keepers(share *Share) ([]pass.Keeper, error) {
	b, dir := s.build, share.Dir
	b.rules.Ended = func(e pass.Ended) {
		s.state.Firsts, s.state.Currencies, s.state.Passed, s.state.Pieces = e.Firsts, e.Currencies, e.Passed, e.Pieces
		s.state.Broken, s.state.Cuts = e.Broken, e.Cuts
		s.state.Met, s.state.Within = append(s.state.Met, e.Met...), append(s.state.Within, e.Within...)
	}
	var rows, more wantedRows
	var err error
	if s.texts, rows, err = b.textsOf(dir); err != nil {
		return nil, err
	}
	if s.files, more, err = b.filesOf(share); err != nil {
		return nil, err
	}
	if err := s.stream(max(rows, more), dir); err != nil {
		return nil, err
	}
	if s.lines, err = record.Aside(dir, stripsSection); err != nil {
		return nil, err
	}
	checks := &keep.Checks{To: func(c keep.Check) { s.state.Checks = append(s.state.Checks, c) }}
	s.strips.Write = func(text []byte) { s.lines.Write(stripsSection, text) }
	s.changes = keep.NewLines(s.lines)
	var keepers []pass.Keeper
	for _, k := range b.kept.portable() {
		keepers = append(keepers, k)
	}
	keepers = append(keepers, checks, &s.strips, s.changes)
	if s.rows != nil {
		keepers = append(keepers, s.rows)
	}
	for _, t := range s.texts {
		keepers = append(keepers, t)
	}
	for _, f := range s.files {
		keepers = append(keepers, f)
	}
	return keepers, nil
}

// stream opens the section of the part that is written while the share is read: the fact rows, or the
// first text where all deliveries are text. Other texts wait in files.
func (s *sharing) stream(rows wantedRows, dir string) error {
	waits := s.texts
	switch {
	case rows != noRows:
		to, err := s.w.Section(rowsSection)
		if err != nil {
			return err
		}
		s.state.Rows = true
		s.rows = &rowsSink{to: bufio.NewWriterSize(to, 1<<18), plan: s.build.plan, only: rows}
	case len(s.texts) > 0:
		to, err := s.w.Section(textSection(s.texts[0].delivery))
		if err != nil {
			return err
		}
		s.texts[0].to, waits = to, waits[1:]
	}
	for _, t := range waits {
		if err := t.wait(dir); err != nil {
			return err
		}
	}
	return nil
}

// finish writes what was kept into the part.
func (s *sharing) finish() error {
	if s.rows != nil {
		if err := errors.Join(s.rows.failed, s.rows.to.Flush()); err != nil {
			return err
		}
	}
	for _, t := range s.texts {
		if t.failed != nil {
			return t.failed
		}
		s.state.Texts[t.delivery] = t.counted
	}
	for i, in := range s.build.inputs {
		if !s.build.rules.Piece(i).None {
			s.state.Inputs[i] = inputState{in.Size, in.Measures, in.Slots, in.Headers, in.Says, in.Doubts}
		}
	}
	if s.strips.Failed != nil {
		return s.strips.Failed
	}
	s.state.Heads = s.changes.HeadsOf(s.build.rules.Piece)
	for i, k := range s.build.kept.portable() {
		if err := s.w.Put(keptSection(i), k); err != nil {
			return err
		}
	}
	s.state.Files = map[int][]shareFile{}
	for _, f := range s.files {
		var err error
		if s.state.Files[f.delivery], err = f.publish(); err != nil {
			return err
		}
	}
	if err := s.w.Put(stateSection, &s.state); err != nil {
		return err
	}
	if err := s.lines.Each(s.copy); err != nil {
		return err
	}
	for _, t := range s.texts {
		if t.file == nil {
			continue
		}
		if err := t.read(func(in io.Reader) error { return s.copy(textSection(t.delivery), in) }); err != nil {
			return err
		}
	}
	return nil
}

// copy makes a section of the part from what a file holds.
func (s *sharing) copy(name string, in io.Reader) error {
	to, err := s.w.Section(name)
	if err == nil {
		_, err = io.Copy(to, in)
	}
	return err
}

// abandon removes the files that were kept aside.
func (s *sharing) abandon() {
	for _, f := range s.files {
		f.divided.Abandon()
	}
	for _, t := range s.texts {
		t.abandon()
	}
	if s.lines != nil {
		s.lines.Abandon()
	}
}

// wantedRows are the fact rows that the join may need.
type wantedRows uint8

const (
	noRows  wantedRows = iota
	cutRows            // of extracts of which other shares read pieces
	allRows
)

// rowsSink is a keeper that writes the delivered fact rows, block by block: where each stands, and what
// each column that is delivered has.
type rowsSink struct {
	to     *bufio.Writer
	plan   *plan.Plan
	only   wantedRows
	failed error
}

// Part implements pass.Keeper.
func (k *rowsSink) Part() pass.Part { return &rowsPart{to: k} }

type rowsPart struct {
	to      *rowsSink
	text    []byte
	scratch []byte
	rows    int
}

// See implements pass.Part.
func (p *rowsPart) See(b *pass.Block) {
	p.text, p.rows = p.text[:0], 0
	if p.to.only == cutRows && !b.Program.Cut {
		return
	}
	kept := p.to.plan.Kept()
	for row, slot := range b.Delivered {
		p.text = binary.AppendUvarint(p.text, uint64(b.Position(row, slot)))
		for _, ci := range kept {
			p.scratch = b.Batch.AppendText(p.scratch[:0], &b.Batch.Columns[ci], row, slot)
			p.text = append(binary.AppendUvarint(p.text, uint64(len(p.scratch))), p.scratch...)
		}
		p.rows++
	}
}

// Take implements pass.Part.
func (p *rowsPart) Take() {
	if p.to.failed != nil || p.rows == 0 {
		return
	}
	p.to.to.Write(binary.AppendUvarint(nil, uint64(p.rows))) // an error stays
	_, p.to.failed = p.to.to.Write(p.text)
}

// replay gives the fact rows of a part to deliveries, in the blocks in which they came.
func (b *build) replay(in io.Reader, to []*out) error {
	r, kept := bufio.NewReaderSize(in, 1<<18), b.plan.Kept()
	numeric := make([]bool, len(b.plan.Columns), len(b.plan.Columns)+4)
	for _, ci := range kept {
		numeric[ci] = b.plan.Columns[ci].Kind.Numeric()
	}
	rows := table.NewBuilder(append(numeric, deliver.OriginKinds()...))
	var text []byte
	for b.ctx.Err() == nil {
		n, err := binary.ReadUvarint(r)
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
		var positions []pass.Position
		for range n {
			at, err := binary.ReadUvarint(r)
			if err != nil {
				return err
			}
			positions = append(positions, pass.Position(at))
			for _, ci := range kept {
				size, err := binary.ReadUvarint(r)
				if err != nil || size > 1<<30 {
					return io.ErrUnexpectedEOF
				}
				text = append(text[:0], make([]byte, size)...)
				if _, err := io.ReadFull(r, text); err != nil {
					return err
				}
				putText(rows, ci, numeric[ci], text)
			}
			deliver.AddOrigin(rows, len(b.plan.Columns), pass.Position(at).Place(b.inputs))
			rows.EndRow()
		}
		batch := rows.Batch()
		batch.Extract = positions[0].Extract()
		batch.Where = func(row, _ int) place.Place { return positions[row].Place(b.inputs) }
		for _, d := range to {
			if b.out.failed {
				break
			}
			part := d.Part()
			part.Encode(batch)
			if err := part.Put(); err != nil {
				b.out.full(d.to, err)
			}
		}
		rows.Clear()
	}
	return b.ctx.Err()
}

// putText puts what a column has into the row under way.
func putText(to *table.Builder, column int, numeric bool, text []byte) {
	if !numeric {
		to.Text(column, text)
		return
	}
	if d, _, ok := value.English.Number(text); ok {
		to.Number(column, d)
	} else {
		to.NoNumber(column)
	}
}
