package keep

import (
	"strings"

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

// Key is the key and the label of the group with these values.
func (b By) Key(values []string) (k, label string) {
	var dst []byte
	for i, v := range values {
		dst = append(b.Kinds[i].AppendKey(dst, v), 0)
	}
	return string(dst), strings.Join(values, " | ")
}

// Groups adds up measures of the fact table by the values of some columns.
type Groups struct {
	By         By
	Measures   []int
	List       []*Group // in the order in which they came
	Currencies []string // of the measures, "" where none was seen

	index map[string]*Group
}

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

// group is the group that another one is a part of, begun where there is none.
func (k *Groups) group(s *Group) *Group {
	g := k.Of(s.Key)
	if g == nil {
		g = &Group{Key: s.Key, Label: s.Label, Have: make([]value.Sum, len(k.Measures)), Held: make([]value.Sum, len(k.Measures))}
		k.index[s.Key] = g
		k.List = append(k.List, g)
	}
	return g
}

// take adds a part of a group.
func (k *Groups) take(g, s *Group) {
	g.Rows += s.Rows
	for m := range k.Measures {
		g.Have[m].Merge(&s.Have[m])
		g.Held[m].Merge(&s.Held[m])
	}
}

// Merge implements pass.Portable.
func (k *Groups) Merge(other pass.Keeper) {
	o := other.(*Groups)
	for _, g := range o.List {
		k.take(k.group(g), g)
	}
	for m, c := range o.Currencies {
		if m < len(k.Currencies) && k.Currencies[m] == "" {
			k.Currencies[m] = c
		}
	}
}

// groupsPart adds up one block.
type groupsPart struct {
	to         *Groups
	grouper    grouper
	touched    []*blockGroup
	currencies []string
}

// Part implements pass.Keeper.
func (k *Groups) Part() pass.Part { return &groupsPart{to: k, grouper: grouper{by: k.By}} }

// See implements pass.Part.
func (p *groupsPart) See(b *pass.Block) {
	p.touched, p.currencies = p.touched[:0], p.currencies[:0]
	for _, ci := range p.to.Measures {
		p.currencies = append(p.currencies, b.Currencies[ci])
	}
	p.grouper.runs(b.Batch, func(from, to int, s *blockGroup) {
		if !s.touched {
			if s.touched, s.Rows = true, 0; s.Have == nil {
				n := len(p.to.Measures)
				sums := make([]value.Sum, 2*n)
				s.Have, s.Held, s.plain = sums[:n], sums[n:], make([]plainSum, n)
			}
			p.touched = append(p.touched, s)
		}
		for _, f := range b.Batch.Fates[from:to] {
			if f == table.Delivered {
				s.Rows++
			}
		}
		for i, ci := range p.to.Measures {
			s.addRun(b.Batch, &b.Batch.Columns[ci], from, to, i)
		}
	})
}

// addRun adds the numbers that a run of fact rows has in a column to a measure of their group: of those
// that are delivered, and of those that are held.
func (s *blockGroup) addRun(b *table.Batch, c *table.Column, from, to, measure int) {
	direct := c.Level == table.PerCell || c.Level == table.PerRow && b.Slots == 1
	plain := &s.plain[measure]
	for at := from; at < to; at++ {
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
		case f == table.Held || n.Form == table.Large:
			sum := &s.Have[measure]
			if f == table.Held {
				sum = &s.Held[measure]
			}
			c.AddTo(sum, i)
			s.odd = true
		case n.Coef != 0:
			if plain.places != n.Places && plain.any {
				s.Have[measure].Add128(plain.Sum128, int(plain.places))
				*plain, s.odd = plainSum{}, true
			}
			plain.Add(n.Coef)
			plain.places, plain.any = n.Places, true
		}
	}
}

// Take implements pass.Part.
func (p *groupsPart) Take() {
	for _, s := range p.touched {
		if s.touched = false; s.of == nil {
			s.of = p.to.group(&s.Group)
		}
		s.of.Rows += s.Rows
		for m := range s.plain {
			if plain := &s.plain[m]; plain.any {
				s.of.Have[m].Add128(plain.Sum128, int(plain.places))
			}
		}
		clear(s.plain)
		if s.odd {
			s.Rows = 0
			p.to.take(s.of, &s.Group)
			clear(s.Have)
			clear(s.Held)
			s.odd = false
		}
	}
	p.to.Currencies = append(p.to.Currencies[:0], p.currencies...)
}

// grouper finds the groups of fact rows.
type grouper struct {
	by      By
	groups  map[string]*blockGroup // by the values as delivered
	scratch []byte

	// Where one or two columns vary, and have codes, these find a group that was found before:
	short  bool
	varies []int // these columns
	dicts  []*table.Dict
	fixed  []byte                 // the values of the others
	codes  map[uint64]*blockGroup // good for these dictionaries and values …
	code   []*blockGroup          // … or, where one column varies, by its code
}

// blockGroup is what the block at hand has of a group.
type blockGroup struct {
	Group
	touched bool
	plain   []plainSum // by measure, besides Have: most amounts have the same places
	odd     bool       // there is something in Have or Held
	of      *Group     // that it is a part of, once it is known
}

// plainSum is a sum of numbers with the same places.
type plainSum struct {
	value.Sum128
	places uint8
	any    bool
}

// mostGroups is how many groups a part knows at once: memory stays flat, whatever comes in.
const mostGroups = 1 << 16

// begin looks whether the codes of a batch find groups.
func (g *grouper) begin(b *table.Batch) {
	before := len(g.varies)
	fixed := g.scratch[:0]
	g.short, g.varies = true, g.varies[:0]
	for _, ci := range g.by.Columns {
		switch c := &b.Columns[ci]; {
		case c.Level == table.PerExtract:
			fixed = append(b.AppendText(fixed, c, 0, 0), 0)
		case c.Numbers != nil:
			g.short = false
		default:
			g.varies = append(g.varies, ci)
		}
	}
	g.scratch = fixed
	if g.short = g.short && len(g.varies) <= 2; !g.short {
		return
	}
	same := g.code != nil && before == len(g.varies) && len(g.dicts) == before && string(fixed) == string(g.fixed)
	for i, ci := range g.varies {
		same = same && g.dicts[i] == b.Columns[ci].Texts
	}
	if same && len(g.codes) < mostGroups {
		return
	}
	g.dicts, g.fixed, g.codes, g.code = g.dicts[:0], append(g.fixed[:0], fixed...), map[uint64]*blockGroup{}, []*blockGroup{}
	for _, ci := range g.varies {
		g.dicts = append(g.dicts, b.Columns[ci].Texts)
	}
}

// of returns the group of a fact row.
func (g *grouper) of(b *table.Batch, at int) *blockGroup {
	if !g.short {
		return g.ofTexts(b, at)
	}
	if len(g.varies) == 1 {
		c := &b.Columns[g.varies[0]]
		code := int(c.Codes[c.At(at/b.Slots, at%b.Slots, b.Slots)])
		if code >= len(g.code) {
			g.code = append(g.code, make([]*blockGroup, code+1-len(g.code))...)
		}
		if g.code[code] == nil {
			s := g.ofTexts(b, at)
			if code < len(g.code) {
				g.code[code] = s
			}
			return s
		}
		return g.code[code]
	}
	code := uint64(0)
	for _, ci := range g.varies {
		c := &b.Columns[ci]
		code = code<<32 | uint64(c.Codes[c.At(at/b.Slots, at%b.Slots, b.Slots)])
	}
	s := g.codes[code]
	if s == nil {
		s = g.ofTexts(b, at)
		g.codes[code] = s
	}
	return s
}

// ofTexts returns the group of a fact row by the texts of its columns.
func (g *grouper) ofTexts(b *table.Batch, at int) *blockGroup {
	g.scratch = g.scratch[:0]
	for _, ci := range g.by.Columns {
		g.scratch = append(b.AppendText(g.scratch, &b.Columns[ci], at/b.Slots, at%b.Slots), 0)
	}
	s := g.groups[string(g.scratch)]
	if s == nil {
		if g.groups == nil || len(g.groups) > mostGroups {
			g.groups, g.codes, g.code = map[string]*blockGroup{}, map[uint64]*blockGroup{}, []*blockGroup{}
		}
		s = &blockGroup{}
		s.Key, s.Label = g.by.Key(strings.Split(string(g.scratch[:len(g.scratch)-1]), "\x00"))
		g.groups[string(g.scratch)] = s
	}
	return s
}

// runs visits the fact rows of a block that are delivered or held, in runs of one group, with others
// among them; groups are looked for as seldom as the levels of their columns allow.
func (g *grouper) runs(b *table.Batch, visit func(from, to int, s *blockGroup)) {
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
	run := 1 // fact rows that are surely of one group
	switch level {
	case table.PerExtract:
		run = len(b.Fates)
	case table.PerRow:
		run = b.Slots
	}
	for from := 0; from < len(b.Fates); from += run {
		to := from + run
		for from < to && b.Fates[from] != table.Delivered && b.Fates[from] != table.Held {
			from++
		}
		if from < to {
			visit(from, to, g.of(b, from))
		}
		from = to - run
	}
}
