package cli

import (
	"context"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/expression"
	"umbau/internal/core/finished"
	"umbau/internal/core/plan"
	"umbau/internal/core/totals"
)

// mostCompleted is how many bytes a table has at most whose values are completed.
const mostCompleted = 16 << 20

// completion completes what is asked of a finished table.
type completion struct{ o *tableFlags }

// register completes the flags with lists of columns; only completes formulas.
func (o *tableFlags) register(cmd *cobra.Command, lists ...string) {
	for _, name := range lists {
		_ = cmd.RegisterFlagCompletionFunc(name, completion{o}.columns) // fails only where there is no such flag
	}
	_ = cmd.RegisterFlagCompletionFunc("only", completion{o}.formula)
	cmd.ValidArgsFunction = completeExtracts
}

// tables are the tables of a command line: those that are named, or the plan's first delivery.
func (c completion) tables(args []string) []string {
	if len(args) > 0 {
		return args
	}
	if p, err := readPlan(c.o.plan, limits{}); err == nil && len(p.Deliveries) > 0 {
		return []string{tableOf(p, delivered(p))}
	}
	return nil
}

// headers are those of a table, as a formula has them, and the table's size.
func (c completion) headers(name string) ([]string, int64) {
	headers, size, err := finished.Headers(name, finished.Options{Formats: formats(c.o.limits)})
	if err != nil {
		return nil, 0
	}
	return headers, size
}

// columns completes the last name of a list; behind an equal sign that of the second table.
func (c completion) columns(_ *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective) {
	table, at := 0, strings.LastIndexAny(begun, ",=")
	if at >= 0 && begun[at] == '=' {
		table = 1
	}
	before, sign := begun[:at+1], ""
	if rest := begun[at+1:]; strings.HasPrefix(rest, "-") { // of --sort
		sign = "-"
	}
	tables := c.tables(args)
	if table >= len(tables) {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	var out []string
	headers, _ := c.headers(tables[table])
	for _, h := range headers {
		out = append(out, before+sign+h)
	}
	return beginning(begun, out), partly
}

// partly says that what is completed may go on, and is no file.
const partly = cobra.ShellCompDirectiveNoFileComp | cobra.ShellCompDirectiveNoSpace

// beginning are the words that begin so.
func beginning(begun string, words []string) []string {
	return slices.DeleteFunc(words, func(w string) bool { return !strings.HasPrefix(w, begun) })
}

// comparison is a column and a sign of comparison at the end of a formula, and a value that
// has begun.
var comparison = expression.Of(`(?:\{([^{}]+)\}|([\pL_][\pL\pN_]*))\s*(?:=|<>|<=|>=|<|>)\s*(['"]?)[^'"]*$`)

// formula completes a column name, or behind a comparison a value of the column, where the
// table is small.
func (c completion) formula(cmd *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective) {
	tables := c.tables(args)
	if len(tables) == 0 {
		return nil, partly
	}
	headers, size := c.headers(tables[0])
	if m := comparison().FindStringSubmatchIndex(begun); m != nil {
		column := ""
		for _, i := range []int{2, 4} {
			if m[i] >= 0 {
				column = begun[m[i]:m[i+1]]
			}
		}
		if size > mostCompleted {
			return nil, partly
		}
		var out []string
		for _, v := range c.values(tables[0], column) {
			out = append(out, begun[:m[6]]+v)
		}
		return beginning(begun, out), partly
	}
	at := strings.LastIndexFunc(begun, func(r rune) bool { return strings.ContainsRune(" (,+*/<>=-", r) })
	var out []string
	for _, h := range headers {
		if !plainName().MatchString(h) {
			h = "{" + h + "}"
		}
		out = append(out, begun[:at+1]+h)
	}
	return beginning(begun, out), partly
}

// plainName is a name that stands in a formula as it is.
var plainName = expression.Of(`^[\pL_][\pL\pN_]*$`)

// values are those of a column, as a formula has them.
func (c completion) values(table, column string) (out []string) {
	ctx := context.Background()
	t, err := finished.Open(ctx, table, finished.Options{Formats: formats(c.o.limits)})
	if err != nil {
		return nil
	}
	r, err := totals.Of(ctx, t.View(), totals.Asked{By: []string{column}, Show: []totals.Show{totals.Count}})
	if err != nil {
		return nil
	}
	bare := r.Kinds[0].Numeric() || r.Kinds[0] == plan.Year || r.Kinds[0] == plan.Flag
	for _, row := range r.Rows {
		if row.Level() < 1 || row.By[0] == nil {
			continue
		}
		text := *row.By[0]
		if !bare {
			text = "'" + strings.ReplaceAll(text, "'", "''") + "'"
		}
		out = append(out, text)
	}
	return out
}
