package messy

import (
	"context"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
)

// damage is what becomes of the rows of a text file, while the truth stays.
type damage struct {
	name string
	do   func(r *rand.Rand, s *style, rows [][]string) [][]string
}

// figure reports whether a cell may be a figure.
func figure(cell string) bool {
	return strings.ContainsAny(cell, "0123456789") && strings.Trim(cell, "0123456789., -€") == ""
}

// headAt is which row is the header: the first one that is filled in most columns.
func headAt(rows [][]string) (head int) {
	most := 0
	for i, row := range rows {
		filled := len(row) - len(slices.DeleteFunc(slices.Clone(row), func(cell string) bool { return cell != "" }))
		if filled > most {
			head, most = i, filled
		}
	}
	return head
}

// amid is a place between the rows below a header.
func amid(r *rand.Rand, rows [][]string) int {
	first := headAt(rows) + 1
	return first + r.IntN(max(1, len(rows)-first+1))
}

// some is one of some texts.
func some(r *rand.Rand, texts ...string) string { return texts[r.IntN(len(texts))] }

// eachCell changes the cells from a row on.
func eachCell(rows [][]string, from int, change func(cell string) string) [][]string {
	for i := from; i < len(rows); i++ {
		rows[i] = slices.Clone(rows[i])
		for k := range rows[i] {
			rows[i][k] = change(rows[i][k])
		}
	}
	return rows
}

// inRow changes the cells of one row below the header.
func inRow(r *rand.Rand, rows [][]string, change func(cell string) string) [][]string {
	first := headAt(rows) + 1
	if first >= len(rows) {
		return rows
	}
	i := first + r.IntN(len(rows)-first)
	rows[i] = slices.Clone(rows[i])
	for k := range rows[i] {
		rows[i][k] = change(rows[i][k])
	}
	return rows
}

// reordered are rows with their cells, from one row on, in another order.
func reordered(rows [][]string, from int, order []int) [][]string {
	for i := from; i < len(rows); i++ {
		if row := rows[i]; len(row) == len(order) {
			rows[i] = make([]string, len(order))
			for k, to := range order {
				rows[i][to] = row[k]
			}
		}
	}
	return rows
}

// column puts a column into a table from its header on.
func column(rows [][]string, at int, cell func(i int) string) [][]string {
	head := headAt(rows)
	for i := head; i < len(rows); i++ {
		if len(rows[i]) >= at {
			rows[i] = slices.Insert(slices.Clone(rows[i]), at, cell(i-head))
		}
	}
	return rows
}

// sums is a row with the sums of all columns of figures, and labels in some way.
func sums(s *style, rows [][]string, label func(k int) string) []string {
	head := headAt(rows)
	total, any := make([]int, len(rows[head])), make([]bool, len(rows[head]))
	for _, row := range rows[head+1:] {
		for k, cell := range row {
			if n, ok := s.cents(cell); ok && k < len(total) {
				total[k], any[k] = total[k]+n, true
			}
		}
	}
	var out []string
	for k := range total {
		if any[k] {
			out = append(out, s.number(total[k], true))
		} else {
			out = append(out, label(k))
		}
	}
	return out
}

// cents reads an amount as the style writes it.
func (s *style) cents(cell string) (n int, ok bool) {
	point := []string{".", ".", ",", ","}[s.numbers]
	whole, places, ok := strings.Cut(cell, point)
	if !ok || len(places) != 2 || !figure(cell) {
		return 0, false
	}
	for _, c := range whole + places {
		if c >= '0' && c <= '9' {
			n = 10*n + int(c-'0')
		}
	}
	if strings.Contains(cell, "-") {
		n = -n
	}
	return n, true
}

var damages = []damage{
	{"a blank line", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		return slices.Insert(rows, amid(r, rows), []string{})
	}},
	{"header again", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		return slices.Insert(rows, amid(r, rows), rows[headAt(rows)])
	}},
	{"titles and header again", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		return slices.Insert(rows, amid(r, rows), slices.Clone(rows[:headAt(rows)+1])...)
	}},
	{"page", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		return slices.Insert(rows, amid(r, rows), []string{some(r, "Page 2 of 3", "Seite 2", "Halyard & Moss", "continued", "- 2 -")})
	}},
	{"dashes", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		line := make([]string, len(rows[headAt(rows)]))
		for i := range line {
			line[i] = some(r, "---", "-----")
		}
		return slices.Insert(rows, amid(r, rows), line)
	}},
	{"an empty column", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		return column(rows, r.IntN(len(rows[headAt(rows)])+1), func(int) string { return "" })
	}},
	{"row numbers", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		head, known := some(r, "", "No", "#", "Lfd. Nr.", "Row"), map[string]string{}
		from := headAt(rows)
		return column(rows, 0, func(i int) string {
			own := strings.Join(rows[from+i], "|")
			switch {
			case i == 0:
				return head
			case !strings.Contains(strings.Trim(own, "|"), "|"): // a note
				return ""
			case known[own] == "":
				known[own] = strconv.Itoa(len(known) + 1)
			}
			return known[own]
		})
	}},
	{"spaces", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		sp := some(r, " ", "\u00a0", "  ", "\t ")
		return eachCell(rows, headAt(rows), func(cell string) string { return sp + cell + some(r, "", sp) })
	}},
	{"upper headers", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		i := headAt(rows)
		rows[i] = slices.Clone(rows[i])
		for k := range rows[i] {
			rows[i][k] = strings.ToUpper(rows[i][k])
		}
		return rows
	}},
	{"broken headers", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		i := headAt(rows)
		rows[i] = slices.Clone(rows[i])
		for k := range rows[i] {
			rows[i][k] = strings.ReplaceAll(rows[i][k], " ", "\n")
		}
		return rows
	}},
	{"columns in another order", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		return reordered(rows, 0, r.Perm(len(rows[headAt(rows)])))
	}},
	{"a table in another order below", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		at, head := amid(r, rows), rows[headAt(rows)]
		return reordered(slices.Insert(rows, at, head), at, r.Perm(len(head)))
	}},
	{"a row twice", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		i := headAt(rows) + 1
		if i >= len(rows) {
			return rows
		}
		i += r.IntN(len(rows) - i)
		return slices.Insert(rows, i, rows[i])
	}},
	{"a row in other numbers", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		other := style{numbers: r.IntN(4)}
		return inRow(r, rows, func(cell string) string {
			if n, ok := s.cents(cell); ok {
				return other.number(n, true)
			}
			return cell
		})
	}},
	{"a sum", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		label := some(r, "", "Σ", "Sum", "TOTAL:", "All", "Zwischensumme", "Subtotal", "Grand Total", "*", "Check", "Gesamtsumme EUR",
			"Total (net)")
		last := r.IntN(2) == 0
		row := sums(s, rows, func(k int) string {
			if k == 0 || last && k == 1 {
				return label
			}
			return ""
		})
		if r.IntN(3) == 0 {
			return slices.Insert(rows, headAt(rows)+1, row)
		}
		return append(rows, row)
	}},
	{"a column of sums", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		head := headAt(rows)
		name := some(r, "", "Σ", "Sum", "Total", "YTD", "Year", "H1", "All", "Grand total", "Summe 1-5", "Check")
		return column(rows, len(rows[head]), func(i int) string {
			if i == 0 {
				return name
			}
			sum, any := 0, false
			for _, cell := range rows[head+i] {
				if n, ok := s.cents(cell); ok {
					sum, any = sum+n, true
				}
			}
			if !any {
				return ""
			}
			return s.number(sum, true)
		})
	}},
	{"a column twice", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		head := headAt(rows)
		k := r.IntN(len(rows[head]))
		return column(rows, len(rows[head]), func(i int) string { return rows[head+i][min(k, len(rows[head+i])-1)] })
	}},
	{"a row pushed", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		i := headAt(rows) + 1
		if i >= len(rows) {
			return rows
		}
		i += r.IntN(len(rows) - i)
		rows[i] = slices.Insert(slices.Clone(rows[i]), r.IntN(len(rows[i])+1), "")
		return rows
	}},
	{"a row pulled", func(r *rand.Rand, s *style, rows [][]string) [][]string {
		i := headAt(rows) + 1
		if i >= len(rows) {
			return rows
		}
		i += r.IntN(len(rows) - i)
		k := r.IntN(max(1, len(rows[i])))
		if len(rows[i]) > 0 && rows[i][k] == "" {
			rows[i] = slices.Delete(slices.Clone(rows[i]), k, k+1)
		}
		return rows
	}},
}

// TryDamaged makes a delivery in a folder, drafts its plan and builds with it; its text files are damaged before the draft or, with later,
// behind it.
func TryDamaged(ctx context.Context, dir string, seed uint64, hard int, asked Asked, later bool) Tried {
	r := rand.New(rand.NewPCG(seed, 33))
	hurt := damages[r.IntN(len(damages))]
	make := func(damaged bool) (*Delivery, error) {
		m := newMaker(dir, seed, hard, nil)
		if damaged {
			m.damage, m.hurt = &hurt, rand.New(rand.NewPCG(seed, 34))
		}
		d, err := m.make(&change{seed: seed, style: -1})
		if damaged && err == nil {
			d.Damaged, d.About = true, append(d.About, "damage: "+hurt.name)
		}
		return d, err
	}
	return tryTwice(ctx, dir, asked, later, make)
}
