package messy

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
)

// narrow leaves some columns out of the truth, and makes its times coarser, at random.
func (d *Delivery) narrow(r *rand.Rand) {
	times := [][]string{{"month"}, {"quarter"}, {"year"}, {"year", "quarter", "month"}, {"year", "quarter"}, nil}[r.IntN(6)]
	measures := d.measures()
	if measures == 2 && d.Held == 0 && r.IntN(2) == 0 {
		measures = 1
	}
	var columns []string
	var from []int
	for i, c := range d.Columns {
		switch own := d.isMeasure(c); {
		case c == "month":
			for _, t := range times {
				columns, from = append(columns, t), append(from, i)
			}
		case !own && r.IntN(3) > 0, own && (measures == 2 || d.measures() == 1 || r.IntN(2) == 0):
			columns, from = append(columns, c), append(from, i)
		}
	}
	if !slices.ContainsFunc(columns, d.isMeasure) || d.isMeasure(columns[0]) {
		return
	}
	for k, row := range d.Rows {
		own := make([]string, len(columns))
		for i, c := range columns {
			own[i] = coarser(row[from[i]], c)
		}
		d.Rows[k] = own
	}
	d.Columns = columns
	d.rename(r)
	d.About = append(d.About, "asked for "+strings.Join(d.Columns, ","))
}

// unwanted is a column that nobody asks for.
type unwanted struct {
	header string
	values []string
}

var unwantedOf = []unwanted{
	{"Entered by", people}, {"Customer", []string{"10023", "10045", "10046", "10101"}},
	{"Invoice No", []string{"70211", "70212", "70300", "70304"}},
	{"Kunde", []string{"4711", "4712", "4800", "4913"}}, {"PLZ", []string{"20095", "24103", "24105", "28195"}},
	{"Route", []string{"1001", "1002", "1003", "1004"}}, {"Doc", []string{"R-1001", "R-1002", "R-1003", "R-1004"}},
	{"Entered on", []string{"2024-05-02", "2024-05-03", "2024-06-01", "2024-06-03"}}, {"Time", []string{"08:30", "09:15", "12:00", "17:45"}},
	{"Checked", []string{"yes", "no", "yes", "yes"}}, {"Channel", []string{"shop", "web", "phone", "fair"}},
	{"Channel", []string{"1", "2", "3", "4"}}, {"Week", []string{"KW 12", "KW 13", "KW 14", "KW 15"}}, {"Price", []string{"2", "3", "5", "8"}},
	{"Discount %", []string{"0", "5", "10", "12"}},
}

// unwantedHeader is the header of a column that nobody wants.
func (m *maker) unwantedHeader(s *style) string {
	if m.unwanted == nil {
		return s.person
	}
	return m.unwanted.header
}

// unwantedCell is a cell of it.
func (m *maker) unwantedCell() string {
	i := m.IntN(len(people))
	if m.unwanted == nil {
		return people[i]
	}
	return m.unwanted.values[i%len(m.unwanted.values)]
}

// otherNames are what else columns may be called.
var otherNames = map[string][]string{
	"region": {"coast", "Area", "Region", "gebiet"}, "branch": {"store", "Shop", "outlet", "Filiale"},
	"product": {"item", "Article", "Artikel", "goods"},
	"month":   {"Month", "Monat", "period"}, "quarter": {"Quarter", "Quartal"}, "year": {"Year", "Jahr"},
	"quantity": {"Qty", "units", "Menge", "pieces"}, "amount": {"sales", "Revenue", "turnover", "Umsatz"},
}

// rename calls some columns otherwise.
func (d *Delivery) rename(r *rand.Rand) {
	for i, c := range d.Columns {
		if list := otherNames[c]; r.IntN(2) == 0 {
			d.Columns[i] = list[r.IntN(len(list))]
		}
	}
}

func (d *Delivery) isMeasure(column string) bool {
	is := func(c string) bool { return column == c || slices.Contains(otherNames[c], column) }
	return is("quantity") || is("amount")
}

func (d *Delivery) measures() (n int) {
	for _, c := range d.Columns {
		if d.isMeasure(c) {
			n++
		}
	}
	return n
}

// coarser is a month as another time, and any other cell as it is.
func coarser(cell, column string) string {
	switch column {
	case "year":
		return cell[:4]
	case "quarter":
		m, _ := strconv.Atoi(cell[5:])
		return fmt.Sprintf("%s-Q%d", cell[:4], (m+2)/3)
	}
	return cell
}

// compareSums says how the sums of rows by their labels differ from what they must be; "" where they do not. How many rows there are is
// another matter: months that nobody asked for may be added up or not.
func (d *Delivery) compareSums(rows [][]string) string {
	sums := map[string]int{}
	add := func(row []string, sign int) {
		row = keysOf(row)
		k := len(row) - d.measures()
		for i, cell := range row[k:] {
			whole, places, _ := strings.Cut(cell, ".")
			n, err := strconv.Atoi(whole + (places + "00")[:2])
			if err != nil && cell != "" {
				n = 1 << 40 // no number
			}
			sums[strings.Join(row[:k], "|")+"|"+d.Columns[k+i]] += sign * n
		}
	}
	for _, r := range d.Rows {
		add(r, 1)
	}
	for _, r := range rows {
		add(r, -1)
	}
	for k, n := range sums {
		if n != 0 {
			return fmt.Sprintf("%s differs by %d hundredths", k, -n)
		}
	}
	return ""
}
