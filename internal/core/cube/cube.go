// Package cube adds up fact rows by all their labels at once, for those who will look at the
// sums from any side: by some of the labels, filtered, crossed.
//
// There are never more than so many groups. When one more comes, the label column with the most
// values is left out, and groups that differ in it alone become one; before that, days become
// months. What is left out depends on the rows in their order, not on how many work on them.
package cube

import (
	"encoding/binary"
	"slices"
	"strings"
	"sync/atomic"

	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/totals"
	"umbau/internal/core/value"
)

// MostGroups is how many groups are kept for a page.
const MostGroups = 200_000

// mostDays is how many days of a column stay days; of more, months are made.
const mostDays = 62

// Label is a column of labels.
type Label struct {
	Name   string
	Is     string   // its kind
	Months bool     // its days were added up to months
	Values []string // in order, the empty one last
}

// Measure is a column of numbers that are added up.
type Measure struct {
	Name     string
	Decimals int // of its sums, -1 for as many as they need
}

// Group is what the fact rows with certain labels have.
type Group struct {
	Codes  []int // which value of each label
	Rows   int
	Filled []int // rows with a number, by measure
	Sums   []value.Sum
}

// Result is the cube once all rows were seen.
type Result struct {
	Labels   []Label
	LeftOut  []string // label columns that would have made too many groups
	Measures []Measure
	Groups   []Group // by the codes of their labels
	Rows     int
}

// Cube is a cube under way.
type Cube struct {
	columns  []table.SinkColumn // of labels
	measures []table.SinkColumn
	most     int
	active   atomic.Pointer[[]int] // those of columns that groups are made by
	months   []bool                // by column
	values   []map[string]uint32   // by column: the codes of its values
	texts    [][]string            // and the values
	turn     []int                 // by column: how often its codes were made anew
	groups   map[string]*group
	rows     int
	key      []byte
}

// group is a group of the active columns.
type group struct {
	codes  []uint32
	rows   int
	filled []int
	sums   []value.Sum
}

// New begins a cube of fact rows that have these columns, with at most so many groups. Numbers
// that may not be added up, such as prices, are not in it.
func New(columns []table.SinkColumn, most int) *Cube {
	c := &Cube{most: most, groups: map[string]*group{}}
	var active []int
	for _, s := range columns {
		switch {
		case s.Numeric() && s.Add:
			c.measures = append(c.measures, s)
		case !s.Numeric():
			active = append(active, len(c.columns))
			c.columns = append(c.columns, s)
			c.values, c.texts = append(c.values, map[string]uint32{}), append(c.texts, nil)
		}
	}
	c.months, c.turn = make([]bool, len(c.columns)), make([]int, len(c.columns))
	c.active.Store(&active)
	return c
}

// code is the code of a value of a column.
func (c *Cube) code(column int, text string) uint32 {
	if c.months[column] && len(text) > len("2024-03") {
		text = text[:len("2024-03")]
	}
	code, ok := c.values[column][text]
	if !ok {
		code = uint32(len(c.texts[column]))
		text = strings.Clone(text)
		c.values[column][text] = code
		c.texts[column] = append(c.texts[column], text)
	}
	return code
}

// group finds the group of codes, which it may keep.
func (c *Cube) group(codes []uint32) *group {
	c.key = c.key[:0]
	for _, code := range codes {
		c.key = binary.LittleEndian.AppendUint32(c.key, code)
	}
	g := c.groups[string(c.key)]
	if g == nil {
		g = &group{codes: slices.Clone(codes), filled: make([]int, len(c.measures)), sums: make([]value.Sum, len(c.measures))}
		c.groups[string(c.key)] = g
	}
	return g
}

func (g *group) merge(o *group) {
	g.rows += o.rows
	for m := range g.sums {
		g.filled[m] += o.filled[m]
		g.sums[m].Merge(&o.sums[m])
	}
}

// shrink sees to it that there are not too many groups, nor too many days.
func (c *Cube) shrink() {
	for _, i := range *c.active.Load() {
		if !c.months[i] && c.columns[i].Is == plan.Date.String() && len(c.texts[i]) > mostDays {
			c.toMonths(i)
		}
	}
	for len(c.groups) > c.most && len(*c.active.Load()) > 0 {
		finest := -1
		for k, i := range *c.active.Load() {
			if finest < 0 || len(c.texts[i]) >= len(c.texts[(*c.active.Load())[finest]]) {
				finest = k
			}
		}
		c.leaveOut(finest)
	}
}

// toMonths makes months of the days of a column.
func (c *Cube) toMonths(column int) {
	days := c.texts[column]
	c.months[column], c.texts[column], c.values[column] = true, nil, map[string]uint32{}
	c.turn[column]++
	at := slices.Index(*c.active.Load(), column)
	c.regroup(func(codes []uint32) []uint32 {
		codes[at] = c.code(column, days[codes[at]])
		return codes
	})
}

// leaveOut leaves one of the active columns out.
func (c *Cube) leaveOut(k int) {
	active := slices.Delete(slices.Clone(*c.active.Load()), k, k+1)
	c.active.Store(&active)
	c.regroup(func(codes []uint32) []uint32 { return slices.Delete(codes, k, k+1) })
}

func (c *Cube) regroup(recode func([]uint32) []uint32) {
	before := c.groups
	c.groups = make(map[string]*group, len(before))
	for _, g := range before {
		c.group(recode(g.codes)).merge(g)
	}
}

// Result puts values and groups in order.
func (c *Cube) Result() *Result {
	r := &Result{Rows: c.rows}
	active := *c.active.Load()
	ranks := make([][]int, len(active))
	for i := range c.columns {
		if !slices.Contains(active, i) {
			r.LeftOut = append(r.LeftOut, c.columns[i].Name)
		}
	}
	for k, i := range active {
		l := Label{Name: c.columns[i].Name, Is: c.columns[i].Is, Months: c.months[i]}
		l.Values, ranks[k] = inOrder(c.columns[i].Is, c.texts[i])
		r.Labels = append(r.Labels, l)
	}
	for _, m := range c.measures {
		r.Measures = append(r.Measures, Measure{m.Name, m.Decimals})
	}
	for _, g := range c.groups {
		out := Group{Codes: make([]int, len(active)), Rows: g.rows, Filled: g.filled, Sums: g.sums}
		for k, code := range g.codes {
			out.Codes[k] = ranks[k][code]
		}
		r.Groups = append(r.Groups, out)
	}
	slices.SortFunc(r.Groups, func(a, b Group) int { return slices.Compare(a.Codes, b.Codes) })
	return r
}

// inOrder puts the values of a column in order, and says where each went.
func inOrder(is string, texts []string) (values []string, rank []int) {
	kind, _ := plan.KindNamed(is)
	labels, order := make([]totals.Label, len(texts)), make([]int, len(texts))
	for i, t := range texts {
		labels[i], order[i] = totals.NewLabel(kind, t), i
	}
	slices.SortFunc(order, func(a, b int) int { return labels[a].Compare(&labels[b]) })
	rank = make([]int, len(texts))
	for at, i := range order {
		values, rank[i] = append(values, texts[i]), at
	}
	return values, rank
}
