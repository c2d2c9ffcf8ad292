package layout

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Window is how many rows are looked at for a header.
const Window = 500

// Finder looks for the header among the first rows of an extract of an entry.
type Finder struct {
	entry *plan.Entry
	keys  []map[string]bool // by column of the plan: the keys it claims
}

// NewFinder returns a finder for an entry of a plan.
func NewFinder(p *plan.Plan, e *plan.Entry) *Finder {
	f := &Finder{entry: e}
	for _, c := range p.Columns {
		if e.Unpivot != nil && (e.Unpivot.Cell == c.Name || e.Unpivot.Header.Has(c.Name) || e.Unpivot.Cells != nil && c.Measure()) || c.Made() || constant(e, c.Name) {
			continue
		}
		keys := map[string]bool{key.Of(c.Name): true}
		for _, h := range slices.Concat(c.Headers, e.Headers[c.Name]) {
			keys[key.Of(h)] = true
		}
		delete(keys, "")
		f.keys = append(f.keys, keys)
	}
	return f
}

// constant reports whether an entry gives a column one value for a whole table.
func constant(e *plan.Entry, column string) bool {
	_, set := e.Set[column]
	return set || e.Sections == column || slices.ContainsFunc(fieldPatterns(e), func(p *pattern.Pattern) bool { return p.Has(column) })
}

// fieldPatterns are the patterns by which an entry reads fields of a whole table.
func fieldPatterns(e *plan.Entry) []*pattern.Pattern {
	all := slices.Concat([]*pattern.Pattern{e.Path, e.Sheet}, e.Titles)
	return slices.DeleteFunc(all, func(p *pattern.Pattern) bool { return p == nil })
}

// Find returns the index of the header row: the row that holds most of the
// headers which columns of the plan can claim, the first of them if several do;
// where none is claimed, the first row with two or more filled cells, or with
// any. sure is false where a row further down may hold more.
func (f *Finder) Find(rows *table.Rows) (at int, sure bool) {
	at = -1
	if f.entry.Header.Row > 0 {
		for i := range rows.Len() {
			if rows.Lines[i] >= f.entry.Header.Row {
				if rows.Lines[i] == f.entry.Header.Row && !blankRow(rows, i) {
					at = i
				}
				return at, true
			}
		}
		return -1, false
	}
	most, first, two := 0, -1, -1
	for i := range rows.Len() {
		n := f.claimed(rows, i)
		if n > most {
			at, most = i, n
		}
		if n == len(f.keys) && n > 0 {
			return i, true
		}
		if two >= 0 {
			continue
		}
		filled := filledCells(rows, i, 2)
		if filled > 0 && first < 0 {
			first = i
		}
		if filled > 1 {
			two = i
			if len(f.keys) == 0 {
				return i, true
			}
		}
	}
	switch {
	case at >= 0:
	case two >= 0:
		at = two
	default:
		at = first
	}
	return at, rows.Len() >= Window
}

// claimed counts the columns of the plan that can claim a header in the row.
func (f *Finder) claimed(rows *table.Rows, i int) int {
	n := 0
	var seen []string
	for _, c := range rows.Row(i) {
		if text := value.Trim(rows.Text(c)); len(text) > 0 && len(text) < 200 {
			seen = append(seen, key.Of(string(text)))
		}
	}
	for _, keys := range f.keys {
		if slices.ContainsFunc(seen, func(k string) bool { return keys[k] }) {
			n++
		}
	}
	return n
}

// filledCells counts the filled cells of a row, up to most.
func filledCells(rows *table.Rows, i, most int) int {
	n := 0
	for _, c := range rows.Row(i) {
		if c.End > c.Off && len(value.Trim(rows.Data[c.Off:c.End])) > 0 {
			if n++; n == most {
				break
			}
		}
	}
	return n
}

// ClaimedLetters returns how many columns there must be for the letters by which
// columns of the plan claim headers without a text.
func ClaimedLetters(p *plan.Plan, e *plan.Entry, first int) int {
	most := 0
	for _, c := range p.Columns {
		for _, h := range slices.Concat(c.Headers, e.Headers[c.Name]) {
			if len(h) > 2 || strings.ToUpper(h) != h {
				continue
			}
			n := 0
			for _, r := range h {
				if r < 'A' || r > 'Z' {
					n = 0
					break
				}
				n = n*26 + int(r-'A') + 1
			}
			most = max(most, n-first)
		}
	}
	return most
}

// Titles reads the fields of an entry's titles from the rows above the header.
// Each pattern is held against every cell, and against a row's filled cells
// joined by a space where none of them fits alone.
func Titles(e *plan.Entry, rows *table.Rows, header int, at place.Place) (map[string]string, place.List) {
	fields := map[string]string{}
	var problems place.List
	for _, t := range e.Titles {
		var found []map[string]string
		add := func(text string) bool {
			pieces, ok := t.Fit(text)
			if ok && !slices.ContainsFunc(found, func(f map[string]string) bool { return sameFields(f, pieces) }) {
				found = append(found, pieces)
			}
			return ok
		}
		for i := range header {
			joined, alone := "", false
			for _, c := range rows.Row(i) {
				text := string(value.Trim(rows.Text(c)))
				if text == "" {
					continue
				}
				alone = add(text) || alone
				if joined != "" {
					joined += " "
				}
				joined += text
			}
			if !alone && joined != "" {
				add(joined)
			}
		}
		stop := func(message, advice string) {
			p := place.At(at, "title", message, t).ByRule()
			p.Plan, p.Advice = e.Pos, advice
			problems.Add(p)
		}
		switch len(found) {
		case 0:
			stop("no line above the table fits the title %q", "let the pattern of titles fit it, or leave the file out with except")
		case 1:
			for k, v := range found[0] {
				fields[k] = v
			}
		default:
			stop("several lines above the table fit the title %q and say different things", "write more of the line into the pattern")
		}
	}
	return fields, problems
}

func sameFields(a, b map[string]string) bool {
	for k, v := range a {
		if b[k] != v {
			return false
		}
	}
	return len(a) == len(b)
}

// Crop cuts rows down to an area: rows and cells outside it go.
func Crop(rows *table.Rows, a *plan.Area) {
	if a == nil {
		return
	}
	cells, kinds, starts, lines := rows.Cells[:0:0], rows.Kinds[:0:0], rows.Starts[:0:0], rows.Lines[:0:0]
	for i := range rows.Len() {
		if n := rows.Lines[i]; n < a.FirstRow || a.LastRow > 0 && n > a.LastRow {
			continue
		}
		starts, lines = append(starts, uint32(len(cells))), append(lines, rows.Lines[i])
		begin, end := int(rows.Starts[i]), int(rows.Starts[i+1])
		from, to := min(begin+a.FirstColumn, end), min(begin+a.LastColumn+1, end)
		cells = append(cells, rows.Cells[from:to]...)
		if len(rows.Kinds) > 0 {
			kinds = append(kinds, rows.Kinds[from:to]...)
		}
	}
	rows.Cells, rows.Kinds, rows.Lines, rows.Starts = cells, kinds, lines, append(starts, uint32(len(cells)))
}

// Pad fills rows with blank cells until each has so many; blank rows stay as
// they are.
func Pad(rows *table.Rows, width int) {
	short := false
	for i := range rows.Len() {
		if n := int(rows.Starts[i+1] - rows.Starts[i]); n > 0 && n < width {
			short = true
			break
		}
	}
	if !short {
		return
	}
	cells, kinds, starts := make([]table.Cell, 0, len(rows.Cells)+rows.Len()*2), rows.Kinds[:0:0], make([]uint32, 0, len(rows.Starts))
	for i := range rows.Len() {
		starts = append(starts, uint32(len(cells)))
		begin, end := rows.Starts[i], rows.Starts[i+1]
		cells = append(cells, rows.Cells[begin:end]...)
		if len(rows.Kinds) > 0 {
			kinds = append(kinds, rows.Kinds[begin:end]...)
		}
		for n := int(end - begin); n > 0 && n < width; n++ {
			cells = append(cells, table.Cell{})
			if len(rows.Kinds) > 0 {
				kinds = append(kinds, table.TextCell)
			}
		}
	}
	rows.Cells, rows.Kinds, rows.Starts = cells, kinds, append(starts, uint32(len(cells)))
}
