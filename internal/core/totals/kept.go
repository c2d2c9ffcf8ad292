package totals

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pass"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// kept is the keeper: each of its parts has groups of its own, over all of its blocks, as
// long as they are few; then all parts add to the same. Nothing that it keeps depends on
// their order.
type kept struct {
	run    *run
	parts  []*part
	gaps   []gaps // by column of the view
	shared shared
}

// gaps counts the gaps of a column, by kind.
type gaps [value.Gaps]struct {
	count  int
	places []GapPlace
}

// cell is what is known of one group.
type cell struct {
	name  string // the labels of by and across, with a NUL byte between them
	shard uint8  // of the shared ones
	first int    // the row in which it stands first
	rows  int
	of    []amount
}

// amount is what is known of one measure in one group.
type amount struct {
	sum    value.Sum
	filled int
	gaps   int
	blanks int
	seen   *seen // nil where nobody asks, or nothing was
}

// seen is what some shows know of values one by one.
type seen struct {
	least, most point
	distinct    map[string]struct{}
}

// point is a value that is compared: a number, or a date as text.
type point struct {
	number value.Decimal
	text   string
}

func (p point) less(q point) bool {
	if p.text != q.text {
		return p.text < q.text
	}
	return p.number.Cmp(q.number) < 0
}

func (a *amount) merge(o *amount) {
	a.sum.Merge(&o.sum)
	a.filled, a.gaps, a.blanks = a.filled+o.filled, a.gaps+o.gaps, a.blanks+o.blanks
	if o.seen == nil {
		return
	}
	s := a.see(o.seen.least)
	s.compare(o.seen.most)
	if s.distinct == nil && o.seen.distinct != nil {
		s.distinct = make(map[string]struct{}, len(o.seen.distinct))
	}
	for k := range o.seen.distinct {
		s.distinct[k] = struct{}{}
	}
}

// empty counts a value that is not there, unless a plan has left it so.
func (a *amount) empty(left bool) {
	if !left {
		a.blanks++
	}
}

// see looks at a value.
func (a *amount) see(p point) *seen {
	if a.seen == nil {
		a.seen = &seen{least: p, most: p}
	}
	a.seen.compare(p)
	return a.seen
}

func (s *seen) compare(p point) {
	if p.less(s.least) {
		s.least = p
	}
	if s.most.less(p) {
		s.most = p
	}
}

func (c *cell) merge(o *cell) {
	c.rows += o.rows
	c.first = min(c.first, o.first)
	for i := range c.of {
		c.of[i].merge(&o.of[i])
	}
}

// part has what one part saw.
type part struct {
	of      *kept
	groups  groups
	at      []*cell // of the block, by row; nil for rows that the filter does not keep
	rows    []int32 // of the block, those that it keeps: by shard, where groups are shared
	read    int
	kept    int
	whole   []value.Sum      // of all rows, where a filter keeps some
	none    []map[string]int // by column of groups: values in none, and their rows
	inGroup []map[string]bool
	wants   wants
	gaps    []gaps
}

// wants are what the shows need.
type wants struct{ distinct, bounds bool }

func newKept(r *run) *kept { return &kept{run: r} }

// Wants implements pass.Asking.
func (k *kept) Wants() treat.Wants { return treat.Wants{Gaps: true} }

// Part implements pass.Keeper.
func (k *kept) Part() pass.Part {
	p := &part{of: k, groups: newGroups(k), whole: make([]value.Sum, len(k.run.of))}
	for _, s := range k.run.shows {
		p.wants.distinct = p.wants.distinct || s == Distinct
		p.wants.bounds = p.wants.bounds || s == Min || s == Max
	}
	for range k.run.grouped() {
		p.none, p.inGroup = append(p.none, map[string]int{}), append(p.inGroup, map[string]bool{})
	}
	k.parts = append(k.parts, p)
	return p
}

// See implements pass.Part.
func (p *part) See(b *pass.Block) {
	r := p.of.run
	p.group(b)
	if r.view.Only >= 0 {
		for i, ci := range r.of {
			for row := range b.Batch.Rows {
				if c := &b.Batch.Columns[ci]; c.Texts == nil {
					c.AddTo(&p.whole[i], c.At(row, 0, 1))
				}
			}
		}
	}
	p.groups.each(p.at, p.rows, func(rows []int32) { p.add(b.Batch, rows) })
	p.seeGaps(b)
	for i, g := range r.grouped() {
		p.seeGroups(b.Batch, i, g)
	}
}

// group finds the group of each row that the filter keeps.
func (p *part) group(b *pass.Block) {
	r := p.of.run
	p.groups.begin()
	p.at, p.rows = slices.Grow(p.at[:0], b.Batch.Rows)[:b.Batch.Rows], p.rows[:0]
	p.read += len(p.at)
	var only []bool // by code
	var codes []uint32
	if r.view.Only >= 0 {
		c := &b.Batch.Columns[r.view.Only]
		codes = c.Codes
		for code := range c.Texts.Len() {
			only = append(only, c.Texts.Out(uint32(code)) == "true")
		}
	}
	for row := range p.at {
		if only != nil && !only[codes[b.Batch.Columns[r.view.Only].At(row, 0, 1)]] {
			p.at[row] = nil
			continue
		}
		p.at[row] = p.groups.of(b, row)
		p.rows = append(p.rows, int32(row))
	}
	p.kept += len(p.rows)
}

// add adds rows to their groups.
func (p *part) add(b *table.Batch, rows []int32) {
	for _, row := range rows {
		p.at[row].rows++
	}
	for i, ci := range p.of.run.of {
		if c := &b.Columns[ci]; c.Texts == nil {
			p.addNumbers(c, i, rows)
		} else {
			p.addTexts(c, i, rows)
		}
	}
}

// addNumbers adds a measure to the groups.
func (p *part) addNumbers(col *table.Column, i int, rows []int32) {
	left, look := p.of.run.left[i], p.wants.bounds || p.wants.distinct
	for _, row := range rows {
		a, at := &p.at[row].of[i], col.At(int(row), 0, 1)
		if col.Numbers[at].Form == table.Empty {
			a.empty(left)
			continue
		}
		a.filled++
		col.AddTo(&a.sum, at)
		if look {
			d, _ := col.Decimal(at)
			p.look(a, point{number: d}, d.Shorten().String())
		}
	}
}

// addTexts looks at a measure of texts.
func (p *part) addTexts(col *table.Column, i int, rows []int32) {
	left, look := p.of.run.left[i], p.wants.bounds || p.wants.distinct
	for _, row := range rows {
		a, text := &p.at[row].of[i], col.Texts.Out(col.Codes[col.At(int(row), 0, 1)])
		if text == "" {
			a.empty(left)
			continue
		}
		a.filled++
		if look {
			p.look(a, point{text: text}, key.Of(text))
		}
	}
}

// look keeps what some shows want of a value.
func (p *part) look(a *amount, at point, k string) {
	at.text = strings.Clone(at.text)
	s := a.see(at)
	if p.wants.distinct {
		if s.distinct == nil {
			s.distinct = map[string]struct{}{}
		}
		s.distinct[k] = struct{}{}
	}
}

// seeGaps counts the cells that have no value of their kind; those that are no blanks were
// taken for empty ones.
func (p *part) seeGaps(b *pass.Block) {
	for len(p.gaps) < len(b.Batch.Columns) {
		p.gaps = append(p.gaps, gaps{})
	}
	for k := range b.Gaps {
		g := &b.Gaps[k]
		c := p.at[g.Row]
		if c == nil {
			continue
		}
		own := &p.gaps[g.Column][g.Kind]
		if own.count++; len(own.places) < mostPlaces {
			own.places = append(own.places, GapPlace{g.Place.Row, g.Text})
		}
		if i := slices.Index(p.of.run.of, g.Column); i >= 0 && g.Kind != value.Blank {
			p.groups.with(c, func() {
				a := &c.of[i]
				if a.gaps++; !p.of.run.left[i] {
					a.blanks--
				}
			})
		}
	}
}

// Take implements pass.Part.
func (p *part) Take() {
	for ci := range p.gaps {
		for g := range p.gaps[ci] {
			own := &p.gaps[ci][g]
			to := &p.of.gapsOf(ci)[g]
			to.count += own.count
			to.places = append(to.places, own.places[:min(len(own.places), mostPlaces-len(to.places))]...)
			own.count, own.places = 0, own.places[:0]
		}
	}
}

// mostPlaces is how many places of gaps are listed.
const mostPlaces = 5

func (k *kept) gapsOf(ci int) *gaps {
	for len(k.gaps) <= ci {
		k.gaps = append(k.gaps, gaps{})
	}
	return &k.gaps[ci]
}

// seeGroups counts the values that are in no group of a column of groups.
func (p *part) seeGroups(b *table.Batch, i int, g grouping) {
	for row, c := range p.at {
		if c == nil {
			continue
		}
		text := textOf(b, g.of, row)
		in, again := p.inGroup[i][text]
		if !again {
			text = strings.Clone(text)
			_, _, in = g.book.Find(text)
			in = in || text == ""
			p.inGroup[i][text] = in
		}
		if !in {
			p.none[i][text]++
		}
	}
}

// textOf is the text of a row in a column.
func textOf(b *table.Batch, ci, row int) string {
	c := &b.Columns[ci]
	if c.Texts != nil {
		return c.Texts.Out(c.Codes[c.At(row, 0, 1)])
	}
	return string(b.AppendText(nil, c, row, 0))
}

// together puts together what the parts have.
func (k *kept) together() (cells []*cell, all part) {
	all.whole = make([]value.Sum, len(k.run.of))
	for range k.run.grouped() {
		all.none = append(all.none, map[string]int{})
	}
	for _, p := range k.parts {
		all.read, all.kept = all.read+p.read, all.kept+p.kept
		for i := range p.whole {
			all.whole[i].Merge(&p.whole[i])
		}
		for i := range p.none {
			for text, rows := range p.none[i] {
				all.none[i][text] += rows
			}
		}
		k.shared.takeIn(p.groups.cells)
	}
	for i := range k.shared {
		for _, c := range k.shared[i].cells {
			cells = append(cells, c)
			for m := range all.whole {
				if k.run.view.Only < 0 { // all rows are in groups
					all.whole[m].Merge(&c.of[m].sum)
				}
			}
		}
	}
	return cells, all
}
