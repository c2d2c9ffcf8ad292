package keep

import (
	"slices"

	"umbau/internal/core/pass"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Weights finds what weighs most in one group of a measure: its extracts, or its rows
// where all are of one extract.
type Weights struct {
	By      By
	Key     string // of the group
	Measure int

	extracts, rows []Weight
	last           string // the extract at hand …
	sum            value.Sum
	many           bool // … which is not the only one
}

// Weight is how much an extract, or a fact row, has of a group.
type Weight struct {
	Extract  string        // its name; "" for a row
	Position pass.Position // of a row
	Sum      value.Decimal
}

// mostWeights is how many are found.
const mostWeights = 3

// weigh keeps the greatest weights, whatever their sign, greatest first.
func weigh(list []Weight, w Weight) []Weight {
	i := len(list)
	for i > 0 && w.Sum.Abs().Cmp(list[i-1].Sum.Abs()) > 0 {
		i--
	}
	if i == mostWeights {
		return list
	}
	list = slices.Insert(list, i, w)
	return list[:min(len(list), mostWeights)]
}

// weightsPart has the rows of the group in one block.
type weightsPart struct {
	listed[Weight]
	grouper grouper
}

// Part implements pass.Keeper.
func (k *Weights) Part() pass.Part {
	p := &weightsPart{grouper: grouper{by: k.By}}
	p.of = func(b *pass.Block) (out []Weight) {
		c := &b.Batch.Columns[k.Measure]
		slots := b.Batch.Slots
		run, found := p.grouper.find(b.Batch)
		for i, g := range found {
			for at := i * run; at < (i+1)*run && g != noGroup && p.grouper.list[g].key == k.Key; at++ {
				if b.Batch.Fates[at] != table.Delivered {
					continue
				}
				if d, ok := c.Decimal(c.At(at/slots, at%slots, slots)); ok {
					out = append(out, Weight{Position: b.Position(at/slots, at%slots), Sum: d})
				}
			}
		}
		p.grouper.drop()
		return out
	}
	p.take = func(in *pass.Input, w *Weight) { k.add(in.Place().Source(), *w) }
	return p
}

// add weighs a row of an extract, which come one after another.
func (k *Weights) add(extract string, w Weight) {
	if k.last != extract {
		k.end()
		k.many = k.last != ""
		k.last, k.sum = extract, value.Sum{}
	}
	k.sum.Add(w.Sum)
	k.rows = weigh(k.rows, w)
}

// end weighs the extract at hand.
func (k *Weights) end() {
	if k.last != "" {
		k.extracts = weigh(k.extracts, Weight{Extract: k.last, Sum: k.sum.Total()})
	}
}

// Heaviest are the greatest weights, greatest first, once the pass is over.
func (k *Weights) Heaviest() []Weight {
	k.end()
	k.last = ""
	if k.many {
		return k.extracts
	}
	return k.rows
}
