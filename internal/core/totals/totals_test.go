package totals_test

import (
	"context"
	"fmt"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/totals"
	"umbau/internal/format"
)

// job is a random table, and a slow way of adding it up.
type job struct {
	rows  [][]string // region, branch, month, amount, pieces
	table *finished.Table
}

var header = []string{"region", "Branch name", "month", "amount", "pieces"}

func newJob(t *testing.T, seed uint64, workers int) *job {
	r := rand.New(rand.NewPCG(seed, 91))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	j := &job{}
	for range 20 + r.IntN(400) {
		j.rows = append(j.rows, []string{pick("Lakes", "Skerries", "skerries", "Amber Bay", ""), pick("Holm", "Lowe", "HOLM", "Côte", "10", "9"),
			pick("2024-01", "2023-12", "2024-02", "2024-11", ""),
			pick("1", "2.5", "-3.125", "0.1", "1234567890123456789.99", "", "10.00", "7"), pick("1", "2", "3", "")})
	}
	for i := range j.rows { // one amount in twenty is none
		if i%20 == 5 {
			j.rows[i][3] = pick("closed", "n/a", "#REF!", "12 pcs")
		}
	}
	text := strings.Join(header, ",") + "\n"
	for _, row := range j.rows {
		text += strings.Join(row, ",") + "\n"
	}
	file := filepath.Join(t.TempDir(), "sales.csv")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	var err error
	j.table, err = finished.Open(context.Background(), file, finished.Options{Formats: format.All(), Workers: workers})
	require.NoError(t, err)
	return j
}

// number is the number of a cell, nil for none.
func number(text string) *big.Rat {
	n, ok := new(big.Rat).SetString(text)
	if !ok || strings.ContainsAny(text, "#") {
		return nil
	}
	return n
}

// value is what a row has in a column that is asked for.
func value(row []string, column string) string {
	switch column {
	case "side":
		switch key.Of(row[0]) {
		case "":
			return ""
		case "lakes", "amber bay":
			return "West"
		}
		return finished.Other
	case "year(month)":
		return strings.Split(row[2], "-")[0]
	}
	return row[slices.Index(header, column)]
}

// said is a figure as the contract writes it: at most 15 places, halves away from zero, no
// zeros at the end.
func said(n *big.Rat) string {
	text := n.FloatString(15) // which rounds halves away from zero
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	if text == "-0" {
		return "0"
	}
	return text
}

// figure is a show of some rows, the slow way.
func figure(rows, all [][]string, column string, show totals.Show) string {
	sum, least, most := new(big.Rat), (*big.Rat)(nil), (*big.Rat)(nil)
	filled, distinct := 0, map[string]bool{}
	for _, row := range rows {
		n := number(value(row, column))
		if n == nil {
			continue
		}
		filled++
		sum.Add(sum, n)
		distinct[n.RatString()] = true
		if least == nil || n.Cmp(least) < 0 {
			least = n
		}
		if most == nil || n.Cmp(most) > 0 {
			most = n
		}
	}
	switch show {
	case totals.Count:
		return fmt.Sprint(len(rows))
	case totals.Filled:
		return fmt.Sprint(filled)
	case totals.Distinct:
		return fmt.Sprint(len(distinct))
	}
	if filled == 0 {
		return "null"
	}
	switch show {
	case totals.Mean:
		return said(sum.Quo(sum, big.NewRat(int64(filled), 1)))
	case totals.Min:
		return said(least)
	case totals.Max:
		return said(most)
	case totals.Share:
		whole := new(big.Rat)
		for _, row := range all {
			if n := number(value(row, column)); n != nil {
				whole.Add(whole, n)
			}
		}
		if whole.Sign() == 0 {
			return "null"
		}
		return said(sum.Quo(sum.Mul(sum, big.NewRat(100, 1)), whole))
	}
	return said(sum)
}

// missing are the cells of some rows that are no number, and empty.
func missing(rows [][]string, column string) (gaps int) {
	for _, row := range rows {
		if text := value(row, column); text != "" && number(text) == nil {
			gaps++
		}
	}
	return gaps
}

// less puts labels in order: empty last, years and months by value, texts by the key; Other
// behind all others of a group.
func less(column, a, b string) bool {
	switch {
	case a == b:
		return false
	case a == "" || b == "":
		return b == "" && (column != "side" || a != finished.Other) || column == "side" && a == "" && b == finished.Other
	case column == "side" && (a == finished.Other || b == finished.Other):
		return b == finished.Other
	case key.Of(a) != key.Of(b):
		return key.Of(a) < key.Of(b)
	}
	return a < b
}

// where are the rows with some labels.
func where(rows [][]string, columns, labels []string) (out [][]string) {
	for _, row := range rows {
		fits := true
		for i, l := range labels {
			fits = fits && value(row, columns[i]) == l
		}
		if fits {
			out = append(out, row)
		}
	}
	return out
}

// labels are those of a column in some rows, in order.
func labels(rows [][]string, column string) (out []string) {
	for _, row := range rows {
		if v := value(row, column); !slices.Contains(out, v) {
			out = append(out, v)
		}
	}
	sort.Slice(out, func(i, j int) bool { return less(column, out[i], out[j]) })
	return out
}

// want writes the result, the slow way.
func (j *job) want(rows [][]string, by []string, across string, of []string, shows []totals.Show) (lines []string) {
	columns := [][]string{nil}
	if across != "" {
		columns = nil
		for _, l := range labels(rows, across) {
			columns = append(columns, []string{l})
		}
		columns = append(columns, nil)
	}
	var write func(fixed []string, in [][]string)
	write = func(fixed []string, in [][]string) {
		if len(fixed) < len(by) {
			for _, l := range labels(in, by[len(fixed)]) {
				write(append(slices.Clip(fixed), l), where(in, by[len(fixed):], []string{l}))
			}
		}
		line := fmt.Sprint(fixed)
		for _, c := range columns {
			cell := where(in, []string{across}, c)
			if slices.Contains(shows, totals.Count) {
				line += fmt.Sprintf(" %d", len(cell))
			}
			for _, m := range of {
				for _, s := range shows {
					if s != totals.Count {
						line += fmt.Sprintf(" %s/%d", figure(cell, rows, m, s), missing(cell, m))
					}
				}
			}
		}
		lines = append(lines, line)
	}
	write([]string{}, rows)
	return lines
}

// have writes the result of the program in the same way.
func have(r *totals.Result) (lines []string) {
	for _, row := range r.Rows {
		by := []string{}
		for _, l := range row.By {
			if l == nil {
				by = append(by, "")
			} else {
				by = append(by, *l)
			}
		}
		line := fmt.Sprint(by)
		for i, f := range row.Figures {
			text := "null"
			if f != nil {
				text = *f
			}
			if r.Columns[i].Show != totals.Count {
				text += fmt.Sprintf("/%d", row.Gaps[i])
			}
			line += " " + text
		}
		lines = append(lines, line)
	}
	return lines
}

// The totals of any table are those of a slow second way with rational numbers: for every
// show, by columns, formulas and groups, crossed, and under a filter; by any number of
// workers.
func TestRandomTotals(t *testing.T) {
	book, err := names.ReadBook("side", strings.NewReader("seen,standard\nLakes,West\nAmber Bay,West\n"))
	require.NoError(t, err)
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 7))
		columns := []string{"region", "Branch name", "month", "year(month)", "side"}
		r.Shuffle(len(columns), func(i, k int) { columns[i], columns[k] = columns[k], columns[i] })
		by, across := columns[:r.IntN(3)], ""
		if r.IntN(2) == 0 {
			across = columns[3]
		}
		of := [][]string{{"amount"}, {"pieces", "amount"}}[r.IntN(2)]
		all := []totals.Show{totals.Sum, totals.Count, totals.Filled, totals.Distinct, totals.Mean, totals.Min, totals.Max, totals.Share}
		r.Shuffle(len(all), func(i, k int) { all[i], all[k] = all[k], all[i] })
		shows := all[:1+r.IntN(4)]
		only := ""
		if r.IntN(3) == 0 {
			only = "region <> 'lakes'"
		}
		for _, workers := range []int{1, 3} {
			j := newJob(t, seed, workers)
			rows := j.rows
			if only != "" {
				rows = slices.DeleteFunc(slices.Clone(rows), func(row []string) bool { return key.Of(row[0]) == "lakes" || row[0] == "" })
			}
			v := j.table.View()
			require.NoError(t, v.Group("side", "REGION", book))
			result, err := totals.Of(context.Background(), v, totals.Asked{By: by, Across: across, Of: of, Show: shows, Only: only})
			require.NoError(t, err)
			require.Equal(t, j.want(rows, by, across, of, shows), have(result), "seed %d: by %v across %q show %v", seed, by, across, shows)
			require.Equal(t, []int{len(j.rows), len(rows)}, []int{result.Read, result.Kept})
		}
	}
}
