//go:build unix

package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// nasty is a text that would run if it were taken for markup.
const nasty = `</script><img src=x onerror="window.hacked=1">{{.}}'"` + "`" + `&amp;${1}<!--`

// Texts of extracts, of the plan and of names never become markup or programs.
func TestPageOfNastyTexts(t *testing.T) {
	dir := t.TempDir()
	write := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	quoted := `"` + strings.ReplaceAll(nasty, `"`, `""`) + `"`
	write("raw/a<b>&\"c'_2024.csv", "Branch,Month,"+quoted+",Rope\n"+
		quoted+",2024-01,1.50,"+quoted+"\n"+`"`+strings.ToUpper(strings.ReplaceAll(nasty, `"`, `""`))+`"`+",2024-02,2.50,#N/A\nDock,2024-02,,4\n")
	write("umbau.yaml", `umbau: 1
title: '`+strings.ReplaceAll(nasty, "'", "''")+`'
# `+nasty+`
extracts:
  - { files: "raw/*.csv", path: "{region}_{year}", unpivot: { header: "{product}", cell: amount } }
fact:
  region: text
  year: year
  branch: name
  month: month
  product: text
  amount: { is: number, decimals: 2, blanks: 0, texts: 0, unclear: hold, errors: hold, note: '`+strings.ReplaceAll(nasty, "'", "''")+`' }
deliver: [{ to: out/sales.csv }, { to: out/report.html }]
record: out/record
`)
	run(t, dir, "build")
	w := open(t, filepath.Join(dir, "out", "report.html"), 1280, 800)
	w.ready()
	text := eval[string](w, "document.body.innerText")
	for _, want := range []string{nasty, "a<b>&\"c'_2024.csv"} {
		require.Contains(t, text, want)
	}
	require.Contains(t, eval[string](w, "document.title"), "onerror")
	for _, choice := range []string{"#rows=branch&across=product", "#rows=product&rows=region&of=amount&show=mean"} {
		w.visit(filepath.Join(dir, "out", "report.html"), choice)
		w.ready()
		require.Contains(t, eval[string](w, "document.querySelector('#crossed').innerText"), "onerror")
	}
	require.Equal(t, 0, eval[int](w, "document.querySelectorAll('img, iframe, link, object, embed').length"))
	require.False(t, eval[bool](w, "'hacked' in window"))
	require.Equal(t, 1, eval[int](w, "document.querySelectorAll('script').length"))
	w.quiet()
}

// A page without its program says all but the choices, and its total is that of the page with it.
func TestPageWithoutPrograms(t *testing.T) {
	_, file := reported(t)
	w := open(t, file, 1280, 800)
	w.ready()
	total := eval[string](w, "document.querySelector('#crossed tfoot td:last-child').innerText")
	call(w, emulation.SetScriptExecutionDisabled, emulation.SetScriptExecutionDisabledParams{Value: true})
	w.visit(file, "")
	text := eval[string](w, "document.body.innerText")
	for _, want := range []string{"Programs are off", "It ties, in every extract", total, "Where the gaps are", "Skerries_2024.csv",
		"not decided",
		"all agree", "What was left out", "SHA-256"} {
		require.Contains(t, text, want)
	}
	require.Equal(t, 0, eval[int](w, "document.querySelectorAll('#crossed').length"))
}

// A person chooses, filters, folds and sorts; the address keeps the choice; the file that is
// downloaded is that of totals.
func TestPageIsUsed(t *testing.T) {
	dir, file := reported(t)
	w := open(t, file, 1280, 800)
	w.ready()
	choose := func(id, value string) {
		eval[any](w, fmt.Sprintf(`{ const s = document.getElementById(%q); s.value = %q; s.dispatchEvent(new Event("change")); null }`, id,
			value))
	}
	choose("choose-rows0", "region")
	choose("choose-rows1", "product")
	choose("choose-across", "year")
	choose("choose-sort", "figure")
	eval[any](w, `{ document.querySelector("#only-region summary").click(); null }`)
	eval[any](w, `{ [...document.querySelectorAll("#only-region input")].find((i) => i.value === "Lakes").click(); null }`)
	eval[any](w, `{ [...document.querySelectorAll("#only-region input")].find((i) => i.value === "Skerries").click(); null }`)
	lines := w.lines()
	require.Equal(t, []string{"Skerries"}, lines[0].By) // the larger one first
	groups := 0
	for _, l := range lines {
		if len(l.By) == 1 {
			groups++
		}
	}
	require.Equal(t, 2, groups)
	require.NoError(t, chromedp.Do(w, chromedp.Click(`button.fold`)))
	folded := w.lines()
	require.Equal(t, []string{"Skerries"}, folded[0].By)
	require.Equal(t, []string{"Lakes"}, folded[1].By)
	require.Equal(t, "false", eval[string](w, "document.activeElement.getAttribute('aria-expanded')")) // the keyboard stays there

	hash := eval[string](w, "location.hash")
	other := open(t, file, 1280, 800)
	other.visit(file, hash)
	other.ready()
	require.Equal(t, folded, other.lines())

	downloads := t.TempDir()
	call(w, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{Behavior: "allow", DownloadPath: downloads})
	require.NoError(t, chromedp.Do(w, chromedp.Click(`#download`)))
	have := filepath.Join(downloads, "cross_table.csv")
	require.Eventually(t, func() bool { _, err := os.Stat(have); return err == nil }, 10*time.Second, 50*time.Millisecond)
	text, err := os.ReadFile(have)
	require.NoError(t, err)
	want := run(t, dir, "totals", "--by", "region,product", "--across", "year", "--of", "amount", "--only",
		"region = 'Lakes' or region = 'Skerries'", "-o", "-")
	require.ElementsMatch(t, strings.Split(want, "\n"), strings.Split(string(text), "\n"))
	w.quiet()
}

// The page fits its window, is readable by all, light and dark, and prints.
func TestPageIsReadable(t *testing.T) {
	axe := os.Getenv("AXE_CORE")
	if axe == "" && os.Getenv("CI") == "" {
		t.Skip("AXE_CORE does not name axe.min.js")
	}
	engine, err := os.ReadFile(axe)
	require.NoError(t, err)
	_, file := reported(t)
	w := open(t, file, 1280, 800)
	for _, scheme := range []string{"light", "dark"} {
		w.media("", scheme)
		for _, width := range []int64{1280, 800, 390} {
			w.size(width, 800)
			w.visit(file, "#rows=region&rows=product&across=month")
			w.ready()
			require.LessOrEqual(t, eval[int](w, "document.documentElement.scrollWidth"), int(width))
			eval[any](w, "{ document.querySelectorAll('details').forEach((d) => { d.open = true; }); null }")
			eval[any](w, string(engine)+"; null")
			eval[any](w, `{ window.found = null; axe.run(document, { resultTypes: ["violations"] }).then((r) => { window.found = r.violations
				.filter((v) => ["serious", "critical"].includes(v.impact)).map((v) => v.id + ": " + v.help + ": " + v.nodes.slice(0, 3)
				.map((n) => n.html + " " + n.failureSummary).join(" | ")); }, (e) => { window.found = [String(e)]; }); null }`)
			w.wait("window.found !== null")
			require.Empty(t, eval[[]string](w, "window.found"), "%s, %d wide", scheme, width)
		}
	}
	require.Equal(t, []int{1, 1}, eval[[]int](w, "[document.querySelectorAll('h1').length, document.querySelectorAll('main').length]"))
	w.media("print", "light")
	w.visit(file, "")
	printed := call(w, page.PrintToPDF, page.PrintToPDFParams{})
	require.Greater(t, len(printed.Data), 20_000)
	w.quiet()
}

// The page of a build that was stopped says first what stands in the way, and has no figures.
func TestPageOfAStoppedBuild(t *testing.T) {
	dir, _ := reported(t)
	plan, err := os.ReadFile(filepath.Join(dir, "umbau.yaml"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"),
		[]byte(strings.Replace(string(plan), "unknown: hold", "unknown: stop", 1)), 0o666))
	c, said := start(t, dir)
	require.Error(t, c.Wait(), said.String())
	require.Contains(t, run(t, dir, "report"), "The last build was stopped")
	w := open(t, filepath.Join(dir, "out", "report.html"), 1280, 800)
	text := eval[string](w, "document.body.innerText")
	require.Contains(t, text, "The build was stopped: nothing was delivered")
	require.Contains(t, text, "Storm Lantern")
	require.Contains(t, text, "Add to the plan:")
	require.NotContains(t, text, "Look at it")
	w.quiet()
}
