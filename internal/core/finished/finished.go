// Package finished reads finished tables: a header, and rows of facts below it.
//
// A Table is opened once: its header is read, and the kind of each column is that of the
// plan that delivered it, or the one that reads all its values. A View is what is asked of
// it: some of its columns, formulas of them, groups of their values. It is read as extracts
// are, by a pass; keepers look at its blocks, in which column i of the view is column i of
// the batch.
package finished

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Mistake is what is wrong with what is asked of a table.
type Mistake struct{ Text string }

// Error implements error.
func (m *Mistake) Error() string { return m.Text }

func mistake(format string, args ...any) *Mistake { return &Mistake{fmt.Sprintf(format, args...)} }

// Options are how tables are read.
type Options struct {
	Formats  *table.Formats
	Workers  int
	Progress func(done, all int64)
	// Of is the plan whose delivery the table is: its columns are what they are there. Nil
	// for any table.
	Of *plan.Plan
}

// Column is a column of a table.
type Column struct {
	Name     string
	Kind     plan.Kind
	Decimals int  // of a number, -1 for as many as it has
	Places   int  // the most that one of its numbers has, as far as it was looked at
	Add      bool // a number that may be added up
	Left     bool // where it is empty a plan has left it so
}

// Table is a finished table.
type Table struct {
	Name    string // as it was asked for
	Columns []Column

	options Options
	input   *pass.Input
	header  plan.Header
}

// Open opens a table: a file, or a sheet of a workbook as out/sales.xlsx#Sales. The error
// is a place.List where the table cannot be read, or is none.
func Open(ctx context.Context, name string, o Options) (*Table, error) {
	t, names, err := begin(name, o)
	if err != nil {
		return nil, err
	}
	if err := t.setColumns(ctx, names); err != nil {
		return nil, err
	}
	return t, nil
}

// Headers are the headers of a table, of which nothing else is read, and its size in bytes.
func Headers(name string, o Options) (headers []string, size int64, err error) {
	t, headers, err := begin(name, o)
	if err != nil {
		return nil, 0, err
	}
	return headers, t.input.Table.Size, nil
}

// begin finds a table and reads its header.
func begin(name string, o Options) (*Table, []string, error) {
	t := &Table{Name: plan.Shown(name), options: o}
	in, err := find(name, o)
	if err != nil {
		return nil, nil, err
	}
	t.input = in
	names, err := t.readHeader()
	if err != nil {
		return nil, nil, place.List{table.Problem(t.input.Place(), err)}
	}
	return t, names, nil
}

// find finds a table: a file, a sheet of one, or a table of a database.
func find(name string, o Options) (*pass.Input, error) {
	file, sheet := name, ""
	if i := strings.LastIndexByte(name, '#'); i > 0 {
		if _, err := os.Stat(name); err != nil {
			file, sheet = name[:i], name[i+1:]
		}
	}
	if plan.IsAddress(file) {
		return findInDatabase(file, sheet, o)
	}
	if _, problem := pass.Inspect(&plan.Plan{}, file); problem != nil {
		if _, err := os.Stat(file); errors.Is(err, os.ErrNotExist) {
			problem.What, problem.Message = "no file", "there is no such file"
		}
		return nil, place.List{*problem}
	}
	tables, err := o.Formats.Look(file)
	if err != nil {
		return nil, place.List{table.Problem(place.Place{File: file}, err)}
	}
	one, err := choose(tables, file, sheet, o.Of != nil)
	if err != nil {
		return nil, err
	}
	return &pass.Input{Path: file, File: file, Sheet: one.Sheet, Table: *one}, nil
}

func findInDatabase(name, sheet string, o Options) (*pass.Input, error) {
	shown := plan.Shown(name)
	address, err := plan.Address(name)
	if err != nil {
		return nil, err
	}
	var all []string
	tables, err := o.Formats.LookIn(address, "", func(name string) bool {
		all = append(all, name)
		return name == sheet || sheet == ""
	})
	if err != nil {
		return nil, place.List{table.Problem(place.Place{File: shown}, err)}
	}
	if len(tables) != 1 {
		p := place.At(place.Place{File: shown}, "no sheet", "the database has no table %q", sheet)
		if sheet == "" {
			p = place.At(place.Place{File: shown}, "no sheet", "the database has %d tables", len(all))
		}
		p.Advice = "name one of them, as in " + shown + "#sales; it has " + place.Shorten(strings.Join(all, ", "))
		return nil, place.List{p}
	}
	return &pass.Input{Path: shown, File: shown, Sheet: tables[0].Sheet, Table: tables[0]}, nil
}

// choose finds the sheet that is meant: of one that is not named, the only one in sight, or
// the first of a delivery.
func choose(tables []table.Table, file, sheet string, delivered bool) (*table.Table, error) {
	var names []string
	var found []*table.Table
	for i := range tables {
		one := &tables[i]
		if sheet != "" && key.Same(one.Sheet, sheet) || sheet == "" && !one.Hidden {
			found = append(found, one)
		}
		if !one.Hidden {
			names = append(names, one.Sheet)
		}
	}
	if len(found) == 1 || len(found) > 1 && sheet == "" && delivered { // the second one says what the first is
		return found[0], nil
	}
	what, text := "no sheet", fmt.Sprintf("the file has no sheet %q; it has %s", sheet, place.Shorten(strings.Join(names, ", ")))
	if sheet == "" {
		text = fmt.Sprintf("the file has %d tables: %s", len(found), place.Shorten(strings.Join(names, ", ")))
	}
	p := place.At(place.Place{File: file}, what, "%s", text)
	p.Advice = "name one of them, as in " + file + "#" + tables[0].Sheet
	return nil, place.List{p}
}

// window is how many rows tell how wide a table is.
const window = 200

// readHeader finds the header: the first row that is not blank, unless it has so few cells
// that it is a title; then the one that is likely.
func (t *Table) readHeader() ([]string, error) {
	src, err := t.input.Table.Open(table.Reading{})
	if err != nil {
		return nil, err
	}
	defer src.Close()
	block, err := src.Next(nil)
	if err == io.EOF {
		return nil, &table.FileError{Text: "the file is empty"}
	}
	if err != nil {
		return nil, err
	}
	var rows table.Rows
	if err := src.Split(block, &rows); err != nil {
		return nil, err
	}
	at := -1
	for i := 0; i < rows.Len() && at < 0; i++ {
		if !blank(&rows, i) {
			at = i
		}
	}
	if at < 0 {
		return nil, &table.FileError{Text: "the table has no header"}
	}
	if !t.input.Table.Headed && title(&rows, at) {
		if i, _ := layout.Guess(&rows); i >= 0 {
			at = i
		}
	}
	t.header = plan.Header{Row: rows.Lines[at]}
	h := layout.ReadHeader(&rows, at, 0)
	return h.Texts, nil
}

func blank(rows *table.Rows, i int) bool {
	for _, c := range rows.Row(i) {
		if len(value.Trim(rows.Text(c))) > 0 {
			return false
		}
	}
	return true
}

// title reports whether a row has one filled cell where the rows have several, or so few.
func title(rows *table.Rows, i int) bool {
	filled, width := 0, 0
	for _, c := range rows.Row(i) {
		if len(value.Trim(rows.Text(c))) > 0 {
			filled++
		}
	}
	for k := i; k < min(rows.Len(), i+window); k++ {
		width = max(width, len(rows.Row(k)))
	}
	return width > 1 && (filled == 1 || 2*filled < width)
}

// setColumns finds out what the columns are.
func (t *Table) setColumns(ctx context.Context, names []string) error {
	seen := map[string]string{}
	open := false
	for i, name := range names {
		k := key.Of(name)
		if k == "" {
			k = layout.Letter(i)
			name = k
		}
		if before, again := seen[k]; again {
			at := t.input.Place()
			at.Row = t.header.Row
			p := place.At(at, "header twice", "the headers %q and %q are one: nobody can tell their columns apart", before, name)
			p.Advice = "rename one of them"
			return place.List{p}
		}
		seen[k] = name
		c := Column{Name: name, Decimals: -1, Kind: unknown}
		if of := t.options.Of; of != nil {
			for _, own := range of.Columns {
				if own.Kept && key.Of(own.Name) == k {
					c.Kind, c.Decimals, c.Add, c.Left = own.Kind, own.Decimals, of.Amount(own), true
				}
			}
		}
		open = open || c.Kind == unknown
		t.Columns = append(t.Columns, c)
	}
	if !open {
		return nil
	}
	found := &kinds{columns: make([]evidence, len(names))}
	p := t.plan()
	first := Column{Name: t.Columns[0].Name, Decimals: -1}
	p.Columns = []*plan.Column{first.spec()}
	if problems := t.run(ctx, p, nil, found); len(problems) > 0 {
		return problems
	}
	for i := range t.Columns {
		if c := &t.Columns[i]; c.Kind == unknown {
			c.Kind, c.Places = found.columns[i].kind(), found.columns[i].Places
			c.Add = c.Kind.Numeric()
		}
	}
	return nil
}

// unknown is the kind of a column before its values were seen.
const unknown = plan.Kind(255)

// spec is the column as a plan has it: whatever is no value is left empty.
func (c *Column) spec() *plan.Column {
	s := &plan.Column{Name: c.Name, Kind: c.Kind, Decimals: c.Decimals, Kept: true, Add: c.Add}
	if s.Kind == plan.Name {
		s.Kind = plan.Text // spellings of one key stay apart
	}
	if s.Kind.Numeric() {
		s.Kind, s.Decimals, s.AsItIs = plan.Number, -1, true
	}
	for g := range s.Gaps {
		s.Gaps[g].Remedy = plan.Leave
	}
	return s
}

// plan is one that reads the table, without columns.
func (t *Table) plan() *plan.Plan {
	e := &plan.Entry{Files: []string{t.input.Path}, Others: plan.Drop, Absent: plan.Stop, FillShort: true, EmptyNulls: true, Totals: plan.Keep,
		Footnotes: plan.Keep, SameRows: plan.Keep, SameFiles: plan.Keep, Header: t.header, Reading: value.Default}
	p := &plan.Plan{Formats: t.options.Formats, Entries: []*plan.Entry{e}}
	if t.options.Of != nil {
		p.Calendar = t.options.Of.Calendar
		e.Reading.Calendar = p.Calendar
	}
	return p
}

// run reads the table under a plan.
func (t *Table) run(ctx context.Context, p *plan.Plan, rules *pass.Rules, keepers ...pass.Keeper) place.List {
	if rules == nil {
		rules = &pass.Rules{}
	}
	rules.Plan, rules.Workers, rules.Progress = p, t.options.Workers, t.options.Progress
	for len(rules.Books) < len(p.Columns) {
		rules.Books = append(rules.Books, nil)
	}
	in := *t.input
	in.Entry = p.Entries[0]
	if problems := pass.Run(ctx, rules, []*pass.Input{&in}, keepers...); len(problems) > 0 {
		return problems
	}
	if ctx.Err() != nil {
		return place.List{{What: "interrupted", Message: "interrupted", Count: 1}}
	}
	return nil
}

// Close ends the reading of the database that the table is in, if it is in one.
func (t *Table) Close() {
	if t.input.Table.Close != nil {
		t.input.Table.Close()
	}
}

// Plan is the plan whose delivery the table is, nil for another one.
func (t *Table) Plan() *plan.Plan { return t.options.Of }
