package cli

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/survey"
)

// How much of a survey is shown.
const (
	groupsOfLayout = 8
	mostLayouts    = 20
	mostHeaders    = 24
	mostFolded     = 3
)

// printSurvey tells what came in: the traps first, then the tables, those of a layout
// together.
func (a *app) printSurvey(r *survey.Report) {
	w := a.out
	rows := 0
	for _, t := range r.Tables {
		rows += t.Rows
	}
	layouts := survey.Layouts(r.Tables)
	traps := "no traps"
	if len(r.Traps) > 0 {
		traps = countOf(len(r.Traps), "trap")
	}
	if n := len(r.Problems); n > 0 {
		traps += fmt.Sprintf("; %s could not be read", countOf(n, "thing"))
	}
	headline := fmt.Sprintf("%s with %s in %s; %s", countOf(len(r.Tables), "table"), countOf(rows, "row"), countOf(len(layouts), "layout"),
		traps)
	if len(r.Tables) == 0 {
		headline = "No table was read"
	}
	fmt.Fprintln(w, a.colored(w, bold, headline))
	if len(r.Traps) > 0 {
		a.heading("Traps, to decide in the plan")
		a.printTraps(r.Traps)
	}
	for i := range layouts {
		if i == mostLayouts {
			fmt.Fprintf(w, "\n… and %s; --json has all\n", countOf(len(layouts)-i, "more layout"))
			break
		}
		a.printLayout(i+1, &layouts[i])
	}
	if len(r.Tables) > 1 {
		a.printHeaders(r)
	}
	for _, folder := range r.Aside {
		fmt.Fprintf(w, "\n%s is left aside: it is the record of a build\n", folder)
	}
	if len(r.Tables) > 0 {
		a.heading("What to do next")
		fmt.Fprintf(w, "  umbau draft works out a plan from these tables, with comments that say what decided it; then umbau build\n"+
			"  --dry-run shows what it makes of them and all that it does not decide yet.\n")
	}
}

// placesOfTrap is how many places of a trap are shown.
const placesOfTrap = 3

// counted is what traps of a kind count, but for cells.
var counted = map[string]string{
	"hidden sheet": "sheet", "hidden rows": "row", "hidden column": "column",
	"header twice": "column", "label alone": "row", "unread file": "file", "headers apart": "table", "garbled letters": "label",
	"no sales": "label", "same rows": "row", "same file": "row", "sum of others": "row", "sums so far": "row", "year of the file": "row",
}

// standIn is what each trap of a kind that counts so stands in.
var standIn = map[string]string{"cell": "column", "column": "column", "row": "table", "table": "table",
	"label": "column", "sheet": "sheet", "file": "file"}

// printTraps prints the traps, those of a kind together.
func (a *app) printTraps(traps []survey.Trap) {
	var kinds []string
	byKind := map[string][]survey.Trap{}
	for _, t := range traps {
		if byKind[t.What] == nil {
			kinds = append(kinds, t.What)
		}
		byKind[t.What] = append(byKind[t.What], t)
	}
	for _, k := range kinds {
		cells := 0
		for _, t := range byKind[k] {
			cells += t.Count
		}
		noun := cmp.Or(counted[k], "cell")
		fmt.Fprintf(a.out, "  %s, %s\n", a.colored(a.out, bold, k), countOf(cells, noun))
		for i, t := range byKind[k] {
			if i == placesOfTrap {
				fmt.Fprintf(a.out, "    … and in %s\n", countOf(len(byKind[k])-i, "more "+standIn[noun]))
				break
			}
			fmt.Fprintf(a.out, "    %s: %s\n", t.Place, t.Detail)
		}
	}
}

// printLayout prints one block for the tables of a layout: what they share, what differs,
// and their columns.
func (a *app) printLayout(number int, l *survey.Layout) {
	w := a.out
	shared := l.Tables[0].Described()
	for _, t := range l.Tables[1:] {
		own := t.Described()
		shared = slices.DeleteFunc(shared, func(s string) bool { return !slices.Contains(own, s) })
	}
	a.heading(fmt.Sprintf("Layout %d: %s, %s", number, countOf(len(l.Tables), "table"), countOf(l.Rows(), "row")))
	if len(shared) > 0 && len(l.Tables) > 1 {
		fmt.Fprintf(w, "  all: %s\n", strings.Join(shared, "; "))
	}
	groups := groupTables(l.Tables, shared)
	for i, g := range groups {
		if i == groupsOfLayout {
			n := 0
			for _, g := range groups[i:] {
				n += len(g.tables)
			}
			fmt.Fprintf(w, "  … and %s\n", countOf(n, "more table"))
			break
		}
		fmt.Fprintf(w, "  %s: %s\n", a.colored(w, bold, g.name()), strings.Join(append([]string{countOf(g.rows, "row")}, g.parts...), "; "))
	}
	g := grid{right: []int{2, 3}}
	g.add("column", "holds", "filled", "distinct", "examples", "gaps")
	for i := range l.Columns {
		c := &l.Columns[i]
		g.add(columnName(c), c.Is, grouped(strconv.Itoa(c.Filled)), distinctOf(c), examplesOf(c), gapsOf(c, len(l.Tables)))
	}
	g.print(w)
}

// group is tables of a layout of which the same is said, but for the rows where things stand
// and their texts.
type group struct {
	tables []*survey.Table
	rows   int
	parts  []string // what is said of them beside what all tables of the layout share
}

// name is what a group is called: its table, or how many and the first.
func (g *group) name() string {
	if len(g.tables) == 1 {
		return g.tables[0].Place.Source()
	}
	var names []string
	for i, t := range g.tables {
		if i == 3 {
			names = append(names, "…")
			break
		}
		names = append(names, t.Place.Source())
	}
	return countOf(len(g.tables), "table") + " (" + strings.Join(names, "; ") + ")"
}

// groupTables groups the tables of a layout. Three or fewer stand for themselves.
func groupTables(tables []*survey.Table, shared []string) []*group {
	index := map[string]*group{}
	var out []*group
	for _, t := range tables {
		var parts, kinds []string
		for _, s := range t.Described() {
			if len(tables) == 1 || !slices.Contains(shared, s) {
				parts, kinds = append(parts, s), append(kinds, kindOfPart(s))
			}
		}
		k := strings.Join(kinds, "\x00")
		g := index[k]
		if g == nil || len(tables) <= 3 {
			g = &group{parts: parts}
			index[k] = g
			out = append(out, g)
		} else {
			g.parts = slices.Compact(kinds)
		}
		g.tables, g.rows = append(g.tables, t), g.rows+t.Rows
	}
	return out
}

// kindOfPart is what is said of a table without the rows and the text.
func kindOfPart(s string) string {
	for _, kind := range []string{"title", "footnote"} {
		if strings.HasPrefix(s, kind+" in row ") {
			return kind + "s"
		}
	}
	if strings.HasPrefix(s, "row") { // rows 14, 21 blank
		for _, kind := range []string{"blank", "the header again", "totals"} {
			if strings.HasSuffix(s, kind) {
				return "rows " + kind
			}
		}
	}
	return s
}

// columnName is what a column of a layout is called.
func columnName(c *survey.Column) string {
	name := oneLine(place.Shorten(c.Header))
	switch {
	case c.Folded == nil:
		return name
	case c.Header == "" && c.Fewest == c.Most:
		return countOf(c.Most, "wide column")
	case c.Header == "":
		return fmt.Sprintf("%d to %d wide columns", c.Fewest, c.Most)
	case c.Fewest == c.Most:
		return fmt.Sprintf("%s (%d)", name, c.Most)
	}
	return fmt.Sprintf("%s (%d to %d)", name, c.Fewest, c.Most)
}

// distinctOf is how many values a column has in a table, at least and at most.
func distinctOf(c *survey.Column) string {
	about, least, utmost := "", c.Least, c.Utmost
	if c.Estimated { // of which three digits are known
		about = "about "
		for unit := 1; unit <= utmost/1000; unit *= 10 {
			least, utmost = (least+5*unit)/(10*unit)*(10*unit), (utmost+5*unit)/(10*unit)*(10*unit)
		}
	}
	switch {
	case c.Folded != nil:
		return ""
	case least == utmost:
		return about + grouped(strconv.Itoa(least))
	}
	return about + grouped(strconv.Itoa(least)) + " to " + grouped(strconv.Itoa(utmost))
}

// gapsOf counts the gaps of a column, with the first text among them.
func gapsOf(c *survey.Column, tables int) string {
	var gaps []string
	for _, kind := range survey.GapKinds {
		n := c.Gaps[kind]
		if n == 0 {
			continue
		}
		text := grouped(strconv.Itoa(n)) + " " + kind
		if kind == c.Gap.Kind {
			text += fmt.Sprintf(" %q", cut(c.Gap.Text, 16))
			if tables == 1 {
				text += fmt.Sprintf(" (row %d)", c.Gap.Row)
			}
		}
		gaps = append(gaps, text)
	}
	return strings.Join(gaps, ", ")
}

// examplesOf shows values of a column, or the headers of several.
func examplesOf(c *survey.Column) string {
	list, most := c.Examples, 3
	if c.Folded != nil {
		list, most = c.Folded, mostFolded
	}
	var out []string
	for i, e := range list {
		if i == most {
			if c.Folded != nil {
				out = append(out, "…")
			}
			break
		}
		if c.Header != "" && c.Folded != nil {
			_, e, _ = strings.Cut(e, " | ")
		}
		out = append(out, oneLine(cut(e, 24)))
	}
	return strings.Join(out, ", ")
}

// cut shortens a text to so many characters.
func cut(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}

// oneLine writes a text with single spaces alone between its words.
func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// printHeaders prints the headers that differ between tables.
func (a *app) printHeaders(r *survey.Report) {
	var g grid
	lines, everywhere := 0, 0
	headers := slices.Clone(r.Headers)
	slices.SortStableFunc(headers, func(a, b survey.Header) int { // columns of labels first
		switch {
		case a.Wide == b.Wide:
			return 0
		case b.Wide:
			return -1
		}
		return 1
	})
	for _, h := range headers {
		var parts []string
		if len(h.Spellings) > 1 {
			parts = append(parts, fmt.Sprintf("%s: %s", countOf(len(h.Spellings), "spelling"), quotedList(h.Spellings)))
		}
		if len(h.MissingIn) > 0 {
			parts = append(parts, fmt.Sprintf("in %d of %d tables", h.Tables, len(r.Tables)))
		} else {
			everywhere++
		}
		if h.LikelyAs != "" {
			parts = append(parts, fmt.Sprintf("likely %q", h.LikelyAs))
		}
		if len(parts) > 0 {
			if lines++; lines <= mostHeaders {
				g.add(oneLine(place.Shorten(h.Text)), strings.Join(parts, "; "))
			}
		}
	}
	a.heading(fmt.Sprintf("Headers: %d, of which %d are in every table", len(r.Headers), everywhere))
	g.print(a.out)
	if lines > mostHeaders {
		fmt.Fprintf(a.out, "  … and %d more\n", lines-mostHeaders)
	}
}

func quotedList(texts []string) string {
	var out []string
	for i, s := range texts {
		if i == 4 {
			out = append(out, "…")
			break
		}
		out = append(out, strconv.Quote(place.Shorten(s)))
	}
	return strings.Join(out, ", ")
}
