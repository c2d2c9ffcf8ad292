package messy

import (
	"fmt"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"
)

// Layouts that say a month in two places, or in its header with the measure, and a thing in the file's name.

func init() {
	both := []layout{{"workbook, a sheet a month", bookMonths}, {"long, year and month apart", yearAndMonth}}
	layoutsOf = append(append(layoutsOf, both...), layout{"months across, a file a product", productFiles},
		layout{"months across below branches", monthsBelowBranches})
	layoutsOfTwo = append(append(layoutsOfTwo, both...), layout{"month and measure in one header", monthAndMeasure})
}

// bookMonths is a workbook a region and year, with a sheet a month that is called by its name alone.
func bookMonths(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates = 1
	for _, r := range own {
		all := m.of(func(f *fact) bool { return f.region == r })
		for _, y := range distinct(all, yearOf) {
			book := excelize.NewFile()
			months := distinct(m.of(func(f *fact) bool { return f.region == r && yearOf(f) == y }), monthOf)
			for i, month := range months {
				rows := [][]any{{s.branch, s.product, s.amount}}
				if m.measures == 2 {
					rows[0] = []any{s.branch, s.product, s.quantity, s.amount}
				}
				for _, f := range m.of(func(f *fact) bool { return f.region == r && f.month == month }) {
					row := []any{f.branch, m.spelt(&s, f.product)}
					if m.measures == 2 {
						row = append(row, f.quantity)
					}
					rows = append(rows, append(row, m.bookCell(&s, f)))
				}
				name, _, _ := strings.Cut(s.month(month), " ")
				if err := sheet(book, i, name, rows); err != nil {
					return err
				}
			}
			if err := m.writeBook(fmt.Sprintf("raw/%s/%s %s.xlsx", folder, r, y), book); err != nil {
				return err
			}
		}
	}
	return nil
}

// yearAndMonth has the year in one column, and the number or the name of the month in another.
func yearAndMonth(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates = m.IntN(2)
	rows := [][]string{append([]string{"Year"}, m.longHead(&s, true, true)...)}
	for _, f := range m.of(func(f *fact) bool { return slices.Contains(own, f.region) }) {
		row := append([]string{f.month[:4]}, m.longRow(&s, f, true, true)...)
		if i := slices.Index(row, s.month(f.month)); s.dates == 1 {
			row[i], _, _ = strings.Cut(row[i], " ")
		} else {
			row[i] = strings.TrimPrefix(f.month[5:], "0")
		}
		rows = append(rows, row)
	}
	return m.write("raw/"+folder+"/ledger.csv", s.text(rows))
}

// productFiles is a file a product, with all regions and months across.
func productFiles(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates %= 2
	all := m.of(func(f *fact) bool { return slices.Contains(own, f.region) })
	for _, p := range distinct(all, productOf) {
		rows := [][]string{{s.region, s.branch}}
		for _, month := range m.months {
			rows[0] = append(rows[0], s.month(month))
		}
		for _, r := range own {
			facts := m.of(func(f *fact) bool { return f.region == r && f.product == p })
			at := grid(facts)
			for _, b := range distinct(facts, branchOf) {
				row := []string{r, b}
				for _, month := range m.months {
					row = append(row, m.cell(&s, at[b+"|"+month+"|"+p], true))
				}
				rows = append(rows, row)
			}
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, p), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// monthsBelowBranches is a file a region, with months across and rows that have a branch alone above its products.
func monthsBelowBranches(m *maker, folder string, own []string) error {
	s := m.newStyle()
	return m.monthsBelow(&s, folder, own, s.product, branchOf, productOf, func(product string) string { return m.spelt(&s, product) })
}

// monthsBelow writes a file a region, with months across and rows of one kind of labels alone above those of another, which are written
// in some way.
func (m *maker) monthsBelow(s *style, folder string, own []string, head string, above, below func(*fact) string,
	written func(label string) string) error {
	s.dates %= 2
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at := map[string]*fact{}
		for _, f := range facts {
			at[above(f)+"|"+f.month+"|"+below(f)] = f
		}
		rows := [][]string{{head}}
		for _, month := range m.months {
			rows[0] = append(rows[0], s.month(month))
		}
		for _, a := range distinct(facts, above) {
			rows = append(rows, []string{a})
			for _, b := range distinct(facts, below) {
				row := []string{written(b)}
				for _, month := range m.months {
					row = append(row, m.cell(s, at[a+"|"+month+"|"+b], true))
				}
				rows = append(rows, row)
			}
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// monthAndMeasure has two measures for each month in one header row: "Jul 2024 Qty".
func monthAndMeasure(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates %= 2
	last := m.IntN(2) == 0
	header := func(month, measure string) string {
		if last {
			return s.month(month) + " " + measure
		}
		return measure + " " + s.month(month)
	}
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at := grid(facts)
		rows := [][]string{{s.branch, s.product}}
		for _, month := range m.months {
			rows[0] = append(rows[0], header(month, s.quantity), header(month, s.amount))
		}
		for _, b := range distinct(facts, branchOf) {
			for _, p := range distinct(facts, productOf) {
				row := []string{b, m.spelt(&s, p)}
				for _, month := range m.months {
					f := at[b+"|"+month+"|"+p]
					row = append(row, m.cell(&s, f, false), m.cell(&s, f, true))
				}
				rows = append(rows, row)
			}
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}
