package layout

import (
	"fmt"
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
		if e.Unpivot != nil && (e.Unpivot.Cell == c.Name || e.Unpivot.Header.Has(c.Name) || e.Unpivot.Cells != nil && c.Measure()) ||
			c.Made() || constant(e, c.Name) {
			continue
		}
		keys := map[string]bool{key.Of(c.Name): true}
		for _, h := range slices.Concat(c.Headers, e.Headers[c.Name]) {
			keys[key.Of(h)] = true
		}
		delete(keys, "")
		f.keys = append(f.keys, keys)
	}
	if w := e.Widen; w != nil { // beside a column of figures whose cells are called as columns are
		for _, h := range []string{w.Header, w.Cell} {
			if k := key.Of(h); k != "" {
				f.keys = append(f.keys, map[string]bool{k: true})
			}
		}
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
	if f.entry.Header.Rows > 1 {
		return f.findRows(rows)
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

// findRows finds the header of several rows: the run whose joined headers are claimed
// most, the first of them. It begins with a filled row and returns its last one.
func (f *Finder) findRows(rows *table.Rows) (at int, sure bool) {
	at = -1
	most, count := -1, f.entry.Header.Rows
	for i := 0; i+count <= rows.Len(); i++ {
		if blankRow(rows, i) || blankRow(rows, i+count-1) {
			continue
		}
		h := ReadHeader(rows, i+count-1, 0)
		h.AddGroups(rows, Above(i, count))
		if n := f.claims(h.Keys); n > most {
			at, most = i+count-1, n
			if n == len(f.keys) && n > 0 {
				return at, true
			}
		}
	}
	return at, rows.Len() >= Window
}

// Above are the rows of a header of several rows above its last one.
func Above(first, count int) []int {
	var out []int
	for k := range count - 1 {
		out = append(out, first+k)
	}
	return out
}

// claimed counts the columns of the plan that can claim a header in the row.
func (f *Finder) claimed(rows *table.Rows, i int) int {
	var seen []string
	for _, c := range rows.Row(i) {
		if text := value.Trim(rows.Text(c)); len(text) > 0 && len(text) < 200 {
			seen = append(seen, key.Of(string(text)))
		}
	}
	return f.claims(seen)
}

// claims counts the columns of the plan that can claim one of some keys.
func (f *Finder) claims(seen []string) int {
	n := 0
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
	for j, c := range rows.Row(i) {
		filled := c.End > c.Off && (value.Visible(rows.Data[c.Off]) || len(value.Trim(rows.Data[c.Off:c.End])) > 0)
		if filled || rows.Kind(i, j) == table.FormulaCell {
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

// LinesAbove are the rows above the header that hold something, each as one text.
func LinesAbove(rows *table.Rows, header int) (out []string) {
	for i := range header {
		var filled []string
		for _, c := range rows.Row(i) {
			if text := value.Trim(rows.Text(c)); len(text) > 0 {
				filled = append(filled, string(text))
			}
		}
		if len(filled) > 0 {
			out = append(out, strings.Join(filled, " "))
		}
	}
	return out
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

// OneTable stops where two or more rows with figures stand above the header that was
// found, under what the table reads as numbers: they may be a table of their own. at is
// the header's index among the rows. Lines that a pattern of titles fits are no such rows.
func OneTable(l *Lineup, rows *table.Rows, at int) (problems place.List) {
	if h := l.Entry.Header; h.Row > 0 || h.None || at < 0 {
		return nil
	}
	if n := l.Entry.Header.Rows; n > 1 {
		at -= n - 1
	}
	var found []int
	for i := range at {
		if l.figureAbove(rows, i) && !titled(l.Entry, rows, i) {
			found = append(found, i)
		}
	}
	if len(found) < 2 {
		return nil
	}
	for _, i := range found {
		p := l.problem(rows, i, -1, "rows above the header", "rows with figures stand above the header: they may be a table of their own")
		p.Advice = fmt.Sprintf("the header was found in row %d; say which row it is with header, or which part is the table with area",
			l.Header.Row)
		problems.Add(p)
	}
	return problems
}

// figureAbove reports whether a row above the header has a number in a column that is read
// as one.
func (l *Lineup) figureAbove(rows *table.Rows, i int) bool {
	for j, c := range rows.Row(i) {
		if c.End > c.Off && j < len(l.numeric) && l.numeric[j] {
			if _, _, ok := l.Number(rows, i, j); ok {
				return true
			}
		}
	}
	return false
}

// Joined is the text of a row: its filled cells, joined by spaces.
func Joined(rows *table.Rows, i int) string {
	var texts []string
	for _, c := range rows.Row(i) {
		if text := value.Trim(rows.Text(c)); len(text) > 0 {
			texts = append(texts, string(text))
		}
	}
	return strings.Join(texts, " ")
}

// titled reports whether a pattern of titles fits a cell of a row, or all of them.
func titled(e *plan.Entry, rows *table.Rows, i int) bool {
	var texts []string
	for _, c := range rows.Row(i) {
		if text := string(value.Trim(rows.Text(c))); text != "" {
			texts = append(texts, text)
		}
	}
	texts = append(texts, strings.Join(texts, " "))
	return slices.ContainsFunc(e.Titles, func(t *pattern.Pattern) bool { return slices.ContainsFunc(texts, t.Fits) })
}
