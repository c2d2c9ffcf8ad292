package fact_test

import (
	"context"
	"encoding/csv"
	"fmt"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/plan"
	"umbau/internal/demo"
	"umbau/internal/format"
)

// A random job is a folder of extracts and a plan, with all that must come of
// it worked out cell by cell while the extracts are made.
type job struct {
	r                       *rand.Rand
	dir                     string
	rules                   map[string]string // by kind of gap
	skip                    bool
	unknown                 string
	want                    []string // lines of the fact table
	read                    *big.Rat
	held                    int
	dropped                 int
	skipped                 int
	changes                 int
	sections, totals, notes int
}

var kinds = []string{"blanks", "nulls", "texts", "unclear", "errors"}

func newJob(t *testing.T, seed uint64) *job {
	r := rand.New(rand.NewPCG(seed, 3))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	j := &job{r: r, dir: t.TempDir(), want: []string{}, rules: map[string]string{}, read: new(big.Rat), skip: r.IntN(2) == 0,
		unknown: pick("hold", "keep", "Other")}
	var amount string
	for _, k := range kinds {
		j.rules[k] = pick("0", "5.25", "leave", "drop", "hold")
		amount += fmt.Sprintf(", %s: %s", k, j.rules[k])
	}
	blanks := "keep"
	if j.skip {
		blanks = "skip"
	}
	j.write(t, "umbau.yaml", fmt.Sprintf(`umbau: 1
extracts:
  - files: raw/*.csv
    path: "{region}"
    sections: family
    unpivot: { header: "{product}", cell: amount, blanks: %s }
fact:
  region: text
  family: { blanks: leave }
  branch: text
  month: month
  product: { is: name, book: book.csv, unknown: %s }
  amount: { is: number, decimals: 2%s }
deliver: [{ to: out/s.csv }]
record: out/record
`, blanks, j.unknown, amount))
	j.write(t, "book.csv", "seen,standard\nBuoy,Buoy\nBouy,Buoy\nDock Line,Dock Line\n")
	for i := range 1 + r.IntN(3) {
		j.extract(t, fmt.Sprintf("coast %d", i))
	}
	return j
}

func (j *job) write(t *testing.T, name, text string) {
	file := filepath.Join(j.dir, name)
	require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
}

// headers of wide columns and what each becomes; "?" is not in the book.
var headers = [][2]string{{" buoy.", "Buoy"}, {"BOUY", "Buoy"}, {"dock-line", "Dock Line"}, {"Oar", "?"}}

func (j *job) extract(t *testing.T, region string) {
	r := j.r
	wide := r.Perm(len(headers))[:1+r.IntN(len(headers))]
	var b strings.Builder
	b.WriteString("Month,branch")
	for _, w := range wide {
		b.WriteString("," + headers[w][0])
	}
	b.WriteString("\n")
	head := b.String()
	family := ""
	run, rows := make([]*big.Rat, len(wide)), 0 // sums since the last total row
	begin := func() {
		for i := range run {
			run[i] = new(big.Rat)
		}
		rows = 0
	}
	begin()
	n := r.IntN(4000)
	for i := range n {
		which := r.IntN(60)
		if i >= n-3 { // a section without rows would be a footnote
			which = 59
		}
		switch which {
		case 0:
			b.WriteString("\n")
			continue
		case 1:
			b.WriteString(strings.ToUpper(head))
			continue
		case 2, 3:
			family = fmt.Sprintf("Family %d", r.IntN(5))
			b.WriteString(family + strings.Repeat(",", 1+len(wide)) + "\n")
			j.sections++
			continue
		case 4:
			if rows > 0 {
				b.WriteString("Subtotal,")
				for _, sum := range run {
					b.WriteString("," + sum.FloatString(3))
				}
				b.WriteString("\n")
				j.totals++
				begin()
			}
			continue
		}
		rows++
		j.row(&b, region, family, wide, run, i >= n-3)
	}
	if rows > 0 {
		b.WriteString("Printed by hand" + strings.Repeat(",", 1+len(wide)) + "\n")
		j.notes++
	}
	j.write(t, "raw/"+region+".csv", b.String())
}

// row writes a row, adds it to the run and notes what must come of it.
func (j *job) row(b *strings.Builder, region, family string, wide []int, run []*big.Rat, last bool) {
	branch := []string{"Holm", "Saltby", "Ferry, East"}[j.r.IntN(3)]
	month := 1 + j.r.IntN(12)
	fmt.Fprintf(b, "2024-%02d,%q", month, branch)
	quoted := branch
	if strings.Contains(branch, ",") {
		quoted = `"` + branch + `"`
	}
	for k, w := range wide {
		text, kind, fixed := j.cell()
		if last && k == 0 { // no section is the last thing
			text, kind, fixed = "7.00", "", "7.00"
		}
		run[k].Add(run[k], amountOf(kind, fixed))
		if strings.ContainsAny(text, ",") {
			text = `"` + text + `"`
		}
		b.WriteString("," + text)
		j.decide(fmt.Sprintf("%s,%s,%s,2024-%02d", region, family, quoted, month), headers[w], kind, fixed)
	}
	b.WriteString("\n")
}

// amountOf is the amount of a cell as it was read.
func amountOf(kind, fixed string) *big.Rat {
	if kind != "" && kind != "rounding" {
		return new(big.Rat)
	}
	n, _ := new(big.Rat).SetString(fixed)
	if kind == "rounding" { // half a cent was added in size
		n.Sub(n, big.NewRat(int64(n.Sign()), 200))
	}
	return n
}

// cell returns a random text, its kind ("" for a number) and what it is with two
// places.
func (j *job) cell() (text, kind, fixed string) {
	r := j.r
	cents := r.IntN(2_000_000) - 200_000
	sign, size := "", cents
	if cents < 0 {
		sign, size = "-", -cents
	}
	whole, places := size/100, size%100
	fixed = fmt.Sprintf("%s%d.%02d", sign, whole, places)
	switch r.IntN(20) {
	case 0:
		return []string{"", "  "}[r.IntN(2)], "blanks", ""
	case 1:
		return []string{"n/a", "-", "NULL", " none "}[r.IntN(4)], "nulls", ""
	case 2:
		return []string{"closed", "see note"}[r.IntN(2)], "texts", ""
	case 3:
		return []string{"1,23", "12 pcs", "1.2.3", "1e5", "00,123"}[r.IntN(5)], "unclear", ""
	case 4:
		return []string{"#N/A", "#div/0!"}[r.IntN(2)], "errors", ""
	case 5:
		if cents < 0 {
			return fmt.Sprintf("(%d.%02d)", whole, places), "", fixed
		}
		return fmt.Sprintf("€ %d.%02d", whole, places), "", fixed
	case 6:
		if whole >= 1000 {
			return fmt.Sprintf("%s%d,%03d.%02d", sign, whole/1000, whole%1000, places), "", fixed
		}
	case 7:
		return fmt.Sprintf("%s%d", sign, whole), "", strings.Replace(fmt.Sprintf("%s%d.00", sign, whole), "-0.00", "0.00", 1)
	case 8: // rounded away from zero
		if places < 99 {
			return fmt.Sprintf("%s%d.%02d5", sign, whole, places), "rounding", fmt.Sprintf("%s%d.%02d", sign, whole, places+1)
		}
	}
	return fixed, "", fixed
}

// decide works out what becomes of one cell.
func (j *job) decide(labels string, header [2]string, kind, fixed string) {
	j.read.Add(j.read, amountOf(kind, fixed))
	if kind == "blanks" && j.skip {
		j.skipped++
		return
	}
	product := header[1]
	if product == "?" {
		switch j.unknown {
		case "hold":
			j.held++
			return
		case "keep":
			product = strings.TrimSpace(header[0])
		default:
			product = j.unknown
		}
	}
	if rule, gap := j.rules[kind]; gap {
		switch rule {
		case "drop":
			j.dropped++
			return
		case "hold":
			j.held++
			return
		case "leave":
			if kind != "blanks" {
				j.changes++
			}
		default:
			fixed = map[string]string{"0": "0.00", "5.25": "5.25"}[rule]
			j.changes++
		}
	} else if kind == "rounding" {
		j.changes++
	}
	j.want = append(j.want, labels+","+product+","+fixed)
}

// build is run where nothing stands in the way.
func (j *job) build(t *testing.T, workers int) *fact.Summary {
	s := j.run(t, workers)
	require.Empty(t, s.Problems)
	return s
}

func (j *job) run(t *testing.T, workers int) *fact.Summary {
	file := filepath.Join(j.dir, "umbau.yaml")
	src, err := os.ReadFile(file)
	require.NoError(t, err)
	p, err := plan.Read(file, src, format.All())
	require.NoError(t, err)
	s, err := fact.Build(context.Background(), p, fact.Options{Workers: workers})
	require.NoError(t, err)
	return s
}

// files returns all outputs but build.json, which has the time in it.
func (j *job) files(t *testing.T) map[string]string {
	out := map[string]string{}
	err := filepath.WalkDir(filepath.Join(j.dir, "out"), func(path string, d os.DirEntry, err error) error {
		if err == nil && !d.IsDir() && d.Name() != "build.json" {
			data, err := os.ReadFile(path)
			require.NoError(t, err)
			out[d.Name()] = string(data)
		}
		return err
	})
	require.NoError(t, err)
	return out
}

func (j *job) records(t *testing.T, text string) []map[string]string {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	var out []map[string]string
	for _, r := range rows[1:] {
		m := map[string]string{}
		for i, h := range rows[0] {
			m[h] = r[i]
		}
		out = append(out, m)
	}
	return out
}

func total(t *testing.T, rows []map[string]string, column string) *big.Rat {
	sum := new(big.Rat)
	for _, r := range rows {
		if r[column] == "" {
			continue
		}
		n, ok := new(big.Rat).SetString(r[column])
		require.True(t, ok, r[column])
		sum.Add(sum, n)
	}
	return sum
}

// For random extracts and rules: the fact table is what the cells make of it,
// totals in are totals out, every change is on record, and any number of
// workers gives the same bytes.
func TestRandomJobs(t *testing.T) {
	for seed := range uint64(12) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			j := newJob(t, seed)
			s := j.build(t, 1)
			files := j.files(t)
			have := strings.Split(strings.TrimSuffix(files["s.csv"], "\n"), "\n")
			require.Equal(t, j.want, append([]string{}, have[1:]...))

			ties := j.records(t, files["ties.csv"])
			require.Zero(t, j.read.Cmp(total(t, ties, "extracts")))
			require.Zero(t, total(t, j.records(t, files["s.csv"]), "amount").Cmp(total(t, ties, "fact")))
			in := new(big.Rat).Add(total(t, ties, "extracts"), total(t, ties, "changed"))
			out := new(big.Rat).Add(total(t, ties, "fact"), new(big.Rat).Add(total(t, ties, "held"), total(t, ties, "left_out")))
			require.Zero(t, in.Cmp(out))

			rows := j.records(t, files["rows.csv"])
			for column, want := range map[string]int{"held": j.held, "dropped": j.dropped, "skipped": j.skipped, "fact_rows": len(j.want),
				"section": j.sections, "total": j.totals, "footnote": j.notes} {
				require.Equal(t, fmt.Sprint(want), total(t, rows, column).RatString(), column)
			}
			require.Len(t, j.records(t, files["held.csv"]), j.held)
			require.Len(t, j.records(t, files["changes.csv"]), j.changes)
			require.Equal(t, len(j.want), s.FactRows)

			for _, workers := range []int{2, 3, 7} {
				j.build(t, workers)
				for name, text := range j.files(t) {
					require.True(t, files[name] == text, "%s, %d workers", name, workers)
				}
			}
		})
	}
}

// Text files, an archive and a workbook in one build: any number of workers gives
// the same bytes.
func TestDemoByManyWorkers(t *testing.T) {
	j := &job{dir: t.TempDir()}
	require.NoError(t, demo.Write(j.dir))
	j.build(t, 1)
	files := j.files(t)
	for range 5 {
		for _, workers := range []int{2, 5} {
			j.build(t, workers)
			for name, text := range j.files(t) {
				require.True(t, files[name] == text, "%s, %d workers", name, workers)
			}
		}
	}
}

// A build that is interrupted leaves nothing behind.
func TestInterrupted(t *testing.T) {
	j := newJob(t, 5)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	src, err := os.ReadFile(filepath.Join(j.dir, "umbau.yaml"))
	require.NoError(t, err)
	p, err := plan.Read(filepath.Join(j.dir, "umbau.yaml"), src, format.All())
	require.NoError(t, err)
	_, err = fact.Build(ctx, p, fact.Options{})
	require.ErrorIs(t, err, context.Canceled)
	require.NoDirExists(t, filepath.Join(j.dir, "out"))
}
