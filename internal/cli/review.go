package cli

import (
	"bufio"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
)

func (a *app) namesReviewCommand() *cobra.Command {
	var column string
	cmd := &cobra.Command{
		Use:               "review [PLAN]",
		ValidArgsFunction: completePlan,
		Short:             "Decide names one by one in the terminal",
		Long: `Show each name that its book does not have, with what it may stand for, and take
an answer by one key:

  enter    take the first candidate
  1 to 9   take another candidate
  t        type the standard name
  k        keep the name as it is: it is a standard name of its own
  s        skip it
  b        go back to the one before, and take its answer back
  q        stop

Each answer is in the book at once, so that stopping loses nothing.`,
		Example: `  umbau names review
  umbau names review --column product`,
		Args: atMost(1),
		RunE: func(c *cobra.Command, args []string) error {
			if !term.IsTerminal(int(os.Stdin.Fd())) || !term.IsTerminal(int(os.Stdout.Fd())) {
				return usageError{fmt.Errorf("names review needs a terminal; elsewhere umbau names suggest --write begins the lines of the " +
					"book, to be finished in an editor")}
			}
			s, columns, err := a.namesSeen(c, args, column)
			if err != nil {
				return err
			}
			if len(s.Problems) > 0 {
				a.printStop(s)
				return nil
			}
			return a.reviewNames(s, columns)
		},
	}
	columnFlag(cmd, &column)
	return cmd
}

// bookFile is the path of a column's book.
func bookFile(s *fact.Summary, column int) string {
	file := filepath.FromSlash(s.Plan.Columns[column].Book)
	if filepath.IsAbs(file) {
		return file
	}
	return filepath.Join(filepath.Dir(s.Plan.File), file)
}

// review goes through the names of one column.
type review struct {
	app      *app
	in       *bufio.Reader
	column   string
	file     string
	list     []names.Seen // that the book does not have, those in most cells first
	proposer *names.Proposer
	past     []answer // one a name so far
}

// reviewNames decides the names of some columns.
func (a *app) reviewNames(s *fact.Summary, columns []int) error {
	left := 0
	var without []string
	for _, i := range columns {
		seen := seenIn(s, i)
		if s.Plan.Columns[i].Book == "" {
			if len(names.Propose(seen, nil)) > 0 {
				without = append(without, s.Plan.Columns[i].Name)
			}
			continue
		}
		r := &review{app: a, in: bufio.NewReader(os.Stdin), column: s.Plan.Columns[i].Name, file: bookFile(s, i),
			proposer: names.NewProposer(seen, s.Books[i])}
		for _, n := range seen {
			if n.How == names.Unknown {
				r.list = append(r.list, n)
			}
		}
		slices.SortStableFunc(r.list, func(a, b names.Seen) int { return b.Cells - a.Cells })
		if stopped, err := r.run(); err != nil || stopped {
			return err
		}
		left += r.skipped()
	}
	for _, c := range without {
		fmt.Fprintf(a.out, "%s has no book, and its spellings are not decided here: give the column one with book: names/%s.csv\n", c, c)
	}
	switch {
	case left > 0:
		fmt.Fprintf(a.out, "%s left undecided; umbau build uses the answers that there are.\n", countOf(left, "name"))
	case len(without) == 0:
		fmt.Fprintln(a.out, "Nothing is left to decide in a book; umbau build uses the answers.")
	}
	return nil
}

// run asks for each name; stopped says that the person had enough.
func (r *review) run() (stopped bool, err error) {
	decided := 0
	for at := 0; at < len(r.list); {
		p := r.proposer.Propose(r.list[at])
		if p.Sure && r.settled(p) { // its line in the book is that of another spelling
			r.past = append(r.past, answer{skipped: true, same: true})
			at++
			continue
		}
		r.show(at, &p)
		key, err := r.key()
		if err != nil {
			return true, err
		}
		standard := ""
		switch {
		case key == 'q' || key == 3 || key == 4: // also Ctrl-C and Ctrl-D
			fmt.Fprintf(r.app.out, "\nStopped: %s decided, %d left; all answers are in %s.\n", countOf(decided, "name"), len(r.list)-at, r.file)
			return true, nil
		case key == 'b':
			undone, err := r.back()
			if err != nil {
				return true, err
			}
			at, decided = len(r.past), decided-undone
			continue
		case key == 's':
			r.past = append(r.past, answer{skipped: true})
			at++
			continue
		case key == 'k':
			standard = p.Seen
		case key == 't':
			if standard, err = r.typed(); err != nil {
				return true, err
			}
		case key == '\r' || key == '\n':
			standard = r.candidate(&p, 0)
		case key >= '1' && key <= '9':
			standard = r.candidate(&p, int(key-'1'))
		}
		if standard == "" {
			fmt.Fprint(r.app.out, "\a")
			continue
		}
		if err := r.decide(p.Seen, standard); err != nil {
			return true, err
		}
		r.proposer.Decide(p.Seen, standard)
		fmt.Fprintf(r.app.out, "  → %s\n", standard)
		decided++
		at++
	}
	return false, nil
}

// back goes back to the name before, but for those that were decided with others; undone
// is 1 where an answer was taken back.
func (r *review) back() (undone int, err error) {
	for len(r.past) > 0 && r.past[len(r.past)-1].same {
		r.past = r.past[:len(r.past)-1]
	}
	if len(r.past) == 0 {
		return 0, nil
	}
	before := r.past[len(r.past)-1]
	if !before.skipped {
		if err := r.takeBack(before); err != nil {
			return 0, err
		}
		undone = 1
	}
	r.past = r.past[:len(r.past)-1]
	return undone, nil
}

// settled reports whether a name is decided by an answer for another spelling of it.
func (r *review) settled(p names.Proposal) bool {
	for _, a := range r.past {
		if !a.skipped && key.Same(a.seen, p.Seen) {
			return true
		}
	}
	return false
}

// skipped is how many names were left undecided.
func (r *review) skipped() (n int) {
	for _, a := range r.past {
		if a.skipped && !a.same {
			n++
		}
	}
	return n
}

func (r *review) candidate(p *names.Proposal, i int) string {
	if i < len(p.Candidates) {
		return p.Candidates[i].Standard
	}
	return ""
}

// answer is what was answered for a name, and what its book said of it before.
type answer struct {
	skipped  bool
	same     bool // it was decided by the answer for another spelling
	seen     string
	standard string
	was      string // the standard of its line, "" for none
	line     bool   // it had a line
}

// decide puts an answer into the book at once: into the line of the name, whatever else
// has changed meanwhile.
func (r *review) decide(seen, standard string) error {
	a := answer{seen: seen, standard: standard}
	err := changeFile(r.file, func(old []byte) (text []byte, err error) {
		if a.was, a.line, err = names.LineOf(old, seen); err != nil {
			return nil, err
		}
		return names.Decide(old, seen, standard)
	})
	if err != nil {
		return place1("book", r.file, "the book cannot be written: "+err.Error()+"; it is as it was")
	}
	r.past = append(r.past, a)
	return nil
}

// takeBack lets the line of a name be as it was before its answer. One that somebody else
// has changed since stays.
func (r *review) takeBack(a answer) error {
	err := changeFile(r.file, func(old []byte) ([]byte, error) {
		if now, _, err := names.LineOf(old, a.seen); err != nil || now != a.standard {
			return old, err
		}
		if a.line {
			return names.Decide(old, a.seen, a.was)
		}
		return names.Forget(old, a.seen)
	})
	if err != nil {
		return place1("book", r.file, "the book cannot be written: "+err.Error()+"; it is as it was")
	}
	r.proposer.Forget(a.seen)
	return nil
}

// show prints a name and what it may stand for.
func (r *review) show(at int, p *names.Proposal) {
	w := r.app.out
	fmt.Fprintf(w, "\n%s  %s %d of %d, in %s", r.app.colored(w, bold, fmt.Sprintf("%q", place.Shorten(p.Seen))), r.column, at+1, len(r.list),
		countOf(p.Cells, "fact row"))
	if p.First != nil {
		fmt.Fprintf(w, ", first %s", p.First)
	}
	fmt.Fprintln(w)
	for i, c := range p.Candidates {
		if i == 9 {
			break
		}
		fmt.Fprintf(w, "  %d  %s  (%.2f, %s)\n", i+1, c.Standard, c.Likeness, c.Why)
	}
	keys := "t type, k keep as it is, s skip, b back, q stop"
	if len(p.Candidates) > 0 {
		keys = "enter take the first, " + keys
	} else {
		fmt.Fprintln(w, "  no name is like it")
	}
	fmt.Fprintf(w, "  %s: ", r.app.colored(w, faint, keys))
}

// key reads one key without waiting for the end of a line.
func (r *review) key() (byte, error) {
	fd := int(os.Stdin.Fd())
	old, err := term.MakeRaw(fd)
	if err != nil {
		return 0, err
	}
	defer fmt.Fprintln(r.app.out)
	r.app.terminal.Store(old)
	defer func() {
		r.app.terminal.Store(nil)
		term.Restore(fd, old)
	}()
	return r.in.ReadByte()
}

// typed reads a line.
func (r *review) typed() (string, error) {
	fmt.Fprint(r.app.out, "  standard name: ")
	line, err := r.in.ReadString('\n')
	return strings.TrimSpace(line), err
}
