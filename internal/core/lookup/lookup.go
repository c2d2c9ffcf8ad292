// Package lookup finds values in references: tables with a key of one column or more.
//
// A Table is one reference, read for one key; the columns that are looked up by that key
// share it. A Column says what one of them gets for each key: what stands in the only line
// that has it, or what the plan makes of several lines.
package lookup

import (
	"fmt"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Cell is what stands in a reference.
type Cell struct {
	Text   string // trimmed
	Stored bool   // a number that a sheet stores: written 1234.56, however the reference writes them
}

// Raw is a cell as it is read.
type Raw struct {
	Text   []byte
	Stored bool
}

// Table is a reference, read for one key. Its lines are numbers; what they have lies in
// dictionaries, so that a large reference takes little memory.
type Table struct {
	Reference *plan.Reference
	By        []plan.Paired

	keys     *table.Dict
	first    []int32 // by the code of a key: its first line, -1 for none
	key      []int32 // by line: the code of its key, -1 for none
	next     []int32 // by line: the next one of its key, -1 for none
	last     []int32 // by the code of a key: its last line
	repeated []uint32
	labels   []byte
	ends     []uint32 // by line: where its label ends
	extracts []place.Place
	extract  []int32 // by line
	rows     []int32
	cells    []column // by what is taken
	scratch  []byte
}

// column is what the lines have of one column.
type column struct {
	texts *table.Dict
	codes []uint32
}

// NewTable returns a table without lines, of which so many columns are taken.
func NewTable(of *plan.Reference, by []plan.Paired, takes int) *Table {
	t := &Table{Reference: of, By: by, keys: table.NewDict(), cells: make([]column, takes)}
	for i := range t.cells {
		t.cells[i].texts = table.NewDict()
	}
	return t
}

// AppendKey appends a further value of a kind to a key, and ok says whether it has one:
// nothing is found by a key with an empty piece.
func AppendKey(dst []byte, kind plan.Kind, text string) (k []byte, ok bool) {
	before := len(dst)
	dst = kind.AppendKey(dst, text)
	return append(dst, 0), len(dst) > before
}

// KeyOf is the key of some values of these kinds, empty where a piece is, and how a person
// reads it.
func KeyOf(kinds []plan.Kind, values []string) (k, label string) {
	var dst []byte
	all := true
	for i, v := range values {
		ok := false
		dst, ok = AppendKey(dst, kinds[i], v)
		all = all && ok
	}
	label = strings.Join(values, " | ")
	if !all {
		return "", label
	}
	return string(dst), label
}

// storedMark begins the text of a number that a sheet stores.
const storedMark = "\x01"

// Add adds a line behind the others, of an extract: its key, empty where a piece of it is,
// its label, and what stands in the cells that are taken.
func (t *Table) Add(at place.Place, k, label []byte, cells []Raw) {
	line := int32(len(t.next))
	row := at.Row
	at.Row = 0
	if n := len(t.extracts); n == 0 || t.extracts[n-1] != at {
		t.extracts = append(t.extracts, at)
	}
	t.extract, t.rows = append(t.extract, int32(len(t.extracts)-1)), append(t.rows, int32(row))
	t.labels = append(t.labels, label...)
	t.ends, t.next = append(t.ends, uint32(len(t.labels))), append(t.next, -1)
	for i, c := range cells {
		text := c.Text
		if c.Stored {
			t.scratch = append(append(t.scratch[:0], storedMark...), text...)
			text = t.scratch
		}
		code, _ := t.cells[i].texts.Code(text)
		t.cells[i].codes = append(t.cells[i].codes, code)
	}
	if len(k) == 0 {
		t.key = append(t.key, -1)
		return
	}
	code, fresh := t.keys.Code(k)
	t.key = append(t.key, int32(code))
	if fresh {
		t.first, t.last = append(t.first, line), append(t.last, line)
		return
	}
	if t.first[code] == t.last[code] {
		t.repeated = append(t.repeated, code)
	}
	t.next[t.last[code]] = line
	t.last[code] = line
}

// Len is how many lines there are.
func (t *Table) Len() int { return len(t.next) }

// Label is the key of a line, as it stands.
func (t *Table) Label(line int) string {
	from := uint32(0)
	if line > 0 {
		from = t.ends[line-1]
	}
	return string(t.labels[from:t.ends[line]])
}

// Place is that of a line.
func (t *Table) Place(line int) place.Place {
	at := t.extracts[t.extract[line]]
	at.Row = int(t.rows[line])
	return at
}

// Cell is what a line has of a column that is taken.
func (t *Table) Cell(line, take int) Cell { return t.cells[take].cell(t.cells[take].codes[line]) }

func (c *column) cell(code uint32) Cell {
	text, stored := strings.CutPrefix(c.texts.Seen(code), storedMark)
	return Cell{text, stored}
}

// Distinct are the different cells of a column that is taken.
func (t *Table) Distinct(take int) (out []Cell) {
	c := &t.cells[take]
	seen := make([]bool, c.texts.Len())
	for _, code := range c.codes {
		if !seen[code] {
			seen[code] = true
			out = append(out, c.cell(code))
		}
	}
	return out
}

// Lines are the lines that have a key; none has an empty one.
func (t *Table) Lines(k string) (out []int32) {
	code, ok := t.keys.Find([]byte(k))
	if !ok {
		return nil
	}
	return t.linesOf(code)
}

func (t *Table) linesOf(code uint32) (out []int32) {
	for line := t.first[code]; line >= 0; line = t.next[line] {
		out = append(out, line)
	}
	return out
}

// LinesOfKey are the lines that have the key of a line; none where its key has an empty piece.
func (t *Table) LinesOfKey(line int) []int32 {
	if t.key[line] < 0 {
		return nil
	}
	return t.linesOf(uint32(t.key[line]))
}

// Repeats are, of each line, whether another one before it has its key.
func (t *Table) Repeats() []bool {
	out := make([]bool, t.Len())
	for _, code := range t.repeated {
		for _, line := range t.linesOf(code)[1:] {
			out[line] = true
		}
	}
	return out
}

// Value is what a column gets for a key.
type Value struct {
	Cell
	Lines []int32 // of the table
	At    int32   // the one in which the cell stands

	sum    value.Decimal // of the lines,
	summed bool          // in place of the cell
}

// Column is a column of the fact table that is looked up.
type Column struct {
	Table  *Table
	First  bool // it speaks for all columns that share the table
	Spec   *plan.Column
	Take   int    // which of the cells of a line
	Header string // what the reference calls them

	currency string            // of its numbers; empty where none has one
	several  map[string]*Value // of keys that stand in several lines
}

// Found is the number that is found, or which gap stands there.
func (c *Column) Found(v *Value) (d value.Decimal, gap value.Gap) {
	if v.summed {
		return v.sum, value.NoGap
	}
	return c.number(v.Cell)
}

// NumberIn is the number in a line, or which gap stands there.
func (c *Column) NumberIn(line int) (d value.Decimal, gap value.Gap) {
	return c.number(c.Table.Cell(line, c.Take))
}

// number is the number in a cell, or which gap the cell is. The first currency of the column
// is that of all.
func (c *Column) number(cell Cell) (d value.Decimal, gap value.Gap) {
	words, text := c.Spec.Words, cell.Text
	if text == "" {
		return d, value.Blank
	}
	if gap = words.TextGap(text); gap != value.NoGap && gap != value.Text { // a text as far as it goes
		return d, gap
	}
	if c.Spec.Read != nil {
		piece, ok := c.Spec.Read.Piece(text)
		if !ok {
			return d, words.GapOf(text)
		}
		text = piece
	}
	reading := &c.Table.Reference.Entry.Reading
	if cell.Stored {
		reading = &value.Default
	}
	d, currency, ok := reading.Number([]byte(text))
	switch {
	case !ok:
		return d, words.GapOf(text)
	case currency != "" && c.currency == "":
		c.currency = currency
	case currency != "" && currency != c.currency:
		return d, value.Unclear
	}
	if c.Spec.Kind == plan.Whole && d.Shorten().Places() > 0 {
		return d, value.Unclear
	}
	return d, value.NoGap
}

// NewColumn makes ready what a column gets for each key. Keys that stand in several lines
// are problems where the plan does not say what becomes of them, or cannot do it.
func NewColumn(t *Table, spec *plan.Column, take int, header string) (*Column, place.List) {
	c := &Column{Table: t, Spec: spec, Take: take, Header: header, several: map[string]*Value{}}
	if c.currency = spec.Currency; spec.Kind.Numeric() && c.currency == "" {
		for _, cell := range t.Distinct(take) {
			if c.number(cell); c.currency != "" {
				break
			}
		}
	}
	var problems place.List
	for _, code := range t.repeated {
		lines := t.linesOf(code)
		v := &Value{Cell: t.Cell(int(lines[0]), take), Lines: lines, At: lines[0]}
		switch spec.Lookup.Repeats {
		case plan.First:
			v.Lines = lines[:1]
		case plan.Sum:
			if text := c.sum(v); text != "" {
				problems.Add(c.problem("lines of one key cannot be added up in column "+spec.Name, lines, text))
			}
		default:
			problems.Add(c.problem("a key stands twice in the reference "+t.Reference.Name, lines, ""))
		}
		c.several[t.keys.Seen(code)] = v
	}
	return c, problems
}

// Find returns what the column gets for a key, nil for nothing.
func (c *Column) Find(k string) *Value {
	if v := c.several[k]; v != nil {
		return v
	}
	lines := c.Table.Lines(k)
	if len(lines) == 0 {
		return nil
	}
	return &Value{Cell: c.Table.Cell(int(lines[0]), c.Take), Lines: lines, At: lines[0]}
}

// sum adds the lines of a key up; it returns why it cannot.
func (c *Column) sum(v *Value) (why string) {
	if !c.Spec.Kind.Numeric() {
		for _, i := range v.Lines[1:] {
			if other := c.Table.Cell(int(i), c.Take).Text; !key.Same(other, v.Text) {
				return fmt.Sprintf("%q and %q", v.Text, other)
			}
		}
		return ""
	}
	var sum value.Sum
	for _, i := range v.Lines {
		cell := c.Table.Cell(int(i), c.Take)
		d, gap := c.number(cell)
		switch rule := &c.Spec.Gaps[gap]; {
		case gap == value.NoGap:
			sum.Add(d)
		case rule.Remedy == plan.Leave:
		case rule.Remedy == plan.Put && rule.Formula == nil:
			sum.Add(rule.Number)
		default: // what becomes of it becomes of all
			v.Cell, v.At = cell, i
			return ""
		}
	}
	if !sum.Empty() { // lines that all are left empty stay so
		v.sum, v.summed = sum.Total(), true
	}
	return ""
}

func (c *Column) problem(message string, lines []int32, text string) place.Problem {
	t, first, again := c.Table, int(lines[0]), int(lines[1])
	if text == "" {
		if text = "the same value"; !key.Same(t.Cell(first, c.Take).Text, t.Cell(again, c.Take).Text) {
			text = fmt.Sprintf("%q, here %q", t.Cell(first, c.Take).Text, t.Cell(again, c.Take).Text)
		}
	}
	p := place.At(t.Place(again), "repeated key", "%s", message).ByRule()
	p.Column, p.Plan, p.Count = c.Spec.Name, c.Spec.Lookup.Pos, len(lines)-1
	p.Texts = []string{fmt.Sprintf("%s, first %s: %s", t.Label(first), t.Place(first), text)}
	p.Add, p.Advice = "repeats: first", "or repeats: sum; or mend the reference, so that each key stands once"
	return p
}
