package keep

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pass"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// headerRow is in place of the column of rows that have headers of their table, among the others.
const headerRow = -2

// Headers are the rows whose cells are headers of their table, in other columns or beside other texts, that a rule took for a row of data.
func (k *Sections) Headers() []SectionRow { return k.in(headerRow) }

// lookForHeaders looks for headers among the rows of a block of which words or times stand in the place of numbers, or that are held or
// dropped.
func (p *sectionsPart) lookForHeaders(b *pass.Block) {
	if b.Program.Lineup.Widen != nil { // its rows are made of several
		return
	}
	last := -1
	for i := range b.Changes {
		if c := &b.Changes[i]; (c.Kind == value.Text || c.Kind == value.Unclear) && int(c.Row) != last {
			last = int(c.Row)
			p.lookAtHeaders(b, last)
		}
	}
	for i := range b.Gone {
		g := &b.Gone[i]
		if row := int(g.Index) / max(b.Batch.Slots, 1); g.Column >= 0 && (g.Fate == table.Held || g.Fate == table.Dropped) && row != last {
			last = row
			p.lookAtHeaders(b, row)
		}
	}
}

// lookAtHeaders keeps a row that begins with a header and has two of them at least, which are half of what it has.
func (p *sectionsPart) lookAtHeaders(b *pass.Block, row int) {
	keys := b.Program.Lineup.Header.Keys
	filled, headers := 0, []string(nil)
	for _, cell := range b.Rows.Row(int(b.Sorted.Used[row])) {
		if cell.End == cell.Off {
			continue
		}
		filled++
		if p.header(keys, b.Rows, cell) {
			headers = append(headers, value.TrimText(string(b.Rows.Text(cell))))
		}
		if len(headers) == 0 {
			return
		}
	}
	if len(headers) > 1 && 2*len(headers) >= filled {
		text := strings.Join(headers, ", ")
		r := SectionRow{SectionLabel{headerRow, key.Of(text), true}, text, b.Input.Place(), 1}
		r.Place.Row = b.Line(row)
		if !slices.ContainsFunc(p.rows, func(o SectionRow) bool { return o.Column == headerRow && o.Place.Row == r.Place.Row }) {
			p.rows = append(p.rows, r)
		}
	}
}

// header reports whether a cell has one of some keys, not blank ones; each text is looked at once.
func (p *sectionsPart) header(keys []string, rows *table.Rows, cell table.Cell) bool {
	text := rows.Text(cell)
	k, known := p.keys[string(text)]
	if !known {
		if len(p.keys) > mostShortcuts {
			clear(p.keys)
		}
		k = key.Of(string(text))
		p.keys[string(text)] = k
	}
	return k != "" && slices.Contains(keys, k)
}
