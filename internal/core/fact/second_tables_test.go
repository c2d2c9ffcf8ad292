package fact_test

import (
	"slices"
	"strconv"
	"strings"
)

// table makes a table: labels, and measures that are told by whole.
func (f *folder) table(header []string, labels int, whole []bool, row func() []cell) (rows [][]cell) {
	if f.odds(8) {
		rows = append(rows, line("Halyard & Moss"), nil)
	}
	if !f.tame && f.odds(2) {
		rows = append(rows, line(f.pick("x", "Holm"), "5", "7"), line("y", "6", "8"))
	}
	rows = append(rows, line(header...))
	n, leading := f.r.IntN(14), !f.tame && f.odds(8)
	if leading {
		n = f.r.IntN(3)
	}
	sums, all := make([]int64, len(whole)), make([]int64, len(whole))
	for range n {
		switch k := f.r.IntN(60); {
		case k == 0:
			rows = append(rows, nil)
		case k == 1:
			rows = append(rows, line(header...))
		case k == 2:
			rows = append(rows, line(f.pick("Family A", "Family B", "Holm", "printed in May", "Total")))
		case k < 6:
			rows = append(rows, f.totalRow(labels, whole, sums))
			clear(sums)
		case k == 7 && len(rows) > 1:
			rows = append(rows, slices.Clone(rows[len(rows)-1]))
		default:
			r := row()
			for i := range whole {
				c, cents := f.figure(whole[i])
				r = append(r, c)
				sums[i] += cents
				all[i] += cents
			}
			rows = append(rows, r)
		}
	}
	if leading {
		rows = append(rows, f.groups(whole, row)...)
	}
	if f.odds(25) {
		rows = append(rows, f.totalRow(labels, whole, all))
	}
	if f.odds(10) {
		rows = append(rows, line(f.pick("Holm", "as of 5 May", "Lowe")))
	}
	return rows
}

// groups are rows below their sums, or above them, mostly.
func (f *folder) groups(whole []bool, row func() []cell) (rows [][]cell) {
	behind := f.odds(50)
	for range 1 + f.r.IntN(3) {
		var own [][]cell
		sums := row()
		for range 1 + f.r.IntN(4) {
			own = append(own, row())
		}
		for i := range whole {
			sum := int64(0)
			for k := range own {
				c, cents := f.figure(whole[i])
				own[k] = append(own[k], c)
				sum += cents
			}
			sums = append(sums, cell{text: f.style(sum)})
		}
		if behind {
			rows = append(append(rows, own...), sums)
		} else {
			rows = append(append(rows, sums), own...)
		}
	}
	return rows
}

// line is a row of texts.
func line(texts ...string) (out []cell) {
	for _, t := range texts {
		out = append(out, cell{text: t})
	}
	return out
}

// totalRow is a row with the sums of others, mostly.
func (f *folder) totalRow(labels int, whole []bool, sums []int64) []cell {
	out := line(f.pick(totalLabels...))
	if f.tame {
		out = line(f.pick("Total", "Grand total", "Summe"))
	} else if f.odds(10) {
		out = line(f.labels[f.r.IntN(len(f.labels))])
	}
	for len(out) < labels {
		out = append(out, cell{text: f.pick("", "", "", "North", "Total")})
	}
	if labels == 0 {
		out = nil
	}
	for i, s := range sums {
		c := cell{text: f.style(s)}
		if f.odds(f.messy / 2) {
			c, _ = f.figure(whole[i])
		}
		out = append(out, c)
	}
	return out
}

// madeColumn is a column of labels under way.
type madeColumn struct {
	header string
	cell   func() cell
}

// labelColumns are the columns of labels of a table.
func (f *folder) labelColumns(layout string, products []string) []madeColumn {
	day := func() cell {
		if f.odds(f.messy) {
			return cell{text: f.pick("", "n/a", "03/04/2024", "2024-02-30", "Total")}
		}
		return cell{text: f.pick("2024-01-05", "7 March 2024", "2024-02-29")}
	}
	labels := []madeColumn{{f.pick("Branch", "branch", "Outlet"), func() cell { return f.label(f.labels...) }}}
	if f.odds(50) {
		labels = append(labels, madeColumn{f.pick("day", "Day"), day})
	}
	if f.odds(20) {
		labels = append(labels, madeColumn{f.pick("Notes", "Entered by", "Memo"),
			func() cell { return cell{text: f.pick("", "x", "n/a", "total", "ok")} }})
	}
	if f.odds(25) {
		labels = append(labels, madeColumn{"Price", func() cell { c, _ := f.figure(false); return c }})
	}
	if f.odds(25) && layout == "long" {
		labels = append(labels, madeColumn{"Tax", func() cell { c, _ := f.figure(false); return c }})
	}
	if layout == "long" || layout == "widen" {
		labels = append(labels, madeColumn{"Product", func() cell { return f.label(products...) }})
	}
	if layout == "widen" || layout == "matrix" {
		labels = append(labels, madeColumn{"Figure", func() cell {
			if f.odds(f.messy) {
				return cell{text: f.pick("", "Returns", "Total")}
			}
			return cell{text: f.pick("Qty", "Amount", "qty", "amount")}
		}})
	}
	return labels
}

// extract makes one table of a layout; files of an entry differ in order and in what they
// lack.
func (f *folder) extract(layout string, products []string) [][]cell {
	r := f.r
	labels := f.labelColumns(layout, products)
	first := r.Perm(len(labels))
	if f.odds(60) {
		slices.Sort(first)
	}
	var header []string
	for _, i := range first {
		header = append(header, labels[i].header)
	}
	var whole []bool
	switch layout {
	case "long":
		whole = []bool{true, false}
		header = append(header, "Quantity", "Amount")
		if f.odds(15) {
			header, whole = header[:len(header)-1], whole[:1]
		}
	case "widen":
		header, whole = append(header, "Value"), []bool{true}
	case "matrix":
		for _, i := range r.Perm(len(products))[:1+r.IntN(len(products))] {
			header, whole = append(header, products[i]), append(whole, true)
		}
	case "wide":
		for _, i := range r.Perm(len(products))[:1+r.IntN(len(products))] {
			header, whole = append(header, products[i]), append(whole, f.odds(50))
		}
	case "pairs":
		for _, i := range r.Perm(len(products))[:1+r.IntN(len(products))] {
			for _, m := range []string{"Qty", "Value"} {
				if f.odds(85) {
					header, whole = append(header, m+" "+products[i]), append(whole, m == "Qty")
				}
			}
		}
	}
	row := func() (out []cell) {
		for _, i := range first {
			out = append(out, labels[i].cell())
		}
		return out
	}
	rows := f.table(header, len(first), whole, row)
	if at := slices.Index(header, "Figure"); at >= 0 && f.odds(30) {
		rows = append([][]cell{line(header...)}, f.figuresWithTotal(at, len(whole), row)...)
	}
	if (layout == "wide" || layout == "matrix" || layout == "pairs") && f.odds(25) {
		f.totalColumn(rows, header, len(first), layout)
	}
	return rows
}

// totalColumn adds a column with the sums of the others.
func (f *folder) totalColumn(rows [][]cell, header []string, labels int, layout string) {
	name, parity := f.pick("Total", "Summe", "All"), -1
	if layout == "pairs" {
		name, parity = f.pick("Qty Total", "Value total", "Total Value"), 0
	}
	for i, row := range rows {
		if len(row) != len(header) {
			continue
		}
		if row[0].text == header[0] && row[len(row)-1].text == header[len(header)-1] {
			rows[i] = append(slices.Clone(row), cell{text: name})
			continue
		}
		var sum int64
		for j := labels; j < len(row); j++ {
			if parity == 0 && !strings.HasPrefix(strings.ToLower(header[j]),
				strings.ToLower(strings.Fields(strings.Replace(name, "Total ", "", 1))[0])) {
				continue
			}
			text := strings.NewReplacer(".", "", ",", "").Replace(row[j].text)
			n, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				continue
			}
			if at := strings.LastIndexAny(row[j].text, ".,"); at < 0 || len(row[j].text)-at != 3 {
				n *= 100
			}
			sum += n
		}
		c := cell{text: f.style(sum)}
		if f.odds(f.messy / 3) {
			c, _ = f.figure(false)
		}
		rows[i] = append(slices.Clone(row), c)
	}
}

// figuresWithTotal are rows that say what their figures are, and such with the sums of these, which nothing calls totals.
func (f *folder) figuresWithTotal(figure, columns int, row func() []cell) (rows [][]cell) {
	sums := [2][]int64{make([]int64, columns), make([]int64, columns)}
	add := func(labels []cell, which int, cells []cell) {
		own := append(slices.Clone(labels), cells...)
		own[figure] = cell{text: []string{"Qty", "Amount"}[which]}
		rows = append(rows, own)
	}
	for range 1 + f.r.IntN(5) {
		labels := row()
		for which := range sums {
			cells := make([]cell, columns)
			for i := range cells {
				c, cents := f.figure(which == 0)
				cells[i] = c
				sums[which][i] += cents
			}
			add(labels, which, cells)
		}
	}
	if f.odds(20) {
		sums[1][0] += 1
	}
	labels, n := row(), len(rows)
	for which := range sums {
		var cells []cell
		for _, sum := range sums[which] {
			cells = append(cells, cell{text: f.style(sum)})
		}
		add(labels, which, cells)
	}
	if f.odds(30) { // they stand first
		rows = slices.Concat(rows[n:], rows[:n])
	}
	if f.odds(30) { // one figure below the other
		slices.SortStableFunc(rows, func(a, b []cell) int { return strings.Compare(b[figure].text, a[figure].text) })
	}
	return rows
}
