package cli

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/compare"
	"umbau/internal/core/finished"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/totals"
	"umbau/internal/core/value"
)

// compareFlags are the flags of compare.
type compareFlags struct {
	tableFlags
	by, of, show, as, sort, must, within string
}

func (a *app) compareCommand() *cobra.Command {
	var o compareFlags
	cmd := &cobra.Command{
		Use:   "compare TABLE TABLE",
		Short: "Two finished tables side by side, at the columns they share",
		Long: `Add each of two tables up at the columns they share, then put them side by side:
never row by row, so that nothing is multiplied. Each line has both figures, their
difference (the first less the second; a missing side counts as nothing) and their
ratio. The grand totals below are those of the whole tables.

Exit codes: 0 done; 1 could not; 2 wrong usage; 3 where --must agree does not hold.`,
		Example: `  umbau compare out/sales.csv budget.csv --by region,month --of "amount=planned"
  umbau compare sales.csv costs.csv --by "branch=Outlet name" --of amount=buying_price --as sales,cost
  umbau compare march.csv april.csv --by region --must agree --within 0.01`,
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) != 2 {
				return usageError{fmt.Errorf("compare wants two tables, not %d", len(args))}
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error { return a.compare(c, args, o) },
	}
	f := cmd.Flags()
	f.StringVar(&o.by, "by", "", "the columns that both tables have; \"branch=Outlet\" where the second calls it otherwise")
	f.StringVar(&o.of, "of", "", "the measures, \"amount=planned\" for two names (default: those of one name)")
	f.StringVar(&o.show, "show", "sum", "sum, count, mean, … of both; two with a comma, one of each: sum,mean")
	f.StringVar(&o.as, "as", "", "what to call the tables: sales,budget")
	f.StringVar(&o.sort, "sort", "", "difference, or -difference for the largest first (default: by label)")
	f.StringVar(&o.must, "must", "", "agree: exit 3 where a line differs, or stands on one side only")
	f.StringVar(&o.within, "within", "0", "with --must agree: the greatest difference that is none")
	o.add(cmd)
	o.register(cmd, "by", "of")
	return cmd
}

func (a *app) compare(c *cobra.Command, args []string, o compareFlags) error {
	asked, as, err := o.asked(args)
	if err != nil {
		return usageError{err}
	}
	var tables [2]*finished.Table
	for i, name := range args {
		if tables[i], err = a.openTable(c, []string{name}, o.tableFlags); err != nil {
			return err
		}
	}
	r, err := compare.Of(c.Context(), tables[0], tables[1], asked)
	if err != nil {
		return a.asUsage(err)
	}
	for i, v := range r.Views {
		a.remark(tables[i], v)
	}
	if o.sort != "" {
		sortByDifference(r.Lines, strings.HasPrefix(o.sort, "-"))
	}
	var problems place.List
	if o.must != "" {
		problems = mustAgree(r, args, as, asked.Within)
	}
	a.exit = problems.ExitCode()
	v := compareView{r, as, args}
	if o.output != "" {
		if err := a.writeTable(o.output, v.tidy()); err != nil || o.output == stdout {
			return err
		}
	}
	switch {
	case a.json:
		a.printJSON(v.doc(problems, words(c)))
		return nil
	case !a.quiet:
		v.print(a)
	}
	a.printErrors(problems, true)
	return nil
}

// asked is what the flags ask for, and what the tables are called.
func (o *compareFlags) asked(args []string) (asked compare.Asked, as [2]string, err error) {
	asked.Only = o.only
	if asked.By, err = pairsOf(o.by); err != nil {
		return asked, as, err
	}
	if asked.Of, err = pairsOf(o.of); err != nil {
		return asked, as, err
	}
	shows, err := listOf(o.show)
	if err != nil || len(shows) == 0 || len(shows) > 2 {
		return asked, as, fmt.Errorf("--show %s: one of %s, or two with a comma, one of each table", o.show, strings.Join(totals.Shows, ", "))
	}
	for i := range asked.Show {
		text := shows[min(i, len(shows)-1)]
		k := slices.Index(totals.Shows, text)
		if k < 0 {
			return asked, as, fmt.Errorf("--show %s: it is one of %s", place.Shorten(text), strings.Join(totals.Shows, ", "))
		}
		asked.Show[i] = totals.Show(k)
	}
	if o.sort != "" && o.sort != "difference" && o.sort != "-difference" {
		return asked, as, fmt.Errorf("--sort %s: it is difference or -difference", place.Shorten(o.sort))
	}
	if o.must != "" && o.must != "agree" {
		return asked, as, fmt.Errorf("--must %s: it is agree", place.Shorten(o.must))
	}
	var ok bool
	if asked.Within, _, ok = value.English.Number([]byte(o.within)); !ok || asked.Within.Sign() < 0 {
		return asked, as, fmt.Errorf("--within %s: it is an amount such as 0.01", place.Shorten(o.within))
	}
	for i, name := range args {
		as[i] = strings.TrimSuffix(filepath.Base(name), filepath.Ext(name))
	}
	if as[0] == as[1] {
		as = [2]string{args[0], args[1]}
	}
	if o.as != "" {
		names := namesIn(o.as)
		if len(names) != 2 {
			return asked, as, fmt.Errorf("--as wants two names, such as sales,budget")
		}
		as = [2]string{names[0], names[1]}
	}
	return asked, as, nil
}

// pairsOf is a list of names, each with another one behind an = sign or not.
func pairsOf(text string) (out [][2]string, err error) {
	list, err := listOf(text)
	for _, one := range list {
		sides := halves(one)
		out = append(out, [2]string{strings.TrimSpace(sides[0]), strings.TrimSpace(sides[len(sides)-1])})
	}
	return out, err
}

// sortByDifference sorts lines by the difference of the first measure; what has none comes
// last.
func sortByDifference(lines []compare.Line, descending bool) {
	slices.SortStableFunc(lines, func(x, y compare.Line) int {
		a, b := x.Difference(0), y.Difference(0)
		switch {
		case a == nil && b == nil:
			return 0
		case a == nil:
			return 1
		case b == nil:
			return -1
		case descending:
			return b.Cmp(*a)
		}
		return a.Cmp(*b)
	})
}

// mustAgree says which lines do not agree: the first ten.
func mustAgree(r *compare.Result, args []string, as [2]string, within value.Decimal) place.List {
	var texts []string
	lines := 0
	for i := range r.Lines {
		l := &r.Lines[i]
		var apart []string
		if l.Only != "" {
			apart = append(apart, "only in "+as[strings.Index("ab", l.Only)])
		}
		for m := range r.Of {
			if d := l.Difference(m); l.Only == "" && d != nil && d.Abs().Cmp(within) > 0 {
				apart = append(apart, fmt.Sprintf("%s of %s apart", value.Grouped(d.String()), r.Of[m][0]))
			}
		}
		if len(apart) == 0 {
			continue
		}
		if lines++; lines <= place.MostPlaces {
			texts = append(texts, "  "+strings.Join(l.By, " | ")+": "+strings.Join(apart, ", "))
		}
	}
	if lines == 0 {
		return nil
	}
	p := place.At(place.Place{File: args[0]}, "no agreement", "%s not agree with %s:\n%s", doOrDoes(lines), args[1],
		strings.Join(texts, "\n")).ByRule()
	p.Count = lines
	return place.List{p}
}

func doOrDoes(lines int) string {
	if lines == 1 {
		return "1 line does"
	}
	return countOf(lines, "line") + " do"
}

// compareView is a comparison as it is printed.
type compareView struct {
	*compare.Result
	as   [2]string
	args []string
}

// figures are the texts of a line, measure by measure: A, B, difference, ratio; "" for none.
func (v *compareView) figures(l *compare.Line, m int) [4]*string {
	text := func(d *value.Decimal, side int) *string {
		if d == nil {
			return nil
		}
		t := figureOf(v.Sides[side], v.Of[m][side], *d)
		return &t
	}
	out := [4]*string{text(l.A[m], 0), text(l.B[m], 1), text(l.Difference(m), 0), nil}
	if q := l.Ratio(m); q != nil {
		t := q.String()
		out[3] = &t
	}
	return out
}

// tidy is the comparison as a file has it.
func (v *compareView) tidy() tidy {
	t := tidy{what: "comparison", header: v.header(), kinds: slices.Clone(v.Sides[0].Kinds), rows: v.lines()}
	for len(t.kinds) < len(t.header)-1 {
		t.kinds = append(t.kinds, plan.Number)
	}
	t.kinds = append(t.kinds, plan.Text) // on which side alone
	return t
}

func (v *compareView) header() []string {
	out := slices.Clone(v.By)
	for _, of := range v.Of {
		for _, what := range []string{v.as[0], v.as[1], "difference", "ratio"} {
			out = append(out, of[0]+" | "+what)
		}
	}
	return append(out, "only")
}

func (v *compareView) lines() (out [][]string) {
	for i := range v.Lines {
		l := &v.Lines[i]
		line := slices.Clone(l.By)
		for m := range v.Of {
			for _, t := range v.figures(l, m) {
				if t == nil {
					line = append(line, "")
				} else {
					line = append(line, *t)
				}
			}
		}
		only := ""
		if l.Only != "" {
			only = v.as[strings.Index("ab", l.Only)]
		}
		out = append(out, append(line, only))
	}
	return out
}

// print prints the comparison for a person.
func (v *compareView) print(a *app) {
	c := crosstab{labels: v.By}
	for _, of := range v.Of {
		for _, what := range []string{v.as[0], v.as[1], "difference", "ratio"} {
			head := []string{what}
			if len(v.Of) > 1 {
				head = []string{of[0], what}
			}
			c.heads = append(c.heads, head)
		}
	}
	c.heads = append(c.heads, make([]string, len(c.heads[0])))
	places := v.places()
	for i := range v.Lines {
		c.rows = append(c.rows, v.row(&v.Lines[i], places))
	}
	total := v.row(&v.Total, places)
	total.labels, total.total = []string{"total"}, true
	c.rows = append(c.rows, total)
	c.print(a, windowWidth(a.out))
	v.printNotes(a)
}

// places are the decimal places of each measure on the screen.
func (v *compareView) places() (out []int) {
	for m, of := range v.Of {
		places := 0
		for side := range v.Sides {
			places = max(places, v.Sides[side].Places[of[side]], v.Sides[side].Decimals[of[side]])
		}
		for i := range v.Lines {
			for k, t := range v.figures(&v.Lines[i], m) {
				if t != nil && k < 3 {
					if _, decimals, ok := strings.Cut(*t, "."); ok && len(decimals) <= 6 {
						places = max(places, len(decimals))
					}
				}
			}
		}
		out = append(out, places)
	}
	return out
}

func (v *compareView) row(l *compare.Line, places []int) crossRow {
	row := crossRow{}
	for _, label := range l.By {
		if label == "" {
			label = "(empty)"
		}
		row.labels = append(row.labels, label)
	}
	for m := range v.Of {
		for k, t := range v.figures(l, m) {
			text := ""
			if t != nil {
				d, _, _ := value.English.Number([]byte(*t))
				n := places[m]
				if k == 3 {
					n = 3
				} else if k < 2 && v.Show[k].Counts() {
					n = 0
				}
				d, _ = d.Rescale(n)
				text = value.Grouped(d.String())
			}
			if k < 2 {
				text += markOf(l.Gaps[k][m], l.Blank[k][m])
			}
			row.figures = append(row.figures, text)
		}
	}
	only := ""
	if l.Only != "" {
		only = "only in " + v.as[strings.Index("ab", l.Only)]
	}
	row.figures = append(row.figures, only)
	return row
}

// printNotes says what is not in the figures.
func (v *compareView) printNotes(a *app) {
	var notes []string
	for i, side := range v.Sides {
		for _, g := range side.Gaps {
			notes = append(notes, gapNote(g, "in "+v.as[i]+" ", "number"))
		}
		if side.Kept < side.Read {
			notes = append(notes, fmt.Sprintf("%s of %s of %s", value.Grouped(fmt.Sprint(side.Kept)), countOf(side.Read, "row"), v.as[i]))
		}
	}
	if len(notes) > 0 {
		fmt.Fprintln(a.out)
	}
	for _, n := range notes {
		fmt.Fprintf(a.out, "  %s\n", n)
	}
}

// compareDoc is what compare prints with --json.
type compareDoc struct {
	place.DocHead
	Tables []string         `json:"tables"`
	By     []string         `json:"by"`
	Of     [][2]string      `json:"of"`
	Rows   []compareLineDoc `json:"rows"`
	Total  compareTotalDoc  `json:"total"`
}

type compareTotalDoc struct {
	A          []*string `json:"a"`
	B          []*string `json:"b"`
	Difference []*string `json:"difference"`
	Ratio      []*string `json:"ratio"`
}

type compareLineDoc struct {
	By []*string `json:"by"`
	compareTotalDoc
	Only *string `json:"only"`
}

func (v *compareView) doc(problems place.List, command string) compareDoc {
	d := compareDoc{DocHead: head(command, problems.ExitCode(), problems), Tables: v.args, By: v.By, Of: v.Of,
		Rows: []compareLineDoc{}, Total: v.figuresDoc(&v.Total)}
	for i := range v.Lines {
		l := &v.Lines[i]
		line := compareLineDoc{compareTotalDoc: v.figuresDoc(l), Only: place.OrNull(l.Only)}
		for _, label := range l.By {
			line.By = append(line.By, place.OrNull(label))
		}
		d.Rows = append(d.Rows, line)
	}
	return d
}

func (v *compareView) figuresDoc(l *compare.Line) (d compareTotalDoc) {
	for m := range v.Of {
		f := v.figures(l, m)
		d.A, d.B, d.Difference, d.Ratio = append(d.A, f[0]), append(d.B, f[1]), append(d.Difference, f[2]), append(d.Ratio, f[3])
	}
	return d
}
