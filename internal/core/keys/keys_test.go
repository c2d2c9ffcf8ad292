package keys_test

import (
	"context"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/keys"
	"umbau/internal/format"
)

// sideOf writes rows as a table, and reads its keys.
func sideOf(t *testing.T, rows [][]string, workers int) *keys.Side {
	text := "branch,month,amount\n"
	for _, row := range rows {
		text += strings.Join(row, ",") + ",1\n"
	}
	file := filepath.Join(t.TempDir(), "t.csv")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	table, err := finished.Open(context.Background(), file, finished.Options{Formats: format.All(), Workers: workers})
	require.NoError(t, err)
	s, err := keys.Read(context.Background(), table.View(), []string{"Branch", "month"})
	require.NoError(t, err)
	return s
}

// match is whether two rows have one key, by a look at both.
func match(a, b []string) bool {
	return a[0] != "" && a[1] != "" && key.Of(a[0]) == key.Of(b[0]) && a[1] == b[1]
}

// What two tables are to each other is what a nested loop over their rows finds: rows side
// by side, rows with a partner, keys that repeat and keys of one side alone.
func TestBesideNestedLoop(t *testing.T) {
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 17))
		pick := func(of ...string) string { return of[r.IntN(len(of))] }
		rowsOf := func(most int) (rows [][]string) {
			for range 1 + r.IntN(most) {
				rows = append(rows, []string{pick("Holm", "HOLM", "holm.", "Lowe", "Côte", "cote", "", "Quay 4", "Quay 5"),
					pick("2024-01", "2024-02", "2023-12", "")})
			}
			return append(rows, []string{"Saltby", "2024-01"}) // so that the columns are what they are
		}
		tables := [2][][]string{rowsOf(60), rowsOf(12)}
		for _, workers := range []int{1, 3} {
			a, b := sideOf(t, tables[0], workers), sideOf(t, tables[1], workers)
			pair := keys.Beside(a, b)
			together, partners := 0, [2]int{}
			for _, x := range tables[0] {
				for _, y := range tables[1] {
					if match(x, y) {
						together++
					}
				}
			}
			for i, rows := range tables {
				for _, x := range rows {
					if slices.ContainsFunc(tables[1-i], func(y []string) bool { return match(x, y) }) {
						partners[i]++
					}
				}
			}
			require.EqualValues(t, together, pair.SideBySide, "seed %d", seed)
			require.Equal(t, partners, [2]int{pair.Partners[0].Rows, pair.Partners[1].Rows}, "seed %d", seed)
			for i, s := range []*keys.Side{a, b} {
				compareSide(t, tables[i], tables[1-i], s, pair.Only(i, 1000))
			}
		}
	}
}

// compareSide holds the keys of one table against its rows.
func compareSide(t *testing.T, rows, others [][]string, s *keys.Side, alone []keys.Lone) {
	blank := 0
	places := map[string][]int{}
	var order, lone, haveLone []string
	labels := map[string]string{}
	for i, row := range rows {
		if row[0] == "" || row[1] == "" {
			blank++
			continue
		}
		k := key.Of(row[0]) + "|" + row[1]
		if places[k] == nil {
			order, labels[k] = append(order, k), strings.Join(row, "|")
			if !slices.ContainsFunc(others, func(y []string) bool { return match(row, y) }) {
				lone = append(lone, labels[k])
			}
		}
		places[k] = append(places[k], i+2)
	}
	require.Equal(t, []int{len(rows), blank, len(order)}, []int{s.Rows, s.Blank, s.Distinct()})
	i := 0
	for k := range s.All {
		require.Equal(t, labels[order[i]], strings.Join(k.Values, "|"))
		require.Equal(t, places[order[i]], k.Places(0))
		i++
	}
	for _, l := range alone {
		haveLone = append(haveLone, strings.Join(l.Values, "|"))
	}
	require.Equal(t, lone, haveLone)
}

func TestNearest(t *testing.T) {
	a := sideOf(t, [][]string{{"Wick Sand", "2024-01"}, {"Holm", "2024-01"}}, 1)
	b := sideOf(t, [][]string{{"Wick Sands", "2024-01"}, {"Holm", "2024-01"}}, 1)
	lone := keys.Beside(a, b).Only(0, 10)
	require.Len(t, lone, 1)
	require.Equal(t, []string{"Wick Sands", "2024-01"}, lone[0].Nearest)
	require.Equal(t, "one to one", keys.Beside(a, b).Relation())
}

// Kinds that differ are never equal: it is said, and not found out from a list of keys
// without partners.
func TestFit(t *testing.T) {
	a := sideOf(t, [][]string{{"1", "2024-01"}}, 1)
	b := sideOf(t, [][]string{{"007", "2024-01"}}, 1)
	require.ErrorContains(t, keys.Fit(a, b, []string{"branch", "month"}, []string{"Shop", "month"}), "Shop of")
	require.NoError(t, keys.Fit(a, a, []string{"branch", "month"}, []string{"branch", "month"}))
	c := sideOf(t, [][]string{{"1", "2024-01-05"}}, 1)
	require.ErrorContains(t, keys.Fit(a, c, []string{"branch", "month"}, []string{"branch", "day"}), "month(day) makes months of dates")
	require.ErrorContains(t, keys.Fit(c, a, []string{"branch", "day"}, []string{"branch", "month"}), "month(day)")
}
