package cli

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/finished"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/totals"
)

// totalsFlags are the flags of totals.
type totalsFlags struct {
	tableFlags
	by, across, of, show, sort string
	top                        int
	subtotals                  bool
	must                       string
	groups                     []string
}

func (a *app) totalsCommand() *cobra.Command {
	var o totalsFlags
	cmd := &cobra.Command{
		Use:   "totals [TABLE]",
		Short: "Add a finished table up: by columns, crossed, with subtotals",
		Long: `Add a finished table up: by columns or formulas of them, crossed by one more.

TABLE is a file (a sheet as book.xlsx#Sales); without one it is the first delivery
of the plan in this folder. Cells that are no number are left out of a figure,
which carries a * then, and are counted below; empty ones carry a °.

Exit codes: 0 done; 1 could not (no such table, unreadable); 2 wrong usage (no such
column).`,
		Example: `  umbau totals --by region
  umbau totals --by region,product --across "quarter(month)"
  umbau totals out/sales.csv --by product --show count,sum,share --sort -amount --top 5
  umbau totals --by side --group "side of region: East = Skerries, Amber Bay; West = Lakes"
  umbau totals --only "region = 'Lakes' and year >= 2024" --by branch -o lakes.csv`,
		Args: atMost(1),
		RunE: func(c *cobra.Command, args []string) error { return a.totals(c, args, o) },
	}
	f := cmd.Flags()
	f.StringVar(&o.by, "by", "", "columns, or formulas such as \"quarter(month)\": a line for each of their values")
	f.StringVar(&o.across, "across", "", "one more: a column for each of its values")
	f.StringVar(&o.of, "of", "", "the measures (default: all numbers that may be added up)")
	f.StringVar(&o.show, "show", "",
		"sum, count (rows), filled (values), distinct, mean, min, max, share (of the grand total, in percent)")
	f.StringVar(&o.sort, "sort", "", "by the total of a measure, or count; with - before it the largest first")
	f.IntVar(&o.top, "top", 0, "the first so many, and all others in one line")
	f.StringArrayVar(&o.groups, "group", nil,
		"a column of groups: \"side of region: East = Skerries, Amber Bay; West = Lakes\", or \"family of product: book.csv\"")
	f.BoolVar(&o.subtotals, "subtotals", false, "with -o: subtotals and the grand total too, with a column level")
	f.StringVar(&o.must, "must", "", "tie: exit 3 where the table does not agree with the record of its build")
	o.add(cmd)
	o.register(cmd, "by", "across", "of", "sort")
	return cmd
}

func (a *app) totals(c *cobra.Command, args []string, o totalsFlags) error {
	asked, err := o.asked()
	if err != nil {
		return usageError{err}
	}
	t, err := a.openTable(c, args, o.tableFlags)
	if err != nil {
		return err
	}
	v := t.View()
	for _, text := range o.groups {
		if err := addGroup(v, text); err != nil {
			return a.asUsage(err)
		}
	}
	r, err := totals.Of(c.Context(), v, asked)
	if err != nil {
		return a.asUsage(err)
	}
	a.remark(t, v)
	record, said := a.recordOf(t)
	var ties []totals.Tie
	if record != nil {
		ties = record.Tie(r.Whole)
	}
	var problems place.List
	if o.must != "" {
		problems = mustTie(t, r, ties)
	}
	a.exit = problems.ExitCode()
	if o.output != "" && len(problems) == 0 {
		if err := a.writeTable(o.output, tidyTotals(r, o)); err != nil || !a.json {
			return err
		}
	}
	switch {
	case a.json:
		a.printJSON(totalsDocOf(t, r, ties, record != nil, problems, words(c)))
		return nil
	case !a.quiet:
		a.printTotals(t, r)
		a.printTie(r, ties, record, said)
	}
	a.printErrors(problems, true)
	return nil
}

// tidyTotals are the totals as a file has them: a line for each lowest group; in a workbook,
// which people look at, the subtotals too, set off.
func tidyTotals(r *totals.Result, o totalsFlags) tidy {
	t := tidy{what: "totals", header: r.Header(), rows: r.Lines(o.subtotals), kinds: slices.Clone(r.Kinds)}
	book := strings.EqualFold(filepath.Ext(o.output), ".xlsx")
	var levels []int
	if o.subtotals {
		t.header, t.kinds = r.HeaderOfLevels(), append(t.kinds, plan.Whole)
		for _, row := range r.Rows {
			levels = append(levels, row.Level())
		}
	} else if book && len(r.By) > 0 {
		t.rows = nil
		for i, line := range r.Lines(true) {
			level := r.Rows[i].Level()
			levels = append(levels, level)
			line = slices.Delete(line, len(r.By), len(r.By)+1)
			if level < len(r.By) && r.Rows[i].Other == 0 {
				line[level] = "total"
			}
			t.rows = append(t.rows, line)
		}
		for i := range r.By {
			t.kinds[i] = textBeside(t.kinds[i])
		}
	}
	if book {
		t.strong = func(row int) bool { return row < len(levels) && levels[row] < len(r.By) }
	}
	for len(t.kinds) < len(t.header) {
		t.kinds = append(t.kinds, plan.Number)
	}
	return t
}

// textBeside is the kind of labels among which the word total stands.
func textBeside(k plan.Kind) plan.Kind {
	if k.Numeric() || k.Dated() || k == plan.Flag {
		return plan.Text
	}
	return k
}

// asked is what the flags ask for.
func (o *totalsFlags) asked() (asked totals.Asked, err error) {
	asked = totals.Asked{Only: o.only, Sort: o.sort, Top: o.top, Across: strings.TrimSpace(o.across)}
	if o.must != "" && o.must != "tie" {
		return asked, fmt.Errorf("--must %s: it is tie", place.Shorten(o.must))
	}
	if o.top < 0 {
		return asked, fmt.Errorf("--top %d: it is how many, from 1 on", o.top)
	}
	if asked.By, err = listOf(o.by); err != nil {
		return asked, err
	}
	if asked.Of, err = listOf(o.of); err != nil {
		return asked, err
	}
	shows, err := listOf(o.show)
	for _, text := range shows {
		i := slices.Index(totals.Shows, text)
		if i < 0 {
			return asked, fmt.Errorf("--show %s: it is one of %s", place.Shorten(text), strings.Join(totals.Shows, ", "))
		}
		asked.Show = append(asked.Show, totals.Show(i))
	}
	return asked, err
}

// recordOf is the record of the build that delivered a table, and its folder; nil for none, and where rows of other builds
// stay in the table.
func (a *app) recordOf(t *finished.Table) (*totals.Record, string) {
	p := t.Plan()
	if p == nil {
		return nil, ""
	}
	if d := deliveryNamed(p, t.Name); d == nil || d.Load.Append || len(d.Load.Replace) > 0 {
		return nil, ""
	}
	text, err := os.ReadFile(filepath.Join(p.At(p.Record), "build.json"))
	if err != nil {
		return nil, ""
	}
	return totals.ReadRecord(text), p.At(p.Record)
}

// mustTie are the measures that do not agree with the record.
func mustTie(t *finished.Table, r *totals.Result, ties []totals.Tie) (problems place.List) {
	if len(ties) == 0 {
		p := place.At(place.Place{File: t.Name}, "tie", "there is no record of a build to tie to").ByRule()
		p.Advice = "build with the plan that delivers the table, and name it with --plan"
		return place.List{p}
	}
	for _, tie := range ties {
		if !tie.Agrees() {
			p := place.At(place.Place{File: t.Name}, "tie", "%s is %s here, and %s in the record of the build: %s apart", tie.Measure,
				shownAmount(r, tie.Measure, tie.Have), shownAmount(r, tie.Measure, tie.Said),
				shownAmount(r, tie.Measure, tie.Have.Sub(tie.Said))).ByRule()
			p.Advice = "build again; the table was changed since, or is another one"
			problems.Add(p)
		}
	}
	return problems
}

// asUsage is a mistake in what is asked as a usage error.
func (a *app) asUsage(err error) error {
	var m *finished.Mistake
	if errors.As(err, &m) {
		return usageError{m}
	}
	return err
}

// addGroup adds a column of groups: "side of region: East = Skerries, Amber Bay; West = Lakes"
// or "family of product: book.csv".
func addGroup(v *finished.View, text string) error {
	head, rest, ok := strings.Cut(text, ":")
	name, of, named := strings.Cut(head, " of ")
	name, of, rest = strings.TrimSpace(name), strings.TrimSpace(of), strings.TrimSpace(rest)
	if !ok || !named || name == "" || of == "" || rest == "" {
		return &finished.Mistake{Text: fmt.Sprintf("--group %s: write it as \"side of region: East = Skerries, Amber Bay; West = Lakes\"",
			place.Shorten(text))}
	}
	var book *names.Book
	pieces := pieces(rest, ";")
	if len(pieces) == 1 && len(halves(rest)) == 1 {
		data, err := readText(rest)
		if err == nil && data == nil {
			err = errors.New("there is no such file")
		}
		if err != nil {
			return place1("unreadable file", rest, "the book cannot be read: "+err.Error())
		}
		if book, err = names.ReadBook(rest, bytes.NewReader(data)); err != nil {
			return err
		}
		return v.Group(name, of, book)
	}
	var lines bytes.Buffer
	w := csv.NewWriter(&lines)
	w.Write([]string{"seen", "standard"})
	group := map[string]string{}
	for _, piece := range pieces {
		sides := halves(piece)
		if strings.TrimSpace(piece) == "" {
			continue
		}
		if len(sides) != 2 {
			return &finished.Mistake{Text: "--group " + place.Shorten(piece) + ": a group is written as East = Skerries, Amber Bay"}
		}
		standard := plainText(sides[0])
		for _, value := range namesIn(sides[1]) {
			if before, again := group[value]; again && before != standard {
				return &finished.Mistake{Text: "--group: " + value + " is in two groups, " + before + " and " + standard}
			}
			group[value] = standard
			w.Write([]string{value, standard})
		}
	}
	w.Flush()
	book, err := names.ReadBook("--group", &lines)
	if err != nil {
		return &finished.Mistake{Text: err.Error()}
	}
	return v.Group(name, of, book)
}
