package csv

import (
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// Format is comma text, which is read and delivered.
var Format = table.Format{Endings: []string{".csv"}, NewSink: newSink}

// Others are texts with another delimiter, which are read.
var Others = table.Format{Endings: []string{".tsv", ".txt", ".tab"}}

// sink is a comma text file under way.
type sink struct {
	file    *whole.File
	columns []int
}

func newSink(t table.Target) (table.Sink, error) {
	f, err := whole.Create(t.To, t.Mark)
	if err != nil {
		return nil, err
	}
	return &sink{file: f}, nil
}

func (s *sink) Begin(columns []table.SinkColumn) error {
	var names []string
	s.columns = s.columns[:0]
	for _, c := range columns {
		s.columns, names = append(s.columns, c.Index), append(names, c.Name)
	}
	if err := s.file.Empty(); err != nil {
		return err
	}
	_, err := s.file.Write(table.AppendLine(nil, names...))
	return err
}

// sinkPart writes the text of a block.
type sinkPart struct {
	encoder *Encoder
	to      *whole.File
	text    []byte
}

func (s *sink) Part() table.SinkPart { return &sinkPart{encoder: NewEncoder(s.columns), to: s.file} }

func (p *sinkPart) Encode(b *table.Batch) { p.text = p.encoder.Encode(p.text[:0], b) }

func (p *sinkPart) Put() error {
	_, err := p.to.Write(p.text)
	return err
}

func (s *sink) End() (int64, string, error) { return s.file.Bytes, s.file.Temp, s.file.Finish() }

func (s *sink) Publish() error { return s.file.Publish() }

func (s *sink) Abandon() { s.file.Abandon() }
