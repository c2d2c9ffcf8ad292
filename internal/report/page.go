package report

import (
	"crypto/sha256"
	_ "embed"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"html/template"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"umbau/internal/core/cube"
	"umbau/internal/core/place"
	"umbau/internal/core/value"
)

//go:embed page.html
var pageText string

//go:embed page.css
var styleText string

//go:embed crosstab.js
var scriptText string

// pageTemplate is parsed when the first page is written.
var pageTemplate = sync.OnceValue(func() *template.Template {
	return template.Must(template.New("page").Funcs(template.FuncMap{
		"grouped": func(n int) string { return value.Grouped(strconv.Itoa(n)) },
		"label":   shownLabel,
		"capital": place.Capital,
		"shade":   shade,
	}).Parse(pageText))
})

// shade is how dark a cell of the table of gaps is, in hundredths: by the order of magnitude.
func shade(n, most int) int {
	if n == 0 || most == 0 {
		return 0
	}
	return 8 + int(26*math.Log1p(float64(n))/math.Log1p(float64(most)))
}

// view is what the template is given.
type view struct {
	*account
	Policy   template.HTML
	Style    template.CSS
	Script   template.JS
	Lead     []string
	When     string
	Measures []measure
	Table    *crossTable // nil where no rows were delivered
	Groups   string
	Finer    []string // labels that are left out of it
	Charts   []chart
	Digests  []digested
	MoreHeld int
	MoreName int
	Doubts   bool  // something is to be looked at
	News     *news // nil where nothing is

	NamesFirst, NamesRest []name
}

// digested is a file with its digest.
type digested struct {
	What, Name, Digest string
	Bytes              string
}

// firstNames are how many names are seen at once.
const firstNames = 20

// write writes the page; sums is nil where nothing was delivered.
func write(w io.Writer, a *account, sums *cube.Result) error {
	script := sha256.Sum256([]byte(scriptText))
	v := &view{account: a, Measures: a.measures(), Style: template.CSS(styleText), Script: template.JS(scriptText),
		Policy: template.HTML(`<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; ` +
			`script-src 'sha256-` +
			base64.StdEncoding.EncodeToString(script[:]) + `'; base-uri 'none'; form-action 'none'">`),
		When: a.At.Format("2 January 2006, 15:04 MST")}
	v.Doubts, v.News = len(a.Warnings)+len(a.Differing) > 0, a.news()
	v.lead()
	if sums != nil {
		addTimes(sums, a.calendar)
		first := firstChoice(sums)
		v.Table, v.Groups, v.Finer = tableOf(sums, first), pack(sums, first), sums.LeftOut
		var err error
		if v.Charts, err = charts(sums); err != nil {
			return err
		}
	}
	v.MoreHeld = max(0, a.HeldN-len(a.HeldAt))
	if len(a.Names) > mostNames {
		v.MoreName = len(a.Names) - mostNames
		a.Names = a.Names[:mostNames]
	}
	v.NamesFirst, v.NamesRest = a.Names, nil
	if len(a.Names) > firstNames {
		v.NamesFirst, v.NamesRest = a.Names[:firstNames], a.Names[firstNames:]
	}
	v.listDigests()
	return pageTemplate().Execute(w, v)
}

// lead says in a sentence or two what the page is of, whether it ties, and what waits for a person.
func (v *view) lead() {
	a := v.account
	if a.Exit != 0 {
		n := len(a.Problems)
		v.Lead = append(v.Lead, "The build was stopped: nothing was delivered, and earlier deliveries are as they were.",
			fmt.Sprintf("%s in the way.", counted(n, "thing stands", "things stand")))
		return
	}
	v.Lead = append(v.Lead, fmt.Sprintf("%s from %s.", counted(a.Fact.Rows, "fact row", "fact rows"),
		counted(len(a.Rows), "extract", "extracts")))
	ties := !slices.ContainsFunc(v.Measures, func(m measure) bool { return !m.Ties }) && a.Checks.Broken == 0
	checked := ""
	if n := a.Checks.TotalRows + a.Checks.TotalColumns + a.Checks.Controls; n > 0 {
		checked = fmt.Sprintf(", and with %s of the extracts and control files", counted(n, "figure", "figures"))
	}
	switch {
	case ties && len(v.Measures) > 0:
		v.Lead = append(v.Lead, "It ties, in every extract, to the last digit"+checked+".")
	case !ties:
		v.Lead = append(v.Lead, "It does not tie: see totals and controls below.")
	}
	switch {
	case a.HeldN > 0:
		text := counted(a.HeldN, "fact row waits", "fact rows wait") + " for a person"
		var held []string
		for _, m := range v.Measures {
			if m.Held != "" {
				held = append(held, m.Name+" "+m.Held)
			}
		}
		if len(held) > 0 {
			text += " (" + strings.Join(held, ", ") + ", as far as it can be read)"
		}
		v.Lead = append(v.Lead, text+".")
	default:
		v.Lead = append(v.Lead, "Nothing waits for a person.")
	}
	n := len(a.Warnings) + len(a.Differing)
	if v.News != nil {
		n += len(v.News.Alarms)
	}
	if n > 0 {
		v.Lead = append(v.Lead, counted(n, "thing is", "things are")+" to be looked at, below.")
	}
	if a.Open > 0 {
		v.Lead = append(v.Lead, counted(a.Open, "name is", "names are")+" not decided yet.")
	}
}

// counted is a count with what it counts.
func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return value.Grouped(strconv.Itoa(n)) + " " + many
}

// listDigests lists what belongs together: plan, table and extracts.
func (v *view) listDigests() {
	add := func(what string, f *file, name string) {
		d := digested{What: what, Name: name, Bytes: value.Grouped(strconv.FormatInt(f.Bytes, 10)),
			Digest: "not worked out: umbau build --digests does"}
		if f.SHA256 != nil {
			d.Digest = *f.SHA256
		} else if v.digest != nil {
			if text := v.digest(name); text != "" {
				d.Digest = text
			}
		}
		v.Digests = append(v.Digests, d)
	}
	digest := sha256.Sum256(v.own)
	text := hex.EncodeToString(digest[:])
	add("plan", &file{Bytes: int64(len(v.own)), SHA256: &text}, "the plan, below")
	for i := range v.Deliveries {
		d := &v.Deliveries[i]
		if len(d.Files) == 0 {
			add("delivery", d, d.To)
		}
		for k := range d.Files {
			add("delivery", &d.Files[k], d.Files[k].File)
		}
	}
	for i := range v.Inputs {
		add("read", &v.Inputs[i], v.Inputs[i].File)
	}
}

// crossTable is the cross table as the page first shows it.
type crossTable struct {
	Caption, By string
	Columns     []string
	Rows        []crossRow
	Foot        crossRow
	More        int
}

type crossRow struct {
	Label string
	Cells []string
}

// The most that the page shows of it without its program.
const (
	mostTableRows    = 200
	mostTableColumns = 24
)

// firstChoice is what the page shows first: the label with the fewest values, the coarsest time
// across, and the last measure, which is the money as a rule.
func firstChoice(r *cube.Result) choice {
	c := choice{Rows: []string{}, Show: "sum", Sort: "label"}
	rows := fewest(r, mostTableRows)
	if rows < 0 {
		rows = slices.IndexFunc(r.Labels, func(l cube.Label) bool { return !kindOf(&l).Dated() })
	}
	if rows >= 0 {
		c.Rows = append(c.Rows, r.Labels[rows].Name)
	}
	across := -1
	for i := range r.Labels {
		n := len(r.Labels[i].Values)
		if kindOf(&r.Labels[i]).Dated() && n <= mostTableColumns && n > 1 && (across < 0 || n < len(r.Labels[across].Values)) {
			across = i
		}
	}
	if across >= 0 {
		c.Across = r.Labels[across].Name
	}
	if n := len(r.Measures); n > 0 {
		c.Of = r.Measures[n-1].Name
	} else {
		c.Show = "count"
	}
	return c
}

// tableOf draws the table of a choice of at most one label in rows, of sums or of rows.
func tableOf(r *cube.Result, c choice) *crossTable {
	find := func(name string) int {
		return slices.IndexFunc(r.Labels, func(l cube.Label) bool { return l.Name == name })
	}
	rows, across, m := -1, find(c.Across), slices.IndexFunc(r.Measures, func(m cube.Measure) bool { return m.Name == c.Of })
	t := &crossTable{Caption: c.Of, By: "\u00a0"}
	if m < 0 {
		t.Caption = "rows"
	}
	if len(c.Rows) > 0 {
		rows = find(c.Rows[0])
		t.By = titleOf(&r.Labels[rows])
		t.Caption += " by " + t.By
	}
	if across >= 0 {
		t.Caption += ", " + titleOf(&r.Labels[across]) + " across"
	}
	figure := cells(r, m, rows, across)
	line := func(label string, row int) crossRow {
		out := crossRow{Label: label}
		for k := range labelsOf(r, across) {
			out.Cells = append(out.Cells, figure(row, k))
		}
		out.Cells = append(out.Cells, figure(row, -1))
		return out
	}
	for _, text := range labelsOf(r, across) {
		t.Columns = append(t.Columns, shownLabel(text))
	}
	t.Columns = append(t.Columns, "total")
	for i, text := range labelsOf(r, rows) {
		if i >= mostTableRows {
			t.More = len(r.Labels[rows].Values) - mostTableRows
			break
		}
		t.Rows = append(t.Rows, line(shownLabel(text), i))
	}
	t.Foot = line("total", -1)
	return t
}

func labelsOf(r *cube.Result, i int) []string {
	if i < 0 {
		return nil
	}
	return r.Labels[i].Values
}

// cells gives the figures of two labels: of a measure, or of rows; -1 stands for all of a label.
func cells(r *cube.Result, m, rows, across int) func(row, column int) string {
	if m < 0 {
		counts := map[[2]int]int{}
		for i := range r.Groups {
			eachSide(&r.Groups[i], rows, across, func(at [2]int) { counts[at] += r.Groups[i].Rows })
		}
		return func(row, column int) string { return value.Grouped(strconv.Itoa(counts[[2]int{row, column}])) }
	}
	sums := map[[2]int]*value.Sum{}
	for i := range r.Groups {
		g := &r.Groups[i]
		eachSide(g, rows, across, func(at [2]int) {
			if g.Filled[m] == 0 {
				return
			}
			if sums[at] == nil {
				sums[at] = &value.Sum{}
			}
			sums[at].Merge(&g.Sums[m])
		})
	}
	return func(row, column int) string {
		s := sums[[2]int{row, column}]
		if s == nil {
			return "–"
		}
		return value.Grouped(amount(s.Total(), r.Measures[m].Decimals))
	}
}

// eachSide visits the cells of a table that a group is in: its own, and those of totals.
func eachSide(g *cube.Group, rows, across int, visit func(at [2]int)) {
	list := func(i int) []int {
		if i < 0 {
			return []int{-1}
		}
		return []int{g.Codes[i], -1}
	}
	for _, row := range list(rows) {
		for _, column := range list(across) {
			visit([2]int{row, column})
		}
	}
}
