package treat

import (
	"slices"

	"umbau/internal/core/formula"
	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Worker runs programs over blocks. It keeps its dictionaries from block to
// block; all else that it holds is of the block at hand and good until the next
// Read.
type Worker struct {
	Program *Program
	Rows    table.Rows
	Sorted  layout.Sorted
	Batch   table.Batch

	Changes     []Change // in the order of the fact table
	HeadChanges []Change // the same of values that stand above the rows, once an extract or wide column
	Gone        []Row    // fact rows not delivered, in the order of the fact table
	Names       []names.Seen
	Accounts    []tie.Account // by column; only those of measures are filled
	Account     tie.Rows
	Totals      []Total     // total rows, and
	Sums        []Sums      // what stands between them: one more than there are totals
	Checks      []tie.Check // of total columns
	Problems    place.List
	Where       bool      // say of each name where it stands first
	Empties     []Emptied // values that formulas leave empty
	// Repeats, if not nil, tells what becomes of a fact row whose grain stands
	// again, by its line and slot.
	Repeats func(line, slot int) table.Fate

	used     int     // rows that were used before they became fewer, -1 where they did not
	widened  [][]int // by row: the line of each cell that widen adds; nil where it does not
	begin    int     // of the rows behind the header
	last     bool    // no more rows of the extract will come
	sorter   layout.Sorter
	merged   []Change            // for sortChanges
	spare    [][]value.Sum       // for Sums
	places   []int               // for readWide: the column of each slot's cell
	gathered []table.Cell        // the cells of a row or of a column, side by side
	kinds    []table.CellKind    // for readNumbers: what they are
	blanks   []uint16            // of each fact row: how many of its cells are blank
	dropped  map[int]*totalTexts // by column of the extract that nothing claims
	dicts    map[dictKey]*texts
	columns  []columnState
	machine  *formula.Machine
	inputs   []*formula.Vector // of the formula that ran last
	vectors  []*formula.Vector // spare ones
	filtered bool              // the filter has passed over the block
	passed   bool              // fact rows may be skipped or filtered
	stops    []stop
	stopped  []bool // by fact row; empty while none is
}

type dictKey struct {
	entry  *plan.Entry
	column int
}

// columnState is what a worker knows of one column in the block at hand.
type columnState struct {
	texts      *texts
	pieces     pieces
	touched    []uint32 // codes of names that the block has, in their order
	odd        bool     // a text of the block needs a decision
	reads      reads
	fixed      table.Fixed              // reads most of its numbers …
	usual      bool                     // … if there is such a reader
	puts       [value.Gaps]table.Number // what gaps get, where that is a number to copy
	gapCells   []gapCell
	rounded    []rounded
	currencies []money
	changed    []gapCell      // gaps that get a value, if their fact row is delivered
	vector     formula.Vector // of its values, for formulas …
	ready      bool           // … if that is worked out
	opens      []int32        // values of a formula that nobody has decided yet
	empties    []emptied      // values of a formula that are empty
	made       []madeValue    // what formulas give to its gaps
	gapsOf     *plan.Entry    // whose texts are:
	gaps       *table.Dict    // texts that are no numbers …
	gapKinds   []value.Gap    // … and which gap each is
}

// NewWorker returns a worker for a plan.
func NewWorker(p *plan.Plan) *Worker {
	return &Worker{dicts: map[dictKey]*texts{}, dropped: map[int]*totalTexts{}, columns: make([]columnState, len(p.Columns)), Accounts: make([]tie.Account, len(p.Columns)),
		Batch: table.Batch{Columns: make([]table.Column, len(p.Columns))}, machine: formula.NewMachine(p.Calendar)}
}

// Block is one block of an extract for a worker: its raw text, the index of the
// first row behind the header where the block holds it, and whether it is the
// last one.
type Block struct {
	table.Block
	Begin int
	Last  bool
}

// Read cuts a block into rows and columns. It returns what is wrong with the raw
// text, or with its rows.
func (w *Worker) Read(p *Program, src table.Splitter, b Block) error {
	w.Program, w.last = p, b.Last
	w.Rows.Reset()
	if err := src.Split(b.Block, &w.Rows); err != nil {
		return err
	}
	if a := p.Lineup.Entry.Area; a != nil {
		b.Begin = 0
		layout.Crop(&w.Rows, a)
		for b.Begin < w.Rows.Len() && w.Rows.Lines[b.Begin] <= p.Lineup.Header.Row {
			b.Begin++
		}
	}
	if p.fill {
		layout.Pad(&w.Rows, len(p.Lineup.Header.Texts))
	}
	w.begin = b.Begin
	w.load()
	return nil
}

// load turns the rows of the block into columns.
func (w *Worker) load() {
	w.reset()
	w.Problems = w.sorter.Sort(w.Program.Lineup, &w.Rows, w.begin, w.last, &w.Sorted)
	w.findFormulas()
	w.used, w.widened = -1, nil
	if w.Program.Lineup.Widen != nil {
		w.loadToWiden()
		return
	}
	w.loadColumns()
}

// loadColumns reads the used rows of the block into columns.
func (w *Worker) loadColumns() {
	w.Batch.Data = w.Rows.Data
	w.Batch.Slots = len(w.Program.Slots)
	w.Batch.Rows = len(w.Sorted.Used)
	total := false
	for i := range w.Program.Columns {
		if c := &w.Program.Columns[i]; !c.spec.Kind.Numeric() && c.level == table.PerRow && !c.made {
			total = w.readTexts(i) || total
		}
	}
	if w.widened == nil && (total || len(w.Program.Lineup.Dropped) > 0) {
		w.takeTotals()
	}
	if len(w.Sorted.Totals) > 0 {
		w.takeShortTotals()
	}
	w.Batch.Fates = resized(w.Batch.Fates, w.Batch.Rows*w.Batch.Slots)
	clear(w.Batch.Fates)
	for i := range w.Program.Columns {
		switch c := &w.Program.Columns[i]; {
		case c.made: // when those are known
		case c.spec.Kind.Numeric():
			w.readNumbers(i)
		case c.level != table.PerRow:
			w.readTexts(i)
		}
	}
	w.skipBlanks()
}

// findFormulas reports formulas without a stored value in cells that are used.
func (w *Worker) findFormulas() {
	if len(w.Rows.Kinds) == 0 {
		return
	}
	l := w.Program.Lineup
	for _, row := range w.Sorted.Used {
		for j := range w.Rows.Row(int(row)) {
			if w.Rows.Kind(int(row), j) != table.FormulaCell || j >= len(l.Header.Texts) || slices.Contains(l.Dropped, j) {
				continue
			}
			at := l.Place
			at.Row, at.Header = w.Rows.Lines[row], l.Header.Name(j)
			p := place.At(at, "formula without value", "formulas without a stored value")
			p.Advice = "open the workbook in its program, let it calculate, and save it"
			w.Problems.Add(p)
		}
	}
}

func (w *Worker) reset() {
	w.HeadChanges = w.HeadChanges[:0]
	w.Changes, w.Gone, w.Names, w.Totals, w.Empties = w.Changes[:0], w.Gone[:0], w.Names[:0], w.Totals[:0], w.Empties[:0]
	w.Problems, w.Account = nil, tie.Rows{}
	w.stops, w.stopped = w.stops[:0], w.stopped[:0]
	clear(w.Accounts)
	for i := range w.columns {
		s := &w.columns[i]
		s.touched, s.gapCells, s.rounded, s.currencies, s.changed, s.odd = s.touched[:0], s.gapCells[:0], s.rounded[:0], s.currencies[:0], s.changed[:0], false
		s.ready, s.opens, s.empties, s.made = false, s.opens[:0], s.empties[:0], s.made[:0]
		if s.gaps == nil || s.gaps.Full() || s.gapsOf != w.Program.Lineup.Entry {
			s.gaps, s.gapKinds, s.gapsOf = table.NewDict(), s.gapKinds[:0], w.Program.Lineup.Entry
		}
	}
	w.filtered, w.passed = false, w.Program.skip >= 0
}

// resized returns s with n elements, whose values do not matter.
func resized[T any](s []T, n int) []T {
	if cap(s) < n {
		return make([]T, n, n+n/4)
	}
	return s[:n]
}

// size is how many values a column of this level has in the block.
func (w *Worker) size(l table.Level) int {
	switch l {
	case table.PerRow:
		return w.Batch.Rows
	case table.PerSlot:
		return w.Batch.Slots
	case table.PerCell:
		return w.Batch.Rows * w.Batch.Slots
	}
	return 1
}

// cell returns the raw cell behind value i of a column; ok is false for
// constants and headers.
func (w *Worker) cell(c *column, i int) (cell table.Cell, ok bool) {
	row, index := i, c.source.Index
	if !c.fromCells() {
		return cell, false
	}
	if c.level == table.PerCell {
		row, index = i/w.Batch.Slots, c.cellColumn(w.Program, i%w.Batch.Slots)
		if index < 0 {
			return cell, true // blank
		}
	}
	return w.Rows.Cells[int(w.Rows.Starts[w.Sorted.Used[row]])+index], true
}

// field returns the text of a constant or of a piece of a header.
func (w *Worker) field(c *column, i int) string {
	if c.source.From == layout.Piece {
		return w.Program.Slots[i].Pieces[c.spec.Name]
	}
	return c.source.Text
}

// LineOf is the line that the cell of a column stands in, in a row of the batch.
func (w *Worker) LineOf(ci, row int) int {
	c := &w.Program.Columns[ci]
	if first := len(w.Program.Lineup.Header.Texts); w.widened != nil && c.source.From == layout.Label && c.source.Index >= first {
		if line := w.widened[row][c.source.Index-first]; line > 0 {
			return line
		}
	}
	return w.Rows.Lines[w.Sorted.Used[row]]
}

// Place returns where value i of a column stands.
func (w *Worker) place(ci, i int) place.Place {
	c := &w.Program.Columns[ci]
	at := w.Program.Lineup.Place
	switch c.source.From {
	case layout.Label:
		at.Row = w.LineOf(ci, i)
		at.Header = w.Program.header(c.source.Index)
	case layout.Section:
		at.Row = w.Rows.Lines[w.Sorted.Used[i]]
	case layout.WideCell:
		at.Row = w.Rows.Lines[w.Sorted.Used[i/w.Batch.Slots]]
		at.Header = w.Program.CellHeader(ci, i%w.Batch.Slots)
	case layout.Piece:
		at.Row = w.Program.Lineup.Header.Row
		at.Header = w.Program.Slots[i].Header
	case layout.Made:
		return w.placeOfMade(c, i)
	}
	return at
}

// skipBlanks passes over the fact rows of blank wide cells, if the plan says so:
// those in which every column of cells is blank.
func (w *Worker) skipBlanks() {
	if w.Program.skip < 0 {
		return
	}
	w.blanks = resized(w.blanks, len(w.Batch.Fates))
	clear(w.blanks)
	blank := func(at int) {
		if w.blanks[at]++; int(w.blanks[at]) == w.Program.cells && !w.Program.Slots[at%w.Batch.Slots].Itself {
			w.Batch.Fates[at] = table.Skipped
		}
	}
	for ci := range w.Program.Columns {
		if w.Program.Columns[ci].source.From != layout.WideCell {
			continue
		}
		s := &w.columns[ci]
		if w.Program.Columns[ci].spec.Kind.Numeric() {
			for _, g := range s.gapCells {
				if g.kind == value.Blank {
					blank(int(g.at))
				}
			}
			continue
		}
		for i, code := range w.Batch.Columns[ci].Codes {
			if s.texts.of(code).gap == value.Blank {
				blank(i)
			}
		}
	}
}

// HandOver settles what depends on the blocks before: rows that waited for these
// to be decided, sections, values above, first spellings, and the one currency of
// each measure. Blocks hand over in the order of the fact table.
func (w *Worker) HandOver(s *Shared) {
	s.begin(w.Program)
	w.takeTail(s)
	if w.Program.Lineup.Widen != nil {
		w.widen(s)
	}
	for ci := range w.Program.Columns {
		c := &w.Program.Columns[ci]
		if c.made {
			continue
		}
		if c.source.From == layout.Section {
			w.takeHeadings(ci, s)
		}
		if c.above() {
			if c.spec.Kind.Numeric() {
				w.numbersAbove(ci, s)
			} else {
				w.textsAbove(ci, s)
			}
		}
	}
	if w.Program.Plan.Rows.Only != nil && (w.Program.firsts || w.Program.inTurn || w.namesCurrency()) {
		for _, ci := range w.Program.Plan.Made { // as far as they are known: spellings differ yet
			w.make(ci)
		}
		w.filter()
		w.forget()
	}
	for ci := range w.Program.Columns {
		c := &w.Program.Columns[ci]
		if c.firsts && !c.made {
			w.takeFirsts(ci, s.firsts[ci])
		}
		if len(w.columns[ci].currencies) > 0 && !c.made {
			w.settleCurrency(ci, &s.currencies[ci])
		}
	}
	for _, ci := range w.Program.Plan.Made {
		if !w.Program.inTurn {
			break
		}
		w.make(ci)
		if w.Program.Columns[ci].firsts {
			w.takeFirsts(ci, s.firsts[ci])
		}
	}
}

// namesCurrency reports whether a number of the block names its currency.
func (w *Worker) namesCurrency() bool {
	return slices.ContainsFunc(w.columns, func(s columnState) bool { return len(s.currencies) > 0 })
}
