package fact_test

import (
	"bytes"
	"io"
	"path/filepath"
	"strings"

	"umbau/internal/core/table"
	"umbau/internal/format"
)

// file looks into a file of the folder: books are in memory, and blocks are cut anywhere.
func (f *folder) file(cut int) func(name string) ([]table.Table, error) {
	real := format.All()
	return func(name string) ([]table.Table, error) {
		short, err := filepath.Rel(f.dir, name)
		if err != nil {
			return nil, err
		}
		var out []table.Table
		if !strings.HasSuffix(short, ".xlsx") {
			out, err = real.Look(name)
			for i := range out {
				open := out[i].Open
				out[i].Open = func(how table.Reading) (table.Source, error) {
					s, err := open(how)
					return &cutSource{Source: s, lines: cut}, err
				}
			}
			return out, err
		}
		for _, s := range f.sheets[filepath.ToSlash(short)] {
			out = append(out, table.Table{Sheet: s.name, Size: 1, Bytes: 1,
				Open: func(table.Reading) (table.Source, error) { return &memory{rows: s.rows, cut: cut}, nil }})
		}
		return out, nil
	}
}

// cutSource cuts blocks of a text after so many lines.
type cutSource struct {
	table.Source
	lines int
	rest  table.Block
}

func (c *cutSource) Next(buf []byte) (table.Block, error) {
	if len(c.rest.Data) == 0 {
		b, err := c.Source.Next(nil)
		if err != nil || c.lines == 0 {
			return b, err
		}
		c.rest = b
	}
	b := c.rest
	at := 0
	for range c.lines {
		if k := bytes.IndexByte(b.Data[at:], '\n'); k >= 0 {
			at += k + 1
		} else {
			at = len(b.Data)
		}
	}
	c.rest = table.Block{Data: b.Data[at:], Line: b.Line + c.lines}
	data := append(make([]byte, 0, at+table.BlockSlack), b.Data[:at]...)
	return table.Block{Data: data, Line: b.Line}, nil
}

// memory is a sheet that is no file.
type memory struct {
	rows [][]cell
	cut  int
	at   int
}

func (m *memory) Next([]byte) (table.Block, error) {
	if m.at >= len(m.rows) {
		return table.Block{}, io.EOF
	}
	n := len(m.rows) - m.at
	if m.cut > 0 {
		n = min(n, m.cut)
	}
	b := table.Block{Line: m.at + 1}
	for _, row := range m.rows[m.at : m.at+n] {
		for _, c := range row {
			b.Data = append(append(append(b.Data, '0'+byte(c.kind)), c.text...), 0x1f)
		}
		b.Data = append(b.Data, '\n')
	}
	m.at += n
	b.Data = append(make([]byte, 0, len(b.Data)+table.BlockSlack), b.Data...)
	return b, nil
}

func (m *memory) Split(b table.Block, rows *table.Rows) error {
	line := b.Line
	rows.Data = nil
	for text := range strings.Lines(string(b.Data)) {
		rows.Starts, rows.Lines = append(rows.Starts, uint32(len(rows.Cells))), append(rows.Lines, line)
		line++
		for _, c := range strings.Split(strings.TrimSuffix(text, "\n"), "\x1f") {
			if c == "" {
				continue
			}
			off := uint32(len(rows.Data))
			rows.Data = append(rows.Data, c[1:]...)
			rows.Cells, rows.Kinds = append(rows.Cells, table.Cell{Off: off, End: uint32(len(rows.Data))}),
				append(rows.Kinds, table.CellKind(c[0]-'0'))
		}
	}
	rows.End()
	return nil
}

func (m *memory) Facts() table.Facts { return table.Facts{} }
func (m *memory) Close() error       { return nil }
