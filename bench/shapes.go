package main

import (
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"fmt"
	"hash/fnv"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"

	"github.com/xuri/excelize/v2"
)

var (
	coasts   = []string{"Skerries", "Amber Bay", "Long Sound", "Lakes"}
	branches = []string{"Harbour Street", "Quay 4", "Old Slip", "North Mole", "Boatyard", "Lock House", "Pier Head", "Ferry Steps"}
	products = []string{"Marine Rope 10 mm", "Brass Cleat", "Deck Brush", "Bilge Pump", "Oilskin Jacket", "Signal Flag", "Dock Line",
		"Anchor Chain", "Fender", "Hand Flare", "Life Vest", "Compass"}
	remarks = []string{`"paid late, twice"`, `"said ""urgent"""`, `"10 mm, cut to length"`, "counter", `"collected, no receipt"`, "by post"}
	// rare are remarks with a number, so that they hardly come again, letters beyond ASCII in some
	rare = []string{`"receipt %d, paid late"`, `"said ""by %d"""`, `"Größe %d, cut to length"`, "counter %d", `"collected by Mr Özdemir, %d"`,
		"post %d"}
)

// text writes a text file made by write, packed by its ending.
func text(path string, write func(w *bufio.Writer, r *rand.Rand)) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o777); err != nil {
		return err
	}
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer f.Close()
	var out io.Writer = f
	var closers []io.Closer
	switch filepath.Ext(path) {
	case ".gz":
		z := gzip.NewWriter(f)
		out, closers = z, append(closers, z)
	case ".zip":
		z := zip.NewWriter(f)
		m, err := z.Create(strings.TrimSuffix(filepath.Base(path), ".zip") + ".csv")
		if err != nil {
			return err
		}
		out, closers = m, append(closers, z)
	}
	w := bufio.NewWriter(out)
	name := fnv.New64a()
	io.WriteString(name, filepath.Base(path)) // no two files alike
	write(w, rand.New(rand.NewPCG(name.Sum64(), 7)))
	if err := w.Flush(); err != nil {
		return err
	}
	for _, c := range closers {
		if err := c.Close(); err != nil {
			return err
		}
	}
	return nil
}

// eachCoast writes an extract of each coast.
func eachCoast(dir, ending string, write func(w *bufio.Writer, r *rand.Rand)) error {
	for _, c := range coasts {
		if err := text(filepath.Join(dir, "raw", c+ending), write); err != nil {
			return err
		}
	}
	return nil
}

func pick(r *rand.Rand, of []string) string { return of[r.IntN(len(of))] }

func cents(r *rand.Rand) string { return fmt.Sprintf("%d.%02d", r.IntN(1000), r.IntN(100)) }

// grouped is an amount such as "12,345.60", in quotes where it has groups.
func grouped(r *rand.Rand) string {
	if r.IntN(2) == 0 {
		return cents(r)
	}
	return fmt.Sprintf(`"%d,%03d.%02d"`, 1+r.IntN(99), r.IntN(1000), r.IntN(100))
}

// wideFile is one product a column, with gaps, words and amounts of all kinds.
func wideFile(rows, columns int) func(*bufio.Writer, *rand.Rand) {
	return func(w *bufio.Writer, r *rand.Rand) {
		fmt.Fprint(w, "Branch,Month")
		for i := range columns {
			fmt.Fprintf(w, ",%s %d", products[i%len(products)], i/len(products))
		}
		fmt.Fprintln(w)
		for i := range rows {
			fmt.Fprintf(w, "%s %d,2024-%02d", pick(r, branches), i/12, 1+i%12)
			for range columns {
				w.WriteByte(',')
				switch k := r.IntN(100); {
				case k < 6:
				case k < 8:
					w.WriteString("n/a")
				case k < 10:
					w.WriteString(grouped(r))
				default:
					w.WriteString(cents(r))
				}
			}
			w.WriteByte('\n')
		}
	}
}

const widePlan = `umbau: 1
extracts: [{ files: raw/*, path: "{region}", unpivot: { header: "{product}", cell: amount } }]
fact:
  region: text
  branch: text
  month: month
  product: name
  amount: { is: number, decimals: 2, gaps: 0 }
deliver: [{ to: out.csv }]
record: record
`

// grainPlan asks besides that no row stands twice.
var grainPlan = strings.Replace(widePlan, "deliver:", "rows: { grain: [region, branch, month, product] }\ndeliver:", 1)

func wide(dir string, rows, columns int, ending string) (int, error) {
	each := rows / len(coasts) / columns
	return each * len(coasts) * columns, eachCoast(dir, ending, wideFile(each, columns))
}

const longPlan = `umbau: 1
extracts: [{ files: raw/*, path: "{region}", dates: 31/12/2024 }]
fact:
  region: text
  day: date
  branch: text
  product: text
  remark: text
  quantity: whole
  amount: { is: number, decimals: 2 }
deliver: [{ to: out.csv }]
record: record
`

// lookupPlan looks up the coast of a thousand branches in a reference of 200,000.
var lookupPlan = strings.NewReplacer("{ files: raw/*, path", "{ files: raw/*.csv, path",
	"  quantity:", "  coast: { lookup: branches, by: product, take: Coast, keep: no }\n  quantity:",
	"deliver:", "references: { branches: { file: branches.txt } }\ndeliver:").Replace(longPlan)

// lookup has products of a thousand kinds, a reference, and a plan without it.
func lookup(dir string, rows int) (int, error) {
	var b bytes.Buffer
	b.WriteString("Product,Coast\n")
	for i := range 200_000 {
		fmt.Fprintf(&b, "P%06d,%s\n", i, coasts[i%len(coasts)])
	}
	if err := os.WriteFile(filepath.Join(dir, "branches.txt"), b.Bytes(), 0o666); err != nil {
		return 0, err
	}
	if err := os.WriteFile(filepath.Join(dir, "without.yaml"), []byte(longPlan), 0o666); err != nil {
		return 0, err
	}
	return rows, eachCoast(dir, ".csv", func(w *bufio.Writer, r *rand.Rand) {
		fmt.Fprintln(w, "Day,Branch,Product,Remark,Quantity,Amount")
		for range rows / len(coasts) {
			fmt.Fprintf(w, "%02d/%02d/%d,%s,P%06d,%s,%d,%s\n", 1+r.IntN(28), 1+r.IntN(12), 2022+r.IntN(4), pick(r, branches), r.IntN(1000),
				pick(r, remarks), 1+r.IntN(40), grouped(r))
		}
	})
}

func long(dir string, rows int) (int, error) {
	return rows, eachCoast(dir, ".csv", func(w *bufio.Writer, r *rand.Rand) {
		fmt.Fprintln(w, "Day,Branch,Product,Remark,Quantity,Amount")
		for range rows / len(coasts) {
			fmt.Fprintf(w, "%02d/%02d/%d,%s,%s,%s,%d,%s\n", 1+r.IntN(28), 1+r.IntN(12), 2022+r.IntN(4), pick(r, branches), pick(r, products),
				fmt.Sprintf(pick(r, rare), r.IntN(1e9)), 1+r.IntN(40), grouped(r))
		}
	})
}

const invoicesPlan = `umbau: 1
extracts: [{ files: raw/*, path: "{region}" }]
fact:
  region: text
  invoice: text
  amount: { is: number, decimals: 2 }
deliver: [{ to: out.csv }]
record: record
`

// invoices are rows with so many different numbers of invoices.
func invoices(dir string, rows, distinct int) (int, error) {
	return rows, eachCoast(dir, ".csv", func(w *bufio.Writer, r *rand.Rand) {
		fmt.Fprintln(w, "Invoice,Amount")
		for range rows / len(coasts) {
			fmt.Fprintf(w, "INV-%07d,%s\n", r.IntN(distinct), cents(r))
		}
	})
}

const codesPlan = `umbau: 1
extracts: [{ files: raw/*, path: "{region}" }]
fact:
  region: text
  month: text
  article: { is: name, read: "*-{} *" }
  amount: { is: number, decimals: 2 }
rows: { grain: [region, month, article] }
deliver: [{ to: out.csv }]
record: record
`

// codes is 200,000 codes, each in its own text, in every file.
func codes(dir string, rows int) (int, error) {
	const distinct = 200_000
	return rows, eachCoast(dir, ".csv", func(w *bufio.Writer, r *rand.Rand) {
		fmt.Fprintln(w, "Month,Article,Amount")
		for i := range rows / len(coasts) {
			n := i * 7919 % distinct
			fmt.Fprintf(w, "2024-%02d,art-%c%07d %s,%s\n", 1+i/distinct%12, 'A'+rune(n%26), n, products[n%len(products)], grouped(r))
		}
	})
}

func files(dir string, n int) (int, error) {
	for i := range n {
		if err := text(filepath.Join(dir, "raw", fmt.Sprintf("%s %05d.csv", coasts[i%len(coasts)], i)), wideFile(3, 4)); err != nil {
			return 0, err
		}
	}
	return 12 * n, nil
}

const bookPlan = `umbau: 1
extracts: [{ files: book.xlsx }]
fact:
  day: date
  branch: text
  product: text
  remark: text
  quantity: whole
  amount: { is: number, decimals: 2 }
  cost: { is: number, decimals: 2 }
  a: text
  b: text
  c: text
  d: { is: number, decimals: 2 }
  e: { is: number, decimals: 2 }
  f: { is: number, decimals: 2 }
  g: { is: number, decimals: 2 }
deliver: [{ to: out.csv }]
record: record
`

func book(dir string, rows int) (int, error) {
	x := excelize.NewFile()
	defer x.Close()
	s, err := x.NewStreamWriter("Sheet1")
	if err != nil {
		return 0, err
	}
	head := []any{"day", "branch", "product", "remark", "quantity", "amount", "cost", "a", "b", "c", "d", "e", "f", "g"}
	r := rand.New(rand.NewPCG(1, 7))
	for i := range rows + 1 {
		if i > 0 {
			n := func() any { return float64(r.IntN(1e6)) / 100 }
			head = []any{fmt.Sprintf("2024-%02d-%02d", 1+r.IntN(12), 1+r.IntN(28)), pick(r, branches), pick(r, products), "counter", r.IntN(40),
				n(), n(),
				pick(r, coasts), pick(r, branches), pick(r, products), n(), n(), n(), n()}
		}
		if err := s.SetRow(fmt.Sprintf("A%d", i+1), head); err != nil {
			return 0, err
		}
	}
	if err := s.Flush(); err != nil {
		return 0, err
	}
	return rows, x.SaveAs(filepath.Join(dir, "book.xlsx"))
}
