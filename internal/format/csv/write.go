package csv

import (
	"umbau/internal/core/table"
)

// Encoder writes batches as rows of a comma text file in UTF-8: LF at row ends,
// quotes only where needed, nothing for a missing value. Each worker has its
// own.
//
// A fact row is a row of steps. Neighbouring columns that do not change within
// an extract row are one step, put together once a row; those that depend on the
// wide column are one step, put together once a batch; for each fact row these
// texts are copied, and only the cells are written.
type Encoder struct {
	columns []int // the columns of the batch that are delivered
	steps   []step
	buffer  []byte // the texts of the slots, then those of the row at hand
}

// step is one part of a fact row, a comma behind each of its cells.
type step struct {
	level   table.Level // PerRow, PerSlot or PerCell
	columns []int       // one in a step of cells
	text    []byte      // PerRow: of the row at hand
	texts   [][]byte    // PerSlot: of each slot
	cells   *table.Column
}

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
		for i := range e.steps {
			if s := &e.steps[i]; s.level == table.PerRow {
				s.text = e.write(b, s, row, 0)
			}
		}
		dst = e.row(dst, b, row)
	}
	return dst
}

// row appends the fact rows of one extract row.
func (e *Encoder) row(dst []byte, b *table.Batch, row int) []byte {
	data := b.Data
	at := row * b.Slots
	for slot, fate := range b.Fates[at : at+b.Slots] {
		if fate != table.Delivered {
			continue
		}
		for i := range e.steps {
			s := &e.steps[i]
			switch s.level {
			case table.PerRow:
				dst = append(dst, s.text...)
			case table.PerSlot:
				dst = append(dst, s.texts[slot]...)
			default:
				if s.cells.Numbers == nil {
					dst = append(dst, s.cells.Texts.Quoted[s.cells.Codes[at+slot]]...)
				} else if x := &s.cells.Numbers[at+slot]; x.Form == table.Copy {
					dst = append(dst, data[x.Off:x.Off+uint32(x.Len)+1]...) // the byte behind becomes the comma
					dst[len(dst)-1] = ','
					continue
				} else {
					dst = b.AppendNumber(dst, s.cells, at+slot)
				}
				dst = append(dst, ',')
			}
		}
		dst[len(dst)-1] = '\n'
	}
	return dst
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
		e.steps = append(e.steps, step{level: level, columns: []int{ci}, cells: &b.Columns[ci]})
	}
	for i := range e.steps {
		if s := &e.steps[i]; s.level == table.PerSlot {
			for slot := range b.Slots {
				s.texts = append(s.texts, e.write(b, s, 0, slot))
			}
		}
	}
}

// write puts the text of a step of a row or a slot into the buffer.
func (e *Encoder) write(b *table.Batch, s *step, row, slot int) []byte {
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
	return e.buffer[begin:]
}
