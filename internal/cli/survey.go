package cli

import (
	"fmt"
	"io"
	"strconv"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"umbau/internal/core/build"
	"umbau/internal/core/place"
	"umbau/internal/core/survey"
	"umbau/internal/core/table"
)

func (a *app) surveyCommand() *cobra.Command {
	var unpack size
	cmd := &cobra.Command{
		Use:               "survey PATH...",
		ValidArgsFunction: completeExtracts,
		Short:             "See what came in, before anything is decided",
		Long: `Read files, folders and globs and say which tables they hold: where each header
is, what lies around the data, how it is written, what each column holds and which
cells have no usable value; then which headers differ between tables, and which
traps wait. Nothing is written or changed.`,
		Example: `  umbau survey raw
  umbau survey raw/lakes.xlsx "raw/*_2024.csv"
  umbau survey raw --json | jq '.traps[]'`,
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) == 0 {
				return usageError{fmt.Errorf("survey needs a PATH: a file, a folder or a glob")}
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			bar := a.progress("reading")
			r, err := survey.Run(c.Context(), survey.Options{Paths: args, Workers: a.workers, File: reader(unpack).File, Progress: bar.set})
			bar.stop()
			if err != nil {
				return err
			}
			a.exit = r.Problems.ExitCode()
			if a.json {
				a.printJSON(surveyDocOf(r, words(c), a.exit))
				return nil
			}
			if !a.quiet {
				a.printSurvey(r)
			}
			for _, p := range r.Problems {
				fmt.Fprintln(a.err, a.colored(a.err, bad, p.Error()))
				if p.Advice != "" {
					fmt.Fprintf(a.err, "  → %s\n", p.Advice)
				}
			}
			return nil
		},
	}
	unpackFlag(cmd, &unpack)
	return cmd
}

func (a *app) printSurvey(r *survey.Report) {
	w := a.out
	rows := 0
	for _, t := range r.Tables {
		rows += t.Rows
	}
	traps := "no traps"
	if len(r.Traps) > 0 {
		traps = countOf(len(r.Traps), "trap")
	}
	if n := len(r.Problems); n > 0 {
		traps += fmt.Sprintf("; %s could not be read", countOf(n, "thing"))
	}
	fmt.Fprintln(w, a.colored(w, bold, fmt.Sprintf("%s with %s, %s", countOf(len(r.Tables), "table"), countOf(rows, "row"), traps)))
	for _, t := range r.Tables {
		fmt.Fprintln(w)
		a.printTable(t)
	}
	if len(r.Tables) > 1 {
		a.printLayouts(r)
		a.printHeaders(r)
	}
	if len(r.Traps) > 0 {
		a.heading("Traps")
		a.printTraps(r.Traps)
	}
	if len(r.Tables) > 0 {
		a.heading("What to do next")
		fmt.Fprintf(w, "  Write a plan that says what the finished table is (umbau demo has one with comments), then\n  umbau build --dry-run shows what it makes of these tables and all that it does not decide yet.\n")
	}
}

// placesOfTrap is how many places of a trap are shown.
const placesOfTrap = 3

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
		fmt.Fprintf(a.out, "  %s, %s\n", a.colored(a.out, bold, k), countOf(cells, map[bool]string{true: "sheet", false: "cell"}[k == "hidden sheet"]))
		for i, t := range byKind[k] {
			if i == placesOfTrap {
				fmt.Fprintf(a.out, "    … and in %s\n", countOf(len(byKind[k])-i, "more column"))
				break
			}
			fmt.Fprintf(a.out, "    %s: %s\n", t.Place, t.Detail)
		}
	}
}

// printTable prints one block for a table.
func (a *app) printTable(t *survey.Table) {
	w := a.out
	fmt.Fprintf(w, "%s: %s\n", a.colored(w, bold, t.Place.Source()), shapeOf(t))
	if t.Numbers != "" {
		fmt.Fprintf(w, "  numbers are written %s\n", t.Numbers)
	}
	if t.Dates != "" {
		fmt.Fprintf(w, "  dates are written %s\n", t.Dates)
	}
	for _, text := range t.TitleTexts {
		fmt.Fprintf(w, "  title: %q\n", text)
	}
	for _, text := range t.NoteTexts {
		fmt.Fprintf(w, "  footnote: %q\n", text)
	}
	var around []string
	for _, r := range []struct {
		rows []int
		noun string
	}{{t.BlankRows, "blank row"}, {t.RepeatedHeaders, "repeated header"}, {t.TotalRows, "total row"}} {
		if len(r.rows) > 0 {
			around = append(around, countOf(len(r.rows), r.noun)+" ("+rowList(r.rows)+")")
		}
	}
	if len(t.TotalColumns) > 0 {
		around = append(around, "total columns: "+strings.Join(t.TotalColumns, ", "))
	}
	if len(around) > 0 {
		fmt.Fprintf(w, "  %s\n", strings.Join(around, ", "))
	}
	tw := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	fmt.Fprintln(tw, "  column\tholds\tfilled\tdistinct\texamples\tgaps")
	for _, f := range t.Fields {
		if !f.Wide {
			a.printField(tw, &f, place.Shorten(f.Header))
		}
	}
	if wide := wideOf(t); wide != nil {
		a.printField(tw, wide, countOf(wide.Distinct, "wide column"))
	}
	tw.Flush()
	if wide := wideOf(t); wide != nil {
		fmt.Fprintf(w, "  wide: %s\n", strings.Join(wide.Examples, ", "))
	}
}

// shapeOf says in a line how a table is laid out and written.
func shapeOf(t *survey.Table) string {
	s := fmt.Sprintf("header in row %d, %s, %s", t.HeaderRow, countOf(t.Rows, "row"), countOf(t.Columns, "column"))
	if t.Facts.Encoding != "" {
		s += ", " + t.Facts.Encoding + ", " + delimiterName(t.Facts.Delimiter)
	}
	return s
}

// wideOf is all wide columns of a table as one: how many, and their headers.
func wideOf(t *survey.Table) *survey.Field {
	all := &survey.Field{Is: "whole"}
	for _, f := range t.Fields {
		if !f.Wide {
			continue
		}
		if f.Is == "number" {
			all.Is = f.Is
		}
		all.Distinct++
		all.Filled += f.Filled
		all.Blank, all.Null, all.Text, all.Unclear, all.Error = all.Blank+f.Blank, all.Null+f.Null, all.Text+f.Text, all.Unclear+f.Unclear, all.Error+f.Error
		if all.Distinct < 13 {
			all.Examples = append(all.Examples, strings.Join(strings.Fields(place.Shorten(f.Header)), " "))
		} else if all.Distinct == 13 {
			all.Examples = append(all.Examples, "…")
		}
		if len(all.Gaps) == 0 {
			all.Gaps = f.Gaps
		}
	}
	if all.Distinct == 0 {
		return nil
	}
	return all
}

func (a *app) printField(w io.Writer, f *survey.Field, name string) {
	var gaps []string
	for _, g := range []struct {
		n    int
		kind string
	}{{f.Blank, "blank"}, {f.Null, "null"}, {f.Text, "text"}, {f.Unclear, "unclear"}, {f.Error, "error"}} {
		if g.n > 0 {
			gaps = append(gaps, grouped(strconv.Itoa(g.n))+" "+g.kind)
		}
	}
	first := ""
	for _, g := range f.Gaps {
		if g.Kind != "blank" {
			first = fmt.Sprintf(" (row %d %q)", g.Row, place.Shorten(g.Text))
			break
		}
	}
	examples, distinct := "", ""
	if !strings.HasSuffix(name, "wide column") && !strings.HasSuffix(name, "wide columns") {
		var texts []string
		for _, e := range f.Examples[:min(3, len(f.Examples))] {
			texts = append(texts, strings.Join(strings.Fields(cut(e, 24)), " "))
		}
		examples, distinct = strings.Join(texts, ", "), grouped(strconv.Itoa(f.Distinct))
	}
	fmt.Fprintf(w, "  %s\t%s\t%s\t%s\t%s\t%s%s\n", strings.Join(strings.Fields(name), " "), f.Is, grouped(strconv.Itoa(f.Filled)), distinct, examples, strings.Join(gaps, ", "), first)
}

// cut shortens a text to so many characters.
func cut(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}

func rowList(rows []int) string {
	var out []string
	for i, r := range rows {
		if i == 5 {
			out = append(out, "…")
			break
		}
		out = append(out, strconv.Itoa(r))
	}
	return strings.Join(out, ", ")
}

func delimiterName(d string) string {
	switch d {
	case ",":
		return "comma"
	case ";":
		return "semicolon"
	case "\t":
		return "tab"
	case "|":
		return "pipe"
	}
	return d
}

// printLayouts prints which tables share a layout: one entry of a plan each.
func (a *app) printLayouts(r *survey.Report) {
	layouts := survey.Layouts(r.Tables)
	a.heading(countOf(len(layouts), "layout") + ", wide columns aside")
	for i, l := range layouts {
		if i == 10 {
			fmt.Fprintf(a.out, "  … and %d more\n", len(layouts)-i)
			break
		}
		var headers []string
		for _, h := range l.Headers {
			headers = append(headers, strings.Join(strings.Fields(cut(h, 30)), " "))
		}
		if len(headers) > 8 {
			headers = append(headers[:8], "…")
		}
		wide := ""
		if l.Wide {
			wide = " and wide columns"
		}
		var names []string
		for _, t := range l.Tables[:min(3, len(l.Tables))] {
			names = append(names, t.Source())
		}
		if len(l.Tables) > 3 {
			names = append(names, "…")
		}
		fmt.Fprintf(a.out, "  %s: %s%s\n    %s\n", countOf(len(l.Tables), "table"), strings.Join(headers, ", "), wide, strings.Join(names, "; "))
	}
}

// printHeaders prints the headers that differ between tables.
func (a *app) printHeaders(r *survey.Report) {
	w := a.out
	var lines []string
	everywhere := 0
	for _, h := range r.Headers {
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
			lines = append(lines, fmt.Sprintf("  %s\t%s", place.Shorten(strings.TrimSpace(h.Text)), strings.Join(parts, "; ")))
		}
	}
	a.heading(fmt.Sprintf("Headers: %d, of which %d are in every table", len(r.Headers), everywhere))
	t := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	for i, l := range lines {
		if i == 40 {
			fmt.Fprintf(t, "  … and %d more\n", len(lines)-i)
			break
		}
		fmt.Fprintln(t, l)
	}
	t.Flush()
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

// The documents that survey prints for a machine.
type surveyDoc struct {
	Umbau    string             `json:"umbau"`
	Command  string             `json:"command"`
	Exit     int                `json:"exit"`
	Problems []build.ProblemDoc `json:"problems"`
	Tables   []tableDoc         `json:"tables"`
	Headers  []headerDoc        `json:"headers"`
	Traps    []trapDoc          `json:"traps"`
}

type tableDoc struct {
	File            string     `json:"file"`
	Sheet           *string    `json:"sheet"`
	HeaderRow       int        `json:"header_row"`
	Rows            int        `json:"rows"`
	Columns         int        `json:"columns"`
	Encoding        *string    `json:"encoding"`
	Delimiter       *string    `json:"delimiter"`
	Numbers         *string    `json:"numbers"`
	Dates           *string    `json:"dates"`
	Titles          []int      `json:"titles"`
	Footnotes       []int      `json:"footnotes"`
	BlankRows       []int      `json:"blank_rows"`
	RepeatedHeaders []int      `json:"repeated_headers"`
	TotalRows       []int      `json:"total_rows"`
	TotalColumns    []string   `json:"total_columns"`
	Fields          []fieldDoc `json:"fields"`
}

type fieldDoc struct {
	Header   string   `json:"header"`
	Is       string   `json:"is"`
	Wide     bool     `json:"wide"`
	Filled   int      `json:"filled"`
	Blank    int      `json:"blank"`
	Null     int      `json:"null"`
	Text     int      `json:"text"`
	Unclear  int      `json:"unclear"`
	Error    int      `json:"error"`
	Distinct int      `json:"distinct"`
	Examples []string `json:"examples"`
	Gaps     []gapDoc `json:"gaps"`
}

type gapDoc struct {
	Row  int    `json:"row"`
	Kind string `json:"kind"`
	Text string `json:"text"`
}

type placeOfTable struct {
	File  string  `json:"file"`
	Sheet *string `json:"sheet"`
}

type headerDoc struct {
	Header    string         `json:"header"`
	Spellings []string       `json:"spellings"`
	Tables    int            `json:"tables"`
	MissingIn []placeOfTable `json:"missing_in"`
}

type trapDoc struct {
	What   string  `json:"what"`
	File   string  `json:"file"`
	Sheet  *string `json:"sheet"`
	Row    *int    `json:"row"`
	Header *string `json:"header"`
	Count  int     `json:"count"`
	Detail string  `json:"detail"`
}

// orEmpty is a list that JSON prints as [] when there is nothing in it.
func orEmpty[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

func surveyDocOf(r *survey.Report, command string, exit int) surveyDoc {
	d := surveyDoc{Umbau: Version, Command: command, Exit: exit, Problems: build.Problems(r.Problems),
		Tables: []tableDoc{}, Headers: []headerDoc{}, Traps: []trapDoc{}}
	for _, t := range r.Tables {
		td := tableDoc{File: t.Place.File, Sheet: build.OrNull(t.Place.Sheet), HeaderRow: t.HeaderRow, Rows: t.Rows, Columns: t.Columns,
			Encoding: build.OrNull(t.Facts.Encoding), Delimiter: delimiterOf(t.Facts), Numbers: build.OrNull(t.Numbers), Dates: build.OrNull(t.Dates),
			Titles: orEmpty(t.Titles), Footnotes: orEmpty(t.Footnotes), BlankRows: orEmpty(t.BlankRows), RepeatedHeaders: orEmpty(t.RepeatedHeaders),
			TotalRows: orEmpty(t.TotalRows), TotalColumns: orEmpty(t.TotalColumns), Fields: []fieldDoc{}}
		for _, f := range t.Fields {
			fd := fieldDoc{f.Header, f.Is, f.Wide, f.Filled, f.Blank, f.Null, f.Text, f.Unclear, f.Error, f.Distinct, orEmpty(f.Examples), []gapDoc{}}
			for _, g := range f.Gaps {
				fd.Gaps = append(fd.Gaps, gapDoc(g))
			}
			td.Fields = append(td.Fields, fd)
		}
		d.Tables = append(d.Tables, td)
	}
	for _, h := range r.Headers {
		hd := headerDoc{Header: h.Text, Spellings: orEmpty(h.Spellings), Tables: h.Tables, MissingIn: []placeOfTable{}}
		for _, p := range h.MissingIn {
			hd.MissingIn = append(hd.MissingIn, placeOfTable{p.File, build.OrNull(p.Sheet)})
		}
		d.Headers = append(d.Headers, hd)
	}
	for _, t := range r.Traps {
		d.Traps = append(d.Traps, trapDoc{t.What, t.Place.File, build.OrNull(t.Place.Sheet), build.OrNull(t.Place.Row), build.OrNull(t.Place.Header), t.Count, t.Detail})
	}
	return d
}

func delimiterOf(f table.Facts) *string {
	if f.Encoding == "" {
		return nil
	}
	return &f.Delimiter
}
