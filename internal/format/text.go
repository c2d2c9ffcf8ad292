package format

import (
	"bufio"
	"bytes"
	"fmt"
	"io"

	"umbau/internal/core/table"
	"umbau/internal/format/charset"
	"umbau/internal/format/csv"
	"umbau/internal/format/jsonl"
	"umbau/internal/format/packed"
)

// textSource is a text file: unpacked, in UTF-8, cut into cells.
type textSource struct {
	*csv.Reader
	charset *charset.Reader
	closers []io.Closer // the outermost last
}

// openLines opens a text of cells, or one of objects.
func (r *reader) openLines(name string, open func() (io.ReadCloser, error), size int64, how table.Reading) (table.Source, error) {
	if isLines(name) {
		return jsonl.Source(r.content(open, size), how)
	}
	return r.openText(open, size, how)
}

// openText opens a text of about so many bytes.
func (r *reader) openText(open func() (io.ReadCloser, error), size int64, how table.Reading) (table.Source, error) {
	f, err := open()
	if err != nil {
		return nil, err
	}
	s := &textSource{closers: []io.Closer{f}}
	in := &counted{f, how.Count}
	head := make([]byte, headLen)
	n, err := io.ReadFull(in, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		s.Close()
		return nil, err
	}
	text := io.MultiReader(bytes.NewReader(head[:n]), in)
	if kind := packed.KindOf(head[:n]); kind != packed.Plain {
		unpacked, err := packed.Unpack(bufio.NewReaderSize(text, 64<<10), kind, size, r.limit)
		if err != nil {
			s.Close()
			return nil, err
		}
		s.closers = append(s.closers, unpacked)
		text = &counted{unpacked, how.Unpacked}
	}
	s.charset = charset.NewReader(text, how.Encoding)
	delimiter, _ := table.DelimiterOf(how.Delimiter) // to be found out, if there is none
	s.Reader = csv.NewReader(s.charset, delimiter.Sign)
	return s, nil
}

// content opens the bytes of a text of about so many bytes, unpacked.
func (r *reader) content(open func() (io.ReadCloser, error), size int64) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) {
		f, err := open()
		if err != nil {
			return nil, err
		}
		in := bufio.NewReaderSize(f, int(min(max(size, headLen), 64<<10)))
		head, err := in.Peek(headLen)
		if err != nil && err != io.EOF {
			f.Close()
			return nil, err
		}
		kind := packed.KindOf(head)
		if kind != packed.Gzip && kind != packed.Zstandard {
			return struct {
				io.Reader
				io.Closer
			}{in, f}, nil
		}
		unpacked, err := packed.Unpack(in, kind, size, r.limit)
		if err != nil {
			f.Close()
			return nil, err
		}
		return struct {
			io.Reader
			io.Closer
		}{unpacked, f}, nil
	}
}

// Text reads a text file, whose encoding is found out, as UTF-8.
func Text(in io.Reader) io.Reader { return charset.NewReader(in, "") }

// Facts implements table.Source.
func (s *textSource) Facts() table.Facts {
	f := table.Facts{Encoding: s.charset.Encoding(), Delimiter: string(s.Reader.Delimiter())}
	if d := s.charset.Doubt(); d != nil {
		f.Doubt = &table.RowError{Row: d.Row, Text: fmt.Sprintf("the file cannot be of one encoding: it has letters of UTF-8 among "+
			"others, %q in %s", d.Word, f.Encoding), Add: "encoding: " + f.Encoding}
		if !d.Mixed {
			f.Doubt = &table.RowError{Row: d.Row, Text: fmt.Sprintf("the bytes of the file do not fit %s: it would have the word %q", f.Encoding,
				d.Word), Add: "encoding: " + d.Other}
		}
	}
	return f
}

// Close implements table.Source.
func (s *textSource) Close() error {
	var first error
	for i := len(s.closers) - 1; i >= 0; i-- {
		if err := s.closers[i].Close(); first == nil {
			first = err
		}
	}
	return first
}

// counted tells how many bytes were read.
type counted struct {
	in    io.Reader
	count func(int)
}

// Read implements io.Reader.
func (c *counted) Read(p []byte) (int, error) {
	n, err := c.in.Read(p)
	if c.count != nil {
		c.count(n)
	}
	return n, err
}
