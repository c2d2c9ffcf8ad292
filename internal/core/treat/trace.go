package treat

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"umbau/internal/core/layout"
	"umbau/internal/core/lookup"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// From a fact row back to the cells that it was made of.

// Traced is a cell that a value of a fact row was made of.
type Traced struct {
	At     place.Place
	Column int    // of the plan: whose value was read there
	Read   string // what stood there
	Became string // the value of the column
	Rule   string // of the plan that made it another one, "" for none
	Line   int    // of the rule in the plan
	Above  bool   // the value is that of a cell above, in the same column of the extract
	Slot   int    // of that column; -1 where it is no wide one
}

// trail is a walk from a fact row to its cells.
type trail struct {
	*Outcome
	row, slot int
	seen      []bool
	cells     []Traced
}

// Trace lists the cells that a fact row was made of, column by column in the plan's order, those that
// a column is made of before others; each column once.
func (o *Outcome) Trace(row, slot int) []Traced {
	t := &trail{Outcome: o, row: row, slot: slot, seen: make([]bool, len(o.Program.Columns))}
	for ci, c := range o.Program.Plan.Columns {
		if c.Kept {
			t.visit(ci)
		}
	}
	return t.cells
}

func (t *trail) visit(ci int) {
	if t.seen[ci] {
		return
	}
	t.seen[ci] = true
	c := &t.Program.Columns[ci]
	for _, need := range c.needs {
		t.visit(need)
	}
	change, changed := t.change(ci)
	if changed && change.Kind < value.Gaps {
		for _, need := range c.puts[change.Kind] {
			t.visit(need)
		}
	}
	cell := Traced{At: t.Program.Lineup.Place, Column: ci, Slot: -1, Became: t.text(ci)}
	switch {
	case c.lookup != nil:
		t.lookUp(ci, cell)
		return
	case c.fromCells():
		i := c.cellColumn(t.Program, t.slot)
		if i < 0 && !changed {
			return
		}
		if c.level == table.PerCell {
			cell.Slot = t.slot
		}
		if cell.At.Row = t.LineOf(ci, t.row); i < 0 { // a rule put something where the extract has no cell
			break
		}
		cell.At.Header = t.Program.header(i)
		if cells := t.Rows.Row(int(t.Sorted.Used[t.row])); i < len(cells) {
			cell.Read = string(t.Rows.Text(cells[i]))
		}
	case c.source.From == layout.Section:
		cell.At.Row, cell.Read = t.heading()
	case c.source.From == layout.Piece:
		header := t.Program.Slots[t.slot]
		cell.At.Row, cell.At.Header, cell.Read = t.Program.Lineup.Header.Row, header.Header, header.Pieces[c.spec.Name]
	case len(c.needs) == 1 && c.spec.Formula == nil && c.spec.Marks == "":
		t.madeOfOne(ci, cell)
		return
	default:
		return
	}
	if c.measure && t.Program.Plan.Rows.Repeats == plan.Sum {
		t.beforeSum(&cell, c, change, changed)
	}
	t.rule(&cell, c, change, changed)
	t.cells = append(t.cells, cell)
}

// madeOfOne adds the cell of the column that a column is made of alone, where a rule of its own made another value of that.
func (t *trail) madeOfOne(ci int, cell Traced) {
	c := &t.Program.Columns[ci]
	k := slices.IndexFunc(t.cells, func(of Traced) bool { return of.Column == c.needs[0] })
	if k < 0 || c.spec.Measure() && t.Program.Plan.Rows.Repeats == plan.Sum { // else it may be the sum of several rows
		return
	}
	cell.At, cell.Slot, cell.Read = t.cells[k].At, t.cells[k].Slot, t.cells[k].Read
	change, changed := t.change(ci)
	t.rule(&cell, c, change, changed)
	if cell.Above = false; cell.Rule != "" {
		t.cells = append(t.cells, cell)
	}
}

// beforeSum takes for what a cell became the figure that it had before the row got the sum of others.
func (t *trail) beforeSum(cell *Traced, c *column, change *Change, changed bool) {
	if changed && change.summed {
		cell.Became = strings.Trim(string(t.Rows.Text(change.after)), `"`)
		return
	}
	if d, _, ok := c.reading.Number([]byte(cell.Read)); ok && !changed {
		cell.Became = c.fit(d).String()
	}
}

// text is what the fact row has in a column.
func (t *trail) text(ci int) string {
	return string(t.Batch.AppendText(nil, &t.Batch.Columns[ci], t.row, t.slot))
}

// heading is the section row above, with the row 0 where a block before has it.
func (t *trail) heading() (line int, text string) {
	for _, h := range t.Sorted.Headings {
		if h.Used > t.row {
			break
		}
		text = h.Text
	}
	for _, o := range t.Sorted.Out {
		if o.Reason == layout.SectionRow && o.Row < int(t.Sorted.Used[t.row]) {
			line = t.Rows.Lines[o.Row]
		}
	}
	return line, text
}

// change is what changed the value of a column in the fact row.
func (t *trail) change(ci int) (c *Change, ok bool) {
	fits := func(c *Change) bool { return int(c.Column) == ci && (c.Slot < 0 || int(c.Slot) == t.slot) }
	for i := range t.HeadChanges {
		if fits(&t.HeadChanges[i]) {
			return &t.HeadChanges[i], true
		}
	}
	first := sort.Search(len(t.Changes), func(i int) bool { return int(t.Changes[i].Row) >= t.row })
	for i := first; i < len(t.Changes) && int(t.Changes[i].Row) == t.row; i++ {
		if fits(&t.Changes[i]) {
			return &t.Changes[i], true
		}
	}
	return nil, false
}

// rule says which rule of the plan made another value of what stood in a cell.
func (t *trail) rule(cell *Traced, c *column, change *Change, changed bool) {
	kind, gapped := value.NoGap, false
	switch {
	case changed && change.Kind == Corrected:
		cell.Read, cell.Rule, cell.Line = string(t.Rows.Text(change.Cell)), "correction", t.Program.Plan.CorrectionsPos.Line
		return
	case changed && change.Kind == value.NoGap:
		cell.Rule, cell.Line = fmt.Sprintf("decimals: %d", c.decimals()), c.spec.Pos.Line
		return
	case changed:
		kind, gapped = change.Kind, true
	case cell.Became == "" && c.fromCells():
		kind = c.spec.Words.TextGap(strings.TrimSpace(cell.Read))
		if kind == value.NoGap {
			kind = c.spec.Words.GapOf(strings.TrimSpace(cell.Read))
		}
		gapped = true
	}
	if gapped && kind < value.Gaps {
		rule := c.spec.Gaps[kind]
		if word := rule.Word(); word != nil {
			cell.Rule, cell.Line = *word, rule.Pos.Line
		}
		cell.Above = changed && rule.Remedy == plan.Above
		return
	}
	if cell.Became != "" && cell.Became != cell.Read {
		t.textRule(cell, c)
	}
}

// textRule says which rule of the plan wrote a text otherwise: a book, its rule for unknown names, the case, the spelling that came
// first, or the piece that is read.
func (t *trail) textRule(cell *Traced, c *column) {
	out := &t.Batch.Columns[cell.Column]
	seen, line := strings.TrimSpace(cell.Read), c.spec.Pos.Line
	if out.Texts != nil {
		seen = value.TrimText(out.Texts.Seen(out.Codes[out.At(t.row, t.slot, t.Batch.Slots)]))
	}
	kept := seen
	if c.spec.Read != nil {
		if piece, ok := c.spec.Read.Piece(seen); ok {
			kept = piece
		}
	}
	inBook := false
	if c.book != nil {
		_, _, inBook = c.book.Find(kept)
	}
	switch text := c.spec.Kind == plan.Name || c.spec.Kind == plan.Text; {
	case text && cell.Became == kept, !text:
		if kept != seen {
			cell.Rule, cell.Line = "read: "+c.spec.Read.String(), line
		}
	case inBook:
		cell.Rule, cell.Line = "book "+c.spec.Book, line
	case c.book != nil && c.spec.Unknown.Remedy == plan.Put:
		cell.Rule, cell.Line = "unknown: "+c.spec.Unknown.Text, c.spec.Unknown.Pos.Line
	case c.spec.Case != plan.AsSeen && cased(c.spec.Case, kept) == cell.Became:
		cell.Rule, cell.Line = "case", line
	case c.spec.Kind == plan.Name:
		cell.Rule, cell.Line = "spelling", line
	}
}

// lookUp adds the cells of the reference that a column was looked up in.
func (t *trail) lookUp(ci int, cell Traced) {
	c := &t.Program.Columns[ci]
	var values []string
	for _, need := range c.needs {
		values = append(values, t.text(need))
	}
	of := c.lookup.Table
	cell.Rule, cell.Line = "lookup "+of.Reference.Name, c.spec.Pos.Line
	k, _ := lookup.KeyOf(c.keyKinds, values)
	found := c.lookup.Find(k)
	if found == nil {
		return
	}
	for _, line := range found.Lines {
		cell.At = of.Place(int(line))
		cell.At.Header = c.lookup.Header
		cell.Read = of.Cell(int(line), c.lookup.Take).Text
		t.cells = append(t.cells, cell)
	}
}

// Reading above: which cell gave its value to gaps below it.

// AboveOf are the columns of which gaps take the value above.
func (o *Outcome) AboveOf() (out []int) {
	for ci := range o.Program.Columns {
		if o.Program.Columns[ci].above() {
			out = append(out, ci)
		}
	}
	return out
}

// Gives reports whether the cell of a column in a row has a value that gaps below it may take, and
// where it stands.
func (o *Outcome) Gives(ci, row, slot int) (t Traced, ok bool) {
	c := &o.Program.Columns[ci]
	i := c.cellColumn(o.Program, slot)
	cells := o.Rows.Row(int(o.Sorted.Used[row]))
	if i < 0 || i >= len(cells) {
		return t, false
	}
	text := value.Trim(o.Rows.Text(cells[i]))
	if c.spec.Kind.Numeric() {
		_, _, ok = c.reading.Number(text)
	} else {
		ok = c.spec.Words.TextGap(string(text)) == value.NoGap
	}
	if !ok {
		return t, false
	}
	at := o.Program.Lineup.Place
	at.Row, at.Header = o.LineOf(ci, row), o.Program.header(i)
	t = Traced{At: at, Column: ci, Read: string(text), Slot: -1}
	if c.level == table.PerCell {
		t.Slot = slot
	}
	return t, true
}
