package totals

import (
	"slices"
	"strings"
	"sync"

	"umbau/internal/core/key"
	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// kept is the keeper: each of its parts has groups of its own, over all of its blocks, and
// they are put together at the end. Nothing that it keeps depends on their order.
type kept struct {
	run   *run
	parts []*part
	gaps  []gaps // by column of the view

	mutex  sync.Mutex
	merged map[string]*cell // of parts that had many groups
}

// mostCells is how many groups a part has of its own before it hands them on: memory grows
// with the groups, not with the parts.
const mostCells = 1 << 14

// merge puts groups beside those that are there, which may come from any part.
func (k *kept) merge(cells map[string]*cell) {
	k.mutex.Lock()
	defer k.mutex.Unlock()
	if k.merged == nil {
		k.merged = map[string]*cell{}
	}
	for name, c := range cells {
		if before := k.merged[name]; before != nil {
			before.merge(c)
		} else {
			k.merged[name] = c
		}
	}
}

// gaps counts the gaps of a column, by kind.
type gaps [value.Gaps]struct {
	count  int
	places []GapPlace
}

// cell is what is known of one group.
type cell struct {
	labels []string // of by and across
	first  int      // the row in which it stands first
	rows   int
	of     []amount
}

// amount is what is known of one measure in one group.
type amount struct {
	sum      value.Sum
	filled   int
	gaps     int
	blanks   int
	has      bool // least and most are set
	least    point
	most     point
	distinct map[string]struct{} // nil where nobody asks
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
	if o.has {
		a.compare(o.least)
		a.compare(o.most)
	}
	if a.distinct == nil && o.distinct != nil {
		a.distinct = make(map[string]struct{}, len(o.distinct))
	}
	for k := range o.distinct {
		a.distinct[k] = struct{}{}
	}
}

// empty counts a value that is not there, unless a plan has left it so.
func (a *amount) empty(left bool) {
	if !left {
		a.blanks++
	}
}

func (a *amount) compare(p point) {
	if !a.has || p.less(a.least) {
		a.least = p
	}
	if !a.has || a.most.less(p) {
		a.most = p
	}
	a.has = true
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
	of           *kept
	cells        map[string]*cell
	scratch      []byte
	byCodes      bool
	known        map[[mostCodes]uint32]*cell // groups of the block, by the codes of their labels
	lastCodes    [mostCodes]uint32           // those of the row before
	last         *cell
	read, kept   int
	whole        []value.Sum
	none         []map[string]int // by column of groups: values in none, and their rows
	inGroup      []map[string]bool
	wants        wants
	rowGaps      []treat.GapCell // of the block
	nextGap      int
	gaps         []gaps
	lines        [][2]int
	gapOf, blank []bool // of the row at hand, by column of the view
}

// wants are what the shows need.
type wants struct{ distinct, bounds bool }

func newKept(r *run) *kept { return &kept{run: r} }

// Wants implements pass.Asking.
func (k *kept) Wants() treat.Wants { return treat.Wants{Gaps: true} }

// Part implements pass.Keeper.
func (k *kept) Part() pass.Part {
	p := &part{of: k, cells: map[string]*cell{}, known: map[[mostCodes]uint32]*cell{}, whole: make([]value.Sum, len(k.run.of))}
	for _, s := range k.run.shows {
		p.wants.distinct = p.wants.distinct || s == Distinct
		p.wants.bounds = p.wants.bounds || s == Min || s == Max
	}
	k.parts = append(k.parts, p)
	return p
}

// See implements pass.Part.
func (p *part) See(b *pass.Block) {
	r := p.of.run
	if p.gapOf == nil {
		n := len(b.Batch.Columns)
		p.gapOf, p.blank, p.gaps = make([]bool, n), make([]bool, n), make([]gaps, n)
		for range r.grouped() {
			p.none, p.inGroup = append(p.none, map[string]int{}), append(p.inGroup, map[string]bool{})
		}
	}
	p.rowGaps, p.nextGap = b.Gaps, 0
	p.begin(b.Batch)
	groups := r.grouped()
	for row := range b.Batch.Rows {
		p.read++
		keep := r.view.Only < 0 || textOf(b.Batch, r.view.Only, row) == "true"
		for i, ci := range r.of {
			if c := &b.Batch.Columns[ci]; c.Numbers != nil {
				c.AddTo(&p.whole[i], c.At(row, 0, 1))
			}
		}
		p.seeGaps(b, row, keep)
		if keep {
			p.kept++
			p.add(b, p.cell(b, row), row)
			p.seeGroups(b.Batch, row, groups)
		}
		p.endGaps()
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

// textOf is the text of a row in a column.
func textOf(b *table.Batch, ci, row int) string {
	c := &b.Columns[ci]
	if c.Numbers == nil {
		return c.Texts.Out(c.Codes[c.At(row, 0, 1)])
	}
	return string(b.AppendText(nil, c, row, 0))
}

// seeGaps marks the columns of a row that have no value of their kind.
func (p *part) seeGaps(b *pass.Block, row int, keep bool) {
	line := b.Line(row)
	for p.nextGap < len(p.rowGaps) && p.rowGaps[p.nextGap].Place.Row == line {
		g := &p.rowGaps[p.nextGap]
		p.nextGap++
		p.lines = append(p.lines, [2]int{g.Column, int(g.Kind)})
		p.gapOf[g.Column], p.blank[g.Column] = g.Kind != value.Blank, g.Kind == value.Blank
		if keep {
			own := &p.gaps[g.Column][g.Kind]
			if own.count++; len(own.places) < mostPlaces {
				own.places = append(own.places, GapPlace{line, g.Text})
			}
		}
	}
}

func (p *part) endGaps() {
	for _, g := range p.lines {
		p.gapOf[g[0]], p.blank[g[0]] = false, false
	}
	p.lines = p.lines[:0]
}

// mostCodes is how many columns of texts make a group that is found by their codes.
const mostCodes = 4

// begin forgets the codes of the block before, which may mean something else.
func (p *part) begin(b *table.Batch) {
	clear(p.known)
	if len(p.cells) > mostCells {
		p.of.merge(p.cells)
		p.cells = map[string]*cell{}
	}
	p.byCodes = len(p.of.run.by) <= mostCodes
	for _, ci := range p.of.run.by {
		p.byCodes = p.byCodes && b.Columns[ci].Numbers == nil
	}
	p.last = nil
}

// cell is the group of a row.
func (p *part) cell(block *pass.Block, row int) *cell {
	b := block.Batch
	if !p.byCodes {
		return p.cellByTexts(block, row)
	}
	var codes [mostCodes]uint32
	for i, ci := range p.of.run.by {
		c := &b.Columns[ci]
		codes[i] = c.Codes[c.At(row, 0, 1)]
	}
	if p.last != nil && codes == p.lastCodes {
		return p.last
	}
	c := p.known[codes]
	if c == nil {
		c = p.cellByTexts(block, row)
		p.known[codes] = c
	}
	p.last, p.lastCodes = c, codes
	return c
}

// cellByTexts is the same by what the labels say.
func (p *part) cellByTexts(block *pass.Block, row int) *cell {
	b := block.Batch
	p.scratch = p.scratch[:0]
	for _, ci := range p.of.run.by {
		c := &b.Columns[ci]
		if c.Numbers != nil {
			if d, ok := c.Decimal(c.At(row, 0, 1)); ok {
				p.scratch = append(p.scratch, d.Shorten().String()...)
			}
		} else {
			p.scratch = append(p.scratch, c.Texts.Out(c.Codes[c.At(row, 0, 1)])...)
		}
		p.scratch = append(p.scratch, 0)
	}
	c := p.cells[string(p.scratch)]
	if c == nil {
		c = &cell{of: make([]amount, len(p.of.run.of)), first: block.Line(row)}
		if len(p.scratch) > 0 {
			c.labels = strings.Split(string(p.scratch[:len(p.scratch)-1]), "\x00")
		}
		p.cells[string(p.scratch)] = c
	}
	return c
}

// add adds a row to its group.
func (p *part) add(b *pass.Block, c *cell, row int) {
	r := p.of.run
	c.rows++
	for i, ci := range r.of {
		a, col := &c.of[i], &b.Batch.Columns[ci]
		at := col.At(row, 0, 1)
		if p.gapOf[ci] {
			a.gaps++
			continue
		}
		if col.Numbers != nil {
			if col.Numbers[at].Form == table.Empty {
				a.empty(r.left[i])
				continue
			}
			a.filled++
			col.AddTo(&a.sum, at)
			if p.wants.bounds || p.wants.distinct {
				d, _ := col.Decimal(at)
				p.look(a, point{number: d}, d.Shorten().String())
			}
			continue
		}
		text := col.Texts.Out(col.Codes[at])
		if text == "" {
			a.empty(r.left[i])
			continue
		}
		a.filled++
		if p.wants.bounds || p.wants.distinct {
			p.look(a, point{text: text}, key.Of(text))
		}
	}
}

// look keeps what some shows want of a value.
func (p *part) look(a *amount, at point, k string) {
	if p.wants.bounds {
		a.compare(at)
	}
	if p.wants.distinct {
		if a.distinct == nil {
			a.distinct = map[string]struct{}{}
		}
		a.distinct[k] = struct{}{}
	}
}

// seeGroups counts the values that are in no group.
func (p *part) seeGroups(b *table.Batch, row int, groups []grouping) {
	for i, of := range groups {
		text := textOf(b, of.of, row)
		in, again := p.inGroup[i][text]
		if !again {
			_, _, in = of.book.Find(text)
			in = in || text == ""
			p.inGroup[i][text] = in
		}
		if !in {
			p.none[i][text]++
		}
	}
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
		k.merge(p.cells)
	}
	for _, c := range k.merged {
		cells = append(cells, c)
	}
	return cells, all
}

// CompareLabels puts labels of a kind in order: numbers and years by value, dates by time,
// texts by the key and then as they stand; the empty one last.
func CompareLabels(kind plan.Kind, a, b string) int {
	switch {
	case a == b:
		return 0
	case a == "":
		return 1
	case b == "":
		return -1
	case kind.Numeric() || kind == plan.Year:
		x, _, okX := value.English.Number([]byte(a))
		y, _, okY := value.English.Number([]byte(b))
		if okX && okY {
			return x.Cmp(y)
		}
	case kind.Dated():
		return strings.Compare(a, b)
	}
	if c := strings.Compare(key.Of(a), key.Of(b)); c != 0 {
		return c
	}
	return strings.Compare(a, b)
}

// isGroup reports whether a column is one of groups, whose Other stands last.
func (r *run) isGroup(ci int) bool {
	return slices.ContainsFunc(r.grouped(), func(g grouping) bool { return g.column == ci })
}
