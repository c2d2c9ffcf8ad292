package fact_test

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// number reads a cell as a number.
func (r *reading) number(c cell) (value.Decimal, string, bool) {
	reading := r.e.Reading
	if c.kind == table.NumberCell {
		reading = value.Default
	}
	return reading.Number([]byte(c.text))
}

func (r *reading) isMeasure(row []cell) bool {
	for i, c := range row {
		if _, is := r.measure[i]; !is || !c.filled() {
			continue
		}
		if _, _, ok := r.number(c); ok || c.kind == table.FormulaCell {
			return true
		}
		if g := value.GapOf(c.trimmed()); g == value.Unclear || g == value.Error {
			return true
		}
	}
	return false
}

// correct puts answers in the place of cells.
func (s *second) correct(r *reading) {
	for i := r.at + 1; i < len(r.s.rows); i++ {
		for n := len(r.s.rows[i]); n > 0 && n < len(r.header) && (r.s.name != "" || r.e.FillShort); n++ {
			r.s.rows[i] = append(r.s.rows[i], cell{})
		}
		for j := range r.s.rows[i] {
			if j >= len(r.header) {
				continue
			}
			k := fmt.Sprintf("%s|%s|%d|%s", r.s.file, r.s.name, i+1, key.Of(r.header[j]))
			if fix, is := s.fixes[k]; is {
				s.used[k] = true
				if r.s.rows[i][j].trimmed() != value.TrimText(fix[0]) {
					s.stop("correction", "", 1)
					continue
				}
				r.s.rows[i][j] = cell{text: fix[1]}
			}
		}
	}
}

// labels are the texts of a row that are no number and no date.
func (r *reading) labels(row []cell) (out []string) {
	for j, c := range row {
		text := c.trimmed()
		if text == "" || j == r.figure || c.kind == table.NumberCell || c.kind == table.DateCell {
			continue
		}
		if _, among := r.e.Labels.Says(text); among || r.e.Reading.IsLabel(text) {
			out = append(out, text)
		}
	}
	return out
}

// totalLabel is the label by which a row is a total row, "" for none.
func (s *second) totalLabel(r *reading, row []cell) string {
	if r.e.Totals == plan.Keep {
		return ""
	}
	labels := r.labels(row)
	for _, l := range labels {
		if r.e.Labels.Alone(l) {
			return l
		}
	}
	for _, l := range labels {
		if _, among := r.e.Labels.Says(l); !among {
			continue
		}
		if s.known(l) {
			return ""
		}
		for _, o := range labels {
			for _, w := range strings.Fields(key.Of(o)) {
				if o != l && !slices.Contains(strings.Fields(key.Of(l)), w) {
					return ""
				}
			}
		}
		return l
	}
	return ""
}

func (r *reading) out(s *second, i int, reason string) {
	r.count[reason]++
	s.leftOut = append(s.leftOut, fmt.Sprintf("%s,%s,%d,,%s", r.s.file, r.s.name, i+1, reason))
}

// usedRow is a row that is used, or a total row among them.
type usedRow struct {
	i     int
	total string // its label
}

// sortRows tells blank rows, sections, footnotes, repeated headers, total rows, rows that
// are too short and rows that stand again from those that are used.
func (s *second) sortRows(r *reading) (used []usedRow, headings map[int]string) {
	headings = map[int]string{}
	deepest, section := -1, ""
	for i := r.at + 1; i < len(r.s.rows); i++ {
		if r.isMeasure(r.s.rows[i]) {
			deepest = i
		}
	}
	seen, above := map[string]bool{}, map[string]bool{} // rows; column and key of labels
	for i := r.at + 1; i < len(r.s.rows); i++ {
		row := r.s.rows[i]
		r.count["read"]++
		switch why, text := s.aside(r, i, deepest, above); why {
		case "":
		case "total":
			r.out(s, i, why)
			used = append(used, usedRow{i, text})
			continue
		case "section":
			section = text
			fallthrough
		default:
			r.out(s, i, why)
			continue
		}
		for j := len(row); j < len(r.header) && (r.s.name != "" || r.e.FillShort); j++ {
			row = append(row, cell{})
		}
		r.s.rows[i] = row
		if len(row) < len(r.header) {
			s.stop("short row", "", 1)
			continue
		}
		if slices.ContainsFunc(row[len(r.header):], cell.filled) {
			s.stop("cell without a header", "", 1)
			continue
		}
		var k []string
		for _, c := range row {
			k = append(k, c.trimmed())
		}
		all := strings.TrimRight(strings.Join(k, "\x00"), "\x00")
		if r.e.SameRows == plan.Drop && seen[all] {
			r.out(s, i, "same row")
			continue
		}
		seen[all] = true
		r.count["used"]++
		for ci, src := range r.source {
			if src.from == "label" && !s.p.Columns[ci].Kind.Numeric() && row[src.index].trimmed() != "" {
				above[fmt.Sprint(src.index, key.Of(row[src.index].trimmed()))] = true
			}
		}
		headings[i] = section
		used = append(used, usedRow{i: i})
	}
	return used, headings
}

// aside is why a row is none of data, "" where it is one, and the text that says so.
func (s *second) aside(r *reading, i, deepest int, above map[string]bool) (why, text string) {
	row, one, column := r.s.rows[i], "", -1
	for j, c := range row {
		if c.filled() {
			one, column = c.trimmed(), j
		}
	}
	switch n := filled(row); {
	case n == 0:
		return "blank", ""
	case n > 1 || len(r.measure) == 0:
	case r.e.Sections != "" && i < deepest && r.e.Reading.IsLabel(one) && !r.isMeasure(row):
		return "section", one
	case i > deepest && r.e.Footnotes != plan.Keep && !above[fmt.Sprint(column, key.Of(one))] && !s.inBook(r, column, one):
		return "footnote", one
	}
	same := len(row) >= len(r.header)
	for j, c := range row {
		h := ""
		if j < len(r.header) {
			h = r.header[j]
		}
		same = same && key.Of(c.trimmed()) == key.Of(h)
	}
	if same {
		return "repeated header", ""
	}
	if label := s.totalLabel(r, row); label != "" {
		return "total", label
	}
	return "", ""
}

// inBook reports whether the book of the column that claims a cell has a label.
func (s *second) inBook(r *reading, column int, label string) bool {
	for ci, src := range r.source {
		if src.from == "label" && src.index == column && s.books[ci] != nil {
			if _, _, ok := s.books[ci].Find(label); ok {
				return true
			}
		}
	}
	return false
}
