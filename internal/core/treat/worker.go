package treat

import (
	"slices"

	"umbau/internal/core/formula"
	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/shape"
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
	Totals      []total     // total rows
	Checks      []tie.Check // figures of totals that were compared
	Applied     []int       // corrections of the block that stand in the place of their cells
	Problems    place.List
	Where       bool      // say of each name where it stands first
	Empties     []Emptied // values that formulas leave empty
	// Repeats, if not nil, tells what becomes of a fact row whose grain stands
	// again, by its line and slot.
	Repeats func(line, slot int) table.Fate

	wrong      place.List // corrections that do not fit their cells
	used       int        // rows that were used before they became fewer, -1 where they did not
	widened    [][]int    // by row: the line of each cell that widen adds; nil where it does not
	begin      int        // of the rows behind the header
	last       bool       // no more rows of the extract will come
	sorter     layout.Sorter
	merged     []Change                // for sortChanges
	places     []int                   // for readWide: the column of each slot's cell
	gathered   []table.Cell            // the cells of a row or of a column, side by side
	kinds      []table.CellKind        // for readNumbers: what they are
	blanks     []uint16                // of each fact row: how many of its cells are blank
	dropped    map[dictKey]*totalTexts // by column of the extract that nothing claims
	dicts      map[dictKey]*texts
	hashes     []uint64    // of the used rows, for runs
	hashed     bool        // they are worked out
	factors    []uint64    // for hashRows: of the cells of a row
	fresh      []uint64    // labels that the blocks before may not have
	candidates []candidate // wide columns that may be the sums of the others
	currencies []string    // of each measure, as far as it is known
	only       bool        // the block is all of its extract
	columns    []columnState
	machine    *formula.Machine
	inputs     []*formula.Vector // of the formula that ran last
	vectors    []*formula.Vector // spare ones
	filtered   bool              // the filter has passed over the block
	passed     bool              // fact rows may be skipped or filtered
	stops      []stop
	stopped    []bool // by fact row; empty while none is
}

// dictKey is all that it depends on what a text is and becomes: the entry, the column
// and how the texts of that are read in the extract at hand.
type dictKey struct {
	entry  *plan.Entry
	column int
	class  textClass
}

// textClass is how the texts of a column are read.
type textClass uint8

const (
	ofCells     textClass = iota // gaps have rules
	ofColumns                    // made of others
	ofConstants                  // absent, constants, pieces of headers: never a gap
)

// columnState is what a worker knows of one column in the block at hand.
type columnState struct {
	texts      *texts
	pieces     pieces
	touched    []uint32       // codes of names that the block has, in their order
	odd        bool           // a text of the block needs a decision
	total      bool           // a total word stands in a text of the block
	fresh      bool           // a label of the block may not have been handed on
	labelsOf   *Program       // whose labels are handed on, and
	labels     *texts         // of which dictionary
	asRead     []table.Number // numbers as they were read, where a rule has put others already
	reads      reads
	fixed      table.Fixed              // reads most of its numbers …
	usual      bool                     // … if there is such a reader
	three      int                      // how many numbers have three places
	pointed    bool                     // a number has places, but not three
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
	return &Worker{dicts: map[dictKey]*texts{}, dropped: map[dictKey]*totalTexts{}, columns: make([]columnState, len(p.Columns)), Accounts: make([]tie.Account, len(p.Columns)),
		Batch: table.Batch{Columns: make([]table.Column, len(p.Columns))}, machine: formula.NewMachine(p.Calendar)}
}

// Block is one block of an extract for a worker: its raw text, the index of the
// first row behind the header where the block holds it, and whether it is the
// first or the last one.
type Block struct {
	table.Block
	Begin int
	First bool
	Last  bool
}

// Read cuts a block into rows and columns. It returns what is wrong with the raw
// text, or with its rows.
func (w *Worker) Read(p *Program, src table.Splitter, b Block) error {
	w.Program, w.last, w.only = p, b.Last, b.First && b.Last
	w.fresh, w.Applied = w.fresh[:0], w.Applied[:0]
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
	w.wrong = nil
	if len(p.Corrections) > 0 {
		w.wrong = w.correct()
	}
	w.load()
	return nil
}

// load turns the rows of the block into columns.
func (w *Worker) load() {
	w.reset()
	w.Problems = w.sorter.Sort(w.Program.Lineup, &w.Rows, w.begin, w.last, &w.Sorted)
	w.Problems.Merge(w.wrong)
	w.used, w.widened = -1, nil
	if w.Program.Lineup.Widen != nil {
		w.loadToWiden()
	} else {
		w.loadColumns()
	}
	w.findFormulas()
}

// loadColumns reads the used rows of the block into columns.
func (w *Worker) loadColumns() {
	w.beginColumns()
	w.readAllLabels()
	if w.widened == nil { // else they are out already
		w.takeTotals(w.suspects())
		w.takeShortTotals()
	}
	w.readRest()
	if w.widened == nil && w.takeTotals(w.suspectCells()) {
		slices.SortFunc(w.Totals, func(a, b total) int { return a.line - b.line })
		w.readRest()
	}
	if w.widened == nil {
		w.noteAllLabels()
	}
	w.findCandidates()
	if w.widened == nil && !w.Program.inTurn && w.Program.compares() { // else measures may be made yet
		w.hashRows()
	}
}

// noteAllLabels lists the labels of the block that may be new.
func (w *Worker) noteAllLabels() {
	if e := w.Program.Lineup.Entry; e.Footnotes == plan.Keep || e.Control { // nobody asks
		return
	}
	for _, ci := range w.Program.labels {
		w.noteLabels(ci)
	}
}

// beginColumns begins the batch of the used rows.
func (w *Worker) beginColumns() {
	w.Batch.Data, w.Batch.Slots, w.Batch.Rows = w.Rows.Data, len(w.Program.Slots), len(w.Sorted.Used)
}

// readAllLabels reads the columns by which total rows are known, mostly.
func (w *Worker) readAllLabels() {
	for _, ci := range w.Program.labels {
		w.readTexts(ci)
	}
}

// readRest reads all columns but labels and those that are made.
func (w *Worker) readRest() {
	w.hashed = false
	w.Batch.Fates = resized(w.Batch.Fates, w.Batch.Rows*w.Batch.Slots)
	clear(w.Batch.Fates)
	for i := range w.Program.Columns {
		switch c := &w.Program.Columns[i]; {
		case c.made: // when those are known
		case c.spec.Kind.Numeric():
			s := &w.columns[i]
			s.gapCells, s.rounded, s.currencies, s.changed, s.asRead = s.gapCells[:0], s.rounded[:0], s.currencies[:0], s.changed[:0], nil
			w.readNumbers(i)
		case c.source.From != layout.Label:
			w.readTexts(i)
		}
	}
	w.skipBlanks()
}

// findFormulas reports formulas without a stored value in all cells that something reads:
// not in columns that nothing claims, nor in totals that are not compared.
func (w *Worker) findFormulas() {
	if len(w.Rows.Kinds) == 0 {
		return
	}
	l := w.Program.Lineup
	rows := slices.Clone(w.Sorted.Used)
	for _, o := range w.Sorted.Out {
		if o.Reason != layout.TotalRow || l.Entry.Totals == plan.Tie {
			rows = append(rows, int32(o.Row))
		}
	}
	slices.Sort(rows)
	for _, row := range rows {
		for j := range w.Rows.Row(int(row)) {
			if w.Rows.Kind(int(row), j) != table.FormulaCell || j >= len(l.Header.Texts) || slices.Contains(l.Dropped, j) ||
				l.Entry.Totals != plan.Tie && slices.ContainsFunc(l.Totals, func(t shape.Column) bool { return t.Index == j }) {
				continue
			}
			at := l.Place
			at.Row, at.Header = w.Rows.Lines[row], l.Header.Name(j)
			w.Problems.Add(FormulaProblem(at))
		}
	}
}

// FormulaProblem is that of a formula without a stored value.
func FormulaProblem(at place.Place) place.Problem {
	p := place.At(at, "formula without value", "formulas without a stored value")
	p.Advice = "open the workbook in its program, let it calculate, and save it"
	return p
}

func (w *Worker) reset() {
	w.HeadChanges = w.HeadChanges[:0]
	w.Changes, w.Gone, w.Names, w.Totals, w.Empties = w.Changes[:0], w.Gone[:0], w.Names[:0], w.Totals[:0], w.Empties[:0]
	w.Checks, w.candidates = w.Checks[:0], w.candidates[:0]
	w.Problems, w.Account = nil, tie.Rows{}
	w.stops, w.stopped = w.stops[:0], w.stopped[:0]
	clear(w.Accounts)
	for i := range w.columns {
		s := &w.columns[i]
		s.touched, s.gapCells, s.rounded, s.currencies, s.changed, s.odd = s.touched[:0], s.gapCells[:0], s.rounded[:0], s.currencies[:0], s.changed[:0], false
		s.asRead, s.total = nil, false
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
	at, ok := w.cellAt(c, i)
	if at < 0 {
		return cell, ok
	}
	return w.Rows.Cells[at], true
}

// cellAt is which cell of the rows that is, -1 for none; a wide cell that the extract does
// not have is blank, and ok.
func (w *Worker) cellAt(c *column, i int) (at int, ok bool) {
	row, index := i, c.source.Index
	if !c.fromCells() {
		return -1, false
	}
	if c.level == table.PerCell {
		row, index = i/w.Batch.Slots, c.cellColumn(w.Program, i%w.Batch.Slots)
		if index < 0 {
			return -1, true
		}
	}
	return int(w.Rows.Starts[w.Sorted.Used[row]]) + index, true
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
// to be decided, labels that stood above, rows that repeat one, sections, values above,
// first spellings, the one currency of each column of numbers, and totals. Blocks hand
// over in the order of the fact table.
func (w *Worker) HandOver(s *Shared) {
	s.begin(w.Program)
	w.takeTail(s)
	w.takeBranches(s)
	w.takeSame(s)
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
				w.settleCurrency(ci, &s.currencies[ci])
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
		if !c.made {
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
		if w.Program.Columns[ci].ofTexts {
			w.settleCurrency(ci, &s.currencies[ci])
		}
	}
	w.currencies = append(w.currencies[:0], s.currencies...)
	w.compareTotals(s)
}

// namesCurrency reports whether a number of the block names its currency.
func (w *Worker) namesCurrency() bool {
	return slices.ContainsFunc(w.columns, func(s columnState) bool { return len(s.currencies) > 0 })
}
