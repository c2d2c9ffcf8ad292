package e2e

import (
	"bytes"
	"cmp"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/cli"
)

// soldOf is a fact row of TestDeliveriesReadTwice, in the order of the table.
type soldOf [5]string // product, family, branch, month, amount

var soldHeader = []string{"product", "family", "branch", "month", "amount"}

// soldByChance are rows of some products, each in a family.
func soldByChance(r *rand.Rand, families map[string]string) (rows []soldOf) {
	products := []string{"Dock Line", "Oar", "Brass Cleat", "Signal Flag", "Fender", "Winch"}
	branches := []string{"Holm", "Saltby", "Marram", "Gannet Quay", ""}
	for range 1 + r.IntN(30) {
		p := products[r.IntN(len(products))]
		rows = append(rows, soldOf{p, families[p], branches[r.IntN(len(branches))], fmt.Sprintf("%d-%02d", 2023+r.IntN(2), 1+r.IntN(12)),
			fmt.Sprintf("%d.%02d", r.IntN(900)-40, r.IntN(100))})
	}
	return rows
}

// sorted are rows sorted by columns, those with a minus downwards, empty values last.
func sorted(rows []soldOf, by []string) []soldOf {
	out := slices.Clone(rows)
	slices.SortStableFunc(out, func(a, b soldOf) int {
		for _, name := range by {
			column, down := strings.CutPrefix(name, "-")
			i := slices.Index(soldHeader, column)
			x, y := a[i], b[i]
			order := cmp.Compare(strings.ToLower(x), strings.ToLower(y))
			if column == "amount" {
				p, _ := strconv.ParseFloat(x, 64)
				q, _ := strconv.ParseFloat(y, 64)
				order = cmp.Compare(p, q)
			}
			switch {
			case x == y:
			case x == "" || y == "":
				return cmp.Compare(y, x)
			case down:
				return -order
			default:
				return order
			}
		}
		return 0
	})
	return out
}

// delivered makes sure of what a file holds.
func delivered(t *testing.T, file string, header []string, rows [][]string, what string) {
	text, err := os.ReadFile(file)
	require.NoError(t, err, what)
	require.Equal(t, append([][]string{header}, rows...), readCSV(t, text), "%s: %s", what, filepath.Base(file))
}

// ids are what a dimension should hold: values in the order of their coming, in all builds.
type ids []string

func (d *ids) of(value string) string {
	if value == "" {
		return "0"
	}
	if !slices.Contains(*d, value) {
		*d = append(*d, value)
	}
	return strconv.Itoa(slices.Index(*d, value) + 1)
}

// months are all from one to another.
func months(first, last string) (out []string) {
	for y := 2023; y < 2026; y++ {
		for m := 1; m <= 12; m++ {
			if text := fmt.Sprintf("%d-%02d", y, m); text >= first && text <= last {
				out = append(out, text)
			}
		}
	}
	return out
}

// A delivery that is sorted, one of a file a value, and a star whose ids stay from build to build: each is worked out
// here a second time, from the rows of three months one after another.
func TestDeliveriesReadTwice(t *testing.T) {
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 44))
		dir := t.TempDir()
		by := slices.Clone(soldHeader)
		r.Shuffle(len(by), func(i, j int) { by[i], by[j] = by[j], by[i] })
		for i := range by {
			if r.IntN(2) == 0 {
				by[i] = "-" + by[i]
			}
		}
		by = by[:1+r.IntN(3)]
		value := soldHeader[r.IntN(3)]
		plan := fmt.Sprintf(`umbau: 1
extracts: [{ files: raw/*.csv }]
fact:
  product: text
  family: { from: product, is: name, book: families.csv }
  branch: { is: text, blanks: leave }
  month: month
  amount: { is: number, decimals: 2 }
deliver:
  - { to: out/sorted.csv, sort: [%s], columns: [amount, branch] }
  - { to: "out/by/{%s}.csv" }
  - to: out/star/{table}.csv
    star: { fact: sales, dimensions: { product: [product, family], branch: [branch], calendar: month } }
record: out/record
`, strings.Join(by, ", "), value)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(plan), 0o666))
		families := map[string]string{"Dock Line": "Ropes", "Oar": "Boats", "Brass Cleat": "Fittings", "Signal Flag": "Flags",
			"Fender": "Boats", "Winch": "Fittings"}
		star := &starOf{families: families}
		for month := range 3 {
			if month > 0 {
				families["Oar"] = []string{"Boats", "Hand tools"}[r.IntN(2)]
			}
			what := fmt.Sprintf("seed %d, month %d", seed, month)
			rows := soldByChance(r, families)
			writeSold(t, dir, rows, families)
			require.Zero(t, cli.Main([]string{"build", filepath.Join(dir, "umbau.yaml"), "--quiet"}, io.Discard, os.Stderr), what)
			checkSold(t, filepath.Join(dir, "out"), rows, by, value, what)
			star.check(t, filepath.Join(dir, "out/star"), rows, what)
		}
	}
}

func writeSold(t *testing.T, dir string, rows []soldOf, families map[string]string) {
	var text, book bytes.Buffer
	fmt.Fprintln(&text, "Product,Branch,Month,Amount")
	for _, row := range rows {
		fmt.Fprintln(&text, strings.Join([]string{row[0], row[2], row[3], row[4]}, ","))
	}
	fmt.Fprintln(&book, "seen,standard")
	for _, product := range slices.Sorted(maps.Keys(families)) {
		fmt.Fprintln(&book, product+","+families[product])
	}
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "raw/sales.csv"), text.Bytes(), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "families.csv"), book.Bytes(), 0o666))
}

// checkSold holds what is sorted, and what is a file a value, against the rows.
func checkSold(t *testing.T, out string, rows []soldOf, by []string, value, what string) {
	var want [][]string
	for _, row := range sorted(rows, by) {
		want = append(want, []string{row[4], row[2]})
	}
	delivered(t, filepath.Join(out, "sorted.csv"), []string{"amount", "branch"}, want, what)
	files := map[string][][]string{}
	for _, row := range rows {
		name := cmp.Or(row[slices.Index(soldHeader, value)], "(empty)")
		files[name] = append(files[name], row[:])
	}
	for name, want := range files {
		delivered(t, filepath.Join(out, "by", name+".csv"), soldHeader, want, what)
	}
}

// starOf is what a star should hold, from build to build.
type starOf struct {
	families           map[string]string
	products, branches ids
	first, last        string
}

func (s *starOf) check(t *testing.T, out string, rows []soldOf, what string) {
	var facts [][]string
	for _, row := range rows {
		s.first, s.last = min(cmp.Or(s.first, row[3]), row[3]), max(s.last, row[3])
		facts = append(facts, []string{s.products.of(row[0]), s.branches.of(row[2]), strings.ReplaceAll(row[3], "-", ""), row[4]})
	}
	delivered(t, filepath.Join(out, "sales.csv"), []string{"product_id", "branch_id", "calendar_id", "amount"}, facts, what)
	products := [][]string{{"0", "(none)", "(none)"}}
	for i, p := range s.products {
		products = append(products, []string{strconv.Itoa(i + 1), p, s.families[p]})
	}
	branches := [][]string{{"0", "(none)"}}
	for i, b := range s.branches {
		branches = append(branches, []string{strconv.Itoa(i + 1), b})
	}
	delivered(t, filepath.Join(out, "branch.csv"), []string{"branch_id", "branch"}, branches, what)
	now := map[string]bool{} // those that are gone keep their line as it was
	for _, row := range rows {
		now[row[0]] = true
	}
	text, err := os.ReadFile(filepath.Join(out, "product.csv"))
	require.NoError(t, err)
	have := readCSV(t, text)
	require.Len(t, have, len(products)+1, what)
	for i, line := range have[1:] {
		if line[0] == "0" || now[line[1]] {
			require.Equal(t, products[i], line, what)
		} else {
			require.Equal(t, products[i][:2], line[:2], what)
		}
	}
	text, err = os.ReadFile(filepath.Join(out, "calendar.csv"))
	require.NoError(t, err)
	var calendar []string
	for _, line := range readCSV(t, text)[2:] {
		calendar = append(calendar, line[1])
	}
	require.Equal(t, months(s.first, s.last), calendar, what)
}
