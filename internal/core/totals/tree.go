package totals

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/value"
)

// labels are the different labels of one column, in order.
type labels struct {
	texts []string
	names []*string // the same, nil for the empty one
}

// group is a group and its labels by number, those of by and then that of across.
type group struct {
	cell *cell
	at   []uint32
}

// arrange puts groups in the order of their labels, and lists these. Where spellings of
// one key are one, so are their groups: each label as it stands first.
func (r *run) arrange(cells []*cell) (groups []group, columns []labels) {
	n := len(r.by)
	all := make([]uint32, n*len(cells))
	known, first := make([]map[string]uint32, n), make([][]int, n) // by column: number by text, row by number
	for i := range known {
		known[i] = map[string]uint32{}
	}
	for k, c := range cells {
		at := all[k*n : (k+1)*n : (k+1)*n]
		rest := c.name
		for i := range at {
			var text string
			text, rest, _ = strings.Cut(rest, "\x00")
			number, again := known[i][text]
			if !again {
				number = uint32(len(known[i]))
				known[i][text] = number
				first[i] = append(first[i], c.first)
			}
			first[i][number] = min(first[i][number], c.first)
			at[i] = number
		}
		groups = append(groups, group{c, at})
	}
	for i, ci := range r.by {
		own := labels{texts: inOrder(slices.Collect(maps.Keys(known[i])), func(text string) Label { return r.label(ci, text) })}
		ranks := make([]uint32, len(own.texts))
		for rank, text := range own.texts {
			ranks[known[i][text]] = uint32(rank)
			own.names = append(own.names, nil)
			if text != "" {
				own.names[rank] = &own.texts[rank]
			}
		}
		if r.asked.OneSpelling {
			r.oneSpelling(ci, known[i], first[i], ranks)
		}
		for _, g := range groups {
			g.at[i] = ranks[g.at[i]]
		}
		columns = append(columns, own)
	}
	slices.SortFunc(groups, func(x, y group) int { return slices.Compare(x.at, y.at) })
	return unite(groups), columns
}

// oneSpelling gives all labels of one key the rank of the one that stands first.
func (r *run) oneSpelling(ci int, known map[string]uint32, first []int, ranks []uint32) {
	best := map[string]uint32{} // by key
	keys := make([]string, len(known))
	for text, number := range known {
		k := string(r.kindOf(ci).AppendKey(nil, text))
		keys[number] = k
		if before, again := best[k]; !again || first[number] < first[before] {
			best[k] = number
		}
	}
	own := slices.Clone(ranks)
	for number, k := range keys {
		ranks[number] = own[best[k]]
	}
}

// unite makes one of neighbours with the same labels.
func unite(groups []group) (out []group) {
	for _, g := range groups {
		if n := len(out); n > 0 && slices.Equal(out[n-1].at, g.at) {
			out[n-1].cell.merge(g.cell)
			continue
		}
		out = append(out, g)
	}
	return out
}

// line is a line of the result on its way: a group, and what it has by label across.
type line struct {
	at    []uint32         // its labels
	cells map[uint32]*held // by label across; nil where there is none
	all   held
	below []*line
	other int
}

// held is what a line has of some groups: of one the group itself, which nobody adds to.
type held struct {
	*cell
	own bool // it was made here
}

func (h *held) add(c *cell) {
	switch {
	case h.cell == nil:
		h.cell = c
		return
	case !h.own:
		one := h.cell
		h.cell, h.own = &cell{of: make([]amount, len(c.of))}, true
		h.merge(one)
	}
	h.merge(c)
}

func (r *run) newLine(at []uint32) *line {
	l := &line{at: at}
	if r.across {
		l.cells = map[uint32]*held{}
	}
	return l
}

func (l *line) add(across uint32, c *cell) {
	l.all.add(c)
	if l.cells == nil {
		return
	}
	own := l.cells[across]
	if own == nil {
		own = &held{}
		l.cells[across] = own
	}
	own.add(c)
}

func (l *line) addLine(o *line) {
	if o.cells == nil {
		l.all.add(o.all.cell)
	}
	for across, c := range o.cells {
		l.add(across, c.cell)
	}
}

// spread puts groups that are in order into a tree, level by level, adding up at each.
func (r *run) spread(groups []group) *line {
	root := r.newLine(nil)
	levels := len(r.asked.By)
	path := []*line{root}
	for _, g := range groups {
		across := uint32(0)
		if r.across {
			across = g.at[levels]
		}
		same := 1 // lines of the path that it is in
		for same < len(path) && path[same].at[same-1] == g.at[same-1] {
			same++
		}
		for path = path[:same]; len(path) <= levels; {
			l := r.newLine(g.at[:len(path)])
			above := path[len(path)-1]
			above.below = append(above.below, l)
			path = append(path, l)
		}
		for _, l := range path {
			l.add(across, g.cell)
		}
	}
	if root.all.cell == nil { // no rows
		root.all.cell = r.none
	}
	return root
}

// sortByTotal sorts the lines below one by what they come to, where that is asked for;
// they are in the order of their labels.
func (r *run) sortByTotal(l *line, level int, columns []labels) {
	descending, by := strings.HasPrefix(r.asked.Sort, "-"), strings.TrimPrefix(r.asked.Sort, "-")
	if by == "" || len(l.below) == 0 {
		return
	}
	m := r.measure(by)
	lines := make([]comesTo, 0, len(l.below))
	for _, below := range l.below {
		o := comesTo{line: below, other: r.isOther(r.by[level], columns[level].texts[below.at[level]])}
		if m < 0 { // count
			o.total = value.NewDecimal(int64(below.all.rows), 0)
		} else {
			o.total, o.empty = below.all.of[m].sum.Total(), below.all.of[m].sum.Empty()
		}
		lines = append(lines, o)
	}
	slices.SortStableFunc(lines, func(x, y comesTo) int {
		total := x.total.Cmp(y.total)
		if descending {
			total = -total
		}
		return cmp.Or(compareBools(x.other, y.other), compareBools(x.empty, y.empty), total)
	})
	for i := range lines {
		l.below[i] = lines[i].line
		r.sortByTotal(l.below[i], level+1, columns)
	}
}

// comesTo is a line and what it comes to.
type comesTo struct {
	line  *line
	other bool // Other of a group, which stands last
	empty bool // it has no total, and stands behind those that have one
	total value.Decimal
}

// compareBools puts what is so behind what is not.
func compareBools(x, y bool) int {
	switch {
	case x == y:
		return 0
	case x:
		return 1
	}
	return -1
}

// cutTop puts all but the first lines of the first level into one.
func (r *run) cutTop(root *line) {
	n := r.asked.Top
	if n <= 0 || len(root.below) <= n {
		return
	}
	rest := root.below[n:]
	other := r.newLine(rest[0].at)
	other.other = len(rest)
	for _, l := range rest {
		other.addLine(l)
	}
	root.below = append(slices.Clip(root.below[:n]), other)
}

// by are the labels of a line; nil for an empty one.
func (l *line) by(columns []labels) []*string {
	if l.other > 0 {
		text := fmt.Sprintf("Other (%d)", l.other)
		return []*string{&text}
	}
	out := make([]*string, len(l.at))
	for i, at := range l.at {
		out[i] = columns[i].names[at]
	}
	return out
}
