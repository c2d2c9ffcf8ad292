package cli

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/fact"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
)

func (a *app) namesCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use:   "names",
		Short: "The names that were seen, what each becomes, and suggestions for those not decided",
		Example: `  umbau names list --unknown     those that no book knows, with where they stand first
  umbau names suggest            what each of them may stand for
  umbau names review             decide them, one key each`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return c.Help() },
	}
	cmd.AddCommand(a.namesListCommand(), a.namesSuggestCommand(), a.namesReviewCommand())
	return cmd
}

// columnFlag lets a command be for one column only.
func columnFlag(cmd *cobra.Command, column *string) {
	cmd.Flags().StringVar(column, "column", "", "only this column")
	_ = cmd.RegisterFlagCompletionFunc("column", completeNames) // fails only where there is no such flag
}

// namesSeen reads the extracts of a plan for their names; nothing is written.
func (a *app) namesSeen(c *cobra.Command, args []string, column string) (*fact.Summary, []int, error) {
	file := plan.DefaultFile
	if len(args) > 0 {
		file = args[0]
	}
	s, err := a.build(c, file, buildFlags{dryRun: true, where: true, begin: true})
	if err != nil {
		return nil, nil, err
	}
	var columns []int
	var known []string
	for i, col := range s.Plan.Columns {
		if col.Kind == plan.Name {
			known = append(known, col.Name)
			if column == "" || column == col.Name {
				columns = append(columns, i)
			}
		}
	}
	if column != "" && len(columns) == 0 {
		return nil, nil, usageError{fmt.Errorf("--column: the plan has no column of names called %q; it has %s", column,
			strings.Join(known, ", "))}
	}
	s.Problems = slices.DeleteFunc(s.Problems, func(p place.Problem) bool { return slices.Contains(noMatter, p.What) })
	a.exit = s.ExitCode()
	return s, columns, nil
}

// noMatter are problems of a build that hide no names.
var noMatter = []string{"unknown name", "blank gap", "null gap", "text gap", "unclear gap", "error gap", "repeated grain",
	"repeats differ", "total", "control total"}

// seenIn are the names of a column.
func seenIn(s *fact.Summary, column int) []names.Seen {
	var out []names.Seen
	for n := range s.Names.All() {
		if n.Column == column {
			out = append(out, *n)
		}
	}
	return out
}

// undecided reports whether nothing is decided of a name yet.
func undecided(s *fact.Summary, n names.Seen) bool {
	remedy := s.Plan.Columns[n.Column].Unknown.Remedy
	return n.How == names.Unknown && remedy != plan.Put && remedy != plan.Keep
}

type namesDoc struct {
	place.DocHead
	Names any `json:"names"`
}

type seenDoc struct {
	Column   string  `json:"column"`
	Seen     string  `json:"seen"`
	Standard *string `json:"standard"`
	How      string  `json:"how"`
	Cells    int     `json:"cells"`
}

func (a *app) namesListCommand() *cobra.Command {
	var unknown bool
	var column string
	cmd := &cobra.Command{
		Use:               "list [PLAN]",
		ValidArgsFunction: completePlan,
		Short:             "The distinct names seen, what each becomes and why",
		Example: `  umbau names list
  umbau names list --unknown --column product`,
		Args: atMost(1),
		RunE: func(c *cobra.Command, args []string) error {
			s, columns, err := a.namesSeen(c, args, column)
			if err != nil {
				return err
			}
			if a.json {
				docs := []seenDoc{}
				for n := range s.Names.All() {
					if !slices.Contains(columns, n.Column) || unknown && n.How != names.Unknown {
						continue
					}
					d := seenDoc{s.Plan.Columns[n.Column].Name, n.Text, &n.Standard, n.How.String(), n.Cells}
					if undecided(s, *n) {
						d.Standard = nil
					}
					docs = append(docs, d)
				}
				a.printJSON(namesDoc{head(words(c), a.exit, s.Problems), docs})
				return nil
			}
			if len(s.Problems) > 0 {
				a.printStop(s)
			}
			for _, i := range columns {
				a.printNames(s, i, unknown)
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&unknown, "unknown", false, "only names that the book does not have")
	columnFlag(cmd, &column)
	return cmd
}

// printNames prints the standards of a column and the spellings behind each.
func (a *app) printNames(s *fact.Summary, column int, unknown bool) {
	if a.quiet {
		return
	}
	list := seenIn(s, column)
	var order []string
	behind, standards := map[string][]names.Seen{}, map[string]bool{}
	n := 0
	for _, seen := range list {
		standard := seen.Standard
		if undecided(s, seen) {
			standard = ""
		}
		if standard != "" {
			standards[standard] = true
		}
		if seen.How == names.Unknown {
			n++
		} else if unknown {
			continue
		}
		if behind[standard] == nil {
			order = append(order, standard)
		}
		behind[standard] = append(behind[standard], seen)
	}
	slices.Sort(order)
	head := fmt.Sprintf("%s: %s, %s", s.Plan.Columns[column].Name, countOf(len(list), "spelling"), countOf(len(standards), "name"))
	if n > 0 {
		head += fmt.Sprintf(", %d unknown", n)
	}
	fmt.Fprintln(a.out, a.colored(a.out, bold, head))
	g := grid{right: []int{3}}
	for _, standard := range order {
		shown := standard
		if standard == "" {
			shown = "not decided"
		}
		for i, seen := range behind[standard] {
			if i > 0 {
				shown = ""
			}
			g.add(place.Shorten(shown), strconv.Quote(place.Shorten(seen.Text)), seen.How.String(), countOf(seen.Cells, "cell"))
		}
	}
	g.print(a.out)
	if behind[""] != nil {
		fmt.Fprintf(a.out, "  → umbau names suggest proposes a standard for those not decided\n")
	}
	fmt.Fprintln(a.out)
}

type otherDoc struct {
	Standard string  `json:"standard"`
	Likeness float64 `json:"likeness"`
}

type proposalDoc struct {
	Column    string     `json:"column"`
	Seen      string     `json:"seen"`
	Cells     int        `json:"cells"`
	Suggested *string    `json:"suggested"`
	Likeness  *float64   `json:"likeness"`
	Why       *string    `json:"why"`
	Sure      bool       `json:"sure"`
	Others    []otherDoc `json:"others"`
}

func (a *app) namesSuggestCommand() *cobra.Command {
	var write bool
	var column string
	cmd := &cobra.Command{
		Use:               "suggest [PLAN]",
		ValidArgsFunction: completePlan,
		Short:             "A standard for each name not decided, with its likeness and why",
		Long: `Propose a standard name for each name that the book does not have: the one most
like it, how alike they are (0 to 1) and why. Names that differ in a number or a
size are never proposed for each other. Nothing is decided: that is for a person.

With --write the names are appended to their book, the proposal in a column
suggested beside an empty standard; finish it in a spreadsheet or a text editor.`,
		Example: `  umbau names suggest
  umbau names suggest --write`,
		Args: atMost(1),
		RunE: func(c *cobra.Command, args []string) error {
			s, columns, err := a.namesSeen(c, args, column)
			if err != nil {
				return err
			}
			proposals := map[int][]names.Proposal{}
			for _, i := range columns {
				proposals[i] = names.Propose(seenIn(s, i), s.Books[i])
			}
			if write && len(s.Problems) == 0 {
				if err := a.writeBooks(s, columns, proposals); err != nil {
					return err
				}
			}
			if a.json {
				docs := []proposalDoc{}
				for _, i := range columns {
					for _, p := range proposals[i] {
						docs = append(docs, proposalDocOf(s.Plan.Columns[i].Name, p))
					}
				}
				a.printJSON(namesDoc{head(words(c), a.exit, s.Problems), docs})
				return nil
			}
			if len(s.Problems) > 0 {
				a.printStop(s)
			}
			for _, i := range columns {
				if len(s.Problems) == 0 || len(proposals[i]) > 0 {
					a.printProposals(s, i, proposals[i], write)
				}
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&write, "write", false, "append the names to their book, each with its proposal beside it")
	columnFlag(cmd, &column)
	return cmd
}

func proposalDocOf(column string, p names.Proposal) proposalDoc {
	d := proposalDoc{Column: column, Seen: p.Seen, Cells: p.Cells, Sure: p.Sure, Others: []otherDoc{}}
	for i, c := range p.Candidates {
		likeness := float64(int(c.Likeness*1000+0.5)) / 1000
		if i == 0 {
			d.Suggested, d.Likeness, d.Why = &c.Standard, &likeness, &c.Why
			continue
		}
		d.Others = append(d.Others, otherDoc{c.Standard, likeness})
	}
	return d
}

func (a *app) printProposals(s *fact.Summary, column int, list []names.Proposal, written bool) {
	if a.quiet {
		return
	}
	col := s.Plan.Columns[column]
	if len(list) == 0 {
		fmt.Fprintf(a.out, "%s: nothing to decide\n", col.Name)
		return
	}
	head := "%s: %s not decided"
	if col.Book == "" {
		head = "%s: %s that no book decides"
	}
	fmt.Fprintln(a.out, a.colored(a.out, bold, fmt.Sprintf(head, col.Name, countOf(len(list), "spelling"))))
	g := grid{right: []int{1}}
	for _, p := range list {
		suggested, why := "no name is like it", ""
		if len(p.Candidates) > 0 {
			c := p.Candidates[0]
			suggested, why = c.Standard, fmt.Sprintf("%.2f, %s", c.Likeness, c.Why)
			for _, o := range p.Candidates[1:] {
				why += fmt.Sprintf("; or %s (%.2f)", o.Standard, o.Likeness)
			}
		}
		g.add(strconv.Quote(place.Shorten(p.Seen)), countOf(p.Cells, "cell"), place.Shorten(suggested), why)
	}
	g.print(a.out)
	switch {
	case col.Book == "":
		fmt.Fprintf(a.out, "  → spellings of one name are delivered as the first of them; to decide more, give the column a book: "+
			"book: names/%s.csv, with the lines seen,standard\n", col.Name)
	case written:
		fmt.Fprintf(a.out, "  → they are in %s now: fill the column standard, then umbau build\n", col.Book)
	default:
		fmt.Fprintf(a.out, "  → add a line seen,standard to %s for each, or let umbau names suggest --write begin them\n", col.Book)
	}
}

// writeBooks appends the names to their books, each book whole or not at all.
func (a *app) writeBooks(s *fact.Summary, columns []int, proposals map[int][]names.Proposal) error {
	for _, i := range columns {
		col := s.Plan.Columns[i]
		if col.Book == "" || len(proposals[i]) == 0 {
			continue
		}
		err := changeFile(bookFile(s, i), func(old []byte) ([]byte, error) {
			text, _, err := names.Append(old, proposals[i])
			return text, err
		})
		if err != nil {
			return place1("book", col.Book, "the book cannot be written: "+err.Error()+"; it is as it was")
		}
	}
	return nil
}
