package cli

import (
	"fmt"
	"io"
	"os"
	"path"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// paint is a way to colour a text on a terminal.
type paint string

const (
	bold  paint = "1"
	good  paint = "32"
	bad   paint = "31"
	faint paint = "2"
)

// colored paints a text if w is a terminal that may have colours.
func (a *app) colored(w io.Writer, p paint, s string) string {
	if _, ok := terminal(w); a.noColor || os.Getenv("NO_COLOR") != "" || os.Getenv("TERM") == "dumb" || !ok {
		return s
	}
	return paintMark + string(p) + "m" + s + paintMark + "0m"
}

// countOf writes a count with its noun: 1 row, 1,200 rows.
func countOf(n int, noun string) string {
	if n != 1 {
		switch {
		case strings.HasSuffix(noun, "y") && !strings.HasSuffix(noun, "ey"):
			noun = strings.TrimSuffix(noun, "y") + "ies"
		case strings.HasSuffix(noun, "ch"):
			noun += "es"
		default:
			noun += "s"
		}
	}
	return grouped(strconv.Itoa(n)) + " " + noun
}

// grouped is value.Grouped, for figures of the summaries.
func grouped(n string) string {
	return value.Grouped(n)
}

// printSummary tells what a build has done, for ten seconds of reading.
func (a *app) printSummary(s *fact.Summary) {
	a.printDelivered(s)
	a.printAccount(a.out, s)
	a.printSince(s)
}

// printDelivered tells what was delivered, and that it ties.
func (a *app) printDelivered(s *fact.Summary) {
	w := a.out
	headline := fmt.Sprintf("%s from %s", countOf(s.FactRows, "fact row"), countOf(len(s.Extracts), "extract"))
	if s.DryRun {
		fmt.Fprintf(w, "%s\n", a.colored(w, bold, "Dry run, nothing was written. The plan holds: "+headline+"."))
		a.printHead(s)
	} else {
		var to []string
		for _, d := range s.Deliveries {
			to = append(to, d.Name)
		}
		fmt.Fprintf(w, "%s in %.2f s\n", a.colored(w, bold, "Delivered "+strings.Join(to, ", ")+": "+headline), s.Seconds)
	}
	a.printTies(w, s)
}

// printTies prints the account of each measure.
func (a *app) printTies(w io.Writer, s *fact.Summary) {
	if len(s.Measures()) == 0 {
		return
	}
	fmt.Fprintln(w)
	g := grid{right: []int{1, 2, 3, 4, 5}}
	g.add("", "read", "+ changed", "= fact", "+ held", "+ left out")
	for _, m := range s.Measures() {
		f, c := s.Totals(m), s.Plan.Columns[m]
		g.add(c.Name, c.Shown(f.Read), c.Shown(f.Changed), c.Shown(f.Fact), c.Shown(f.Held), c.Shown(f.LeftOut))
	}
	g.print(w)
	n := 0
	for i := range s.Extracts {
		n += len(s.Extracts[i].Measures)
	}
	fmt.Fprintln(w, a.colored(w, good, fmt.Sprintf("  It ties, in every extract, to the last digit (%s).", countOf(n, "account"))))
}

// printAccount prints what was changed, replaced, held and left out, and in
// which file to see it.
func (a *app) printAccount(w io.Writer, s *fact.Summary) {
	r := s.Rows()
	var g grid
	line := func(what, figures, file string) {
		where := ""
		if s.Recorded && file != "" {
			where = path.Join(s.Plan.Record, file)
		}
		g.add(what, figures, where)
	}
	fmt.Fprintln(w)
	line("changed", changedText(s), record.ChangesFile)
	if text := namesText(s); text != "" {
		line("names", text, record.NamesFile)
	}
	if s.Plan.Rows.Repeats == plan.Sum && r.Repeated > 0 {
		line("summed", countOf(r.Repeated, "fact row")+" added to others of the same grain", record.RowsFile)
		r.Repeated = 0
	}
	line("held", nothingOr(r.Held, countOf(r.Held, "fact row")+" to look at"), record.HeldFile)
	out := leftOut(r)
	line("left out", nothingOr(len(out), strings.Join(out, ", ")), record.LeftOutFile)
	if s.Checks.All() > 0 {
		line("compared", checksText(s.Checks), record.ChecksFile)
	}
	for _, l := range s.Lookups {
		line(l.Reference, lookupText(l), record.UnmatchedFile)
	}
	line("read", countOf(r.Read, "row")+" in "+countOf(len(s.Extracts), "extract"), record.RowsFile)
	g.print(w)
	printRemarks(w, s)
}

// lookupText says how many fact rows found a partner in a reference, and which of its lines
// nobody asked for.
func lookupText(l fact.LookupCount) string {
	text := fmt.Sprintf("%s of %s found a partner", grouped(strconv.Itoa(l.Found)), countOf(l.Rows, "fact row"))
	if l.Unused > 0 {
		text += fmt.Sprintf("; %s of %s of it not asked for", grouped(strconv.Itoa(l.Unused)), countOf(l.Lines, "line"))
	}
	return text
}

// leftOut counts the rows that did not become fact rows, by their reason.
func leftOut(r tie.Rows) (out []string) {
	for _, c := range []struct {
		n    int
		noun string
	}{{r.Blank, "blank row"}, {r.Section, "section row"}, {r.Footnote, "footnote"}, {r.RepeatedHeader, "repeated header"},
		{r.Total, "total row"}, {r.Same, "same row"}, {r.Skipped, "blank wide cell"}, {r.Dropped, "dropped fact row"},
		{r.Filtered, "filtered fact row"}, {r.Zero, "zero fact row"}, {r.Repeated, "repeated fact row"}} {
		if c.n > 0 {
			out = append(out, countOf(c.n, c.noun))
		}
	}
	return out
}

// checksText counts the figures that were compared and agree.
func checksText(c fact.Checks) string {
	var parts []string
	if n := c.TotalRows + c.TotalColumns; n > 0 {
		parts = append(parts, countOf(n, "total")+" that came with the extracts")
	}
	if c.Controls > 0 {
		parts = append(parts, countOf(c.Controls, "control total"))
	}
	text := strings.Join(parts, " and ") + " agree"
	if c.Within > 0 {
		text += fmt.Sprintf(", %d of them within the amount that the plan allows", c.Within)
	}
	return text
}

// printRemarks prints what a person should look at, though nothing stops.
func printRemarks(w io.Writer, s *fact.Summary) {
	if len(s.Differing) > 0 {
		var parts []string
		for _, d := range s.Differing {
			parts = append(parts, grouped(d.Amount)+" of "+d.Measure)
		}
		fmt.Fprintf(w, "  look at   %s went with %s that differ from the one that stays: repeats: stop shows them\n",
			strings.Join(parts, " and "), countOf(s.Differing[0].Rows, "repeated fact row"))
	}
	if len(s.NotRead) > 0 {
		fmt.Fprintf(w, "  not read  %s\n", notRead(s.NotRead))
	}
	for _, p := range s.Warnings {
		what, where := p.Message, p.Places[0].String()
		if p.Column != "" {
			what = p.Column + ": " + what
		}
		if p.Count > 1 {
			where += fmt.Sprintf(", and %d more", p.Count-1)
		}
		fmt.Fprintf(w, "  look at   %s\n            %s; %s\n", what, where, p.Advice)
	}
	for _, text := range s.Remarks {
		fmt.Fprintf(w, "  %s\n", text)
	}
	for _, e := range s.Empties {
		fmt.Fprintf(w, "  %s is empty in %s because %s is\n", e.Column, countOf(e.Count, "fact row"), e.Because)
	}
	for i, n := range s.Footnotes {
		if i == 3 {
			fmt.Fprintf(w, "  … and %s\n", countOf(s.FootnoteRows-i, "more footnote"))
			break
		}
		fmt.Fprintf(w, "  footnote  %s: %q\n", n.Place, place.Shorten(n.Text))
	}
}

// notRead lists what stands beside the extracts unread, the first ten.
func notRead(list []fact.NotRead) string {
	var out []string
	for i, n := range list {
		if i == place.MostPlaces {
			out = append(out, fmt.Sprintf("… and %d more", len(list)-i))
			break
		}
		out = append(out, n.String())
	}
	return strings.Join(out, "; ")
}

func nothingOr(n int, text string) string {
	if n == 0 {
		return "nothing"
	}
	return text
}

func changedText(s *fact.Summary) string {
	if len(s.Changes) == 0 {
		return "nothing"
	}
	total := 0
	var parts []string
	for i, c := range s.Changes {
		total += c.Count
		text := fmt.Sprintf("%s %s", grouped(strconv.Itoa(c.Count)), c.Kind)
		if i == 0 || s.Changes[i-1].Column != c.Column {
			text = c.Column + " " + text
		}
		parts = append(parts, text)
	}
	return countOf(total, "cell") + ": " + strings.Join(parts, ", ")
}

// namesText says how many spellings became how many names.
func namesText(s *fact.Summary) string {
	var parts []string
	for _, c := range s.Names.Counts() {
		text := fmt.Sprintf("%s %s became %s", s.Plan.Columns[c.Column].Name, countOf(c.Spellings, "spelling"), countOf(c.Names, "name"))
		if c.Unknown > 0 {
			text += fmt.Sprintf(" (%d unknown)", c.Unknown)
		}
		parts = append(parts, text)
	}
	return strings.Join(parts, ", ")
}

// printHead shows the first fact rows of a dry run.
func (a *app) printHead(s *fact.Summary) {
	if len(s.Head) == 0 {
		return
	}
	fmt.Fprintln(a.out)
	var g grid
	var header []string
	for _, c := range s.Plan.Columns {
		if !c.Kept {
			continue
		}
		if c.Kind.Numeric() {
			g.right = append(g.right, len(header))
		}
		header = append(header, c.Name)
	}
	g.add(header...)
	for _, row := range s.Head {
		for i, cell := range row {
			row[i] = oneLine(place.Shorten(cell))
		}
		g.add(row...)
	}
	g.print(a.out)
	if s.FactRows > len(s.Head) {
		fmt.Fprintf(a.out, "  … and %s more\n", grouped(strconv.Itoa(s.FactRows-len(s.Head))))
	}
}

// printStop says what stands in the way, most important first.
func (a *app) printStop(s *fact.Summary) {
	w := a.err
	headline := "Stopped by the plan"
	if s.ExitCode() == 1 {
		headline = "Could not build"
	}
	n := len(s.Problems)
	fmt.Fprintf(w, "%s\n", a.colored(w, bad, fmt.Sprintf("%s: nothing was delivered. %s in the way%s", headline, standing(n), ending(n))))
	each := max(1, min(place.MostPlaces, 15/max(1, n)))
	for i, p := range s.Problems {
		if i == place.MostPlaces {
			fmt.Fprintf(w, "\n… and %s\n", countOf(n-i, "more problem"))
			break
		}
		fmt.Fprintln(w)
		a.printProblem(s, p, each)
	}
	if s.Recorded {
		compared := ""
		if s.Checks.Broken > 0 {
			compared = ", each figure that was compared in " + record.ChecksFile
		}
		fmt.Fprintf(w, "\nWhat was met is in %s%s; earlier deliveries are as they were.\n", s.Plan.Record, compared)
	}
}

func standing(n int) string {
	if n == 1 {
		return "1 thing stands"
	}
	return countOf(n, "thing") + " stand"
}

func ending(n int) string {
	if n == 1 {
		return "."
	}
	return ", most important first."
}

func (a *app) printProblem(s *fact.Summary, p place.Problem, places int) {
	w := a.err
	count := ""
	if p.Count > 1 && p.Notes == nil {
		count = grouped(strconv.Itoa(p.Count)) + " × "
	}
	text := place.Capital(p.Message)
	if len(p.Places) == 0 && p.File != "" { // which begins with the name of the file
		text = p.Error()
	}
	fmt.Fprintf(w, "%s\n", a.colored(w, bold, count+text))
	for i, at := range p.Places {
		if i == places {
			fmt.Fprintf(w, "    …\n")
			break
		}
		where := at.String()
		if i < len(p.Texts) && p.Texts[i] != "" && p.Texts[i] != at.Header {
			where += ": " + strconv.Quote(place.Shorten(p.Texts[i]))
			if p.Told() {
				where = at.String() + ", " + p.Texts[i]
			}
		}
		if i < len(p.Notes) {
			where = fmt.Sprintf("%q: %s; first %s", place.Shorten(p.Texts[i]), p.Notes[i], at)
		}
		fmt.Fprintf(w, "    %s\n", where)
	}
	if len(p.Places) == 0 && p.File == "" && !p.Plan.IsZero() {
		fmt.Fprintf(w, "    %s, line %d\n", s.Plan.File, p.Plan.Line)
	}
	if p.Add != "" {
		fmt.Fprintf(w, "  → add to %s: %s\n", addTo(s, p), a.colored(w, bold, p.Add))
	}
	if p.Advice != "" {
		fmt.Fprintf(w, "  → %s\n", p.Advice)
	}
}

// addTo says where in the plan a line belongs.
func addTo(s *fact.Summary, p place.Problem) string {
	what := "the entry of extracts"
	switch in := p.In(); {
	case in == place.InRows || in == place.InHistory:
		what = in
	case in == place.InColumn && !ofEntry(p.Add):
		what = "column " + p.Column
	}
	return fmt.Sprintf("%s (%s, line %d)", what, s.Plan.File, p.Plan.Line)
}

// ofEntry reports whether a line of the plan is one of an entry of extracts.
func ofEntry(line string) bool {
	key, _, _ := strings.Cut(line, ":")
	return slices.Contains([]string{"dates", "numbers", "absent"}, key)
}
