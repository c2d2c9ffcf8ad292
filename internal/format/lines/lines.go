// Package lines delivers formats that are lines of text, plain or packed: a head, and a
// line for each fact row. Packed files are members one behind the other, each packed by
// whoever has the block, on all cores.
package lines

import (
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
	"umbau/internal/format/packed"
)

// Encoder writes the delivered rows of batches as lines. Each part has its own.
type Encoder interface {
	Encode(dst []byte, b *table.Batch) []byte
}

// Kind is a format of lines.
type Kind struct {
	Head    func(columns []table.SinkColumn) []byte
	Encoder func(columns []table.SinkColumn) Encoder
	// Remark says what an encoder counted in all; nil where it counts nothing.
	Remark func(counted int) string
}

// Counting is an encoder that counts something.
type Counting interface {
	Counted() int // since it was asked last
}

// Format is the format of files with this ending, and of packed ones.
func (k Kind) Format(ending string) table.Format {
	outlet := func(ending string, packing packed.Kind) table.Outlet {
		return table.Outlet{Ending: ending, NewSink: func(t table.Target) (table.Sink, error) { return k.sink(t, packing) }}
	}
	return table.Format{Outlets: []table.Outlet{outlet(ending, packed.Plain), outlet(ending+".gz", packed.Gzip),
		outlet(ending+".zst", packed.Zstandard)}}
}

// sink is a file under way.
type sink struct {
	kind    Kind
	packing packed.Kind
	file    *whole.File
	columns []table.SinkColumn
	pending []byte // lines that are too few to be packed alone
	packer  *packed.Packer
	counted int
	adopted bool
}

func (k Kind) sink(t table.Target, packing packed.Kind) (table.Sink, error) {
	f, err := whole.Create(t.To, t.Mark)
	if err != nil {
		return nil, err
	}
	s := &sink{kind: k, packing: packing, file: f}
	if packing != packed.Plain {
		s.packer = packed.NewPacker(packing)
	}
	return s, nil
}

func (s *sink) Begin(columns []table.SinkColumn) error {
	s.columns, s.pending, s.counted = columns, s.pending[:0], 0
	if err := s.file.Empty(); err != nil {
		return err
	}
	if s.packer != nil { // in the first member
		s.pending = append(s.pending, s.kind.Head(columns)...)
		return nil
	}
	_, err := s.file.Write(s.kind.Head(columns))
	return err
}

const (
	alone = 64 << 10  // bytes of a block that are a member of their own
	least = 256 << 10 // of a member that is made of others, but for the last
)

// part writes the text of a block.
type part struct {
	of      *sink
	encoder Encoder
	text    []byte
	packer  *packed.Packer
	member  []byte // the text, packed; empty where that is too short
}

func (s *sink) Part() table.SinkPart {
	p := &part{of: s, encoder: s.kind.Encoder(s.columns)}
	if s.packer != nil {
		p.packer = packed.NewPacker(s.packing)
	}
	return p
}

func (p *part) Encode(b *table.Batch) {
	p.text = p.encoder.Encode(p.text[:0], b)
	if p.member = p.member[:0]; p.packer != nil && len(p.text) >= alone {
		p.member = p.packer.Append(p.member, p.text)
	}
}

func (p *part) Put() error {
	s := p.of
	if c, ok := p.encoder.(Counting); ok {
		s.counted += c.Counted()
	}
	if s.packer == nil {
		_, err := s.file.Write(p.text)
		return err
	}
	if len(p.member) == 0 {
		if s.pending = append(s.pending, p.text...); len(s.pending) < least {
			return nil
		}
		return s.flush()
	}
	if err := s.flush(); err != nil {
		return err
	}
	_, err := s.file.Write(p.member)
	return err
}

// Lines implements table.Lined.
func (s *sink) Lines() bool { return s.packer == nil }

// Head implements table.Lined.
func (s *sink) Head() int64 { return int64(len(s.kind.Head(s.columns))) }

// Adopt implements table.Adopting.
func (s *sink) Adopt(file string, counted int) error {
	s.adopted, s.counted = true, counted
	return s.file.Adopt(file)
}

// Counted implements table.Adopting.
func (s *sink) Counted() int { return s.counted }

// PutText implements table.Lined.
func (s *sink) PutText(text []byte, counted int) error {
	s.counted += counted
	_, err := s.file.Write(text)
	return err
}

// Text implements table.LinedPart.
func (p *part) Text() (text []byte, counted int) {
	if c, ok := p.encoder.(Counting); ok {
		counted = c.Counted()
	}
	return p.text, counted
}

// flush packs the lines that wait.
func (s *sink) flush() error {
	if len(s.pending) == 0 {
		return nil
	}
	_, err := s.file.Write(s.packer.Append(nil, s.pending))
	s.pending = s.pending[:0]
	return err
}

func (s *sink) End() ([]table.Written, error) {
	if s.packer != nil && !s.adopted {
		if err := s.flush(); err != nil {
			return nil, err
		}
	}
	s.packer, s.pending = nil, nil // there may be many files
	return []table.Written{{File: s.file.Temp, Bytes: s.file.Bytes, Rows: -1}}, s.file.Finish()
}

func (s *sink) Publish() error { return s.file.Publish() }

func (s *sink) Abandon() { s.file.Abandon() }

// Remarks implements table.Remarking.
func (s *sink) Remarks() []string {
	if s.counted == 0 || s.kind.Remark == nil {
		return nil
	}
	return []string{s.kind.Remark(s.counted)}
}
