package csv

import (
	"slices"

	"umbau/internal/core/table"
)

// Encoder writes batches as rows of a comma text file in UTF-8: LF at row ends,
// quotes only where needed, nothing for a missing value. Each worker has its
// own.
//
// Neighbouring columns that do not change within an extract row are put
// together once a row, those that depend on the wide column only once a batch;
// for each fact row these pieces are copied and only the cells are written.
type Encoder struct {
	columns []int // the columns of the batch that are delivered
	pieces  []piece
	buffer  []byte // texts of the row and slot pieces
	spans   []span // of slot pieces, by slot
}

// piece is a run of neighbouring columns of one level.
type piece struct {
	level   table.Level // PerRow, PerSlot or PerCell
	columns []int
	first   int  // of its spans, in a piece of slots
	row     span // of the row at hand, in a piece of rows
}

type span struct{ begin, end int }

// NewEncoder returns an encoder for these columns of the batches.
func NewEncoder(columns []int) *Encoder { return &Encoder{columns: columns} }

// Header returns the header row.
func (e *Encoder) Header(names []string) []byte { return table.AppendLine(nil, names...) }

// Encode appends the delivered fact rows of a batch.
func (e *Encoder) Encode(dst []byte, b *table.Batch) []byte {
	e.plan(b)
	rowsFrom := len(e.buffer)
	n := len(dst)
	dst = dst[:cap(dst)]
	for row := range b.Rows {
		e.buffer = e.buffer[:rowsFrom]
		for i := range e.pieces {
			if p := &e.pieces[i]; p.level == table.PerRow {
				p.row = e.write(b, p, row, 0)
			}
		}
		e.buffer = slices.Grow(e.buffer, stride)
		fates := b.Fates[row*b.Slots : (row+1)*b.Slots]
		for slot, fate := range fates {
			if fate != table.Delivered {
				continue
			}
			for i := range e.pieces {
				switch p := &e.pieces[i]; p.level {
				case table.PerRow:
					dst, n = e.copy(dst, n, p.row)
				case table.PerSlot:
					dst, n = e.copy(dst, n, e.spans[p.first+slot])
				default:
					dst, n = e.cells(dst, n, b, p, row*b.Slots+slot)
				}
			}
			dst[n-1] = '\n'
		}
	}
	return dst[:n]
}

// stride is how many bytes are copied at a time; what is copied too much is
// written over by what follows.
const stride = 32

// room makes sure that size bytes and a stride fit behind dst[:n].
func room(dst []byte, n, size int) []byte {
	if n+size+stride > len(dst) {
		dst = slices.Grow(dst[:n], max(size+stride, len(dst)/2))
		dst = dst[:cap(dst)]
	}
	return dst
}

// copy appends a part of the buffer behind dst[:n].
func (e *Encoder) copy(dst []byte, n int, s span) ([]byte, int) {
	size := s.end - s.begin
	dst = room(dst, n, size)
	to, from := dst[n:n+size+stride], e.buffer[s.begin:s.end+stride]
	for i := 0; i < size; i += stride {
		*(*[stride]byte)(to[i:]) = *(*[stride]byte)(from[i:])
	}
	return dst, n + size
}

// cells appends the cells of a fact row, a comma behind each.
func (e *Encoder) cells(dst []byte, n int, b *table.Batch, p *piece, at int) ([]byte, int) {
	for _, ci := range p.columns {
		c := &b.Columns[ci]
		dst = room(dst, n, stride)
		if c.Texts == nil {
			if x := &c.Numbers[at]; x.Form == table.Copy && int(x.Off)+stride <= len(b.Data) {
				*(*[stride]byte)(dst[n:]) = *(*[stride]byte)(b.Data[x.Off:])
				n += int(x.Len)
				dst[n] = ','
				n++
				continue
			}
		}
		dst = e.cell(dst[:n], b, ci, at)
		dst = append(dst, ',')
		n = len(dst)
		dst = dst[:cap(dst)]
	}
	return dst, n
}

// plan groups the columns into pieces, and writes those of the slots.
func (e *Encoder) plan(b *table.Batch) {
	e.pieces, e.buffer, e.spans = e.pieces[:0], e.buffer[:0], e.spans[:0]
	for _, ci := range e.columns {
		level := b.Columns[ci].Level
		if level == table.PerExtract {
			level = table.PerRow
			if len(e.pieces) > 0 && e.pieces[len(e.pieces)-1].level == table.PerSlot {
				level = table.PerSlot
			}
		}
		if n := len(e.pieces); n > 0 && e.pieces[n-1].level == level {
			e.pieces[n-1].columns = append(e.pieces[n-1].columns, ci)
			continue
		}
		e.pieces = append(e.pieces, piece{level: level, columns: []int{ci}})
	}
	for i := range e.pieces {
		p := &e.pieces[i]
		p.first = len(e.spans)
		if p.level == table.PerSlot {
			for slot := range b.Slots {
				e.spans = append(e.spans, e.write(b, p, 0, slot))
			}
		}
	}
}

// write puts a piece of a row or a slot into the buffer, a comma behind each cell.
func (e *Encoder) write(b *table.Batch, p *piece, row, slot int) span {
	s := span{begin: len(e.buffer)}
	for _, ci := range p.columns {
		e.buffer = e.cell(e.buffer, b, ci, b.Columns[ci].At(row, slot, b.Slots))
		e.buffer = append(e.buffer, ',')
	}
	s.end = len(e.buffer)
	return s
}

func (e *Encoder) cell(dst []byte, b *table.Batch, ci, at int) []byte {
	c := &b.Columns[ci]
	if c.Texts != nil {
		return append(dst, c.Texts.Quoted[c.Codes[at]]...)
	}
	if n := &c.Numbers[at]; n.Form == table.Copy {
		return append(dst, b.Data[n.Off:n.Off+uint32(n.Len)]...)
	}
	return b.AppendNumber(dst, c, at)
}
