//go:build unix

package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// reported makes a demo with its page.
func reported(t *testing.T) (dir, file string) {
	need(t, "chromium")
	dir = t.TempDir()
	run(t, dir, "demo", ".")
	run(t, dir, "report")
	return dir, filepath.Join(dir, "out", "report.html")
}

// run runs the program, which must end well, and returns what it prints.
func run(t *testing.T, dir string, args ...string) string {
	t.Helper()
	c := exec.Command(program(t), args...)
	c.Dir = dir
	out, err := c.Output()
	require.NoError(t, err, "%v: %s", args, out)
	return string(out)
}

// line is a line of a cross table.
type line struct {
	By      []string
	Figures []string
}

// lines are those of the page's table, with all their digits.
const linesScript = `[...document.querySelectorAll("#crossed tbody tr, #crossed tfoot tr")].map((r) => ({
	depth: r.dataset.depth === undefined ? -1 : Number(r.dataset.depth), value: r.dataset.value || "",
	figures: [...r.querySelectorAll("td")].map((d) => d.dataset.figure) }))`

func (w *window) lines() (out []line) {
	var path []string
	for _, r := range eval[[]struct {
		Depth   int
		Value   string
		Figures []string
	}](w, linesScript) {
		if path = path[:max(0, min(len(path), r.Depth))]; r.Depth >= 0 {
			path = append(path, r.Value)
		}
		out = append(out, line{slices.Clone(path), r.Figures})
	}
	return out
}

// asked are the lines that totals gives for a question.
func asked(t *testing.T, dir string, args ...string) (out []line) {
	var doc struct {
		Rows []struct {
			By      []*string
			Figures []*string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, append([]string{"totals", "--json"}, args...)...)), &doc))
	text := func(list []*string) (out []string) {
		for _, s := range list {
			if s == nil {
				out = append(out, "")
			} else {
				out = append(out, *s)
			}
		}
		return out
	}
	for _, r := range doc.Rows {
		out = append(out, line{text(r.By), text(r.Figures)})
	}
	return out
}

// The page says what totals says, to the digit, whatever is chosen.
func TestPageAgreesWithTotals(t *testing.T) {
	dir, file := reported(t)
	w := open(t, file, 1280, 800)
	w.ready()
	labels := []string{"region", "year", "branch", "manager", "month", "product", "quarter(month)"}
	values := map[string][]string{"region": {"Lakes", "Skerries", "Amber Bay"}, "year": {"2023", "2025"},
		"product": {"Dock Line", "Deck Brush"}}
	r := rand.New(rand.NewPCG(7, 7))
	for range 40 {
		q, args := choiceByChance(r, labels, values)
		want := asked(t, dir, args...)
		drawn := eval[int](w, "window.drawn = (window.drawn || 0) + 1")
		eval[any](w, fmt.Sprintf("{ document.querySelector('#crossed').dataset.old = %d; location.hash = %q; null }", drawn, "#"+
			strings.ReplaceAll(q.Encode(), "+", "%20")))
		w.wait(fmt.Sprintf("document.querySelector('#crossed').dataset.old !== '%d'", drawn))
		have := w.lines()
		if len(want) > 1001 {
			continue // the page says how many more there are
		}
		require.Equal(t, len(want), len(have), "%v", args)
		byLabel := func(a, b line) int { return slices.Compare(a.By, b.By) }
		slices.SortFunc(want, byLabel)
		slices.SortFunc(have, byLabel)
		for i := range want {
			require.Equal(t, strings.Join(want[i].By, "|"), strings.Join(have[i].By, "|"), "%v", args)
			require.Equal(t, want[i].Figures, have[i].Figures, "%v: %v", args, want[i].By)
		}
	}
	w.quiet()
}

// choiceByChance is a choice, as the address of the page has it and as totals is asked for it.
func choiceByChance(r *rand.Rand, labels []string, values map[string][]string) (q url.Values, args []string) {
	order := r.Perm(len(labels))
	rows := order[:r.IntN(4)]
	q = url.Values{}
	by := []string{}
	for _, i := range rows {
		q.Add("rows", labels[i])
		by = append(by, labels[i])
	}
	if len(rows) == 0 {
		q.Add("rows", "")
	} else {
		args = append(args, "--by", strings.Join(by, ","))
	}
	q.Set("across", "")
	if across := labels[order[3]]; r.IntN(2) == 0 {
		q.Set("across", across)
		args = append(args, "--across", across)
	}
	of, show := []string{"amount", "quantity"}[r.IntN(2)], []string{"sum", "sum", "share", "mean", "count"}[r.IntN(5)]
	q.Set("of", of)
	q.Set("show", show)
	args = append(args, "--of", of, "--show", show)
	if r.IntN(2) == 0 {
		q.Set("sort", "figure")
	}
	var only []string
	for _, name := range []string{"region", "year", "product"} {
		if r.IntN(3) == 0 {
			n := 1 + r.IntN(len(values[name]))
			var any []string
			for _, v := range values[name][:n] {
				q.Add("only:"+name, v)
				any = append(any, name+" = '"+v+"'")
			}
			only = append(only, "("+strings.Join(any, " or ")+")")
		}
	}
	if len(only) > 0 {
		args = append(args, "--only", strings.Join(only, " and "))
	}
	return q, args
}
