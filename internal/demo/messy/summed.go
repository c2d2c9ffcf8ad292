package messy

import (
	"context"
	"math/rand/v2"
	"slices"
	"strings"
)

// summed is a table of a text file to which sums are added: none of them is a sale.
type summed struct {
	*rand.Rand
	s       *style
	rows    [][]string
	head    int
	figures []int // the columns of figures, one at least
	labels  []int // the others
	end     int   // behind its last row of figures
}

// summedOf looks at a table; nil where it has no figures to sum up, or what its figures are is said in its rows.
func summedOf(r *rand.Rand, s *style, rows [][]string) *summed {
	t := &summed{Rand: r, s: s, rows: rows, head: headAt(rows)}
	header := rows[t.head]
	if slices.Contains(header, "Measure") {
		return nil
	}
	whole := func(k int) bool {
		n := 0
		for _, row := range rows[t.head+1:] {
			if _, ok := pieces(row[k]); ok {
				n++
			} else if row[k] != "" && figure(row[k]) {
				return false
			}
		}
		return n > 0 && header[k] != "Year" && header[k] != s.month_()
	}
	cents := func(k int) bool {
		return slices.ContainsFunc(rows[t.head+1:], func(row []string) bool { _, ok := s.cents(row[k]); return ok })
	}
	for k := range header {
		if cents(k) || whole(k) {
			t.figures = append(t.figures, k)
		} else {
			t.labels = append(t.labels, k)
		}
	}
	if len(t.figures) == 0 || len(t.labels) == 0 {
		return nil
	}
	for t.end = len(rows); t.end > t.head+1 && !t.sale(t.end-1); t.end-- {
	}
	return t
}

// sale reports whether a row has sales, and is no sum already.
func (t *summed) sale(i int) bool {
	row := t.rows[i]
	return slices.ContainsFunc(t.figures, func(k int) bool { return row[k] != "" }) &&
		!slices.ContainsFunc(t.labels, func(k int) bool { return strings.HasPrefix(row[k], t.s.total) })
}

// add makes a row of the sums of some rows, or of what is written in the place of each of these, with its labels.
func (t *summed) add(label func(k int) string, own func(i int) bool, write func(sum, n int) int) []string {
	out := make([]string, len(t.rows[t.head]))
	for _, k := range t.labels {
		out[k] = label(k)
	}
	for _, k := range t.figures {
		sum, n, cents := 0, 0, false
		for i := t.head + 1; i < t.end; i++ {
			if !t.sale(i) || !own(i) {
				continue
			}
			if c, ok := t.s.cents(t.rows[i][k]); ok {
				sum, n, cents = sum+c, n+1, true
			} else if c, ok := pieces(t.rows[i][k]); ok {
				sum, n = sum+c, n+1
			}
		}
		if n > 0 {
			out[k] = t.s.number(write(sum, n), cents)
		}
	}
	return out
}

func plainly(sum, _ int) int { return sum }

// under is what a column says in each row: the text there, or the last one above it; in a table with sections, the section.
func (t *summed) under(k int) map[int]string {
	out, last, section := map[int]string{}, "", ""
	for i := t.head + 1; i < t.end; i++ {
		row := t.rows[i]
		if !t.sale(i) {
			if len(row) > 0 && row[0] != "" {
				section = row[0]
			}
			continue
		}
		if row[k] != "" {
			last = row[k]
		}
		if out[i] = last; section != "" {
			out[i] = section
		}
	}
	return out
}

// run is some rows, from one to another, that say the same in the first column.
type run struct {
	label    string
	from, to int
}

func (t *summed) groups() (out []run) {
	under := t.under(t.labels[0])
	for i := t.head + 1; i < t.end; i++ {
		label, ok := under[i]
		if !ok {
			continue
		}
		if n := len(out); n > 0 && out[n-1].label == label {
			out[n-1].to = i
		} else {
			out = append(out, run{label, i, i})
		}
	}
	return out
}

// sumsOfGroups are names that offices give to the sum of a group.
var sumsOfGroups = []func(group string) string{
	func(g string) string { return "Total " + g }, func(g string) string { return g + " total" }, func(g string) string { return "Sum " + g },
	func(string) string { return "Subtotal" }, func(string) string { return "Total" }, func(string) string { return "" },
	func(g string) string { return g }, func(g string) string { return "Summe " + g }, func(string) string { return "Zwischensumme" },
	func(g string) string { return "Σ " + g }, func(g string) string { return "All " + g }, func(g string) string { return g + " (all)" },
	func(g string) string { return "thereof " + g }, func(g string) string { return "Sous-total " + g },
	func(g string) string { return g + ":" }, func(string) string { return "Sum" }, func(g string) string { return "= " + g },
	func(g string) string { return strings.ToUpper(g) }, func(g string) string { return g + ", all goods" },
	func(g string) string { return "Gesamt " + g }, func(string) string { return "Result" }, func(string) string { return "Ergebnis" },
}

// groupSums puts a row with the sum of each group above or below it.
func (t *summed) groupSums(above bool) [][]string {
	name, all := sumsOfGroups[t.IntN(len(sumsOfGroups))], some(t.Rand, "", "", "All", "Total", "*", "all goods", "-")
	in := t.labels[t.IntN(min(2, len(t.labels)))]
	groups := t.groups()
	for n := len(groups) - 1; n >= 0; n-- {
		g := groups[n]
		row := t.add(func(k int) string {
			switch {
			case k == in:
				return name(g.label)
			case k == t.labels[0]:
				return g.label
			case len(t.labels) > 1 && k == t.labels[1]:
				return all
			}
			return ""
		}, func(i int) bool { return i >= g.from && i <= g.to }, plainly)
		at := g.to + 1
		if above {
			at = g.from
		}
		t.rows = slices.Insert(t.rows, at, row)
	}
	return t.rows
}

// below puts rows below the table.
func (t *summed) below(rows ...[]string) [][]string { return slices.Insert(t.rows, t.end, rows...) }

// all is a row of what all rows come to, under a label in the first column, or in the last of labels.
func (t *summed) all(label string, write func(sum, n int) int) []string {
	in := t.labels[0]
	if t.IntN(4) == 0 {
		in = t.labels[len(t.labels)-1]
	}
	return t.add(func(k int) string {
		if k == in {
			return label
		}
		return ""
	}, func(int) bool { return true }, write)
}

// byOthers are rows that stand for all of one column, one for each combination of the others.
func (t *summed) byOthers(k int, label string) (out [][]string) {
	known := map[string]bool{}
	unders := map[int]map[int]string{}
	for _, l := range t.labels {
		unders[l] = t.under(l)
	}
	of := func(i int) (labels []string) {
		for _, l := range t.labels {
			if l != k {
				labels = append(labels, unders[l][i])
			}
		}
		return labels
	}
	for i := t.head + 1; i < t.end; i++ {
		if !t.sale(i) {
			continue
		}
		own := strings.Join(of(i), "|")
		if known[own] {
			continue
		}
		known[own] = true
		out = append(out, t.add(func(l int) string {
			if l == k {
				return label
			}
			return unders[l][i]
		}, func(j int) bool { return strings.Join(of(j), "|") == own }, plainly))
	}
	return out
}

// amounts are the columns of amounts, or, where there are none, of figures.
func (t *summed) amounts() (out []int) {
	for _, k := range t.figures {
		if slices.ContainsFunc(t.rows, func(row []string) bool { _, ok := t.s.cents(row[k]); return ok }) {
			out = append(out, k)
		}
	}
	if out == nil {
		return t.figures
	}
	return out
}

// columns puts columns of sums beside the figures: behind which of them, what stands there, of which it is the sum.
func (t *summed) columns(at int, name string, of func(row int) []int, write func(sum, n int) int) [][]string {
	return column(t.rows, at, func(i int) string {
		if i == 0 {
			return name
		}
		sum, n, cents := 0, 0, false
		row := t.rows[t.head+i]
		for _, k := range of(t.head + i) {
			if c, ok := t.s.cents(row[k]); ok {
				sum, n, cents = sum+c, n+1, true
			} else if c, ok := pieces(row[k]); ok {
				sum, n = sum+c, n+1
			}
		}
		if n == 0 {
			return ""
		}
		return t.s.number(write(sum, n), cents)
	})
}

// summings are kinds of sums, and of other figures beside sales, and what a table becomes with them.
var summings = []struct {
	name string
	do   func(t *summed) [][]string
}{
	{"sums of groups", func(t *summed) [][]string { return t.groupSums(false) }},
	{"sums above groups", func(t *summed) [][]string { return t.groupSums(true) }},
	{"sums of groups and of all", func(t *summed) [][]string {
		all := t.all(some(t.Rand, "Total", "Grand total", "All", "Gesamt", ""), plainly)
		t.rows = t.below(all)
		return t.groupSums(false)
	}},
	{"all of one column", func(t *summed) [][]string {
		k := t.labels[t.IntN(len(t.labels))]
		return t.below(t.byOthers(k, some(t.Rand, "All", "Total", "Company", "Coast", "", "Halyard & Moss", "*", "Sum", "Alle", "Various"))...)
	}},
	{"an average", func(t *summed) [][]string {
		return t.below(t.all(some(t.Rand, "Average", "Mean", "Ø", "Durchschnitt", "Avg", "Moyenne"), func(sum, n int) int { return sum / n }))
	}},
	{"a count", func(t *summed) [][]string {
		return t.below(t.all(some(t.Rand, "Count", "Anzahl", "Number of rows", "Rows"), func(_, n int) int { return n }))
	}},
	{"a sum, a tax and both", func(t *summed) [][]string {
		return t.below(t.all(some(t.Rand, "Net", "Netto", "Subtotal"), plainly),
			t.all(some(t.Rand, "VAT 19%", "Tax", "MwSt", "plus tax"), func(sum, _ int) int { return sum * 19 / 100 }),
			t.all(some(t.Rand, "Gross", "Brutto", "Total"), func(sum, _ int) int { return sum * 119 / 100 }))
	}},
	{"a year before", func(t *summed) [][]string {
		return t.below(t.all(some(t.Rand, "Total", "Sum"), plainly),
			t.all(some(t.Rand, "Last year", "Vorjahr", "Previous year", "Budget", "Plan"), func(sum, _ int) int { return sum * 83 / 100 }),
			t.all(some(t.Rand, "Change", "Difference", "Δ", "Variance"), func(sum, _ int) int { return sum * 17 / 100 }))
	}},
	{"what came before", func(t *summed) [][]string {
		label := some(t.Rand, "Brought forward", "Übertrag", "Balance b/f", "Previous page", "Carried over")
		t.rows = slices.Insert(t.rows, t.head+1, t.all(label, func(sum, _ int) int { return sum * 3 / 7 }))
		return t.rows
	}},
	{"largest and smallest", func(t *summed) [][]string {
		return t.below(t.all(some(t.Rand, "Max", "Highest"), func(sum, n int) int { return sum * 2 / (n + 1) }),
			t.all(some(t.Rand, "Min", "Lowest"), func(sum, n int) int { return sum / (2 * n) }))
	}},
	{"a sum amid", func(t *summed) [][]string {
		row := t.all(some(t.Rand, "Carry over", "Sum so far", "Subtotal", "Total to here", "Page total"), plainly)
		half := t.head + 1 + (t.end-t.head-1)/2
		part := t.add(func(k int) string { return "" }, func(i int) bool { return i < half }, plainly)
		for _, k := range t.labels {
			part[k] = row[k]
		}
		return slices.Insert(t.rows, half, part)
	}},
	{"a running sum", func(t *summed) [][]string {
		k, sum := t.figures[len(t.figures)-1], 0
		name := some(t.Rand, "Cumulative", "Running total", "Kumuliert", "YTD", "To date", "Balance")
		end, known := t.end, map[string]string{} // a row that was copied has the sum that was there
		return column(t.rows, len(t.rows[t.head]), func(i int) string {
			if i == 0 {
				return name
			}
			if t.head+i >= end || !t.sale(t.head+i) {
				return ""
			}
			own := strings.Join(t.rows[t.head+i], "|")
			if known[own] == "" {
				n, _ := t.s.cents(t.rows[t.head+i][k])
				sum += n
				known[own] = t.s.number(sum, true)
			}
			return known[own]
		})
	}},
	{"sums of columns so far", func(t *summed) [][]string {
		figures, name := t.amounts(), some(t.Rand, "Cum.", "YTD", "kum.", "to date", "Cumulative")
		for n := len(figures) - 1; n > 0; n-- {
			label := name
			if t.IntN(2) == 0 {
				label = name + " " + t.rows[t.head][figures[n]]
			}
			t.rows = t.columns(figures[n]+1, label, func(int) []int { return figures[:n+1] }, plainly)
		}
		return t.rows
	}},
	{"sums of some columns", func(t *summed) [][]string {
		figures := t.amounts()
		if len(figures) < 3 {
			return t.rows
		}
		from := t.IntN(len(figures) - 2)
		own := figures[from : from+2+t.IntN(len(figures)-from-2)]
		return t.columns(own[len(own)-1]+1, some(t.Rand, "Deck gear", "Subtotal", "Q1", "H1", "Ropes", "Zwischensumme", "Group A", "Sum 1", ""),
			func(int) []int { return own }, plainly)
	}},
	{"sums before the columns", func(t *summed) [][]string {
		own := t.amounts()
		return t.columns(own[0], some(t.Rand, "Total", "Sum", "All", "Gesamt", "Σ", ""), func(int) []int { return own }, plainly)
	}},
	{"an average beside", func(t *summed) [][]string {
		own := t.amounts()
		return t.columns(len(t.rows[t.head]), some(t.Rand, "Average", "Mean", "Ø", "Schnitt", "Avg."), func(int) []int { return own },
			func(sum, n int) int { return sum / n })
	}},
}

// TrySummed makes a delivery in a folder, drafts its plan and builds with it; sums stand in the tables of its text files, in some of
// which something else is done, too, or of the workbooks in their place, before the draft or, with later, behind it.
func TrySummed(ctx context.Context, dir string, seed uint64, hard int, asked Asked, later bool) Tried {
	r := rand.New(rand.NewPCG(seed, 37))
	how, more, also := summings[r.IntN(len(summings))], r.IntN(4), damages[r.IntN(len(damages))]
	about := "sums: " + how.name
	if more == 1 {
		about += ", damage: " + also.name
	}
	return tryTwice(ctx, dir, asked, later, func(done bool) (*Delivery, error) {
		m, own := newMaker(dir, seed, hard, nil), rand.New(rand.NewPCG(seed, 36))
		if more == 0 {
			m.bind = func(s *style, rows [][]string) []byte { return bind(own, s, rows, nil) }
		}
		if done {
			offices := map[*style]uint64{} // each has a way of its own
			m.damage = &damage{how.name, func(_ *rand.Rand, s *style, rows [][]string) [][]string {
				own, known := offices[s]
				if !known {
					own = uint64(len(offices))
					offices[s] = own
				}
				r := rand.New(rand.NewPCG(seed, 38+own))
				if t := summedOf(r, s, rows); t != nil {
					rows = how.do(t)
				}
				if more == 1 {
					rows = also.do(r, s, rows)
				}
				return rows
			}}
		}
		d, err := m.make(&change{seed: seed, style: -1})
		if err == nil && done {
			d.Later, d.Damaged, d.About = later, more == 1, append(d.About, about)
		}
		return d, err
	})
}
