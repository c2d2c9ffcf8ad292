package layout

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// threeRows is the last of three header rows, -1 where there are none: rows of texts alone, just above the first row with figures. Each
// says something of every column of figures, the upper ones carried right, and together they tell them apart as two of them do not, or
// the uppermost says several things, or a year. Other columns have one label in all.
func threeRows(rows *table.Rows) (bottom int) {
	data, figures := firstFigures(rows)
	for bottom = data - 1; bottom >= 0 && filledCells(rows, bottom, -1) < 2; {
		bottom--
	}
	for bottom >= 2 && len(figures) > 0 && oneLabel(rows, bottom, figures[0]) { // numbers of things
		figures = figures[1:]
	}
	if bottom < 2 || len(figures) < 3 {
		return -1
	}
	var labels [3][]string
	for k := range labels {
		i := bottom - 2 + k
		if filled, texts := looks(rows, i); filled == 0 || filled != texts {
			return -1
		}
		labels[k] = labelsAbove(rows, i, figures, k < 2)
	}
	for j := range len(rows.Row(bottom)) {
		if _, figure := slices.BinarySearch(figures, j); !figure && !oneLabel(rows, bottom, j) {
			return -1
		}
	}
	seen := map[string]bool{}
	twice := false
	for n := range figures {
		all := []string{labels[0][n], labels[1][n], labels[2][n]}
		if slices.ContainsFunc(all, func(t string) bool { return new(value.Totals).Alone(t) }) {
			continue
		}
		three, two := strings.Join(all, "\x00"), strings.Join(all[1:], "\x00")
		if slices.Contains(all, "") || seen["3"+three] {
			return -1
		}
		twice = twice || seen["2"+two]
		seen["3"+three], seen["2"+two] = true, true
	}
	years := isYear(labels[0][0]) || isYear(labels[1][0])
	if twice || years || slices.ContainsFunc(labels[0], func(t string) bool { return t != labels[0][0] }) {
		return bottom
	}
	return -1
}

// firstFigures is the first row with more than a label in which a cell is a number and no year, and which columns hold numbers there, or a
// little below; -1 where there is none.
func firstFigures(rows *table.Rows) (row int, figures []int) {
	for i := range rows.Len() {
		if filled, texts := looks(rows, i); filled < 2 || filled == texts || !hasNumber(rows, i) {
			continue
		}
		return i, figuresFrom(rows, i)
	}
	return -1, nil
}

// figuresFrom are the columns, in order, that hold a number in a row or a little below.
func figuresFrom(rows *table.Rows, row int) (figures []int) {
	const little = 20
	has := map[int]bool{}
	for i := row; i < min(row+little, rows.Len()); i++ {
		for j := range rows.Row(i) {
			if !has[j] && isNumber(rows, i, j) {
				has[j], figures = true, append(figures, j)
			}
		}
	}
	slices.Sort(figures)
	return figures
}

// isYear reports whether a text is a year of four figures and nothing else.
func isYear(text string) bool {
	_, year := value.Default.Year(text)
	return year && len(text) == 4
}

// labelsAbove is what a row says of some columns, by the key; carried right over blank cells from the first of them on, if it is to be.
func labelsAbove(rows *table.Rows, i int, columns []int, carry bool) (out []string) {
	label := ""
	for j := columns[0]; j <= columns[len(columns)-1]; j++ {
		own := textAt(rows, i, j)
		if own != "" || !carry {
			label = own
		}
		if columns[len(out)] == j {
			out = append(out, label)
		}
	}
	return out
}

// textAt is a cell by the key, "" for one that the row does not have.
func textAt(rows *table.Rows, i, j int) string {
	row := rows.Row(i)
	if j >= len(row) {
		return ""
	}
	return key.Of(string(rows.Text(row[j])))
}

// oneLabel reports whether a column has one label at most in three header rows.
func oneLabel(rows *table.Rows, bottom, j int) bool {
	label := ""
	for i := bottom - 2; i <= bottom; i++ {
		own := textAt(rows, i, j)
		if own != "" && label != "" && own != label {
			return false
		}
		if own != "" {
			label = own
		}
	}
	return true
}
