// Package cells carries rows from a format that has no text of its own, such as a column
// file or a database, as blocks: each cell with its kind and its text.
package cells

import (
	"bytes"
	"encoding/binary"
	"io"

	"umbau/internal/core/table"
)

// Rows gives rows of a table one by one.
type Rows interface {
	// Header is the first row.
	Header() []string
	// Append appends the next rows to a block, some or many, and says how many; io.EOF at the
	// end.
	Append(dst []byte) (block []byte, rows int, err error)
	Close() error
}

// Null is the text of a value that is not there: it means nothing wherever it stands.
const Null = "NULL"

// AppendRow begins a row of so many cells.
func AppendRow(dst []byte, cells int) []byte { return binary.AppendUvarint(dst, uint64(cells)) }

// nullCell marks a value that is not there.
const nullCell = 0xff

// AppendNull appends a cell with a value that is not there.
func AppendNull(dst []byte) []byte {
	dst = AppendCell(dst, table.TextCell, []byte(Null))
	dst[len(dst)-len(Null)-2] = nullCell
	return dst
}

// AppendCell appends a cell.
func AppendCell(dst []byte, kind table.CellKind, text []byte) []byte {
	dst = append(dst, byte(kind))
	dst = binary.AppendUvarint(dst, uint64(len(text)))
	return append(dst, text...)
}

// source is a table.Source of rows.
type source struct {
	rows Rows
	how  table.Reading
	line int
}

// Source reads rows as a table: the header is row 1 as far as blocks are concerned, and the
// rows are counted from first.
func Source(rows Rows, how table.Reading) table.Source { return &source{rows: rows, how: how} }

// Next implements table.Source.
func (s *source) Next(buf []byte) (table.Block, error) {
	b := table.Block{Data: buf[:0], Line: s.line}
	if s.line == 0 { // the header
		header := s.rows.Header()
		b.Data = AppendRow(b.Data, len(header))
		for _, h := range header {
			b.Data = AppendCell(b.Data, table.TextCell, []byte(h))
		}
		s.line = 1
	}
	data, n, err := s.rows.Append(b.Data)
	switch {
	case err == io.EOF && len(b.Data) > 0:
		data = b.Data
	case err != nil:
		return table.Block{}, err
	}
	s.line += n
	if s.how.Count != nil {
		s.how.Count(len(data))
	}
	b.Data = append(data, make([]byte, table.BlockSlack)...)[:len(data)]
	return b, nil
}

// Split implements table.Splitter.
func (s *source) Split(b table.Block, rows *table.Rows) error {
	data := b.Data
	if cap(data)-len(data) < table.BlockSlack {
		data = append(data[:len(data):len(data)], make([]byte, table.BlockSlack)...)[:len(data)]
	}
	rows.Data = data[:len(data)+table.BlockSlack]
	line := b.Line
	for at := 0; at < len(data); line++ {
		n, size := binary.Uvarint(data[at:])
		at += size
		rows.Starts = append(rows.Starts, uint32(len(rows.Cells)))
		rows.Lines = append(rows.Lines, line)
		for range n {
			kind := table.CellKind(data[at])
			length, size := binary.Uvarint(data[at+1:])
			at += 1 + size
			if kind == nullCell {
				kind = table.TextCell
				if s.how.EmptyNulls {
					rows.Cells, rows.Kinds = append(rows.Cells, table.Cell{}), append(rows.Kinds, kind)
					at += int(length)
					continue
				}
			}
			if bytes.IndexByte(data[at:at+int(length)], 0) >= 0 {
				return &table.RowError{Row: line, Text: "a text has a NUL byte"}
			}
			rows.Cells = append(rows.Cells, table.Cell{Off: uint32(at), End: uint32(at + int(length))})
			rows.Kinds = append(rows.Kinds, kind)
			at += int(length)
		}
	}
	rows.Starts = append(rows.Starts, uint32(len(rows.Cells)))
	return nil
}

// Facts implements table.Source.
func (s *source) Facts() table.Facts { return table.Facts{} }

// Close implements table.Source.
func (s *source) Close() error { return s.rows.Close() }
