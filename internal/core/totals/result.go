package totals

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// grouping is a column of groups.
type grouping struct {
	column, of int
	book       *names.Book
}

func (r *run) grouped() (out []grouping) {
	for column, of := range r.view.GroupedBy {
		out = append(out, grouping{column, of, r.view.Book(column)})
	}
	return out
}

// line is a line of the result on its way: a group, and what it has by label across.
type line struct {
	labels []string
	cells  map[string]*held // by label across; nil where there is none
	all    held
	below  []*line
	other  int
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

func (r *run) newLine(labels []string) *line {
	l := &line{labels: labels}
	if r.across {
		l.cells = map[string]*held{}
	}
	return l
}

// none is a group without rows.
func (r *run) none() *cell { return &cell{of: make([]amount, len(r.of))} }

func (l *line) add(across string, c *cell) {
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

// result draws the result up.
func (r *run) result() (*Result, error) {
	cells, all := r.kept.together()
	out := &Result{Across: r.asked.Across, Read: all.read, Kept: all.kept, Decimals: map[string]int{}, Places: map[string]int{}}
	for i, text := range r.asked.By {
		out.By, out.Kinds = append(out.By, text), append(out.Kinds, r.kindOf(r.by[i]))
	}
	for i, ci := range r.of {
		out.Decimals[r.view.Spec(ci).Name] = r.decimals(ci)
		if c := r.tableColumn(ci); c != nil {
			out.Places[c.Name] = c.Places
		}
		if r.kindOf(ci).Numeric() {
			out.Whole = append(out.Whole, WholeAmount{r.view.Spec(ci).Name, all.whole[i].Total()})
		}
	}
	r.listGaps(out)
	r.listGroups(out, all.none)
	if r.asked.OneSpelling {
		cells = r.unite(cells)
	}
	root := r.newLine(nil)
	if r.spread(root, cells); root.all.cell == nil { // no rows
		root.all.cell = r.none()
	}
	r.order(root, 0)
	r.cutTop(root)
	across := r.acrossLabels(root)
	out.Columns = r.columns(across)
	r.spellings(out, cells)
	r.write(out, root, root)
	return out, nil
}

// unite puts groups of one key together, each label in the spelling that stands first.
func (r *run) unite(cells []*cell) (out []*cell) {
	slices.SortFunc(cells, func(a, b *cell) int { return a.first - b.first })
	index := map[string]*cell{}
	spelling := make([]map[string]string, len(r.by))
	for _, c := range cells {
		var k []byte
		for i, l := range c.labels {
			from := len(k)
			k = append(r.kindOf(r.by[i]).AppendKey(k, l), 0)
			if spelling[i] == nil {
				spelling[i] = map[string]string{}
			}
			if first, known := spelling[i][string(k[from:])]; known {
				c.labels[i] = first
			} else {
				spelling[i][string(k[from:])] = l
			}
		}
		if before := index[string(k)]; before != nil {
			before.merge(c)
			continue
		}
		index[string(k)] = c
		out = append(out, c)
	}
	return out
}

// spread puts the groups into a tree, level by level, adding up at each.
func (r *run) spread(root *line, cells []*cell) {
	levels := len(r.asked.By)
	lines := map[string]*line{}
	for _, c := range cells {
		across := ""
		if r.across {
			across = c.labels[levels]
		}
		root.add(across, c)
		above, name := root, ""
		for level := range levels {
			name += c.labels[level] + "\x00"
			l := lines[name]
			if l == nil {
				l = r.newLine(c.labels[:level+1])
				lines[name] = l
				above.below = append(above.below, l)
			}
			l.add(across, c)
			above = l
		}
	}
}

// order sorts the lines below one: by label, or by what they come to.
func (r *run) order(l *line, level int) {
	if len(l.below) == 0 {
		return
	}
	kind, group := r.kindOf(r.by[level]), r.isGroup(r.by[level])
	descending := strings.HasPrefix(r.asked.Sort, "-")
	by := strings.TrimPrefix(r.asked.Sort, "-")
	m := r.measure(by)
	slices.SortFunc(l.below, func(x, y *line) int {
		a, b := x.labels[level], y.labels[level]
		if group && a != b && (a == finished.Other || b == finished.Other) {
			if a == finished.Other {
				return 1
			}
			return -1
		}
		if by != "" {
			order := 0
			switch {
			case by == "count" && m < 0:
				order = cmp.Compare(x.all.rows, y.all.rows)
			case x.all.of[m].sum.Empty() != y.all.of[m].sum.Empty(): // what has no value comes last
				if x.all.of[m].sum.Empty() {
					return 1
				}
				return -1
			default:
				order = x.all.of[m].sum.Total().Cmp(y.all.of[m].sum.Total())
			}
			if descending {
				order = -order
			}
			if order != 0 {
				return order
			}
		}
		return CompareLabels(kind, a, b)
	})
	for _, below := range l.below {
		r.order(below, level+1)
	}
}

// cutTop puts all but the first lines of the first level into one.
func (r *run) cutTop(root *line) {
	n := r.asked.Top
	if n <= 0 || len(root.below) <= n {
		return
	}
	rest := root.below[n:]
	other := r.newLine([]string{fmt.Sprintf("Other (%d)", len(rest))})
	other.other = len(rest)
	for _, l := range rest {
		other.addLine(l)
	}
	root.below = append(slices.Clip(root.below[:n]), other)
}

// acrossLabels are the labels across, in order.
func (r *run) acrossLabels(root *line) []string {
	if !r.across {
		return nil
	}
	ci := r.by[len(r.by)-1]
	kind, group := r.kindOf(ci), r.isGroup(ci)
	return slices.SortedFunc(maps.Keys(root.cells), func(a, b string) int {
		if group && a != b && (a == finished.Other || b == finished.Other) {
			if a == finished.Other {
				return 1
			}
			return -1
		}
		return CompareLabels(kind, a, b)
	})
}

// columns are the columns of figures: for each label across, and for all of them, rows
// first, then measure by measure.
func (r *run) columns(across []string) (out []Figure) {
	each := func(f Figure) {
		for _, s := range r.shows {
			if s == Count {
				f.Of, f.Show, f.of = "", Count, -1
				out = append(out, f)
			}
		}
		for i, ci := range r.of {
			for _, s := range r.shows {
				if s != Count {
					f.Of, f.Show, f.of = r.view.Spec(ci).Name, s, i
					out = append(out, f)
				}
			}
		}
	}
	for i, label := range across {
		f := Figure{group: i, Empty: label == ""}
		if label != "" {
			f.Across = &label
		}
		each(f)
	}
	each(Figure{group: -1, Total: r.across})
	return out
}

// write writes a line and all below it: those below first, as a subtotal stands under them.
func (r *run) write(out *Result, l, root *line) {
	for _, below := range l.below {
		r.write(out, below, root)
	}
	row := Row{Other: l.other, By: []*string{}}
	for _, label := range l.labels {
		if label == "" {
			row.By = append(row.By, nil)
		} else {
			row.By = append(row.By, &label)
		}
	}
	for i := range out.Columns {
		f := &out.Columns[i]
		c := l.all.cell
		if f.group >= 0 {
			label := ""
			if f.Across != nil {
				label = *f.Across
			}
			if c = nil; l.cells[label] != nil {
				c = l.cells[label].cell
			}
		}
		if c == nil {
			c = r.none()
		}
		gaps, blanks := 0, 0
		if f.of >= 0 {
			gaps, blanks = c.of[f.of].gaps, c.of[f.of].blanks
		}
		row.Figures, row.Gaps, row.Blanks = append(row.Figures, r.figure(f, c, root)), append(row.Gaps, gaps), append(row.Blanks, blanks)
	}
	out.Rows = append(out.Rows, row)
}

// hundred is what a share is of.
var hundred = value.NewDecimal(100, 0)

// figure is what a column says of a group; nil for no value.
func (r *run) figure(f *Figure, c *cell, root *line) *string {
	said := func(text string) *string { return &text }
	if f.Show == Count {
		return said(fmt.Sprint(c.rows))
	}
	a := &c.of[f.of]
	switch f.Show {
	case Filled:
		return said(fmt.Sprint(a.filled))
	case Distinct:
		return said(fmt.Sprint(len(a.distinct)))
	}
	if a.filled == 0 {
		return nil
	}
	switch f.Show {
	case Mean:
		q, _ := a.sum.Total().QuoTo(value.NewDecimal(int64(a.filled), 0), MostPlaces)
		return said(q.String())
	case Share:
		q, ok := a.sum.Total().Mul(hundred).QuoTo(root.all.of[f.of].sum.Total(), MostPlaces)
		if !ok {
			return nil
		}
		return said(q.String())
	case Min, Max:
		p := a.least
		if f.Show == Max {
			p = a.most
		}
		if p.text != "" {
			return said(p.text)
		}
		return said(r.amount(f.of, p.number))
	}
	return said(r.amount(f.of, a.sum.Total()))
}

// amount is an amount of a measure, with all its digits: with its decimals where the plan
// has them, else as short as it is.
func (r *run) amount(m int, d value.Decimal) string {
	if places := r.decimals(r.of[m]); places >= 0 {
		if fixed, lost := d.Rescale(places); !lost {
			return fixed.String()
		}
	}
	return d.Shorten().String()
}

// listGaps lists the gaps of the columns that were used.
func (r *run) listGaps(out *Result) {
	for ci := range r.kept.gaps {
		for g := value.Blank; g < value.Gaps; g++ {
			have := &r.kept.gaps[ci][g]
			if have.count > 0 && (g != value.Blank || r.missed(ci)) {
				out.Gaps = append(out.Gaps, Gap{r.view.Spec(ci).Name, g, have.count, have.places})
			}
		}
	}
}

// missed reports whether an empty value of a column is missing from a figure.
func (r *run) missed(ci int) bool {
	i := slices.Index(r.of, ci)
	return i >= 0 && !r.left[i]
}

// mostInNone is how many values in no group are listed.
const mostInNone = 1000

// listGroups lists the values in no group.
func (r *run) listGroups(out *Result, none []map[string]int) {
	for i, g := range r.grouped() {
		in := InNone{Column: r.view.Spec(g.column).Name, Values: []string{}}
		kind := r.kindOf(g.of)
		for _, text := range slices.SortedFunc(maps.Keys(none[i]), func(a, b string) int { return CompareLabels(kind, a, b) }) {
			if in.Rows += none[i][text]; len(in.Values) < mostInNone {
				in.Values = append(in.Values, text)
			}
		}
		out.Groups = append(out.Groups, in)
	}
}

// spellings names labels of one column that are one key: they are kept apart.
func (r *run) spellings(out *Result, cells []*cell) {
	var kinds []plan.Kind
	for _, ci := range r.by {
		kinds = append(kinds, r.kindOf(ci))
	}
	var labels [][]string
	for _, c := range cells {
		labels = append(labels, c.labels)
	}
	out.Spellings = SpellingsOf(kinds, labels)
}

// SpellingsOf are the labels of some groups that differ in spelling alone, those of one key
// joined: "HOLM, Holm". The kinds are by column.
func SpellingsOf(kinds []plan.Kind, labels [][]string) (out []string) {
	for i, kind := range kinds {
		if kind != plan.Text && kind != plan.Name {
			continue
		}
		same := map[string]map[string]bool{}
		for _, l := range labels {
			k := key.Of(l[i])
			if same[k] == nil {
				same[k] = map[string]bool{}
			}
			same[k][l[i]] = true
		}
		for _, k := range slices.Sorted(maps.Keys(same)) {
			if len(same[k]) > 1 {
				out = append(out, strings.Join(slices.Sorted(maps.Keys(same[k])), ", "))
			}
		}
	}
	return out
}
