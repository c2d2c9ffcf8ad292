package cli

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/since"
	"umbau/internal/core/value"
)

// mostNew is how many things of a kind the summary tells.
const mostNew = 3

// printSince tells what is new since the last build that delivered.
func (a *app) printSince(s *fact.Summary) {
	if !s.Since.Known || s.Since.First {
		return
	}
	when := s.Since.At.Format("2 January 2006, 15:04")
	if len(s.Since.Changes) == 0 {
		what := ""
		if len(s.NotRead) > 0 {
			what = " in what was read"
		}
		fmt.Fprintf(a.out, "\nNothing is new%s since the last build (%s).\n", what, when)
		return
	}
	kinds, whole := map[string][]*since.Change{}, map[[2]string]bool{}
	for i := range s.Since.Changes {
		c := &s.Since.Changes[i]
		at := [2]string{c.File, c.Sheet}
		if c.What == since.Extract && (c.Before == "" || c.Now == "") {
			whole[at] = true
		}
		if c.What == since.Header && c.Elsewhere && whole[at] { // a new extract has headers as others do
			continue
		}
		kinds[c.What] = append(kinds[c.What], c)
	}
	fmt.Fprintf(a.out, "\n%s\n", a.colored(a.out, bold, "New since the last build ("+when+"):"))
	a.printUnlike(s, kinds[since.Says])
	for _, c := range firstOf(kinds[since.Group]) {
		now, by := grouped(c.Now), ""
		if c.Now == "" {
			now = "gone"
		} else {
			by = ", " + signed(grouped(c.Difference().String()))
		}
		fmt.Fprintf(a.out, "  ! %s: %s was %s, is %s%s\n", place.Shorten(c.Group), c.Measure, grouped(c.Before), now, by)
	}
	if n := len(kinds[since.Group]) - mostNew; n > 0 {
		fmt.Fprintf(a.out, "  ! and %s with another figure\n", countOf(n, "more group"))
	}
	a.printKinds(s, kinds)
	if s.Recorded {
		more := ""
		if len(kinds[since.Value])+len(kinds[since.Span])+len(kinds[since.Says])+len(s.Since.Sizes)+len(s.Since.Behind) > 0 {
			more = " and build.json"
		}
		fmt.Fprintf(a.out, "  all of it in %s%s\n", path.Join(s.Plan.Record, record.SinceFile), more)
	}
	if s.Since.Accepted {
		fmt.Fprintln(a.out, "  It was delivered all the same: --accept.")
	}
	if s.Since.Regroup {
		fmt.Fprintln(a.out, "  Groups are made by other columns now: their figures are compared from the next build on.")
	}
}

// printUnlike tells what extracts say of all their figures, as those of the last build did not, which figures are unlike all of
// those, and which groups are behind.
func (a *app) printUnlike(s *fact.Summary, says []*since.Change) {
	tell := func(n int, more string, text func(i int) string) {
		for i := range min(mostNew, n) {
			fmt.Fprintf(a.out, "  ! %s\n", text(i))
		}
		if n > mostNew {
			fmt.Fprintf(a.out, "  ! and %s\n", countOf(n-mostNew, more))
		}
	}
	tell(len(says), "more such line", func(i int) string {
		c, at := says[i], ""
		if c.File != "" {
			at = place.Shorten(c.File + sheetOf(c))
		}
		return since.SaysText(at, place.Shorten(c.Before), place.Shorten(c.Now))
	})
	tell(len(s.Since.Sizes), "more such measure", func(i int) string {
		z := &s.Since.Sizes[i]
		c := since.Change{File: z.File, Sheet: z.Sheet}
		return since.SizeText(place.Shorten(z.File+sheetOf(&c)), z.Measure, aMean(z.Mean), aMean(z.Least), aMean(z.Most))
	})
	tell(len(s.Since.Behind), "more such group", func(i int) string {
		g := &s.Since.Behind[i]
		return since.BehindText(place.Shorten(g.Group), g.Now)
	})
}

// aMean is a mean as it is shown.
func aMean(d value.Decimal) string {
	d, _ = d.Round(2).Rescale(2)
	return grouped(d.String())
}

// printKinds tells what is new of each kind but groups.
func (a *app) printKinds(s *fact.Summary, kinds map[string][]*since.Change) {
	var g grid
	for _, list := range [][]*since.Change{kinds[since.Name], kinds[since.Value]} {
		slices.SortStableFunc(list, func(x, y *since.Change) int { // likely mistakes first
			return strings.Compare(s.Since.Alike[y].Text, "") - strings.Compare(s.Since.Alike[x].Text, "")
		})
	}
	textOf := func(c *since.Change) string {
		like := s.Since.Alike[c]
		return since.ValueText(c.Name, c.Column, like.Text, like.Column)
	}
	for _, k := range []struct {
		what, noun string
		text       func(c *since.Change) string
	}{
		{since.Extract, "extract", func(c *since.Change) string { return c.File + sheetOf(c) }},
		{since.Header, "header", func(c *since.Change) string { return c.Before + c.Now + " in " + c.File + sheetOf(c) }},
		{since.Name, "name", textOf},
		{since.Value, "value", textOf},
	} {
		a.addNew(&g, k.noun, kinds[k.what], k.text)
	}
	for _, c := range kinds[since.Span] {
		g.add(c.Column, since.SpanText(c.Before, c.Now))
	}
	switch rows, amounts := len(kinds[since.Rows]), len(kinds[since.Amount]); {
	case rows > 0:
		g.add("rows", fmt.Sprintf("of %s, amounts in %s", countOf(rows, "extract"), countOf(amounts, "account")))
	case amounts > 0:
		g.add("amounts", "in "+countOf(amounts, "account"))
	}
	g.print(a.out)
	alike := func(c *since.Change) bool { return s.Since.Alike[c].Column == c.Column }
	switch i := slices.IndexFunc(kinds[since.Value], alike); {
	case i >= 0:
		column := kinds[since.Value][i].Column
		fmt.Fprintf(a.out, "  two spellings of one? %s: { is: name, book: names/%s.csv } in the plan; umbau names suggest --write "+
			"begins the book\n", column, column)
	case slices.ContainsFunc(kinds[since.Name], alike):
		fmt.Fprintln(a.out, "  two spellings of one? a book says so: umbau names suggest --write")
	}
}

// addNew adds what is new, changed and gone of a kind.
func (a *app) addNew(g *grid, noun string, list []*since.Change, text func(*since.Change) string) {
	for _, state := range []struct {
		name string
		is   func(*since.Change) bool
	}{
		{"new", func(c *since.Change) bool { return c.Before == "" }},
		{"gone", func(c *since.Change) bool { return c.Now == "" }},
		{"changed", func(c *since.Change) bool { return c.Before != "" && c.Now != "" }},
	} {
		var own []string
		for _, c := range list {
			if state.is(c) {
				own = append(own, place.Shorten(text(c)))
			}
		}
		if len(own) == 0 {
			continue
		}
		told := strings.Join(own[:min(mostNew, len(own))], ", ")
		if n := len(own) - mostNew; n > 0 {
			told += fmt.Sprintf(" and %d more", n)
		}
		g.add(countOf(len(own), noun)+" "+state.name, told)
	}
}

func firstOf(list []*since.Change) []*since.Change { return list[:min(mostNew, len(list))] }

// sheetOf is the sheet that a change is in, as it stands behind a file.
func sheetOf(c *since.Change) string {
	if c.Sheet == "" {
		return ""
	}
	return ", sheet " + c.Sheet
}

// signed is a difference with its sign.
func signed(text string) string {
	if strings.HasPrefix(text, "-") {
		return text
	}
	return "+" + text
}
