package keep

import (
	"slices"
	"strings"

	"umbau/internal/core/table"
)

// grouper finds the groups of fact rows, and numbers them in the order in which they come.
type grouper struct {
	by      By
	list    []foundGroup
	texts   *table.Dict // of the values as delivered: the codes are the groups
	scratch []byte
	found   []uint32 // what find returns

	// Where the columns that vary have codes, these find a group that was found before: one for each
	// worker's dictionaries, for its blocks come in turn with those of others.
	short   *shortcut
	all     []*shortcut
	varying []int // the columns that vary
	known   int   // codes of all shortcuts
}

// foundGroup is a group.
type foundGroup struct{ key, label string }

const (
	// mostGroups is how many are known at once: memory stays flat, whatever comes in.
	mostGroups = 1 << 16
	// noGroup is that of rows none of which is delivered or held.
	noGroup = ^uint32(0)
)

// find returns the groups of the fact rows of a block that are delivered or held, one for each run of so
// many; others may stand among them. They are looked for as seldom as the levels of their columns allow.
func (g *grouper) find(b *table.Batch) (run int, found []uint32) {
	g.begin(b)
	level := table.PerExtract
	for _, ci := range g.by.Columns {
		switch l := b.Columns[ci].Level; {
		case l == table.PerSlot && level == table.PerRow, l == table.PerRow && level == table.PerSlot:
			level = table.PerCell
		default:
			level = max(level, l)
		}
	}
	run = 1
	switch level {
	case table.PerExtract:
		run = max(len(b.Fates), 1)
	case table.PerRow:
		run = max(b.Slots, 1) // without wide columns there is no fact row
	}
	g.found = slices.Grow(g.found[:0], len(b.Fates)/run)
	for from := 0; from < len(b.Fates); from += run {
		at, to := from, from+run
		for at < to && b.Fates[at] != table.Delivered && b.Fates[at] != table.Held {
			at++
		}
		group := noGroup
		if at < to {
			group = g.of(b, at)
		}
		g.found = append(g.found, group)
	}
	return run, g.found
}

// drop forgets all groups where there are very many. It reports whether it did.
func (g *grouper) drop() bool {
	if len(g.list) <= mostGroups {
		return false
	}
	*g = grouper{by: g.by}
	return true
}

// begin looks which shortcut is good for a batch.
func (g *grouper) begin(b *table.Batch) {
	fixed := g.scratch[:0]
	g.short, g.varying = nil, g.varying[:0]
	for _, ci := range g.by.Columns {
		switch c := &b.Columns[ci]; {
		case c.Level == table.PerExtract:
			fixed = append(b.AppendText(fixed, c, 0, 0), 0)
		case c.Texts == nil:
			return
		default:
			g.varying = append(g.varying, ci)
		}
	}
	g.scratch = fixed
	if g.known > mostGroups || len(g.all) > mostShortcuts {
		g.all, g.known = nil, 0
	}
	for _, s := range g.all {
		if s.fits(b, g.varying, fixed) {
			g.short = s
			return
		}
	}
	g.short = &shortcut{fixed: slices.Clone(fixed)}
	for _, ci := range g.varying {
		g.short.dicts = append(g.short.dicts, b.Columns[ci].Texts.Number())
	}
	g.short.pairs = make([]pairs, max(len(g.varying)-1, 0))
	g.all = append(g.all, g.short)
}

// of returns the group of a fact row.
func (g *grouper) of(b *table.Batch, at int) uint32 {
	if g.short == nil {
		return g.ofTexts(b, at)
	}
	row, slot := at, 0
	if b.Slots > 1 {
		row, slot = at/b.Slots, at%b.Slots
	}
	code := uint32(0)
	for i, ci := range g.varying {
		c := &b.Columns[ci]
		if own := c.Codes[c.At(row, slot, b.Slots)]; i == 0 {
			code = own
		} else {
			code = g.short.pairs[i-1].number(code, own)
		}
	}
	groups := &g.short.groups
	if int(code) >= len(*groups) {
		g.known += int(code) + 1 - len(*groups)
		*groups = append(*groups, make([]uint32, int(code)+1-len(*groups))...)
	}
	if (*groups)[code] == 0 {
		(*groups)[code] = g.ofTexts(b, at) + 1
	}
	return (*groups)[code] - 1
}

// ofTexts returns the group of a fact row by the texts of its columns.
func (g *grouper) ofTexts(b *table.Batch, at int) uint32 {
	g.scratch = g.scratch[:0]
	for _, ci := range g.by.Columns {
		g.scratch = append(b.AppendText(g.scratch, &b.Columns[ci], at/b.Slots, at%b.Slots), 0)
	}
	if g.texts == nil {
		g.texts = table.NewDict()
	}
	n, fresh := g.texts.Code(g.scratch)
	if fresh {
		key, label := g.by.Key(strings.Split(string(g.scratch[:len(g.scratch)-1]), "\x00"))
		g.list = append(g.list, foundGroup{key, label})
	}
	return n
}

// mostShortcuts is how many are kept.
const mostShortcuts = 64

// shortcut finds groups by the codes of the columns that vary.
type shortcut struct {
	dicts  []uint64 // the numbers of their dictionaries
	fixed  []byte   // the values of the other columns
	pairs  []pairs  // the codes of two columns are one, that and the next are one, …
	groups []uint32 // by that code: the group and 1; 0 for none yet
}

// fits reports whether the shortcut is good for a batch.
func (s *shortcut) fits(b *table.Batch, varying []int, fixed []byte) bool {
	if len(varying) != len(s.dicts) || string(fixed) != string(s.fixed) {
		return false
	}
	for i, ci := range varying {
		if s.dicts[i] != b.Columns[ci].Texts.Number() {
			return false
		}
	}
	return true
}

// pairs numbers pairs of codes in the order in which they come.
type pairs struct {
	slots []pair // open addressing, a power of two
	n     uint32
}

// pair is a pair of codes, and its number and 1; 0 while it is free.
type pair struct {
	codes uint64
	next  uint32
}

func (p *pairs) number(a, b uint32) uint32 {
	codes := uint64(a)<<32 | uint64(b)
	if 2*int(p.n) >= len(p.slots) {
		old := p.slots
		p.slots = make([]pair, max(2*len(old), 64))
		for _, o := range old {
			if o.next > 0 {
				*p.slot(o.codes) = o
			}
		}
	}
	s := p.slot(codes)
	if s.next == 0 {
		p.n++
		*s = pair{codes, p.n}
	}
	return s.next - 1
}

// slot is that of a pair, or the free one for it.
func (p *pairs) slot(codes uint64) *pair {
	mask := uint64(len(p.slots) - 1)
	i := table.Mix(codes) & mask
	for p.slots[i].next > 0 && p.slots[i].codes != codes {
		i = (i + 1) & mask
	}
	return &p.slots[i]
}
