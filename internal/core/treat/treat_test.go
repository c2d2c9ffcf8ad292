package treat_test

import (
	"cmp"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
	"umbau/internal/format"
	"umbau/internal/format/csv"
)

// job is one extract, with bars between its cells, and the plan for it.
type job struct {
	entry string // what stands beside files
	fact  string // columns, one a line
	rows  string // of the plan, with its key
	book  string // the lines of book.csv, for all columns that have one
	text  string
}

// outcome is what becomes of an extract, all of it as text.
type outcome struct {
	facts    []string // delivered rows of all columns, helpers too
	gone     []string // line, fate, and the column and the reason of a held row
	changes  []string // line or line/header, column, kind
	names    []string // column, text, standard, how, cells
	problems []string // what: each place
	totals   []string // line, label, figures
	empties  []string
	ties     []string // measure: read + changed = fact + held + left out
	rows     tie.Rows
	places   treat.Places // of all measures
}

// programOf makes a plan ready for an extract.
func programOf(t *testing.T, j job) (*treat.Program, place.List) {
	var src strings.Builder
	fmt.Fprintf(&src, "umbau: 1\nextracts:\n  - { files: \"*.csv\"%s }\nfact:\n", j.entry)
	for line := range strings.Lines(strings.TrimSpace(j.fact) + "\n") {
		src.WriteString("  " + strings.TrimSpace(line) + "\n")
	}
	fmt.Fprintf(&src, "%s\ndeliver: [{ to: out.csv }]\n", j.rows)
	p, err := plan.Read("umbau.yaml", []byte(src.String()), format.All())
	require.NoError(t, err, src.String())
	books := make([]*names.Book, len(p.Columns))
	for i, c := range p.Columns {
		if c.Book != "" {
			books[i], err = names.ReadBook("book.csv", strings.NewReader("seen,standard\n"+j.book))
			require.NoError(t, err)
		}
	}
	head, _, _ := strings.Cut(j.text, "\n")
	var rows table.Rows
	reader := csv.NewReader(strings.NewReader(head+"\n"), '|')
	block, err := reader.Next(nil)
	require.NoError(t, err)
	require.NoError(t, reader.Split(block, &rows))
	l, problems := layout.LineUp(p, p.Entries[0], layout.ReadHeader(&rows, 0, 0), map[string]string{"region": "Lakes"},
		func(int) bool { return false }, place.Place{File: "a.csv"})
	require.Empty(t, problems)
	l.Known = func(label string) bool {
		return slices.ContainsFunc(books, func(b *names.Book) bool {
			if b == nil {
				return false
			}
			_, _, known := b.Find(label)
			return known
		})
	}
	return treat.NewProgram(p, l, books, nil)
}

// run treats an extract in blocks of so many lines.
func run(t *testing.T, j job, lines int) *outcome {
	j.text = strings.TrimSpace(j.text)
	program, problems := programOf(t, j)
	require.Empty(t, problems)
	p := program.Plan
	w, shared, out := treat.NewWorker(p, treat.Wants{Where: true}), treat.NewShared(p), &outcome{}
	var tally names.Tally
	var list place.List
	accounts := make([]tie.Account, len(p.Columns))
	blocks := slices.Collect(slices.Chunk(strings.SplitAfter(strings.TrimSuffix(j.text, "\n"), "\n"), lines))
	line := 1
	for i, b := range blocks {
		reader := csv.NewReader(strings.NewReader(strings.Join(b, "")), '|')
		block, err := reader.Next(nil)
		require.NoError(t, err)
		block.Line = line
		line += len(b)
		require.NoError(t, w.Read(program, reader, treat.Raw{Block: block, First: i == 0, Last: i == len(blocks)-1}))
		_, err = reader.Next(nil)
		require.Equal(t, io.EOF, err)
		require.NoError(t, w.HandOver(shared))
		o := w.Decide()
		out.take(o)
		list.Merge(o.Problems)
		for _, n := range o.Names {
			tally.Add(&n)
		}
		for ci := range o.Accounts {
			accounts[ci].Merge(&o.Accounts[ci])
		}
		for _, p := range o.Places {
			out.places.Add(p)
		}
	}
	out.tell(p, &tally, list)
	slices.Sort(out.problems)
	slices.SortStableFunc(out.changes, func(a, b string) int { return cmp.Compare(lineOf(a), lineOf(b)) })
	slices.SortStableFunc(out.gone, func(a, b string) int { return cmp.Compare(lineOf(a), lineOf(b)) })
	for _, ci := range program.Measures() {
		a := accounts[ci].Totals()
		require.Zero(t, a.Difference.Cmp(value.Decimal{}), "every amount is accounted for")
		out.ties = append(out.ties, fmt.Sprintf("%s: %s + %s = %s + %s + %s", p.Columns[ci].Name, a.Read, a.Changed, a.Fact, a.Held, a.LeftOut))
	}
	require.True(t, out.rows.Balanced(), "every row is accounted for")
	return out
}

// tell writes down the names and the problems.
func (out *outcome) tell(p *plan.Plan, tally *names.Tally, list place.List) {
	for ci, c := range p.Columns {
		for n := range tally.All() {
			if n.Column == ci {
				out.names = append(out.names, fmt.Sprintf("%s %q %q %s %d at %s", c.Name, n.Text, n.Standard, n.How, n.Cells, n.First))
			}
		}
	}
	for _, p := range list {
		var places []string
		for i, at := range p.Places {
			text := ""
			if i < len(p.Texts) {
				text = " " + p.Texts[i]
			}
			places = append(places, strings.TrimPrefix(at.String(), "a.csv, ")+text)
		}
		out.problems = append(out.problems, strings.TrimSpace(fmt.Sprintf("%s of %s: %s", p.What, p.Column, strings.Join(places, "; "))))
	}
}

// lineOf is the number that a text begins with.
func lineOf(text string) (n int) {
	fmt.Sscan(text, &n)
	return n
}

// take copies what became of a block.
func (o *outcome) take(w *treat.Outcome) {
	b, p := w.Batch, w.Program.Plan
	lineOf := func(index int) int { return w.Line(index / b.Slots) }
	for at, fate := range b.Fates {
		if w.Stopped(at) {
			o.gone = append(o.gone, fmt.Sprintf("%d stopped", lineOf(at)))
			continue
		}
		if fate != table.Delivered {
			continue
		}
		var cells []string
		for ci := range b.Columns {
			cells = append(cells, string(b.AppendText(nil, &b.Columns[ci], at/b.Slots, at%b.Slots)))
		}
		o.facts = append(o.facts, strings.Join(cells, "|"))
	}
	for _, g := range w.Gone {
		text := fmt.Sprintf("%d %s", lineOf(int(g.Index)), g.Fate)
		if g.Column >= 0 {
			text += " by " + p.Columns[g.Column].Name
		}
		if g.Reason != "" {
			text += ": " + g.Reason
		}
		o.gone = append(o.gone, text)
	}
	for _, c := range w.Changes {
		text := fmt.Sprintf("%d %s %s", w.Line(int(c.Row)), p.Columns[c.Column].Name, c.KindName())
		o.changes = append(o.changes, text)
	}
	for _, c := range w.HeadChanges {
		text := fmt.Sprintf("above: %s %d %s %q", p.Columns[c.Column].Name, c.Slot, c.KindName(), w.Rows.Text(c.Cell))
		if !slices.Contains(o.changes, text) { // each block has it
			o.changes = append(o.changes, text)
		}
	}
	for _, c := range w.Checks {
		o.totals = append(o.totals, fmt.Sprintf("%d %s says %s, have %s", c.Row, c.Header, c.Said, c.Have.Shorten()))
	}
	for _, e := range w.Empties {
		o.empties = append(o.empties, fmt.Sprintf("%s because of %s: %d", p.Columns[e.Column].Name, p.Columns[e.Because].Name, e.Count))
	}
	o.rows.Merge(w.Account)
}

// treated treats an extract in one block, and makes sure that blocks of one, two
// or three lines come to the same.
func treated(t *testing.T, j job) *outcome {
	t.Helper()
	want := run(t, j, 1000)
	names := want.names
	for _, lines := range []int{1, 2, 3} {
		have := run(t, j, lines)
		have.empties = want.empties // counted block by block
		// of headers: as rows that have them come
		have.names, want.names = slices.Sorted(slices.Values(have.names)), slices.Sorted(slices.Values(want.names))
		require.Equal(t, want, have, "blocks of %d lines", lines)
	}
	want.names = names
	return want
}

// lines are all that an outcome says: fact rows as they are, all else behind a word.
func (o *outcome) lines() []string {
	out := slices.Clone(o.facts)
	for _, l := range []struct {
		word string
		of   []string
	}{{"gone", o.gone}, {"changed", o.changes}, {"name", o.names}, {"stop", o.problems}, {"total", o.totals}, {"empty", o.empties},
		{"tie", o.ties}} {
		for _, text := range l.of {
			out = append(out, l.word+" "+text)
		}
	}
	return out
}

func same(t *testing.T, want string, o *outcome) {
	t.Helper()
	require.Equal(t, strings.TrimSpace(want), strings.Join(o.lines(), "\n"))
}

// Decimal signs before three digits, and before others, grouped numbers and dressed ones among them.
func TestPlaces(t *testing.T) {
	for cells, want := range map[string]string{
		"1.234 5.678 12": "2 false", "1.234 5.67": "1 true", "1.234 1,005.67": "1 true", "1,001.234 1": "1 false",
		"1.2 1.234": "1 true", "1.234 (5.60)": "1 true", "1.234 -1.567": "2 false", "1.234 5.6700": "1 true", "1,234 5": "0 false",
		"0.12345678901234567890 1.234": "1 true",
	} {
		for _, decimals := range []string{"2", "4"} {
			out := run(t, job{fact: "branch: text\namount: { is: number, decimals: " + decimals + " }",
				text: "branch|amount\nHolm|" + strings.ReplaceAll(cells, " ", "\nLowe|")}, 2)
			require.Equal(t, want, fmt.Sprint(out.places.Three, out.places.Other), cells)
		}
	}
}
