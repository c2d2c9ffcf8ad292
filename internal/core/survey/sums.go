package survey

import (
	"fmt"
	"slices"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// mostSummed is up to how many rows a table is looked at once more for rows and columns
// that are sums of others.
const mostSummed = 20_000

// adder looks for rows that are the sums of those above them, and wide columns that are the
// sums of the others, though nothing says total.
type adder struct {
	table   *Table
	numbers []int // the columns of numbers
	wide    []int // those of them that are wide
	sums    []value.Sum
	rows    int
	total   place.Place // the first such row
	from    int         // the first row that was added up
	columns map[int]int // wide columns that are the sums of the others so far, and in how many rows they have a figure
}

func newAdder(t *Table) *adder {
	a := &adder{table: t, columns: map[int]int{}}
	for i, f := range t.Fields {
		if f.Is != "number" && f.Is != "whole" || slices.Contains(t.TotalColumns, f.Header) {
			continue
		}
		a.numbers = append(a.numbers, i)
		if f.Wide {
			a.wide = append(a.wide, i)
			a.columns[i] = 0
		}
	}
	a.sums = make([]value.Sum, len(a.numbers))
	return a
}

// row takes a row of data.
func (a *adder) row(rows *table.Rows, i int) {
	line, cells := rows.Lines[i], rows.Row(i)
	figures := map[int]value.Decimal{}
	for _, j := range a.numbers {
		at, style := j+a.table.left, value.Styles[a.table.style]
		if at >= len(cells) {
			continue
		}
		if rows.Kind(i, at) == table.NumberCell {
			style = value.English
		}
		if d, _, ok := style.Number(rows.Text(cells[at])); ok {
			figures[j] = d
		}
	}
	if a.rows == 0 {
		a.from = line
	}
	if a.rows >= 2 && a.total.Row == 0 {
		same, filled, long := true, 0, false
		for k, j := range a.numbers {
			d := figures[j]
			same = same && a.sums[k].Total().Cmp(d) == 0
			if d.Sign() != 0 {
				filled, long = filled+1, long || d.Digits() >= 6
			}
		}
		if same && (filled > 1 || long) {
			a.total = a.table.Place
			a.total.Row = line
		}
	}
	a.rows++
	var all value.Sum
	for k, j := range a.numbers {
		a.sums[k].Add(figures[j])
	}
	for _, j := range a.wide {
		all.Add(figures[j])
	}
	for j := range a.columns {
		d := figures[j]
		switch {
		case d.Add(d).Cmp(all.Total()) != 0:
			delete(a.columns, j)
		case d.Sign() != 0:
			a.columns[j]++
		}
	}
}

// traps are what was found.
func (a *adder) traps() (out []Trap) {
	if a.total.Row > 0 {
		out = append(out, Trap{What: "sum of others", Place: a.total, Count: 1,
			Detail: fmt.Sprintf("the row has the sums of the rows from %d on, and nothing says that it is a total", a.from)})
	}
	for _, j := range a.wide {
		if n, is := a.columns[j]; is && n >= 3 && len(a.wide) > 2 {
			at := a.table.Place
			at.Row, at.Header = a.table.HeaderRow, a.table.Fields[j].Header
			out = append(out, Trap{What: "sum of others", Place: at, Count: n,
				Detail: "the column is the sum of the other wide ones in every row, and nothing says that it is a total"})
		}
	}
	return out
}
