// Package keep has the keepers of a build: what it keeps of a pass over its extracts, for
// its deliveries, its record and its summary. Each is a file; what all of them keep adds
// up block by block.
package keep

import (
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
)

// listed is a part that copies a list of its block, which the keeper takes one by one.
type listed[T any] struct {
	of    func(*pass.Block) []T
	take  func(in *pass.Input, one *T)
	list  []T
	input *pass.Input
}

func (l *listed[T]) See(b *pass.Block) { l.list, l.input = append(l.list[:0], l.of(b)...), b.Input }

func (l *listed[T]) Take() {
	for i := range l.list {
		l.take(l.input, &l.list[i])
	}
}

// Names counts the names of a build.
type Names struct {
	names.Tally
	Where bool // finds out where, and in which years, each stands
}

// Part implements pass.Keeper.
func (k *Names) Part() pass.Part {
	return &listed[names.Seen]{of: func(b *pass.Block) []names.Seen { return b.Names }, take: func(_ *pass.Input, n *names.Seen) { k.Add(n) }}
}

// Wants implements pass.Asking.
func (k *Names) Wants() treat.Wants { return treat.Wants{Where: k.Where} }

// Merge implements pass.Portable.
func (k *Names) Merge(other pass.Keeper) {
	for n := range other.(*Names).Abroad() {
		k.Add(&n)
	}
}

// Gaps hands on each cell without a usable value, in the order of the fact table.
type Gaps struct{ To func(treat.GapCell) }

// Part implements pass.Keeper.
func (k *Gaps) Part() pass.Part {
	return &listed[treat.GapCell]{of: func(b *pass.Block) []treat.GapCell { return b.Gaps },
		take: func(_ *pass.Input, g *treat.GapCell) { k.To(*g) }}
}

// Wants implements pass.Asking.
func (k *Gaps) Wants() treat.Wants { return treat.Wants{Gaps: true} }

// Applied keeps which corrections stand in the place of their cells.
type Applied struct{ Lines map[int]bool }

// Part implements pass.Keeper.
func (k *Applied) Part() pass.Part {
	if k.Lines == nil {
		k.Lines = map[int]bool{}
	}
	return &listed[int]{of: func(b *pass.Block) []int { return b.Applied }, take: func(_ *pass.Input, i *int) { k.Lines[*i] = true }}
}

// Merge implements pass.Portable.
func (k *Applied) Merge(other pass.Keeper) {
	if k.Lines == nil {
		k.Lines = map[int]bool{}
	}
	for i := range other.(*Applied).Lines {
		k.Lines[i] = true
	}
}

// Check is a figure that was compared, and where it stands.
type Check struct {
	tie.Check
	File, Sheet string
}

// Checks hands on the figures of totals that were compared.
type Checks struct{ To func(Check) }

// Part implements pass.Keeper.
func (k *Checks) Part() pass.Part {
	return &listed[tie.Check]{of: func(b *pass.Block) []tie.Check { return b.Checks },
		take: func(in *pass.Input, c *tie.Check) { k.To(Check{*c, in.File, in.Sheet}) }}
}

// Note is a footnote that was left out, and where.
type Note struct {
	Place place.Place
	Text  string
}

// Notes keeps the first footnotes, and counts all.
type Notes struct {
	First []Note
	Rows  int
}

// Part implements pass.Keeper.
func (k *Notes) Part() pass.Part {
	return &listed[Note]{of: footnotes, take: func(_ *pass.Input, n *Note) { k.add(*n, 1) }}
}

func footnotes(b *pass.Block) (out []Note) {
	for _, o := range b.Sorted.Out {
		if o.Reason == layout.Footnote {
			at := b.Input.Place()
			at.Row = b.Rows.Lines[o.Row]
			out = append(out, Note{at, layout.OnlyText(b.Rows, o.Row)})
		}
	}
	return out
}

func (k *Notes) add(n Note, rows int) {
	if k.Rows += rows; len(k.First) < place.MostPlaces {
		k.First = append(k.First, n)
	}
}

// Merge implements pass.Portable.
func (k *Notes) Merge(other pass.Keeper) {
	o := other.(*Notes)
	for _, n := range o.First {
		k.add(n, 0)
	}
	k.Rows += o.Rows
}

// columnsOf are the indexes of columns of a plan, by name.
func columnsOf(p *plan.Plan, names []string) (out []int) {
	for _, name := range names {
		out = append(out, slices.Index(p.Columns, p.Column(name)))
	}
	return out
}
