package fact_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
)

// feedJob is a random table whose looked-up columns feed all that a column can feed: a book,
// a group, another lookup, a formula, a filter, the grain, and sums of repeats.
type feedJob struct {
	job
	rows, branches, rates, classes [][]string
	only, repeats                  string
}

// The books of the job, by key.
var (
	coasts = map[string]string{"skerries": "Skerries", "skeries": "Skerries", "lakes": "Lakes", key.Of("Long Sound"): "Long Sound"}
	areas  = map[string]string{"skerries": "North", "lakes": "South", key.Of("Long Sound"): "South"}
	months = map[string]string{"2024-01": "2024-01", "Jan 2024": "2024-01", "2024-01-15": "2024-01", "2024-02": "2024-02",
		"February 2024": "2024-02", "2024-03": "2024-03"}
)

func newFeedJob(t *testing.T, seed uint64) *feedJob {
	r := rand.New(rand.NewPCG(seed, 83))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	month := func() string { return pick("2024-01", "Jan 2024", "2024-01-15", "2024-02", "February 2024", "2024-03") }
	j := &feedJob{job: job{r: r, dir: t.TempDir()}, only: pick("", `, only: "=area <> 'North'"`, ", only: =worth > 10"),
		repeats: pick("keep", "sum", "first")}
	for range 1 + r.IntN(150) {
		j.rows = append(j.rows, []string{pick("Holm", "holm.", "Saltby", "SALTBY", "Lowe", "Wick"), pick("Buoy", "Oar"), month(),
			pick("1", "2", "3.5", "0.25", "-1", "10")})
	}
	for _, branch := range []string{"HOLM", "saltby", "Lowe"} {
		j.branches = append(j.branches, []string{branch, pick("Skerries", "SKERIES", "lakes", "Long-Sound")})
	}
	for range r.IntN(8) {
		j.rates = append(j.rates, []string{pick("Skerries", "LAKES", "long sound", "Nowhere"), month(), pick("1,5", "2", "0,25", "1.000")})
	}
	for _, amount := range []string{"1", "2", "3,5", "4"}[:r.IntN(5)] {
		j.classes = append(j.classes, []string{amount, pick("small", "large")})
	}
	table := func(sep string, lines ...[]string) (text string) {
		for _, l := range lines {
			text += strings.Join(l, sep) + "\n"
		}
		return text
	}
	j.write(t, "raw/a.csv", "branch,product,month,amount\n"+table(",", j.rows...))
	j.write(t, "ref/branches.csv", "Shop,Coast\n"+table(",", j.branches...))
	j.write(t, "ref/rates.csv", "coast;month;Rate\n"+table(";", j.rates...))
	j.write(t, "ref/classes.csv", "amount;class\n"+table(";", j.classes...))
	j.write(t, "coasts.csv", "seen,standard\nSkerries,Skerries\nSkeries,Skerries\nLakes,Lakes\nLong Sound,Long Sound\n")
	j.write(t, "areas.csv", "seen,standard\nSkerries,North\nLakes,South\nLong Sound,South\n")
	j.write(t, "umbau.yaml", fmt.Sprintf(`umbau: 1
extracts: [{ files: raw/*.csv, footnotes: keep }]
fact:
  branch: { keep: no }
  product: text
  month: month
  amount: { is: number, decimals: 2 }
  coast: { is: name, book: coasts.csv, lookup: branches, by: { branch: Shop }, missing: Nowhere, unknown: keep }
  area: { is: name, book: areas.csv, from: coast, unknown: Other }
  rate: { is: number, lookup: rates, by: [coast, month], missing: 1, repeats: sum, add: no }
  worth: { formula: amount * rate, decimals: 4 }
  class: { is: text, lookup: classes, by: amount, missing: none }
references:
  branches: { file: ref/branches.csv }
  rates: { file: ref/rates.csv, numbers: "1.234,56" }
  classes: { file: ref/classes.csv, numbers: "1.234,56" }
rows: { grain: [coast, month, product], repeats: %s%s }
deliver: [{ to: out/s.csv }]
record: out/record
`, j.repeats, j.only))
	return j
}

// coast is that of a branch, as the book has it.
func (j *feedJob) coast(branch string) string {
	for _, l := range j.branches {
		if key.Of(l[0]) == key.Of(branch) {
			return coasts[key.Of(l[1])]
		}
	}
	return "Nowhere"
}

// rate is the sum of all rates of a coast in a month.
func (j *feedJob) rate(t *testing.T, coast, month string) *big.Rat {
	sum, found := new(big.Rat), false
	for _, l := range j.rates {
		if key.Of(l[0]) == key.Of(coast) && months[l[1]] == month {
			sum.Add(sum, withComma(t, l[2]))
			found = true
		}
	}
	if !found {
		return big.NewRat(1, 1)
	}
	return sum
}

func (j *feedJob) class(t *testing.T, amount *big.Rat) string {
	for _, l := range j.classes {
		if withComma(t, l[0]).Cmp(amount) == 0 {
			return l[1]
		}
	}
	return "none"
}

func withComma(t *testing.T, text string) *big.Rat {
	return rat(t, strings.ReplaceAll(strings.ReplaceAll(text, ".", ""), ",", "."))
}

// want is the table, by a look at each row.
func (j *feedJob) want(t *testing.T) (lines []string) {
	type line struct {
		product, month, coast, area string
		amount                      *big.Rat
	}
	var list []*line
	grain := map[string]*line{}
	for _, row := range j.rows {
		l := &line{product: row[1], month: months[row[2]], coast: j.coast(row[0]), amount: rat(t, row[3])}
		if l.area = areas[key.Of(l.coast)]; l.area == "" {
			l.area = "Other"
		}
		worth := new(big.Rat).Mul(l.amount, j.rate(t, l.coast, l.month))
		if strings.Contains(j.only, "area") && l.area == "North" || strings.Contains(j.only, "worth") && worth.Cmp(big.NewRat(10, 1)) <= 0 {
			continue
		}
		before := grain[l.product+l.month+l.coast]
		switch {
		case before == nil || j.repeats == "keep":
			list = append(list, l)
			grain[l.product+l.month+l.coast] = l
		case j.repeats == "sum":
			before.amount.Add(before.amount, l.amount)
		}
	}
	for _, l := range list {
		rate := j.rate(t, l.coast, l.month)
		lines = append(lines, strings.Join([]string{l.product, l.month, l.amount.FloatString(2), l.coast, l.area, exact(rate),
			new(big.Rat).Mul(l.amount, rate).FloatString(4), j.class(t, l.amount)}, "|"))
	}
	return lines
}

// What is looked up feeds what any column feeds, and is looked up again where repeats are
// summed; a slow look at each row says the same.
func TestLookupsFeed(t *testing.T) {
	for seed := range uint64(60) {
		j := newFeedJob(t, seed)
		want := j.want(t)
		j.build(t, 1)
		var have []string
		for _, row := range j.records(t, j.files(t)["s.csv"]) {
			have = append(have, strings.Join([]string{row["product"], row["month"], row["amount"], row["coast"], row["area"], row["rate"],
				row["worth"], row["class"]}, "|"))
		}
		require.Equal(t, want, have, "seed %d", seed)
		files := j.files(t)
		j.build(t, 3)
		require.Equal(t, files, j.files(t), "seed %d, 3 workers", seed)
	}
}
