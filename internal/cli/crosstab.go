package cli

import (
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/term"
	"golang.org/x/text/width"
)

// crosstab prints labels and figures: figures end at the right of their columns, and what
// does not fit beside each other within the window stands below, the labels repeated.
type crosstab struct {
	labels []string   // headers of the columns of labels
	heads  [][]string // header lines of the columns of figures, of one length
	rows   []crossRow
}

// crossRow is a line of a crosstab.
type crossRow struct {
	labels  []string
	figures []string // with their marks
	total   bool     // a subtotal, or the grand total
	gap     bool     // an empty line follows
}

// mostLabel is how wide a label may be.
const mostLabel = 36

// displayWidth is how many cells of a terminal a text takes.
func displayWidth(text string) (n int) {
	for _, r := range text {
		switch k := width.LookupRune(r).Kind(); {
		case unicode.In(r, unicode.Mn, unicode.Me, unicode.Cf):
		case k == width.EastAsianWide || k == width.EastAsianFullwidth:
			n += 2
		default:
			n++
		}
	}
	return n
}

// fitted cuts a text to a width.
func fitted(text string, most int) string {
	if displayWidth(text) <= most {
		return text
	}
	n := 0
	for i, r := range text {
		if w := displayWidth(string(r)); n+w > most-1 {
			return text[:i] + "…"
		} else {
			n += w
		}
	}
	return text
}

// padded fills a text up to a width, at its right or its left.
func padded(text string, w int, left bool) string {
	space := strings.Repeat(" ", max(0, w-displayWidth(text)))
	if left {
		return space + text
	}
	return text + space
}

// windowWidth is how wide the window is; 0 where nobody looks at one.
func windowWidth(w io.Writer) int {
	if f, ok := terminal(w); ok {
		if n, _, err := term.GetSize(int(f.Fd())); err == nil {
			return n
		}
	}
	n, _ := strconv.Atoi(os.Getenv("COLUMNS"))
	return n
}

// print prints the table, no line wider than most; 0 for any width.
func (t *crosstab) print(a *app, most int) {
	labels := make([]int, len(t.labels))
	limit := mostLabel
	if most > 0 && len(labels) > 0 {
		limit = min(limit, max(8, most/2/len(labels)))
	}
	for i, h := range t.labels {
		labels[i] = displayWidth(fitted(h, limit))
		for _, r := range t.rows {
			if i < len(r.labels) {
				labels[i] = max(labels[i], displayWidth(fitted(r.labels[i], limit)))
			}
		}
	}
	left := 0
	for _, w := range labels {
		left += 2 + w
	}
	for from := 0; from < len(t.heads); {
		to, all := from, left
		for ; to < len(t.heads); to++ {
			w := 2 + t.columnWidth(to)
			if most > 0 && all+w > most && to > from {
				break
			}
			all += w
		}
		if from > 0 {
			fmt.Fprintln(a.out)
		}
		t.block(a, labels, limit, from, to)
		from = to
	}
}

func (t *crosstab) columnWidth(i int) (w int) {
	for _, h := range t.heads[i] {
		w = max(w, displayWidth(fitted(h, mostLabel)))
	}
	for _, r := range t.rows {
		w = max(w, displayWidth(r.figures[i]))
	}
	return w
}

// block prints the columns of figures from one to another.
func (t *crosstab) block(a *app, labels []int, limit, from, to int) {
	line := func(cells []string, of func(i int) string, strong bool) {
		var b strings.Builder
		for i, w := range labels {
			text := ""
			if i < len(cells) {
				text = cells[i]
			}
			b.WriteString("  " + padded(fitted(text, limit), w, false))
		}
		for i := from; i < to; i++ {
			b.WriteString("  " + padded(fitted(of(i), max(mostLabel, displayWidth(of(i)))), t.columnWidth(i), true))
		}
		text := strings.TrimRight(b.String(), " ")
		if strong {
			text = a.colored(a.out, bold, text)
		}
		fmt.Fprintln(a.out, text)
	}
	for h := range t.heads[from] {
		var cells []string
		if h == len(t.heads[from])-1 {
			cells = t.labels
		}
		line(cells, func(i int) string { return fitted(t.heads[i][h], mostLabel) }, true)
	}
	for n, r := range t.rows {
		line(r.labels, func(i int) string { return r.figures[i] }, r.total)
		if r.gap && n < len(t.rows)-1 {
			fmt.Fprintln(a.out)
		}
	}
}
