package totals

import (
	"fmt"
	"maps"
	"slices"
	"strings"

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
	r.none = &cell{of: make([]amount, len(r.of))}
	groups, columns := r.arrange(cells)
	root := r.spread(groups)
	r.sortByTotal(root, 0, columns)
	r.cutTop(root)
	across := labels{}
	if r.across {
		across = columns[len(r.by)-1]
	}
	out.Columns = r.columns(across)
	out.Spellings = r.spellings(columns)
	r.zeros = make([]int, len(out.Columns))
	r.write(out, root, root, columns)
	return out, nil
}

// columns are the columns of figures: for each label across, and for all of them, rows
// first, then measure by measure.
func (r *run) columns(across labels) (out []Figure) {
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
	for i, label := range across.names {
		each(Figure{group: i, Across: label, Empty: label == nil})
	}
	each(Figure{group: -1, Total: r.across})
	return out
}

// write writes a line and all below it: those below first, as a subtotal stands under them.
func (r *run) write(out *Result, l, root *line, columns []labels) {
	for _, below := range l.below {
		r.write(out, below, root, columns)
	}
	row := Row{Other: l.other, By: l.by(columns), Figures: make([]*string, len(out.Columns)), Gaps: r.zeros, Blanks: r.zeros}
	for i := range out.Columns {
		f := &out.Columns[i]
		c := l.all.cell
		if f.group >= 0 {
			c = r.none
			if own := l.cells[uint32(f.group)]; own != nil {
				c = own.cell
			}
		}
		row.Figures[i] = r.figure(f, c, root)
		if f.of >= 0 {
			row.Gaps, row.Blanks = with(row.Gaps, r.zeros, i, c.of[f.of].gaps), with(row.Blanks, r.zeros, i, c.of[f.of].blanks)
		}
	}
	out.Rows = append(out.Rows, row)
}

// with sets a count; the zeros that most rows have are one slice for all.
func with(counts, zeros []int, i, n int) []int {
	if n == 0 {
		return counts
	}
	if &counts[0] == &zeros[0] {
		counts = slices.Clone(counts)
	}
	counts[i] = n
	return counts
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
		if a.seen == nil {
			return said("0")
		}
		return said(fmt.Sprint(len(a.seen.distinct)))
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
		p := a.seen.least
		if f.Show == Max {
			p = a.seen.most
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
		label := func(text string) Label { return NewLabel(kind, text) }
		for _, text := range inOrder(slices.Collect(maps.Keys(none[i])), label) {
			if in.Rows += none[i][text]; len(in.Values) < mostInNone {
				in.Values = append(in.Values, text)
			}
		}
		out.Groups = append(out.Groups, in)
	}
}

// spellings names labels of one column that are one key: they are kept apart.
func (r *run) spellings(columns []labels) (out []string) {
	for i, ci := range r.by {
		out = append(out, SpellingsOf(r.kindOf(ci), columns[i].texts)...)
	}
	return out
}

// SpellingsOf are the labels of a column that differ in spelling alone, those of one key
// joined: "HOLM, Holm".
func SpellingsOf(kind plan.Kind, labels []string) (out []string) {
	if kind != plan.Text && kind != plan.Name {
		return nil
	}
	same := map[string][]string{}
	for _, l := range labels {
		k := key.Of(l)
		same[k] = append(same[k], l)
	}
	for _, k := range slices.Sorted(maps.Keys(same)) {
		if spelt := same[k]; len(spelt) > 1 {
			slices.Sort(spelt)
			out = append(out, strings.Join(slices.Compact(spelt), ", "))
		}
	}
	return out
}
