package widen_test

import (
	"context"
	"fmt"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/finished"
	"umbau/internal/core/place"
	"umbau/internal/core/widen"
	"umbau/internal/format"
)

func wide(t *testing.T, rows [][]string, workers int, asked widen.Asked) (*widen.Result, error) {
	text := "branch,month,amount\n"
	for _, row := range rows {
		text += strings.Join(row, ",") + "\n"
	}
	file := filepath.Join(t.TempDir(), "t.csv")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	table, err := finished.Open(context.Background(), file, finished.Options{Formats: format.All(), Workers: workers})
	require.NoError(t, err)
	asked.Across, asked.Cells = "month", []string{"amount"}
	return widen.Of(context.Background(), table.View(), asked)
}

func randomRows(r *rand.Rand, most int) (rows [][]string) {
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	for range 1 + r.IntN(most) {
		rows = append(rows, []string{pick("Holm", "HOLM", "Lowe", "Côte", ""), pick("2024-02", "2024-01", "2023-12", ""),
			pick("1.5", "-2", "0.125", "7", "", "100000000000000000.01")})
	}
	rows = slices.DeleteFunc(rows, func(row []string) bool { return strings.Join(row, "") == "" }) // a blank line is no row
	return append(rows, []string{"Saltby", "2024-01", "0.5"})
}

// long are the rows of a wide table, cell by cell; what has no value aside.
func long(r *widen.Result) (rows []string) {
	for _, row := range r.Rows {
		for i, cell := range row[r.By:] {
			if cell != nil {
				branch, month := "", r.Columns[r.By+i]
				if row[0] != nil {
					branch = *row[0]
				}
				if month == "(empty)" {
					month = ""
				}
				rows = append(rows, branch+"|"+month+"|"+*cell)
			}
		}
	}
	slices.Sort(rows)
	return rows
}

// A wide table taken apart again is the rows that it was made of, each once.
func TestThereAndBack(t *testing.T) {
	for seed := range uint64(40) {
		seen := map[string]bool{}
		rows := slices.DeleteFunc(randomRows(rand.New(rand.NewPCG(seed, 3)), 60), func(row []string) bool {
			k := row[0] + "|" + row[1]
			again := seen[k]
			seen[k] = true
			return again
		})
		var want []string
		for _, row := range rows {
			if row[2] != "" {
				want = append(want, strings.Join(row, "|"))
			}
		}
		slices.Sort(want)
		for _, workers := range []int{1, 3} {
			r, err := wide(t, rows, workers, widen.Asked{Take: "one"})
			require.NoError(t, err)
			require.Equal(t, want, long(r), "seed %d", seed)
			require.Equal(t, firsts(rows), lines(r), "lines stand in the order in which they come")
		}
	}
}

func firsts(rows [][]string) (out []string) {
	for _, row := range rows {
		if !slices.Contains(out, row[0]) {
			out = append(out, row[0])
		}
	}
	return out
}

func lines(r *widen.Result) (out []string) {
	for _, row := range r.Rows {
		if row[0] == nil {
			out = append(out, "")
		} else {
			out = append(out, *row[0])
		}
	}
	return out
}

// take is what a cell takes of some rows, the slow way; "" for nothing.
func take(what string, rows [][]string) string {
	var values []*big.Rat
	for _, row := range rows {
		if n, ok := new(big.Rat).SetString(row[2]); ok {
			values = append(values, n)
		}
	}
	if what == "count" {
		return fmt.Sprint(len(rows))
	}
	if len(values) == 0 {
		return ""
	}
	out := values[0]
	switch what {
	case "sum", "mean":
		out = new(big.Rat)
		for _, n := range values {
			out.Add(out, n)
		}
		if what == "mean" {
			out.Quo(out, big.NewRat(int64(len(values)), 1))
		}
	case "min":
		out = slices.MinFunc(values, (*big.Rat).Cmp)
	case "max":
		out = slices.MaxFunc(values, (*big.Rat).Cmp)
	case "last":
		out = values[len(values)-1]
	}
	text := out.FloatString(15)
	if text = strings.TrimRight(strings.TrimRight(text, "0"), "."); text == "-0" {
		return "0"
	}
	return text
}

// What a cell takes of several values is what a slow look at its rows says.
func TestTakes(t *testing.T) {
	for seed := range uint64(40) {
		rows := randomRows(rand.New(rand.NewPCG(seed, 5)), 200)
		for _, what := range widen.Takes[1:] {
			r, err := wide(t, rows, 1+int(seed%3), widen.Asked{Take: what, Fill: "none"})
			require.NoError(t, err)
			for _, row := range r.Rows {
				for i, cell := range row[1:] {
					branch, month, have := "", r.Columns[1+i], ""
					if row[0] != nil {
						branch = *row[0]
					}
					if month == "(empty)" {
						month = ""
					}
					if cell != nil {
						have = *cell
					}
					of := slices.DeleteFunc(slices.Clone(rows), func(row []string) bool { return row[0] != branch || row[1] != month })
					want := take(what, of)
					if len(of) == 0 {
						want = "none"
					}
					require.Equal(t, want, have, "seed %d, %s of %s across %s", seed, what, branch, month)
				}
			}
		}
	}
}

// Two values for one cell stop, with both places; two equal ones too, an empty one not.
func TestSeveralValues(t *testing.T) {
	rows := [][]string{{"Holm", "2024-01", "1"}, {"Lowe", "2024-01", "1"}, {"Holm", "2024-01", "1"}, {"Lowe", "2024-01", ""}}
	_, err := wide(t, rows, 1, widen.Asked{Take: "one"})
	var list place.List
	require.ErrorAs(t, err, &list)
	require.Len(t, list, 1)
	require.Equal(t, 3, list.ExitCode())
	require.Equal(t, 1, list[0].Count)
	require.Equal(t, 4, list[0].Places[0].Row)
	require.Equal(t, "Holm across 2024-01, first row 2", list[0].Texts[0])
}
