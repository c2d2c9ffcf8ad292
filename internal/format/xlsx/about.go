package xlsx

import (
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// aboutSheet says what the other one holds.
const aboutSheet = "About"

// writeAbout writes the sheet that says what the rows are.
func (s *sink) writeAbout() error {
	if _, err := s.book.NewSheet(aboutSheet); err != nil {
		return err
	}
	if err := onPaper(s.book, aboutSheet); err != nil {
		return err
	}
	var lines [][]any
	bold := func(text string) any { return excelize.Cell{StyleID: s.styles.bold, Value: text} }
	if s.title != "" {
		lines = append(lines, []any{bold(s.title)}, nil)
	}
	right := func(text string) any { return excelize.Cell{StyleID: s.styles.right, Value: text} }
	lines = append(lines, []any{"rows", excelize.Cell{StyleID: s.styles.whole, Value: s.rows}}, nil,
		[]any{bold("column"), bold("is"), right("decimals"), right("total"), bold("   note")})
	for i, c := range s.columns {
		line := []any{c.Name, c.Is, nil, nil, excelize.Cell{StyleID: s.styles.note, Value: c.Note}}
		if c.Is == "number" && c.Decimals >= 0 {
			line[2] = c.Decimals
		}
		if c.Add {
			line[3] = s.total(s.sums[i].Total(), c)
		}
		lines = append(lines, line)
	}
	return s.writeLines(lines)
}

// writeLines writes the few lines of the sheet. A second stream would stand in the file in
// any order.
func (s *sink) writeLines(lines [][]any) error {
	for i, width := range []float64{24, 12, 10, 20, 60} {
		letter := string(rune('A' + i))
		if err := s.book.SetColWidth(aboutSheet, letter, letter, width); err != nil {
			return err
		}
	}
	for i, line := range lines {
		for j, v := range line {
			at := string(rune('A'+j)) + strconv.Itoa(i+1)
			style := 0
			if c, ok := v.(excelize.Cell); ok {
				v, style = c.Value, c.StyleID
			}
			if v == nil || v == "" {
				continue
			}
			if err := s.book.SetCellValue(aboutSheet, at, v); err != nil {
				return err
			}
			if err := s.book.SetCellStyle(aboutSheet, at, at, style); err != nil {
				return err
			}
		}
	}
	return nil
}

// total is a sum as a cell: as text where a number would lose digits.
func (s *sink) total(sum value.Decimal, c table.SinkColumn) any {
	if coef, places, ok := sum.Shorten().Small(); ok && coef > -1e15 && coef < 1e15 {
		style := s.styles.whole
		if c.Is == "number" {
			style = s.styles.numbers[c.Decimals]
		}
		return excelize.Cell{StyleID: style, Value: float64(coef) / float64(value.Power(places))}
	}
	return sum.String()
}

// onPaper lets a sheet print as wide as a page, with its header on each.
func onPaper(book *excelize.File, sheet string) error {
	if err := book.SetSheetDimension(sheet, ""); err != nil { // how large it is nobody knows yet
		return err
	}
	fit, landscape, wide, high := true, "landscape", 1, 0
	if err := book.SetSheetProps(sheet, &excelize.SheetPropsOptions{FitToPage: &fit}); err != nil {
		return err
	}
	if err := book.SetPageLayout(sheet, &excelize.PageLayoutOptions{Orientation: &landscape, FitToWidth: &wide,
		FitToHeight: &high}); err != nil {
		return err
	}
	return book.SetDefinedName(&excelize.DefinedName{Name: "_xlnm.Print_Titles", Scope: sheet,
		RefersTo: "'" + strings.ReplaceAll(sheet, "'", "''") + "'!$1:$1"})
}
