package messy

import (
	"archive/zip"
	"bytes"
	"fmt"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"
)

// Further layouts, of offices that go their own way.

func init() {
	layoutsOf = append(layoutsOf, layout{"workbook, a sheet a region", bookRegions}, layout{"archive of long files", archive},
		layout{"months across, with totals and notes", wideMonthsTotals}, layout{"long, days", longDays},
		layout{"all regions in one wide file", wideAll})
	layoutsOfTwo = append(layoutsOfTwo, layout{"measures in rows", measureRows}, layout{"measures side by side", sideBySide})
}

// bookRegions is one workbook with a sheet a region, months across, and a sheet that is none.
func bookRegions(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates %= 2
	book := excelize.NewFile()
	for i, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, months := grid(facts), distinct(facts, monthOf)
		rows := [][]any{{s.branch, s.product}}
		for _, month := range months {
			rows[0] = append(rows[0], s.month(month))
		}
		for _, b := range distinct(facts, branchOf) {
			for _, p := range distinct(facts, productOf) {
				row := []any{b, m.spelt(&s, p)}
				for _, month := range months {
					row = append(row, m.bookCell(&s, at[b+"|"+month+"|"+p]))
				}
				rows = append(rows, row)
			}
		}
		if err := sheet(book, i, r, rows); err != nil {
			return err
		}
	}
	if err := sheet(book, len(own), "Read me", [][]any{{"Ask Ines before you change anything."}}); err != nil {
		return err
	}
	return m.writeBook(fmt.Sprintf("raw/%s/sales.xlsx", folder), book)
}

// archive is a zip archive of long files, one a region.
func archive(m *maker, folder string, own []string) error {
	s := m.newStyle()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, r := range own {
		rows := [][]string{m.longHead(&s, false, true)}
		for _, f := range m.of(func(f *fact) bool { return f.region == r }) {
			rows = append(rows, m.longRow(&s, f, false, true))
		}
		text := s.text(m.around(&s, rows, nil, nil))
		w, err := z.Create(called(r+".csv", text))
		if err != nil {
			return err
		}
		if _, err := w.Write(text); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	return m.write("raw/"+folder+"/ledgers.zip", b.Bytes())
}

// wideMonthsTotals has months across, a column of totals, a row of totals after each branch and
// a column nobody wants.
func wideMonthsTotals(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates %= 2
	s.gaps = false
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, months := grid(facts), distinct(facts, monthOf)
		head := []string{s.branch, s.product, m.unwantedHeader(&s)}
		for _, month := range months {
			head = append(head, s.month(month))
		}
		rows := [][]string{append(head, s.total)}
		for _, b := range distinct(facts, branchOf) {
			sums := make([]int, len(months)+1)
			for _, p := range distinct(facts, productOf) {
				row, sum := []string{b, m.spelt(&s, p), m.unwantedCell()}, 0
				for i, month := range months {
					f := at[b+"|"+month+"|"+p]
					row = append(row, s.number(f.amount, true))
					sum += f.amount
					sums[i] += f.amount
				}
				sums[len(months)] += sum
				rows = append(rows, append(row, s.number(sum, true)))
			}
			row := []string{s.total + " " + b, "", ""}
			for _, n := range sums {
				row = append(row, s.number(n, true))
			}
			rows = append(rows, row)
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s sales.csv", folder, r), s.text(m.around(&s, rows, nil, nil))); err != nil {
			return err
		}
	}
	return nil
}

// longDays has the last day of each month, and a file for all regions.
func longDays(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates = 2
	rows := [][]string{m.longHead(&s, true, true)}
	for _, f := range m.of(func(f *fact) bool { return slices.Contains(own, f.region) }) {
		rows = append(rows, m.longRow(&s, f, true, true))
	}
	return m.write("raw/"+folder+"/all.csv", s.text(m.around(&s, rows, nil, nil)))
}

// wideAll has all regions in one file, products across, in shuffled order of columns.
func wideAll(m *maker, folder string, own []string) error {
	s := m.newStyle()
	all := m.of(func(f *fact) bool { return slices.Contains(own, f.region) })
	goods := distinct(all, productOf)
	rows := [][]string{append([]string{s.month_(), s.region, s.branch}, goods...)}
	at := map[string]*fact{}
	for _, f := range all {
		at[f.region+"|"+f.branch+"|"+f.month+"|"+f.product] = f
	}
	for _, r := range own {
		for _, b := range distinct(m.of(func(f *fact) bool { return f.region == r }), branchOf) {
			for _, month := range m.months {
				row := []string{s.month(month), r, b}
				for _, p := range goods {
					row = append(row, m.cell(&s, at[r+"|"+b+"|"+month+"|"+p], true))
				}
				rows = append(rows, row)
			}
		}
	}
	return m.write("raw/"+folder+"/overview.csv", s.text(m.around(&s, rows, nil, nil)))
}

// measureRows says in a column what the cell of a row is.
func measureRows(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.gaps = false
	for _, r := range own {
		rows := [][]string{{s.branch, s.month_(), s.product, "Measure", "Value"}}
		for _, f := range m.of(func(f *fact) bool { return f.region == r }) {
			p := m.spelt(&s, f.product)
			rows = append(rows, []string{f.branch, s.month(f.month), p, s.quantity, s.number(f.quantity, false)},
				[]string{f.branch, s.month(f.month), p, s.amount, s.number(f.amount, true)})
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// sideBySide has two measures for each product in one header row.
func sideBySide(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, goods := grid(facts), distinct(facts, productOf)
		head := []string{s.branch, s.month_()}
		for _, p := range goods {
			head = append(head, s.quantity+" "+p, s.amount+" "+p)
		}
		rows := [][]string{head}
		for _, b := range distinct(facts, branchOf) {
			for _, month := range distinct(facts, monthOf) {
				row := []string{b, s.month(month)}
				for _, p := range goods {
					f := at[b+"|"+month+"|"+p]
					row = append(row, m.cell(&s, f, false), m.cell(&s, f, true))
				}
				rows = append(rows, row)
			}
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, strings.ToUpper(r[:1])+r[1:]), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}
