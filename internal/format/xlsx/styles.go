package xlsx

import (
	"strings"

	"github.com/xuri/excelize/v2"

	"umbau/internal/core/table"
)

// styles are those of a workbook.
type styles struct {
	bold, right, text, note, date, month, year, whole int
	numbers                                           map[int]int // by places
	strong                                            map[int]int // the same in bold
}

func newStyles(book *excelize.File, columns []table.SinkColumn) (out styles, err error) {
	style := func(st excelize.Style) int {
		id, e := book.NewStyle(&st)
		if e != nil {
			err = e
		}
		return id
	}
	format := func(text string) int { return style(excelize.Style{CustomNumFmt: &text}) }
	bold := excelize.Style{Font: &excelize.Font{Bold: true, Family: "Calibri", Size: 11}}
	out.bold = style(bold)
	bold.Alignment = &excelize.Alignment{Horizontal: "right"}
	out.right = style(bold)
	left := func(text string) int {
		return style(excelize.Style{CustomNumFmt: &text, Alignment: &excelize.Alignment{Horizontal: "left"}})
	}
	out.year, out.date, out.month = left("0"), left("yyyy-mm-dd"), left("yyyy-mm")
	out.text, out.whole = format("@"), format("#,##0")
	out.note = style(excelize.Style{Alignment: &excelize.Alignment{Horizontal: "left", Indent: 2}})
	out.numbers, out.strong = map[int]int{-1: 0}, map[int]int{}
	for _, c := range columns {
		if _, known := out.numbers[c.Decimals]; !known && c.Is == "number" {
			places := ""
			if c.Decimals > 0 {
				places = "." + strings.Repeat("0", c.Decimals)
			}
			out.numbers[c.Decimals] = format("#,##0" + places)
		}
	}
	return out, err
}

// strong is a style in bold.
func (s *sink) strong(id int) (int, error) {
	if bold, known := s.styles.strong[id]; known {
		return bold, nil
	}
	style, err := s.book.GetStyle(id)
	if err != nil {
		return 0, err
	}
	style.Font = &excelize.Font{Bold: true, Family: "Calibri", Size: 11}
	bold, err := s.book.NewStyle(style)
	s.styles.strong[id] = bold
	return bold, err
}

func (s *sink) styleOf(c table.SinkColumn) int {
	switch c.Is {
	case "date":
		return s.styles.date
	case "month":
		return s.styles.month
	case "number":
		return s.styles.numbers[c.Decimals]
	case "year":
		return s.styles.year
	}
	return s.styles.whole
}
