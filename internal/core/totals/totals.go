// Package totals adds up a finished table by groups: exactly, with subtotals, one column
// across, and with what is missing from a figure counted beside it.
package totals

import (
	"context"
	"slices"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// Show is what is shown of the values of a group.
type Show uint8

// The shows.
const (
	Sum      Show = iota
	Count         // fact rows
	Filled        // values
	Distinct      // different values: texts by the key, numbers by value
	Mean
	Min
	Max
	Share // of the grand total of the measure, in percent
)

// Shows are the names of the shows.
var Shows = []string{"sum", "count", "filled", "distinct", "mean", "min", "max", "share"}

// String returns the name of the show.
func (s Show) String() string { return Shows[s] }

// Counts reports whether the show counts, so that it is whole.
func (s Show) Counts() bool { return s == Count || s == Filled || s == Distinct }

// MostPlaces is how many decimal places a mean or a share has at most.
const MostPlaces = 15

// Asked is what is asked.
type Asked struct {
	By     []string // columns, or formulas
	Across string   // one more, whose values become columns; "" for none
	Of     []string // measures; empty for all
	Show   []Show   // empty for the sum, or for rows where there is no measure
	Only   string   // a formula: which rows
	Sort   string   // a measure, or count, by whose total each level is sorted; with - the largest first; "" for labels
	// OneSpelling takes labels of one key as one, in the spelling that stands first.
	OneSpelling bool
	Top         int // so many of the first level, the rest in one line; 0 for all
}

// Figure is a column of figures.
type Figure struct {
	Across *string // its label, nil without, or for an empty one
	Of     string  // the measure, "" for fact rows
	Show   Show
	Total  bool // of all labels across
	Empty  bool // of the empty label across

	group int // which label across; -1 for all
	of    int // of the measures; -1 for fact rows
}

// Row is a line of the result.
type Row struct {
	By      []*string // labels, as many as the line fixes; nil for an empty one
	Figures []*string // by column of figures; nil where there is no value
	Gaps    []int     // cells that are no number and are not in the figure
	Blanks  []int     // empty ones
	Other   int       // how many labels the line Other (n) stands for, else 0
}

// Level is how many columns the line fixes: 0 is the grand total.
func (r *Row) Level() int { return len(r.By) }

// Gap counts the cells of a column that have no value of its kind.
type Gap struct {
	Column string
	Kind   value.Gap
	Count  int
	Places []GapPlace // the first five
}

// GapPlace is one of them.
type GapPlace struct {
	Row  int
	Text string
}

// InNone are the values of a column that are in no group, and how many rows have them.
type InNone struct {
	Column string
	Values []string // the first thousand
	Rows   int
}

// Result is what came of it.
type Result struct {
	By        []string
	Kinds     []plan.Kind // of By
	Across    string
	Columns   []Figure
	Rows      []Row
	Read      int // rows of the table
	Kept      int // those that the filter keeps
	Gaps      []Gap
	Groups    []InNone
	Spellings []string       // labels that differ in spelling alone, as "Holm, HOLM"
	Whole     []WholeAmount  // of the measures, before the filter
	Decimals  map[string]int // of sums of each measure, -1 for as many as they need
	Places    map[string]int // the most that a value of it has
}

// WholeAmount is the sum of a measure in the whole table.
type WholeAmount struct {
	Measure string
	Sum     value.Decimal
}

// run is a question under way.
type run struct {
	asked  Asked
	view   *finished.View
	by     []int // columns of the view, that across last
	across bool
	of     []int
	left   []bool // of each: a plan has left its empty values so
	shows  []Show
	kept   *kept
	none   *cell // a group without rows
	zeros  []int // counts of a row that misses nothing, by column of figures
}

// Of answers a question. The view may have groups already. The error is a *finished.Mistake
// for what cannot be asked, else a place.List.
func Of(ctx context.Context, view *finished.View, asked Asked) (*Result, error) {
	r := &run{asked: asked, view: view, shows: asked.Show}
	if err := r.ask(); err != nil {
		return nil, err
	}
	r.kept = newKept(r)
	if problems := view.Run(ctx, r.kept); len(problems) > 0 {
		return nil, problems
	}
	return r.result()
}

// ask finds the columns that are asked for.
func (r *run) ask() error {
	for _, text := range r.asked.By {
		i, err := r.view.Column(text)
		if err != nil {
			return err
		}
		r.by = append(r.by, i)
	}
	if r.asked.Across != "" {
		i, err := r.view.Column(r.asked.Across)
		if err != nil {
			return err
		}
		r.by, r.across = append(r.by, i), true
	}
	if r.asked.Only != "" {
		if err := r.view.Filter(r.asked.Only); err != nil {
			return err
		}
	}
	if err := r.askMeasures(); err != nil {
		return err
	}
	return r.checkSort()
}

// askMeasures finds the measures: those that are named, or all numbers that may be added up
// and are not used otherwise.
func (r *run) askMeasures() error {
	for _, text := range r.asked.Of {
		i, err := r.view.Column(text)
		if err != nil {
			return err
		}
		r.of = append(r.of, i)
	}
	if len(r.asked.Of) == 0 {
		for _, c := range r.view.Table.Columns {
			if c.Add && !slices.ContainsFunc(r.by, func(i int) bool { return r.view.Spec(i).Name == c.Name }) {
				i, _ := r.view.Column(c.Name)
				r.of = append(r.of, i)
			}
		}
	}
	for _, i := range r.of {
		c := r.tableColumn(i)
		r.left = append(r.left, c != nil && c.Left)
	}
	if len(r.shows) == 0 {
		r.shows = []Show{Sum}
		if len(r.of) == 0 {
			r.shows = []Show{Count}
		}
	}
	for _, i := range r.of {
		c := r.view.Spec(i)
		for _, s := range r.shows {
			switch {
			case s == Count, s == Distinct, s == Filled, c.Kind.Numeric():
			case (s == Min || s == Max) && c.Kind.Dated():
			default:
				return &finished.Mistake{Text: c.Name + " is a " + c.Kind.String() + " column: " + s.String() +
					" wants numbers; --show count, filled or distinct goes with any column"}
			}
		}
	}
	return nil
}

// checkSort looks at what is sorted by.
func (r *run) checkSort() error {
	name := strings.TrimPrefix(r.asked.Sort, "-")
	if name == "" || name == "count" || r.measure(name) >= 0 {
		return nil
	}
	var names []string
	for _, i := range r.of {
		names = append(names, r.view.Spec(i).Name)
	}
	near := key.Nearest(name, names)
	if near != "" {
		near = "; did you mean " + near + "?"
	}
	return &finished.Mistake{Text: "--sort " + place.Shorten(name) + ": no such measure is shown; there are " +
		strings.Join(append(names, "count"), ", ") + near}
}

// measure is which of the measures has a name, -1 for none.
func (r *run) measure(name string) int {
	return slices.IndexFunc(r.of, func(i int) bool { return key.Same(r.view.Spec(i).Name, name) })
}

// tableColumn is a column of the view as the table has it; nil for one that is made.
func (r *run) tableColumn(i int) *finished.Column {
	for j := range r.view.Table.Columns {
		if c := &r.view.Table.Columns[j]; c.Name == r.view.Spec(i).Name && !r.view.Spec(i).Made() {
			return c
		}
	}
	return nil
}

// decimals are those of a sum of a column of the view; -1 for as many as it needs.
func (r *run) decimals(i int) int {
	if c := r.tableColumn(i); c != nil && c.Kind.Numeric() {
		return c.Decimals
	}
	return -1
}

// kindOf is the kind of a column of the view, as its labels are sorted.
func (r *run) kindOf(i int) plan.Kind { return r.view.Spec(i).Kind }
