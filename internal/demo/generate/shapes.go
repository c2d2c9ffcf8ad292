package main

import (
	"fmt"
	"math/rand/v2"
	"strings"
)

// pairs makes a file with quantities and then values, a column for each product
// twice, under a row with the labels of both groups.
func pairs(r *rand.Rand, c coast, year int) []byte {
	order := r.Perm(len(products))
	above := []string{"", "", "Quantity"}
	header := []string{spelt(r, "Branch", "Outlet"), spelt(r, "Month", "Period")}
	for range len(order) - 1 {
		above = append(above, "")
	}
	above = append(above, "Value")
	for range len(order) - 1 {
		above = append(above, "")
	}
	for range 2 {
		for _, p := range order {
			header = append(header, spelt(r, products[p].name, products[p].typed...))
		}
		if len(header) > 2+len(order) { // both groups spell the names alike
			copy(header[2+len(order):], header[2:2+len(order)])
		}
	}
	lines := []string{line(above, false), line(header, false)}
	for month := 1; month <= 12; month++ {
		for i, b := range c.branches {
			cells := []string{branch(r, b, month, i), monthText(c.month, year, month, i)}
			var values []string
			for _, p := range order {
				value := amount(r, c, products[p], month, year)
				quantity := fmt.Sprint(1 + r.IntN(40))
				if value == "" || r.IntN(40) == 0 {
					quantity = ""
				}
				cells, values = append(cells, quantity), append(values, value)
			}
			lines = append(lines, line(append(cells, values...), false))
		}
		if month == 6 { // a page ends here
			lines = append(lines, "", line(above, false), line(header, false))
		}
	}
	return text(c, lines)
}

// monthsAcross makes a file with a row for each branch and product, and a column
// for each month.
func monthsAcross(r *rand.Rand, c coast, year int) []byte {
	header := []string{"Branch", "Article"}
	for _, m := range months {
		header = append(header, fmt.Sprintf("%s %d", m[:3], year))
	}
	lines := []string{line(header, false)}
	for _, b := range c.branches {
		for _, p := range products {
			cells := []string{b, strings.TrimSpace(spelt(r, p.name, p.typed...))}
			for month := range months {
				cells = append(cells, amount(r, c, p, month+1, year))
			}
			lines = append(lines, line(cells, false))
		}
	}
	return text(c, lines)
}
