package messy

import (
	"fmt"
	"slices"
	"strconv"

	"github.com/xuri/excelize/v2"
)

// Layouts that say in the names of files, sheets and sections what others have in columns, and that have sums among months.

func init() {
	layoutsOf = append(layoutsOf, layout{"a file a region and month", monthFiles}, layout{"months and quarters across", quarterSums},
		layout{"months across below products", monthsBelowProducts}, layout{"two layouts in a workbook", twoSheets},
		layout{"years across", yearsAcross})
	layoutsOfTwo = append(layoutsOfTwo, layout{"a file a region and month", monthFiles}, layout{"a file a measure", measureFiles})
}

// monthFiles is a file a region and month, both in its name.
func monthFiles(m *maker, folder string, own []string) error {
	s := m.newStyle()
	name := []string{"%s %s", "%s_%s", "%s/%s"}[m.IntN(3)]
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		for _, month := range distinct(facts, monthOf) {
			rows := [][]string{m.longHead(&s, false, false)}
			for _, f := range facts {
				if f.month == month {
					rows = append(rows, m.longRow(&s, f, false, false))
				}
			}
			if err := m.write("raw/"+folder+"/"+fmt.Sprintf(name, r, month)+".csv", s.text(rows)); err != nil {
				return err
			}
		}
	}
	return nil
}

// monthsOf are rows of branches and products of a region, with months across, and what stands below a time that is none of them.
func (m *maker) monthsOf(s *style, r string, times []string, below func(of func(month string) *fact, time string) string) [][]string {
	facts := m.of(func(f *fact) bool { return f.region == r })
	at := grid(facts)
	rows := [][]string{{s.branch, s.product}}
	for _, t := range times {
		if slices.Contains(m.months, t) {
			t = s.month(t)
		}
		rows[0] = append(rows[0], t)
	}
	for _, b := range distinct(facts, branchOf) {
		for _, p := range distinct(facts, productOf) {
			row := []string{b, m.spelt(s, p)}
			for _, t := range times {
				row = append(row, below(func(month string) *fact { return at[b+"|"+month+"|"+p] }, t))
			}
			rows = append(rows, row)
		}
	}
	return rows
}

// quarterSums has months across, and behind those of a quarter their sum.
func quarterSums(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates %= 2
	var times []string
	of := map[string][]string{} // the months of a quarter
	for i, month := range m.months {
		q := fmt.Sprintf("Q%d %s", (int(month[5]-'0')*10+int(month[6]-'0')+2)/3, month[:4])
		of[q] = append(of[q], month)
		times = append(times, month)
		if i+1 == len(m.months) || m.months[i+1][:4] != month[:4] || month[5:] == "03" || month[5:] == "06" || month[5:] == "09" {
			times = append(times, q)
		}
	}
	for _, r := range own {
		rows := m.monthsOf(&s, r, times, func(at func(string) *fact, time string) string {
			if of[time] == nil {
				return m.cell(&s, at(time), true)
			}
			sum := 0
			for _, month := range of[time] {
				sum += at(month).amount
			}
			return s.number(sum, true)
		})
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// measureFiles is a file a region and measure, months across; the measure is in its name alone.
func measureFiles(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates %= 2
	for _, r := range own {
		for i, measure := range []string{"quantity", "amount"} {
			rows := m.monthsOf(&s, r, m.months, func(at func(string) *fact, time string) string {
				if i == 0 {
					return s.number(at(time).quantity, false)
				}
				return s.number(at(time).amount, true)
			})
			if err := m.write(fmt.Sprintf("raw/%s/%s %s.csv", folder, r, measure), s.text(rows)); err != nil {
				return err
			}
		}
	}
	return nil
}

// monthsBelowProducts is a file a region, with months across and rows that have a product alone above its branches.
func monthsBelowProducts(m *maker, folder string, own []string) error {
	s := m.newStyle()
	return m.monthsBelow(&s, folder, own, s.branch, productOf, branchOf, func(branch string) string { return branch })
}

// twoSheets is a workbook a region: a sheet with months across for its first branch, and a long one for the others.
func twoSheets(m *maker, folder string, own []string) error {
	s := m.newStyle()
	s.dates = 1
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, first := grid(facts), facts[0].branch
		wide, long := [][]any{{s.branch, s.product}}, [][]any{{s.branch, s.month_(), s.product, s.amount}}
		for _, month := range m.months {
			wide[0] = append(wide[0], s.month(month))
		}
		for _, p := range distinct(facts, productOf) {
			row := []any{first, p}
			for _, month := range m.months {
				row = append(row, m.bookCell(&s, at[first+"|"+month+"|"+p]))
			}
			wide = append(wide, row)
		}
		for _, f := range facts {
			if f.branch != first {
				long = append(long, []any{f.branch, s.month(f.month), m.spelt(&s, f.product), m.bookCell(&s, f)})
			}
		}
		book := excelize.NewFile()
		if err := sheet(book, 0, "Main shop", wide); err != nil {
			return err
		}
		if err := sheet(book, 1, "Others", long); err != nil {
			return err
		}
		if err := m.writeBook(fmt.Sprintf("raw/%s/%s.xlsx", folder, r), book); err != nil {
			return err
		}
	}
	return nil
}

// yearsAcross has the names of months in rows, and a year a column, where both years have the same months.
func yearsAcross(m *maker, folder string, own []string) error {
	s := m.newStyle()
	half := len(m.months) / 2
	first, second := m.months[:half], m.months[half:]
	if !slices.EqualFunc(first, second, func(a, b string) bool { return a[:4] != b[:4] && a[4:] == b[4:] }) {
		return wideMonths(m, folder, own)
	}
	for _, r := range own {
		facts := m.of(func(f *fact) bool { return f.region == r })
		at, all := grid(facts), distinct(facts, yearOf)
		rows := [][]string{append([]string{s.branch, s.product, s.month_()}, all...)}
		for _, b := range distinct(facts, branchOf) {
			for _, p := range distinct(facts, productOf) {
				for _, month := range first {
					n, _ := strconv.Atoi(month[5:])
					row := []string{b, m.spelt(&s, p), monthNames[n-1]}
					for _, y := range all {
						row = append(row, m.cell(&s, at[b+"|"+y+month[4:]+"|"+p], true))
					}
					rows = append(rows, row)
				}
			}
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}
