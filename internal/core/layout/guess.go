package layout

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Unplanned is the lineup of a table that no plan describes yet: the columns below whose
// header half of the cells of the first rows are numbers, in either of the usual ways, hold
// measures.
func Unplanned(h Header, rows *table.Rows, at place.Place) *Lineup {
	e := &plan.Entry{Reading: value.Reading{Numbers: value.English, Also: value.Styles[1:2]}}
	l := &Lineup{Entry: e, Place: at, Header: h, Known: func(string) bool { return false }}
	l.first = max(0, slices.IndexFunc(h.Keys, func(k string) bool { return k != "" }))
	filled, numbers := make([]int, len(h.Texts)), make([]int, len(h.Texts))
	for i := range rows.Len() {
		for j, c := range rows.Row(i) {
			if j < len(filled) && rows.Lines[i] > h.Row && len(value.Trim(rows.Text(c))) > 0 {
				filled[j]++
				if _, _, ok := l.Number(rows, i, j); ok || value.GapOf(string(rows.Text(c))) == value.Unclear {
					numbers[j]++
				}
			}
		}
	}
	for j := range filled {
		l.measure = append(l.measure, 2*numbers[j] >= filled[j])
	}
	return l
}

// Guess finds the header of a table without a plan, and the rows above it with labels of
// groups of columns, from the top. It is the first row that is filled as most are, but for
// a corner, with texts; or, where there is none near, one that is half as much. The header
// is -1 where no row is filled.
func Guess(rows *table.Rows) (header int, groups []int) {
	if bottom := threeRows(rows); bottom >= 0 {
		return bottom, []int{bottom - 2, bottom - 1}
	}
	header, above := twoRows(rows)
	if above >= 0 {
		groups = []int{above}
	}
	if header >= 0 && unitsBelow(rows, header) {
		header, groups = header+1, append(groups, header)
	}
	return header, groups
}

// twoRows is Guess for a header of one row, or of two: above is -1 for none.
func twoRows(rows *table.Rows) (header, above int) {
	usual := usualWidth(rows)
	header = likelyHeader(rows, usual)
	if header < 0 {
		return -1, -1
	}
	if header+1 < rows.Len() {
		filled, _ := looks(rows, header)
		if below, texts := looks(rows, header+1); below > filled && below == texts && grouped(rows, header+1) {
			return header + 1, header
		}
	}
	if repeats(rows, header) {
		return header + 1, header
	}
	if header > 0 && (repeats(rows, header-1) || grouped(rows, header) || yearAbove(rows, header) ||
		(blankCorner(rows, header) || again(rows, header)) && upper(rows, header-1, usual)) {
		return header, header - 1
	}
	if upper(rows, header, usual) {
		return header + 1, header
	}
	return header, -1
}

// yearAbove reports whether the row above a header has nothing but a year, above the first of three columns of figures or more, but not the
// first column of all, whose own header says none.
func yearAbove(rows *table.Rows, header int) bool {
	data, figures := firstFigures(rows)
	if data <= header || filledCells(rows, header-1, -1) != 1 || figures[0] == 0 || len(figures) < 3 {
		return false
	}
	if own := rows.Row(header); figures[0] >= len(own) || dated(rows.Text(own[figures[0]])) {
		return false
	}
	return isYear(textAt(rows, header-1, figures[0]))
}

// dated reports whether a text is a date, a month or a year.
func dated(text []byte) bool {
	_, ok := value.Default.Year(string(value.Trim(text)))
	return ok
}

// unitsBelow reports whether the row below a header has nothing but units, and its labels once more: the units of the figures that follow.
func unitsBelow(rows *table.Rows, header int) bool {
	data := rowBelow(rows, header+1)
	if data < 0 {
		return false
	}
	units := 0
	for j, c := range rows.Row(header + 1) {
		switch text := string(value.Trim(rows.Text(c))); {
		case text == "", textAt(rows, header, j) == key.Of(text):
		case !value.IsUnit(text) || textAt(rows, header, j) == "" || j >= len(rows.Row(data)) || !isNumber(rows, data, j):
			return false
		default:
			units++
		}
	}
	return units > 0
}

// likelyHeader is the row that is most likely the header alone.
func likelyHeader(rows *table.Rows, usual int) int {
	header, half, first, two := -1, -1, -1, -1
	for i := range rows.Len() {
		filled, texts := looks(rows, i)
		if filled > 0 && first < 0 {
			first = i
		}
		if filled < 2 {
			continue
		}
		if two < 0 {
			two = i
		}
		if 2*texts <= filled || saysInPairs(rows, i) {
			continue
		}
		if filled >= usual || filled == usual-1 && (blankCorner(rows, i) || filled == texts && fullBelow(rows, i, usual)) {
			header = fuller(rows, i, usual)
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
	return header
}

// fullBelow reports whether the row below one of texts, in which one column has none, is a row of data that is filled there, too: a column
// without a header.
func fullBelow(rows *table.Rows, i, usual int) bool {
	if i+1 >= rows.Len() {
		return false
	}
	filled, texts := looks(rows, i+1)
	return filled >= usual && texts < filled
}

// saysInPairs reports whether a row has a label with a colon and what it is in turns, two of each at least (Region:, Lakes, Year:,
// 2024), and a row of texts alone, of another length, stands below it, which is the header.
func saysInPairs(rows *table.Rows, i int) bool {
	n := 0
	for _, c := range rows.Row(i) {
		text := value.Trim(rows.Text(c))
		switch {
		case len(text) == 0:
		case (text[len(text)-1] == ':') != (n%2 == 0):
			return false
		default:
			n++
		}
	}
	if n < 4 || n%2 != 0 {
		return false
	}
	for i++; i < rows.Len() && blankRow(rows, i); {
		i++
	}
	return i < rows.Len() && filledCells(rows, i, -1) != n && !hasNumber(rows, i)
}

// fuller is the row of texts below a likely header, and above all figures, that is filled in more columns than most rows are, or in as
// many below a blank row: then that one is a line above the table. It is the likely header where there is none.
func fuller(rows *table.Rows, header, usual int) int {
	if next := rowBelow(rows, header); next > header+1 && blankRow(rows, header+1) && !hasNumber(rows, next) && !comesAgain(rows, next) {
		if filled, texts := looks(rows, next); filled >= usual && filled == texts {
			return next
		}
	}
	if filled, _ := looks(rows, header); filled >= usual {
		return header
	}
	for i := header + 1; i < rows.Len() && !hasNumber(rows, i); i++ {
		if filled, texts := looks(rows, i); filled > usual && filled == texts {
			return i
		}
	}
	return header
}

// comesAgain reports whether a row below has a text of a row in the same column, as data may have.
func comesAgain(rows *table.Rows, i int) bool {
	for j := range rows.Row(i) {
		text := textAt(rows, i, j)
		for below := i + 1; text != "" && below < rows.Len(); below++ {
			if textAt(rows, below, j) == text {
				return true
			}
		}
	}
	return false
}

// grouped reports whether the row above the header labels groups of its columns:
// two texts or more, above filled headers, each carried right over blank cells, and
// not from the first column on; or any texts, where headers repeat.
func grouped(rows *table.Rows, header int) bool {
	filled, texts := looks(rows, header-1)
	if filled == 0 || filled != texts || !fits(rows, header-1) {
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
func upper(rows *table.Rows, i, usual int) bool {
	data := rowBelow(rows, i+1)
	if data < 0 {
		return false
	}
	filled, texts := looks(rows, i)
	below, textsBelow := looks(rows, i+1)
	if filled != texts || below != textsBelow || filled == 0 || below < 2 || filled >= usual || !carried(rows, i) || !hasNumber(rows, data) {
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

// repeats reports whether a row is the upper one of two header rows in one of which labels are written in each of their columns: some stand
// twice, the other row tells them apart, and numbers follow below these. Where it is the lower one, nothing else stands there that
// the upper one does not say.
func repeats(rows *table.Rows, i int) bool {
	data := rowBelow(rows, i+1)
	if data < 0 {
		return false
	}
	if filled, texts := looks(rows, i+1); filled < 2 || filled != texts {
		return false
	}
	var of [2]map[string][]int
	for k := range of {
		of[k] = map[string][]int{}
		for j, c := range rows.Row(i + k) {
			if text := key.Of(string(rows.Text(c))); text != "" {
				of[k][text] = append(of[k][text], j)
			}
		}
	}
	figures := figuresFrom(rows, data)
	for k := range of {
		if over(of[k], of[1-k], figures, k == 1) {
			return true
		}
	}
	return false
}

// over reports whether some labels stand twice, above figures, and others tell their columns apart: all but those of these, if they
// are to be alone.
func over(labels, others map[string][]int, figures []int, alone bool) bool {
	twice := false
	apart := map[int]string{}
	for text, columns := range others {
		for _, j := range columns {
			apart[j] = text
		}
	}
	for text, columns := range labels {
		if len(columns) == 1 {
			if alone && apart[columns[0]] != text {
				return false
			}
			continue
		}
		seen := map[string]bool{}
		for _, j := range columns {
			if _, figure := slices.BinarySearch(figures, j); !figure || apart[j] == "" || seen[apart[j]] {
				return false
			}
			seen[apart[j]] = true
		}
		twice = true
	}
	return twice
}

// again reports whether a row begins as the one above it.
func again(rows *table.Rows, i int) bool {
	above, own := rows.Row(i-1), rows.Row(i)
	if len(above) == 0 || len(own) == 0 {
		return false
	}
	text := value.Trim(rows.Text(own[0]))
	return len(text) > 0 && key.Same(string(text), string(value.Trim(rows.Text(above[0]))))
}

// rowBelow is the next row below another that has more than a label alone, -1 for none.
func rowBelow(rows *table.Rows, i int) int {
	for i++; i < rows.Len(); i++ {
		if filledCells(rows, i, -1) > 1 {
			return i
		}
	}
	return -1
}

// blankCorner reports whether the first cell of a row is blank.
func blankCorner(rows *table.Rows, i int) bool {
	return len(value.Trim(rows.Text(rows.Row(i)[0]))) == 0
}

// carried reports whether a label of the row stands for columns to its right too:
// a blank cell follows it, or nothing where the row below goes on and this one has the labels of rows, too.
func carried(rows *table.Rows, i int) bool {
	if n := len(rows.Row(i)); n > 0 && !blankCorner(rows, i) && i+1 < rows.Len() && len(rows.Row(i+1)) > n {
		return true
	}
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
// all columns that it does, but for totals.
func fits(rows *table.Rows, i int) bool {
	above, below := rows.Row(i), rows.Row(i+1)
	for j, c := range above {
		text := value.Trim(rows.Text(c))
		if len(text) > 0 && (j >= len(below) || len(value.Trim(rows.Text(below[j]))) == 0) && !new(value.Totals).Alone(string(text)) {
			return false
		}
	}
	return true
}

// looks counts the filled cells of a row, and those that may be headers: texts,
// dates, also of figures alone, and years.
func looks(rows *table.Rows, i int) (filled, texts int) {
	for j, c := range rows.Row(i) {
		text := string(value.Trim(rows.Text(c)))
		if text == "" {
			continue
		}
		filled++
		number := slices.ContainsFunc(value.Styles[:], func(s value.Style) bool { _, _, ok := s.Number([]byte(text)); return ok })
		_, date := value.Default.Year(text)
		date = date || value.IsStamp(text)
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
		if n := filledCells(rows, i, -1); n > 1 {
			counts[n]++
			if counts[n] > counts[best] || counts[n] == counts[best] && n > best {
				best = n
			}
		}
	}
	return best
}

// hasNumber reports whether a cell of a row is a number, in any of the usual ways.
func hasNumber(rows *table.Rows, i int) bool {
	for j := range rows.Row(i) {
		if isNumber(rows, i, j) {
			return true
		}
	}
	return false
}

// isNumber reports whether a cell is one.
func isNumber(rows *table.Rows, i, j int) bool {
	text := value.Trim(rows.Text(rows.Row(i)[j]))
	if len(text) == 0 || rows.Kind(i, j) == table.NumberCell {
		return len(text) > 0
	}
	return slices.ContainsFunc(value.Styles[:2], func(s value.Style) bool { _, _, ok := s.Number(text); return ok })
}
