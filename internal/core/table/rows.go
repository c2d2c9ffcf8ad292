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

// End ends the last row, and with it all: the slack stands behind the texts.
func (r *Rows) End() {
	r.Starts = append(r.Starts, uint32(len(r.Cells)))
	r.Data = append(r.Data, make([]byte, BlockSlack)...)
}

// Len returns how many rows there are.
func (r *Rows) Len() int { return len(r.Lines) }

// Row returns the cells of row i.
func (r *Rows) Row(i int) []Cell { return r.Cells[r.Starts[i]:r.Starts[i+1]] }

// Text returns the text of a cell.
func (r *Rows) Text(c Cell) []byte { return r.Data[c.Off:c.End] }

// Kind returns the kind of cell j of row i.
func (r *Rows) Kind(i, j int) CellKind {
	if len(r.Kinds) == 0 {
		return TextCell
	}
	return r.Kinds[int(r.Starts[i])+j]
}

// JoinRows copies the rows of a from one index to another, and those of b from
// an index on.
func JoinRows(a *Rows, from, to int, b *Rows, begin int) *Rows {
	out := &Rows{}
	kinds := len(a.Kinds) > 0 || len(b.Kinds) > 0
	add := func(r *Rows, from, to int) {
		for i := from; i < to; i++ {
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
	add(a, from, to)
	add(b, begin, b.Len())
	out.End()
	return out
}
