package csv

import (
	"slices"
	"unsafe"

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
	rowCells []rowCell
	buffer   []byte // the texts of the slots, then those of the row at hand
}

// segment is a part of a fact row, a comma behind each of its cells. Any of its
// parts may be missing.
type segment struct {
	row         []byte         // the text of the row at hand
	slots       [][]byte       // the text of each slot
	numbers     []table.Number // of the cells
	data        []byte         // the texts of these
	cells       *table.Column
	rowColumns  []int
	slotColumns []int
	slotMost    int // the length of the longest text of a slot
}

const (
	// slack is how far lay may read and write beyond the end of a text.
	slack = table.BlockSlack
	// room is what a plain number takes at most, with its comma.
	room = 32
)

// NewEncoder returns an encoder for these columns of the batches.
func NewEncoder(columns []int) *Encoder { return &Encoder{columns: columns} }

// Encode appends the delivered fact rows of a batch.
func (e *Encoder) Encode(dst []byte, b *table.Batch) []byte {
	if b.Slots == 1 {
		return e.encodeRows(dst, b)
	}
	if b.Rows == 0 {
		return dst
	}
	e.plan(b)
	first, slotsEnd := &e.segments[0], len(e.buffer)
	lead := 0 // columns of the extract that stand first; all rows begin with their text
	for lead < len(first.rowColumns) && b.Columns[first.rowColumns[lead]].Level == table.PerExtract {
		lead++
	}
	e.buffer = write(e.buffer, b, first.rowColumns[:lead], 0, 0)
	leadEnd := len(e.buffer)
	for row := range b.Rows {
		e.buffer = write(e.buffer[:leadEnd], b, first.rowColumns[lead:], row, 0)
		first.row = e.buffer[slotsEnd:]
		most := slack // that one fact row needs, texts of cells aside
		for i := range e.segments {
			s := &e.segments[i]
			if i > 0 {
				begin := len(e.buffer)
				e.buffer = write(e.buffer, b, s.rowColumns, row, 0)
				s.row = e.buffer[begin:]
			}
			most += len(s.row) + s.slotMost + room
		}
		need := most*b.Slots + slack
		dst = e.row(slices.Grow(dst, need), b, row, need)
	}
	return dst
}

// rowCell is a cell of a fact row that is an extract row: a text or a number of a column, or the text of columns that
// do not change within a batch.
type rowCell struct {
	column *table.Column
	fixed  []byte
}

// encodeRows is Encode where each extract row is one fact row.
func (e *Encoder) encodeRows(dst []byte, b *table.Batch) []byte {
	e.planRows(b)
	out, end := dst[:cap(dst)], len(dst)
	for row := range b.Rows {
		if b.Fates[row] != table.Delivered {
			continue
		}
		for i := range e.rowCells {
			text, c := e.rowCells[i].fixed, e.rowCells[i].column
			switch {
			case c == nil:
			case c.Texts != nil:
				text = c.Texts.Quoted(c.Codes[row])
			case c.Numbers[row].Form == table.Copy:
				n := &c.Numbers[row]
				text = b.Data[n.Off : n.Off+uint32(n.Len)]
			default:
				out = append(b.AppendNumber(out[:end], c, row), ',')
				end, out = len(out), out[:cap(out)]
				continue
			}
			if len(out)-end <= len(text)+slack {
				out = slices.Grow(out[:end], len(text)+slack+1)
				out = out[:cap(out)]
			}
			end = lay(out, end, text)
			out[end] = ','
			end++
		}
		out[end-1] = '\n'
	}
	return out[:end]
}

// planRows lists the cells of a fact row, and writes the texts that do not change.
func (e *Encoder) planRows(b *table.Batch) {
	e.rowCells, e.buffer = e.rowCells[:0], e.buffer[:0]
	begin, fixed := 0, false
	for i, ci := range e.columns {
		c := &b.Columns[ci]
		if c.Level == table.PerRow || c.Level == table.PerCell {
			e.rowCells, fixed = append(e.rowCells, rowCell{column: c}), false
			continue
		}
		if !fixed {
			e.rowCells, begin, fixed = append(e.rowCells, rowCell{}), len(e.buffer), true
		}
		e.buffer = write(e.buffer, b, e.columns[i:i+1], 0, 0)
		e.rowCells[len(e.rowCells)-1].fixed = e.buffer[begin : len(e.buffer)-1]
	}
}

// row appends the fact rows of one extract row, which need so many bytes. There is
// room for all but the texts of cells.
func (e *Encoder) row(dst []byte, b *table.Batch, row, need int) []byte {
	out, end := dst[:cap(dst)], len(dst)
	at := row * b.Slots
	for slot, fate := range b.Fates[at : at+b.Slots] {
		if fate != table.Delivered {
			continue
		}
		for i := range e.segments {
			s := &e.segments[i]
			if len(s.row) > 0 {
				end = lay(out, end, s.row)
			}
			if slot < len(s.slots) {
				end = lay(out, end, s.slots[slot])
			}
			if at+slot < len(s.numbers) && s.numbers[at+slot].Form == table.Copy {
				x := &s.numbers[at+slot]
				end = lay(out, end, s.data[x.Off:x.Off+uint32(x.Len)])
				out[end] = ','
				end++
			} else if s.cells != nil {
				out, end = e.odd(out, end, b, s, at+slot, need)
			}
		}
		out[end-1] = '\n'
	}
	return out[:end]
}

// lay puts a text at end, and up to fifteen bytes of what stands behind it. It
// returns the new end.
func lay(out []byte, end int, text []byte) int {
	end += len(text)
	_, _ = out[end+15], text[:len(text)+15]
	d, s := unsafe.Pointer(&out[end-len(text)]), unsafe.Pointer(unsafe.SliceData(text))
	for n := len(text); n > 0; n -= 16 {
		*(*[16]byte)(d) = *(*[16]byte)(s)
		d, s = unsafe.Add(d, 16), unsafe.Add(s, 16)
	}
	return end
}

// odd appends a cell that is not copied as it stands, which may be of any
// length, and makes the room for the rest of the extract row again.
func (e *Encoder) odd(out []byte, end int, b *table.Batch, s *segment, i, need int) ([]byte, int) {
	out = out[:end]
	if s.numbers == nil {
		out = append(out, s.cells.Texts.Quoted(s.cells.Codes[i])...)
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
			s.cells, s.numbers, s.data = c, c.Numbers, b.Data
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
			begin := len(e.buffer)
			e.buffer = write(e.buffer, b, s.slotColumns, 0, slot)
			s.slots = append(s.slots, e.buffer[begin:])
			s.slotMost = max(s.slotMost, len(e.buffer)-begin)
		}
	}
}

// write appends the texts of columns for a row and a slot, a comma behind each,
// and makes room behind them. Where the buffer has to grow, texts before stay where
// they were.
func write(buffer []byte, b *table.Batch, columns []int, row, slot int) []byte {
	for _, ci := range columns {
		c := &b.Columns[ci]
		at := c.At(row, slot, b.Slots)
		switch {
		case c.Texts != nil:
			buffer = put(buffer, c.Texts.Quoted(c.Codes[at]))
		case c.Numbers[at].Form == table.Copy:
			n := &c.Numbers[at]
			buffer = put(buffer, b.Data[n.Off:n.Off+uint32(n.Len)])
		default:
			buffer = append(b.AppendNumber(buffer, c, at), ',')
		}
	}
	return slices.Grow(buffer, slack)
}

// put appends a text, and a comma.
func put(buffer, text []byte) []byte {
	buffer = slices.Grow(buffer, len(text)+slack)
	out := buffer[:cap(buffer)]
	end := lay(out, len(buffer), text)
	out[end] = ','
	return out[:end+1]
}
