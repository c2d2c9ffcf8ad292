package csv

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math/bits"
	"slices"

	"umbau/internal/core/table"
)

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
				cells = append(cells, table.Cell{Off: uint32(cell), End: uint32(lineEnd(data, cell, at))})
			case c != '"' || !onlySpaces(data[cell:at], delim):
				continue
			default:
				m = untilQuote(data, base, m)
				open, end := at, base+bits.TrailingZeros64(m)
				text := table.Cell{Off: uint32(open + 1), End: uint32(end)}
				if at = end + 1; m == 0 || data[end] != '"' || data[at] != delim && data[at] != '\n' { // it does not end among the marks
					var err error
					if text, at, err = s.quoted(open); err != nil {
						return err
					}
				}
				cells, c = append(cells, text), data[at]
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

// lineEnd is where the last cell of a row ends, which begins at a byte: before a carriage return in front of the line feed.
func lineEnd(data []byte, begin, at int) int {
	if at > begin && data[at-1] == '\r' {
		return at - 1
	}
	return at
}

// untilQuote leaves out marks of the bytes from base on, up to the first one that is a quote or a line feed.
func untilQuote(data []byte, base int, m uint64) uint64 {
	for ; m != 0; m &= m - 1 {
		if c := data[base+bits.TrailingZeros64(m)]; c == '"' || c == '\n' {
			break
		}
	}
	return m
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
	begin, end, doubled := open+1, open+1, false
	for {
		k := bytes.IndexByte(s.data[end:s.n], '"')
		if k < 0 {
			return text, 0, &table.RowError{Row: s.line, Text: neverClosed}
		}
		if end += k; s.data[end+1] != '"' {
			break
		}
		doubled, end = true, end+2
	}
	s.line += bytes.Count(s.data[begin:end], []byte{'\n'})
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
