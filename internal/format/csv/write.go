package csv

import (
	"slices"

	"umbau/internal/core/table"
)

// Encoder writes batches as rows of a comma text file in UTF-8: LF at row ends,
// quotes only where needed, nothing for a missing value. Each worker has its
// own.
//
// A fact row is a row of segments: texts that do not change within an extract
// row, put together once a row; texts that depend on the wide column, put
// together once a batch; and a cell. For each fact row the texts are copied, and
// only the cells are written. Texts are copied sixteen bytes at a time, beyond
// their end; what follows is written over that.
type Encoder struct {
	columns  []int // the columns of the batch that are delivered
	segments []segment
	buffer   []byte // the texts of the slots, then those of the row at hand
}

// segment is a part of a fact row, a comma behind each of its cells. Any of its
// parts may be missing.
type segment struct {
	rowColumns  []int
	row         []byte // the text of the row at hand, and what stands behind
	rowLen      int
	slotColumns []int
	slots       []span // the text of each slot
	slotMost    int    // the length of the longest
	cells       *table.Column
	numbers     []table.Number // of the cells
}

// span is a text in the buffer.
type span struct{ off, len int }

const (
	// slack is how far lay may read and write beyond the end of a text.
	slack = table.BlockSlack
	// room is what a plain number takes at most, with its comma.
	room = 32
)

// NewEncoder returns an encoder for these columns of the batches.
func NewEncoder(columns []int) *Encoder { return &Encoder{columns: columns} }

// Header returns the header row.
func (e *Encoder) Header(names []string) []byte { return table.AppendLine(nil, names...) }

// Encode appends the delivered fact rows of a batch.
func (e *Encoder) Encode(dst []byte, b *table.Batch) []byte {
	e.plan(b)
	slotsEnd := len(e.buffer)
	for row := range b.Rows {
		e.buffer = e.buffer[:slotsEnd]
		most := slack // that one fact row needs, texts of cells aside
		for i := range e.segments {
			s := &e.segments[i]
			if len(s.rowColumns) > 0 {
				t := e.write(b, s.rowColumns, row, 0)
				s.row, s.rowLen = e.buffer[t.off:cap(e.buffer)], t.len
			}
			most += s.rowLen + s.slotMost + room
		}
		need := most*b.Slots + slack
		dst = e.row(slices.Grow(dst, need), b, row, need)
	}
	return dst
}

// row appends the fact rows of one extract row, which need so many bytes. There is
// room for all but the texts of cells.
func (e *Encoder) row(dst []byte, b *table.Batch, row, need int) []byte {
	out, end := dst[:cap(dst)], len(dst)
	segments, texts, data := e.segments, e.buffer[:cap(e.buffer)], b.Data
	at := row * b.Slots
	for slot, fate := range b.Fates[at : at+b.Slots] {
		if fate != table.Delivered {
			continue
		}
		for i := range segments {
			s := &segments[i]
			if s.rowLen > 0 {
				lay(out[end:], s.row, s.rowLen)
				end += s.rowLen
			}
			if slot < len(s.slots) {
				t := s.slots[slot]
				lay(out[end:], texts[t.off:], t.len)
				end += t.len
			}
			if at+slot < len(s.numbers) && s.numbers[at+slot].Form == table.Copy {
				x := &s.numbers[at+slot]
				lay(out[end:], data[x.Off:], int(x.Len))
				end += int(x.Len) + 1
				out[end-1] = ','
			} else if s.cells != nil {
				out, end = e.odd(out, end, b, s, at+slot, need)
			}
		}
		out[end-1] = '\n'
	}
	return out[:end]
}

// lay copies n bytes, and up to slack bytes of what stands behind them.
func lay(dst, src []byte, n int) {
	d, s := (*[slack]byte)(dst), (*[slack]byte)(src)
	*(*[16]byte)(d[:16]) = *(*[16]byte)(s[:16])
	if n <= 16 {
		return
	}
	*(*[16]byte)(d[16:32]) = *(*[16]byte)(s[16:32])
	if n <= 32 {
		return
	}
	*(*[32]byte)(d[32:64]) = *(*[32]byte)(s[32:64])
	if n > slack {
		copy(dst[slack:n], src[slack:n])
	}
}

// odd appends a cell that is not copied as it stands, which may be of any
// length, and makes the room for the rest of the extract row again.
func (e *Encoder) odd(out []byte, end int, b *table.Batch, s *segment, i, need int) ([]byte, int) {
	out = out[:end]
	if s.numbers == nil {
		out = append(out, s.cells.Texts.Quoted[s.cells.Codes[i]]...)
	} else {
		out = b.AppendNumber(out, s.cells, i)
	}
	out = append(out, ',')
	end = len(out)
	out = slices.Grow(out, need)
	return out[:cap(out)], end
}

// plan groups the columns into segments, and writes the texts of the slots.
func (e *Encoder) plan(b *table.Batch) {
	e.segments, e.buffer = append(e.segments[:0], segment{}), e.buffer[:0]
	for _, ci := range e.columns {
		c := &b.Columns[ci]
		s := &e.segments[len(e.segments)-1]
		afterSlots := len(s.slotColumns) > 0 // texts of the row stand before those of the slots
		if s.cells != nil || afterSlots && c.Level == table.PerRow {
			e.segments = append(e.segments, segment{})
			s, afterSlots = &e.segments[len(e.segments)-1], false
		}
		switch {
		case c.Level == table.PerCell:
			s.cells, s.numbers = c, c.Numbers
		case c.Level == table.PerSlot || c.Level == table.PerExtract && afterSlots:
			s.slotColumns = append(s.slotColumns, ci)
		default:
			s.rowColumns = append(s.rowColumns, ci)
		}
	}
	for i := range e.segments {
		s := &e.segments[i]
		if len(s.slotColumns) == 0 {
			continue
		}
		for slot := range b.Slots {
			t := e.write(b, s.slotColumns, 0, slot)
			s.slots = append(s.slots, t)
			s.slotMost = max(s.slotMost, t.len)
		}
	}
}

// write puts the text of columns for a row and a slot into the buffer.
func (e *Encoder) write(b *table.Batch, columns []int, row, slot int) span {
	begin := len(e.buffer)
	for _, ci := range columns {
		c := &b.Columns[ci]
		at := c.At(row, slot, b.Slots)
		if c.Numbers == nil {
			e.buffer = append(e.buffer, c.Texts.Quoted[c.Codes[at]]...)
		} else {
			e.buffer = b.AppendNumber(e.buffer, c, at)
		}
		e.buffer = append(e.buffer, ',')
	}
	e.buffer = slices.Grow(e.buffer, slack)
	return span{begin, len(e.buffer) - begin}
}
