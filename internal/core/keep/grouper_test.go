package keep

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// batchOf makes a batch of random texts and numbers, each column at a level of its own; its texts have the codes of
// these dictionaries.
func batchOf(r *rand.Rand, dicts []*table.Dict, levels []table.Level, distinct int) *table.Batch {
	b := &table.Batch{Rows: r.IntN(40), Slots: r.IntN(4)}
	for range b.Rows * b.Slots {
		b.Fates = append(b.Fates, []table.Fate{table.Delivered, table.Delivered, table.Held, table.Dropped, table.Skipped}[r.IntN(5)])
	}
	for ci, level := range levels {
		c := table.Column{Level: level}
		n := map[table.Level]int{table.PerExtract: 1, table.PerRow: b.Rows, table.PerSlot: b.Slots, table.PerCell: b.Rows * b.Slots}[level]
		if d := dicts[ci]; d != nil {
			c.Texts = d
			for range n {
				code, fresh := d.Code(fmt.Appendf(nil, "%d", r.IntN(distinct)))
				if fresh { // several texts become one
					d.SetOut(code, d.Seen(code)[:1+len(d.Seen(code))/2])
				}
				c.Codes = append(c.Codes, code)
			}
		} else {
			c.Numbers = make([]table.Number, 0, n)
			for range n {
				c.Numbers = append(c.Numbers, table.Number{Coef: r.Int64N(3), Form: table.Print})
			}
		}
		b.Columns = append(b.Columns, c)
	}
	return b
}

// Groups are those that the texts of the fact rows say, whatever the levels of their columns are, and whichever worker's
// dictionaries a block has.
func TestGrouper(t *testing.T) {
	levels := []table.Level{table.PerExtract, table.PerRow, table.PerSlot, table.PerCell}
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 8))
		columns := 1 + r.IntN(4)
		by := By{}
		own := make([]table.Level, columns)
		workers := make([][]*table.Dict, 1+r.IntN(3))
		for w := range workers {
			workers[w] = make([]*table.Dict, columns)
		}
		for ci := range columns {
			own[ci] = levels[r.IntN(len(levels))]
			by.Columns, by.Kinds = append(by.Columns, ci), append(by.Kinds, plan.Text)
			for w := range workers {
				if seed%5 != 0 || ci > 0 { // else the first column is one of numbers
					workers[w][ci] = table.NewDict()
				}
			}
		}
		g := grouper{by: by}
		for range 30 {
			w := r.IntN(len(workers))
			if ci := r.IntN(columns); r.IntN(10) == 0 && workers[w][ci] != nil { // full, and begun again
				workers[w][ci] = table.NewDict()
			}
			b := batchOf(r, workers[w], own, 1+r.IntN(60))
			run, found := g.find(b)
			for at, fate := range b.Fates {
				if fate != table.Delivered && fate != table.Held {
					continue
				}
				var values []string
				for ci := range columns {
					values = append(values, string(b.AppendText(nil, &b.Columns[ci], at/b.Slots, at%b.Slots)))
				}
				require.NotEqual(t, noGroup, found[at/run])
				require.Equal(t, strings.Join(values, " | "), g.list[found[at/run]].label)
			}
			for i := range found {
				alive := false
				for _, fate := range b.Fates[i*run : (i+1)*run] {
					alive = alive || fate == table.Delivered || fate == table.Held
				}
				require.Equal(t, alive, found[i] != noGroup)
			}
		}
		seen := map[string]bool{}
		for _, group := range g.list {
			require.False(t, seen[group.label], "each is there once")
			seen[group.label] = true
		}
		require.False(t, g.drop())
	}
}

// vary makes numbers tenths, hundredths, nothing, and numbers of any length.
func vary(r *rand.Rand, c *table.Column) {
	for i := range c.Numbers {
		n := &c.Numbers[i]
		switch n.Places = uint8(1 + r.IntN(2)); r.IntN(9) {
		case 0:
			n.Form = table.Empty
		case 1:
			c.Wide = append(c.Wide, value.NewDecimal(n.Coef, int(n.Places)))
			n.Coef, n.Form = int64(len(c.Wide)-1), table.Large
		}
	}
}

// slowGroups adds up fact rows one by one: hundredths of the last column, by the texts of the others.
type slowGroups struct {
	of    map[string]*slowGroup
	order []string
}

type slowGroup struct{ have, held, rows int64 }

func (s *slowGroups) add(t *testing.T, b *table.Batch) {
	for at, fate := range b.Fates {
		if fate != table.Delivered && fate != table.Held {
			continue
		}
		row, slot := at/b.Slots, at%b.Slots
		label := string(b.AppendText(nil, &b.Columns[0], row, slot)) + " | " + string(b.AppendText(nil, &b.Columns[1], row, slot))
		g := s.of[label]
		if g == nil {
			g = &slowGroup{}
			s.of[label] = g
			s.order = append(s.order, label)
		}
		d, _ := b.Columns[2].Decimal(at)
		hundredths, lost := d.Mul(value.NewDecimal(100, 0)).Rescale(0)
		require.False(t, lost)
		coef, _, _ := hundredths.Small()
		if fate == table.Held {
			g.held += coef
		} else {
			g.have += coef
			g.rows++
		}
	}
}

// What groups have is what their fact rows have, through whichever parts the blocks come, and where there are more
// groups than a part knows at once.
func TestGroupsAddUp(t *testing.T) {
	for seed := range uint64(12) {
		r := rand.New(rand.NewPCG(seed, 9))
		distinct, blocks := 50, 40
		if seed == 0 {
			distinct, blocks = 1<<19, 4000
		}
		levels := []table.Level{table.PerRow, table.PerCell, table.PerCell}
		dicts := []*table.Dict{table.NewDict(), table.NewDict(), nil}
		k := &Groups{By: By{Columns: []int{0, 1}, Kinds: []plan.Kind{plan.Text, plan.Text}}, Measures: []int{2}}
		parts := []pass.Part{k.Part(), k.Part(), k.Part()}
		want := slowGroups{of: map[string]*slowGroup{}}
		for range blocks {
			b := batchOf(r, dicts, levels, distinct)
			vary(r, &b.Columns[2])
			want.add(t, b)
			part := parts[0]
			if seed > 0 {
				part = parts[r.IntN(len(parts))]
			}
			part.See(&pass.Block{Outcome: &treat.Outcome{Batch: b, Currencies: make([]string, 3)}})
			part.Take()
		}
		k.End()
		require.Len(t, k.List, len(want.of))
		for i, g := range k.List {
			w := want.of[g.Label]
			require.Equal(t, want.order[i], g.Label)
			require.Equal(t, int(w.rows), g.Rows)
			require.Zero(t, g.Have[0].Total().Cmp(value.NewDecimal(w.have, 2)), g.Label)
			require.Zero(t, g.Held[0].Total().Cmp(value.NewDecimal(w.held, 2)), g.Label)
		}
		require.Equal(t, seed == 0, len(k.List) > mostGroups)
	}
}
