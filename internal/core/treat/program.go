// Package treat applies the rules of the plan to the columns of a batch: gaps,
// decimals, names.
//
// A Program is a plan made ready for one extract. Each Worker runs programs
// over blocks of rows in three steps: Read cuts a block into columns, HandOver
// settles what depends on the rows before it, Decide applies the rules in the
// plan's order. Blocks are read and decided by many workers at once; they hand
// over one after another, in the order of the fact table.
//
// Each distinct text is worked on once, when a worker's dictionary first meets
// it. A number takes the short way from bytes to decimal; only what is odd (a
// gap, a rounding, a name to be held) is put on a list and looked at again.
package treat

import (
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/lookup"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/shape"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Program is a plan made ready for one extract.
type Program struct {
	Plan    *plan.Plan
	Lineup  *layout.Lineup
	Slots   []shape.Slot // never empty: one without a header where nothing is unpivoted
	Columns []column
	skip    int         // a column of wide cells, where blank ones are skipped; -1 for none
	cells   int         // how many columns of wide cells there are
	only    []int       // the columns that decide which fact rows are wanted …
	wanted  table.Level // … and the level of that decision
	fill    bool
	inTurn  bool // columns are made while blocks hand over: a first spelling or a currency may be among them
	firsts  bool // a column is decided by first spellings

	// Cut says that other readings have other rows of the extract, which is that of a number.
	Cut     bool
	Extract int

	// Corrections are the cells answered by hand, by line.
	Corrections map[int][]*Correction
	totals      []totalColumn
	named       []bool   // by slot: the plan says that it is no total column
	labels      []int    // the columns of texts that are labels
	factors     []uint64 // by column of the extract, for runs: what each of its figures is multiplied with
}

// Correction is a cell answered by hand: what stands in it, and what it is to be.
type Correction struct {
	Index      int // in the file of corrections
	Header     string
	Was, Value string
	column     int // of the extract
}

// column is one column of the plan in one extract.
type column struct {
	spec     *plan.Column
	reading  *value.Reading
	book     *names.Book
	lookup   *lookup.Column // how it is looked up; nil for a column that is not
	source   layout.Source
	level    table.Level
	totals   *value.Totals     // which labels are totals
	measure  bool              // its amounts are tied
	firsts   bool              // a name decided by its first spelling
	made     bool              // of other columns, or by a formula
	ofTexts  bool              // made of texts of cells, and read as they are
	passes   bool              // made of texts of cells, as texts
	origin   int               // the column whose cells are its own: of texts where it is made of them; -1 for none
	needs    []int             // the columns that it is made of
	keyKinds []plan.Kind       // of those, where it is looked up by them
	puts     [value.Gaps][]int // the columns that the formulas of its gap rules need
}

// fromCells reports whether the values are cells of the extract, not its
// constants or headers.
func (c *column) fromCells() bool {
	return c.source.From == layout.Label || c.source.From == layout.WideCell
}

// recorded reports whether a value that another is put for is on record: whatever
// was read, but for what a formula gave.
func (c *column) recorded() bool {
	return c.source.From != layout.Absent && c.spec.Formula == nil && c.lookup == nil && c.spec.Marks == ""
}

// decimals is how many places the numbers of the column have, -1 where they have
// as many as they need.
func (c *column) decimals() int {
	if c.spec.Kind == plan.Whole {
		return 0
	}
	return c.spec.Decimals
}

// shortens reports whether numbers lose zeros at their end.
func (c *column) shortens() bool {
	return c.spec.Decimals < 0 && c.spec.Kind != plan.Whole && !c.spec.AsItIs
}

// fit is a number as the column has it: rounded to its decimals, or as short as it is.
func (c *column) fit(d value.Decimal) value.Decimal {
	if c.spec.Decimals < 0 {
		return d.Shorten()
	}
	d, _ = d.Rescale(c.spec.Decimals)
	return d
}

// fitResult is the same of what a formula gives, which may have places without end.
func (c *column) fitResult(d value.Decimal) value.Decimal {
	if c.spec.Decimals < 0 {
		d = d.Round(MostPlaces)
	}
	return c.fit(d)
}

// places is how many places the numbers of the column usually have.
func (c *column) places() int { return max(0, c.decimals()) }

// plain reports whether the cells of the column are numbers as they stand: no
// pattern keeps a piece of them, and no number means nothing.
func (c *column) plain() bool {
	return c.spec.Read == nil && !c.spec.Words.Figures() && c.reading.Plain()
}

// cellColumn is the column of the extract whose cells feed a slot.
func (c *column) cellColumn(p *Program, slot int) int {
	if c.level == table.PerCell {
		return p.Slots[slot].Cells[c.source.Index]
	}
	return c.source.Index
}

// gapped reports whether a value may be a gap: constants and headers never are.
func (c *column) gapped() bool {
	return c.fromCells() || c.source.From == layout.Section || c.ofTexts || c.lookup != nil
}

// NewProgram makes a plan ready for an extract; books and lookups are by column of the
// plan, no lookups where it has none.
// A sheet fills its short rows with blanks, a text file only if the plan says so.
// What does not go together in this extract is returned as problems.
func NewProgram(p *plan.Plan, l *layout.Lineup, books []*names.Book, lookups []*lookup.Column) (*Program, place.List) {
	pr := &Program{Plan: p, Lineup: l, Slots: l.Slots, skip: -1, fill: l.Place.Sheet != "" || l.Entry.FillShort}
	if l.Entry.Unpivot == nil {
		pr.Slots = []shape.Slot{{}}
	}
	for i := range p.Columns {
		var found *lookup.Column
		if lookups != nil {
			found = lookups[i]
		}
		pr.addColumn(i, books[i], found)
	}
	var problems place.List
	for _, ci := range p.Made {
		problems.Merge(pr.addNeeds(ci))
	}
	pr.factors = pr.findFactors()
	problems.Merge(pr.findTotals())
	pr.named = pr.findNamed()
	if f := p.Rows.Only; f != nil {
		pr.only = p.Indexes(f.Columns)
		pr.wanted = pr.levelOf(table.PerExtract, pr.only)
	}
	return pr, problems
}

// addColumn adds what is known of a column by itself.
func (p *Program) addColumn(i int, book *names.Book, found *lookup.Column) {
	spec, l := p.Plan.Columns[i], p.Lineup
	c := column{spec: spec, book: book, source: l.Sources[i], made: spec.Made() && spec.Value == nil, reading: &l.Entry.Reading,
		totals: &l.Entry.Labels, origin: -1, lookup: found}
	if found != nil {
		c.reading = &found.Table.Reference.Entry.Reading
	}
	switch c.source.From {
	case layout.Label, layout.Section:
		c.level = table.PerRow
	case layout.Piece:
		c.level = table.PerSlot
	case layout.WideCell:
		c.level = table.PerCell
		p.cells++
		if l.Entry.Unpivot.SkipBlanks {
			p.skip = i
		}
	}
	c.measure = spec.Measure() && c.fromCells()
	if c.fromCells() {
		c.origin = i
	}
	if c.source.From == layout.Label && !spec.Kind.Numeric() {
		p.labels = append(p.labels, i)
	}
	c.firsts = spec.Kind == plan.Name && (spec.Book == "" || spec.Unknown.Remedy == plan.Keep)
	p.firsts = p.firsts || c.firsts
	p.Columns = append(p.Columns, c)
}

// addNeeds adds what a column that is made, or whose gaps are, needs of others.
func (p *Program) addNeeds(ci int) (problems place.List) {
	c, l := &p.Columns[ci], p.Lineup
	if c.made {
		c.needs = p.Plan.Indexes(c.spec.Needs())
		for _, need := range c.needs {
			c.keyKinds = append(c.keyKinds, p.Plan.Columns[need].Kind)
		}
		c.level = p.levelOf(c.level, c.needs)
		p.readTexts(ci)
		p.inTurn = p.inTurn || c.firsts || c.ofTexts && c.spec.Kind.Numeric()
		if c.measure && c.level == table.PerRow && l.Entry.Unpivot != nil {
			problem := place.At(l.Place, "number beside wide columns",
				"column %s stands beside wide columns and would be added once for each of them", c.spec.Name).ByRule()
			problem.Column, problem.Plan, problem.Add = c.spec.Name, c.spec.Pos, "add: no"
			problems.Add(problem)
		}
	}
	for gap, rule := range c.spec.Gaps {
		if rule.Formula == nil {
			continue
		}
		c.puts[gap] = p.Plan.Indexes(rule.Formula.Columns)
		l := p.levelOf(c.level, c.puts[gap])
		if l != c.level && c.gapped() {
			problems.Add(p.tooFine(c, rule))
		}
		if c.made {
			c.level = l
		}
	}
	return problems
}

// readTexts finds out whether a column that is made takes texts of cells, here.
func (p *Program) readTexts(ci int) {
	c := &p.Columns[ci]
	if c.spec.From == "" && c.spec.Write == nil {
		return
	}
	texts := slices.ContainsFunc(c.needs, func(need int) bool {
		n := &p.Columns[need]
		return (n.spec.Kind == plan.Text || n.spec.Kind == plan.Name) && (n.fromCells() || n.ofTexts)
	})
	if k := c.spec.Kind; k == plan.Text || k == plan.Name {
		c.ofTexts = false
		c.origin = -1
		if texts && c.spec.From != "" {
			c.origin = p.Columns[c.needs[0]].origin
		}
		p.passesTexts(ci, texts)
		return
	} else if !k.Numeric() && !k.Dated() {
		return
	}
	if c.ofTexts = texts || slices.ContainsFunc(c.needs, func(need int) bool { return p.Columns[need].passes }); c.ofTexts {
		c.measure = c.spec.Measure()
		if o := layout.Origin(p.Plan, ci); o >= 0 {
			c.origin = o
		}
	}
}

// passesTexts notes that a column of texts that is made hands on those of cells.
func (p *Program) passesTexts(ci int, texts bool) {
	c := &p.Columns[ci]
	c.passes = texts || slices.ContainsFunc(c.needs, func(need int) bool { return p.Columns[need].passes })
}

// levelOf is the level at which columns vary together with a level.
func (p *Program) levelOf(l table.Level, columns []int) table.Level {
	for _, ci := range columns {
		l = together(l, p.Columns[ci].level)
	}
	return l
}

// tooFine reports a gap rule whose formula has a value a wide cell, in a column that
// has one a row.
func (p *Program) tooFine(c *column, rule plan.Rule) place.Problem {
	problem := place.At(p.Lineup.Place, "value from two places",
		"a gap of column %s would get several values: its formula needs wide cells, and %[1]s has one cell a row", c.spec.Name).ByRule()
	problem.Column, problem.Plan = c.spec.Name, rule.Pos
	problem.Advice = "make another column with =coalesce(" + c.spec.Name + ", …)"
	return problem
}

// together is the level at which values of two levels vary together.
func together(a, b table.Level) table.Level {
	switch {
	case a == b || b == table.PerExtract:
		return a
	case a == table.PerExtract:
		return b
	}
	return table.PerCell
}

// Measures returns the columns of the plan whose amounts the extract has.
func (p *Program) Measures() []int {
	var m []int
	for i := range p.Columns {
		if p.Columns[i].measure {
			m = append(m, i)
		}
	}
	return m
}

// MeasureAt returns the measure that column i of the extract feeds.
func (p *Program) MeasureAt(i int) int {
	for ci := range p.Columns {
		if c := &p.Columns[ci]; c.measure && c.origin >= 0 && slices.Contains(p.Lineup.Cells(c.origin), i) {
			return ci
		}
	}
	return -1
}

// cellOf is the column of the extract, or that widen adds, whose cells feed a measure in a slot, -1 for none.
func (p *Program) cellOf(c *column, slot int) int {
	if c.origin < 0 {
		return -1
	}
	return p.Columns[c.origin].cellColumn(p, slot)
}

// Change is a cell of a delivered fact row that got another value.
type Change struct {
	Row    int32 // index of the extract row in the batch
	Slot   int32 // -1 where the cell is no wide one
	Column int32
	Kind   value.Gap // NoGap for a rounding, Corrected for a cell answered by hand
	summed bool      // the fact row has a sum now; what it had is
	after  table.Cell
	Cell   table.Cell
}

// Corrected is the kind of a change by hand.
const Corrected = value.Gaps

// KindName names the kind of a change as the record does.
func (c Change) KindName() string {
	switch c.Kind {
	case value.NoGap:
		return "rounding"
	case Corrected:
		return "correction"
	}
	return c.Kind.String()
}

// Row is one fact row that is not delivered: its index in the batch and why.
type Row struct {
	Index  int32
	Fate   table.Fate
	Column int32  // whose rule decided, -1 where none did
	Reason string // for a held row
}

// firstOf is the column whose cells a column takes its values from: itself, or
// what it is made of first.
func (p *Program) firstOf(ci int) *column {
	for len(p.Columns[ci].needs) > 0 {
		ci = p.Columns[ci].needs[0]
	}
	return &p.Columns[ci]
}

// CellHeader is the header of the wide cell that a column has in a slot; that of
// the slot where it has none.
func (p *Program) CellHeader(ci, slot int) string {
	c := p.firstOf(ci)
	if c.level == table.PerCell {
		if i := c.cellColumn(p, slot); i >= 0 {
			return p.header(i)
		}
	}
	return p.Slots[slot].Header
}

// LabelHeader is the header of the label cells that a column takes its values
// from, "" for a column that takes them from elsewhere.
func (p *Program) LabelHeader(ci int) string {
	c := p.firstOf(ci)
	if c.source.From != layout.Label {
		return ""
	}
	return p.header(c.source.Index)
}

// header is the header of a column of the extract, or of one that widen adds.
func (p *Program) header(i int) string {
	return p.Lineup.Header.Name(p.Lineup.InExtract(i))
}
