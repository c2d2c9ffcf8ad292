package cli

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/fact"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/survey"
	"umbau/internal/demo"
)

func (a *app) demoCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "demo [DIR]",
		Short: "See the whole job on made-up extracts, and keep them to play with",
		Long: `Write the extracts, the book of names and the plan of a made-up ship chandlery
into DIR (a new temporary folder, if none is named), build from them and tell
what came in, what was wrong with it, what the plan decided and that it ties.

Everything stays in DIR: umbau build in it does the same again.`,
		Example: `  umbau demo
  umbau demo try && cd try && umbau build`,
		Args: atMost(1),
		ValidArgsFunction: func(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
			return nil, cobra.ShellCompDirectiveFilterDirs
		},
		RunE: func(c *cobra.Command, args []string) error {
			dir, err := writeDemo(args)
			if err != nil {
				return err
			}
			tell := !a.json && !a.quiet
			if tell {
				if err := a.tellBeginning(c, dir); err != nil {
					return err
				}
			}
			s, err := a.build(c, filepath.Join(dir, plan.DefaultFile), buildFlags{})
			if err != nil {
				return err
			}
			a.exit = s.ExitCode()
			switch {
			case a.json:
				a.printJSON(demoDoc{Folder: dir, Document: s.Document(Version, words(c))})
			case a.exit != 0:
				a.printStop(s)
			case tell:
				return a.tellEnd(dir, s)
			}
			return nil
		},
	}
}

// demoDoc is what demo prints for a machine.
type demoDoc struct {
	*fact.Document
	Folder string `json:"folder"`
}

// writeDemo writes the demo into the folder that is named, or a new one.
func writeDemo(args []string) (dir string, err error) {
	if len(args) > 0 {
		dir = args[0]
	} else if dir, err = os.MkdirTemp("", "umbau-demo-"); err != nil {
		return "", err
	}
	err = demo.Write(dir)
	var changed *demo.ChangedError
	var path *os.PathError
	switch {
	case errors.As(err, &changed):
		return "", place1("demo", changed.File, "this is there already and is not the demo's; name an empty folder: umbau demo DIR")
	case errors.As(err, &path):
		return "", place1("demo", path.Path, path.Err.Error()+"; name a folder that can be written: umbau demo DIR")
	}
	return dir, err
}

func (a *app) heading(s string) { fmt.Fprintf(a.out, "\n%s\n", a.colored(a.out, bold, s)) }

// tellBeginning shows what came in.
func (a *app) tellBeginning(c *cobra.Command, dir string) error {
	w := a.out
	fmt.Fprintf(w, "%s\n", a.colored(w, bold, "Halyard & Moss, a ship chandlery, sells on four coasts. Wanted: one table of all "+
		"sales that can be added up."))
	a.heading("What came in: one product a column, typed by hand, each coast in its own way")
	r, err := survey.Run(c.Context(), survey.Options{Paths: []string{filepath.Join(dir, "raw")}, Workers: a.workers,
		Formats: formats(limits{})})
	if err != nil {
		return err
	}
	var g grid
	for _, table := range r.Tables {
		name, err := filepath.Rel(dir, table.Place.Source())
		if err != nil {
			name = table.Place.Source()
		}
		g.add(filepath.ToSlash(name), shapeOf(table))
	}
	g.print(w)
	name := "raw/Skerries_2024.csv"
	data, err := os.ReadFile(filepath.Join(dir, filepath.FromSlash(name)))
	if err != nil {
		return err
	}
	fmt.Fprintf(w, "  This is how %s begins:\n", name)
	for _, line := range strings.SplitN(string(data), "\n", 4)[:3] {
		if r := []rune(line); len(r) > 110 {
			line = string(r[:110]) + "…"
		}
		fmt.Fprintf(w, "    %s\n", a.colored(w, faint, line))
	}
	return nil
}

// shapeOf says in a line how a table is laid out and written.
func shapeOf(t *survey.Table) string {
	s := fmt.Sprintf("header in row %d, %s, %s", t.HeaderRow, countOf(t.Rows, "row"), countOf(t.Columns, "column"))
	if t.Facts.Encoding != "" {
		s += ", " + t.Facts.Encoding + ", " + t.Facts.DelimiterName()
	}
	return s
}

// tellEnd says what was wrong and what became of it.
func (a *app) tellEnd(dir string, s *fact.Summary) error {
	w := a.out
	changed, err := troubles(filepath.Join(dir, s.Plan.Record, record.ChangesFile), "kind")
	if err != nil {
		return err
	}
	held, err := troubles(filepath.Join(dir, s.Plan.Record, record.HeldFile), "reason")
	if err != nil {
		return err
	}
	a.tellWrong(s, changed, held)
	r := s.Rows()
	a.heading(fmt.Sprintf("What came out: %s from %s with %s, and it ties", countOf(s.FactRows, "fact row"),
		countOf(len(s.Extracts), "extract"), countOf(r.Read, "row")))
	a.printTies(w, s)

	here, where := filepath.Clean(dir) == ".", dir
	if here {
		where = "this folder"
	}
	a.heading("What to open, in " + where)
	var g grid
	g.add("umbau.yaml", "the plan, with comments")
	var also []string
	for _, d := range s.Deliveries[1:] {
		also = append(also, d.Name)
	}
	g.add(s.Deliveries[0].Name, "the fact table; the same as a workbook and a column file: "+strings.Join(also, ", "))
	g.add(path.Join(s.Plan.Record, record.ChangesFile), "each of the "+countOf(countChanges(s), "changed cell")+
		": where, what it was, what it is now")
	g.add(path.Join(s.Plan.Record, record.HeldFile), "the "+countOf(r.Held, "fact row")+" held, with all their cells")
	g.print(w)

	a.heading("What to try next")
	if !here {
		fmt.Fprintf(w, "  cd %s\n", shellQuoted(dir))
	}
	a.tellNext(s)
	return nil
}

// tellWrong says what was wrong with the extracts, and what the plan decided.
func (a *app) tellWrong(s *fact.Summary, changed, held []trouble) {
	a.heading("What was wrong with it, and what the plan decided")
	var g grid
	for _, c := range s.Names.Counts() {
		g.add(countOf(c.Spellings, "spelling"), "of "+countOf(c.Names, s.Plan.Columns[c.Column].Name), "one spelling each")
	}
	for _, k := range changed {
		g.add(countOf(k.count, k.what)+" of "+k.first["column"], k.example(), "became "+k.first["after"])
	}
	for _, k := range held {
		g.add(countOf(k.count, "fact row"), k.what+": "+k.place(), "held, for a person to look at")
	}
	for _, l := range s.Lookups {
		file := s.Plan.Reference(l.Reference).Entry.Source()
		g.add(countOf(l.Missing, "fact row"), "of a branch that "+file+" does not have", l.Column+": not assigned")
		g.add(countOf(l.Unused, "line"), "of it: a branch that stands twice, one that was closed", "nobody asked for them")
	}
	r := s.Rows()
	g.add(countOf(r.Blank, "blank row"), "and "+countOf(r.RepeatedHeader, "repeated header row")+", "+countOf(r.Footnote, "footnote"),
		"left out")
	g.add(countOf(r.Total, "total row"), "and a total column: "+countOf(s.Checks.TotalRows+s.Checks.TotalColumns, "figure"),
		"left out; all agree with what they total")
	g.add(countOf(s.Checks.Controls, "control total"), "from the offices of the coasts", "compared; all agree")
	g.print(a.out)
}

// tellNext says what to try.
func (a *app) tellNext(s *fact.Summary) {
	var g grid
	unknown, cells := 0, 0
	for n := range s.Names.All() {
		if n.How == names.Unknown {
			unknown, cells = unknown+1, cells+n.Cells
		}
	}
	g.add("umbau names review", "decide the "+countOf(unknown, "unknown name")+", one key each,")
	g.add("umbau build", "and their "+countOf(cells, "fact row")+" are held for their name no longer")
	g.add("umbau draft -o drafted.yaml", "the plan that Umbau works out from the extracts alone; compare it with umbau.yaml")
	g.add("cp -r next/. . && umbau build", "the month after: one figure restated, one product new, one header lost")
	g.add("umbau totals --by region --across year", "add the fact table up; --by product --sort -amount says what sells")
	g.add("umbau trace --row 17", "the cells that a fact row was made of; --cell goes the other way")
	g.add("umbau report", "a page for those who never open a terminal: out/report.html")
	g.add("umbau keys out/sales.csv ref/managers.csv --on branch", "which branch has no manager, and which stands twice")
	g.add("umbau gaps", "each cell that is no number, and which rule of the plan takes it")
	g.add("umbau survey raw", "see all that came in, before anything is decided")
	g.add("umbau build --dry-run", "after you take a line such as errors: hold out of umbau.yaml")
	g.print(a.out)
}

func countChanges(s *fact.Summary) int {
	n := 0
	for _, c := range s.Changes {
		n += c.Count
	}
	return n
}

// trouble is one kind of thing that the record lists.
type trouble struct {
	what  string
	count int
	first map[string]string // its first line, by column
}

func (t trouble) place() string {
	sheet := ""
	if t.first["sheet"] != "" {
		sheet = ", sheet " + t.first["sheet"]
	}
	return fmt.Sprintf("%s%s, row %s, %s", t.first["file"], sheet, t.first["row"], strings.Join(strings.Fields(t.first["header"]), " "))
}

func (t trouble) example() string {
	if t.first["before"] == "" {
		return t.place()
	}
	return fmt.Sprintf("%q in %s", place.Shorten(t.first["before"]), t.place())
}

// troubles reads a file of the record, column by column and kind by kind as a
// column of it says.
func troubles(file, by string) ([]trouble, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	r := csv.NewReader(f)
	header, err := r.Read()
	if err != nil {
		return nil, err
	}
	var list []trouble
	index := map[string]int{}
	for {
		cells, err := r.Read()
		if err == io.EOF {
			return list, nil
		}
		if err != nil {
			return nil, err
		}
		line := map[string]string{}
		for i, h := range header {
			line[h] = cells[i]
		}
		kind := line["column"] + " " + line[by]
		i, ok := index[kind]
		if !ok {
			i = len(list)
			index[kind] = i
			list = append(list, trouble{what: line[by], first: line})
		}
		list[i].count++
	}
}

// shellQuoted writes a path so that a shell takes it as it is.
func shellQuoted(s string) string {
	if !strings.ContainsAny(s, " '\"$&()*;<>?[]`|~#!\\") {
		return s
	}
	return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'"
}
