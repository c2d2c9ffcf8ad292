// Package widen makes a wide table of a long one: the values of one column become columns.
package widen

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/totals"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// Takes are what a cell may take of several values.
var Takes = []string{"one", "sum", "count", "mean", "min", "max", "first", "last"}

// Asked is what is asked.
type Asked struct {
	Across string
	Cells  []string
	By     []string // nil for all other columns
	Take   string   // one of Takes
	Fill   string   // of cells without a row
	Only   string
}

// Result is the wide table. A nil is an empty cell.
type Result struct {
	Columns   []string
	By        int // how many of them say whose line it is
	Rows      [][]*string
	Spellings []string // labels that differ in spelling alone
	Gaps      []totals.Gap
	Numbers   []bool      // by cell: it is a number
	Kinds     []plan.Kind // of the columns
}

// Of makes the wide table. The error is a *finished.Mistake for what cannot be asked, else a
// place.List: by rule where two values are for one cell.
func Of(ctx context.Context, v *finished.View, asked Asked) (*Result, error) {
	k := &keeper{view: v, asked: asked}
	if err := k.ask(); err != nil {
		return nil, err
	}
	if problems := v.Run(ctx, k); len(problems) > 0 {
		return nil, problems
	}
	k.together()
	return k.result()
}

// keeper has the cells of the wide table. Each of its parts has some; they are put together
// at the end, by where each stands first.
type keeper struct {
	view   *finished.View
	asked  Asked
	by     []int // columns of the view
	names  []string
	across int
	cells  []int
	parts  []*part
	lines  []*line
	wide   []*label
	gaps   []treat.GapCell
	gapped map[[2]int]int // how many gaps, by column of the view and kind
}

// line is a line of the wide table.
type line struct {
	labels []string
	first  int // row
	cells  map[string][]cell
}

// label is a value across.
type label struct {
	text  string
	first int
}

// cell is what one cell may take.
type cell struct {
	rows, filled    int
	sum             value.Sum
	least, most     string
	places          []int // the first rows that have a value
	first, last     string
	firstAt, lastAt int
}

// ask finds the columns.
func (k *keeper) ask() error {
	var err error
	if k.across, err = k.view.Column(k.asked.Across); err != nil {
		return err
	}
	used := []string{k.view.Spec(k.across).Name}
	for _, text := range k.asked.Cells {
		i, err := k.view.Column(text)
		if err != nil {
			return err
		}
		k.cells, used = append(k.cells, i), append(used, k.view.Spec(i).Name)
		if kind := k.view.Spec(i).Kind; !kind.Numeric() && (k.asked.Take == "sum" || k.asked.Take == "mean") ||
			!kind.Numeric() && !kind.Dated() && (k.asked.Take == "min" || k.asked.Take == "max") {
			return &finished.Mistake{Text: text + " is a " + kind.String() + " column: --take " + k.asked.Take +
				" wants numbers; --take first, last, count or one goes with any column"}
		}
	}
	k.names = k.asked.By
	if k.names == nil {
		for _, c := range k.view.Table.Columns {
			if !slices.Contains(used, c.Name) {
				k.names = append(k.names, c.Name)
			}
		}
	}
	for _, text := range k.names {
		i, err := k.view.Column(text)
		if err != nil {
			return err
		}
		k.by = append(k.by, i)
	}
	if k.asked.Only != "" {
		return k.view.Filter(k.asked.Only)
	}
	return nil
}

// Wants implements pass.Asking.
func (k *keeper) Wants() treat.Wants { return treat.Wants{Gaps: true} }

// part has the cells of its blocks, which come in order.
type part struct {
	of    *keeper
	lines map[string]*line
	wide  map[string]*label
	gaps  []treat.GapCell
}

// Part implements pass.Keeper.
func (k *keeper) Part() pass.Part {
	p := &part{of: k, lines: map[string]*line{}, wide: map[string]*label{}}
	k.parts = append(k.parts, p)
	return p
}

// See implements pass.Part.
func (p *part) See(b *pass.Block) {
	k := p.of
	p.gaps = append(p.gaps[:0], b.Gaps...)
	var name []byte
	for row := range b.Batch.Rows {
		if k.view.Only >= 0 && textOf(b, k.view.Only, row) != "true" {
			continue
		}
		at := b.Line(row)
		name = name[:0]
		for _, ci := range k.by {
			name = append(append(name, textOf(b, ci, row)...), 0)
		}
		l := p.lines[string(name)]
		if l == nil {
			l = &line{first: at, cells: map[string][]cell{}}
			if len(name) > 0 {
				l.labels = strings.Split(string(name[:len(name)-1]), "\x00")
			}
			p.lines[string(name)] = l
		}
		across := textOf(b, k.across, row)
		if p.wide[across] == nil {
			p.wide[across] = &label{across, at}
		}
		cells := l.cells[across]
		if cells == nil {
			cells = make([]cell, len(k.cells))
			l.cells[across] = cells
		}
		for m, ci := range k.cells {
			cells[m].add(textOf(b, ci, row), at, k.view.Spec(ci).Kind)
		}
	}
}

// Take implements pass.Part.
func (p *part) Take() {
	k := p.of
	for i := range p.gaps {
		g := &p.gaps[i]
		if slices.Contains(k.cells, g.Column) && g.Kind != value.Blank {
			if k.gapped == nil {
				k.gapped = map[[2]int]int{}
			}
			if n := k.gapped[[2]int{g.Column, int(g.Kind)}]; n < 5 {
				k.gaps = append(k.gaps, *g)
			}
			k.gapped[[2]int{g.Column, int(g.Kind)}]++
		}
	}
}

// textOf is what a row has in a column: a number as short as it is.
func textOf(b *pass.Block, ci, row int) string {
	c := &b.Batch.Columns[ci]
	at := c.At(row, 0, 1)
	if c.Numbers == nil {
		return c.Texts.Out(c.Codes[at])
	}
	if d, ok := c.Decimal(at); ok {
		return d.Shorten().String()
	}
	return ""
}

// add adds what a row has for the cell.
func (c *cell) add(text string, at int, kind plan.Kind) {
	if c.rows++; text == "" {
		return
	}
	if kind.Numeric() {
		d, _, _ := value.English.Number([]byte(text))
		c.sum.Add(d)
	}
	one := cell{rows: 1, filled: 1, least: text, most: text, places: []int{at}, first: text, last: text, firstAt: at, lastAt: at}
	c.merge(&one, kind)
	c.rows--
}

// mostPlaces is how many places of a cell are known.
const mostPlaces = 10

// merge takes in what others of the same cell have, sums and rows among them.
func (c *cell) merge(o *cell, kind plan.Kind) {
	c.rows += o.rows
	c.sum.Merge(&o.sum)
	if o.filled == 0 {
		return
	}
	if c.filled == 0 || totals.CompareLabels(kind, o.least, c.least) < 0 {
		c.least = o.least
	}
	if c.filled == 0 || totals.CompareLabels(kind, o.most, c.most) > 0 {
		c.most = o.most
	}
	if c.filled == 0 || o.firstAt < c.firstAt {
		c.first, c.firstAt = o.first, o.firstAt
	}
	if c.filled == 0 || o.lastAt > c.lastAt {
		c.last, c.lastAt = o.last, o.lastAt
	}
	c.filled += o.filled
	if len(c.places) < mostPlaces || o.places[0] < c.places[len(c.places)-1] {
		c.places = append(c.places, o.places...)
		slices.Sort(c.places)
		c.places = c.places[:min(len(c.places), mostPlaces)]
	}
}

// together puts together what the parts have.
func (k *keeper) together() {
	lines, wide := map[string]*line{}, map[string]*label{}
	for _, p := range k.parts {
		for name, l := range p.lines {
			own := lines[name]
			if own == nil {
				lines[name] = l
				k.lines = append(k.lines, l)
				continue
			}
			own.first = min(own.first, l.first)
			for across, cells := range l.cells {
				have := own.cells[across]
				if have == nil {
					own.cells[across] = cells
					continue
				}
				for m := range cells {
					have[m].merge(&cells[m], k.view.Spec(k.cells[m]).Kind)
				}
			}
		}
		for text, l := range p.wide {
			if own := wide[text]; own != nil {
				own.first = min(own.first, l.first)
				continue
			}
			wide[text] = l
			k.wide = append(k.wide, l)
		}
	}
	slices.SortFunc(k.lines, func(x, y *line) int { return x.first - y.first })
	kind := k.view.Spec(k.across).Kind
	slices.SortFunc(k.wide, func(x, y *label) int {
		switch {
		case x.text == "" || y.text == "": // last
			return strings.Compare(y.text, x.text)
		case kind == plan.Text || kind == plan.Flag:
			return x.first - y.first
		}
		return totals.CompareLabels(kind, x.text, y.text)
	})
}

// result draws the wide table up.
func (k *keeper) result() (*Result, error) {
	r := &Result{Columns: slices.Clone(k.names), By: len(k.names)}
	var problems place.List
	at := place.Place{File: k.view.Table.Name}
	for _, w := range k.wide {
		text := w.text
		if text == "" {
			text = "(empty)"
		}
		if slices.ContainsFunc(k.names, func(name string) bool { return key.Same(name, text) }) {
			p := place.At(at, "header twice", "%s is a value of %s, and a column of --by: two columns would have one header", text,
				k.view.Spec(k.across).Name).ByRule()
			p.Advice = "leave the column out of --by, or the value out with --only"
			problems.Add(p)
		}
		for _, ci := range k.cells {
			if len(k.cells) > 1 {
				r.Columns = append(r.Columns, text+" | "+k.view.Spec(ci).Name)
			} else {
				r.Columns = append(r.Columns, text)
			}
		}
	}
	for _, ci := range k.cells {
		r.Numbers = append(r.Numbers, k.view.Spec(ci).Kind.Numeric())
	}
	for _, ci := range k.by {
		r.Kinds = append(r.Kinds, k.view.Spec(ci).Kind)
	}
	for len(r.Kinds) < len(r.Columns) {
		kind := k.view.Spec(k.cells[(len(r.Kinds)-r.By)%len(k.cells)]).Kind
		if k.asked.Take == "count" {
			kind = plan.Whole
		}
		r.Kinds = append(r.Kinds, kind)
	}
	for _, l := range k.lines {
		r.Rows = append(r.Rows, k.row(l))
	}
	if k.asked.Take == "one" {
		problems.Merge(k.twice(at))
	}
	if len(problems) > 0 {
		return nil, problems
	}
	k.remarks(r)
	return r, nil
}

// row is a line of the wide table.
func (k *keeper) row(l *line) (out []*string) {
	put := func(text string) {
		if text == "" {
			out = append(out, nil)
		} else {
			out = append(out, &text)
		}
	}
	for _, text := range l.labels {
		put(text)
	}
	for _, w := range k.wide {
		cells := l.cells[w.text]
		for m := range k.cells {
			if cells == nil {
				put(k.asked.Fill)
			} else {
				put(k.taken(&cells[m], m))
			}
		}
	}
	return out
}

// taken is what a cell takes, empty for nothing.
func (k *keeper) taken(c *cell, m int) string {
	if k.asked.Take == "count" {
		return fmt.Sprint(c.rows)
	}
	if c.filled == 0 {
		return ""
	}
	text := c.first
	switch k.asked.Take {
	case "sum":
		text = c.sum.Total().Shorten().String()
	case "mean":
		q, _ := c.sum.Total().QuoTo(value.NewDecimal(int64(c.filled), 0), totals.MostPlaces)
		return q.String()
	case "min":
		text = c.least
	case "max":
		text = c.most
	case "last":
		text = c.last
	}
	return k.fixed(text, m)
}

// fixed is a number with the decimals that the plan gives its column.
func (k *keeper) fixed(text string, m int) string {
	spec := k.view.Spec(k.cells[m])
	for _, c := range k.view.Table.Columns {
		if c.Name == spec.Name && c.Kind.Numeric() && c.Decimals >= 0 {
			if d, _, ok := value.English.Number([]byte(text)); ok {
				if f, changed := d.Rescale(c.Decimals); !changed {
					return f.String()
				}
			}
		}
	}
	return text
}

// twice are the cells for which there are several values.
func (k *keeper) twice(at place.Place) (problems place.List) {
	for _, l := range k.lines {
		for _, w := range k.wide {
			for m, c := range l.cells[w.text] {
				if c.filled < 2 {
					continue
				}
				p := place.At(at, "several values", "several values for one cell of the wide table").ByRule()
				p.Places[0].Row, p.Places[0].Header = c.places[1], k.view.Spec(k.cells[m]).Name
				p.Texts = []string{fmt.Sprintf("%s across %s, first row %d", strings.Join(l.labels, " | "), w.text, c.places[0])}
				p.Advice = "--take first, last or count settles it"
				if k.view.Spec(k.cells[m]).Kind.Numeric() {
					p.Advice = "--take sum adds them up; mean, min, max, first and last take one"
				}
				problems.Add(p)
			}
		}
	}
	return problems
}

// remarks names spellings that are kept apart, and cells that are no number.
func (k *keeper) remarks(r *Result) {
	texts := make([][]string, len(k.by)+1) // by column
	for _, l := range k.lines {
		for i, text := range l.labels {
			texts[i] = append(texts[i], text)
		}
	}
	for _, l := range k.wide {
		texts[len(k.by)] = append(texts[len(k.by)], l.text)
	}
	for i, ci := range append(slices.Clone(k.by), k.across) {
		r.Spellings = append(r.Spellings, totals.SpellingsOf(k.view.Spec(ci).Kind, texts[i])...)
	}
	for _, ci := range k.cells {
		for g := value.Null; g < value.Gaps; g++ {
			n := k.gapped[[2]int{ci, int(g)}]
			if n == 0 {
				continue
			}
			gap := totals.Gap{Column: k.view.Spec(ci).Name, Kind: g, Count: n}
			for _, one := range k.gaps {
				if one.Column == ci && one.Kind == g {
					gap.Places = append(gap.Places, totals.GapPlace{Row: one.Place.Row, Text: one.Text})
				}
			}
			r.Gaps = append(r.Gaps, gap)
		}
	}
}
