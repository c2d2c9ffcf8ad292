package survey

import (
	"fmt"
	"slices"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// mostSummed is up to how many rows a table is looked at once more for rows and columns
// that are sums of others.
const mostSummed = 20_000

// adder looks for rows that are the sums of those above them, and wide columns that are the
// sums of the others, though nothing says total.
type adder struct {
	table   *Table
	numbers []int           // the columns of numbers
	wide    []int           // which of those are wide, …
	sides   []int           // … or stand side by side
	figures []value.Decimal // of the row at hand, by number
	sums    []value.Sum
	rows    int
	total   place.Place // the first such row
	from    int         // the first row that was added up
	leads   tie.Leads   // rows that have the sums of those below them
	hash    uint64      // of the rows so far, for these
	left    []candidate // wide columns that are the sums of the others so far
	closely bool        // it looks for what a draft asks about
	groups  groups
	runs    runs
	across  tie.Families
	growing tie.Growing
	beside  acrossSums
	months  growths
	shifted bool // some row with a cell below no header has gone out of its columns

	isNumber []bool          // by column
	unnamed  bool            // some column has no header
	some     []value.Decimal // figures of the row at hand
	texts    [][]byte        // and its labels
}

func newAdder(t *Table) *adder {
	a := &adder{table: t, isNumber: make([]bool, len(t.Fields))}
	for i, f := range t.Fields {
		a.unnamed = a.unnamed || f.Unnamed
		if f.Is != "number" && f.Is != "whole" || slices.Contains(t.TotalColumns, f.Header) {
			continue
		}
		if slices.Contains(t.sides, i) {
			a.sides = append(a.sides, len(a.numbers))
		}
		if f.Wide {
			a.wide = append(a.wide, len(a.numbers))
			a.left = append(a.left, candidate{number: len(a.numbers)})
		}
		a.numbers = append(a.numbers, i)
		a.isNumber[i] = true
	}
	a.months = newGrowths(t, a.numbers)
	a.beside = newAcrossSums(t, a.numbers)
	a.figures, a.sums = make([]value.Decimal, len(a.numbers)), make([]value.Sum, len(a.numbers))
	a.leads.Reset()
	return a
}

// candidate is a wide column that may be the sum of the others, and in how many rows it has a figure.
type candidate struct{ number, rows int }

// row takes a row of data.
func (a *adder) row(rows *table.Rows, i int) {
	line, cells := rows.Lines[i], rows.Row(i)
	clear(a.figures)
	for k, j := range a.numbers {
		at, style := j+a.table.Left, value.Styles[a.table.style]
		if at >= len(cells) {
			continue
		}
		if rows.Kind(i, at) == table.NumberCell {
			style = value.English
		}
		if d, _, ok := style.Number(rows.Text(cells[at])); ok {
			a.figures[k] = d
		}
	}
	if a.rows == 0 {
		a.from = line
	}
	if a.rows >= 2 && a.total.Row == 0 && a.sumsUp() {
		a.total = a.table.Place
		a.total.Row = line
	}
	a.rows++
	a.lead(line)
	if a.closely {
		a.look(rows, i)
	}
	var all value.Sum
	for k, d := range a.figures {
		a.sums[k].Add(d)
	}
	for _, k := range a.wide {
		all.Add(a.figures[k])
	}
	a.across.Row(a.of(a.sides))
	a.growing.Row(a.of(a.wide))
	a.beside.row(a.figures)
	a.months.row(a.figures)
	total := all.Total()
	a.left = slices.DeleteFunc(a.left, func(c candidate) bool {
		d := a.figures[c.number]
		return d.Add(d).Cmp(total) != 0
	})
	for i := range a.left {
		if a.figures[a.left[i].number].Sign() != 0 {
			a.left[i].rows++
		}
	}
}

// of are the figures of the row at hand, of some numbers.
func (a *adder) of(numbers []int) []value.Decimal {
	a.some = a.some[:0]
	for _, k := range numbers {
		a.some = append(a.some, a.figures[k])
	}
	return a.some
}

// lead takes the row at hand for one that may have the sums of rows below it.
func (a *adder) lead(line int) {
	own := uint64(0)
	for k, d := range a.figures {
		own += (table.Mix(uint64(k)+1) | 1) * d.Modulo(value.MaxPlaces)
	}
	a.leads.Follow([]uint64{own}, a.hash, func(int, bool) tie.Head {
		return tie.Head{Line: line, Digits: digitsOf(a.figures)}
	})
	a.hash += own
}

// look looks at the row at hand for what a draft asks about.
func (a *adder) look(rows *table.Rows, i int) {
	a.shifted = a.shifted || a.outOfColumns(rows, i)
	labels := a.labels(rows, i)
	a.groups.row(a.figures, a.sums, labels, rows.Lines[i])
	a.runs.row(a.figures, a.sums, labels, rows.Lines[i])
}

// labels are the texts that a row has in columns of no numbers, until the next row.
func (a *adder) labels(rows *table.Rows, i int) [][]byte {
	a.texts = a.texts[:0]
	for j, c := range rows.Row(i) {
		own := j - a.table.Left
		if own < 0 || own >= len(a.isNumber) || a.isNumber[own] {
			continue
		}
		if text := value.Trim(rows.Text(c)); len(text) > 0 {
			a.texts = append(a.texts, text)
		}
	}
	return a.texts
}

// tell notes in the table what a draft asks about.
func (a *adder) tell() {
	a.table.Sound = a.closely && !a.shifted
	if a.table.SumRows = a.groups.ends(); a.table.SumRows == nil {
		a.table.SumRows = a.runs.found
	}
	a.table.AcrossSums = a.beside.headers(a.table, a.numbers)
	a.table.SumColumns = append(a.sumColumns(), a.table.AcrossSums...)
	a.table.Growing = a.growing.All() || a.months.some()
}

// sumColumns are the headers of the columns side by side that are the sums of some beside them.
func (a *adder) sumColumns() (out []string) {
	called := func(n int) bool { // with a total word, few rows settle it
		_, total := new(value.Totals).Says(a.table.Fields[a.numbers[a.sides[n]]].Header)
		return total
	}
	for _, n := range a.across.Sums(called) {
		out = append(out, a.table.Fields[a.numbers[a.sides[n]]].Header)
	}
	return out
}

// sumsUp reports whether the row at hand has the sums of those above it: two figures or more, or a long one.
func (a *adder) sumsUp() bool {
	for k, d := range a.figures {
		if a.sums[k].Total().Cmp(d) != 0 {
			return false
		}
	}
	filled, long := 0, false
	for _, d := range a.figures {
		if d.Sign() != 0 {
			filled, long = filled+1, long || d.Digits() >= 6
		}
	}
	return filled > 1 || long
}

// traps are what was found.
func (a *adder) traps() (out []Trap) {
	if a.total.Row > 0 {
		out = append(out, Trap{What: "sum of others", Place: a.total, Count: 1,
			Detail: fmt.Sprintf("the row has the sums of the rows from %d on, and nothing says that it is a total", a.from)})
	} else if l := a.leads.Complete(a.hash); l != nil && l.Sure() {
		at, side := a.table.Place, "below"
		if l.Behind() {
			side = "above"
		}
		at.Row = l.Heads[0].Line
		out = append(out, Trap{What: "sum of others", Place: at, Count: l.Count,
			Detail: "the row has the sums of those " + side + " it, and nothing says that it is a total"})
	}
	for _, c := range a.left {
		if c.rows >= 3 && len(a.wide) > 2 {
			at := a.table.Place
			at.Row, at.Header = a.table.HeaderRow, a.table.Fields[a.numbers[c.number]].Header
			out = append(out, Trap{What: "sum of others", Place: at, Count: c.rows,
				Detail: "the column is the sum of the other wide ones in every row, and nothing says that it is a total"})
		}
	}
	if a.table.Growing {
		at := a.table.Place
		at.Row = a.table.HeaderRow
		out = append(out, Trap{What: "sums so far", Place: at, Count: a.rows,
			Detail: "wide columns grow from left to right in every row: are they the sums of all months before, say?"})
	}
	for _, header := range a.table.SumColumns {
		at := a.table.Place
		at.Row, at.Header = a.table.HeaderRow, header
		ofAll := func(c candidate) bool { return a.table.Fields[a.numbers[c.number]].Header == header }
		if !slices.ContainsFunc(a.left, ofAll) {
			out = append(out, Trap{What: "sum of others", Place: at, Count: a.rows,
				Detail: "the column is the sum of some beside it in every row, and nothing says that it is a total"})
		}
	}
	return out
}
