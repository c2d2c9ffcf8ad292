package pass_test

import "umbau/internal/core/pass"

// regions is a keeper that counts the fact rows of each region.
type regions struct {
	Rows   map[string]int
	column int // of the plan
}

// Part implements pass.Keeper.
func (k *regions) Part() pass.Part { return &regionsPart{to: k, rows: map[string]int{}} }

// Merge implements pass.Portable.
func (k *regions) Merge(other pass.Keeper) { k.add(other.(*regions).Rows) }

func (k *regions) add(rows map[string]int) {
	for region, n := range rows {
		k.Rows[region] += n
	}
}

// regionsPart counts the rows of one block.
type regionsPart struct {
	to   *regions
	rows map[string]int
}

// See implements pass.Part.
func (p *regionsPart) See(b *pass.Block) {
	clear(p.rows)
	for row, slot := range b.Delivered {
		p.rows[string(b.Batch.AppendText(nil, &b.Batch.Columns[p.to.column], row, slot))]++
	}
}

// Take implements pass.Part.
func (p *regionsPart) Take() { p.to.add(p.rows) }
