package treat

import (
	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Outcome is what became of a block: its fact rows, and all that is told of them. It is
// good until its worker reads the next block; nobody changes it.
type Outcome struct {
	Program     *Program
	Rows        *table.Rows    // of the extract
	Sorted      *layout.Sorted // which of these are used, and what the others are
	Batch       *table.Batch
	Changes     []Change      // in the order of the fact table
	HeadChanges []Change      // the same of values that stand above the rows, once an extract or wide column
	Gone        []Row         // fact rows not delivered, in the order of the fact table
	Names       []names.Seen  // of the block
	Accounts    []tie.Account // by column; only those of measures are filled
	Account     tie.Rows
	Checks      []tie.Check // figures of totals that were compared
	Strip       *Strip      // what is left open, where the extract is read in pieces; nil else
	Applied     []int       // corrections of the block that stand in the place of their cells
	Empties     []Emptied   // values that formulas leave empty
	Lookups     []LookedUp  // keys that were looked up
	Asked       []AskedLine // lines of references that were asked for
	Gaps        []GapCell   // if they are wanted
	Currencies  []string    // by column: the one of its numbers, as far as one was seen
	Places      []Places    // decimal signs in the cells of amounts
	Problems    place.List
	Doubts      place.List  // what a person should look at, though nothing stops
	Unsettled   []Unsettled // of totals

	widened [][]int
	stopped []bool
}

// Unsettled is the currency of a total that was compared while that of its measure was not known: had it been, they may differ.
type Unsettled struct {
	Column   int
	Currency string
}

// Wants are what a worker finds out only if somebody asks.
type Wants struct {
	Gaps  bool // each cell without a usable value
	Where bool // of each name where it stands first, and in which years
}

func (w *Worker) outcome() *Outcome {
	w.became = Outcome{
		Program: w.program, Rows: &w.rows, Sorted: &w.sorted, Batch: &w.batch,
		Changes: w.changes, HeadChanges: w.headChanges, Gone: w.gone, Names: w.names,
		Accounts: w.accounts, Account: w.rowsAccount, Checks: w.checks, Applied: w.applied,
		Empties: w.empties, Currencies: w.currencies, Lookups: w.lookedUp, Asked: w.asked, Gaps: w.gaps, Places: w.placesOf(),
		Problems: w.problems, Doubts: w.doubts, Unsettled: w.unsettled,
		widened: w.widened, stopped: w.stopped,
	}
	if w.program.Cut {
		w.strip.Columns, w.became.Checks = w.checks, nil
		w.became.Strip = &w.strip
	}
	return &w.became
}

// Line is the line of the extract in which a row of the batch stands.
func (o *Outcome) Line(row int) int { return o.Rows.Lines[o.Sorted.Used[row]] }

// LineOf is the line that the cell of a column stands in, in a row of the batch.
func (o *Outcome) LineOf(ci, row int) int {
	c := &o.Program.Columns[ci]
	if o.widened == nil {
		return o.Line(row)
	}
	which := -1
	switch first := len(o.Program.Lineup.Header.Texts); {
	case c.source.From == layout.WideCell:
		which = c.source.Index
	case c.source.From == layout.Label:
		which = c.source.Index - first
	}
	if which >= 0 && o.widened[row][which] > 0 {
		return o.widened[row][which]
	}
	return o.Line(row)
}

// Stopped reports whether a rule stops a fact row: it has no value to compare.
func (o *Outcome) Stopped(at int) bool { return len(o.stopped) > 0 && o.stopped[at] }

// Delivered goes through the fact rows that are delivered: their row and slot.
func (o *Outcome) Delivered(yield func(row, slot int) bool) { o.Batch.Delivered(yield) }

// AppendAfter appends the text of a value that was changed, quoted where a comma text needs it.
func (o *Outcome) AppendAfter(dst []byte, c *Change) []byte {
	if c.summed {
		return append(dst, o.Rows.Text(c.after)...)
	}
	col := &o.Batch.Columns[c.Column]
	at := col.At(int(c.Row), max(0, int(c.Slot)), o.Batch.Slots)
	if col.Texts != nil {
		return append(dst, col.Texts.Quoted(col.Codes[at])...)
	}
	return o.Batch.AppendNumber(dst, col, at)
}

// Repeats say what becomes of fact rows whose grain stands again.
type Repeats struct {
	// Fate is that of the fact row of a line and slot, which are asked for in order.
	Fate func(line, slot int) table.Fate
	// Sums are what a row gets for its measures where it stands for others; nil where it does
	// not.
	Sums func(line, slot int) []Summed
}

// Summed is what the rows of one grain have of a measure.
type Summed struct {
	Column int // of the plan
	Sum    value.Sum
	Filled bool // one of them has a value
}
