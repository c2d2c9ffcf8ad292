// Package trace leads from fact rows back to the cells of extracts that they were made of, and from a
// cell to what became of it. It reads the extracts again, under the plan of the last build that
// delivered, and writes nothing.
package trace

import (
	"context"
	"fmt"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// The fates of a cell, or of a fact row.
const (
	Fact    = "fact"
	Held    = "held"
	LeftOut = "left out"
	Summed  = "summed"
	Above   = "above" // the table
)

// Asked is what is asked: the rows of which a formula is true, the row in a line of the delivery, or
// what became of a cell.
type Asked struct {
	Where string
	Row   int
	Cell  *place.Place
	Of    []string // measures; empty for all
	Most  int      // how many rows have their cells; 0 for all
}

// Options are how the extracts are read.
type Options struct {
	Formats  *table.Formats
	Workers  int
	Progress func(done, all int64)
}

// Cell is a cell that a fact row was made of.
type Cell struct {
	place.Place
	Column, Read, Became string
	Rule                 string // of the plan that made another value of it, "" for none
	Line                 int    // of the plan
}

// Row is a fact row, or a cell that none was made of.
type Row struct {
	Line  int      // of the delivery, of a summed row that of the one it was added to; 0 where it is not delivered
	Fact  []string // by column; nil where there is none
	Cells []Cell
	Fate  string
	Why   string
}

// Left is what became of a cell that no fact row was made of.
type Left struct{ Fate, Why string }

// Figure is the sum of a measure, "" where no row has a value.
type Figure struct{ Measure, Sum string }

// Result is what was found.
type Result struct {
	Columns []string // of Fact
	Rows    []Row
	Count   int // delivered rows that are meant
	Sums    []Figure
	Held    int // rows that are meant and are held
	LeftOut int // and left out
	Build   *fact.Summary
}

// Mistake is what is wrong with what is asked.
type Mistake struct{ Text string }

// Error implements error.
func (m *Mistake) Error() string { return m.Text }

// Run answers. p is the plan; source is the text of the one that delivered last. The error is a
// *Mistake, a place.List of what could not be read, or that of ctx.
func Run(ctx context.Context, p *plan.Plan, source []byte, asked Asked, o Options) (*Result, error) {
	f := &finder{plan: p, where: -1, cell: asked.Cell, number: asked.Row, most: asked.Most}
	var err error
	if asked.Where != "" {
		if f.plan, f.where, err = plan.ReadWhere(p.File, source, o.Formats, asked.Where); err != nil {
			return nil, mistakeOf(err)
		}
	} else if f.plan, err = plan.Read(p.File, source, o.Formats); err != nil {
		return nil, err
	}
	if err := f.measures(asked.Of); err != nil {
		return nil, err
	}
	s, err := f.run(ctx, o)
	if err != nil {
		return nil, err
	}
	if asked.Row > 0 { // where it stands is known now
		if f.position == nil {
			return nil, &Mistake{fmt.Sprintf("the delivery has %d rows behind its header; there is no line %d", f.delivered, asked.Row+1)}
		}
		next := &finder{plan: f.plan, where: -1, at: f.position, measure: f.measure}
		if s, err = next.run(ctx, o); err != nil {
			return nil, err
		}
		f = next
	}
	if err := f.addSummed(ctx, o); err != nil {
		return nil, err
	}
	return f.result(s, asked)
}

// mistakeOf is a mistake in a formula, without the place in a plan that it does not have.
func mistakeOf(err error) error {
	if list, ok := err.(place.List); ok && len(list) > 0 {
		return &Mistake{list[0].Message}
	}
	return err
}

// measures finds the measures that are added up.
func (f *finder) measures(of []string) error {
	for i, c := range f.plan.Columns {
		if c.Kept && f.plan.Amount(c) && len(of) == 0 {
			f.measure = append(f.measure, i)
		}
	}
	for _, name := range of {
		c := f.plan.Column(name)
		if c == nil || !c.Kind.Numeric() || !c.Kept {
			return &Mistake{"the fact table has no measure " + name}
		}
		f.measure = append(f.measure, f.plan.Index(name))
	}
	return nil
}

// run reads the extracts.
func (f *finder) run(ctx context.Context, o Options) (*fact.Summary, error) {
	f.kept = f.plan.Kept()
	fresh := *f
	s, err := fact.Build(ctx, f.plan, fact.Options{Workers: o.Workers, DryRun: true, Accept: true, Progress: o.Progress,
		Look: func() []pass.Keeper {
			*f = fresh
			f.sums = make([]value.Sum, len(f.measure))
			return []pass.Keeper{f}
		}})
	if err != nil {
		return nil, err
	}
	if s.ExitCode() == 1 {
		return nil, s.Problems
	}
	return s, nil
}

// addSummed adds to found rows the cells of those that were added to them, and to those that were added to others the line of these.
func (f *finder) addSummed(ctx context.Context, o Options) error {
	if f.plan.Rows.Repeats != plan.Sum {
		return nil
	}
	err := f.others(ctx, o, table.Delivered, table.Summed, func(one, other *found) { one.cells = append(one.cells, other.cells...) })
	if err != nil {
		return err
	}
	return f.others(ctx, o, table.Summed, table.Delivered, func(one, other *found) { one.line = other.line })
}

// others calls a function with found rows of a fate, and each row of another fate that has the grain of one.
func (f *finder) others(ctx context.Context, o Options, of, other table.Fate, call func(one, other *found)) error {
	next := &finder{plan: f.plan, where: -1, grains: map[string][]int{}, fate: other}
	for i, one := range f.found {
		if one.fate == of {
			next.grains[one.grain] = append(next.grains[one.grain], i)
		}
	}
	if len(next.grains) == 0 {
		return nil
	}
	if _, err := next.run(ctx, o); err != nil {
		return err
	}
	for _, other := range next.found {
		for _, i := range next.grains[other.grain] {
			call(f.found[i], other)
		}
	}
	return nil
}

// fates are the fates of fact rows as a trace calls them.
var fates = map[table.Fate]string{table.Delivered: Fact, table.Held: Held, table.Summed: Summed}

func (f *finder) result(s *fact.Summary, asked Asked) (*Result, error) {
	r := &Result{Count: f.counted, Held: f.held, LeftOut: f.out, Build: s}
	for _, ci := range f.kept {
		r.Columns = append(r.Columns, f.plan.Columns[ci].Name)
	}
	for _, one := range f.found {
		row := Row{Line: one.line, Fact: one.fact, Fate: fates[one.fate], Why: one.why}
		if row.Fate == "" {
			row.Fate = LeftOut
		}
		for _, c := range one.cells {
			row.Cells = append(row.Cells, Cell{c.At, f.plan.Columns[c.Column].Name, c.Read, c.Became, c.Rule, c.Line})
		}
		r.Rows = append(r.Rows, row)
	}
	if asked.Cell != nil {
		if !f.met {
			return nil, &Mistake{fmt.Sprintf("no extract of the plan is %s", asked.Cell.Source())}
		}
		if len(r.Rows) == 0 && len(f.left) > 0 {
			left := f.left[0]
			r.Rows = append(r.Rows, Row{Fate: left.Fate, Why: left.Why, Cells: []Cell{{Place: *asked.Cell}}})
		}
		if len(r.Rows) == 0 && len(f.headers) > 0 {
			return nil, &Mistake{noHeader(*asked.Cell, f.headers)}
		}
		if len(r.Rows) == 0 {
			return nil, &Mistake{fmt.Sprintf("%s has no row %d", asked.Cell.Source(), asked.Cell.Row)}
		}
	}
	for i, m := range f.measure {
		c := f.plan.Columns[m]
		total := f.sums[i].Total()
		text := total.Shorten().String()
		if fixed, lost := total.Rescale(c.Decimals); c.Decimals >= 0 && !lost {
			text = fixed.String()
		}
		if f.sums[i].Empty() {
			text = ""
		}
		r.Sums = append(r.Sums, Figure{c.Name, text})
	}
	return r, nil
}

// noHeader says that an extract has no such header.
func noHeader(at place.Place, headers []string) string {
	near := key.Nearest(at.Header, headers)
	if near != "" {
		return fmt.Sprintf("%s has no header %q; did you mean %s?", at.Source(), at.Header, near)
	}
	return fmt.Sprintf("%s has no header %q; it has %s, and the letters of its columns do as well", at.Source(), at.Header,
		place.Shorten(strings.Join(headers, ", ")))
}
