package messy

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
)

// bound is what is done to the sheet that a table is put into instead of a text file.
type bound struct {
	name string
	do   func(b *binding)
}

// binding is a table on its way into a sheet.
type binding struct {
	*rand.Rand
	s            *style
	rows         [][]string
	head         int // the header row
	right, below int // where the table begins
	asText       func(i, k int) bool
	asDates      bool
	format       string // of figures
	after        []func(book *excelize.File, sheet string)
}

// at is the place of a cell.
func (b *binding) at(i, k int) string {
	cell, _ := excelize.CoordinatesToCellName(b.right+k+1, b.below+i+1)
	return cell
}

// stored is what a cell holds: a number, a day, or a text.
func (b *binding) stored(i, k int) any {
	text := b.rows[i][k]
	if b.asText != nil && b.asText(i, k) {
		return text
	}
	if n, ok := b.s.cents(text); ok && i > b.head {
		return float64(n) / 100
	}
	if n, ok := pieces(text); ok && i > b.head {
		return n
	}
	if b.asDates {
		if day, ok := monthsOf[text]; ok {
			return day
		}
	}
	return text
}

// pieces reads a whole number, grouped or not.
func pieces(text string) (n int, ok bool) {
	n, err := strconv.Atoi(strings.NewReplacer(",", "", ".", "", " ", "").Replace(text))
	return n, err == nil && len(text) < 6
}

// monthsOf are the months that a delivery can be of, as offices write them.
var monthsOf = func() map[string]time.Time {
	out := map[string]time.Time{}
	for day := time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC); day.Year() < 2030; day = day.AddDate(0, 1, 0) {
		for dates := range 3 {
			out[(&style{dates: dates}).month(day.Format("2006-01"))] = day
		}
	}
	return out
}()

// bind makes a workbook of a table.
func bind(r *rand.Rand, s *style, rows [][]string, how *bound) []byte {
	b := &binding{Rand: r, s: s, rows: rows, head: headAt(rows)}
	if how != nil {
		how.do(b)
	}
	book := excelize.NewFile()
	sheet := "Sheet1"
	for i, row := range b.rows {
		for k := range row {
			v := b.stored(i, k)
			if v == "" {
				continue
			}
			_ = book.SetCellValue(sheet, b.at(i, k), v)
			if day, ok := v.(time.Time); ok {
				b.style(book, sheet, i, k, []string{"mmm-yy", "mmmm yyyy", "yyyy-mm-dd", "dd/mm/yyyy", "mm\\-yyyy"}[day.Year()%5])
			} else if _, text := v.(string); !text && b.format != "" {
				b.style(book, sheet, i, k, b.format)
			}
		}
	}
	for _, do := range b.after {
		do(book, sheet)
	}
	out, err := book.WriteToBuffer()
	if err != nil {
		panic(err)
	}
	return out.Bytes()
}

// style gives a cell a number format.
func (b *binding) style(book *excelize.File, sheet string, i, k int, format string) {
	id, _ := book.NewStyle(&excelize.Style{CustomNumFmt: &format})
	_ = book.SetCellStyle(sheet, b.at(i, k), b.at(i, k), id)
}

// figureColumns are the columns of amounts.
func (b *binding) figureColumns() (out []int) {
	for k := range b.rows[b.head] {
		n := 0
		for _, row := range b.rows[b.head+1:] {
			if _, ok := b.s.cents(row[k]); ok {
				n++
			}
		}
		if n > 0 {
			out = append(out, k)
		}
	}
	return out
}

// beside puts a column behind the table.
func (b *binding) beside(head string, cell func(i int) string) {
	for i := range b.rows {
		text := ""
		if i == b.head {
			text = head
		} else if i > b.head && b.filled(i) > 1 {
			text = cell(i)
		}
		b.rows[i] = append(slices.Clone(b.rows[i]), text)
	}
}

func (b *binding) filled(i int) (n int) {
	for _, c := range b.rows[i] {
		if c != "" {
			n++
		}
	}
	return n
}

var bounds = []bound{
	{"figures as texts", func(b *binding) { b.asText = func(i, k int) bool { return true } }},
	{"a row of texts", func(b *binding) {
		own := b.head + 1 + b.IntN(max(1, len(b.rows)-b.head-1))
		b.asText = func(i, k int) bool { return i == own }
	}},
	{"a column of texts", func(b *binding) {
		own := b.IntN(len(b.rows[b.head]))
		b.asText = func(i, k int) bool { return k == own }
	}},
	{"days", func(b *binding) { b.asDates = true }},
	{"not at the corner", func(b *binding) { b.right, b.below = b.IntN(3), b.IntN(5) }},
	{"merged labels", func(b *binding) {
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			first := b.head + 1
			for i := first + 1; i <= len(b.rows); i++ {
				if i < len(b.rows) && b.rows[i][0] == b.rows[first][0] && b.filled(i) > 1 {
					continue
				}
				if i-first > 1 && b.rows[first][0] != "" {
					for j := first + 1; j < i; j++ {
						_ = book.SetCellValue(sheet, b.at(j, 0), nil)
					}
					_ = book.MergeCell(sheet, b.at(first, 0), b.at(i-1, 0))
				}
				first = i
			}
		})
	}},
	{"a merged title", func(b *binding) {
		b.rows = slices.Insert(b.rows, 0, append([]string{"Halyard & Moss, sales of the coast"}, make([]string, len(b.rows[b.head])-1)...))
		b.head++
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			_ = book.MergeCell(sheet, b.at(0, 0), b.at(0, len(b.rows[0])-1))
		})
	}},
	{"total by formula", func(b *binding) {
		row := sums(b.s, b.rows, func(k int) string {
			if k == 0 {
				return some(b.Rand, "Total", "Summe", "", "Check")
			}
			return ""
		})
		own := len(b.rows)
		b.rows = append(b.rows, row)
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			for k := range row {
				if _, ok := b.s.cents(row[k]); ok {
					_ = book.SetCellFormula(sheet, b.at(own, k), fmt.Sprintf("SUM(%s:%s)", b.at(b.head+1, k), b.at(own-1, k)))
				}
			}
		})
	}},
	{"currency formats", func(b *binding) {
		b.format = some(b.Rand, `#,##0.00\ "EUR"`, `#,##0.00\ [$€-407]`, `[$£-809]#,##0.00`, `#,##0.00_);(#,##0.00)`, `0`, `0.0,`)
	}},
	{"a hidden sheet", func(b *binding) { b.another(some(b.Rand, "old", "Sheet2", "calc", "Backup"), 50, true) }},
	{"another sheet", func(b *binding) {
		b.another(some(b.Rand, "old", "Sheet2", "Backup", "Budget", "Copy of Sheet1", "Tabelle1"), 50, false)
	}},
	{"the same sheet twice", func(b *binding) { b.another(some(b.Rand, "Sheet1 (2)", "Print", "Sheet2", "Report"), 100, false) }},
	{"a sheet of sums", func(b *binding) {
		columns := b.figureColumns()
		total := sums(b.s, b.rows, func(int) string { return "" })
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			name := some(b.Rand, "Summary", "Pivot", "Chart data", "Sums", "Overview")
			_, _ = book.NewSheet(name)
			_ = book.SetSheetRow(name, "A1", &[]any{"Row Labels", "Sum of Amount"})
			for i, k := range columns {
				n, _ := b.s.cents(total[k])
				_ = book.SetSheetRow(name, fmt.Sprintf("A%d", i+2), &[]any{b.rows[b.head][k], float64(n) / 100})
			}
		})
	}},
	{"notes", func(b *binding) {
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			name := some(b.Rand, "Notes", "Read me", "Hinweise")
			_, _ = book.NewSheet(name)
			_ = book.SetSheetRow(name, "A1", &[]any{"Figures are net of tax"})
			_ = book.SetSheetRow(name, "A3", &[]any{"Prepared by", "Ines", 2024})
		})
	}},
	{"a table to the right", func(b *binding) {
		b.beside("", func(int) string { return "" })
		width, columns := len(b.rows[b.head]), b.figureColumns()
		total := sums(b.s, b.rows, func(int) string { return "" })
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			_ = book.SetSheetRow(sheet, b.at(b.head, width), &[]any{"Product", "Sum"})
			for i, k := range columns {
				n, _ := b.s.cents(total[k])
				_ = book.SetSheetRow(sheet, b.at(b.head+1+i, width), &[]any{b.rows[b.head][k], float64(n) / 100})
			}
		})
	}},
	{"a figure far away", func(b *binding) {
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			_ = book.SetCellValue(sheet, b.at(b.head+b.IntN(len(b.rows)+8), len(b.rows[b.head])+1+b.IntN(3)), 4711.25)
		})
	}},
	{"a note far away", func(b *binding) {
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			row := b.head + 1 + b.IntN(len(b.rows)+8) // in the row of the headers it would be one
			_ = book.SetCellValue(sheet, b.at(row, len(b.rows[b.head])+1+b.IntN(3)), "ask Ines")
		})
	}},
	{"hidden rows", func(b *binding) {
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			for i := b.head + 1; i < len(b.rows); i += 2 + b.IntN(2) {
				_ = book.SetRowVisible(sheet, b.below+i+1, false)
			}
		})
	}},
	{"formats below", func(b *binding) {
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			for i := range 30 {
				b.style(book, sheet, len(b.rows)+i, b.IntN(len(b.rows[b.head])+3), "0.00")
			}
		})
	}},
	{"shares", func(b *binding) {
		columns := b.figureColumns()
		if len(columns) == 0 {
			return
		}
		k := columns[len(columns)-1]
		b.beside(some(b.Rand, "Share", "Share %", "% of total", "Anteil", "Growth", "Δ %"), func(i int) string {
			n, _ := b.s.cents(b.rows[i][k])
			return fmt.Sprintf("%d.%d%%", n%70, n%10)
		})
	}},
	{"ranks", func(b *binding) {
		b.beside(some(b.Rand, "Rank", "Rang", "Pos"), func(i int) string { return fmt.Sprint(1 + (i*7)%23) })
	}},
	{"other figures beside", func(b *binding) {
		columns := b.figureColumns()
		if len(columns) == 0 {
			return
		}
		k := columns[len(columns)-1]
		name := some(b.Rand, "Last year", "Previous year", "Vorjahr", "Budget", "Target", "Plan", "Cost", "Tax", "Discount", "VAT", "LY")
		b.beside(name, func(i int) string {
			n, ok := b.s.cents(b.rows[i][k])
			if !ok {
				return ""
			}
			return b.s.number(n*83/100, true)
		})
	}},
	{"header breaks", func(b *binding) {
		for k := range b.rows[b.head] {
			b.rows[b.head][k] = strings.ReplaceAll(b.rows[b.head][k], " ", "\n")
		}
	}},
	{"a table of the program", func(b *binding) {
		seen := map[string]int{}
		b.rows[b.head] = slices.Clone(b.rows[b.head])
		for k, h := range b.rows[b.head] { // each header stands once there
			if h == "" {
				h = fmt.Sprintf("Column%d", k+1)
			}
			if seen[h]++; seen[h] > 1 {
				b.rows[b.head][k] = fmt.Sprintf("%s%d", h, seen[h])
			}
		}
		b.after = append(b.after, func(book *excelize.File, sheet string) {
			_ = book.AddTable(sheet, &excelize.Table{Range: b.at(b.head, 0) + ":" + b.at(len(b.rows)-1, len(b.rows[b.head])-1), Name: "Sales"})
		})
	}},
}

// another puts a sheet beside that has the same table, with part of its figures.
func (b *binding) another(name string, part int, hidden bool) {
	b.after = append(b.after, func(book *excelize.File, sheet string) {
		_, _ = book.NewSheet(name)
		for i, row := range b.rows {
			for k := range row {
				v := b.stored(i, k)
				if f, ok := v.(float64); ok {
					v = float64(int(f*100)*part/100) / 100
				}
				if v != "" {
					_ = book.SetCellValue(name, b.at(i, k), v)
				}
			}
		}
		if hidden {
			_ = book.SetSheetVisible(name, false)
		}
	})
}

// TryBound makes a delivery in a folder whose text files are workbooks, drafts its plan and builds with it; something is done to their
// sheets before the draft or, with later, behind it.
func TryBound(ctx context.Context, dir string, seed uint64, hard int, asked Asked, later bool) Tried {
	r := rand.New(rand.NewPCG(seed, 35))
	how := bounds[r.IntN(len(bounds))]
	return tryTwice(ctx, dir, asked, later, func(hurt bool) (*Delivery, error) {
		m := newMaker(dir, seed, hard, nil)
		own, done := rand.New(rand.NewPCG(seed, 36)), &how
		if !hurt {
			done = nil
		}
		m.bind = func(s *style, rows [][]string) []byte { return bind(own, s, rows, done) }
		d, err := m.make(&change{seed: seed, style: -1})
		if err == nil && hurt {
			d.About = append(d.About, "sheets: "+how.name)
		}
		return d, err
	})
}
