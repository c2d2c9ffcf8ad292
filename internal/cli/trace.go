package cli

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/expression"
	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/trace"
)

// traceFlags are the flags of trace.
type traceFlags struct {
	tableFlags
	where, cell string
	row         int
	of          string
}

func (a *app) traceCommand() *cobra.Command {
	var o traceFlags
	cmd := &cobra.Command{
		Use:   "trace [TABLE]",
		Short: "Where a figure comes from, and what became of a cell",
		Long: `Lead a figure of the fact table back to the cells that it was made of: the rows of which a
formula is true (--where), or the one in a line of the delivery (--row), each with file, sheet,
row and header of every cell, what stood there, what it became and by which line of the plan,
and the sum of them. With --cell the other way: what became of a cell.

The extracts are read again, under the plan of the last build that delivered; those that have
changed since are named. TABLE is a delivery of the plan, the first one if none is named.`,
		Example: `  umbau trace --where "region = 'Lakes' and month = '2024-03'" --of amount
  umbau trace --row 17
  umbau trace --cell "raw/Lakes.xlsx#2024:7:Dock Line"
  umbau trace --where "amount > 9000" -o cells.csv`,
		Args:              atMost(1),
		ValidArgsFunction: completeExtracts,
		RunE:              func(c *cobra.Command, args []string) error { return a.trace(c, args, o) },
	}
	f := cmd.Flags()
	f.StringVar(&o.where, "where", "", "a formula: which fact rows")
	f.IntVar(&o.row, "row", 0, "the fact row in this line of the delivery; its header is line 1")
	f.StringVar(&o.cell, "cell", "", "FILE:ROW:HEADER, or FILE#SHEET:ROW:HEADER: what became of a cell; the letter of its column does as well")
	f.StringVar(&o.of, "of", "", "the measures that are added up; all if none is named")
	f.StringVar(&o.plan, "plan", plan.DefaultFile, "the plan")
	f.StringVarP(&o.output, "output", "o", "", "write all cells as a tidy table to this file; - writes CSV to stdout")
	o.limits.add(cmd)
	return cmd
}

// traceDoc is what trace prints with --json.
type traceDoc struct {
	place.DocHead
	Where   *string            `json:"where"`
	Rows    []tracedRow        `json:"rows"`
	Sum     map[string]*string `json:"sum"`
	Held    int                `json:"held"`
	LeftOut int                `json:"left_out"`
}

type tracedRow struct {
	Row   *int               `json:"row"`
	Fact  map[string]*string `json:"fact"`
	Cells []tracedCell       `json:"cells"`
	Fate  string             `json:"fate"`
	Why   *string            `json:"why"`
}

type tracedCell struct {
	File   string  `json:"file"`
	Sheet  *string `json:"sheet"`
	Row    *int    `json:"row"`
	Header *string `json:"header"`
	Column *string `json:"column"`
	Read   *string `json:"read"`
	Became *string `json:"became"`
	Rule   *string `json:"rule"`
	Line   *int    `json:"line"`
}

func (a *app) trace(c *cobra.Command, args []string, o traceFlags) error {
	asked, err := o.asked()
	if err != nil {
		return usageError{err}
	}
	p, err := readPlan(o.plan, o.limits)
	if err != nil {
		return err
	}
	d, err := deliveryOf(p, args)
	if err != nil {
		return err
	}
	if why := noLines(d); asked.Row > 0 && why != "" {
		return usageError{fmt.Errorf("--row: %s %s, so that a line does not say which fact row it was; use --where", plan.Shown(d.To), why)}
	}
	source, other := lastPlan(p)
	changed := changedSince(p)
	if asked.Most = shownTraced; a.json || o.output != "" || asked.Cell != nil {
		asked.Most = 0
	}
	bar := a.progress("reading")
	r, err := trace.Run(c.Context(), p, source, asked, trace.Options{Formats: formats(o.limits), Workers: a.workers, Progress: bar.set})
	bar.stop()
	var mistake *trace.Mistake
	if errors.As(err, &mistake) {
		return usageError{mistake}
	}
	if err != nil {
		return err
	}
	if noLines(d) != "" {
		for i := range r.Rows {
			r.Rows[i].Line = 0
		}
	}
	switch {
	case a.json:
		a.printJSON(traceDocOf(r, o, words(c), changed))
	case o.output != "":
		return a.writeTable(o.output, tableOfCells(r))
	default:
		a.printTrace(r, asked, d.To, o)
		for _, p := range changed {
			fmt.Fprintf(a.out, "  ! %s: %s\n", p.File, p.Message)
		}
		if other {
			fmt.Fprintln(a.out, "  ! the plan has changed since the last build; this is traced under the plan of that build")
		}
	}
	return nil
}

var cellForm = expression.Of(`^(.+?):(\d+):(.+)$`)

// asked reads what is asked.
func (o *traceFlags) asked() (asked trace.Asked, err error) {
	n := 0
	for _, is := range []bool{o.where != "", o.row != 0, o.cell != ""} {
		if is {
			n++
		}
	}
	if n != 1 {
		return asked, errors.New(`say one of --where FORMULA, --row LINE and --cell "FILE:ROW:HEADER"`)
	}
	if asked.Of, err = listOf(o.of); err != nil {
		return asked, err
	}
	asked.Where = o.where
	if o.row != 0 {
		if asked.Row = o.row - 1; asked.Row < 1 {
			return asked, fmt.Errorf("--row %d: the first fact row is in line 2 of the delivery", o.row)
		}
	}
	if o.cell != "" {
		m := cellForm().FindStringSubmatch(o.cell)
		if m == nil {
			return asked, fmt.Errorf("--cell %s: say FILE:ROW:HEADER, such as raw/till.csv:7:Dock Line", place.Shorten(o.cell))
		}
		at := place.Place{File: m[1], Header: m[3]}
		if file, sheet, ok := strings.Cut(m[1], "#"); ok {
			at.File, at.Sheet = file, sheet
		}
		at.File = path.Clean(filepath.ToSlash(at.File))
		at.Row, _ = strconv.Atoi(m[2])
		asked.Cell = &at
	}
	return asked, nil
}

// noLines says why a line of a delivery is not that of its fact row; "" where it is.
func noLines(d *plan.Delivery) string {
	switch {
	case len(d.Sort) > 0:
		return "is sorted"
	case d.Several():
		return "is several files"
	}
	return ""
}

// deliveryOf is the delivery that is meant: the one that is named, or has a file of that name, or the first.
func deliveryOf(p *plan.Plan, args []string) (*plan.Delivery, error) {
	if len(args) == 0 {
		if d := delivered(p); d != nil {
			return d, nil
		}
		return nil, place1("no file", p.File, "the plan delivers no table")
	}
	for i := range p.Deliveries {
		d := &p.Deliveries[i]
		if filepath.Clean(tableOf(p, d)) == filepath.Clean(args[0]) || d.To == args[0] || d.Several() && d.Has(filepath.ToSlash(args[0])) {
			return d, nil
		}
	}
	return nil, place1("no file", args[0], "it is no delivery of "+p.File+", so nobody knows which cells it was made of")
}

// lastPlan is the plan of the last build that delivered, and whether it is another one than that of today.
func lastPlan(p *plan.Plan) (source []byte, other bool) {
	text, err := os.ReadFile(p.At(path.Join(p.Record, fact.LastPlan)))
	if err != nil {
		return p.Source(), false
	}
	return text, string(text) != string(p.Source())
}

// changedSince are problems of files that have changed since the last build was recorded.
func changedSince(p *plan.Plan) (out place.List) {
	var b struct {
		Inputs []struct {
			File   string  `json:"file"`
			Bytes  int64   `json:"bytes"`
			SHA256 *string `json:"sha256"`
		} `json:"inputs"`
	}
	text, err := os.ReadFile(p.At(path.Join(p.Record, record.BuildFile)))
	if err != nil || json.Unmarshal(text, &b) != nil {
		return place.List{{What: "no file", File: path.Join(p.Record, record.BuildFile), Count: 1,
			Message: "there is no record of a build: nobody knows whether the extracts are those that were delivered"}}
	}
	for _, in := range b.Inputs {
		if plan.IsAddress(in.File) {
			continue
		}
		info, err := os.Stat(p.At(in.File))
		switch {
		case err != nil:
			out.Add(place.Problem{What: "changed file", File: in.File, Count: 1, Message: "it was read by the last build and is not there any more"})
		case info.Size() != in.Bytes || in.SHA256 != nil && digestOf(p.At(in.File)) != *in.SHA256:
			out.Add(place.Problem{What: "changed file", File: in.File, Count: 1, Message: "it has changed since the last build"})
		}
	}
	return out
}

// shownTraced is how many fact rows are shown.
const shownTraced = 20

func (a *app) printTrace(r *trace.Result, asked trace.Asked, to string, o traceFlags) {
	w := a.out
	if asked.Cell == nil {
		var sums []string
		for _, f := range r.Sums {
			sums = append(sums, f.Measure+" "+orDash(f.Sum))
		}
		headline := countOf(r.Count, "fact row")
		if o.where != "" {
			headline += " where " + o.where
		}
		if len(sums) > 0 {
			headline += ": " + strings.Join(sums, ", ")
		}
		fmt.Fprintln(w, a.colored(w, bold, headline))
	}
	for _, row := range r.Rows {
		a.printTraced(r, row, to)
	}
	if more := r.Count - len(r.Rows); more > 0 && asked.Cell == nil {
		fmt.Fprintf(w, "\n  and %s; -o FILE or --json has all\n", countOf(more, "more fact row"))
	}
	if asked.Cell == nil && r.Held+r.LeftOut > 0 {
		fmt.Fprintf(w, "\n  Not in this figure: %s that fit are held, %d left out.\n", countOf(r.Held, "row"), r.LeftOut)
	}
}

// printTraced prints one fact row, and its cells below.
func (a *app) printTraced(r *trace.Result, row trace.Row, to string) {
	w := a.out
	var values []string
	for i, text := range row.Fact {
		if text == "" {
			text = "–"
		}
		values = append(values, r.Columns[i]+" "+text)
	}
	head := row.Fate
	switch {
	case row.Line > 0:
		head = fmt.Sprintf("%s, line %d", to, row.Line)
		if row.Fate == trace.Summed {
			head = "added to " + head
		}
	case row.Why != "":
		head += ": " + row.Why
	}
	fmt.Fprintf(w, "\n  %s\n", a.colored(w, bold, head))
	if len(values) > 0 {
		fmt.Fprintf(w, "    %s\n", strings.Join(values, ", "))
	}
	g := grid{}
	for _, c := range row.Cells {
		stood := fmt.Sprintf("%q", place.Shorten(c.Read))
		if row.Fact == nil {
			stood = ""
		}
		became := ""
		if c.Became != c.Read && row.Fact != nil {
			switch {
			case c.Became != "":
				became = "became " + place.Shorten(c.Became)
			case row.Fate != "held" && row.Fate != "left out": // of which nobody worked it out
				became = "left empty"
			}
		}
		rule := c.Rule
		if rule != "" && c.Line > 0 {
			rule += fmt.Sprintf(" (line %d)", c.Line)
		}
		g.add("    "+c.Column, c.Place.String(), stood, became, rule)
	}
	g.print(w)
}

func traceDocOf(r *trace.Result, o traceFlags, command string, changed place.List) traceDoc {
	d := traceDoc{DocHead: head(command, 0, changed), Where: place.OrNull(o.where), Rows: []tracedRow{},
		Sum: map[string]*string{}, Held: r.Held, LeftOut: r.LeftOut}
	if o.cell == "" {
		for _, f := range r.Sums {
			d.Sum[f.Measure] = place.OrNull(f.Sum)
		}
	}
	number := func(n int) *int {
		if n == 0 {
			return nil
		}
		return &n
	}
	for _, row := range r.Rows {
		one := tracedRow{Row: number(row.Line), Cells: []tracedCell{}, Fate: row.Fate, Why: place.OrNull(row.Why)}
		if row.Fact != nil {
			one.Fact = map[string]*string{}
		}
		for i, text := range row.Fact {
			one.Fact[r.Columns[i]] = place.OrNull(text)
		}
		for i := range row.Cells {
			c := &row.Cells[i]
			cell := tracedCell{File: c.File, Sheet: place.OrNull(c.Sheet), Row: number(c.Row), Header: place.OrNull(c.Header),
				Column: place.OrNull(c.Column), Rule: place.OrNull(c.Rule), Line: number(c.Line)}
			if c.Column != "" {
				cell.Read, cell.Became = &c.Read, place.OrNull(c.Became)
			}
			one.Cells = append(one.Cells, cell)
		}
		d.Rows = append(d.Rows, one)
	}
	return d
}

// tableOfCells is all that was found as a tidy table: a line a cell.
func tableOfCells(r *trace.Result) tidy {
	t := tidy{what: "trace", header: []string{"row", "fate", "why", "file", "sheet", "line", "header", "column", "read", "became", "rule",
		"plan_line"}}
	t.kinds = make([]plan.Kind, len(t.header)) // texts, but for
	t.kinds[0], t.kinds[5], t.kinds[11] = plan.Whole, plan.Whole, plan.Whole
	text := func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	}
	for _, row := range r.Rows {
		for _, c := range row.Cells {
			t.rows = append(t.rows, []string{text(row.Line), row.Fate, row.Why, c.File, c.Sheet, text(c.Row), c.Header, c.Column, c.Read, c.Became,
				c.Rule, text(c.Line)})
		}
	}
	return t
}
