package cube

import (
	"slices"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Part takes a block at a time, beside other parts. What the block has of its groups lies in
// lists, those of one group beside each other.
type Part struct {
	to     *Cube
	active []int // label columns of the block at hand
	dicts  []*table.Dict
	codes  []uint32 // of the block's dictionaries, by group and label
	rows   []int    // by group
	filled []int    // by group and measure
	sums   []value.Sum
	slots  []int32 // by hash: a group and one, 0 for none
	now    []uint32
	known  []known // by label column
}

// known are the cube's codes of the texts of a dictionary, as far as they were asked for.
type known struct {
	of    *table.Dict
	turn  int
	codes []uint32 // and one; 0 for unknown
}

// Part returns what takes blocks.
func (c *Cube) Part() *Part { return &Part{to: c, known: make([]known, len(c.columns))} }

// See takes the delivered rows of a batch, beside other parts.
func (p *Part) See(b *table.Batch) {
	p.active = *p.to.active.Load()
	p.codes, p.rows, p.filled, p.sums = p.codes[:0], p.rows[:0], p.filled[:0], p.sums[:0]
	clear(p.slots)
	p.dicts = p.dicts[:0]
	labels := make([]*table.Column, len(p.active))
	for k, i := range p.active {
		labels[k] = &b.Columns[p.to.columns[i].Index]
		p.dicts = append(p.dicts, labels[k].Texts)
	}
	p.now = append(p.now[:0], make([]uint32, len(p.active))...)
	n := len(p.to.measures)
	for row, slot := range b.Delivered {
		h := uint64(0)
		for k, c := range labels {
			p.now[k] = c.Codes[c.At(row, slot, b.Slots)]
			h = table.Mix(h ^ uint64(p.now[k]))
		}
		g := p.group(h)
		p.rows[g]++
		for m, s := range p.to.measures {
			c := &b.Columns[s.Index]
			if i := c.At(row, slot, b.Slots); c.Numbers[i].Form != table.Empty {
				p.filled[g*n+m]++
				c.AddTo(&p.sums[g*n+m], i)
			}
		}
	}
}

// group is the group of the block with the codes at hand.
func (p *Part) group(h uint64) int {
	if 2*len(p.rows) >= len(p.slots) {
		p.grow()
	}
	n, at := len(p.now), int(h)&(len(p.slots)-1)
	for ; p.slots[at] != 0; at = (at + 1) & (len(p.slots) - 1) {
		if g := int(p.slots[at]) - 1; slices.Equal(p.codes[g*n:g*n+n], p.now) {
			return g
		}
	}
	g, m := len(p.rows), len(p.to.measures)
	p.slots[at] = int32(g) + 1
	p.codes, p.rows = append(p.codes, p.now...), append(p.rows, 0)
	for range m {
		p.filled, p.sums = append(p.filled, 0), append(p.sums, value.Sum{})
	}
	return g
}

// grow makes room for more groups.
func (p *Part) grow() {
	p.slots = make([]int32, max(1024, 2*len(p.slots)))
	n := len(p.now)
	for g := range p.rows {
		h := uint64(0)
		for _, code := range p.codes[g*n : g*n+n] {
			h = table.Mix(h ^ uint64(code))
		}
		at := int(h) & (len(p.slots) - 1)
		for p.slots[at] != 0 {
			at = (at + 1) & (len(p.slots) - 1)
		}
		p.slots[at] = int32(g) + 1
	}
}

// Take adds them up behind the blocks before; parts do so one after another.
func (p *Part) Take() {
	n, m := len(p.active), len(p.to.measures)
	for g := range p.rows {
		p.now = p.now[:0]
		for k, i := range p.active {
			if slices.Contains(*p.to.active.Load(), i) {
				p.now = append(p.now, p.code(k, i, p.codes[g*n+k]))
			}
		}
		p.to.rows += p.rows[g]
		before := len(p.to.groups)
		p.to.group(p.now).merge(&group{rows: p.rows[g], filled: p.filled[g*m : g*m+m], sums: p.sums[g*m : g*m+m]})
		if len(p.to.groups) > before {
			p.to.shrink()
		}
	}
}

// code is the cube's code of a code of the block's dictionary k, which is that of a label column.
func (p *Part) code(k, column int, own uint32) uint32 {
	known := &p.known[column]
	if known.of != p.dicts[k] || known.turn != p.to.turn[column] {
		known.of, known.turn, known.codes = p.dicts[k], p.to.turn[column], known.codes[:0]
	}
	for int(own) >= len(known.codes) {
		known.codes = append(known.codes, 0)
	}
	if known.codes[own] == 0 {
		known.codes[own] = p.to.code(column, p.dicts[k].Out(own)) + 1
	}
	return known.codes[own] - 1
}
