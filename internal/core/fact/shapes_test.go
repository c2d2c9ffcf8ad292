package fact_test

import (
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A table that is unpivoted and widened again is the table.
func TestUnpivotThenWiden(t *testing.T) {
	for seed := range uint64(6) {
		r := rand.New(rand.NewPCG(seed, 11))
		products := 1 + r.IntN(9)
		var header []string
		columns := ""
		for p := range products {
			header = append(header, fmt.Sprintf("P%d", p))
			columns += fmt.Sprintf(", P%d: { is: number, blanks: leave }", p)
		}
		var table strings.Builder
		table.WriteString("branch," + strings.Join(header, ",") + "\n")
		for i := range 1 + r.IntN(3000) {
			cells := make([]string, products)
			for p := range cells {
				if r.IntN(4) > 0 {
					cells[p] = fmt.Sprint(r.IntN(1000))
				}
			}
			cells[r.IntN(products)] = "1.5"
			fmt.Fprintf(&table, "B%d,%s\n", i, strings.Join(cells, ","))
		}
		j := &job{dir: t.TempDir()}
		j.write(t, "raw.csv", table.String())
		j.write(t, "umbau.yaml", `umbau: 1
extracts: [{ files: raw.csv, unpivot: { header: "{product}", cell: amount, blanks: skip } }]
fact: { branch: text, product: text, amount: number }
deliver: [{ to: out/long.csv }]
`)
		j.build(t, 2)
		long := j.files(t)["long.csv"]
		rows := strings.Split(strings.TrimSuffix(long, "\n"), "\n")
		tail := rows[2:] // all but the first branch come in another order
		r.Shuffle(len(tail)/2, func(a, b int) { tail[a], tail[b] = tail[b], tail[a] })
		j.write(t, "long.csv", strings.Join(rows, "\n")+"\n")
		j.write(t, "umbau.yaml", fmt.Sprintf(`umbau: 1
extracts: [{ files: long.csv, widen: { header: product, cell: amount } }]
fact: { branch: text%s }
deliver: [{ to: out/s.csv }]
record: out/record
`, columns))
		j.build(t, 3)
		want := strings.Split(strings.TrimSpace(table.String()), "\n")
		have := strings.Split(strings.TrimSpace(j.files(t)["s.csv"]), "\n")
		require.Equal(t, want[0], have[0])
		require.ElementsMatch(t, want, have, filepath.Base(j.dir))
	}
}

const sharedPlan = `umbau: 1
extracts:
  - files: raw.csv
    unpivot: { header: "{measure} {product}", cell: "{measure}" }
    absent: leave
fact:
  branch: text
  product: name
  qty: { is: whole, blanks: leave }
  value: { is: whole, blanks: leave }
  tax: { is: whole, blanks: leave }
deliver: [{ to: out/s.csv }]
`

// No wide cell is lost or doubled, however measures and products stand in the
// headers.
func TestSharedRows(t *testing.T) {
	for seed := range uint64(8) {
		r := rand.New(rand.NewPCG(seed, 13))
		measures := []string{"Qty", "Value", "Tax"}
		type column struct{ measure, product string }
		var columns []column
		for p := range 1 + r.IntN(6) {
			for _, m := range measures {
				if r.IntN(3) > 0 {
					columns = append(columns, column{m, fmt.Sprintf("P%d", p)})
				}
			}
		}
		columns = append(columns, column{"Value", "Q"})
		r.Shuffle(len(columns), func(a, b int) { columns[a], columns[b] = columns[b], columns[a] })
		products := map[string]bool{}
		sums := map[string]int{}
		var table strings.Builder
		table.WriteString("branch")
		for _, c := range columns {
			table.WriteString("," + c.measure + " " + strings.ToUpper(c.product))
			products[c.product] = true
		}
		n := 1 + r.IntN(2000)
		for i := range n {
			fmt.Fprintf(&table, "\nB%d", i)
			for _, c := range columns {
				v := r.IntN(500)
				sums[c.measure] += v
				fmt.Fprintf(&table, ",%d", v)
			}
		}
		j := &job{dir: t.TempDir()}
		j.write(t, "raw.csv", table.String()+"\n")
		j.write(t, "umbau.yaml", sharedPlan)
		s := j.build(t, 2)
		require.Equal(t, n*len(products), s.FactRows)
		rows := j.records(t, j.files(t)["s.csv"])
		cells := 0
		for _, m := range measures {
			require.Equal(t, fmt.Sprint(sums[m]), total(t, rows, strings.ToLower(m)).RatString(), m)
			for _, row := range rows {
				if row[strings.ToLower(m)] != "" {
					cells++
				}
			}
		}
		require.Equal(t, n*len(columns), cells)
	}
}
