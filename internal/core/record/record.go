// Package record writes the record of a build: what was read, changed, held,
// left out and compared, as comma text files.
package record

import (
	"strconv"

	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/since"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
)

// The files of the record.
const (
	RowsFile      = "rows.csv"
	ChangesFile   = "changes.csv"
	NamesFile     = "names.csv"
	HeldFile      = "held.csv"
	LeftOutFile   = "left_out.csv"
	TiesFile      = "ties.csv"
	ChecksFile    = "checks.csv"
	UnmatchedFile = "unmatched.csv"
	SinceFile     = "since.csv"
	BuildFile     = "build.json"
)

// files are all of them, with the header of those that are comma text. build.json goes
// first and comes last, so that no record is ever taken for another build's.
var files = []struct {
	name   string
	header []string
}{
	{RowsFile, append([]string{"file", "sheet"}, tie.RowsHeader...)},
	{ChangesFile, []string{"file", "sheet", "row", "header", "column", "kind", "before", "after"}},
	{NamesFile, []string{"column", "seen", "standard", "how", "cells"}},
	{HeldFile, []string{"file", "sheet", "row", "header", "column", "reason", "cells"}},
	{LeftOutFile, []string{"file", "sheet", "row", "header", "reason"}},
	{TiesFile, []string{"tie", "measure", "extracts", "changed", "fact", "held", "left_out", "difference"}},
	{ChecksFile, []string{"check", "file", "sheet", "row", "header", "group", "measure", "said", "have", "difference"}},
	{UnmatchedFile, []string{"reference", "side", "key", "rows", "nearest"}},
	{SinceFile, since.ChangeHeader},
	{BuildFile, nil},
}

// Names are the names of the files of a record.
func Names() (out []string) {
	for _, f := range files {
		out = append(out, f.name)
	}
	return out
}

func headerOf(file string) []string {
	for _, f := range files {
		if f.name == file {
			return f.header
		}
	}
	return nil
}

// Extract is the account of one extract.
type Extract struct {
	File, Sheet string
	Rows        tie.Rows
	Accounts    map[int]*tie.Account // by column of the plan, of those that are in use
	Measures    []int                // the columns it has amounts of
}

// Account is that of a column, to be changed.
func (e *Extract) Account(column int) *tie.Account {
	a := e.Accounts[column]
	if a == nil {
		if e.Accounts == nil {
			e.Accounts = map[int]*tie.Account{}
		}
		a = &tie.Account{}
		e.Accounts[column] = a
	}
	return a
}

// Name is what ties.csv calls the extract.
func (e *Extract) Name() string {
	if e.Sheet != "" {
		return e.File + ", sheet " + e.Sheet
	}
	return e.File
}

// AppendRows appends the extract's line of rows.csv.
func AppendRows(dst []byte, e *Extract) []byte {
	line := []string{e.File, e.Sheet}
	for _, n := range e.Rows.List() {
		line = append(line, strconv.Itoa(n))
	}
	return table.AppendLine(dst, line...)
}

// AppendTies appends the extract's lines of ties.csv.
func AppendTies(dst []byte, p *plan.Plan, e *Extract) []byte {
	for _, m := range e.Measures {
		t := e.Account(m).Totals()
		dst = table.AppendLine(dst, e.Name(), p.Columns[m].Name, t.Read.String(), t.Changed.String(), t.Fact.String(),
			t.Held.String(), t.LeftOut.String(), t.Difference.String())
	}
	return dst
}

// AppendCheck appends a line of checks.csv.
func AppendCheck(dst []byte, p *plan.Plan, file, sheet string, c tie.Check) []byte {
	return table.AppendLine(dst, c.Kind.String(), file, sheet, strconv.Itoa(c.Row), c.Header, "", p.Columns[c.Column].Name,
		c.Said.String(), c.Have.String(), c.Difference().String())
}

// AppendControl appends the line of a control total; said is empty where the
// control file does not have the group.
func AppendControl(dst []byte, p *plan.Plan, at place.Place, group string, c tie.Check, listed bool) []byte {
	row, said := "", ""
	if listed {
		row, said = strconv.Itoa(c.Row), c.Said.String()
	}
	return table.AppendLine(dst, c.Kind.String(), at.File, at.Sheet, row, c.Header, group, p.Columns[c.Column].Name, said, c.Have.String(),
		c.Difference().String())
}

// AppendName appends a line of names.csv.
func AppendName(dst []byte, p *plan.Plan, s *names.Seen) []byte {
	return table.AppendLine(dst, p.Columns[s.Column].Name, s.Text, s.Standard, s.How.String(), strconv.Itoa(s.Cells))
}

// Encoder writes what a block adds to the record. Each worker has its own.
type Encoder struct {
	program *treat.Program
	place   string     // file,sheet,
	cells   [][]string // by column of the plan and slot: header,column, of the cell
	labels  []string   // by column of the plan: the same of a label
	slots   []string   // by slot: its header, quoted
	scratch []byte
}

// begin prepares what is the same for all lines of an extract.
func (e *Encoder) begin(w *treat.Outcome) {
	if e.program == w.Program {
		return
	}
	e.program = w.Program
	at := w.Program.Lineup.Place
	e.place = table.Quoted(at.File) + "," + table.Quoted(at.Sheet) + ","
	e.cells, e.labels, e.slots = e.cells[:0], e.labels[:0], e.slots[:0]
	for _, s := range w.Program.Slots {
		e.slots = append(e.slots, table.Quoted(s.Header))
	}
	for ci, c := range w.Program.Plan.Columns {
		name := "," + table.Quoted(c.Name) + ","
		e.labels = append(e.labels, table.Quoted(w.Program.LabelHeader(ci))+name)
		cells := make([]string, len(e.slots))
		for slot := range cells {
			cells[slot] = table.Quoted(w.Program.CellHeader(ci, slot)) + name
		}
		e.cells = append(e.cells, cells)
	}
}

// row appends file, sheet and the number of a row of the batch.
func (e *Encoder) row(dst []byte, w *treat.Outcome, row int) []byte {
	dst = append(dst, e.place...)
	return strconv.AppendInt(dst, int64(w.Line(row)), 10)
}

// Changes appends the block's lines of changes.csv.
func (e *Encoder) Changes(dst []byte, w *treat.Outcome) []byte {
	e.begin(w)
	for i := range w.Changes {
		c := &w.Changes[i]
		dst = append(dst, e.place...)
		dst = strconv.AppendInt(dst, int64(w.LineOf(int(c.Column), int(c.Row))), 10)
		dst = e.change(dst, w, c)
	}
	return dst
}

// HeadChange appends the line of changes.csv of a value that stands above the rows: in the
// header row, or nowhere in the extract.
func (e *Encoder) HeadChange(dst []byte, w *treat.Outcome, c *treat.Change) []byte {
	e.begin(w)
	dst = append(dst, e.place...)
	if c.Slot >= 0 {
		dst = strconv.AppendInt(dst, int64(w.Program.Lineup.Header.Row), 10)
	}
	return e.change(dst, w, c)
}

// change appends what stands behind the row number of a change.
func (e *Encoder) change(dst []byte, w *treat.Outcome, c *treat.Change) []byte {
	dst = append(dst, ',')
	if c.Slot >= 0 {
		dst = append(dst, e.cells[c.Column][c.Slot]...)
	} else {
		dst = append(dst, e.labels[c.Column]...)
	}
	dst = append(dst, c.KindName()...)
	dst = append(dst, ',')
	dst = table.AppendQuoted(dst, w.Rows.Text(c.Cell))
	dst = append(dst, ',')
	return append(w.AppendAfter(dst, c), '\n')
}

// Held appends the block's lines of held.csv.
func (e *Encoder) Held(dst []byte, w *treat.Outcome) []byte {
	e.begin(w)
	for _, g := range w.Gone {
		if g.Fate != table.Held {
			continue
		}
		row, slot := int(g.Index)/w.Batch.Slots, int(g.Index)%w.Batch.Slots
		dst = append(dst, e.place...)
		dst = append(strconv.AppendInt(dst, int64(w.LineOf(int(g.Column), row)), 10), ',')
		dst = append(dst, e.cells[g.Column][slot]...)
		dst = append(dst, table.Quoted(g.Reason)...)
		dst = append(dst, ',')
		e.scratch = appendJSON(e.scratch[:0], w, row)
		dst = table.AppendQuoted(dst, e.scratch)
		dst = append(dst, '\n')
	}
	return dst
}

// appendJSON appends the cells of a row, as read, as a JSON array.
func appendJSON(dst []byte, w *treat.Outcome, row int) []byte {
	dst = append(dst, '[')
	for i, c := range w.Rows.Row(int(w.Sorted.Used[row])) {
		if i > 0 {
			dst = append(dst, ", "...)
		}
		dst = appendJSONText(dst, string(w.Rows.Text(c)))
	}
	return append(dst, ']')
}

func appendJSONText(dst []byte, s string) []byte {
	const hex = "0123456789abcdef"
	dst = append(dst, '"')
	for _, r := range s {
		switch {
		case r == '"' || r == '\\':
			dst = append(dst, '\\', byte(r))
		case r == '\n':
			dst = append(dst, `\n`...)
		case r == '\r':
			dst = append(dst, `\r`...)
		case r == '\t':
			dst = append(dst, `\t`...)
		case r < ' ':
			dst = append(dst, `\u00`...)
			dst = append(dst, hex[r>>4], hex[r&15])
		default:
			dst = append(dst, string(r)...)
		}
	}
	return append(dst, '"')
}

// LeftOut appends the block's lines of left_out.csv: rows that were not used
// and fact rows that were skipped or dropped, as they follow each other.
func (e *Encoder) LeftOut(dst []byte, w *treat.Outcome) []byte {
	e.begin(w)
	out := w.Sorted.Out
	upTo := func(row int) {
		for len(out) > 0 && out[0].Row < row {
			dst = append(dst, e.place...)
			dst = strconv.AppendInt(dst, int64(w.Rows.Lines[out[0].Row]), 10)
			dst = append(dst, ",,"...)
			dst = append(dst, out[0].Reason.String()...)
			dst = append(dst, '\n')
			out = out[1:]
		}
	}
	for _, g := range w.Gone {
		if g.Fate == table.Held || g.Fate == table.Summed {
			continue
		}
		row, slot := int(g.Index)/w.Batch.Slots, int(g.Index)%w.Batch.Slots
		upTo(int(w.Sorted.Used[row]))
		dst = append(e.row(dst, w, row), ',')
		dst = append(dst, e.slots[slot]...)
		dst = append(dst, ',')
		dst = append(dst, g.Fate.String()...)
		dst = append(dst, '\n')
	}
	upTo(w.Rows.Len())
	return dst
}
