package messy

import (
	"fmt"
	"slices"

	"github.com/xuri/excelize/v2"
)

// layout is a way in which an office lays its extracts out.
type layout struct {
	name  string
	write func(m *maker, folder string, regions []string) error
}

var layoutsOf = []layout{
	{"products across", wideProducts}, {"months across", wideMonths}, {"long, a file a region", longRegion},
	{"long, a file a month", longMonth},
	{"workbook, a sheet a year", bookYears}, {"sections", sections},
}

var layoutsOfTwo = []layout{{"long, a file a region", longRegion}, {"long, a file a month", longMonth}, {"two header rows", twoRows}}

// distinct are the values that facts have, in the order in which they come.
func distinct(facts []*fact, of func(*fact) string) (out []string) {
	for _, f := range facts {
		if v := of(f); !slices.Contains(out, v) {
			out = append(out, v)
		}
	}
	return out
}

func branchOf(f *fact) string  { return f.branch }
func productOf(f *fact) string { return f.product }
func monthOf(f *fact) string   { return f.month }
func yearOf(f *fact) string    { return f.month[:4] }

// around puts titles above rows, and totals and notes below.
func (m *maker) around(s *style, rows [][]string, numeric []int, sum func() []string) [][]string {
	if s.titles {
		rows = append([][]string{{"Halyard & Moss"}, {s.title}}, rows...)
	}
	if s.totals && sum != nil {
		if total := sum(); total != nil {
			rows = append(rows, total)
		}
	}
	if s.notes {
		rows = append(rows, []string{s.source})
	}
	_ = numeric
	return rows
}

// first leaves a value out where it is that of the row above.
func (s *style) firstOnly(rows [][]string, column int) {
	if !s.first {
		return
	}
	for i := len(rows) - 1; i > 1; i-- {
		if rows[i][column] == rows[i-1][column] {
			rows[i][column] = ""
		}
	}
}

// grid finds a fact.
func grid(facts []*fact) map[string]*fact {
	out := map[string]*fact{}
	for _, f := range facts {
		out[f.branch+"|"+f.month+"|"+f.product] = f
	}
	return out
}

// wideProducts is a product a column, a file a region and year.
func wideProducts(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		all := m.of(func(f *fact) bool { return f.region == r })
		for _, y := range distinct(all, yearOf) {
			facts := m.of(func(f *fact) bool { return f.region == r && yearOf(f) == y })
			at, goods := grid(facts), distinct(facts, productOf)
			head := []string{s.branch, s.month_()}
			if s.unwanted {
				head = append(head, m.unwantedHeader(&s))
			}
			labels := len(head)
			for _, p := range goods {
				head = append(head, m.spelt(&s, p))
			}
			rows := [][]string{head}
			sums := make([]int, len(goods))
			for _, b := range distinct(facts, branchOf) {
				for _, month := range distinct(facts, monthOf) {
					row := []string{b, s.month(month)}
					if s.unwanted {
						row = append(row, m.unwantedCell())
					}
					for i, p := range goods {
						f := at[b+"|"+month+"|"+p]
						row = append(row, m.cell(&s, f, true))
						if !f.held {
							sums[i] += f.amount
						}
					}
					rows = append(rows, row)
				}
			}
			s.firstOnly(rows, 0)
			rows = m.around(&s, rows, nil, func() []string {
				if slices.ContainsFunc(facts, func(f *fact) bool { return f.held }) {
					return nil
				}
				total := make([]string, labels)
				total[0] = s.total
				for _, n := range sums {
					total = append(total, s.number(n, true))
				}
				return total
			})
			if err := m.write(fmt.Sprintf("raw/%s/%s_%s.csv", folder, r, y), s.text(rows)); err != nil {
				return err
			}
		}
	}
	return nil
}

// month_ is what a column of months is called.
func (s *style) month_() string { return s.language.month }

// wideMonths is a month a column, a file a region.
func wideMonths(m *maker, folder string, own []string) error {
	s := m.newStyle()
	if s.dates == 2 {
		s.dates = 1
	}
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, months := grid(facts), distinct(facts, monthOf)
		head := []string{s.branch, s.product}
		for _, month := range months {
			head = append(head, s.month(month))
		}
		rows := [][]string{head}
		for _, b := range distinct(facts, branchOf) {
			for _, p := range distinct(facts, productOf) {
				row := []string{b, m.spelt(&s, p)}
				for _, month := range months {
					row = append(row, m.cell(&s, at[b+"|"+month+"|"+p], true))
				}
				rows = append(rows, row)
			}
		}
		s.firstOnly(rows, 0)
		rows = m.around(&s, rows, nil, nil)
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// longRow is a row of a long table, and longHead its header.
func (m *maker) longHead(s *style, region, month bool) (head []string) {
	if region {
		head = append(head, s.region)
	}
	head = append(head, s.branch)
	if month {
		head = append(head, s.month_())
	}
	head = append(head, s.product)
	if m.measures == 2 {
		head = append(head, s.quantity)
	}
	head = append(head, s.amount)
	if s.unwanted {
		head = append(head, m.unwantedHeader(s))
	}
	return head
}

func (m *maker) longRow(s *style, f *fact, region, month bool) (row []string) {
	if region {
		row = append(row, f.region)
	}
	row = append(row, f.branch)
	if month {
		row = append(row, s.month(f.month))
	}
	row = append(row, m.spelt(s, f.product))
	if m.measures == 2 {
		row = append(row, m.cell(s, f, false))
	}
	row = append(row, m.cell(s, f, true))
	if s.unwanted {
		row = append(row, m.unwantedCell())
	}
	return row
}

// longRegion is a long table, a file a region and year.
func longRegion(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		all := m.of(func(f *fact) bool { return f.region == r })
		for _, y := range distinct(all, yearOf) {
			rows := [][]string{m.longHead(&s, false, true)}
			for _, f := range m.of(func(f *fact) bool { return f.region == r && yearOf(f) == y }) {
				rows = append(rows, m.longRow(&s, f, false, true))
			}
			s.firstOnly(rows, 0)
			rows = m.around(&s, rows, nil, nil)
			if err := m.write(fmt.Sprintf("raw/%s/%s %s.csv", folder, r, y), s.text(rows)); err != nil {
				return err
			}
		}
	}
	return nil
}

// longMonth is a long table with the region in it, a file a month.
func longMonth(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, month := range m.months {
		rows := [][]string{m.longHead(&s, true, false)}
		for _, f := range m.of(func(f *fact) bool { return f.month == month && slices.Contains(own, f.region) }) {
			rows = append(rows, m.longRow(&s, f, true, false))
		}
		rows = m.around(&s, rows, nil, nil)
		if err := m.write(fmt.Sprintf("raw/%s/sales_%s.csv", folder, month), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// sections has the region in a title and branches in rows of their own.
func sections(m *maker, folder string, own []string) error {
	s := m.newStyle()
	if s.dates == 2 {
		s.dates = 0
	}
	for i, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, months := grid(facts), distinct(facts, monthOf)
		head := []string{s.product}
		for _, month := range months {
			head = append(head, s.month(month))
		}
		rows := [][]string{{"Halyard & Moss"}, {s.coast + r}, head}
		for _, b := range distinct(facts, branchOf) {
			rows = append(rows, []string{b})
			for _, p := range distinct(facts, productOf) {
				row := []string{m.spelt(&s, p)}
				for _, month := range months {
					row = append(row, m.cell(&s, at[b+"|"+month+"|"+p], true))
				}
				rows = append(rows, row)
			}
		}
		if s.notes {
			rows = append(rows, []string{s.source})
		}
		if err := m.write(fmt.Sprintf("raw/%s/export (%d).csv", folder, i+1), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// bookYears is a workbook a region, a sheet a year, products across.
func bookYears(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		book := excelize.NewFile()
		all := m.of(func(f *fact) bool { return f.region == r })
		for i, y := range distinct(all, yearOf) {
			facts := m.of(func(f *fact) bool { return f.region == r && yearOf(f) == y })
			at, goods := grid(facts), distinct(facts, productOf)
			rows := [][]any{{s.coast + r}, {}, {s.branch, s.month_()}}
			for _, p := range goods {
				rows[2] = append(rows[2], m.spelt(&s, p))
			}
			for _, b := range distinct(facts, branchOf) {
				for _, month := range distinct(facts, monthOf) {
					row := []any{b, s.month(month)}
					for _, p := range goods {
						row = append(row, m.bookCell(&s, at[b+"|"+month+"|"+p]))
					}
					rows = append(rows, row)
				}
			}
			if err := sheet(book, i, y, rows); err != nil {
				return err
			}
		}
		if err := m.writeBook(fmt.Sprintf("raw/%s/%s.xlsx", folder, r), book); err != nil {
			return err
		}
	}
	return nil
}

// bookCell is a measure as a cell of a workbook.
func (m *maker) bookCell(s *style, f *fact) any {
	own := *s
	own.numbers = 0
	text := m.cell(&own, f, true)
	if text == own.number(f.amount, true) && f.amount > 0 {
		return float64(f.amount) / 100
	}
	return text
}

// writeBook writes a workbook.
func (m *maker) writeBook(name string, book *excelize.File) error {
	b, err := book.WriteToBuffer()
	if err != nil {
		return err
	}
	return m.write(name, b.Bytes())
}

// sheet writes a sheet of a workbook.
func sheet(book *excelize.File, i int, name string, rows [][]any) error {
	if i == 0 {
		if err := book.SetSheetName("Sheet1", name); err != nil {
			return err
		}
	} else if _, err := book.NewSheet(name); err != nil {
		return err
	}
	for k, row := range rows {
		if err := book.SetSheetRow(name, fmt.Sprintf("A%d", k+1), &row); err != nil {
			return err
		}
	}
	return nil
}

// twoRows has the measure above and the product below, a file a region.
func twoRows(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, goods := grid(facts), distinct(facts, productOf)
		upper, lower := []string{"", ""}, []string{s.branch, s.month_()}
		for k, name := range []string{s.quantity, s.amount} {
			for i, p := range goods {
				above := ""
				if i == 0 {
					above = name
				}
				upper, lower = append(upper, above), append(lower, p)
			}
			_ = k
		}
		rows := [][]string{upper, lower}
		for _, b := range distinct(facts, branchOf) {
			for _, month := range distinct(facts, monthOf) {
				row := []string{b, s.month(month)}
				for _, cents := range []bool{false, true} {
					for _, p := range goods {
						row = append(row, m.cell(&s, at[b+"|"+month+"|"+p], cents))
					}
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
