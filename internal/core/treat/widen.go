package treat

import (
	"strconv"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Rows that agree in all but two cells become one. All rows of an extract are
// kept until its last block, one for each that comes out: the memory grows with
// these, and with nothing else.

// widening is the rows of one extract that become fewer.
type widening struct {
	index   map[string]int // of a row, by its other cells
	rows    table.Rows     // with the cells that are added behind those of the extract
	lines   [][]int        // the line of each added cell, 0 where there is none
	figures map[string]int // the column that a text names, by the text
}

// loadToWiden reads as much of the block as is needed to tell its rows apart.
func (w *Worker) loadToWiden() {
	l := w.Program.Lineup
	w.Batch.Data, w.Batch.Slots, w.Batch.Rows = w.Rows.Data, len(w.Program.Slots), len(w.Sorted.Used)
	total := false
	for i := range w.Program.Columns {
		c := &w.Program.Columns[i]
		if c.spec.Kind.Numeric() || c.level != table.PerRow || c.made {
			continue
		}
		if c.source.Index < len(l.Header.Texts) {
			total = w.readTexts(i) || total
		} else {
			w.columns[i].texts = w.dict(i)
			w.Batch.Columns[i].Codes = make([]uint32, w.Batch.Rows)
		}
	}
	if total || len(l.Dropped) > 0 {
		w.takeTotals()
	}
	w.Totals = w.Totals[:0] // a total row totals several columns in one: it is not compared
}

// widen takes the rows of the block in; the last block brings out all of them.
func (w *Worker) widen(s *Shared) {
	if s.wide == nil {
		s.wide = &widening{index: map[string]int{}, figures: map[string]int{}}
	}
	for _, row := range w.Sorted.Used {
		w.takeRow(s.wide, int(row))
	}
	used := len(w.Sorted.Used)
	out, problems := w.Sorted.Out, w.Problems
	lines := make([]int, w.Rows.Len()) // what is left out of the block is still to be listed
	copy(lines, w.Rows.Lines)
	w.Sorted.Used = w.Sorted.Used[:0]
	rows := table.Rows{}
	lineOf := func(i int) int { return lines[i] }
	if w.last {
		rows = s.wide.rows
		w.widened = s.wide.lines
	} else {
		w.widened = [][]int{}
	}
	rows.End()
	n := rows.Len()
	for i := range n {
		w.Sorted.Used = append(w.Sorted.Used, int32(i))
	}
	for i := range out { // rows that are left out follow the others, with no cells
		rows.Lines = append(rows.Lines, lineOf(out[i].Row))
		rows.Starts = append(rows.Starts, rows.Starts[len(rows.Starts)-1])
		out[i].Row = n + i
	}
	scratch := w.Rows.Scratch
	w.Rows = rows
	w.Rows.Scratch = scratch
	w.reset()
	w.Sorted.Out, w.Sorted.Totals, w.Problems = out, w.Sorted.Totals[:0], problems
	w.used = used
	w.loadColumns()
}

// takeRow puts the cell of a row where it belongs.
func (w *Worker) takeRow(wide *widening, row int) {
	l := w.Program.Lineup
	cells := w.Rows.Row(row)[:len(l.Header.Texts)]
	text := func(i int) string { return string(value.Trim(w.Rows.Text(cells[i]))) }
	column, ok := w.figure(wide, text(l.Widen.Header), row)
	if !ok {
		return
	}
	var k []byte
	for i := range cells {
		if i != l.Widen.Header && i != l.Widen.Cell {
			t := text(i)
			k = append(strconv.AppendInt(k, int64(len(t)), 10), ':')
			k = append(k, t...)
		}
	}
	at, known := wide.index[string(k)]
	if !known {
		at = wide.begin(&w.Rows, row, l)
		wide.index[string(k)] = at
	}
	line := w.Rows.Lines[row]
	if before := wide.lines[at][column]; before > 0 {
		here := l.Place
		here.Row, here.Header = line, l.Header.Name(l.Widen.Cell)
		p := place.At(here, "figure twice", "two rows that agree in all other cells say the same figure").ByRule()
		p.Texts = []string{"first in row " + strconv.Itoa(before)}
		p.Plan, p.Advice = l.Entry.Widen.Pos, "mend the extract, or name the column that tells the rows apart"
		w.Problems.Add(p)
		return
	}
	wide.lines[at][column] = line
	cell := &wide.rows.Cells[int(wide.rows.Starts[at])+len(cells)+column]
	cell.Off = uint32(len(wide.rows.Data))
	wide.rows.Data = append(wide.rows.Data, w.Rows.Text(cells[l.Widen.Cell])...)
	cell.End = uint32(len(wide.rows.Data))
	if len(wide.rows.Kinds) > 0 {
		wide.rows.Kinds[int(wide.rows.Starts[at])+len(cells)+column] = w.Rows.Kind(row, l.Widen.Cell)
	}
}

// figure finds the column that a text names, and reports one that names none.
func (w *Worker) figure(wide *widening, text string, row int) (column int, ok bool) {
	l := w.Program.Lineup
	column, known := wide.figures[text]
	if !known {
		column = -1
		for i, c := range l.Widen.Columns {
			if layout.Claims(c, l.Entry, key.Of(text)) {
				column = i
			}
		}
		wide.figures[text] = column
	}
	if column < 0 {
		at := l.Place
		at.Row, at.Header = w.Rows.Lines[row], l.Header.Name(l.Widen.Header)
		p := place.At(at, "unexpected figure", "what the cell is names no column of the fact table").ByRule()
		p.Texts, p.Once = []string{text}, true
		p.Plan, p.Advice = l.Entry.Widen.Pos, "name it in headers of the column that it is"
		w.Problems.Add(p)
	}
	return column, column >= 0
}

// begin adds a row with the cells of an extract row, and room for those of widen.
func (d *widening) begin(rows *table.Rows, row int, l *layout.Lineup) int {
	r := &d.rows
	r.Starts, r.Lines = append(r.Starts, uint32(len(r.Cells))), append(r.Lines, rows.Lines[row])
	for i, c := range rows.Row(row)[:len(l.Header.Texts)] {
		cell := table.Cell{Off: uint32(len(r.Data)), End: uint32(len(r.Data))}
		if i != l.Widen.Header && i != l.Widen.Cell {
			r.Data = append(r.Data, rows.Text(c)...)
			cell.End = uint32(len(r.Data))
		}
		r.Cells = append(r.Cells, cell)
		if len(rows.Kinds) > 0 {
			r.Kinds = append(r.Kinds, rows.Kind(row, i))
		}
	}
	for range l.Widen.Columns {
		r.Cells = append(r.Cells, table.Cell{})
		if len(rows.Kinds) > 0 {
			r.Kinds = append(r.Kinds, table.TextCell)
		}
	}
	d.lines = append(d.lines, make([]int, len(l.Widen.Columns)))
	return len(d.lines) - 1
}
