package survey

import (
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// looker hears of the rows of a table that was surveyed, in a further reading.
type looker interface {
	row(rows *table.Rows, i int)
}

// lister lists the cells of a table's columns of numbers that hold none.
type lister struct {
	at      place.Place
	headers []string // of each column, "" of one that is not of numbers
	style   int
	gap     func(at place.Place, kind value.Gap, text string)
}

// lister returns what lists the gaps of a table that was surveyed.
func (t *Table) lister(gap func(place.Place, value.Gap, string)) *lister {
	l := &lister{at: t.Place, style: t.style, gap: gap, headers: make([]string, t.Left)}
	for _, f := range t.Fields {
		header := ""
		if f.Is == "number" || f.Is == "whole" {
			header = f.Header
		}
		l.headers = append(l.headers, header)
	}
	return l
}

// row lists the gaps of a row.
func (l *lister) row(rows *table.Rows, i int) {
	cells := rows.Row(i)
	for j := range l.headers {
		if j < len(cells) {
			l.cell(j, rows.Text(cells[j]), rows.Kind(i, j), rows.Lines[i])
		} else {
			l.cell(j, nil, table.TextCell, rows.Lines[i])
		}
	}
}

func (l *lister) cell(j int, raw []byte, kind table.CellKind, line int) {
	if l.headers[j] == "" {
		return
	}
	text := value.Trim(raw)
	if r, ok := readPlain(text, kind); ok && r.styles&(1<<l.style) != 0 {
		return
	}
	r := read(text, kind)
	if usable(&group{reading: r}) && r.styles&(1<<l.style) != 0 {
		return
	}
	at := l.at
	at.Row, at.Header = line, l.headers[j]
	l.gap(at, r.gap, string(text))
}
