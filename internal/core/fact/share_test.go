package fact_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/parts"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/demo"
	"umbau/internal/format"
)

// shared is a folder with a plan that is built at once, and in shares.
type shared struct {
	dir  string
	look func(name string) ([]table.Table, error) // nil for that of the formats

	again *int // if not nil, counts the joins that read the extracts
}

func (s shared) build(t *testing.T, o fact.Options) *fact.Summary {
	t.Helper()
	file := filepath.Join(s.dir, "umbau.yaml")
	src, err := os.ReadFile(file)
	require.NoError(t, err)
	p, err := plan.Read(file, src, format.All())
	require.NoError(t, err)
	if s.look != nil {
		p.Formats.Look = s.look
	}
	o.Version, o.Command = "test", "build"
	sum, err := fact.Build(context.Background(), p, o)
	require.NoError(t, err)
	return sum
}

// outputs are all files that a build left, but for how long it took, and what stood in its way.
func (s shared) outputs(t *testing.T, sum *fact.Summary) map[string]string {
	t.Helper()
	problems, err := json.Marshal(sum.Problems.Docs())
	require.NoError(t, err)
	out := map[string]string{"problems": string(problems), "exit": fmt.Sprint(sum.ExitCode())}
	root := filepath.Join(s.dir, "out")
	_ = filepath.WalkDir(root, func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return nil
		}
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		text := string(data)
		if at := strings.Index(text, `"seconds"`); d.Name() == "build.json" && at > 0 {
			text = text[:at]
		}
		rel, _ := filepath.Rel(root, path)
		out[rel] = text
		return nil
	})
	require.NoError(t, os.RemoveAll(root))
	return out
}

// inShares builds in so many shares, in an order by chance, some of them twice, with another number of
// workers each.
func (s shared) inShares(t *testing.T, r *rand.Rand, of int) map[string]string {
	t.Helper()
	dir, again := t.TempDir(), false
	order := r.Perm(of)
	order = append(order, order[:1+r.IntN(of)]...)
	for _, n := range order {
		sum := s.build(t, fact.Options{Share: &fact.Share{N: n + 1, Of: of, Dir: dir}, Workers: 1 + r.IntN(3)})
		if sum.ExitCode() == 1 { // it cannot be read, and so cannot be built
			return s.outputs(t, sum)
		}
		require.NoDirExists(t, filepath.Join(s.dir, "out"))
	}
	sum := s.build(t, fact.Options{Join: dir, Workers: 2, Progress: func(int64, int64) { again = true }})
	if again && s.again != nil {
		*s.again++
	}
	return s.outputs(t, sum)
}

// For random folders and plans, cut into any number of shares: the same bytes, or the same stop.
func TestShares(t *testing.T) {
	fact.CutFrom(t, 1)
	stops := 0
	for seed := range seeds(100) {
		f := newFolder(t, seed)
		if f.write(t, "umbau.yaml", f.plan); seed%3 == 0 {
			f.lookUp(t)
		}
		s, r := shared{dir: f.dir, look: f.file(1 + int(seed%4))}, rand.New(rand.NewPCG(seed, 5))
		sum := s.build(t, fact.Options{Workers: 2})
		if sum.ExitCode() != 0 {
			stops++
		}
		want := s.outputs(t, sum)
		for _, of := range []int{1, 2, 3, 7} {
			have := s.inShares(t, r, of)
			for name := range want {
				require.Equal(t, want[name], have[name], "seed %d, %d shares: %s", seed, of, name)
			}
			require.Len(t, have, len(want), "seed %d, %d shares", seed, of)
		}
	}
	require.Greater(t, stops, int(seeds(10)))
	require.Less(t, stops, int(seeds(98)))
}

// The demo, with a workbook, an archive, references and controls, in shares.
func TestSharesOfTheDemo(t *testing.T) {
	s := shared{dir: t.TempDir()}
	require.NoError(t, demo.Write(s.dir))
	want := s.outputs(t, s.build(t, fact.Options{}))
	r := rand.New(rand.NewPCG(1, 1))
	for _, of := range []int{2, 5, 20} {
		require.Equal(t, want, s.inShares(t, r, of))
	}
}

// A part that is missing, damaged, of another plan, another number of shares or of files that have
// changed since is named, and nothing is delivered.
func TestPartsThatDoNotFit(t *testing.T) {
	s := shared{dir: t.TempDir()}
	require.NoError(t, demo.Write(s.dir))
	make3 := func(t *testing.T) string {
		dir := t.TempDir()
		for n := 1; n <= 3; n++ {
			s.build(t, fact.Options{Share: &fact.Share{N: n, Of: 3, Dir: dir}})
		}
		return dir
	}
	part := func(dir string, n int) string { return filepath.Join(dir, parts.Name(n, 3)) }
	for name, test := range map[string]struct {
		harm func(t *testing.T, dir string)
		want string
	}{
		"missing": {func(t *testing.T, dir string) { require.NoError(t, os.Remove(part(dir, 2))) }, "the part of share 2 of 3 is not there"},
		"torn":    {func(t *testing.T, dir string) { require.NoError(t, os.Truncate(part(dir, 2), 1000)) }, "it is damaged"},
		"changed": {func(t *testing.T, dir string) {
			data, err := os.ReadFile(part(dir, 1))
			require.NoError(t, err)
			data[len(data)/3] ^= 1
			require.NoError(t, os.WriteFile(part(dir, 1), data, 0o666))
		}, "it is damaged"},
		"of another number": {func(t *testing.T, dir string) {
			s.build(t, fact.Options{Share: &fact.Share{N: 1, Of: 2, Dir: dir}})
		}, "parts of different numbers of shares"},
		"of none": {func(t *testing.T, dir string) {
			for n := 1; n <= 3; n++ {
				require.NoError(t, os.Remove(part(dir, n)))
			}
		}, "there are no parts"},
		"misnamed": {func(t *testing.T, dir string) { require.NoError(t, os.Rename(part(dir, 1), part(dir, 2))) }, "share 1 of 3"},
		"of changed files": {func(t *testing.T, dir string) {
			name := filepath.Join(s.dir, "raw", "Amber Bay_2024.csv")
			data, err := os.ReadFile(name)
			require.NoError(t, err)
			t.Cleanup(func() { require.NoError(t, os.WriteFile(name, data, 0o666)) })
			require.NoError(t, os.WriteFile(name, append(data, '\n'), 0o666))
		}, "Amber Bay_2024.csv has changed since the share read it"},
		"of another plan": {func(t *testing.T, dir string) {
			name := filepath.Join(s.dir, "umbau.yaml")
			data, err := os.ReadFile(name)
			require.NoError(t, err)
			t.Cleanup(func() { require.NoError(t, os.WriteFile(name, data, 0o666)) })
			require.NoError(t, os.WriteFile(name, append(data, "# more\n"...), 0o666))
		}, "another plan"},
	} {
		t.Run(name, func(t *testing.T) {
			dir := make3(t)
			test.harm(t, dir)
			sum := s.build(t, fact.Options{Join: dir})
			require.Equal(t, 1, sum.ExitCode(), "%v", sum.Problems)
			require.Contains(t, sum.Problems.Error(), test.want)
			require.NoFileExists(t, filepath.Join(s.dir, "out", "sales.csv"))
		})
	}
}

const everyDelivery = `umbau: 1
extracts: [{ files: "raw/*.csv", path: "{region}_{year}" }]
fact:
  region: text
  year: year
  branch: name
  day: date
  product: name
  amount: { is: number, decimals: 2 }
  remark: text
deliver:
  - to: out/a.csv
  - { to: out/few.csv, columns: [amount, region] }
  - to: out/a.csv.gz
  - to: out/a.csv.zst
  - to: out/a.tsv
  - to: out/a.jsonl
  - to: out/a.parquet
  - to: out/a.xlsx
  - { to: out/from.csv, origin: yes }
  - { to: out/sorted.csv, sort: [-amount, branch] }
  - { to: "out/{region}.csv" }
  - { to: "out/{region}_{branch}.csv.gz" }
  - { to: "out/{year}/{branch}.parquet" }
  - { to: out/a_part.csv, parts: yes }
  - { to: out/from_part.csv, parts: yes, origin: yes, columns: [amount] }
  - { to: out/b_part.jsonl.zst, parts: yes }
  - { to: out/c_part.parquet, parts: yes }
  - { to: out/d_part.csv, parts: yes, describe: yes }
  - { to: "out/{table}.csv", star: { fact: facts, dimensions: { branches: [branch] } } }
  - { to: out/said.csv, describe: yes }
record: out/record
`

// Every way to deliver comes to the same from shares: packed text, whose members are cut at blocks, in
// another order, in several files, as workbook, column file and database.
func TestSharesOfEveryDelivery(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	r := rand.New(rand.NewPCG(2, 2))
	for i := range 6 {
		var b strings.Builder
		b.WriteString("Branch,Day,Product,Amount,Remark\n")
		for range 3000 {
			fmt.Fprintf(&b, "%s,2024-%02d-%02d,Thing %d,%d.%02d,\"tab\there, %d\"\n", []string{"Dock", "Pier", "Holm"}[r.IntN(3)], 1+r.IntN(12),
				1+r.IntN(28), r.IntN(50), r.IntN(900), r.IntN(100), r.IntN(1_000_000))
		}
		require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", fmt.Sprintf("Region %d_%d.csv", i%2, 2020+i)), []byte(b.String()), 0o666))
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(everyDelivery), 0o666))
	s := shared{dir: dir}
	sum := s.build(t, fact.Options{})
	require.Zero(t, sum.ExitCode(), "%v", sum.Problems)
	want := s.outputs(t, sum)
	require.Greater(t, len(want), 20)
	for _, least := range []int64{1 << 40, 1} {
		fact.CutFrom(t, least)
		for _, of := range []int{2, 3} {
			have := s.inShares(t, r, of)
			for name := range want {
				require.True(t, want[name] == have[name], "%d shares, cut from %d: %s", of, least, name)
			}
			require.Len(t, have, len(want))
		}
	}
}

// What a person should look at is the same however a build is cut: also where its first place and its count come from several pieces.
func TestSharesTellTheSame(t *testing.T) {
	fact.CutFrom(t, 1)
	dir := t.TempDir()
	f := &folder{dir: dir}
	f.write(t, "umbau.yaml", wholePlan("  - { files: \"*.csv\", path: \"{source}\", unpivot: { header: \"{product}\", cell: amount } }",
		"source: text, branch: text, product: text, amount: { is: number, decimals: 2, blanks: 0 }", ""))
	for k, name := range []string{"a", "b", "c"} {
		var text strings.Builder
		text.WriteString([]string{"branch", "Branch", "BRANCH"}[k] + ",Rope 10,Rope 12,Ropes,Oar,Budget\n")
		for i := range 4000 {
			n := 1000 + 7*i%977
			fmt.Fprintf(&text, "%s,%d.25,%d.5,%d.75,%d,%s\n", []string{"Holm", "Lowe", "Average", "VAT 20 %"}[i%977%4], n, n, 2*n, (i*31)%100,
				[]string{"5 %", "7", ""}[i%3])
		}
		if k == 2 {
			text.WriteString("Mere,1,1,2,3,4\n")
		}
		f.write(t, name+".csv", text.String())
	}
	s, r := shared{dir: dir}, rand.New(rand.NewPCG(2, 9))
	sum := s.build(t, fact.Options{Workers: 2})
	require.Zero(t, sum.ExitCode(), "%v", sum.Problems)
	told := map[string]int{}
	for _, w := range sum.Warnings {
		told[w.What] += w.Count
	}
	require.Equal(t, map[string]int{"sum of others": 3 + 1, "percents": 4002, "no sales": told["no sales"]}, told)
	require.Greater(t, told["no sales"], 20_000)
	want := s.outputs(t, sum)
	for _, of := range []int{1, 2, 3, 5, 7} {
		have := s.inShares(t, r, of)
		for name := range want {
			require.Equal(t, want[name], have[name], "%d shares: %s", of, name)
		}
	}
}

// An amount in a row that is not wanted says no currency; whether it is wanted may depend on the currency that an extract before says.
func TestSharesOfOtherMoney(t *testing.T) {
	dir := t.TempDir()
	f := &folder{dir: dir}
	f.write(t, "umbau.yaml", wholePlan("  - files: \"*.csv\"", "branch: text, amount: { is: number, unclear: 200 }",
		"rows: { only: =amount >= 100 }"))
	f.write(t, "a.csv", "Branch,Amount\nHolm,€ 150\n")
	f.write(t, "b.csv", "Branch,Amount\nLowe,$ 5\nMere,€ 300\n")
	s := shared{dir: dir}
	want := s.outputs(t, s.build(t, fact.Options{Workers: 2}))
	require.Equal(t, "branch,amount\nHolm,150\nLowe,200\nMere,300\n", want["s.csv"])
	have := s.inShares(t, rand.New(rand.NewPCG(1, 2)), 2)
	for name := range want {
		require.Equal(t, want[name], have[name], name)
	}
}

// The currency of a total counts though no amount of its extract has one: another extract may, of another share.
func TestSharesOfTotalsInMoney(t *testing.T) {
	for total, stops := range map[string]bool{"Total,£ 3\n": true, "Total,€ 3\n": false, "Total,3\n": false} {
		f := silent{plan: wholePlan("  - { files: \"*.csv\", path: \"{file}\" }", "file: text, branch: text, amount: number", ""),
			files: map[string]string{
				"a.csv": "branch,amount\nHolm,€ 5\nLowe,2\n", "b.csv": "branch,amount\nHolm,1\nLowe,2\n" + total}}.folder(t)
		f.write(t, "umbau.yaml", f.plan)
		s := shared{dir: f.dir}
		sum := s.build(t, fact.Options{})
		require.Equal(t, stops, sum.ExitCode() == 3, total)
		want := s.outputs(t, sum)
		require.Equal(t, want, s.inShares(t, rand.New(rand.NewPCG(1, 1)), 2), total)
	}
}

// Control totals in another currency stop a build in shares, too: whichever share has the sign, in a cell or in a total.
func TestSharesOfControlsInMoney(t *testing.T) {
	fact.CutFrom(t, 1)
	for _, test := range []struct {
		a, b, control string
		stops         bool
	}{
		{"Holm,€ 5\nLowe,2\n", "Holm,1\nLowe,2\n", "£", true}, {"Holm,5\nLowe,2\n", "Holm,1\nLowe,€ 2\n", "£", true},
		{"Holm,€ 5\nLowe,2\n", "Holm,1\nLowe,2\n", "€", false}, {"Holm,5\nLowe,2\n", "Holm,1\nLowe,2\n", "£", false},
		{"Holm,5\nLowe,2\nTotal,€ 7\n", "Holm,1\nLowe,2\n", "£", true}, {"Holm,5\nLowe,2\n", "Holm,1\nLowe,2\nTotal,€ 3\n", "£", true},
	} {
		f := silent{plan: wholePlan("  - { files: \"*.csv\", path: \"{file}\" }", "file: text, branch: text, amount: number",
			"ties: [{ file: control.txt, by: { file: File }, measures: { amount: Booked } }]\n"),
			files: map[string]string{"a.csv": "branch,amount\n" + test.a, "b.csv": "branch,amount\n" + test.b,
				"control.txt": "File,Booked\na," + test.control + " 7\nb,3\n"}}.folder(t)
		f.write(t, "umbau.yaml", f.plan)
		s := shared{dir: f.dir}
		sum := s.build(t, fact.Options{})
		require.Equal(t, test.stops, sum.ExitCode() == 3, "%v %v", test, sum.Problems)
		want := s.outputs(t, sum)
		require.Equal(t, want, s.inShares(t, rand.New(rand.NewPCG(1, 1)), 2), test)
	}
}
