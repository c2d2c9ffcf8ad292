package cli

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/place"
	"umbau/internal/core/value"
	"umbau/internal/core/widen"
)

// widenFlags are the flags of widen.
type widenFlags struct {
	tableFlags
	across, cell, by, take, fill string
}

func (a *app) widenCommand() *cobra.Command {
	var o widenFlags
	cmd := &cobra.Command{
		Use:   "widen [TABLE]",
		Short: "A long table back to a wide one: a column for each value of one",
		Long: `Make a wide table of a long one: each value of one column becomes a column. Lines stand
in the order in which they come; columns by value, of texts in the order in which
they come. Two values for one cell stop, unless --take says which.

Exit codes: 0 done; 1 could not; 2 wrong usage; 3 where two values are for one cell.`,
		Example: `  umbau widen --across month --cell amount --by region,product --take sum
  umbau widen out/sales.csv --across product --cell quantity,amount -o wide.csv`,
		Args: atMost(1),
		RunE: func(c *cobra.Command, args []string) error { return a.widen(c, args, o) },
	}
	f := cmd.Flags()
	f.StringVar(&o.across, "across", "", "the column, or formula, whose values become columns")
	f.StringVar(&o.cell, "cell", "", "what stands in the cells; several with commas")
	f.StringVar(&o.by, "by", "", "the columns that make a line (default: all others)")
	f.StringVar(&o.take, "take", "one", "what a cell takes of several values: "+strings.Join(widen.Takes, ", "))
	f.StringVar(&o.fill, "fill", "", "what stands in cells without a row, such as 0")
	o.add(cmd)
	o.register(cmd, "across", "cell", "by")
	return cmd
}

func (a *app) widen(c *cobra.Command, args []string, o widenFlags) error {
	asked := widen.Asked{Across: strings.TrimSpace(o.across), Take: o.take, Fill: o.fill, Only: o.only}
	var err error
	if asked.Cells, err = listOf(o.cell); err == nil {
		asked.By, err = listOf(o.by)
	}
	switch {
	case err != nil:
	case asked.Across == "" || len(asked.Cells) == 0:
		err = errors.New("--across says whose values become columns, and --cell what stands in them")
	case !slices.Contains(widen.Takes, o.take):
		err = fmt.Errorf("--take %s: it is one of %s", place.Shorten(o.take), strings.Join(widen.Takes, ", "))
	}
	if err != nil {
		return usageError{err}
	}
	t, err := a.openTable(c, args, o.tableFlags)
	if err != nil {
		return err
	}
	v := t.View()
	r, err := widen.Of(c.Context(), v, asked)
	if err != nil {
		return a.stopped(c, a.asUsage(err))
	}
	a.remark(t, v)
	if o.output != "" {
		if err := a.writeTable(o.output, tidy{what: "wide table", header: r.Columns, kinds: r.Kinds, rows: texts(r.Rows)}); err != nil ||
			o.output == stdout {
			return err
		}
	}
	switch {
	case a.json:
		a.printJSON(struct {
			place.DocHead
			Columns []string    `json:"columns"`
			Rows    [][]*string `json:"rows"`
		}{head(words(c), 0, nil), r.Columns, orEmpty(r.Rows)})
	case !a.quiet:
		a.printWide(r)
	}
	return nil
}

// stopped prints what stops a command by rule, with places and what to do, as its result.
func (a *app) stopped(c *cobra.Command, err error) error {
	var list place.List
	if a.json || !errors.As(err, &list) || list.ExitCode() != 3 {
		if errors.As(err, &list) && a.json {
			a.exit = list.ExitCode()
			a.printJSON(head(words(c), a.exit, list))
			return nil
		}
		return err
	}
	a.exit = 3
	for i := range list {
		p := &list[i]
		fmt.Fprintf(a.err, "%s\n", a.colored(a.err, bad, countOf(p.Count, "cell")+": "+p.Message))
		for k, at := range p.Places {
			text := ""
			if k < len(p.Texts) {
				text = ": " + p.Texts[k]
			}
			fmt.Fprintf(a.err, "  %s%s\n", at, text)
		}
		if n := p.Count - len(p.Places); n > 0 {
			fmt.Fprintf(a.err, "  … and %d more\n", n)
		}
		if p.Advice != "" {
			fmt.Fprintf(a.err, "  → %s\n", p.Advice)
		}
	}
	return nil
}

// texts are the cells of a table as texts.
func texts(rows [][]*string) (out [][]string) {
	for _, row := range rows {
		var line []string
		for _, t := range row {
			if t == nil {
				line = append(line, "")
			} else {
				line = append(line, *t)
			}
		}
		out = append(out, line)
	}
	return out
}

// printWide prints the wide table for a person.
func (a *app) printWide(r *widen.Result) {
	c := crosstab{labels: r.Columns[:r.By]}
	for _, head := range r.Columns[r.By:] {
		c.heads = append(c.heads, []string{head})
	}
	for _, row := range texts(r.Rows) {
		line := crossRow{labels: row[:r.By]}
		for i, text := range row[r.By:] {
			if r.Numbers[i%len(r.Numbers)] {
				text = value.Grouped(text)
			}
			line.figures = append(line.figures, text)
		}
		c.rows = append(c.rows, line)
	}
	c.print(a, windowWidth(a.out))
	if len(r.Spellings)+len(r.Gaps) > 0 {
		fmt.Fprintln(a.out)
	}
	for _, g := range r.Gaps {
		fmt.Fprintf(a.out, "  %s\n", strings.Replace(gapNote(g, "", "number"), "not in these figures", "left empty", 1))
	}
	for _, s := range r.Spellings {
		fmt.Fprintf(a.out, "  spellings of one name, kept apart: %s\n", s)
	}
}
