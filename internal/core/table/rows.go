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
	Starts []uint32 // row i has Cells[Starts[i]:Starts[i+1]]
	Lines  []int    // the number of each row that a person sees
}

// Reset empties the rows for another use.
func (r *Rows) Reset() {
	r.Cells, r.Starts, r.Lines = r.Cells[:0], r.Starts[:0], r.Lines[:0]
}

// Len returns how many rows there are.
func (r *Rows) Len() int { return len(r.Lines) }

// Row returns the cells of row i.
func (r *Rows) Row(i int) []Cell { return r.Cells[r.Starts[i]:r.Starts[i+1]] }

// Text returns the text of a cell.
func (r *Rows) Text(c Cell) []byte { return r.Data[c.Off:c.End] }

// Block is a part of an extract, cut at a row end. Line is the number of its
// first row. Data has at least BlockSlack bytes of capacity behind its end,
// which a splitter may overwrite.
type Block struct {
	Data []byte
	Line int
}

// BlockSlack is the room behind the data of a block.
const BlockSlack = 64

// Source reads one extract. Next is called by one goroutine; Split, which cuts a
// block into rows, by many at once on blocks of their own.
type Source interface {
	// Next reads the next block into buf, which it may replace by a larger
	// one. It returns io.EOF, and no data, at the end.
	Next(buf []byte) (Block, error)
	// Split appends the rows of a block to rows.
	Split(b Block, rows *Rows) error
}

// RowError is what is wrong with the raw text of one row.
type RowError struct {
	Row  int
	Text string
}

func (e *RowError) Error() string { return e.Text }
