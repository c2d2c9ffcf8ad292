package messy

import (
	"fmt"
	"strconv"
	"strings"
)

// Months across as programs write them, the sum of them beside, and what was planned beside what was sold.

func init() {
	layoutsOf = append(layoutsOf, layout{"months as programs write them", programMonths}, layout{"actuals beside budgets", actualsBeside})
	layoutsOfTwo = append(layoutsOfTwo, layout{"measures of several words beside months", longMeasures})
}

// monthForms write a month across; the first ones need a file a year.
var monthForms = []func(month string, n int) string{
	func(_ string, n int) string { return fmt.Sprintf("Month %d", n) },
	func(_ string, n int) string { return fmt.Sprintf("%02d %s", n, monthNames[n-1]) },
	func(_ string, n int) string { return "Net sales " + monthNames[n-1] },
	func(month string, n int) string { return strings.ToUpper(monthNames[n-1]) + month[2:4] },
	func(month string, n int) string { return monthNames[n-1] + "_" + month[:4] },
	func(month string, _ int) string { return strings.Replace(month, "-", "_", 1) },
	func(month string, _ int) string { return strings.Replace(month, "-", "M", 1) },
	func(month string, _ int) string { return month[5:] + "/" + month[2:4] },
	func(month string, _ int) string { return "Sales " + month },
	func(month string, n int) string { return monthNames[n-1] + " " + month[:4] + " turnover" },
}

const monthsOfYears = 3

// programMonths is a file a region, or a region and year, with months across in one of these forms, and in some their sum.
func programMonths(m *maker, folder string, own []string) error {
	s := m.newStyle()
	form, sums := m.IntN(len(monthForms)), m.IntN(2) == 0
	return m.eachYear(own, form < monthsOfYears, func(name string, facts []*fact) error {
		at, months := grid(facts), distinct(facts, monthOf)
		head := []string{s.branch, s.product}
		for _, month := range months {
			head = append(head, monthForms[form](month, numberOf(month)))
		}
		if sums {
			head = append(head, "Sales")
		}
		rows := [][]string{head}
		for _, b := range distinct(facts, branchOf) {
			for _, p := range distinct(facts, productOf) {
				row, sum := []string{b, m.spelt(&s, p)}, 0
				for _, month := range months {
					f := at[b+"|"+month+"|"+p]
					cell := s.number(f.amount, true)
					if !sums {
						cell = m.cell(&s, f, true)
					}
					row, sum = append(row, cell), sum+f.amount
				}
				if sums {
					row = append(row, s.number(sum, true))
				}
				rows = append(rows, row)
			}
		}
		return m.write("raw/"+folder+"/"+name+".csv", s.text(rows))
	})
}

// numberOf is the number of a month in its year.
func numberOf(month string) int {
	n, _ := strconv.Atoi(month[5:])
	return n
}

// eachYear calls a function for the facts of each region, or of each region and year, with a name for the file.
func (m *maker) eachYear(own []string, years bool, call func(name string, facts []*fact) error) error {
	for _, r := range own {
		all := m.of(func(f *fact) bool { return f.region == r })
		if !years {
			if err := call(r, all); err != nil {
				return err
			}
			continue
		}
		for _, y := range distinct(all, yearOf) {
			if err := call(r+" "+y, m.of(func(f *fact) bool { return f.region == r && yearOf(f) == y })); err != nil {
				return err
			}
		}
	}
	return nil
}

// actualsBeside is a file a region and year with what was sold, what was planned and the difference below each month.
func actualsBeside(m *maker, folder string, own []string) error {
	s := m.newStyle()
	kinds := [][]string{{"Actual", "Budget", "Variance"}, {"Ist", "Soll"}, {"Act", "Bud", "Var"}, {"TY", "LY"}}[m.IntN(4)]
	before := m.IntN(2) == 0
	return m.eachYear(own, true, func(name string, facts []*fact) error {
		at, months := grid(facts), distinct(facts, monthOf)
		head := []string{s.branch, s.product}
		for _, month := range months {
			for _, kind := range kinds {
				two := [2]string{monthNames[numberOf(month)-1], kind}
				if before {
					two = [2]string{two[1], two[0]}
				}
				head = append(head, two[0]+" "+two[1])
			}
		}
		rows := [][]string{head}
		for _, b := range distinct(facts, branchOf) {
			for _, p := range distinct(facts, productOf) {
				row := []string{b, m.spelt(&s, p)}
				for _, month := range months {
					row = append(row, m.cell(&s, at[b+"|"+month+"|"+p], true))
					for range kinds[1:] {
						row = append(row, s.number(100+m.IntN(900_000), true))
					}
				}
				rows = append(rows, row)
			}
		}
		return m.write("raw/"+folder+"/"+name+".csv", s.text(rows))
	})
}

// longMeasures is a file a region with two measures of several words for each month.
func longMeasures(m *maker, folder string, own []string) error {
	s := m.newStyle()
	behind := m.IntN(2) == 0
	return m.eachYear(own, false, func(name string, facts []*fact) error {
		at, months := grid(facts), distinct(facts, monthOf)
		head := []string{s.branch, s.product}
		for _, month := range months {
			for _, measure := range []string{"Units sold", "Net sales"} {
				if behind {
					head = append(head, month+" "+measure)
				} else {
					head = append(head, measure+" "+monthNames[numberOf(month)-1]+" "+month[:4])
				}
			}
		}
		rows := [][]string{head}
		for _, b := range distinct(facts, branchOf) {
			for _, p := range distinct(facts, productOf) {
				row := []string{b, m.spelt(&s, p)}
				for _, month := range months {
					f := at[b+"|"+month+"|"+p]
					row = append(row, m.cell(&s, f, false), m.cell(&s, f, true))
				}
				rows = append(rows, row)
			}
		}
		return m.write("raw/"+folder+"/"+name+".csv", s.text(rows))
	})
}
