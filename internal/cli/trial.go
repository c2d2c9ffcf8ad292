package cli

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Two dry runs side by side: the plan, and the plan with other values under some of its keys.

// tryDoc is what --try adds to the document of a build.
type tryDoc struct {
	*fact.Document
	Try struct {
		Changed []triedDoc      `json:"changed"`
		Plan    *fact.Document  `json:"plan"`
		Tried   *fact.Document  `json:"tried"`
		Groups  []triedGroupDoc `json:"groups"`
	} `json:"try"`
}

type triedDoc struct {
	Key string  `json:"key"`
	Was *string `json:"was"`
	Is  string  `json:"is"`
}

type triedGroupDoc struct {
	Group   string  `json:"group"`
	Measure string  `json:"measure"`
	Plan    *string `json:"plan"`
	Tried   *string `json:"tried"`
}

// trialsOf reads the values of --try.
func trialsOf(texts []string) (out []plan.Trial, err error) {
	for _, text := range texts {
		name, to, ok := strings.Cut(text, "=")
		if !ok || strings.TrimSpace(name) == "" {
			return nil, fmt.Errorf("--try %s: say KEY=VALUE, such as amount.unclear=0", place.Shorten(text))
		}
		out = append(out, plan.Trial{Key: strings.TrimSpace(name), Value: strings.TrimSpace(to)})
	}
	return out, nil
}

// try runs the plan twice without writing anything, and says what differs.
func (a *app) try(c *cobra.Command, file string, o buildFlags) error {
	trials, err := trialsOf(o.try)
	if err != nil {
		return usageError{err}
	}
	p, err := readPlan(file, o.limits)
	if err != nil {
		return err
	}
	other, tried, err := plan.ReadTried(file, p.Source(), formats(o.limits), trials)
	if err != nil {
		return usageError{wordsOf(err)}
	}
	var runs [2]*fact.Summary
	for i, one := range []*plan.Plan{p, other} {
		bar := a.progress("reading")
		runs[i], err = fact.Build(c.Context(), one, fact.Options{Version: Version, Command: words(c), Workers: a.workers, DryRun: true,
			Accept: o.accept, Progress: bar.set})
		bar.stop()
		if err != nil {
			return err
		}
		if runs[i].ExitCode() == 1 { // it could not be read
			a.exit = 1
			if a.json {
				a.printJSON(runs[i].Document(Version, words(c)))
			} else {
				a.printStop(runs[i])
			}
			return nil
		}
	}
	groups := fact.CompareGroups(runs[0], runs[1])
	if a.json {
		a.printJSON(tryDocOf(c, runs, tried, groups))
		return nil
	}
	a.printTry(runs, tried, groups)
	return nil
}

// wordsOf says what is wrong with the values that were tried: mistakes of a plan without the places,
// which are those of the plan that is not touched.
func wordsOf(err error) error {
	var list place.List
	if !errors.As(err, &list) {
		return err
	}
	var texts []string
	for _, p := range list {
		texts = append(texts, p.Message)
	}
	return errors.New("--try: " + strings.Join(texts, "; "))
}

func tryDocOf(c *cobra.Command, runs [2]*fact.Summary, tried []plan.Tried, groups []fact.GroupDifference) *tryDoc {
	d := &tryDoc{Document: runs[0].Document(Version, words(c))}
	d.Exit, d.Problems = 0, []place.Doc{}
	d.Try.Changed, d.Try.Groups = []triedDoc{}, []triedGroupDoc{}
	for _, t := range tried {
		d.Try.Changed = append(d.Try.Changed, triedDoc{t.Key, t.Was, t.Is})
	}
	d.Try.Plan, d.Try.Tried = runs[0].Document(Version, words(c)), runs[1].Document(Version, words(c))
	for _, g := range groups {
		d.Try.Groups = append(d.Try.Groups, triedGroupDoc{g.Group, g.Measure, place.OrNull(g.Plan), place.OrNull(g.Tried)})
	}
	return d
}

// mostTried is how many groups the comparison shows.
const mostTried = 10

func (a *app) printTry(runs [2]*fact.Summary, tried []plan.Tried, groups []fact.GroupDifference) {
	w := a.out
	outcome := func(s *fact.Summary) string {
		if n := len(s.Problems); n > 0 {
			return "would stop: " + countOf(n, "thing") + " in the way"
		}
		return "would deliver " + countOf(s.FactRows, "fact row")
	}
	fmt.Fprintf(w, "%s\n", a.colored(w, bold, "The plan "+outcome(runs[0])+"; tried, it "+outcome(runs[1])+". Nothing was written."))
	var g grid
	for _, t := range tried {
		was := "silent"
		if t.Was != nil {
			was = *t.Was
		}
		is := t.Is
		if is == "" {
			is = "silent"
		}
		g.add(t.Key, was, "→ "+is)
	}
	g.print(w)
	fmt.Fprintln(w)
	a.printTried(runs)
	if len(groups) > 0 {
		fmt.Fprintf(w, "\n  The most affected of %s:\n", countOf(len(groups), "group"))
		t := grid{right: []int{2, 3, 4}}
		for _, one := range groups[:min(mostTried, len(groups))] {
			t.add("  "+one.Group, one.Measure, orDash(one.Plan), orDash(one.Tried), signed(grouped(one.Difference().String())))
		}
		t.print(w)
	}
	for _, s := range runs {
		for _, p := range s.Problems {
			name := "the plan"
			if s == runs[1] {
				name = "tried"
			}
			fmt.Fprintf(w, "  ! %s: %s × %s\n", name, grouped(strconv.Itoa(p.Count)), p.Message)
		}
	}
}

func orDash(text string) string {
	if text == "" {
		return "–"
	}
	return grouped(text)
}

// printTried prints the accounts of both runs.
func (a *app) printTried(runs [2]*fact.Summary) {
	g := grid{right: []int{1, 2, 3}}
	g.add("", "plan", "tried", "difference")
	add := func(name string, x, y value.Decimal, shown func(value.Decimal) string) {
		if x.Sign() != 0 || y.Sign() != 0 {
			difference := ""
			if d := y.Sub(x); d.Sign() != 0 {
				difference = signed(shown(d))
			}
			g.add(name, shown(x), shown(y), difference)
		}
	}
	count := func(n int) value.Decimal { return value.NewDecimal(int64(n), 0) }
	plain := func(d value.Decimal) string { return grouped(d.String()) }
	x, y := runs[0].Rows(), runs[1].Rows()
	add("fact rows", count(x.Fact), count(y.Fact), plain)
	add("held", count(x.Held), count(y.Held), plain)
	add("left out", count(leftOutRows(&x)), count(leftOutRows(&y)), plain)
	for _, m := range runs[0].Measures() {
		f, t, c := runs[0].Totals(m), runs[1].Totals(m), runs[0].Plan.Columns[m]
		add(c.Name+" fact", f.Fact, t.Fact, c.Shown)
		add(c.Name+" changed", f.Changed, t.Changed, c.Shown)
		add(c.Name+" held", f.Held, t.Held, c.Shown)
		add(c.Name+" left out", f.LeftOut, t.LeftOut, c.Shown)
	}
	g.print(a.out)
}

// leftOutRows are the fact rows that were left out.
func leftOutRows(r *tie.Rows) int { return r.Skipped + r.Dropped + r.Filtered + r.Zero + r.Repeated }
