package plan

import (
	"regexp"
	"strconv"
	"strings"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// How the tables of an entry are written and laid out; control files are read alike.

// sheets reads which sheets of workbooks an entry takes, and how text files are
// written.
func (r *reader) sheets(e *Entry, m map[string]node) {
	set(m, "sheets", r.patterns, &e.Sheets)
	set(m, "except_sheets", r.patterns, &e.ExceptSheets)
	set(m, "sheet", r.pattern, &e.Sheet)
	if v, ok := m["encoding"]; ok {
		e.Encoding = r.word(v, extractKeys, "encoding")
	}
	if v, ok := m["delimiter"]; ok {
		e.Delimiter = r.text(v, "delimiter")
		if _, ok := table.DelimiterOf(e.Delimiter); !ok && v.kind == scalar {
			r.fail(v.pos, "delimiter: %s is none of comma, semicolon, tab, pipe", v.describe())
		}
	}
}

// reading reads how numbers and dates of an entry are written.
func (r *reader) reading(e *Entry, m map[string]node) {
	e.Reading = value.Default
	e.Reading.Calendar = r.calendarOf
	if v, ok := m["numbers"]; ok {
		for i, item := range itemsOf(v) {
			style, ok := value.StyleOf(r.text(item, "numbers"))
			if !ok && item.kind == scalar {
				r.fail(item.pos, "numbers is an example of how they are written, such as 1.234,56 or 1 234,56, not %s", item.describe())
			}
			if i == 0 {
				e.Reading.Numbers = style
			} else {
				e.Reading.Also = append(e.Reading.Also, style)
			}
		}
		if v.kind == list && len(v.items) == 0 {
			r.fail(v.pos, "numbers is an empty list")
		}
	}
	if v, ok := m["dates"]; ok {
		for _, item := range itemsOf(v) {
			form, ok := value.DateFormOf(r.text(item, "dates"))
			e.Reading.Dates = append(e.Reading.Dates, form)
			switch {
			case ok || item.kind != scalar:
			case form.Example == "":
				r.fail(item.pos, "dates: %s can be read in two ways; take a day after the 12th, such as 31/12/2024", item.describe())
			default:
				r.fail(item.pos, "dates is an example of how they are written, such as 31/12/2024, 20241231 or 12/2024, not %s", item.describe())
			}
		}
	}
}

// layout reads how the tables of an entry are laid out.
func (r *reader) layout(e *Entry, m map[string]node) {
	set(m, "titles", r.patterns, &e.Titles)
	if v, ok := m["header"]; ok {
		e.Header = r.header(v)
	}
	if v, ok := m["area"]; ok {
		e.Area = r.area(v)
	}
	set(m, "sections", r.text, &e.Sections)
	if v, ok := m["short_rows"]; ok {
		e.FillShort = r.word(v, extractKeys, "short_rows") == "fill"
	}
	e.Totals, e.Footnotes = Tie, Drop
	if v, ok := m["totals"]; ok {
		e.Totals = remedies[r.word(v, extractKeys, "totals")]
	}
	e.Labels = value.NewTotals(r.textsOf(m, "total_words"), r.textsOf(m, "no_totals"))
	if v, ok := m["footnotes"]; ok && r.word(v, extractKeys, "footnotes") == "keep" {
		e.Footnotes = Keep
	}
}

func (r *reader) header(n node) Header {
	if n.kind == list {
		return r.headerRows(n)
	}
	switch text := r.text(n, "header"); text {
	case "auto":
	case "none":
		return Header{None: true}
	default:
		if row, err := strconv.Atoi(text); err == nil && row > 0 && row <= 1<<30 {
			return Header{Row: row}
		}
		if rows, found := strings.CutSuffix(strings.TrimSuffix(text, "s"), " row"); found {
			if count, err := strconv.Atoi(strings.TrimSpace(rows)); err == nil && count > 0 && count <= mostHeaderRows {
				return Header{Rows: count}
			}
		}
		if n.kind == scalar {
			r.fail(n.pos, "header is auto, none, the number of a row, a list of them, or 2 rows, not %s", n.describe())
		}
	}
	return Header{}
}

// mostHeaderRows is how many rows a header has at most.
const mostHeaderRows = 20

// headerRows reads a list of rows, from the top.
func (r *reader) headerRows(n node) Header {
	var h Header
	for _, item := range n.items {
		row, err := strconv.Atoi(r.text(item, "header"))
		if err != nil || row < 1 || row > 1<<30 || row <= h.Row {
			r.fail(item.pos, "header: %s is no number of a row below the ones before it", item.describe())
			return Header{}
		}
		if h.Row > 0 {
			h.Above = append(h.Above, h.Row)
		}
		h.Row = row
	}
	if h.Row == 0 {
		r.fail(n.pos, "header is an empty list; name the rows, such as [4, 5]")
	}
	return h
}

var areaForm = regexp.MustCompile(`^([A-Za-z]{1,3})([1-9][0-9]{0,6}):([A-Za-z]{1,3})([1-9][0-9]{0,6})?$`)

// area reads B4:N30, or B4:N which is open below.
func (r *reader) area(n node) *Area {
	m := areaForm.FindStringSubmatch(r.text(n, "area"))
	if m == nil {
		r.fail(n.pos, "area is a part of a sheet such as B4:N30, or B4:N where it is open below, not %s", n.describe())
		return nil
	}
	a := &Area{FirstColumn: columnOf(m[1]), LastColumn: columnOf(m[3])}
	a.FirstRow, _ = strconv.Atoi(m[2])
	a.LastRow, _ = strconv.Atoi(m[4])
	if a.LastColumn < a.FirstColumn || a.LastRow > 0 && a.LastRow < a.FirstRow {
		r.fail(n.pos, "area: %s ends before it begins", n.describe())
	}
	return a
}

// columnOf is the index of the column that letters name: 0 for A, 26 for AA.
func columnOf(letters string) int {
	n := 0
	for _, c := range strings.ToUpper(letters) {
		n = n*26 + int(c-'A') + 1
	}
	return n - 1
}
