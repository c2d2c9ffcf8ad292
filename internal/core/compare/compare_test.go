package compare_test

import (
	"context"
	"fmt"
	"maps"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/compare"
	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/totals"
	"umbau/internal/core/value"
	"umbau/internal/format"
)

func tableOf(t *testing.T, name, header string, rows [][]string, workers int) *finished.Table {
	text := header + "\n"
	for _, row := range rows {
		text += strings.Join(row, ",") + "\n"
	}
	file := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	table, err := finished.Open(context.Background(), file, finished.Options{Formats: format.All(), Workers: workers})
	require.NoError(t, err)
	return table
}

// sums adds rows up by their keys, the slow way; of each key also the spelling seen first.
func sums(rows [][]string) (sum map[string]*big.Rat, first map[string]string) {
	sum, first = map[string]*big.Rat{}, map[string]string{}
	spelling := map[string]string{}
	for _, row := range rows {
		k := key.Of(row[0]) + "|" + row[1]
		if spelling[key.Of(row[0])] == "" {
			spelling[key.Of(row[0])] = row[0]
		}
		if sum[k] == nil {
			sum[k], first[k] = new(big.Rat), spelling[key.Of(row[0])]+"|"+row[1]
		}
		n, _ := new(big.Rat).SetString(row[2])
		sum[k].Add(sum[k], n)
	}
	return sum, first
}

func said(n *big.Rat) string {
	if n == nil {
		return "none"
	}
	return shortest(n.FloatString(value.MaxPlaces))
}

// shortest is a decimal number without zeros at its end.
func shortest(text string) string {
	if text = strings.TrimRight(strings.TrimRight(text, "0"), "."); text == "-0" {
		return "0"
	}
	return text
}

func have(d *value.Decimal) string {
	if d == nil {
		return "none"
	}
	return d.Shorten().String()
}

// Two tables side by side are what a slow way of adding each up says: no row is multiplied,
// none is lost, and spellings of one key are one line.
func TestRandomCompare(t *testing.T) {
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 29))
		pick := func(of ...string) string { return of[r.IntN(len(of))] }
		rowsOf := func(most int) (rows [][]string) {
			for range 1 + r.IntN(most) {
				rows = append(rows, []string{pick("Holm", "HOLM", "holm.", "Lowe", "Côte", "cote", "Wick"), pick("2024-01", "2024-02", "2023-12"),
					pick("1.5", "-2", "0.125", "7", "100000000000000000.01")})
			}
			return append(rows, []string{"Saltby", "2024-01", "0.5"})
		}
		a, b := rowsOf(80), rowsOf(20)
		sumA, firstA := sums(a)
		sumB, firstB := sums(b)
		want := map[string]string{}
		for k := range maps.All(merged(sumA, sumB)) {
			x, y, only := sumA[k], sumB[k], ""
			difference, ratio, label := new(big.Rat), "none", firstA[k]
			if x != nil {
				difference.Add(difference, x)
			} else {
				only, label = "b", firstB[k]
				for other, l := range firstA { // as A spells it
					if strings.Split(other, "|")[0] == strings.Split(k, "|")[0] {
						label = strings.Split(l, "|")[0] + "|" + strings.Split(k, "|")[1]
					}
				}
			}
			if y != nil {
				difference.Sub(difference, y)
			} else {
				only = "a"
			}
			if x != nil && y != nil && y.Sign() != 0 {
				ratio = shortest(new(big.Rat).Quo(x, y).FloatString(6))
			}
			want[label] = fmt.Sprint(said(x), " ", said(y), " ", said(difference), " ", ratio, " ", only)
		}
		for _, workers := range []int{1, 3} {
			result, err := compare.Of(context.Background(), tableOf(t, "a.csv", "branch,month,amount", a, workers),
				tableOf(t, "b.csv", "Shop,month,Planned", b, workers), compare.Asked{By: [][2]string{{"branch", "Shop"}, {"month", "month"}},
					Of: [][2]string{{"amount", "planned"}}})
			require.NoError(t, err)
			got := map[string]string{}
			for i := range result.Lines {
				l := &result.Lines[i]
				got[strings.Join(l.By, "|")] = fmt.Sprint(have(l.A[0]), " ", have(l.B[0]), " ", have(l.Difference(0)), " ", have(l.Ratio(0)), " ",
					l.Only)
			}
			require.Equal(t, want, got, "seed %d, %d workers", seed, workers)
			require.True(t, slices.IsSortedFunc(result.Lines, func(x, y compare.Line) int {
				return strings.Compare(key.Of(x.By[0])+x.By[1], key.Of(y.By[0])+y.By[1])
			}))
			require.Equal(t, said(whole(sumA)), have(result.Total.A[0]))
			require.Equal(t, said(whole(sumB)), have(result.Total.B[0]))
		}
	}
}

func merged(a, b map[string]*big.Rat) map[string]*big.Rat {
	out := maps.Clone(a)
	maps.Copy(out, b)
	return out
}

func whole(sums map[string]*big.Rat) *big.Rat {
	sum := new(big.Rat)
	for _, n := range sums {
		sum.Add(sum, n)
	}
	return sum
}

func TestMistakes(t *testing.T) {
	a := tableOf(t, "a.csv", "branch,month,amount", [][]string{{"Holm", "2024-01", "1"}}, 1)
	b := tableOf(t, "b.csv", "branch,day,amount", [][]string{{"Holm", "2024-01-05", "2"}}, 1)
	of := func(by ...[2]string) error {
		_, err := compare.Of(context.Background(), a, b, compare.Asked{By: by, Show: [2]totals.Show{}})
		return err
	}
	require.ErrorContains(t, of(), "they share branch, amount")
	require.ErrorContains(t, of([2]string{"month", "month"}), "they share branch, amount")
	require.ErrorContains(t, of([2]string{"month", "day"}), "month(day) makes months of dates")
	require.NoError(t, of([2]string{"branch", "branch"}))
	require.NoError(t, of([2]string{"month", "month(day)"}))
}
