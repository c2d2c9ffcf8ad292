package cube

import (
	"slices"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Part takes a block at a time, beside other parts.
type Part struct {
	to      *Cube
	active  []int // columns of the block at hand
	index   map[uint64][]*local
	list    []*local
	free    []*local
	codes   []uint32
	current []uint32
}

// local is what the block at hand has of a group.
type local struct {
	codes []uint32 // of the block's dictionaries
	texts []string
	group
}

// Part returns what takes blocks.
func (c *Cube) Part() *Part { return &Part{to: c} }

// See takes the delivered rows of a batch, beside other parts.
func (p *Part) See(b *table.Batch) {
	p.active = *p.to.active.Load()
	p.free, p.list = append(p.free, p.list...), p.list[:0]
	if p.index == nil {
		p.index = map[uint64][]*local{}
	}
	clear(p.index)
	p.codes = append(p.codes[:0], make([]uint32, len(p.active))...)
	for row, slot := range b.Delivered {
		h := uint64(0)
		for k, i := range p.active {
			c := &b.Columns[p.to.columns[i].Index]
			p.codes[k] = c.Codes[c.At(row, slot, b.Slots)]
			h = table.Mix(h ^ uint64(p.codes[k]))
		}
		l := p.local(h, b)
		l.rows++
		for m, s := range p.to.measures {
			c := &b.Columns[s.Index]
			if i := c.At(row, slot, b.Slots); c.Numbers[i].Form != table.Empty {
				l.filled[m]++
				c.AddTo(&l.sums[m], i)
			}
		}
	}
}

// local is the group of the block with the codes at hand.
func (p *Part) local(h uint64, b *table.Batch) *local {
	for _, l := range p.index[h] {
		if slices.Equal(l.codes, p.codes) {
			return l
		}
	}
	n := len(p.to.measures)
	l := &local{group: group{filled: make([]int, n), sums: make([]value.Sum, n)}}
	if last := len(p.free) - 1; last >= 0 {
		l, p.free = p.free[last], p.free[:last]
		l.rows = 0
		clear(l.filled)
		clear(l.sums)
	}
	l.codes, l.texts = append(l.codes[:0], p.codes...), l.texts[:0]
	for k, i := range p.active {
		l.texts = append(l.texts, b.Columns[p.to.columns[i].Index].Texts.Out(p.codes[k]))
	}
	p.index[h] = append(p.index[h], l)
	p.list = append(p.list, l)
	return l
}

// Take adds them up behind the blocks before; parts do so one after another.
func (p *Part) Take() {
	for _, l := range p.list {
		p.current = p.current[:0]
		for _, i := range *p.to.active.Load() {
			p.current = append(p.current, p.to.code(i, l.texts[slices.Index(p.active, i)]))
		}
		p.to.rows += l.rows
		g := p.to.group(p.current)
		g.merge(&l.group)
		p.to.shrink()
	}
}
