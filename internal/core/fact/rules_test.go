package fact_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// randomRules writes a plan of random rules of all kinds, and extracts for it: one
// entry long with commas and points, one wide and in pairs with semicolons and decimal
// commas.
func randomRules(t *testing.T, seed uint64) (j *job, repeats string) {
	r := rand.New(rand.NewPCG(seed, 11))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	j = &job{r: r, dir: t.TempDir()}
	rules := func(values ...string) string {
		var parts []string
		for _, k := range kinds {
			parts = append(parts, k+": "+pick(append(values, "leave", "drop", "hold")...))
		}
		return strings.Join(parts, ", ")
	}
	only := pick("", "only: \"=amount >= 0 or quantity > 1\", ", "only: \"=product <> 'Oar'\", ", "only: \"=month >= '2024-03'\", ",
		"only: =double > 4, ")
	repeats = pick("keep", "sum", "first", "last")
	ratio := pick("leave", "0", "hold", "drop")
	if repeats == "sum" { // a sum that divides by zero cannot be held
		ratio = pick("leave", "0")
	}
	j.write(t, "umbau.yaml", fmt.Sprintf(`umbau: 1
extracts:
  - files: raw/long*.csv
    path: "{source}"
    short_rows: fill
  - files: raw/wide*.csv
    path: "{source}"
    numbers: 1.234,56
    dates: 31.12.2024
    unpivot: { header: "{what} {product}", cell: "{what}", blanks: %s }
fact:
  source: { keep: no }
  since: { is: month, from: source, texts: 2024-01, unclear: 2024-02, keep: no }
  day: { is: date, blanks: above, unclear: above, keep: no }
  month: =month(day)
  product: { is: name, book: book.csv, unknown: %s, blanks: leave }
  quantity: { is: whole, %s }
  amount: { is: number, decimals: 2, mark: amount_gap, %s }
  double: { formula: amount + amount, keep: no }
  margin: =amount - quantity
  ratio: { formula: amount / quantity, errors: %s }
rows: { %szeros: %s, grain: [month, product], repeats: %s }
deliver: [{ to: out/s.csv }]
record: out/record
`, pick("keep", "skip"), pick("hold", "drop", "keep", "Other"), rules("0", "3"), rules("0", "1.25", "\"=quantity * 2\""), ratio, only,
		pick("keep", "drop"), repeats))
	j.write(t, "book.csv", "seen,standard\nBuoy,Buoy\nBouy,Buoy\nDock Line,Dock Line\n")
	j.writeLong(t, pick)
	j.writeWide(t, pick)
	return j, repeats
}

// writeLong writes extracts with a row a fact.
func (j *job) writeLong(t *testing.T, pick func(...string) string) {
	r := j.r
	for i := range 1 + r.IntN(3) {
		var b strings.Builder
		b.WriteString("day,product,quantity,amount\n2024-01-01,Buoy,1,1\n")
		for range r.IntN(200) {
			fmt.Fprintf(&b, "%s,%s,%s,%s\n", pick("2024-02-01", "2024-03-05", "7 March 2024", "", "03/04/2024", "2024-02-30"),
				pick("Buoy", "BOUY", "dock-line", "Oar", "Sail", ""),
				pick("1", "2", "0", "-3", "", "n/a", "two", "2.5", "#N/A", "(4)"),
				pick("1", "0", "1.005", "-2.50", "0.004", "", "-", "closed", "12 pcs", "#REF!", "\"1,234.5\"", "12345678901234567890.125", "7 EUR",
					"8 USD"))
		}
		j.write(t, fmt.Sprintf("raw/long %d.csv", i), b.String())
	}
}

// writeWide writes extracts with pairs of wide columns.
func (j *job) writeWide(t *testing.T, pick func(...string) string) {
	r := j.r
	for i := range 1 + r.IntN(2) {
		var b strings.Builder
		b.WriteString("day;Quantity Buoy;Amount Buoy;Amount dock line;Quantity Oar;Amount Oar\n1.1.2024;1;1;1;1;1\n")
		for range r.IntN(60) {
			b.WriteString(pick("1.2.2024", "05.03.2024", "2024-03-09", "", "2/3/24"))
			for range 5 {
				b.WriteString(";" + pick("1", "2", "0", "", "", "n/a", "1,23", "1.234,50", "1.5", "x", "#N/A", "-4"))
			}
			b.WriteString("\n")
		}
		j.write(t, fmt.Sprintf("raw/wide %d.csv", i), b.String())
	}
}

func rat(t *testing.T, text string) *big.Rat {
	n, ok := new(big.Rat).SetString(text)
	require.True(t, ok, text)
	return n
}

// Whatever the rules: every row and every amount is accounted for, what the record
// lists is what it counts, formulas hold in every delivered row, and any number of
// workers gives the same bytes.
func TestRandomRules(t *testing.T) {
	for seed := range uint64(40) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			j, repeats := randomRules(t, seed)
			s := j.build(t, 1)
			files := j.files(t)
			changes := 0
			for _, c := range s.Changes {
				changes += c.Count
			}
			require.Len(t, j.records(t, files["changes.csv"]), changes)
			fact, ties, rows := j.records(t, files["s.csv"]), j.records(t, files["ties.csv"]), j.records(t, files["rows.csv"])
			j.checkTies(t, fact, ties, rows)
			j.checkRows(t, files, repeats)
			for _, workers := range []int{2, 5} {
				j.build(t, workers)
				require.Equal(t, files, j.files(t), "%d workers", workers)
			}
		})
	}
}

// checkTies makes sure that every amount and every row is accounted for.
func (j *job) checkTies(t *testing.T, fact, ties, rows []map[string]string) {
	for _, line := range ties {
		in := new(big.Rat).Add(rat(t, line["extracts"]), rat(t, line["changed"]))
		out := new(big.Rat).Add(rat(t, line["fact"]), new(big.Rat).Add(rat(t, line["held"]), rat(t, line["left_out"])))
		require.Zero(t, in.Cmp(out), "%v", line)
	}
	for _, m := range []string{"quantity", "amount"} {
		sum := new(big.Rat)
		for _, line := range ties {
			if line["measure"] == m {
				sum.Add(sum, rat(t, line["fact"]))
			}
		}
		require.Zero(t, total(t, fact, m).Cmp(sum), m)
	}
	for _, line := range rows {
		n := func(columns ...string) int64 {
			sum := new(big.Rat)
			for _, c := range columns {
				sum.Add(sum, rat(t, line[c]))
			}
			return sum.Num().Int64()
		}
		require.Equal(t, n("read"), n("blank", "repeated_header", "total", "footnote", "section", "used"))
		require.Equal(t, n("made"), n("skipped", "dropped", "held", "filtered", "zero", "repeated", "fact_rows"))
	}
}

// checkRows makes sure that the record lists what it counts, and that formulas hold.
func (j *job) checkRows(t *testing.T, files map[string]string, repeats string) {
	fact, rows := j.records(t, files["s.csv"]), j.records(t, files["rows.csv"])
	left := map[string]int64{}
	for _, line := range j.records(t, files["left_out.csv"]) {
		left[line["reason"]]++
	}
	for _, reason := range []string{"skipped", "dropped", "filtered", "zero", "repeated"} {
		if reason != "repeated" || repeats != "sum" {
			require.Equal(t, total(t, rows, reason).Num().Int64(), left[reason], reason)
		}
	}
	require.EqualValues(t, total(t, rows, "held").Num().Int64(), len(j.records(t, files["held.csv"])))
	require.EqualValues(t, total(t, rows, "fact_rows").Num().Int64(), len(fact))
	grain := map[string]bool{}
	for _, line := range fact {
		k := line["month"] + "|" + line["product"]
		require.False(t, repeats != "keep" && grain[k], k)
		grain[k] = true
		if line["amount"] == "" || line["quantity"] == "" {
			require.Empty(t, line["margin"])
			continue
		}
		require.Zero(t, rat(t, line["margin"]).Cmp(new(big.Rat).Sub(rat(t, line["amount"]), rat(t, line["quantity"]))))
	}
}
