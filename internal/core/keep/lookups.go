package keep

import (
	"maps"
	"slices"

	"umbau/internal/core/lookup"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// Lookups counts the keys that fact rows ask references for.
type Lookups struct{ Of []*Asked } // by table, in the order of their first columns

// Asked is what is asked of one reference by one key.
type Asked struct {
	Column  int   // of the plan: the first that is looked up so
	Found   int   // fact rows that found a partner
	Rows    []int // of each line of the reference: the fact rows that asked for it
	Missing map[string]*MissingKey
}

// MissingKey is a key that is not in the reference.
type MissingKey struct {
	Key, Label string // Label in the spelling seen first
	Rows       int
	First      place.Place // where it stands first
	Amount     *value.Sum  // of the first measure; nil where there is none
	At         int         // how many came before it
}

// NewLookups counts for these columns, which are by column of the plan.
func NewLookups(columns []*lookup.Column) *Lookups {
	k := &Lookups{}
	for ci, c := range columns {
		if c != nil && c.First {
			k.Of = append(k.Of, &Asked{Column: ci, Rows: make([]int, c.Table.Len()), Missing: map[string]*MissingKey{}})
		}
	}
	return k
}

// lookupsPart has what one block asks.
type lookupsPart struct {
	listed[treat.LookedUp]
	to    *Lookups
	asked []treat.AskedLine
}

// Part implements pass.Keeper.
func (k *Lookups) Part() pass.Part {
	p := &lookupsPart{to: k}
	p.of, p.take = func(b *pass.Block) []treat.LookedUp { return b.Lookups }, func(_ *pass.Input, l *treat.LookedUp) { k.take(*l) }
	return p
}

// See implements pass.Part.
func (p *lookupsPart) See(b *pass.Block) {
	p.listed.See(b)
	p.asked = append(p.asked[:0], b.Asked...)
}

// Take implements pass.Part.
func (p *lookupsPart) Take() {
	p.listed.Take()
	var a *Asked
	for _, l := range p.asked {
		if a == nil || a.Column != int(l.Column) {
			a = p.to.of(int(l.Column))
		}
		a.Found += int(l.Rows)
		a.Rows[l.Line] += int(l.Rows)
	}
}

// of is what is asked through a column.
func (k *Lookups) of(column int) *Asked {
	return k.Of[slices.IndexFunc(k.Of, func(a *Asked) bool { return a.Column == column })]
}

func (k *Lookups) take(l treat.LookedUp) {
	a := k.of(l.Column)
	if len(l.Lines) > 0 {
		a.Found += l.Rows
		for _, line := range l.Lines {
			a.Rows[line] += l.Rows
		}
		return
	}
	a.miss(MissingKey{Key: l.Key, Label: l.Label, Rows: l.Rows, First: l.First, Amount: l.Amount})
}

// miss counts a key that is not there. One with an empty piece is known by how it reads.
func (a *Asked) miss(m MissingKey) {
	name := m.Key
	if name == "" {
		name = "\x00" + m.Label
	}
	before := a.Missing[name]
	if before == nil {
		m.At = len(a.Missing)
		a.Missing[name] = &m
		return
	}
	before.Rows += m.Rows
	if m.Amount != nil {
		before.Amount.Merge(m.Amount)
	}
}

// Merge implements pass.Portable.
func (k *Lookups) Merge(other pass.Keeper) {
	for i, a := range other.(*Lookups).Of {
		own := k.Of[i]
		own.Found += a.Found
		for line, n := range a.Rows {
			own.Rows[line] += n
		}
		for _, m := range a.InOrder() {
			own.miss(*m)
		}
	}
}

// InOrder are the keys that are not there, in the order in which they came.
func (a *Asked) InOrder() []*MissingKey {
	return slices.SortedFunc(maps.Values(a.Missing), func(x, y *MissingKey) int { return x.At - y.At })
}

// Lost is how many fact rows found no partner.
func (a *Asked) Lost() (n int) {
	for _, m := range a.Missing {
		n += m.Rows
	}
	return n
}
