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
				if p != begin+1 || data[begin] != delim { // else no row end stands before it
					if !opens(data, p, delim) {
						continue
					}
					e.outside = append(e.outside, stretch{begin, p})
				}
				e.open, e.openedAt = true, p
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
