package cli

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/draft"
	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/whole"
	"umbau/internal/format"
)

// draftFlags are the flags of draft.
type draftFlags struct {
	columns, output string
	replace, build  bool
	limits          limits
}

func (a *app) draftCommand() *cobra.Command {
	var o draftFlags
	cmd := &cobra.Command{
		Use:   "draft [PATH...]",
		Short: "Work out a plan from the extracts alone",
		Long: `Work out a plan from what came in, with the evidence for its choices in comments,
and first books for names that are spelt in several ways. PATH is a folder (the
current one if none is named), a file or a database. An existing plan is never
touched without --replace. What is a toss-up is marked # ? and takes the reading
that stops rather than the one that guesses.

Exit codes: 0 done; 1 could not; 2 wrong usage; 3 a column of --columns was not
found, or with --build a rule stopped the build.`,
		Example: `  umbau draft
  umbau draft raw --columns region,year,branch,month,product,amount
  umbau draft --build`,
		RunE: func(c *cobra.Command, args []string) error { return a.draft(c, args, o) },
	}
	f := cmd.Flags()
	f.StringVar(&o.columns, "columns", "", "the columns of the finished table, in order; what nothing needs is dropped")
	f.StringVarP(&o.output, "output", "o", plan.DefaultFile, "where to write the plan; - shows it on stdout and writes nothing")
	f.BoolVar(&o.replace, "replace", false, "write over an existing plan, and over the books that it begins")
	f.BoolVar(&o.build, "build", false, "build with the plan at once")
	o.limits.add(cmd)
	return cmd
}

func (a *app) draft(c *cobra.Command, args []string, o draftFlags) error {
	columns, err := listOf(o.columns)
	if err != nil {
		return usageError{err}
	}
	if o.output == stdout && o.build {
		return usageError{errors.New("--build needs a plan in a file, not -o -")}
	}
	if _, err := os.Lstat(o.output); o.output != stdout && !o.replace && !errors.Is(err, fs.ErrNotExist) {
		return place1("output", o.output, "there is a plan already, and it is not touched; --replace writes over it, -o FILE writes another")
	}
	if len(args) == 0 {
		args = []string{"."}
	}
	if args, err = a.withoutPlans(args); err != nil {
		return err
	}
	bar := a.progress("reading")
	r, err := draft.Draft(c.Context(), draft.Options{Paths: args, Dir: filepath.Dir(o.output), Columns: columns, Workers: a.workers,
		Formats: format.Sampling(formats(o.limits), format.LargeText), Progress: bar.set})
	bar.stop()
	if err != nil {
		return err
	}
	if o.output != stdout {
		err = writeDraft(r, o)
	} else if !a.json {
		fmt.Fprint(a.out, r.Text)
	}
	if err != nil {
		return err
	}
	var s *fact.Summary
	if len(r.Missing) > 0 {
		a.exit = 3
	} else if o.build {
		if s, err = a.build(c, o.output, buildFlags{limits: o.limits}); err != nil {
			return err
		}
		a.exit = s.ExitCode()
	}
	switch {
	case a.json:
		a.printJSON(draftDocOf(r, s, o, words(c), a.exit))
		return nil
	case !a.quiet:
		a.printDraft(r, o, s)
	}
	switch {
	case s == nil:
	case a.exit != 0:
		a.printStop(s)
	case !a.quiet:
		fmt.Fprintln(a.out)
		a.printSummary(s)
	}
	return nil
}

// writeDraft writes the books, those that are not there, and then the plan.
func writeDraft(r *draft.Result, o draftFlags) error {
	for _, b := range r.Books {
		file := filepath.Join(filepath.Dir(o.output), filepath.FromSlash(b.File))
		if _, err := os.Lstat(file); err == nil && !o.replace {
			return place1("output", b.File, "there is a book already, and it is not touched; --replace writes over it")
		}
		if err := os.MkdirAll(filepath.Dir(file), 0o777); err != nil {
			return err
		}
		if err := whole.Replace(file, ".umbau-", b.Text); err != nil {
			return place1("output", b.File, "the book cannot be written: "+whole.Reason(err))
		}
	}
	if err := whole.Replace(o.output, ".umbau-", []byte(r.Text)); err != nil {
		return place1("output", o.output, "the plan cannot be written: "+whole.Reason(err))
	}
	return nil
}

// printOpen tells which columns are missing, and what a build with the plan would stop at.
func printOpen(w io.Writer, r *draft.Result) {
	for _, m := range r.Missing {
		if slices.Contains(r.Waiting, m) {
			fmt.Fprintf(w, "  ! column %s is left out until what is asked here is settled\n", m)
		} else {
			fmt.Fprintf(w, "  ! no source was found for column %s\n", m)
		}
	}
	for i, p := range r.Problems {
		if i == 5 {
			fmt.Fprintf(w, "  ! and %d more\n", len(r.Problems)-i)
			break
		}
		text := p.Message
		switch {
		case strings.HasPrefix(text, draft.Unsettled):
			text = "the build waits until what is asked here is settled: must in rows is then to be taken out"
		case len(p.Places) > 0 && p.Places[0].File != "":
			text = p.Places[0].File + ": " + text
		}
		fmt.Fprintf(w, "  ! %s\n", text)
	}
}

// printDraft tells what was made of the files, beside a plan that is shown on stderr.
func (a *app) printDraft(r *draft.Result, o draftFlags, s *fact.Summary) {
	w, did := a.out, "Wrote "+o.output
	if o.output == stdout {
		w, did = a.err, "\nA plan, shown and not written"
	}
	tables := 0
	for _, f := range r.Files {
		if f.As == "extract" {
			tables++
		}
	}
	fmt.Fprintln(w, a.colored(w, bold, draftHeadline(r, did, countOf(tables, "table"))))
	printOpen(w, r)
	for _, text := range r.Open {
		fmt.Fprintf(w, "  ? %s\n", text)
	}
	var g grid
	for _, c := range r.Columns {
		g.add(c.Name, c.Is, shortSource(c.Source), c.Evidence)
	}
	fmt.Fprintln(w)
	g.print(w)
	for _, c := range r.Columns {
		if c.Some != "" {
			fmt.Fprintf(w, "  %s: %s\n", c.Name, c.Some)
		}
	}
	if len(r.Files) > tables || len(r.Books) > 0 {
		fmt.Fprintln(w)
	}
	printAside(w, r.Files)
	for _, b := range r.Books {
		fmt.Fprintf(w, "  begun: %s: a book of %s of column %s\n", b.File, countOf(b.Names, "spelling"), b.Column)
	}
	switch {
	case s != nil:
		return
	case o.output == stdout:
		fmt.Fprintln(w, "\nWithout -o - the plan is written, and the books that it begins.")
		return
	}
	command := "umbau build"
	if o.output != plan.DefaultFile {
		command += " " + shellQuoted(o.output)
	}
	fmt.Fprintf(w, "\nRead %s, then: %s\n", o.output, command)
}

// draftHeadline is the first line: what was done, and of how much.
func draftHeadline(r *draft.Result, did, tables string) string {
	switch {
	case r.Sampled:
		return fmt.Sprintf("%s, from %s of which large ones were read in part", did, tables)
	case r.Exit != 0:
		return fmt.Sprintf("%s, from %s; a build with it would stop", did, tables)
	}
	return fmt.Sprintf("%s: %s from %s", did, countOf(r.Rows, "fact row"), tables)
}

// shortSource is the sources of a column by entry: the first two different ones.
func shortSource(all string) string {
	var list []string
	for _, one := range strings.Split(all, "; ") {
		if !slices.ContainsFunc(list, func(have string) bool { return strings.EqualFold(have, one) }) {
			list = append(list, one)
		}
	}
	if len(list) > 2 {
		list = append(list[:2], "…")
	}
	return strings.Join(list, ", ")
}

// printAside tells of the files that are no extracts, and of the sheets beside those that are some; those of a folder that
// are the same together.
func printAside(w io.Writer, files []draft.File) {
	type group struct {
		as, dir, why string
		sheets       bool
	}
	var order []group
	of := map[group][]string{}
	extracts := map[string]bool{} // files of some
	for _, f := range files {
		extracts[f.File] = extracts[f.File] || f.As == "extract"
	}
	for _, f := range files {
		g := group{f.As, path.Dir(f.File), f.Why, f.Sheet != "" && extracts[f.File]}
		switch {
		case f.As == "extract":
			continue
		case of[g] == nil:
			order = append(order, g)
		}
		at := place.Place{File: f.File}
		if g.sheets {
			at.Sheet = f.Sheet
		}
		if name := at.Source(); !slices.Contains(of[g], name) {
			of[g] = append(of[g], name)
		}
	}
	for _, g := range order {
		name := of[g][0]
		switch n := len(of[g]) - 1; {
		case n > 0 && g.sheets:
			name += ", and " + countOf(n, "more sheet") + " in " + g.dir
		case n > 0:
			name += " and " + countOf(n, "more file") + " in " + g.dir
		}
		fmt.Fprintf(w, "  %s: %s: %s\n", g.as, name, g.why)
	}
}

// draftDoc is what draft prints with --json.
type draftDoc struct {
	place.DocHead
	Plan    string         `json:"plan"`
	Text    string         `json:"text"`
	Files   []draftFile    `json:"files"`
	Columns []draftColumn  `json:"columns"`
	Missing []string       `json:"missing"`
	Open    []draftOpen    `json:"open"`
	Books   []draftBook    `json:"books"`
	Build   *fact.Document `json:"build,omitempty"`
}

type draftFile struct {
	File  string  `json:"file"`
	Sheet *string `json:"sheet"`
	As    string  `json:"as"`
	Entry *string `json:"entry"`
	Why   string  `json:"why"`
}

type draftColumn struct {
	Column   string `json:"column"`
	Is       string `json:"is"`
	Source   string `json:"source"`
	Evidence string `json:"evidence"`
	Sure     bool   `json:"sure"`
}

type draftOpen struct {
	What     string `json:"what"`
	Line     int    `json:"line"`
	Evidence string `json:"evidence"`
}

type draftBook struct {
	File      string `json:"file"`
	Column    string `json:"column"`
	Names     int    `json:"names"`
	Proposals int    `json:"proposals"`
}

func draftDocOf(r *draft.Result, s *fact.Summary, o draftFlags, command string, exit int) draftDoc {
	d := draftDoc{DocHead: head(command, exit, r.Problems), Plan: o.output, Text: r.Text,
		Files:   []draftFile{},
		Columns: []draftColumn{}, Missing: orEmpty(r.Missing), Open: []draftOpen{}, Books: []draftBook{}}
	for _, f := range r.Files {
		d.Files = append(d.Files, draftFile{f.File, place.OrNull(f.Sheet), f.As, place.OrNull(f.Entry), f.Why})
	}
	for _, c := range r.Columns {
		evidence := strings.Trim(c.Evidence+"; "+c.Some, "; ")
		d.Columns = append(d.Columns, draftColumn{c.Name, c.Is, c.Source, evidence, c.Sure})
	}
	for _, text := range r.Open {
		line := 0
		for i, l := range strings.Split(r.Text, "\n") {
			if strings.Contains(l, "# ? "+text) {
				line = i + 1
			}
		}
		what, evidence, _ := strings.Cut(text, ": ")
		d.Open = append(d.Open, draftOpen{what, line, evidence})
	}
	for _, b := range r.Books {
		d.Books = append(d.Books, draftBook{b.File, b.Column, b.Names, b.Proposals})
	}
	if s != nil {
		d.Build = s.Document(Version, "draft")
	}
	return d
}
