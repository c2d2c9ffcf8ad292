package keep

import (
	"umbau/internal/core/pass"
	"umbau/internal/core/treat"
)

// Kind is how many changes of a kind, as the record calls it, a column has.
type Kind struct {
	Column int
	Name   string
	Count  int
}

// Because says in which column a formula is empty, and the one because of which.
type Because struct{ Column, Because int }

// Changes counts the changes of fact rows, and the values that formulas leave empty.
type Changes struct {
	Kinds   []Kind // in the order in which they came
	Empties map[Because]int
	Heads   map[Above]string // changes above the rows that are counted, and their kinds
}

// Above tells apart changes of values that stand above the rows. All blocks of an extract
// have such a one, if they deliver a fact row of it.
type Above struct{ Extract, Column, Slot int }

// NewChanges returns a count of nothing.
func NewChanges() *Changes {
	return &Changes{Empties: map[Because]int{}, Heads: map[Above]string{}}
}

type changesPart struct {
	to      *Changes
	counts  []treat.Change // one of each kind, with …
	numbers []int          // … how many there are
	heads   []treat.Change
	extract int
	empties []treat.Emptied
}

// Part implements pass.Keeper.
func (k *Changes) Part() pass.Part { return &changesPart{to: k} }

// See implements pass.Part.
func (p *changesPart) See(b *pass.Block) {
	p.extract, p.heads, p.empties = b.Extract, append(p.heads[:0], b.HeadChanges...), append(p.empties[:0], b.Empties...)
	p.counts, p.numbers = p.counts[:0], p.numbers[:0]
next:
	for i := range b.Changes {
		c := &b.Changes[i]
		for i := range p.counts {
			if k := &p.counts[i]; k.Column == c.Column && k.Kind == c.Kind {
				p.numbers[i]++
				continue next
			}
		}
		p.counts, p.numbers = append(p.counts, *c), append(p.numbers, 1)
	}
}

// Take implements pass.Part.
func (p *changesPart) Take() {
	for _, c := range p.heads {
		above := aboveOf(p.extract, c)
		if _, before := p.to.Heads[above]; !before {
			p.to.Heads[above] = c.KindName()
			p.to.add(Kind{above.Column, c.KindName(), 1})
		}
	}
	for i, c := range p.counts {
		p.to.add(Kind{int(c.Column), c.KindName(), p.numbers[i]})
	}
	for _, e := range p.empties {
		p.to.Empties[Because{e.Column, e.Because}] += e.Count
	}
}

func (k *Changes) add(kind Kind) {
	for i := range k.Kinds {
		if own := &k.Kinds[i]; own.Column == kind.Column && own.Name == kind.Name {
			own.Count += kind.Count
			return
		}
	}
	k.Kinds = append(k.Kinds, kind)
}

// aboveOf is which change above the rows one is.
func aboveOf(extract int, c treat.Change) Above { return Above{extract, int(c.Column), int(c.Slot)} }

// Merge implements pass.Portable.
func (k *Changes) Merge(other pass.Keeper) {
	o := other.(*Changes)
	for _, kind := range o.Kinds {
		k.add(kind)
	}
	for e, n := range o.Empties {
		k.Empties[e] += n
	}
	for above, kind := range o.Heads {
		if _, before := k.Heads[above]; before { // by another piece of the extract
			k.add(Kind{above.Column, kind, -1})
		}
		k.Heads[above] = kind
	}
}
