// Package csv reads text files with cells parted by a comma, a semicolon, a tab
// or a pipe, and writes comma text files.
//
// What it reads is RFC 4180 and what people make of it: rows end with LF or
// CRLF, also mixed, the last one with or without, or all with CR alone; a byte order mark at the
// beginning is passed over. The delimiter, where it is not said, is the one that
// cuts most rows of the first block into as many cells as each other. A cell may stand in quotes, spaces around them set
// aside; within quotes a delimiter and a line break are text and two quotes are one.
// A quote in the middle of a cell without quotes is text (2" rope). It is an
// error when a quote is never closed, when text follows a closing quote, when
// the file holds a NUL byte or is no UTF-8, or when one row is longer than
// table.MostRow.
package csv

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"fmt"
	"io"
	"math/bits"
	"slices"
	"unicode/utf8"

	"umbau/internal/core/table"
)

// BlockSize is the size of the blocks that a file is read in, in bytes: small
// enough that a block and all that is made of it stay in a processor's cache.
const BlockSize = 64 << 10

const neverClosed = "a quote opens here and is never closed; close it, or double a quote that is meant as text"

// Reader reads one text file, block by block.
type Reader struct {
	in    io.Reader
	delim byte   // 0 until it is known
	rest  []byte // read, but part of the next block
	line  int    // of the first row in rest
	ended bool
	begun bool
	cr    bool    // rows end with carriage returns alone
	ends  rowEnds // of the block at hand
}

// NewReader returns a reader of a text in UTF-8. delim is its delimiter, 0 for
// one to be found out.
func NewReader(in io.Reader, delim byte) *Reader { return &Reader{in: in, delim: delim, line: 1} }

// Delimiter returns the delimiter, once a block was read.
func (r *Reader) Delimiter() byte { return cmp.Or(r.delim, ',') }

// Next implements table.Source.
func (r *Reader) Next(buf []byte) (table.Block, error) { return r.next(buf, false) }

// Skip implements table.Skipping: a row ends where the quotes above it are even in number.
func (r *Reader) Skip(buf []byte) (table.Block, error) { return r.next(buf, true) }

func (r *Reader) next(buf []byte, skip bool) (table.Block, error) {
	buf = append(buf[:0], r.rest...)
	r.rest = r.rest[:0]
	ends := &r.ends
	ends.reset()
	for {
		if !r.ended {
			var err error
			if buf, err = r.fill(buf); err != nil {
				return table.Block{}, err
			}
		}
		if r.delim == 0 && len(buf) > 0 {
			r.delim = findDelimiter(buf, r.ended)
		}
		if skip {
			ends.guess(buf)
		} else {
			ends.scan(buf, r.ended, r.delim)
		}
		if ends.last > 0 && !r.ended || r.ended && !ends.open {
			break
		}
		if r.ended || len(buf) > table.MostRow {
			return table.Block{}, r.tooLong(buf)
		}
	}
	if r.ended {
		ends.last = len(buf)
	}
	if ends.last == 0 {
		return table.Block{}, io.EOF
	}
	r.rest = append(r.rest, buf[ends.last:]...)
	b := table.Block{Data: buf[:ends.last], Line: r.line}
	r.line += bytes.Count(b.Data, []byte{'\n'})
	return b, nil
}

// fill reads about another block behind buf.
func (r *Reader) fill(buf []byte) ([]byte, error) {
	want := min(max(BlockSize, 2*len(buf)), table.MostRow+BlockSize)
	if cap(buf) < want+table.BlockSlack {
		buf = append(make([]byte, 0, want+want/4+table.BlockSlack), buf...)
	}
	n, err := io.ReadFull(r.in, buf[len(buf):want])
	fresh := buf[len(buf) : len(buf)+n]
	buf = buf[:len(buf)+n]
	if !r.begun {
		without := bytes.IndexByte(buf, '\n') < 0
		if without && err == nil && len(buf) < 8*BlockSize { // a line feed may follow, where the header is longer than a block
			return r.fill(buf)
		}
		r.begun, r.cr = true, without && bytes.IndexByte(buf, '\r') >= 0
		if rest, ok := bytes.CutPrefix(buf, []byte("\ufeff")); ok {
			buf = buf[:copy(buf, rest)]
		}
		fresh = buf
	}
	if r.cr {
		for i := bytes.IndexByte(fresh, '\r'); i >= 0; i = bytes.IndexByte(fresh, '\r') {
			fresh[i] = '\n'
		}
	}
	if err == io.EOF || err == io.ErrUnexpectedEOF {
		r.ended = true
		err = nil
	}
	return buf, err
}

// tooLong says why no row ends.
func (r *Reader) tooLong(buf []byte) error {
	if r.ends.open {
		line := r.line + bytes.Count(buf[:r.ends.openedAt], []byte{'\n'})
		return &table.RowError{Row: line, Text: neverClosed}
	}
	return &table.RowError{Row: r.line, Text: fmt.Sprintf("a row longer than %d MB; this is no table", table.MostRow>>20)}
}

// rowEnds finds the last row end outside quotes; it goes on where it stopped when
// the data has grown.
type rowEnds struct {
	at       int // scanned so far
	last     int // just behind the last row end
	open     bool
	openedAt int
	outside  []stretch // of the text scanned last, what stands between quoted cells
}

type stretch struct{ begin, end int }

func (e *rowEnds) reset() { *e = rowEnds{outside: e.outside} }

// scan looks for quotes: for one at a time, and from there at 64 bytes at once.
// The data must have that much room behind its end.
func (e *rowEnds) scan(data []byte, ended bool, delim byte) {
	e.outside = e.outside[:0]
	begin := e.at // of what stands outside quotes
	for wait := false; !wait && e.at < len(data); {
		k := bytes.IndexByte(data[e.at:], '"')
		if k < 0 {
			e.at = len(data)
			break
		}
		base := e.at + k
		e.at = min(base+64, len(data))
		m := marksOf((*[64]byte)(data[base:base+64]), ones*'"')
		for skip := -1; m != 0; m &= m - 1 {
			p := base + bits.TrailingZeros64(m)
			switch {
			case p >= len(data) || p == skip:
			case !e.open:
				if opens(data, p, delim) {
					e.outside = append(e.outside, stretch{begin, p})
					e.open, e.openedAt = true, p
				}
			case p+1 == len(data) && !ended:
				e.at, wait = p, true // for what follows
			case p+1 < len(data) && data[p+1] == '"':
				skip = p + 1
				e.at = max(e.at, p+2)
			default:
				e.open, begin = false, p+1
			}
		}
	}
	if !e.open {
		e.outside = append(e.outside, stretch{begin, len(data)})
	}
	for _, s := range slices.Backward(e.outside) {
		if k := bytes.LastIndexByte(data[s.begin:s.end], '\n'); k >= 0 {
			e.last = s.begin + k + 1
			break
		}
	}
}

// guess takes each quote for one that opens or closes a cell.
func (e *rowEnds) guess(data []byte) {
	e.last = 0
	at, quotes := len(data), bytes.Count(data, []byte{'"'})
	e.open = quotes%2 == 1
	for at > 0 {
		k := bytes.LastIndexByte(data[:at], '\n')
		if quotes -= bytes.Count(data[k+1:at], []byte{'"'}); quotes%2 == 0 {
			e.last = k + 1
			return
		}
		at = k
	}
}

// opens reports whether the quote at p begins a cell: only spaces stand between
// it and the cell's beginning.
func opens(data []byte, p int, delim byte) bool {
	for p > 0 && isSpace(data[p-1], delim) {
		p--
	}
	return p == 0 || data[p-1] == delim || data[p-1] == '\n'
}

// isSpace reports whether a byte is a space or a tab that is no delimiter.
func isSpace(c, delim byte) bool { return c == ' ' || c == '\t' && delim != '\t' }

// findDelimiter looks at the first rows of a text: which delimiter cuts most of
// them into the same number of cells, two at least? Decimal commas alone are none
// where another one cuts nearly as many.
func findDelimiter(data []byte, ended bool) byte {
	if !ended {
		if k := bytes.LastIndexByte(data, '\n'); k >= 0 {
			data = data[:k+1]
		}
	}
	best, other := cut{delim: ','}, cut{}
	buf := append(make([]byte, 0, len(data)+table.BlockSlack), data...)
	for _, d := range table.Delimiters {
		c := cutBy(buf, d.Sign)
		if c.delim != ',' && c.alike > other.alike {
			other = c
		}
		if c.alike > best.alike {
			best = c
		}
	}
	nearly := other.alike > 0 && other.alike >= best.alike-max(1, best.alike/10) && other.rows >= best.rows
	if best.delim == ',' && nearly && decimalCommas(data) {
		return other.delim
	}
	return best.delim
}

// cut is what a delimiter cuts a text into.
type cut struct {
	delim byte
	alike int // rows of one number of cells, two at least: the most
	rows  int // of two cells at least
}

// cutBy cuts a text, which has room for more behind it.
func cutBy(text []byte, delim byte) cut {
	var rows table.Rows
	s := splitter{data: text[:len(text)+table.BlockSlack], n: len(text), line: 1, rows: &rows, delim: delim}
	_ = s.sentinel().split() // a quote left open, or text behind one, ends the rows early
	rows.Starts = append(rows.Starts, uint32(len(rows.Cells)))
	out, widths := cut{delim: delim}, map[int]int{}
	for i := range len(rows.Starts) - 1 {
		if n := int(rows.Starts[i+1] - rows.Starts[i]); n > 1 {
			out.rows++
			widths[n]++
			out.alike = max(out.alike, widths[n])
		}
	}
	return out
}

// decimalCommas reports whether nearly all commas of a text stand between digits.
func decimalCommas(text []byte) bool {
	digit := func(i int) bool { return i >= 0 && i < len(text) && text[i] >= '0' && text[i] <= '9' }
	commas, within := 0, 0
	for i, c := range text {
		if c == ',' {
			commas++
			if digit(i-1) && digit(i+1) {
				within++
			}
		}
	}
	return 10*within >= 9*commas
}

// marks returns which of 64 bytes may be a delimiter, a line feed or a quote, bit
// i for byte i: those up to the last of these in ASCII, which the bytes of names
// and numbers seldom are. It compares eight bytes at a time, with no carry from
// one into the next. above is ones × the byte after the last.
func marks(b *[64]byte, above uint64) uint64 {
	return mark(b[0:], above) | mark(b[8:], above)<<8 | mark(b[16:], above)<<16 | mark(b[24:], above)<<24 |
		mark(b[32:], above)<<32 | mark(b[40:], above)<<40 | mark(b[48:], above)<<48 | mark(b[56:], above)<<56
}

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
)

func mark(b []byte, above uint64) uint64 {
	w := binary.LittleEndian.Uint64(b)
	return ^((w | highs) - above | w) & highs >> 7 * 0x0102040810204080 >> 56
}

// marksOf returns which of 64 bytes are equal to a byte; of is eight of these.
func marksOf(b *[64]byte, of uint64) uint64 {
	return markOf(b[0:], of) | markOf(b[8:], of)<<8 | markOf(b[16:], of)<<16 | markOf(b[24:], of)<<24 |
		markOf(b[32:], of)<<32 | markOf(b[40:], of)<<40 | markOf(b[48:], of)<<48 | markOf(b[56:], of)<<56
}

func markOf(b []byte, of uint64) uint64 {
	w := binary.LittleEndian.Uint64(b) ^ of
	return ^((w &^ highs) + ^uint64(highs) | w) & highs >> 7 * 0x0102040810204080 >> 56
}

// Split implements table.Source.
func (r *Reader) Split(b table.Block, rows *table.Rows) error {
	if bytes.IndexByte(b.Data, 0) >= 0 || !utf8.Valid(b.Data) {
		return notText(b)
	}
	n := len(b.Data)
	if cap(b.Data) < n+table.BlockSlack {
		b.Data = append(make([]byte, 0, n+table.BlockSlack), b.Data...)
	}
	data := b.Data[: n+table.BlockSlack : cap(b.Data)]
	s := splitter{data: data, n: n, line: b.Line, rows: rows, delim: r.Delimiter(), extra: rows.Scratch[:0]}
	if err := s.sentinel().split(); err != nil {
		return err
	}
	rows.Data, rows.Scratch = append(data, s.extra...), s.extra
	rows.End()
	return nil
}

// splitter cuts the rows of a block.
type splitter struct {
	data  []byte // BlockSlack bytes more than n
	n     int
	line  int
	rows  *table.Rows
	delim byte
	extra []byte // texts that are not in data as they are meant
}

// sentinel puts a row end behind the data: the last row may lack its own.
func (s *splitter) sentinel() *splitter {
	s.data[s.n] = '\n'
	return s
}

// split goes from mark to mark: a delimiter ends a cell, a line feed a row, a
// quote may open a cell, within which delimiters and line feeds are text.
func (s *splitter) split() error {
	if s.n == 0 {
		return nil
	}
	data, cells, delim := s.data, s.rows.Cells, s.delim
	above := uint64(ones) * uint64(max('"', delim)+1)
	exact := delim > ',' // digits stand before it in ASCII
	if exact {
		above = ones * ('"' + 1)
	}
	cell := 0 // where it begins
	s.begin(len(cells))
	for base := 0; ; base += 64 {
		m := marks((*[64]byte)(data[base:]), above)
		if exact {
			m |= marksOf((*[64]byte)(data[base:]), ones*uint64(delim))
		}
		cells = slices.Grow(cells, 64)
		for m != 0 {
			at := base + bits.TrailingZeros64(m)
			m &= m - 1
			c := data[at]
			switch {
			case c == delim:
				cells = append(cells, table.Cell{Off: uint32(cell), End: uint32(at)})
			case c == '\n':
				end := at
				if end > cell && data[end-1] == '\r' {
					end--
				}
				cells = append(cells, table.Cell{Off: uint32(cell), End: uint32(end)})
			case c != '"' || !onlySpaces(data[cell:at], delim):
				continue
			default:
				text, end, err := s.quoted(at)
				if err != nil {
					return err
				}
				cells, at, c = append(cells, text), end, data[end]
				if at < base+64 {
					m &= ^uint64(0) << (at + 1 - base)
				} else {
					m, base = 0, at+1-64
				}
			}
			cell = at + 1
			if c == '\n' {
				s.line++
				if cell >= s.n {
					s.rows.Cells = cells
					return nil
				}
				s.begin(len(cells))
			}
		}
	}
}

// begin notes that a row begins.
func (s *splitter) begin(cell int) {
	s.rows.Starts = append(s.rows.Starts, uint32(cell))
	s.rows.Lines = append(s.rows.Lines, s.line)
}

func onlySpaces(b []byte, delim byte) bool {
	for _, c := range b {
		if !isSpace(c, delim) {
			return false
		}
	}
	return true
}

// quoted reads the cell whose quote opens at open. It returns its text and the
// place of the delimiter or line feed that ends it.
func (s *splitter) quoted(open int) (text table.Cell, at int, err error) {
	begin, end, line := open+1, 0, s.line
	doubled, skip := false, 0
	for base := begin; end == 0; base += 64 {
		for m := marks((*[64]byte)(s.data[base:]), ones*('"'+1)); m != 0 && end == 0; m &= m - 1 {
			p := base + bits.TrailingZeros64(m)
			switch c := s.data[p]; {
			case c == '\n' && p == s.n:
				return text, 0, &table.RowError{Row: line, Text: neverClosed}
			case c == '\n':
				s.line++
			case c != '"' || p == skip:
			case s.data[p+1] == '"':
				doubled, skip = true, p+1
			default:
				end = p
			}
		}
	}
	text = table.Cell{Off: uint32(begin), End: uint32(end)}
	if doubled {
		text = s.undouble(s.data[begin:end])
	}
	for at = end + 1; isSpace(s.data[at], s.delim) || s.data[at] == '\r'; at++ {
	}
	if s.data[at] != s.delim && s.data[at] != '\n' {
		return text, 0, &table.RowError{Row: s.line, Text: fmt.Sprintf("text follows a closing quote: %s; put the whole cell in quotes "+
			"and double those within", snippet(s.data[open:s.n], at-open))}
	}
	return text, at, nil
}

// undouble puts a text with one quote for each two behind the block.
func (s *splitter) undouble(text []byte) table.Cell {
	off := len(s.data) + len(s.extra)
	for {
		i := bytes.IndexByte(text, '"')
		if i < 0 {
			s.extra = append(s.extra, text...)
			return table.Cell{Off: uint32(off), End: uint32(len(s.data) + len(s.extra))}
		}
		s.extra, text = append(s.extra, text[:i+1]...), text[i+2:]
	}
}

// snippet shows the cell around a mistake.
func snippet(b []byte, at int) string {
	b = b[max(0, at-20):min(len(b), at+10)]
	if i := bytes.IndexByte(b, '\n'); i > 0 {
		b = b[:i]
	}
	return string(bytes.ToValidUTF8(b, nil))
}

// notText says which row of a block is no text.
func notText(b table.Block) error {
	what, at, add := "a NUL byte; this is no text file, or one in another encoding", bytes.IndexByte(b.Data, 0), ""
	for i := 0; i < len(b.Data) && at < 0; {
		r, n := utf8.DecodeRune(b.Data[i:])
		if r == utf8.RuneError && n == 1 {
			what, at = fmt.Sprintf("the byte %#x is no UTF-8, as which the file is read", b.Data[i]), i
			add = "encoding: windows-1252"
		}
		i += n
	}
	return &table.RowError{Row: b.Line + bytes.Count(b.Data[:at], []byte{'\n'}), Text: what, Add: add}
}
