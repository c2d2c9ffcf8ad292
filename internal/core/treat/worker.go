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
	program     *Program
	wants       Wants
	repeats     Repeats
	rows        table.Rows
	sorted      layout.Sorted
	batch       table.Batch
	became      Outcome
	changes     []Change
	headChanges []Change
	gone        []Row
	names       []names.Seen
	gaps        []GapCell
	lookedUp    []LookedUp
	asked       []AskedLine
	accounts    []tie.Account
	rowsAccount tie.Rows
	totals      []total // total rows
	checks      []tie.Check
	strip       Strip // where the extract is read in pieces
	applied     []int
	problems    place.List
	doubts      place.List // what a person should look at
	unsettled   []Unsettled
	empties     []Emptied

	wrong      place.List // corrections that do not fit their cells
	used       int        // rows that were used before they became fewer, -1 where they did not
	widened    [][]int    // by row: the line of each cell that widen adds; nil where it does not
	begin      int        // of the rows behind the header
	last       bool       // no more rows of the extract will come
	sorter     layout.Sorter
	merged     []Change         // for sortChanges
	places     []int            // for readWide: the column of each slot's cell
	gathered   []table.Cell     // the cells of a row or of a column, side by side
	kinds      []table.CellKind // for readNumbers: what they are
	blanks     []uint16         // of each fact row: how many of its cells are blank
	memory     memory
	hashes     []uint64    // of the used rows, for runs
	hashed     bool        // they are worked out
	factors    []uint64    // for hashRows: of the cells of a row
	fresh      []label     // labels that the blocks before may not have
	noted      int         // how many labels of the extract were listed
	notedOf    *Program    // of which extract
	whole      bool        // they are listed with the hashes of their whole keys, however many there are
	begun      [512]uint64 // hashes of beginnings of labels of the extract that were listed of late
	again      Again
	key        []byte      // memory for one
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
	percents   int                      // numbers with a percent sign …
	percent    int                      // … and which value is the first
	puts       [value.Gaps]table.Number // what gaps get, where that is a number to copy
	gapCells   []gapCell
	rounded    []rounded
	currencies []money
	knownFrom  int32               // the value from which on the currency is known
	changed    []gapCell           // gaps that get a value, if their fact row is delivered
	vector     formula.Vector      // of its values, for formulas …
	ready      bool                // … if that is worked out
	opens      []int32             // values of a formula that nobody has decided yet
	empties    []emptied           // values of a formula that are empty
	made       []madeValue         // what formulas give to its gaps
	keys       keys                // of a lookup
	gaps       *learned[value.Gap] // which gap texts in a column of numbers are
}

// NewWorker returns a worker for a plan.
func NewWorker(p *plan.Plan, wants Wants) *Worker {
	return &Worker{wants: wants, memory: newMemory(), columns: make([]columnState, len(p.Columns)),
		accounts: make([]tie.Account, len(p.Columns)),
		batch:    table.Batch{Columns: make([]table.Column, len(p.Columns))}, machine: formula.NewMachine(p.Calendar)}
}

// Raw is one block of an extract for a worker: its raw text, whether it is the
// first or the last one, which of its fact rows repeat the grain, and how to read those before it once more. (A block
// before a piece only tells which rows wait.)
type Raw struct {
	table.Block
	First   bool
	Last    bool
	Before  bool // it stands before the piece of the extract that is read
	Repeats Repeats
	Again   Again
}

// Read cuts a block into rows and columns. It returns what is wrong with the raw
// text, or with its rows.
func (w *Worker) Read(p *Program, src table.Splitter, b Raw) error {
	w.program, w.repeats, w.again, w.last, w.only = p, b.Repeats, b.Again, b.Last, b.First && b.Last
	if w.notedOf != p {
		w.noted, w.notedOf, w.begun = 0, p, [512]uint64{}
	}
	w.fresh, w.applied, w.doubts = w.fresh[:0], w.applied[:0], nil
	w.unsettled = nil
	w.rows.Reset()
	if err := src.Split(b.Block, &w.rows); err != nil {
		return err
	}
	if a := p.Lineup.Entry.Area; a != nil {
		layout.Crop(&w.rows, a)
	}
	if p.fill {
		layout.Pad(&w.rows, len(p.Lineup.Header.Texts))
	}
	for w.begin = 0; w.begin < w.rows.Len() && w.rows.Lines[w.begin] <= p.Lineup.Header.Row; w.begin++ {
	}
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
	w.problems = w.sorter.Sort(w.program.Lineup, &w.rows, w.begin, w.last, &w.sorted)
	w.problems.Merge(w.wrong)
	w.used, w.widened = -1, nil
	if w.program.Lineup.Widen != nil {
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
		w.takeTotals(w.suspects)
		w.takeShortTotals()
	}
	w.readRest()
	if w.widened == nil && w.takeTotals(w.suspectCells) {
		slices.SortFunc(w.totals, func(a, b total) int { return a.Line - b.Line })
		w.readRest()
	}
	if w.widened == nil {
		w.noteAllLabels()
	}
	w.findCandidates()
	if w.widened == nil && !w.program.inTurn && w.program.compares() { // else measures may be made yet
		w.hashRows()
	}
}

// noteAllLabels lists the labels of the block that may be new.
func (w *Worker) noteAllLabels() {
	if e := w.program.Lineup.Entry; e.Footnotes == plan.Keep || e.Control { // nobody asks
		return
	}
	for _, ci := range w.program.labels {
		w.noteLabels(ci)
	}
}

// beginColumns begins the batch of the used rows.
func (w *Worker) beginColumns() {
	w.batch.Data, w.batch.Slots, w.batch.Rows = w.rows.Data, len(w.program.Slots), len(w.sorted.Used)
}

// readAllLabels reads the columns by which total rows are known, mostly.
func (w *Worker) readAllLabels() {
	for _, ci := range w.program.labels {
		w.readTexts(ci)
	}
}

// readRest reads all columns but labels and those that are made.
func (w *Worker) readRest() {
	w.hashed = false
	w.batch.Fates = resized(w.batch.Fates, w.batch.Rows*w.batch.Slots)
	clear(w.batch.Fates)
	for i := range w.program.Columns {
		switch c := &w.program.Columns[i]; {
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
	if len(w.rows.Kinds) == 0 {
		return
	}
	l := w.program.Lineup
	rows := slices.Clone(w.sorted.Used)
	for _, o := range w.sorted.Out {
		if o.Reason != layout.TotalRow || l.Entry.Totals == plan.Tie {
			rows = append(rows, int32(o.Row))
		}
	}
	slices.Sort(rows)
	for _, row := range rows {
		for j := range w.rows.Row(int(row)) {
			if w.rows.Kind(int(row), j) != table.FormulaCell || j >= len(l.Header.Texts) || slices.Contains(l.Dropped, j) ||
				l.Entry.Totals != plan.Tie && slices.ContainsFunc(l.Totals, func(t shape.Column) bool { return t.Index == j }) {
				continue
			}
			at := l.Place
			at.Row, at.Header = w.rows.Lines[row], l.Header.Name(j)
			w.problems.Add(FormulaProblem(at))
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
	w.headChanges = w.headChanges[:0]
	w.changes, w.gone, w.names, w.totals, w.empties = w.changes[:0], w.gone[:0], w.names[:0], w.totals[:0], w.empties[:0]
	w.checks, w.candidates = w.checks[:0], w.candidates[:0]
	w.strip = Strip{Hashes: w.strip.Hashes[:0]}
	w.problems, w.rowsAccount = nil, tie.Rows{}
	w.stops, w.stopped = w.stops[:0], w.stopped[:0]
	clear(w.accounts)
	for i := range w.columns {
		s := &w.columns[i]
		s.touched, s.gapCells, s.rounded, s.currencies, s.changed, s.odd = s.touched[:0], s.gapCells[:0], s.rounded[:0], s.currencies[:0],
			s.changed[:0], false
		s.asRead, s.total, s.knownFrom = nil, false, 0
		s.ready, s.opens, s.empties, s.made = false, s.opens[:0], s.empties[:0], s.made[:0]
		if w.program.Columns[i].spec.Kind.Numeric() {
			s.gaps = w.memory.gapsOf(w.program, i)
		}
	}
	w.filtered, w.passed = false, w.program.skip >= 0
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
		return w.batch.Rows
	case table.PerSlot:
		return w.batch.Slots
	case table.PerCell:
		return w.batch.Rows * w.batch.Slots
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
	return w.rows.Cells[at], true
}

// cellAt is which cell of the rows that is, -1 for none; a wide cell that the extract does
// not have is blank, and ok.
func (w *Worker) cellAt(c *column, i int) (at int, ok bool) {
	row, index := i, c.source.Index
	if !c.fromCells() {
		return -1, false
	}
	if c.level == table.PerCell {
		row, index = i/w.batch.Slots, c.cellColumn(w.program, i%w.batch.Slots)
		if index < 0 {
			return -1, true
		}
	}
	return int(w.rows.Starts[w.sorted.Used[row]]) + index, true
}

// field returns the text of a constant or of a piece of a header.
func (w *Worker) field(c *column, i int) string {
	if c.source.From == layout.Piece {
		return w.program.Slots[i].Pieces[c.spec.Name]
	}
	return c.source.Text
}

// lineOf is as LineOf of the outcome.
func (w *Worker) lineOf(ci, row int) int {
	o := Outcome{Program: w.program, Rows: &w.rows, Sorted: &w.sorted, widened: w.widened}
	return o.LineOf(ci, row)
}

// Place returns where value i of a column stands.
func (w *Worker) place(ci, i int) place.Place {
	c := &w.program.Columns[ci]
	at := w.program.Lineup.Place
	switch c.source.From {
	case layout.Label:
		at.Row = w.lineOf(ci, i)
		at.Header = w.program.header(c.source.Index)
	case layout.Section:
		at.Row = w.rows.Lines[w.sorted.Used[i]]
	case layout.WideCell:
		at.Row = w.lineOf(ci, i/w.batch.Slots)
		at.Header = w.program.CellHeader(ci, i%w.batch.Slots)
	case layout.Piece:
		at.Row = w.program.Lineup.Header.Row
		at.Header = w.program.Slots[i].Header
	case layout.Made:
		return w.placeOfMade(c, i)
	}
	return at
}

// skipBlanks passes over the fact rows of blank wide cells, if the plan says so:
// those in which every column of cells is blank.
func (w *Worker) skipBlanks() {
	if w.program.skip < 0 {
		return
	}
	w.blanks = resized(w.blanks, len(w.batch.Fates))
	clear(w.blanks)
	blank := func(at int) {
		if w.blanks[at]++; int(w.blanks[at]) == w.program.cells && !w.program.Slots[at%w.batch.Slots].Itself {
			w.batch.Fates[at] = table.Skipped
		}
	}
	for ci := range w.program.Columns {
		if w.program.Columns[ci].source.From != layout.WideCell {
			continue
		}
		s := &w.columns[ci]
		if w.program.Columns[ci].spec.Kind.Numeric() {
			for _, g := range s.gapCells {
				if g.kind == value.Blank {
					blank(int(g.at))
				}
			}
			continue
		}
		for i, code := range w.batch.Columns[ci].Codes {
			if s.texts.of(code).gap == value.Blank {
				blank(i)
			}
		}
	}
}

// HandOver settles what depends on the blocks before: rows that waited for these
// to be decided, labels that stood above, rows that repeat one, sections, values above,
// first spellings, the one currency of each column of numbers, and totals. Blocks hand
// over in the order of the fact table. An error is that of blocks before that cannot be read again.
func (w *Worker) HandOver(s *Shared) error {
	s.begin(w.program)
	w.takeTail(s)
	if err := w.takeBranches(s); err != nil {
		return err
	}
	w.takeSame(s)
	if w.program.Lineup.Widen != nil {
		w.widen(s)
	}
	for ci := range w.program.Columns {
		c := &w.program.Columns[ci]
		if c.made {
			continue
		}
		if c.source.From == layout.Section {
			w.takeHeadings(ci, s)
		}
		if c.above() {
			if c.spec.Kind.Numeric() {
				w.settleCurrency(ci, s)
				w.numbersAbove(ci, s)
			} else {
				w.textsAbove(ci, s)
			}
		}
	}
	if w.program.Plan.Rows.Only != nil && (w.program.firsts || w.program.inTurn || w.namesCurrency()) {
		w.filterInTurn(s)
	}
	for ci := range w.program.Columns {
		c := &w.program.Columns[ci]
		if c.firsts && !c.made {
			w.takeFirsts(ci, s.firsts[ci])
		}
		if !c.made {
			w.settleCurrency(ci, s)
		}
	}
	for _, ci := range w.program.Plan.Made {
		if !w.program.inTurn {
			break
		}
		w.make(ci)
		if w.program.Columns[ci].firsts {
			w.takeFirsts(ci, s.firsts[ci])
		}
		if w.program.Columns[ci].ofTexts {
			w.settleCurrency(ci, s)
		}
	}
	w.currencies = append(w.currencies[:0], s.currencies...)
	w.compareTotals(s)
	return nil
}
