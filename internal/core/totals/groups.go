package totals

import (
	"math"
	"sync"

	"umbau/internal/core/pass"
	"umbau/internal/core/table"
)

// groups finds the group of a row by its labels.
type groups struct {
	run     *run
	cells   map[string]*cell // of this part alone, by name; nil once the shared ones are used
	shared  *shared
	scratch []byte
	byCodes bool
	recent  []recent // groups of the block by the codes of their labels, some of them
	sorted  []int32
}

// mostCells is how many groups a part has of its own before it shares them: memory grows
// with the groups, not with the parts.
var mostCells = 1 << 14

// mostCodes is how many labels make a group that is found by their codes.
const mostCodes = 4

// recent is a group and the codes of its labels.
type recent struct {
	codes [mostCodes]uint64
	cell  *cell
}

func newGroups(k *kept) groups {
	return groups{run: k.run, cells: map[string]*cell{}, shared: &k.shared, byCodes: len(k.run.by) <= mostCodes,
		recent: make([]recent, 1<<11)}
}

// begin makes ready for a block: codes of the one before may mean something else.
func (g *groups) begin() {
	clear(g.recent)
	if g.cells != nil && len(g.cells) > mostCells {
		g.shared.takeIn(g.cells)
		g.cells = nil
	}
}

// codeOf is the same for rows with one label: a code, or a number with its places; ok is
// false for large numbers.
func codeOf(c *table.Column, at int) (code uint64, ok bool) {
	if c.Texts != nil {
		return uint64(c.Codes[at]), true
	}
	n := &c.Numbers[at]
	if n.Form == table.Empty {
		return math.MaxUint64, true
	}
	const most = 1 << 57
	return uint64(n.Coef+most)<<5 | uint64(n.Places), n.Form != table.Large && n.Coef > -most && n.Coef < most
}

// of is the group of a row.
func (g *groups) of(b *pass.Block, row int) *cell {
	var codes [mostCodes]uint64
	ok := g.byCodes
	hash := uint64(0)
	if ok {
		for i, ci := range g.run.by {
			c := &b.Batch.Columns[ci]
			var one bool
			codes[i], one = codeOf(c, c.At(row, 0, 1))
			ok = ok && one
			hash = (hash + codes[i]) * 0x9e3779b97f4a7c15
		}
	}
	if !ok {
		return g.byName(b, row)
	}
	s := &g.recent[hash>>53]
	if s.cell == nil || s.codes != codes {
		s.codes, s.cell = codes, g.byName(b, row)
	}
	return s.cell
}

// byName is the same by what the labels say.
func (g *groups) byName(b *pass.Block, row int) *cell {
	k := g.scratch[:0]
	for i, ci := range g.run.by {
		if i > 0 {
			k = append(k, 0)
		}
		c := &b.Batch.Columns[ci]
		if c.Texts == nil {
			if d, ok := c.Decimal(c.At(row, 0, 1)); ok {
				k = append(k, d.Shorten().String()...)
			}
		} else {
			k = append(k, c.Texts.Out(c.Codes[c.At(row, 0, 1)])...)
		}
	}
	g.scratch = k
	line := b.Line(row)
	if g.cells == nil {
		return g.shared.find(k, line, len(g.run.of))
	}
	c := g.cells[string(k)]
	if c == nil {
		c = newCell(k, line, len(g.run.of))
		g.cells[c.name] = c
	}
	return c
}

// newCell makes a group that stands in a row first.
func newCell(name []byte, line, measures int) *cell {
	return &cell{name: string(name), first: line, of: make([]amount, measures)}
}

// each lets do add rows to their groups, while nobody else does.
func (g *groups) each(at []*cell, rows []int32, do func(rows []int32)) {
	if g.cells != nil {
		do(rows)
		return
	}
	var ends [shards + 1]int // by shard, a counting sort
	for _, row := range rows {
		ends[at[row].shard+1]++
	}
	for i := range shards {
		ends[i+1] += ends[i]
	}
	next := ends
	g.sorted = append(g.sorted[:0], rows...)
	for _, row := range rows {
		i := &next[at[row].shard]
		g.sorted[*i] = row
		*i++
	}
	for i := range shards {
		if ends[i] < ends[i+1] {
			g.shared[i].mutex.Lock()
			do(g.sorted[ends[i]:ends[i+1]])
			g.shared[i].mutex.Unlock()
		}
	}
}

// with lets do change a group, while nobody else does.
func (g *groups) with(c *cell, do func()) {
	if g.cells == nil {
		mutex := &g.shared[c.shard].mutex
		mutex.Lock()
		defer mutex.Unlock()
	}
	do()
}

// shards is how many pieces the shared groups have, each with a lock of its own.
const shards = 64

// shared are the groups that all parts add to, once they are many.
type shared [shards]struct {
	mutex sync.Mutex
	cells map[string]*cell
}

// find is the group of a name, which it makes where there is none.
func (s *shared) find(name []byte, line, measures int) *cell {
	at := table.Hash(name) % shards
	own := &s[at]
	own.mutex.Lock()
	defer own.mutex.Unlock()
	c := own.cells[string(name)]
	if c == nil {
		if own.cells == nil {
			own.cells = map[string]*cell{}
		}
		c = newCell(name, line, measures)
		c.shard = uint8(at)
		own.cells[c.name] = c
	}
	c.first = min(c.first, line)
	return c
}

// takeIn puts groups beside those that are there.
func (s *shared) takeIn(cells map[string]*cell) {
	for name, c := range cells {
		to := s.find([]byte(name), c.first, len(c.of))
		own := &s[to.shard]
		own.mutex.Lock()
		to.merge(c)
		own.mutex.Unlock()
	}
}
