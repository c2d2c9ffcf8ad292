// Package compare puts two finished tables side by side at the columns that they share: each
// is added up first, so that no row is ever multiplied.
package compare

import (
	"context"
	"slices"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/totals"
	"umbau/internal/core/value"
)

// RatioPlaces is how many decimal places a ratio has at most.
const RatioPlaces = 6

// Asked is what is asked: of each pair the first is of A.
type Asked struct {
	By     [][2]string
	Of     [][2]string // empty for the measures that have one name in both
	Show   [2]totals.Show
	Only   string
	Within value.Decimal // the greatest difference that is none
}

// Line is a line of the comparison. Figures are by measure, nil for none.
type Line struct {
	By    []string // labels, empty ones among them
	A, B  []*value.Decimal
	Gaps  [2][]int // cells that are no number, and are not in A and B
	Blank [2][]int // empty ones
	Only  string   // "a" or "b" where the line stands on one side alone
}

// Difference is A − B of a measure; a side that is missing counts as nothing. It is nil where
// both are.
func (l *Line) Difference(m int) *value.Decimal {
	a, b := l.A[m], l.B[m]
	switch {
	case a == nil && b == nil:
		return nil
	case b == nil:
		return a
	case a == nil:
		d := b.Neg()
		return &d
	}
	d := a.Sub(*b)
	return &d
}

// Ratio is A / B of a measure, nil where one is missing, or B is 0.
func (l *Line) Ratio(m int) *value.Decimal {
	if l.A[m] == nil || l.B[m] == nil {
		return nil
	}
	q, ok := l.A[m].QuoTo(*l.B[m], RatioPlaces)
	if !ok {
		return nil
	}
	return &q
}

// Result is what came of it.
type Result struct {
	By    []string // as A calls them
	Of    [][2]string
	Show  [2]totals.Show
	Lines []Line // sorted by label
	Total Line   // of the whole tables
	Sides [2]*totals.Result
	Views [2]*finished.View
}

// Of compares two tables. The error is a *finished.Mistake for what cannot be asked, else a
// place.List.
func Of(ctx context.Context, a, b *finished.Table, asked Asked) (*Result, error) {
	tables := [2]*finished.Table{a, b}
	if err := shared(tables, &asked); err != nil {
		return nil, err
	}
	r := &Result{Of: asked.Of, Show: asked.Show}
	for i, t := range tables {
		q := totals.Asked{Only: asked.Only, Show: []totals.Show{asked.Show[i]}, OneSpelling: true}
		for _, by := range asked.By {
			q.By = append(q.By, by[i])
		}
		for _, of := range asked.Of {
			q.Of = append(q.Of, of[i])
		}
		var err error
		v := t.View()
		if r.Sides[i], err = totals.Of(ctx, v, q); err != nil {
			return nil, err
		}
		r.Views[i] = v
	}
	r.By = r.Sides[0].By
	for i := range asked.By {
		if err := fit(tables, asked.By[i], r.Sides[0].Kinds[i], r.Sides[1].Kinds[i]); err != nil {
			return nil, err
		}
	}
	r.put(0)
	r.put(1)
	slices.SortStableFunc(r.Lines, func(x, y Line) int {
		for i, k := range r.Sides[0].Kinds {
			if c := totals.CompareLabels(k, x.By[i], y.By[i]); c != 0 {
				return c
			}
		}
		return 0
	})
	return r, nil
}

// fit reports whether two columns can be compared.
func fit(tables [2]*finished.Table, by [2]string, x, y plan.Kind) error {
	if finished.Comparable(x, y) {
		return nil
	}
	return finished.Unlike(tables[0].Name, by[0], x, tables[1].Name, by[1], y)
}

// shared looks at what is asked for, and finds the measures that both tables have.
func shared(tables [2]*finished.Table, asked *Asked) error {
	has := func(t *finished.Table, name string) bool {
		return slices.ContainsFunc(t.Columns, func(c finished.Column) bool { return key.Same(c.Name, name) })
	}
	var both []string
	for _, c := range tables[0].Columns {
		if has(tables[1], c.Name) {
			both = append(both, c.Name)
		}
	}
	common := "they share " + place.Shorten(strings.Join(both, ", "))
	if len(both) == 0 {
		common = "they share no column; --by \"branch=Outlet\" says what is called otherwise"
	}
	if len(asked.By) == 0 {
		return &finished.Mistake{Text: "--by says at which columns to compare: " + common}
	}
	for _, by := range asked.By {
		for i, t := range tables {
			if _, err := t.View().Column(by[i]); err != nil {
				return &finished.Mistake{Text: err.Error() + "; " + common}
			}
		}
	}
	if len(asked.Of) > 0 {
		return nil
	}
	for _, c := range tables[0].Columns {
		by := slices.ContainsFunc(asked.By, func(p [2]string) bool { return key.Same(p[0], c.Name) })
		for _, d := range tables[1].Columns {
			if c.Add && d.Add && !by && key.Same(c.Name, d.Name) {
				asked.Of = append(asked.Of, [2]string{c.Name, d.Name})
			}
		}
	}
	if len(asked.Of) == 0 {
		return &finished.Mistake{Text: "the tables have no measure of one name: --of \"amount=planned\" says which to compare"}
	}
	return nil
}

// put puts the groups of one side into the lines: spellings of one key in one line, as the
// one that comes first spells them.
func (r *Result) put(side int) {
	index := map[string]int{}
	spelling := map[string]string{} // of labels that A has
	spelled := func(column int, label string) string {
		return string(r.Sides[0].Kinds[column].AppendKey([]byte{byte(column), 0}, label))
	}
	name := func(labels []string) string {
		var k []byte
		for i, l := range labels {
			k = append(r.Sides[0].Kinds[i].AppendKey(k, l), 0)
		}
		return string(k)
	}
	for i := range r.Lines {
		index[name(r.Lines[i].By)] = i
		for column, l := range r.Lines[i].By {
			spelling[spelled(column, l)] = l
		}
	}
	of := r.Sides[side]
	for i := range of.Rows {
		row := &of.Rows[i]
		if row.Level() == 0 {
			r.Total.set(side, row, len(r.Of))
		}
		if row.Level() < len(of.By) {
			continue
		}
		var labels []string
		for _, l := range row.By {
			if l == nil {
				labels = append(labels, "")
			} else {
				labels = append(labels, *l)
			}
		}
		at, known := index[name(labels)]
		if !known {
			at = len(r.Lines)
			index[name(labels)] = at
			for column, l := range labels {
				if first, ok := spelling[spelled(column, l)]; ok {
					labels[column] = first
				}
			}
			r.Lines = append(r.Lines, Line{By: labels, Only: "ab"[side : side+1]})
		}
		l := &r.Lines[at]
		if l.Only != "" && l.Only != "ab"[side:side+1] {
			l.Only = ""
		}
		l.set(side, row, len(r.Of))
	}
}

// set puts what a row of one side has.
func (l *Line) set(side int, row *totals.Row, measures int) {
	if l.A == nil {
		l.A, l.B = make([]*value.Decimal, measures), make([]*value.Decimal, measures)
		l.Gaps, l.Blank = [2][]int{make([]int, measures), make([]int, measures)}, [2][]int{make([]int, measures), make([]int, measures)}
	}
	to := l.A
	if side == 1 {
		to = l.B
	}
	for m := range measures {
		at := min(m, len(row.Figures)-1) // rows are counted once for all measures
		l.Gaps[side][m], l.Blank[side][m] = row.Gaps[at], row.Blanks[at]
		if text := row.Figures[at]; text != nil {
			d, _, _ := value.English.Number([]byte(*text))
			to[m] = &d
		}
	}
}
