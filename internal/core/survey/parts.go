package survey

import (
	"bytes"
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// SumRow is a row that has the sums of those above it, and what its cells of no figures say.
type SumRow struct {
	Row    int
	Labels []string
	Digits int // of its figures
}

// groups finds the rows that end groups of others with their sums, where all rows of a table stand in such groups, and the last row is
// one: subtotals, or a total, that need not say so. Figures of two digits are no chance, if these rows have fewer labels than the others,
// or of four, if those are four at least, or no label of the last one stands above it.
type groups struct {
	base   []value.Decimal // the sums of the rows before the group at hand, by number
	rows   int             // of the group that have figures
	found  []SumRow
	last   bool            // the last row was one
	known  map[string]bool // labels of the first rows
	fresh  bool            // the last row has none of them
	digits int             // of the figures of those found
	most   int             // labels of one of them
	others int             // rows that are no sums …
	least  int             // … and labels of one of them
}

// row takes a row: its figures, the sums of all rows above it, its labels, and its line. It reports whether the row ends a group.
func (g *groups) row(figures []value.Decimal, sums []value.Sum, texts [][]byte, line int) bool {
	labels := len(texts)
	if g.others < 4 {
		g.take(texts)
	}
	if g.base == nil {
		g.base = make([]value.Decimal, len(figures))
	}
	if !slices.ContainsFunc(figures, func(d value.Decimal) bool { return d.Sign() != 0 }) {
		return false
	}
	g.last = g.rows > 1 || g.rows == 0 && len(g.found) > 1
	for k := 0; k < len(figures) && g.last; k++ {
		d, sum := figures[k], sums[k].Total()
		if g.rows == 0 { // half of all: each group, and its sum
			d = d.Add(d)
		} else {
			sum = sum.Sub(g.base[k])
		}
		g.last = sum.Cmp(d) == 0
	}
	if !g.last {
		g.rows++
		if g.others++; g.others == 1 || labels < g.least {
			g.least = labels
		}
		return false
	}
	for k, d := range figures {
		g.base[k] = sums[k].Total().Add(d)
	}
	digits := digitsOf(figures)
	g.digits += digits
	g.found, g.rows, g.most = append(g.found, SumRow{line, said(texts), digits}), 0, max(g.most, labels)
	return true
}

// digitsOf is how many digits some figures have, but for 0.
func digitsOf(figures []value.Decimal) (n int) {
	for _, d := range figures {
		if d.Sign() != 0 {
			n += d.Digits()
		}
	}
	return n
}

func said(texts [][]byte) (out []string) {
	for _, text := range texts {
		out = append(out, string(text))
	}
	return out
}

// take takes the labels of a row.
func (g *groups) take(texts [][]byte) {
	if g.known == nil {
		g.known = map[string]bool{}
	}
	g.fresh = !slices.ContainsFunc(texts, func(text []byte) bool { return g.known[key.Of(string(text))] })
	for _, text := range texts {
		g.known[key.Of(string(text))] = true
	}
}

// ends are the rows found.
func (g *groups) ends() []SumRow {
	bare := g.most < g.least
	if !g.last || bare && g.digits < 2 || !bare && (g.digits < 4 || g.others < 4 && !g.fresh) {
		return nil
	}
	return g.found
}

// runs finds rows that have the sums of the rows of one first label above them, two at least, and fewer labels: subtotals of some groups.
type runs struct {
	label  []byte
	base   []value.Decimal // the sums of the rows before
	rows   int             // that have figures
	labels int             // of the one that has the fewest
	found  []SumRow
}

// mostOfRuns is up to how many columns of numbers are looked at.
const mostOfRuns = 8

// row takes a row, as that of groups does.
func (r *runs) row(figures []value.Decimal, sums []value.Sum, texts [][]byte, line int) {
	label, labels, digits := []byte(nil), len(texts), digitsOf(figures)
	if labels > 0 {
		label = texts[0]
	}
	if digits == 0 || len(figures) > mostOfRuns {
		return
	}
	same := r.base != nil && bytes.Equal(label, r.label)
	if same && r.rows > 1 && labels < r.labels && digits > 1 && r.sums(figures, sums) {
		r.found, same = append(r.found, SumRow{line, said(texts), digits}), false
		labels, r.rows = r.labels, -1 // the row itself is none of those below
	} else if !same {
		r.rows = 0
	}
	if !same {
		r.label, r.base, r.labels = append(r.label[:0], label...), r.base[:0], labels
		for k := range figures {
			sum := sums[k].Total()
			if r.rows < 0 {
				sum = sum.Add(figures[k])
			}
			r.base = append(r.base, sum)
		}
	}
	r.rows++
	r.labels = min(r.labels, labels)
}

func (r *runs) sums(figures []value.Decimal, sums []value.Sum) bool {
	for k, d := range figures {
		if sums[k].Total().Sub(r.base[k]).Cmp(d) != 0 {
			return false
		}
	}
	return true
}
