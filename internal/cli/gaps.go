package cli

import (
	"bufio"
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/survey"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// mostGaps is how many gaps are listed unless all are wanted.
const mostGaps = 10_000

func (a *app) gapsCommand() *cobra.Command {
	var all bool
	var file, to string
	var limits limits
	cmd := &cobra.Command{
		Use:               "gaps [PLAN|PATH...]",
		ValidArgsFunction: completePlanOrExtracts,
		Short:             "Every cell that would keep a column from adding up, with its place and kind",
		Long: `List the cells without a usable value: blank ones, words for nothing, words and
unclear texts where a number or a date is wanted, spreadsheet errors; by column and
kind, with the rule of the plan that takes them, or the line that would.

With a plan (umbau.yaml in this folder, if none is named), of every column that comes
from cells. With files, folders or globs and no plan, of the columns of numbers that
they turn out to have. Nothing is written but the files of --csv and --to.

--to FILE appends the cells that a rule holds or stops, or that the plan is silent on, to
a file of corrections: fill in the column value where you know better, and name the file
under corrections in the plan. A line without a value is not answered yet.`,
		Example: `  umbau gaps
  umbau gaps plans/march.yaml --csv gaps.csv
  umbau gaps --to corrections.csv
  umbau gaps raw "more/*.xlsx"
  umbau gaps --json | jq '.counts[]'`,
		RunE: func(c *cobra.Command, args []string) error {
			g := &gapList{all: all, to: to}
			if err := g.open(file, a); err != nil {
				return place1("output", file, "the file cannot be written: "+err.Error())
			}
			defer g.abandon()
			problems, err := a.findGaps(c, args, g, limits)
			if err != nil {
				return err
			}
			if err := g.close(file); err != nil {
				return place1("output", file, "the file cannot be written: "+err.Error())
			}
			added, err := g.correct(to)
			if err != nil {
				return place1("output", to, "the file of corrections cannot be written: "+err.Error())
			}
			a.exit = problems.ExitCode()
			if a.json {
				a.printJSON(gapsDoc{head(words(c), a.exit, problems), g.docs(), append([]gapCount{}, g.counts...)})
				return nil
			}
			if !a.quiet && file != stdout {
				a.printGaps(g, file, len(problems) > 0)
				a.printAdded(to, added)
			}
			a.printErrors(problems, false)
			return nil
		},
	}
	cmd.Flags().BoolVar(&all, "all", false, "list all gaps with --json, not the first 10,000 only")
	cmd.Flags().StringVar(&file, "csv", "", "write all gaps into this FILE; - writes them to stdout")
	cmd.Flags().StringVar(&to, "to", "", "append the cells that are held, stopped or silent to this FILE of corrections")
	limits.add(cmd)
	return cmd
}

// printAdded says how many cells are new in a file of corrections, "" for none.
func (a *app) printAdded(to string, added int) {
	switch {
	case to == "":
	case added == 0:
		fmt.Fprintf(a.out, "\nNo new cell to answer; %s is as it was.\n", to)
	default:
		fmt.Fprintf(a.out, "\n%s to answer in %s: fill in the column value, and name the file under corrections in the plan.\n",
			countOf(added, "new cell"), to)
	}
}

// withoutPlans are paths without the plans among them, as raw/* and * have them. One that stands alone is a mistake.
func (a *app) withoutPlans(paths []string) (out []string, err error) {
	for _, path := range paths {
		if !isPlan(path) {
			out = append(out, path)
		} else if !a.quiet && len(paths) > 1 {
			a.note("%s is left aside: a plan is no extract", place.Shorten(path))
		}
	}
	if len(out) == 0 {
		return nil, usageError{fmt.Errorf("%s is a plan; name extracts: a folder, files or a glob of them", place.Shorten(paths[0]))}
	}
	return out, nil
}

// isPlan reports whether a file is called as a plan is.
func isPlan(file string) bool {
	return slices.Contains([]string{".yaml", ".yml"}, strings.ToLower(filepath.Ext(file)))
}

// findGaps reads a plan's extracts, or files, for their gaps.
func (a *app) findGaps(c *cobra.Command, args []string, g *gapList, limits limits) (place.List, error) {
	if len(args) == 0 || len(args) == 1 && isPlan(args[0]) {
		g.file = plan.DefaultFile
		if len(args) > 0 {
			g.file = args[0]
		}
		s, err := a.build(c, g.file, buildFlags{dryRun: true, limits: limits, gaps: func(p *plan.Plan, cell treat.GapCell) {
			g.plan = p
			g.add(gapOf(p, cell))
		}})
		if err != nil {
			return nil, err
		}
		g.plan, g.read = s.Plan, s.ReadFiles()
		return slices.DeleteFunc(s.Problems, func(p place.Problem) bool { return slices.Contains(noMatter, p.What) }), nil
	}
	if slices.ContainsFunc(args, isPlan) {
		return nil, usageError{fmt.Errorf("gaps takes either one plan, or files, folders and globs")}
	}
	if g.to != "" {
		return nil, usageError{fmt.Errorf("--to needs a plan: its rules say which cells are to be answered")}
	}
	bar := a.progress("reading")
	defer bar.stop()
	r, err := survey.Run(c.Context(), survey.Options{Paths: args, Workers: a.workers, Formats: formats(limits), Progress: bar.set,
		Gap: func(at place.Place, kind value.Gap, text string) {
			g.add(gapRow{File: at.File, Sheet: place.OrNull(at.Sheet), Row: at.Row, Header: at.Header, Kind: kind.String(), Text: text})
		}})
	if err != nil {
		return nil, err
	}
	g.read = r.Files
	return r.Problems, nil
}

type gapsDoc struct {
	place.DocHead
	Gaps   []gapRow   `json:"gaps"`
	Counts []gapCount `json:"counts"`
}

// gapRow is one gap as JSON prints it.
type gapRow struct {
	File   string  `json:"file"`
	Sheet  *string `json:"sheet"`
	Row    int     `json:"row"`
	Header string  `json:"header"`
	Column *string `json:"column"`
	Kind   string  `json:"kind"`
	Text   string  `json:"text"`
	Rule   *string `json:"rule"`
}

type gapCount struct {
	Column string  `json:"column"`
	Kind   string  `json:"kind"`
	Count  int     `json:"count"`
	Rule   *string `json:"rule"`
	first  []gapRow
}

func gapOf(p *plan.Plan, cell treat.GapCell) gapRow {
	c := p.Columns[cell.Column]
	return gapRow{File: cell.Place.File, Sheet: place.OrNull(cell.Place.Sheet), Row: cell.Place.Row, Header: cell.Place.Header,
		Column: &c.Name, Kind: cell.Kind.String(), Text: cell.Text, Rule: c.Gaps[cell.Kind].Word()}
}

// gapList gathers gaps: the first ones, counts of all, and a file of all.
type gapList struct {
	all     bool
	file    string // of the plan
	plan    *plan.Plan
	list    []gapRow
	counts  []gapCount
	read    []string // the files that were read
	to      string   // the file of corrections, "" for none
	answers []gapRow // cells to be answered there
	temp    *whole.File
	csv     *bufio.Writer
}

// open begins the file of all gaps, if there is to be one, beside its target.
func (g *gapList) open(file string, a *app) error {
	out := a.out
	switch {
	case file == "" || file == stdout && a.json:
		return nil
	case file == stdout:
	default:
		f, err := whole.Create(file, ".umbau-")
		if err != nil {
			return err
		}
		g.temp, out = f, f
	}
	g.csv = bufio.NewWriterSize(out, 1<<16)
	_, err := g.csv.WriteString("file,sheet,row,header,column,kind,text,rule\n")
	return err
}

// abandon removes what has not appeared.
func (g *gapList) abandon() {
	if g.temp != nil {
		g.temp.Abandon()
	}
}

// close lets the file appear.
func (g *gapList) close(file string) error {
	switch {
	case g.csv == nil:
		return nil
	case g.temp == nil:
		return g.csv.Flush()
	}
	err := fact.CheckTarget(g.plan, g.read, file)
	if err == nil {
		err = g.csv.Flush()
	}
	if err == nil {
		err = g.temp.Finish()
	}
	if err == nil {
		err = g.temp.Publish()
	}
	return err
}

// correct appends the cells to be answered to a file of corrections, but those that it
// has.
func (g *gapList) correct(file string) (added int, err error) {
	if file == "" {
		return 0, nil
	}
	own := []string{}
	for _, f := range g.read {
		if g.plan.Corrections == "" || !whole.Same(f, filepath.Join(filepath.Dir(g.plan.File), filepath.FromSlash(g.plan.Corrections))) {
			own = append(own, f)
		}
	}
	if err := fact.CheckTarget(g.plan, own, file); err != nil {
		return 0, err
	}
	return added, changeFile(file, func(old []byte) ([]byte, error) {
		text, n, err := fact.AppendCorrections(old, g.corrections())
		added = n
		return text, err
	})
}

// corrections are the lines of the cells to be answered.
func (g *gapList) corrections() (lines [][]string) {
	for _, d := range g.answers {
		sheet := ""
		if d.Sheet != nil {
			sheet = *d.Sheet
		}
		rule := "the plan is silent"
		if d.Rule != nil {
			rule = *d.Rule
		}
		lines = append(lines, []string{d.File, sheet, strconv.Itoa(d.Row), d.Header, d.Text, "",
			fmt.Sprintf("%s %s: %s", *d.Column, d.Kind, rule)})
	}
	return lines
}

func (g *gapList) docs() []gapRow {
	if g.list == nil {
		return []gapRow{}
	}
	return g.list
}

// add takes in a gap.
func (g *gapList) add(d gapRow) {
	if g.all || len(g.list) < mostGaps {
		g.list = append(g.list, d)
	}
	if g.to != "" && (d.Rule == nil || *d.Rule == "stop" || *d.Rule == "hold") {
		g.answers = append(g.answers, d)
	}
	text := func(s *string) string {
		if s == nil {
			return ""
		}
		return *s
	}
	if g.csv != nil {
		g.csv.Write(table.AppendLine(nil, d.File, text(d.Sheet), strconv.Itoa(d.Row), d.Header, text(d.Column), d.Kind, d.Text, text(d.Rule)))
	}
	column := d.Header
	if d.Column != nil {
		column = *d.Column
	}
	i := slices.IndexFunc(g.counts, func(c gapCount) bool { return c.Column == column && c.Kind == d.Kind })
	if i < 0 {
		i = len(g.counts)
		g.counts = append(g.counts, gapCount{Column: column, Kind: d.Kind, Rule: d.Rule})
	}
	c := &g.counts[i]
	if c.Count++; len(c.first) < 5 {
		c.first = append(c.first, d)
	}
}

// sorted puts the counts in the order of columns, those that stop first.
func (g *gapList) sorted() []gapCount {
	list := slices.Clone(g.counts)
	var columns []string
	if g.plan != nil {
		for _, c := range g.plan.Columns {
			columns = append(columns, c.Name)
		}
	}
	slices.SortStableFunc(list, func(a, b gapCount) int {
		if stops(a) != stops(b) {
			if stops(a) {
				return -1
			}
			return 1
		}
		return slices.Index(columns, a.Column) - slices.Index(columns, b.Column)
	})
	return list
}

// byKind joins the counts of all columns: there may be a column for every product.
// What may be money comes first.
func (g *gapList) byKind() []gapCount {
	var list []gapCount
	for _, kind := range []value.Gap{value.Unclear, value.Error, value.Text, value.Null, value.Blank} {
		all, columns := gapCount{Kind: kind.String()}, 0
		for _, c := range g.counts {
			if c.Kind == all.Kind {
				all.Count, columns = all.Count+c.Count, columns+1
				all.first = append(all.first, c.first[:min(len(c.first), 5-len(all.first))]...)
			}
		}
		if all.Column = countOf(columns, "column"); columns > 0 {
			list = append(list, all)
		}
	}
	return list
}

func stops(c gapCount) bool { return c.Rule == nil || *c.Rule == "stop" }

// printGaps prints the gaps by column and kind.
func (a *app) printGaps(g *gapList, file string, unread bool) {
	w := a.out
	switch {
	case len(g.counts) == 0 && unread:
		fmt.Fprintln(w, "No cell without a usable value was met, but not all could be read:")
		return
	case len(g.counts) == 0:
		what := "Every column of numbers adds up: no cell without a usable value"
		if g.file != "" {
			what = "No cell without a usable value in any column of the plan"
		}
		fmt.Fprintln(w, a.colored(w, good, what))
		return
	}
	fmt.Fprintln(w, a.colored(w, bold, g.headline()))
	list := g.sorted()
	if g.plan == nil {
		list = g.byKind()
	}
	for _, c := range list {
		a.printGap(g, c)
		a.printRule(g, c)
	}
	switch {
	case file != "":
		fmt.Fprintf(w, "\nAll of them are in %s.\n", file)
	case g.plan == nil:
		fmt.Fprintf(w, "\n--csv FILE writes all of them.\n")
	default:
		fmt.Fprintf(w, "\n--csv FILE writes all of them; --to corrections.csv those that need a person, to be answered there.\n")
	}
}

// headline says how many gaps there are, and what the plan makes of them.
func (g *gapList) headline() string {
	total, open := 0, 0
	for _, c := range g.counts {
		total += c.Count
		if stops(c) {
			open += c.Count
		}
	}
	head := countOf(total, "cell") + " without a usable value"
	switch {
	case g.file == "":
		return head
	case open > 0:
		return head + "; " + grouped(strconv.Itoa(open)) + " would stop the build"
	}
	return head + ", all taken by rules of the plan"
}

// printGap prints the gaps of a kind in a column: how many, and the first of them.
func (a *app) printGap(g *gapList, c gapCount) {
	w := a.out
	if g.plan == nil {
		fmt.Fprintf(w, "\n%s in %s\n", a.colored(w, bold, countOf(c.Count, c.Kind+" cell")), c.Column)
	} else {
		fmt.Fprintf(w, "\n%s: %s\n", c.Column, a.colored(w, bold, countOf(c.Count, c.Kind+" cell")))
	}
	shown := c.first
	if g.plan != nil && !stops(c) {
		shown = shown[:min(2, len(shown))]
	}
	for _, d := range shown {
		at := place.Place{File: d.File, Row: d.Row, Header: d.Header}
		if d.Sheet != nil {
			at.Sheet = *d.Sheet
		}
		text := ""
		if d.Text != "" {
			text = ": " + strconv.Quote(place.Shorten(d.Text))
		}
		fmt.Fprintf(w, "    %s%s\n", at, text)
	}
	if c.Count > len(shown) {
		fmt.Fprintf(w, "    … and %s more\n", grouped(strconv.Itoa(c.Count-len(shown))))
	}
}

// printRule says which rule takes a gap, or which line would.
func (a *app) printRule(g *gapList, c gapCount) {
	if g.plan == nil {
		return
	}
	col := g.plan.Column(c.Column)
	for gap := value.Blank; gap < value.Gaps; gap++ {
		if gap.String() != c.Kind {
			continue
		}
		key := plan.GapKey(gap)
		switch {
		case c.Rule == nil:
			fmt.Fprintf(a.out, "  → the plan is silent; add to column %s (%s, line %d): %s\n", c.Column, g.file, col.Pos.Line,
				a.colored(a.out, bold, treat.AddLine(col, gap)))
		case *c.Rule == "stop":
			fmt.Fprintf(a.out, "  → the plan says %s: stop\n", key)
		default:
			fmt.Fprintf(a.out, "  → taken by %s: %s\n", key, *c.Rule)
		}
	}
}
