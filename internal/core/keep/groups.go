package keep

import (
	"cmp"

	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// By is what rows are grouped by.
type By struct {
	Columns []int // of the plan
	Kinds   []plan.Kind
}

// NewBy groups by these columns.
func NewBy(p *plan.Plan, columns []int) By {
	b := By{Columns: columns}
	for _, ci := range columns {
		b.Kinds = append(b.Kinds, p.Columns[ci].Kind)
	}
	return b
}

// Key is the key and the label of the group with these values; they stand side by side in memory.
func (b By) Key(values []string) (k, label string) {
	var both []byte
	for i, v := range values {
		both = append(b.Kinds[i].AppendKey(both, v), 0)
	}
	end := len(both)
	for i, v := range values {
		if i > 0 {
			both = append(both, " | "...)
		}
		both = append(both, v...)
	}
	text := string(both)
	return text[:end], text[end:]
}

// Groups adds up measures of the fact table by the values of some columns.
type Groups struct {
	By         By
	Measures   []int
	List       []*Group // in the order in which they came
	Currencies []string // of the measures, "" where none was seen

	index map[string]*Group
	parts []*groupsPart // that have something yet

	// Room for further groups and their sums, of many at a time: the garbage collector has few things to look at.
	room []Group
	sums []value.Sum
}

// mostRoom is for how many groups there is room at once.
const mostRoom = 256

// Group is what the fact table has of one group.
type Group struct {
	Key        string      // the keys of its values, joined
	Label      string      // its values, as they came first
	Have, Held []value.Sum // by measure
	Rows       int         // fact rows
}

// Of returns a group by its key, nil where no row has it.
func (k *Groups) Of(key string) *Group {
	if k.index == nil {
		k.index = map[string]*Group{}
		for _, g := range k.List {
			k.index[g.Key] = g
		}
	}
	return k.index[key]
}

// group is the group with a key, begun where there is none.
func (k *Groups) group(key, label string) *Group {
	g := k.Of(key)
	if g == nil {
		n := len(k.Measures)
		if len(k.room) == 0 {
			k.room = make([]Group, min(1+len(k.List), mostRoom))
			k.sums = make([]value.Sum, 2*n*len(k.room))
		}
		g = &k.room[0]
		*g = Group{Key: key, Label: label, Have: k.sums[:n:n], Held: k.sums[n : 2*n : 2*n]}
		k.room, k.sums = k.room[1:], k.sums[2*n:]
		k.index[key] = g
		k.List = append(k.List, g)
	}
	return g
}

// Merge implements pass.Portable.
func (k *Groups) Merge(other pass.Keeper) {
	o := other.(*Groups)
	for _, from := range o.List {
		g := k.group(from.Key, from.Label)
		g.Rows += from.Rows
		for m := range k.Measures {
			g.Have[m].Merge(&from.Have[m])
			g.Held[m].Merge(&from.Held[m])
		}
	}
	k.take(o.Currencies)
}

// take takes in the currencies of the measures, as far as they are known.
func (k *Groups) take(currencies []string) {
	k.Currencies = grown(k.Currencies, len(currencies))
	for m, c := range currencies {
		k.Currencies[m] = cmp.Or(k.Currencies[m], c)
	}
}

// groupsPart adds up the blocks that it sees. Groups hear of each group when its first block is taken,
// and of its figures at the end.
type groupsPart struct {
	to         *Groups
	grouper    grouper
	rows       []int      // by group of the grouper
	plain      []plainSum // by group and measure: most amounts have the same places
	odd        []*oddSums // by group: all others
	known      []*Group   // by group
	currencies []string
}

// plainSum is a sum of numbers with the same places.
type plainSum struct {
	value.Sum128
	places uint8
	any    bool
}

// oddSums are sums of numbers that are no plain ones, by measure.
type oddSums struct{ have, held []value.Sum }

// Part implements pass.Keeper.
func (k *Groups) Part() pass.Part {
	p := &groupsPart{to: k, grouper: grouper{by: k.By}}
	k.parts = append(k.parts, p)
	return p
}

// See implements pass.Part.
func (p *groupsPart) See(b *pass.Block) {
	p.currencies = p.currencies[:0]
	for _, ci := range p.to.Measures {
		currency := b.Currencies[ci]
		for _, u := range b.Unsettled { // that of a total, where no cell above it has one
			if u.Column == ci {
				currency = cmp.Or(currency, u.Currency)
			}
		}
		p.currencies = append(p.currencies, currency)
	}
	run, found := p.grouper.find(b.Batch)
	n := len(p.grouper.list)
	p.rows, p.odd = grown(p.rows, n), grown(p.odd, n)
	p.plain = grown(p.plain, n*len(p.to.Measures))
	for i, g := range found {
		if g == noGroup {
			continue
		}
		for _, f := range b.Batch.Fates[i*run : (i+1)*run] {
			if f == table.Delivered {
				p.rows[g]++
			}
		}
	}
	for m, ci := range p.to.Measures {
		p.addUp(b.Batch, &b.Batch.Columns[ci], m, run, found)
	}
}

// grown is a list with n values at least, the new ones zero.
func grown[T any](list []T, n int) []T {
	if n <= len(list) {
		return list
	}
	return append(list, make([]T, n-len(list))...)
}

// addUp adds the numbers that fact rows have in a column to a measure of their groups: of those
// that are delivered, and of those that are held.
func (p *groupsPart) addUp(b *table.Batch, c *table.Column, measure, run int, found []uint32) {
	direct := c.Level == table.PerCell || c.Level == table.PerRow && b.Slots == 1
	for first, g := range found {
		if g == noGroup {
			continue
		}
		plain := &p.plain[int(g)*len(p.to.Measures)+measure]
		for at := first * run; at < (first+1)*run; at++ {
			f := b.Fates[at]
			if f != table.Delivered && f != table.Held {
				continue
			}
			i := at
			if !direct {
				i = c.At(at/b.Slots, at%b.Slots, b.Slots)
			}
			n := &c.Numbers[i]
			switch {
			case n.Form == table.Empty:
			case f == table.Held:
				c.AddTo(&p.oddOf(g).held[measure], i)
			case n.Form == table.Large:
				c.AddTo(&p.oddOf(g).have[measure], i)
			case n.Coef != 0:
				if plain.places != n.Places && plain.any {
					p.oddOf(g).have[measure].Add128(plain.Sum128, int(plain.places))
					*plain = plainSum{}
				}
				plain.Add(n.Coef)
				plain.places, plain.any = n.Places, true
			}
		}
	}
}

// oddOf are the odd sums of a group.
func (p *groupsPart) oddOf(g uint32) *oddSums {
	if p.odd[g] == nil {
		n := len(p.to.Measures)
		sums := make([]value.Sum, 2*n)
		p.odd[g] = &oddSums{sums[:n], sums[n:]}
	}
	return p.odd[g]
}

// Take implements pass.Part.
func (p *groupsPart) Take() {
	for _, g := range p.grouper.list[len(p.known):] {
		p.known = append(p.known, p.to.group(g.key, g.label))
	}
	if p.grouper.drop() {
		p.hand()
	}
	p.to.take(p.currencies)
}

// hand adds the figures of the part to those of the groups, and begins again.
func (p *groupsPart) hand() {
	n := len(p.to.Measures)
	for i, g := range p.known {
		g.Rows += p.rows[i]
		for m, plain := range p.plain[i*n : (i+1)*n] {
			if plain.any {
				g.Have[m].Add128(plain.Sum128, int(plain.places))
			}
		}
		if odd := p.odd[i]; odd != nil {
			for m := range n {
				g.Have[m].Merge(&odd.have[m])
				g.Held[m].Merge(&odd.held[m])
			}
		}
	}
	p.rows, p.plain, p.odd, p.known = nil, nil, nil, nil
}

// End implements pass.Ending.
func (k *Groups) End() {
	for _, p := range k.parts {
		p.hand()
	}
	k.parts = nil
}
