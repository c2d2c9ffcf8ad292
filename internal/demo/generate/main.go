// Generate writes the files of the demo: go generate ./internal/demo.
package main

import (
	"bytes"
	"fmt"
	"log"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"golang.org/x/text/encoding/charmap"
)

func main() {
	log.SetFlags(0)
	if len(os.Args) != 2 {
		log.Fatal("usage: generate FOLDER")
	}
	for name, data := range files() {
		to := filepath.Join(os.Args[1], filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(to), 0o777); err != nil {
			log.Fatal(err)
		}
		if err := os.WriteFile(to, data, 0o666); err != nil {
			log.Fatal(err)
		}
	}
}

// seed makes every run give the same bytes.
const seed = 20231

type coast struct {
	name     string
	branches []string
	// how this coast sends its extracts
	mark, crlf bool
	month      string // how it writes months
	groups     bool   // writes 1,234.50
	ansi       bool   // semicolons and decimal commas, in Windows-1252, with a footnote
	workbook   bool   // one workbook, a sheet a year
	pairs      bool   // quantity and value side by side, under two header rows
}

var coasts = []coast{
	{name: "Skerries", branches: []string{"Gannet Quay", "Holm", "Northwick"}, month: "iso"},
	{name: "Amber Bay", branches: []string{"Amber Harbour", "Saltby", "Quarry Head"}, month: "short", groups: true, ansi: true},
	{name: "Long Sound", branches: []string{"Ferry Point", "Sound End", "Marram"}, mark: true, crlf: true, pairs: true, month: "day"},
	{name: "Lakes", branches: []string{"Upper Lock", "Lakeside", "Millbridge"}, workbook: true},
}

// product has a name, what else people type for it, and a usual amount.
type product struct {
	name   string
	typed  []string
	amount int
}

var products = []product{
	{"Anchor Chain", []string{"Anchor Chian", "Anchorchain"}, 1900},
	{"Bilge Pump", []string{"Bilgepump"}, 950},
	{"Brass Cleat", []string{"Brass Cleet"}, 320},
	{"Deck Brush", []string{"Deckbrush"}, 140},
	{"Dock Line", []string{"Dockline", "Dock Lines"}, 610},
	{"Marine Rope 10 mm", []string{"Marine Rope 10mm"}, 780},
	{"Marine Rope 15 mm", []string{"Marine Rope 15mm"}, 1150},
	{"Oilskin Jacket", []string{"Oilskin Jkt", "Oil Skin Jacket"}, 1350},
	{"Signal Flag", []string{"Sig. Flag"}, 95},
}

// Headers of the last year that no book knows: two new misspellings, and a product
// that is truly new.
const (
	surprise   = "Bilge pmup"
	misspelt   = "Brass Claet"
	newProduct = "Storm Lantern"
)

// comingProduct is one that the book knows and nobody has sold yet.
const comingProduct = "Rope Ladder"

func files() map[string][]byte {
	r := rand.New(rand.NewPCG(seed, 1))
	out := map[string][]byte{"umbau.yaml": []byte(planText), "names/product.csv": book(), "ref/managers.csv": managers()}
	booked = map[place]int{}
	first := map[string]string{}
	years := []int{2023, 2024, 2025}
	for _, year := range years {
		for _, c := range coasts {
			name := fmt.Sprintf("%s_%d.csv", c.name, year)
			switch {
			case c.workbook:
			case c.pairs:
				out["raw/"+name] = pairs(r, c, year)
			case c.name == "Skerries" && year == 2025: // a new clerk, a new layout
				out["raw/"+name] = monthsAcross(r, c, year)
			case year == years[0]: // the first year was sent as one archive
				first[name] = string(extract(r, c, year))
			default:
				out["raw/"+name] = extract(r, c, year)
			}
		}
	}
	out["raw/2023.zip"] = packed(first)
	for _, c := range coasts {
		if c.workbook {
			out["raw/"+c.name+".xlsx"] = workbook(r, c, years)
		}
	}
	for _, c := range coasts {
		out["control/"+c.name+".csv"] = control(c, years)
	}
	addNext(out)
	return out
}

// managers lists who manages which branch: one branch is not in it, one stands in it twice,
// and one was closed.
func managers() []byte {
	people := []string{"Ines Holt", "Tom Reeve", "Maud Larkin", "Piet Vos", "Ada Birch"}
	var b strings.Builder
	b.WriteString("Branch,Manager,Since\n")
	n := 0
	for _, c := range coasts {
		for i, branch := range c.branches {
			if branch == "Quarry Head" {
				continue
			}
			fmt.Fprintf(&b, "%s,%s,%d\n", branch, people[n%len(people)], 2015+i)
			n++
		}
	}
	b.WriteString("Holm,Ada Birch,2011\nOld Slip,Piet Vos,2009\n")
	return []byte(b.String())
}

// place is where and when something was sold.
type place struct {
	coast string
	year  int
}

// booked is what each coast sold in a year, in cents: all cells that are numbers.
var booked map[place]int

// control lists what the office of a coast has booked in each year. The books of the
// last one are still open.
func control(c coast, years []int) []byte {
	var b strings.Builder
	b.WriteString("Net sales as booked by the office of " + c.name + ",,\nCoast,Year,Booked\n")
	for i, year := range years {
		total := digits(booked[place{c.name, year}], false)
		if i == len(years)-1 {
			total = ""
		}
		fmt.Fprintf(&b, "%s,%d,%s\n", c.name, year, total)
	}
	return []byte(b.String())
}

// book lists each standard name and what is typed for it, so far.
func book() []byte {
	var b bytes.Buffer
	b.WriteString("seen,standard\n")
	for _, p := range products {
		fmt.Fprintf(&b, "%s,%s\n", p.name, p.name)
		for _, t := range p.typed {
			fmt.Fprintf(&b, "%s,%s\n", t, p.name)
		}
	}
	fmt.Fprintf(&b, "%s,%s\n", comingProduct, comingProduct)
	return b.Bytes()
}

// extract makes one file: a row for each branch and month, a column for each
// product.
func extract(r *rand.Rand, c coast, year int) []byte {
	order := r.Perm(len(products))
	header := []string{spelt(r, "Branch", "Outlet", "Branch name"), spelt(r, "Month", "Period")}
	labels := []string{"branch", "month"}
	if r.IntN(2) == 0 {
		slices.Reverse(header)
		slices.Reverse(labels)
	}
	for _, p := range order {
		h := spelt(r, products[p].name, products[p].typed...)
		if c.name == "Amber Bay" && year == 2025 && products[p].name == "Brass Cleat" {
			h = misspelt
		}
		header = append(header, h)
	}
	lantern := c.name == "Amber Bay" && year == 2025
	if lantern {
		header = append(header, newProduct)
	}
	parted := func(cells []string) string { return line(cells, c.ansi) }
	blank := strings.Repeat(parted([]string{"", ""}), len(header)-1)
	lines := []string{parted(header)}
	for month := 1; month <= 12; month++ {
		for i, b := range c.branches {
			cells := []string{branch(r, b, month, i), monthText(c.month, year, month, i)}
			if labels[0] == "month" {
				slices.Reverse(cells)
			}
			for _, p := range order {
				cells = append(cells, amount(r, c, products[p], month, year))
			}
			if lantern {
				cells = append(cells, c.written(digits(4500+r.IntN(90000), c.groups)))
			}
			lines = append(lines, parted(cells))
		}
		switch {
		case month == 6 && r.IntN(2) == 0: // a page ends here
			lines = append(lines, blank, parted(header))
		case month%4 == 0 && r.IntN(2) == 0:
			lines = append(lines, blank)
		}
	}
	if c.ansi {
		lines = append(lines, blank, "Source: till rolls of "+c.name+" – net, in €"+blank)
	}
	return text(c, lines)
}

// text joins lines as a coast sends them.
func text(c coast, lines []string) []byte {
	end := "\n"
	if c.crlf {
		end = "\r\n"
	}
	s := strings.Join(lines, end) + end
	if c.mark {
		s = "\ufeff" + s
	}
	if c.crlf {
		s = strings.TrimSuffix(s, end)
	}
	if !c.ansi {
		return []byte(s)
	}
	b, err := charmap.Windows1252.NewEncoder().String(s)
	if err != nil {
		log.Fatal(err)
	}
	return []byte(b)
}

// spelt writes a header as people do.
func spelt(r *rand.Rand, name string, others ...string) string {
	switch r.IntN(9) {
	case 0:
		return strings.ToUpper(name)
	case 1:
		return strings.ToLower(name)
	case 2:
		return " " + strings.ReplaceAll(name, " ", "  ")
	case 3:
		return name + "."
	case 4:
		return strings.ReplaceAll(strings.ToLower(name), " ", "-")
	case 5, 6:
		if len(others) > 0 {
			return others[r.IntN(len(others))]
		}
	}
	return name
}

func branch(r *rand.Rand, name string, month, i int) string {
	if month > 2 && r.IntN(12) == 0 {
		return []string{strings.ToUpper(name), strings.ToLower(name) + " ", "  " + name}[i]
	}
	return name
}

var months = []string{"January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
	"December"}

func monthText(style string, year, month, i int) string {
	switch style {
	case "day": // of the last entry; some months in another form
		day := (5*month+9*i)%28 + 1
		if month%5 == 0 {
			return fmt.Sprintf("%d-%02d-%02d", year, month, day)
		}
		return fmt.Sprintf("%02d/%02d/%d", day, month, year)
	case "short":
		return fmt.Sprintf("%s %d", months[month-1][:3], year)
	}
	return fmt.Sprintf("%d-%02d", year, month)
}

var (
	nulls   = []string{"n/a", "-", "none", "N/A", "--"}
	words   = []string{"closed", "out of stock", "see note", "stocktaking"}
	unclear = []string{"12 pcs", "1,23", "3.4.5", "$120.00", "approx. 90"}
	broken  = []string{"#N/A", "#DIV/0!", "#REF!", "#VALUE!"}
)

// usual is what a product may sell for in a month, in cents.
func usual(r *rand.Rand, p product, month, year int) int {
	season := 100 + 60*min(month, 13-month)/6
	cents := p.amount * season * (70 + r.IntN(60)) / 100
	return cents + cents*(year-2023)*6/100
}

// written turns a number as most write it into one as the coast does.
func (c coast) written(s string) string {
	if !c.ansi {
		return s
	}
	return strings.NewReplacer(",", ".", ".", ",").Replace(s)
}

// amount makes one cell: mostly a plain amount, and all that can be wrong with it.
func amount(r *rand.Rand, c coast, p product, month, year int) string {
	cents := usual(r, p, month, year)
	text, booking := cellText(r, c, cents)
	booked[place{c.name, year}] += booking
	return text
}

// cellText is a cell and how many cents of it are booked.
func cellText(r *rand.Rand, c coast, cents int) (text string, booking int) {
	pick := func(of []string) string { return of[r.IntN(len(of))] }
	switch k := r.IntN(1000); {
	case k < 45:
		return "", 0
	case k < 60:
		return pick(nulls), 0
	case k < 68:
		return pick(words), 0
	case k < 72:
		return c.written(pick(unclear)), 0
	case k < 76:
		return pick(broken), 0
	case k < 86:
		return c.written("(" + digits(cents/20, false) + ")"), -(cents / 20) // goods that came back
	case k < 100:
		return c.written("€ " + digits(cents, c.groups)), cents
	case k < 108:
		return c.written(digits(cents, c.groups) + " EUR"), cents
	case k < 112: // half a cent more
		return c.written(digits(cents, false) + "5"), cents + 1
	case k < 140:
		return fmt.Sprint(cents / 100), cents / 100 * 100
	}
	return c.written(digits(cents, c.groups)), cents
}

func digits(cents int, groups bool) string {
	whole := fmt.Sprint(cents / 100)
	if groups && len(whole) > 3 {
		whole = whole[:len(whole)-3] + "," + whole[len(whole)-3:]
	}
	return fmt.Sprintf("%s.%02d", whole, cents%100)
}

// line writes cells with commas, or with semicolons between them.
func line(cells []string, semicolon bool) string {
	delimiter := ","
	if semicolon {
		delimiter = ";"
	}
	out := make([]string, len(cells))
	for i, c := range cells {
		if strings.ContainsAny(c, delimiter+"\"\n") {
			c = `"` + strings.ReplaceAll(c, `"`, `""`) + `"`
		}
		out[i] = c
	}
	return strings.Join(out, delimiter)
}
