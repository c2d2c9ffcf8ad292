package keep

import (
	"slices"

	"umbau/internal/core/pass"
	"umbau/internal/core/value"
)

// Row is a fact row that was looked for.
type Row struct {
	Position pass.Position
	Texts    []string // by column of the plan, as delivered
	Numbers  []value.Decimal
	Filled   []bool // whether there is a number
}

// Rows hands on certain fact rows, in their order.
type Rows struct {
	positions []pass.Position // in order
	to        func(Row)
}

// NewRows looks for the rows at these positions.
func NewRows(positions []pass.Position, to func(Row)) *Rows {
	positions = slices.Clone(positions)
	slices.Sort(positions)
	return &Rows{slices.Compact(positions), to}
}

// Part implements pass.Keeper.
func (k *Rows) Part() pass.Part {
	return &listed[Row]{of: k.find, take: func(_ *pass.Input, row *Row) { k.to(*row) }}
}

// find copies the rows of a block that are looked for.
func (k *Rows) find(b *pass.Block) (out []Row) {
	find := NewFinder(k.positions, b.Extract, b.Batch.Slots)
	for row, slot := range b.Delivered {
		if find.Index(b.Line(row), slot) < 0 {
			continue
		}
		n := len(b.Batch.Columns)
		r := Row{b.Position(row, slot), make([]string, n), make([]value.Decimal, n), make([]bool, n)}
		for ci := range b.Batch.Columns {
			c := &b.Batch.Columns[ci]
			r.Texts[ci] = string(b.Batch.AppendText(nil, c, row, slot))
			if c.Numbers != nil {
				r.Numbers[ci], r.Filled[ci] = c.Decimal(c.At(row, slot, b.Batch.Slots))
			}
		}
		out = append(out, r)
	}
	return out
}

// Finder finds fact rows of one block, which come in order, among positions in order.
type Finder struct {
	positions      []pass.Position
	extract, slots int
	next           int
}

// NewFinder returns a finder for a block of an extract.
func NewFinder(positions []pass.Position, extract, slots int) *Finder {
	f := &Finder{positions: positions, extract: extract, slots: slots}
	if len(positions) > 0 {
		f.next, _ = slices.BinarySearch(positions, pass.PositionOf(extract, 0, 0, slots))
	}
	return f
}

// Index is which of the positions the row of a line and slot has, -1 for none.
func (f *Finder) Index(line, slot int) int {
	p, at := pass.PositionOf(f.extract, line, slot, f.slots), f.positions
	if f.next < len(at) && p < at[f.next] && (f.next == 0 || p > at[f.next-1]) {
		return -1
	}
	i, found := f.next, f.next < len(at) && at[f.next] == p
	if !found {
		i, found = slices.BinarySearch(at, p)
	}
	if f.next = i; !found {
		return -1
	}
	f.next++
	return i
}

// Head keeps the first fact rows of the build as texts, at most Most of them.
type Head struct {
	Columns []int
	Most    int
	Rows    [][]string
}

// Part implements pass.Keeper.
func (k *Head) Part() pass.Part {
	return &listed[[]string]{of: k.first, take: func(_ *pass.Input, row *[]string) {
		if len(k.Rows) < k.Most {
			k.Rows = append(k.Rows, *row)
		}
	}}
}

func (k *Head) first(b *pass.Block) (out [][]string) {
	for row, slot := range b.Delivered {
		if len(out) == k.Most {
			break
		}
		var texts []string
		for _, ci := range k.Columns {
			texts = append(texts, string(b.Batch.AppendText(nil, &b.Batch.Columns[ci], row, slot)))
		}
		out = append(out, texts)
	}
	return out
}
