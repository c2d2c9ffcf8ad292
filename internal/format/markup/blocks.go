package markup

import (
	"bytes"
	"fmt"
	"io"
	"slices"

	"umbau/internal/core/table"
)

// BlockSize is about how many bytes of XML a block has.
const BlockSize = 256 << 10

// Dialect says how a format of workbooks writes the rows of a sheet.
type Dialect struct {
	// Body reports whether a tag is of the element that holds the rows.
	Body func(t *Tag) bool
	// Row is the name of the element of a row.
	Row string
	// Filled are texts of which one stands in a row with a cell that holds
	// something.
	Filled []string
	// Rows returns the numbers of the first and the last row that an element
	// stands for, if the row before has that number.
	Rows func(t *Tag, before int) (first, last int, err error)
	// Hides reports whether the sheet hides the rows of an element.
	Hides func(t *Tag) bool
	// Columns returns the columns that another element says are hidden; within reports whether it stands within Body.
	Columns func(t *Tag, within bool) (hidden table.Span, ok bool)
	// Blank is the element of blank rows from one number to another.
	Blank func(from, to int) string
}

// Blocks cuts the rows of a sheet into blocks, still as XML. Rows that hold
// nothing are passed over where none that does follows.
type Blocks struct {
	in      io.ReadCloser
	count   func(int)
	dialect Dialect

	buf    []byte // read, but not handed out
	at     int    // behind the last tag of a row or of what stands around them
	looked int    // within a row: looked at for its end so far …
	plain  int    // … and for comments and CDATA: none is open up to there …
	sought int    // … and for the end of the one that begins there
	end    int    // just behind the last row that holds anything, 0 for none
	first  int    // number of the first row in buf …
	last   int    // … and of the last that holds anything
	row    int    // number of the last row begun
	begins int    // of the element of that row: the number of its first
	hides  bool   // the sheet hides these
	next   int    // number of the row after the last handed out
	begun  bool   // within the body
	done   bool   // behind it
	inRow  bool
	eof    bool
	tag    Tag
	facts  table.Facts
	close  []byte // how the tag ends that ends a row
}

// NewBlocks returns the blocks of a sheet, of which some was read already.
func NewBlocks(in io.ReadCloser, read []byte, count func(int), d Dialect) *Blocks {
	return &Blocks{in: in, buf: read, count: count, dialect: d, next: 1, close: []byte(d.Row + ">")}
}

// Facts implements table.Source.
func (s *Blocks) Facts() table.Facts { return s.facts }

// Close implements table.Source.
func (s *Blocks) Close() error { return s.in.Close() }

// Behind is what was read behind the rows, once they were read to their end; the rest can be read on
// from In.
func (s *Blocks) Behind() (rest []byte, ok bool) { return s.buf[s.at:], s.done && s.end == 0 }

// In is what the blocks are read from.
func (s *Blocks) In() io.ReadCloser { return s.in }

// Damaged words what is wrong with a workbook.
func Damaged(format string, args ...any) *table.FileError {
	return &table.FileError{Text: "the workbook is damaged: " + fmt.Sprintf(format, args...),
		Advice: "open it in its program and save it again"}
}

// Next implements table.Source. The Line of a block is the number after the
// last row of the block before.
func (s *Blocks) Next(buf []byte) (table.Block, error) {
	for {
		if err := s.look(); err != nil {
			return table.Block{}, err
		}
		if s.end > 0 && (s.end >= BlockSize || s.done || s.eof || s.at-s.end > BlockSize) {
			return s.hand(buf), nil
		}
		switch {
		case s.done:
			return table.Block{}, io.EOF
		case s.eof && !s.begun:
			return table.Block{}, Damaged("a sheet has no rows at all")
		case s.eof:
			return table.Block{}, Damaged("a sheet is cut: it ends in row %d", s.row)
		case len(s.buf) > table.MostRow+BlockSize:
			return table.Block{}, Damaged("row %d of a sheet takes more than %d MB", s.row, table.MostRow>>20)
		}
		if err := s.fill(); err != nil {
			return table.Block{}, err
		}
	}
}

// hand hands out the rows up to the last that holds anything.
func (s *Blocks) hand(buf []byte) table.Block {
	data := buf[:0]
	if s.first > s.next { // rows may lack their numbers: say how many are blank
		data = append(data, s.dialect.Blank(s.next, s.first-1)...)
	}
	data = append(data, s.buf[:s.end]...)
	if cap(data) < len(data)+table.BlockSlack {
		data = append(data, make([]byte, table.BlockSlack)...)[:len(data)]
	}
	b := table.Block{Data: data, Line: s.next}
	s.cut(s.end)
	s.next = s.last + 1
	return b
}

// cut forgets what stands before.
func (s *Blocks) cut(to int) {
	s.buf = s.buf[:copy(s.buf, s.buf[to:])]
	s.at -= to
	s.looked, s.plain, s.sought = s.looked-to, s.plain-to, s.sought-to
	s.end = 0
}

// fill reads on: more at once, the longer the row is that does not end, so that all that looks at it
// from its beginning again comes to a few times its length.
func (s *Blocks) fill() error {
	want := len(s.buf) + max(BlockSize/2, len(s.buf)-s.end)
	if cap(s.buf) < want {
		s.buf = append(make([]byte, 0, want+BlockSize), s.buf...)
	}
	n, err := io.ReadAtLeast(s.in, s.buf[len(s.buf):want], min(want-len(s.buf), max(1, len(s.buf)-s.end-BlockSize)))
	s.buf = s.buf[:len(s.buf)+n]
	if s.count != nil {
		s.count(n)
	}
	if err == io.EOF || err == io.ErrUnexpectedEOF {
		s.eof, err = true, nil
	}
	return err
}

// look goes through what was read, tag by tag.
func (s *Blocks) look() error {
	for !s.done && s.end < BlockSize {
		if s.end > 0 && !s.inRow && s.at-s.end > BlockSize {
			return nil // rows that hold nothing follow: hand out those before
		}
		if s.inRow {
			if !s.endRow() {
				return nil
			}
			continue
		}
		t := &s.tag
		err := t.Next(s.buf, s.at)
		if err == ErrMore {
			if s.end == 0 && s.at > 0 {
				s.cut(s.at) // what stands before the rows, and rows that hold nothing
			}
			return nil
		}
		if err != nil {
			return Damaged("row %d of a sheet: %v", s.row, err)
		}
		s.at = t.To
		switch {
		case s.dialect.Body(t):
			if s.done = t.End; t.Start {
				s.begun = true
				s.cut(s.at)
			}
		case s.begun && t.Is(s.dialect.Row):
			if !t.Start {
				continue
			}
			first, last, err := s.dialect.Rows(t, s.row)
			if err != nil {
				return err
			}
			s.inRow, s.hides, s.begins = !t.End, s.dialect.Hides(t), first
			if s.row = last; s.end == 0 {
				s.first = first
				s.cut(t.From)
			}
			s.looked, s.plain, s.sought = s.at, s.at, s.at
		case t.Start:
			if hidden, ok := s.dialect.Columns(t, s.begun); ok {
				s.facts.HiddenColumns.Add(hidden)
			}
		}
	}
	return nil
}

// endRow looks for the end of the row at hand; it is not there yet where the
// result is false. Within CDATA and comments no row ends. It looks at no byte twice, but for a few.
func (s *Blocks) endRow() bool {
	for {
		// The last letter is rarer in sheets than the first, r, which is in each cell.
		last := len(s.close) - 2
		i := bytes.Index(s.buf[s.looked:], s.close[last:])
		if i < 0 {
			s.looked = max(s.looked, len(s.buf)-1)
			return false
		}
		end := s.looked + i - last
		if end < s.at || !bytes.HasPrefix(s.buf[end:], s.close) {
			s.looked += i + 2
			continue
		}
		open := end - 1 // of the tag, which may have a prefix
		for open > s.at && nameByte(s.buf[open]) {
			open--
		}
		if open--; open < s.at || s.buf[open] != '<' || s.buf[open+1] != '/' {
			s.looked += i + 2
			continue
		}
		switch within, behind, known := s.within(open); {
		case !known:
			return false
		case within:
			s.looked = max(behind, s.looked+i+2)
			continue
		}
		s.looked += i + 2
		row := s.buf[s.at:s.looked]
		if slices.ContainsFunc(s.dialect.Filled, func(f string) bool { return bytes.Contains(row, []byte(f)) }) {
			s.end, s.last = s.looked, s.row
			if s.hides {
				s.facts.HiddenRows.Add(table.Span{First: s.begins, Last: s.row})
			}
		}
		s.at, s.inRow = s.looked, false
		return true
	}
}

// nameByte reports whether a byte may be of the name of a tag.
func nameByte(c byte) bool {
	return c > ' ' && c != '<' && c != '>' && c != '/' && c != '"' && c != '\''
}

// within reports whether a place in the row at hand is within a comment or CDATA, and where that
// ends; it is not known where what was read ends before it.
func (s *Blocks) within(at int) (within bool, behind int, known bool) {
	for s.plain < at {
		i := bytes.Index(s.buf[s.plain:at], []byte("<!"))
		if i < 0 {
			s.plain = at
			break
		}
		begin := s.plain + i
		s.plain = begin
		end, err := special(s.buf[begin:], max(0, s.sought-begin))
		if err == ErrMore {
			s.sought = max(begin, len(s.buf)-3)
			return true, 0, false
		}
		if err != nil { // no XML: whoever takes the row apart says so
			s.plain, s.sought = begin+2, begin+2
			continue
		}
		s.plain, s.sought = begin+end, begin+end
		if s.plain > at {
			return true, s.plain, true
		}
	}
	return s.plain > at, s.plain, true
}
