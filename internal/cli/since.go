package cli

import (
	"fmt"
	"path"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/since"
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
		fmt.Fprintf(a.out, "\nNothing is new since the last build (%s).\n", when)
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
	var g grid
	for _, k := range []struct {
		what, noun string
		text       func(c *since.Change) string
	}{
		{since.Extract, "extract", func(c *since.Change) string { return c.File + sheetOf(c) }},
		{since.Header, "header", func(c *since.Change) string { return c.Before + c.Now + " in " + c.File + sheetOf(c) }},
		{since.Name, "name", func(c *since.Change) string { return c.Name + " of " + c.Column }},
	} {
		a.addNew(&g, k.noun, kinds[k.what], k.text)
	}
	if rows, amounts := len(kinds[since.Rows]), len(kinds[since.Amount]); rows+amounts > 0 {
		g.add("rows", fmt.Sprintf("of %s, amounts in %s", countOf(rows, "extract"), countOf(amounts, "account")))
	}
	g.print(a.out)
	if s.Recorded {
		fmt.Fprintf(a.out, "  all of it in %s\n", path.Join(s.Plan.Record, record.SinceFile))
	}
	if s.Since.Accepted {
		fmt.Fprintln(a.out, "  It was delivered all the same: --accept.")
	}
	if s.Since.Regroup {
		fmt.Fprintln(a.out, "  Groups are made by other columns now: their figures are compared from the next build on.")
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
