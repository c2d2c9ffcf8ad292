package jsonl

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"unicode/utf8"

	"umbau/internal/core/table"
	"umbau/internal/format/cells"
)

// Source reads lines with an object each. Its headers are the keys in the order in which
// they appear first, so that the text is read twice; a nested value is called by the keys
// that lead to it, joined with a point. open gives the text, unpacked, in UTF-8.
func Source(open func() (io.ReadCloser, error), how table.Reading) (table.Source, error) {
	in, err := open()
	if err != nil {
		return nil, err
	}
	s := &source{index: map[string]int{}, how: how}
	err = s.findHeaders(in)
	if e := in.Close(); err == nil {
		err = e
	}
	if err != nil {
		return nil, err
	}
	if s.in, err = open(); err != nil {
		return nil, err
	}
	s.lines = bufio.NewReaderSize(s.in, 64<<10)
	return s, nil
}

// source is a text of JSON lines.
type source struct {
	in      io.ReadCloser
	lines   *bufio.Reader
	headers []string
	index   map[string]int
	line    int // that was read last
	begun   bool
	how     table.Reading
}

// MostLine is the longest line, in bytes.
const MostLine = 64 << 20

// nextLine appends the next line, with its end.
func nextLine(in *bufio.Reader, dst []byte, line int) ([]byte, error) {
	from := len(dst)
	for {
		piece, err := in.ReadSlice('\n')
		dst = append(dst, piece...)
		switch {
		case err == nil:
			return dst, nil
		case errors.Is(err, bufio.ErrBufferFull):
			if len(dst)-from > MostLine {
				return dst, &table.RowError{Row: line, Text: "the line has more than 64 MB; is the file one array? write an object a line"}
			}
		case err == io.EOF && len(dst) > from:
			return append(dst, '\n'), nil
		default:
			return dst, err
		}
	}
}

// findHeaders reads all lines for their keys.
func (s *source) findHeaders(text io.Reader) error {
	in := bufio.NewReaderSize(text, 64<<10)
	var line []byte
	for n := 1; ; n++ {
		var err error
		if line, err = nextLine(in, line[:0], n); err == io.EOF {
			break
		}
		if err != nil {
			return err
		}
		if n == 1 {
			line = bytes.TrimPrefix(line, []byte("\ufeff"))
		}
		err = each(line, n, func(key []byte, _ table.CellKind, _ []byte) error {
			if _, known := s.index[string(key)]; !known {
				s.index[string(key)] = len(s.headers)
				s.headers = append(s.headers, string(key))
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	if len(s.headers) == 0 {
		return &table.FileError{Text: "the file is empty", Advice: "was it saved?"}
	}
	return nil
}

// blockSize is about how many bytes a block has.
const blockSize = 32 << 10

// Next implements table.Source. The headers are a block's first line, an array.
func (s *source) Next(buf []byte) (table.Block, error) {
	b := table.Block{Data: buf[:0], Line: s.line + 1}
	if !s.begun {
		s.begun = true
		head, err := json.Marshal(s.headers)
		if err != nil {
			return b, err
		}
		b.Data, b.Line = append(append(b.Data, head...), '\n'), 0
	}
	for len(b.Data) < blockSize {
		from := len(b.Data)
		var err error
		b.Data, err = nextLine(s.lines, b.Data, s.line+1)
		if err == io.EOF {
			break
		}
		if err != nil {
			return table.Block{}, err
		}
		if s.how.Count != nil {
			s.how.Count(len(b.Data) - from)
		}
		if s.line++; s.line == 1 {
			if text := b.Data[from:]; bytes.HasPrefix(text, []byte("\ufeff")) {
				b.Data = append(b.Data[:from], text[3:]...)
			}
		}
	}
	if len(b.Data) == 0 {
		return table.Block{}, io.EOF
	}
	return b, nil
}

// Split implements table.Splitter.
func (s *source) Split(b table.Block, rows *table.Rows) error {
	rows.Scratch = rows.Scratch[:0]
	line := b.Line
	var text []byte
	for data := b.Data; len(data) > 0; line++ {
		end := bytes.IndexByte(data, '\n')
		if end < 0 {
			end = len(data) - 1
		}
		text, data = data[:end+1], data[end+1:]
		rows.Starts = append(rows.Starts, uint32(len(rows.Cells)))
		rows.Lines = append(rows.Lines, line)
		if line == 0 {
			for _, h := range s.headers {
				s.add(rows, table.TextCell, []byte(h))
			}
			continue
		}
		from := len(rows.Cells)
		blank := len(bytes.TrimSpace(text)) == 0
		for range s.headers {
			if !blank {
				rows.Cells, rows.Kinds = append(rows.Cells, table.Cell{}), append(rows.Kinds, table.TextCell)
			}
		}
		err := each(text, line, func(key []byte, kind table.CellKind, value []byte) error {
			i, known := s.index[string(key)]
			if !known {
				return &table.FileError{Text: "the file changed while it was read", Advice: "let the one who writes it finish"}
			}
			at := uint32(len(rows.Scratch))
			if kind == nullKind {
				kind = table.TextCell
				if s.how.EmptyNulls {
					value = nil
				}
			}
			rows.Scratch = append(rows.Scratch, value...)
			rows.Cells[from+i], rows.Kinds[from+i] = table.Cell{Off: at, End: uint32(len(rows.Scratch))}, kind
			return nil
		})
		if err != nil {
			return err
		}
	}
	rows.Starts = append(rows.Starts, uint32(len(rows.Cells)))
	rows.Scratch = append(rows.Scratch, make([]byte, table.BlockSlack)...)
	rows.Data = rows.Scratch
	return nil
}

// add appends a cell.
func (s *source) add(rows *table.Rows, kind table.CellKind, text []byte) {
	at := uint32(len(rows.Scratch))
	rows.Scratch = append(rows.Scratch, text...)
	rows.Cells = append(rows.Cells, table.Cell{Off: at, End: uint32(len(rows.Scratch))})
	rows.Kinds = append(rows.Kinds, kind)
}

// each hears of the values of the object in a line; a blank line has none.
func each(line []byte, n int, hear func(key []byte, kind table.CellKind, value []byte) error) error {
	if len(bytes.TrimSpace(line)) == 0 {
		return nil
	}
	fail := func(format string, args ...any) error {
		return &table.RowError{Row: n, Text: fmt.Sprintf(format, args...)}
	}
	if !utf8.Valid(line) {
		return fail("the line is no UTF-8; write the file in UTF-8")
	}
	if bytes.IndexByte(line, 0) >= 0 {
		return fail("a NUL byte; this is no text file, or one in another encoding")
	}
	d := json.NewDecoder(bytes.NewReader(line))
	d.UseNumber()
	first, err := d.Token()
	if err != nil {
		return fail("this is no JSON: %v", err)
	}
	if first != json.Delim('{') {
		return fail("the line is no object; write an object a line, such as {\"region\": \"Lakes\", \"amount\": 1.50}")
	}
	o := object{d: d, hear: hear, fail: fail, seen: map[string]bool{}}
	if err := o.read(); err != nil {
		return err
	}
	if _, err := d.Token(); err != io.EOF {
		return fail("something stands behind the object; write an object a line")
	}
	return nil
}

// nullKind is that of null.
const nullKind = table.CellKind(0xff)

// object is an object under way.
type object struct {
	d    *json.Decoder
	path []byte // the keys that lead to it, each with a point
	hear func(key []byte, kind table.CellKind, value []byte) error
	fail func(format string, args ...any) error
	seen map[string]bool
}

// read reads the object up to its end.
func (o *object) read() error {
	for {
		t, err := o.d.Token()
		if err != nil {
			return o.fail("this is no JSON: %v", err)
		}
		if t == json.Delim('}') {
			return nil
		}
		key, _ := t.(string) // JSON has nothing else there
		from := len(o.path)
		o.path = append(o.path, key...)
		if err := o.value(); err != nil {
			return err
		}
		o.path = o.path[:from]
	}
}

// value reads what stands under the path.
func (o *object) value() error {
	t, err := o.d.Token()
	if err != nil {
		return o.fail("this is no JSON: %v", err)
	}
	kind, text := table.TextCell, ""
	switch v := t.(type) {
	case json.Delim:
		if v == '[' {
			return o.fail("%q is a list, and no value of a table; write a row for each of its values", o.path)
		}
		o.path = append(o.path, '.')
		return o.read()
	case json.Number:
		kind, text = table.NumberCell, v.String()
	case bool:
		kind, text = table.OtherCell, fmt.Sprint(v)
	case nil:
		kind, text = nullKind, cells.Null
	case string:
		text = v
	}
	if o.seen[string(o.path)] {
		return o.fail("the key %q stands twice", o.path)
	}
	o.seen[string(o.path)] = true
	return o.hear(o.path, kind, []byte(text))
}

// Facts implements table.Source.
func (s *source) Facts() table.Facts { return table.Facts{Encoding: "utf-8"} }

// Close implements table.Source.
func (s *source) Close() error { return s.in.Close() }
