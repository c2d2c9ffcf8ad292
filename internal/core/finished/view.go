package finished

import (
	"context"
	"errors"
	"strings"
	"unicode/utf8"

	"umbau/internal/core/formula"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
)

// View is what is asked of a table.
type View struct {
	Table *Table
	Only  int // the column of the filter, -1 for none
	// Remarks are what a person must know of the rows, once they were read.
	Remarks []string

	plan  *plan.Plan
	books []*names.Book
}

// Other is what a value gets that is in no group.
const Other = "Other"

// View begins to ask.
func (t *Table) View() *View { return &View{Table: t, Only: -1, plan: t.plan()} }

// Spec is a column of the view.
func (v *View) Spec(i int) *plan.Column { return v.plan.Columns[i] }

// Run reads the table, and shows its blocks to keepers.
func (v *View) Run(ctx context.Context, keepers ...pass.Keeper) place.List {
	if len(v.plan.Columns) == 0 { // rows are counted all the same
		c := v.Table.Columns[0]
		v.add(c.spec())
	}
	w := &watch{}
	problems := v.Table.run(ctx, v.plan, &pass.Rules{Books: v.books}, append(keepers, w)...)
	v.Remarks = w.remarks()
	return problems
}

// Find finds a column of the table by its header, or one that the view has made.
func (v *View) find(name string) *Column {
	k := key.Of(name)
	for i := range v.Table.Columns {
		if c := &v.Table.Columns[i]; c.Name == name || key.Of(c.Name) == k {
			return c
		}
	}
	return nil
}

// index is the column of the view for a header, which it asks for if it has not yet; -1 for
// no such header.
func (v *View) index(name string) int {
	k := key.Of(name)
	for i, c := range v.plan.Columns {
		if c.Formula == nil && key.Of(c.Name) == k {
			return i
		}
	}
	c := v.find(name)
	if c == nil {
		return -1
	}
	return v.add(c.spec())
}

func (v *View) add(c *plan.Column) int {
	v.plan.Columns, v.books = append(v.plan.Columns, c), append(v.books, nil)
	i := len(v.plan.Columns) - 1
	if c.Made() {
		v.plan.Made = append(v.plan.Made, i)
	}
	return i
}

// Column asks for a column: a header, a group, or a formula of them. The error is a
// *Mistake.
func (v *View) Column(text string) (int, error) {
	if i := v.index(text); i >= 0 {
		return i, nil
	}
	f, err := v.formula(text)
	if err != nil {
		return 0, err
	}
	return v.made(text, f), nil
}

func (v *View) made(text string, f *formula.Formula) int {
	for i, c := range v.plan.Columns {
		if c.Formula != nil && c.Name == text {
			return i
		}
	}
	c := Column{Name: text, Kind: plan.KindOfFormula(f.Type), Decimals: -1}
	s := c.spec()
	s.Formula = f
	return v.add(s)
}

// Filter asks only for rows of which a formula is true.
func (v *View) Filter(text string) error {
	f, err := v.formula(text)
	if err != nil {
		return err
	}
	if err := f.Condition(); err != nil {
		return v.mistakeIn(text, err)
	}
	v.Only = v.made(text, f)
	return nil
}

// formula reads a formula and asks for the columns that it names.
func (v *View) formula(text string) (*formula.Formula, error) {
	src := strings.TrimPrefix(text, "=")
	f, err := formula.Parse(src)
	if err != nil {
		return nil, v.mistakeIn(src, err)
	}
	err = f.Check(v.plan.Calendar, func(name string) (formula.Type, error) {
		i := v.index(name)
		if i < 0 {
			m := v.missing(name)
			if !strings.HasSuffix(m.Text, "?") {
				m.Text += formula.TextInQuotes(name)
			}
			return 0, m
		}
		return v.plan.Columns[i].Kind.Type(), nil
	})
	if err != nil {
		return nil, v.mistakeIn(src, err)
	}
	for i, name := range f.Columns {
		f.Columns[i] = v.plan.Columns[v.index(name)].Name
	}
	return f, nil
}

// missing says that a column is not there, and which one is meant.
func (v *View) missing(name string) *Mistake {
	headers := v.headers()
	if near := key.Nearest(name, headers); near != "" {
		return mistake("%s has no column %q; did you mean %s?", v.Table.Name, name, near)
	}
	return mistake("%s has no column %q; it has %s", v.Table.Name, name, place.Shorten(strings.Join(headers, ", ")))
}

// headers are those of the table, and the groups.
func (v *View) headers() (out []string) {
	for _, c := range v.Table.Columns {
		out = append(out, c.Name)
	}
	for i, c := range v.plan.Columns {
		if v.books[i] != nil {
			out = append(out, c.Name)
		}
	}
	return out
}

// mistakeIn says what is wrong with a formula, and where in it. A single name is a column
// that is not there.
func (v *View) mistakeIn(src string, err error) error {
	var bad *formula.Error
	if !errors.As(err, &bad) {
		return err
	}
	if strings.Contains(bad.Text, "has no column") && key.Of(src) != "" && !strings.ContainsAny(src, "(){}<>=+*/\"'") {
		return v.missing(strings.TrimSpace(src))
	}
	return mistake("%s, character %d: %s", place.Shorten(src), utf8.RuneCountInString(src[:min(bad.Offset, len(src))])+1, bad.Text)
}

// Group makes a column of the groups that the values of another one are in; of values that
// are in none, Other. The error is a *Mistake.
func (v *View) Group(name, of string, book *names.Book) error {
	if v.index(name) >= 0 {
		return mistake("a group cannot be called %q: there is a column of this name", name)
	}
	i := v.index(of)
	if i < 0 {
		return v.missing(of)
	}
	c := Column{Name: name, Kind: plan.Text, Decimals: -1}
	s := c.spec()
	s.Kind, s.From, s.Book = plan.Name, v.plan.Columns[i].Name, name
	s.Unknown = plan.Rule{Remedy: plan.Put, Text: Other}
	column := v.add(s)
	v.books[column] = book
	return nil
}

// GroupedBy goes through the columns of groups, each with the column of what is grouped.
func (v *View) GroupedBy(yield func(column, of int) bool) {
	for i, book := range v.books {
		if book != nil && !yield(i, v.index(v.plan.Columns[i].From)) {
			return
		}
	}
}

// Book says in which group a value of a column of groups is; nil for another column.
func (v *View) Book(column int) *names.Book { return v.books[column] }
