package survey

import (
	"fmt"
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Beside is what stands in rows of data beyond the last header: remarks beside a table, or a row in which a delimiter is not in quotes.
type Beside struct {
	Letter string
	Cells  int
	Row    int      // the first one
	Texts  []string // that stand there, the first ones
	All    bool     // these are all
}

// mostBeside is in how many columns cells beside a table are told apart, and mostRemarks how many texts of one are kept.
const mostBeside, mostRemarks = 32, 50

// lookBeside looks for cells beside the table.
func (t *Table) lookBeside(rows *table.Rows, i int) {
	cells := rows.Row(i)
	for j := len(t.columns); j < len(cells); j++ {
		text := value.Trim(rows.Text(cells[j]))
		if len(text) == 0 {
			continue
		}
		n := j - len(t.columns)
		if n >= mostBeside {
			return
		}
		for len(t.Beside) <= n {
			t.Beside = append(t.Beside, Beside{Letter: layout.Letter(len(t.columns) + len(t.Beside)), All: true})
		}
		b := &t.Beside[n]
		if b.Cells++; b.Cells == 1 {
			b.Row = rows.Lines[i]
		}
		switch {
		case slices.Contains(b.Texts, string(text)):
		case len(b.Texts) < mostRemarks:
			b.Texts = append(b.Texts, string(text))
		default:
			b.All = false
		}
	}
}

// besideTraps notes the cells beside a table.
func (t *Table) besideTraps() {
	for i := range t.Beside {
		if b := &t.Beside[i]; b.Cells > 0 {
			at := t.Place
			at.Row, at.Header = b.Row, b.Letter
			detail := fmt.Sprintf("%q stands beside the table: a remark? others: [%s] leaves it aside", place.Shorten(b.Texts[0]), b.Letter)
			if at.Sheet == "" {
				detail += "; or a delimiter that is not in quotes?"
			}
			t.traps = append(t.traps, Trap{What: "cell without a header", Place: at, Count: b.Cells, Detail: detail})
		}
	}
}

// outOfColumns reports whether a row that has a cell below no header may have gone out of its columns: a text where numbers
// stand, a number where others do, or a date where texts do.
func (a *adder) outOfColumns(rows *table.Rows, i int) bool {
	cells, beside, odd := rows.Row(i), false, false
	if len(cells) <= a.table.Left+len(a.isNumber) && !a.unnamed {
		return false
	}
	for j, c := range cells {
		own, text := j-a.table.Left, value.Trim(rows.Text(c))
		if own < 0 || len(text) == 0 {
			continue
		}
		if own >= len(a.isNumber) || a.table.Fields[own].Unnamed {
			beside = true
			continue
		}
		_, _, number := value.Styles[a.table.style].Number(text)
		gap := value.GapOf(string(text))
		word := !number && gap != value.Null && gap != value.Error
		_, date := value.ReadDate(string(text))
		odd = odd || a.isNumber[own] && word || number && !a.isNumber[own] || date && a.table.Fields[own].Is == "text"
	}
	return beside && odd
}
