// Package table holds what the rooms hand to each other: raw rows as a format
// reads them, and batches of fact rows as columns.
//
// A batch is a grid. It has R extract rows and S slots, the wide columns of its
// extract (one slot where nothing is unpivoted), and so R × S fact rows. A
// column of the fact table is kept at the level at which it varies: once for
// the extract (its region), once a row (the branch), once a slot (the product)
// or once a cell (the amount). Whatever is worked out is worked out at that
// level only.
package table

import "math"

// Cell is the text of one raw cell: Data[Off:End] of its Rows.
type Cell struct{ Off, End uint32 }

// Rows are raw rows as a format reads them, each with cells of its own number.
// BlockSlack bytes of Data stand behind all cells.
type Rows struct {
	Data   []byte
	Cells  []Cell
	Starts []uint32   // row i has Cells[Starts[i]:Starts[i+1]]
	Lines  []int      // the number of each row that a person sees
	Kinds  []CellKind // of each cell; none where all are texts

	// Scratch is memory of a format that does not leave the texts where they
	// stand in its blocks. Data may be part of a block, which is not its own.
	Scratch []byte
}

// CellKind is what a sheet says of a cell.
type CellKind uint8

// The kinds of cells.
const (
	TextCell    CellKind = iota
	NumberCell           // written 1234.56, however its column's numbers are
	DateCell             // written 2024-01-31, with a time where it has one
	OtherCell            // an error or a truth value
	FormulaCell          // a formula without a stored value
)

// Reset empties the rows for another use.
func (r *Rows) Reset() {
	r.Cells, r.Starts, r.Lines, r.Kinds = r.Cells[:0], r.Starts[:0], r.Lines[:0], r.Kinds[:0]
}

// End ends the last row, and with it all: the slack stands behind the texts. More bytes than a place
// can tell are a mistake in the program: each format and all that joins rows has a limit below it.
func (r *Rows) End() {
	if len(r.Data) > math.MaxUint32 || len(r.Cells) > math.MaxUint32 {
		panic("rows of more than 4 GB")
	}
	r.Starts = append(r.Starts, uint32(len(r.Cells)))
	r.Data = append(r.Data, make([]byte, BlockSlack)...)
}

// Len returns how many rows there are.
func (r *Rows) Len() int { return len(r.Lines) }

// Row returns the cells of row i.
func (r *Rows) Row(i int) []Cell { return r.Cells[r.Starts[i]:r.Starts[i+1]] }

// Widest returns how many cells the widest row has.
func (r *Rows) Widest() (cells int) {
	for i := range r.Len() {
		cells = max(cells, len(r.Row(i)))
	}
	return cells
}

// Text returns the text of a cell.
func (r *Rows) Text(c Cell) []byte { return r.Data[c.Off:c.End] }

// Kind returns the kind of cell j of row i.
func (r *Rows) Kind(i, j int) CellKind {
	if len(r.Kinds) == 0 {
		return TextCell
	}
	return r.Kinds[int(r.Starts[i])+j]
}

// Slice returns the rows from one index to another, where they stand.
func (r *Rows) Slice(from, to int) *Rows {
	if from == to {
		return &Rows{}
	}
	return &Rows{Data: r.Data, Cells: r.Cells, Starts: r.Starts[from : to+1], Lines: r.Lines[from:to], Kinds: r.Kinds}
}

// Bytes returns how many bytes the rows take, in memory of their own.
func (r *Rows) Bytes() (n int) {
	for i := range r.Len() {
		cells := r.Row(i)
		n += 16 + 9*len(cells)
		for _, c := range cells {
			n += int(c.End - c.Off)
		}
	}
	return n
}

// JoinRows copies rows behind one another.
func JoinRows(list ...*Rows) *Rows {
	out := &Rows{}
	kinds, rows, cells, bytes := false, 0, 0, 0
	for _, r := range list {
		kinds, rows = kinds || len(r.Kinds) > 0, rows+r.Len()
		for i := range r.Len() {
			cells += len(r.Row(i))
			for _, c := range r.Row(i) {
				bytes += int(c.End - c.Off)
			}
		}
	}
	out.Data, out.Cells = make([]byte, 0, bytes+BlockSlack), make([]Cell, 0, cells)
	out.Starts, out.Lines = make([]uint32, 0, rows+1), make([]int, 0, rows)
	for _, r := range list {
		for i := range r.Len() {
			out.Starts, out.Lines = append(out.Starts, uint32(len(out.Cells))), append(out.Lines, r.Lines[i])
			for j, c := range r.Row(i) {
				at := uint32(len(out.Data))
				out.Data = append(out.Data, r.Text(c)...)
				out.Cells = append(out.Cells, Cell{Off: at, End: uint32(len(out.Data))})
				if kinds {
					out.Kinds = append(out.Kinds, r.Kind(i, j))
				}
			}
		}
	}
	out.End()
	return out
}
