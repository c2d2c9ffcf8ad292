package fact_test

import (
	"encoding/csv"
	"fmt"
	"os"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// records reads a file of the record, or the delivery, as lists of cells.
func recordsOf(t *testing.T, text string) [][]string {
	out, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	return out[min(1, len(out)):]
}

// counted are the problems of a build as the second reading counts them.
func counted(l place.List) map[string]int {
	out := map[string]int{}
	for _, p := range l {
		out[p.What+"|"+p.Column] += p.Count
	}
	return out
}

// layoutStops are the stops of an extract before its rows are read, one of which is
// enough.
var layoutStops = []string{"empty file", "missing header", "unexpected header", "header does not fit", "header twice",
	"number beside wide columns", "rows above the header", "value from two places", "total|"}

// seeds is how many of so many random jobs a short run does: a quarter.
func seeds(n uint64) uint64 {
	if testing.Short() {
		return n / 4
	}
	return n
}

// folders is how many random folders are read twice: UMBAU_FOLDERS=100000 for a hunt.
func folders() (from, count uint64) {
	count = seeds(150)
	if n, err := strconv.ParseUint(os.Getenv("UMBAU_FOLDERS"), 10, 64); err == nil {
		count = n
	}
	from, _ = strconv.ParseUint(os.Getenv("UMBAU_FOLDERS_FROM"), 10, 64)
	return from, count
}

// The build and the second reading come to the same, with any number of workers, wherever
// blocks are cut.
func TestSecondReading(t *testing.T) {
	from, count := folders()
	seeds := make(chan uint64)
	t.Run("folders", func(t *testing.T) {
		for range runtime.GOMAXPROCS(0) {
			t.Run("", func(t *testing.T) {
				t.Parallel()
				for seed := range seeds {
					t.Run(fmt.Sprint(seed), func(t *testing.T) { readTwice(t, seed) })
				}
			})
		}
		go func() {
			defer close(seeds)
			for seed := from; seed < from+count; seed++ {
				seeds <- seed
			}
		}()
	})
}

func readTwice(t *testing.T, seed uint64) {
	f := newFolder(t, seed)
	s, files := f.build(t, 1, 0)
	for k, workers := range []int{2, 8} {
		_, again := f.build(t, workers, 1+k*2)
		require.Equal(t, files, again, "%d workers", workers)
	}
	second := f.second(t)
	if second.mixed { // which of them it has, only fact rows say; its totals are added up as read
		return
	}
	have := counted(s.Problems)
	for _, what := range layoutStops {
		for k := range have {
			if strings.HasPrefix(k, strings.TrimSuffix(what, "|")+"|") && (what != "total|" || k == what) { // other extracts may stop for more
				return
			}
		}
	}
	require.Equal(t, second.problems, have, "problems\n%s\n%v\n%s", f.plan, s.Problems, files["problems"])
	if s.ExitCode() != 0 {
		return
	}
	want, o := second.outcome(), outcome{}
	for _, row := range recordsOf(t, files["s.csv"]) {
		o["fact"] = append(o["fact"], strings.Join(row, "|"))
	}
	require.Equal(t, strings.Join(want["fact"], "\n"), strings.Join(o["fact"], "\n"), "fact table\n%s", f.plan)
	lines := func(name string, of func(row []string) string) {
		for _, row := range recordsOf(t, files[name+".csv"]) {
			o[name] = append(o[name], of(row))
		}
		slices.Sort(o[name])
		slices.Sort(want[name])
		require.Equal(t, strings.Join(want[name], "\n"), strings.Join(o[name], "\n"), "%s\n%s", name, f.plan)
	}
	lines("rows", func(row []string) string { return strings.Join(row, ",") })
	lines("left_out", func(row []string) string { return strings.Join(row, ",") })
	lines("changes", func(row []string) string { return strings.Join(append(slices.Clone(row[:6]), row[7]), ",") })
	lines("held", func(row []string) string { return strings.Join([]string{row[0], row[1], row[2], row[4], row[5]}, ",") })
	lines("names", func(row []string) string { return strings.Join(row, "|") })
	lines("ties", func(row []string) string {
		out := row[:2:2]
		for _, n := range row[2:7] {
			out = append(out, exact(rat(t, n)))
		}
		return strings.Join(out, "|")
	})
	lines("checks", func(row []string) string {
		for i := 7; i < 10; i++ {
			row[i] = exact(rat(t, row[i]))
		}
		return strings.TrimSuffix(string(table.AppendLine(nil, row...)), "\n")
	})
}

// With references, too, any number of workers comes to the same, wherever blocks are cut.
func TestWorkersLookUpAlike(t *testing.T) {
	done := uint64(0)
	from, count := folders()
	for seed := from; seed < from+count; seed++ {
		f := newFolder(t, seed)
		f.lookUp(t)
		s, files := f.build(t, 1, 0)
		if s.ExitCode() == 0 {
			done++
		}
		for k, workers := range []int{1, 3, 8} {
			_, again := f.build(t, workers, 1+k*2)
			require.Equal(t, files, again, "seed %d, %d workers", seed, workers)
		}
	}
	require.Greater(t, done, count/12)
}

// fix takes in the answers by hand.
func (s *second) fix(fixes [][7]string) {
	for _, c := range fixes {
		s.fixes[fmt.Sprintf("%s|%s|%s|%s", c[0], c[1], c[2], key.Of(c[3]))] = [2]string{c[4], c[5]}
	}
}
