package csv

import (
	"slices"

	"umbau/internal/core/table"
)

// Encoder writes batches as rows of a comma text file in UTF-8: LF at row ends,
// quotes only where needed, nothing for a missing value. Each worker has its
// own.
//
// A fact row is a row of steps. Neighbouring columns that do not change within
// an extract row are one step, put together once a row; those that depend on the
// wide column are one step, put together once a batch; for each fact row these
// texts are copied, and only the cells are written. Texts are copied sixteen
// bytes at a time, beyond their end; what follows is written over that.
type Encoder struct {
	columns []int // the columns of the batch that are delivered
	steps   []step
	buffer  []byte // the texts of the slots, then those of the row at hand
}

// step is one part of a fact row, a comma behind each of its cells.
type step struct {
	level   table.Level // PerRow, PerSlot or PerCell
	columns []int       // one in a step of cells
	text    []byte      // PerRow: of the row at hand, and what stands behind
	len     int         // of the text; PerSlot: of the longest
	texts   []span      // PerSlot: of each slot
	cells   *table.Column
	numbers []table.Number // of the cells
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
		for i := range e.steps {
			s := &e.steps[i]
			switch s.level {
			case table.PerRow:
				t := e.write(b, s, row, 0)
				s.text, s.len = e.buffer[t.off:cap(e.buffer)], t.len
				most += s.len
			case table.PerSlot:
				most += s.len
			default:
				most += room
			}
		}
		dst = e.row(slices.Grow(dst, most*b.Slots+slack), b, row)
	}
	return dst
}

// row appends the fact rows of one extract row. There is room for all but the
// texts of cells.
func (e *Encoder) row(dst []byte, b *table.Batch, row int) []byte {
	out, end := dst[:cap(dst)], len(dst)
	steps, texts := e.steps, e.buffer[:cap(e.buffer)]
	at := row * b.Slots
	for slot, fate := range b.Fates[at : at+b.Slots] {
		if fate != table.Delivered {
			continue
		}
		for i := range steps {
			s := &steps[i]
			var text []byte
			var n int // bytes of the text, and a comma
			switch {
			case s.level == table.PerRow:
				text, n = s.text, s.len
			case s.level == table.PerSlot:
				t := s.texts[slot]
				text, n = texts[t.off:], t.len
			case s.numbers != nil && s.numbers[at+slot].Form == table.Copy:
				x := &s.numbers[at+slot]
				text, n = b.Data[x.Off:], int(x.Len)+1
			default:
				out, end = e.odd(out, end, b, s, at+slot, cap(dst)-len(dst))
				continue
			}
			lay(out[end:], text, n)
			end += n
			out[end-1] = ','
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
func (e *Encoder) odd(out []byte, end int, b *table.Batch, s *step, i, room int) ([]byte, int) {
	before := cap(out)
	out = out[:end]
	if s.numbers == nil {
		out = append(out, s.cells.Texts.Quoted[s.cells.Codes[i]]...)
	} else {
		out = b.AppendNumber(out, s.cells, i)
	}
	out = append(out, ',')
	end = len(out)
	if s.numbers == nil || s.numbers[i].Form == table.Large || cap(out) != before {
		out = slices.Grow(out, room)
	}
	return out[:cap(out)], end
}

// plan groups the columns into steps, and writes the texts of the slots.
func (e *Encoder) plan(b *table.Batch) {
	e.steps, e.buffer = e.steps[:0], e.buffer[:0]
	for _, ci := range e.columns {
		level := b.Columns[ci].Level
		last := len(e.steps) - 1
		if level == table.PerExtract { // goes with its neighbour
			level = table.PerRow
			if last >= 0 && e.steps[last].level == table.PerSlot {
				level = table.PerSlot
			}
		}
		if level != table.PerCell && last >= 0 && e.steps[last].level == level {
			e.steps[last].columns = append(e.steps[last].columns, ci)
			continue
		}
		e.steps = append(e.steps, step{level: level, columns: []int{ci}, cells: &b.Columns[ci], numbers: b.Columns[ci].Numbers})
	}
	for i := range e.steps {
		if s := &e.steps[i]; s.level == table.PerSlot {
			for slot := range b.Slots {
				t := e.write(b, s, 0, slot)
				s.texts = append(s.texts, t)
				s.len = max(s.len, t.len)
			}
		}
	}
}

// write puts the text of a step of a row or a slot into the buffer.
func (e *Encoder) write(b *table.Batch, s *step, row, slot int) span {
	begin := len(e.buffer)
	for _, ci := range s.columns {
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
