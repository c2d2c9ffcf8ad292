package csv

import (
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
	spans   []span // by piece; for slot pieces by piece and slot
}

// piece is a run of neighbouring columns of one level.
type piece struct {
	level   table.Level // PerRow, PerSlot or PerCell
	columns []int
	first   int // of its spans
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
	for row := range b.Rows {
		e.buffer = e.buffer[:rowsFrom]
		for i := range e.pieces {
			if p := &e.pieces[i]; p.level == table.PerRow {
				e.spans[p.first] = e.write(b, p, row, 0)
			}
		}
		for slot := range b.Slots {
			at := row*b.Slots + slot
			if b.Fates[at] != table.Delivered {
				continue
			}
			for i := range e.pieces {
				p := &e.pieces[i]
				switch p.level {
				case table.PerRow:
					s := e.spans[p.first]
					dst = append(dst, e.buffer[s.begin:s.end]...)
				case table.PerSlot:
					s := e.spans[p.first+slot]
					dst = append(dst, e.buffer[s.begin:s.end]...)
				default:
					for _, ci := range p.columns {
						dst = e.cell(dst, b, ci, at)
						dst = append(dst, ',')
					}
				}
			}
			dst[len(dst)-1] = '\n'
		}
	}
	return dst
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
		switch p.level {
		case table.PerRow:
			e.spans = append(e.spans, span{})
		case table.PerSlot:
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
