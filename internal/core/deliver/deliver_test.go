package deliver_test

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"fmt"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/deliver"
	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/plan"
	"umbau/internal/format"
)

const head = `umbau: 1
extracts: [{ files: raw.csv }]
fact:
  region: { is: text, blanks: leave }
  coast: { is: text, blanks: leave }
  day: { is: date, blanks: leave }
  amount: { is: number, blanks: leave }
  pieces: { is: whole, blanks: leave, add: no }
deliver:
`

// job is a folder with a plan and an extract.
type job struct{ dir string }

func newJob(t *testing.T, deliver string, rows [][]string) *job {
	j := &job{t.TempDir()}
	j.write(t, "umbau.yaml", head+deliver)
	j.rows(t, rows)
	return j
}

func (j *job) write(t *testing.T, name, text string) {
	require.NoError(t, os.WriteFile(filepath.Join(j.dir, name), []byte(text), 0o666))
}

func (j *job) rows(t *testing.T, rows [][]string) {
	var b bytes.Buffer
	b.WriteString("region,coast,day,amount,pieces\n")
	require.NoError(t, csv.NewWriter(&b).WriteAll(rows))
	j.write(t, "raw.csv", b.String())
}

// build builds, by so many workers.
func (j *job) build(t *testing.T, workers int) *fact.Summary {
	file := filepath.Join(j.dir, "umbau.yaml")
	src, err := os.ReadFile(file)
	require.NoError(t, err)
	p, err := plan.Read(file, src, format.All())
	require.NoError(t, err)
	s, err := fact.Build(context.Background(), p, fact.Options{Workers: workers})
	require.NoError(t, err)
	return s
}

func (j *job) read(t *testing.T, name string) [][]string {
	text, err := os.ReadFile(filepath.Join(j.dir, name))
	require.NoError(t, err)
	out, err := csv.NewReader(bytes.NewReader(text)).ReadAll()
	require.NoError(t, err)
	return out
}

func randomRows(r *rand.Rand, n int) (rows [][]string) {
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	for range n {
		region := pick("Lakes", "lakes", "Skerries", "Amber Bay", "Côte", "9", "10", "")
		coast := map[string]string{"Lakes": "inland", "lakes": "inland", "": ""}[region]
		if coast == "" && region != "" {
			coast = "sea"
		}
		day := ""
		if r.IntN(9) > 0 {
			day = fmt.Sprintf("20%02d-%02d-%02d", r.IntN(40), 1+r.IntN(12), 1+r.IntN(28))
		}
		amount := pick("0", "-1", "1.5", "-0.25", "100", "99.99", "1e3", "", "0.001", "-100", "12345678901234567890.5",
			"-12345678901234567890.25")
		if amount == "1e3" {
			amount = fmt.Sprint(r.IntN(2000) - 1000)
		}
		rows = append(rows, []string{region, coast, day, amount, fmt.Sprint(r.IntN(50))})
	}
	return rows
}

// Rows are sorted as a slow second way sorts them, in memory and on disk, by any number of
// workers.
func TestRandomSort(t *testing.T) {
	defer deliver.SetMostSorted(20_000)()
	for seed := range uint64(12) {
		r := rand.New(rand.NewPCG(seed, 5))
		columns := []string{"region", "coast", "day", "amount", "pieces"}
		r.Shuffle(len(columns), func(i, k int) { columns[i], columns[k] = columns[k], columns[i] })
		by := columns[:1+r.IntN(3)]
		for i := range by {
			if r.IntN(2) == 0 {
				by[i] = "-" + by[i]
			}
		}
		rows := randomRows(r, 3000)
		j := newJob(t, "  - to: plain.csv\n  - { to: out.csv, sort: [\""+strings.Join(by, `", "`)+"\"] }\n", rows)
		s := j.build(t, 1+int(seed)%3)
		require.Empty(t, s.Problems)
		want := j.read(t, "plain.csv")
		slices.SortStableFunc(want[1:], func(x, y []string) int { return compareRows(x, y, want[0], by) })
		require.Equal(t, want, j.read(t, "out.csv"), "%v", by)
	}
}

func compareRows(x, y, header, by []string) int {
	for _, name := range by {
		name, descending := strings.CutPrefix(name, "-")
		i := slices.Index(header, name)
		a, b := x[i], y[i]
		switch {
		case a == b:
			continue
		case a == "":
			return 1
		case b == "":
			return -1
		}
		c := cmp.Or(cmp.Compare(key.Of(a), key.Of(b)), cmp.Compare(a, b))
		if name == "amount" || name == "pieces" {
			m, _ := new(big.Rat).SetString(a)
			n, _ := new(big.Rat).SetString(b)
			c = m.Cmp(n)
		} else if name == "day" {
			c = cmp.Compare(a, b)
		}
		if descending {
			c = -c
		}
		if c != 0 {
			return c
		}
	}
	return 0
}

// The files of a delivery that is parted have the rows of the whole, each those of its
// values; what is of values that are gone is named.
func TestSplit(t *testing.T) {
	rows := randomRows(rand.New(rand.NewPCG(3, 3)), 2000)
	j := newJob(t, "  - to: all.csv\n  - { to: \"out/{coast}/{region}.csv\", columns: [region, amount] }\n", rows)
	require.NoError(t, os.MkdirAll(filepath.Join(j.dir, "out/sea"), 0o777))
	j.write(t, "out/sea/Gone.csv", "old")
	s := j.build(t, 3)
	require.Empty(t, s.Problems)
	want := map[string][][]string{}
	for _, row := range j.read(t, "all.csv")[1:] {
		name := "out/" + deliver.InPath(row[1]) + "/" + deliver.InPath(row[0]) + ".csv"
		if want[name] == nil {
			want[name] = [][]string{{"region", "amount"}}
		}
		want[name] = append(want[name], []string{row[0], row[3]})
	}
	require.Len(t, s.Deliveries[1].Files, len(want))
	for name, rows := range want {
		require.Equal(t, rows, j.read(t, name), name)
	}
	require.Equal(t, []string{"out/{coast}/{region}.csv: of values that are no longer there, and left as they are: out/sea/Gone.csv"},
		s.Remarks)

	j.rows(t, [][]string{{"a/b", "x", "", "1", "1"}, {"a:b", "x", "", "2", "1"}})
	s = j.build(t, 1)
	require.Equal(t, 3, s.ExitCode())
	require.Contains(t, s.Problems[0].Message, `the values "x | a/b" and "x | a:b" of coast, region would share the file`)
	require.NoFileExists(t, filepath.Join(j.dir, "out/x/a_b.csv"))
}

func TestInPath(t *testing.T) {
	for value, want := range map[string]string{"": "(empty)", "..": "__", ".": "_", "a/b": "a_b", `c:\d`: "c__d", "x.": "x_", "Côte ": "Côte_",
		"a\x01b": "a_b", "Long Sound": "Long Sound", "{x}": "_x_", "...": "___"} {
		require.Equal(t, want, deliver.InPath(value), value)
	}
}

const star = `  - to: all.csv
  - to: "out/{table}.csv"
    star: { fact: sales, dimensions: { area: [region, coast], calendar: day } }
`

// Facts joined to their dimensions are the fact table again, and the calendar has no hole.
func TestStar(t *testing.T) {
	for seed := range uint64(6) {
		j := newJob(t, star, randomRows(rand.New(rand.NewPCG(seed, 9)), 1500))
		s := j.build(t, 1+int(seed)%3)
		require.Empty(t, s.Problems)
		j.checkStar(t)
		before := j.read(t, "out/area.csv")
		rows := append(randomRows(rand.New(rand.NewPCG(seed, 10)), 300), []string{"New Haven", "sea", "2050-01-01", "1", "1"})
		slices.Reverse(rows)
		j.rows(t, rows) // ids stay, and a new value gets the next
		require.Empty(t, j.build(t, 2).Problems)
		j.checkStar(t)
		after := j.read(t, "out/area.csv")
		require.Equal(t, before, after[:len(before)])
		require.Equal(t, []string{fmt.Sprint(len(before) - 1), "New Haven", "sea"}, after[len(before)])
	}
}

func (j *job) checkStar(t *testing.T) {
	area, calendar := map[string][]string{}, map[string][]string{}
	for _, line := range j.read(t, "out/area.csv")[1:] {
		area[line[0]] = line[1:]
	}
	lines := j.read(t, "out/calendar.csv")
	require.Equal(t, []string{"calendar_id", "month", "day", "quarter", "year"}, lines[0])
	for _, line := range lines[1:] {
		calendar[line[0]] = line[1:]
		require.True(t, line[0] == "0" || line[0] == strings.ReplaceAll(line[2], "-", ""))
	}
	require.Equal(t, []string{"(none)", "(none)"}, area["0"])
	all, facts := j.read(t, "all.csv"), j.read(t, "out/sales.csv")
	require.Equal(t, []string{"area_id", "calendar_id", "amount", "pieces"}, facts[0])
	require.Len(t, facts, len(all))
	for i, row := range all[1:] {
		f := facts[i+1]
		want := []string{row[0], row[1]}
		if row[0] == "" {
			want = []string{"(none)", "(none)"}
		}
		require.Equal(t, want, area[f[0]])
		require.Equal(t, row[2], calendar[f[1]][1])
		require.Equal(t, row[3:], f[2:])
	}
}

// What does not follow stops with both places; a known value whose texts change has its line
// changed, and says so; what is somebody else's is not touched.
func TestStarStops(t *testing.T) {
	j := newJob(t, star, [][]string{{"Lakes", "inland", "2024-01-01", "1", "1"}, {"Lakes", "sea", "2024-01-02", "1", "1"}})
	s := j.build(t, 1)
	require.Equal(t, 3, s.ExitCode())
	require.Equal(t, "dimension area: coast does not follow from region", s.Problems[0].Message)
	require.Equal(t, 2, s.Problems[0].Count)
	require.Equal(t, []int{2, 3}, []int{s.Problems[0].Places[0].Row, s.Problems[0].Places[1].Row})
	require.NoDirExists(t, filepath.Join(j.dir, "out"))

	j.rows(t, [][]string{{"Lakes", "inland", "2024-01-31", "1", "1"}, {"", "", "2024-02-02", "2", "1"}})
	s = j.build(t, 1)
	require.Equal(t, []string{"out/{table}.csv: area: fact rows without region, which have the id 0: 1"}, s.Remarks)
	j.rows(t, [][]string{{"Lakes", "sea", "2024-02-28", "1", "1"}})
	s = j.build(t, 1)
	require.Equal(t, []string{"out/{table}.csv: the line changed of area Lakes: sea, was inland"}, s.Remarks)
	require.Equal(t, [][]string{{"area_id", "region", "coast"}, {"0", "(none)", "(none)"}, {"1", "Lakes", "sea"}}, j.read(t, "out/area.csv"))
	require.Len(t, j.read(t, "out/calendar.csv"), 31)

	j.write(t, "out/area.csv", "area_id,region\n1,Lakes\n")
	s = j.build(t, 1)
	require.Equal(t, 1, s.ExitCode())
	require.Contains(t, s.Problems[0].Message, "is not the dimension area of this plan")
	text, err := os.ReadFile(filepath.Join(j.dir, "out/area.csv"))
	require.NoError(t, err)
	require.Equal(t, "area_id,region\n1,Lakes\n", string(text))
}
