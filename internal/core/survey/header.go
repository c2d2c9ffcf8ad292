package survey

import (
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// begin finds the header among the first rows and returns the first row behind
// it. It is the first row that is filled as most are, but for a corner, with
// texts; or, where there is none near, one that is half as much. Rows above it
// that are filled too are titles, or labels of groups of columns.
func (t *Table) begin(rows *table.Rows) (int, error) {
	usual := usualWidth(rows)
	header, half, first, two := -1, -1, -1, -1
	for i := range rows.Len() {
		filled, texts := t.looks(rows, i)
		if filled > 0 && first < 0 {
			first = i
		}
		if filled < 2 {
			continue
		}
		if two < 0 {
			two = i
		}
		if 2*texts <= filled {
			continue
		}
		if filled >= usual || filled == usual-1 && blankCorner(rows, i) {
			header = i
			break
		}
		if half < 0 && 2*filled >= usual {
			half = i
		}
	}
	if header < 0 || half >= 0 && header > half+20 { // far down it is a row of data
		header = half
	}
	for _, other := range []int{two, first} {
		if header < 0 {
			header = other
		}
	}
	if header < 0 {
		return 0, errEmpty
	}
	groups := -1
	if header+1 < rows.Len() {
		filled, _ := t.looks(rows, header)
		if below, texts := t.looks(rows, header+1); below > filled && below == texts && t.grouped(rows, header+1) {
			groups, header = header, header+1
		}
	}
	if groups < 0 && header > 0 && (t.grouped(rows, header) || blankCorner(rows, header) && t.upper(rows, header-1, usual)) {
		groups = header - 1
	}
	if groups < 0 && t.upper(rows, header, usual) {
		groups, header = header, header+1
	}
	t.setHeader(rows, header, groups)
	for i := range header {
		if i != groups && filledCells(rows, i) > 0 {
			t.Titles = append(t.Titles, rows.Lines[i])
			if len(t.TitleTexts) < 5 {
				t.TitleTexts = append(t.TitleTexts, joined(rows, i))
			}
		}
	}
	return header + 1, nil
}

// grouped reports whether the row above the header labels groups of its columns:
// two texts or more, above filled headers, each carried right over blank cells, and
// not from the first column on; or any texts, where headers repeat.
func (t *Table) grouped(rows *table.Rows, header int) bool {
	filled, texts := t.looks(rows, header-1)
	if filled == 0 || filled != texts || !t.fits(rows, header-1) {
		return false
	}
	seen := map[string]bool{}
	for _, c := range rows.Row(header) {
		k := key.Of(string(rows.Text(c)))
		if k != "" && seen[k] {
			return true
		}
		seen[k] = true
	}
	return filled > 1 && blankCorner(rows, header-1) && carried(rows, header-1)
}

// upper reports whether a row is the upper one of two header rows: both hold texts alone,
// together they fill as many columns as most rows do, a label of the upper one is carried
// right, and a row with a number follows.
func (t *Table) upper(rows *table.Rows, i, usual int) bool {
	if i+2 >= rows.Len() {
		return false
	}
	filled, texts := t.looks(rows, i)
	below, textsBelow := t.looks(rows, i+1)
	if filled != texts || below != textsBelow || filled == 0 || below < 2 || filled >= usual || !carried(rows, i) || !t.hasNumber(rows, i+2) {
		return false
	}
	both, over := 0, false
	a, b := rows.Row(i), rows.Row(i+1)
	for j := range max(len(a), len(b)) {
		up := j < len(a) && len(value.Trim(rows.Text(a[j]))) > 0
		down := j < len(b) && len(value.Trim(rows.Text(b[j]))) > 0
		if up || down {
			both++
		}
		over = over || up && down
	}
	return over && both >= usual
}

// blankCorner reports whether the first cell of a row is blank.
func blankCorner(rows *table.Rows, i int) bool {
	return len(value.Trim(rows.Text(rows.Row(i)[0]))) == 0
}

// carried reports whether a label of the row stands for columns to its right too:
// a blank cell follows it.
func carried(rows *table.Rows, i int) bool {
	label := false
	for _, c := range rows.Row(i) {
		filled := len(value.Trim(rows.Text(c))) > 0
		if label && !filled {
			return true
		}
		label = label || filled
	}
	return false
}

// fits reports whether the row may hold the labels of groups: the row below fills
// all columns that it leaves blank.
func (t *Table) fits(rows *table.Rows, i int) bool {
	above, below := rows.Row(i), rows.Row(i+1)
	for j, c := range above {
		if len(value.Trim(rows.Text(c))) > 0 && (j >= len(below) || len(value.Trim(rows.Text(below[j]))) == 0) {
			return false
		}
	}
	return true
}

// looks counts the filled cells of a row, and those that may be headers: texts,
// dates and years.
func (t *Table) looks(rows *table.Rows, i int) (filled, texts int) {
	for j, c := range rows.Row(i) {
		text := string(value.Trim(rows.Text(c)))
		if text == "" {
			continue
		}
		filled++
		_, _, number := value.English.Number([]byte(text))
		_, date := value.Default.Year(text)
		if date || !number && value.TextGap(text) == value.NoGap && (rows.Kind(i, j) != table.NumberCell || date) {
			texts++
		}
	}
	return filled, texts
}

// usualWidth is how many filled cells most rows have that have two at least.
func usualWidth(rows *table.Rows) int {
	counts, best := map[int]int{}, 0
	for i := range rows.Len() {
		if n := filledCells(rows, i); n > 1 {
			counts[n]++
			if counts[n] > counts[best] || counts[n] == counts[best] && n > best {
				best = n
			}
		}
	}
	return best
}

func filledCells(rows *table.Rows, i int) int {
	n := 0
	for _, c := range rows.Row(i) {
		if c.End > c.Off && len(value.Trim(rows.Text(c))) > 0 {
			n++
		}
	}
	return n
}

// joined is the text of a row.
func joined(rows *table.Rows, i int) string {
	var texts []string
	for _, c := range rows.Row(i) {
		if text := value.Trim(rows.Text(c)); len(text) > 0 {
			texts = append(texts, string(text))
		}
	}
	return place.Shorten(strings.Join(texts, " "))
}

func (t *Table) setHeader(rows *table.Rows, header, groups int) {
	h := layout.ReadHeader(rows, header, 0)
	t.HeaderRow = h.Row
	if groups >= 0 {
		for _, c := range rows.Row(groups) {
			t.groups = append(t.groups, key.Of(string(rows.Text(c))))
		}
		h.AddGroups(rows, []int{groups})
	}
	for i, text := range h.Texts {
		t.keys = append(t.keys, key.Of(text))
		t.columns = append(t.columns, newColumn(text, layout.Letter(i)))
		if new(value.Totals).Alone(text) {
			t.TotalColumns = append(t.TotalColumns, text)
		}
	}
	t.Columns = len(h.Texts)
}
