package fact_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
)

// pieced writes extracts by chance, in which much depends on the rows above: totals of groups and of all,
// rows without a figure, notes below, first spellings, currencies, texts with line ends.
type pieced struct {
	*rand.Rand
	wide  bool
	cents int // the sum of the rows since the last total, by column
}

func (p *pieced) odds(of100 int) bool { return p.IntN(100) < of100 }

var pieceBranches = []string{"Old Slip", "North Dock", "Pier 4", "Holm"}

func money(cents int) string { return fmt.Sprintf("%d.%02d", cents/100, cents%100) }

func moneys(cents []int) (out string) {
	for _, c := range cents {
		out += "," + money(c)
	}
	return out
}

// cell is an amount, or what stands in its place, and its cents.
func (p *pieced) cell(odd bool) (text string, cents int) {
	switch {
	case p.odds(6):
		return []string{"", "n/a", "-"}[p.IntN(3)], 0
	case odd && p.odds(1):
		return []string{"closed", "#REF!"}[p.IntN(2)], 0
	case odd && p.odds(1):
		return []string{"7 EUR", "8 USD"}[p.IntN(10)/9], 700
	}
	cents = p.IntN(100_000)
	return money(cents), cents
}

// notes are what may stand in a cell of texts.
func (p *pieced) notes(rows int) []string {
	notes := []string{"", "", "late", "\"two\nlines, one cell\"", "\"a \"\"quoted\"\"\nword\"", "5\" rope"}
	switch {
	case rows < 100: // whose blocks may end at any line
		return notes[:3]
	case p.odds(50): // without quotes that stand alone, where a row ends is seen from the middle
		return notes[:5]
	}
	return notes
}

// extract is the text of one, and how its amounts are written.
func (p *pieced) extract(rows int, odd bool) string {
	columns := []string{"amount"}
	if p.wide {
		columns = []string{"rope ", "Brass cleat", "Oar"}
	}
	var b strings.Builder
	if p.odds(30) {
		b.WriteString("Sales of the coast\n\n")
	}
	b.WriteString("branch,note," + strings.Join(columns, ",") + "\n")
	top := b.Len()
	all, group := make([]int, len(columns)), make([]int, len(columns))
	figures := func(label string, cents []int) { b.WriteString(label + "," + moneys(cents) + "\n") }
	notes := p.notes(rows)
	subtotals, left := p.odds(60), 1+p.IntN(20)
	for i := range rows {
		branch := pieceBranches[p.IntN(len(pieceBranches))]
		if odd && p.odds(2) {
			branch = strings.ToUpper(branch)
		}
		b.WriteString(branch + "," + notes[p.IntN(len(notes))])
		for c := range columns {
			text, cents := p.cell(odd)
			all[c], group[c] = all[c]+cents, group[c]+cents
			b.WriteString("," + text)
		}
		b.WriteString("\n")
		if left--; subtotals && left == 0 || odd && p.IntN(3*rows) == 0 {
			if odd && p.IntN(12) == 0 {
				group[0]++
			}
			figures("Total "+branch, group)
			clear(group)
			left = 1 + p.IntN(20)
		}
		if odd && p.IntN(6*rows) == 0 {
			figures("Whatever", all) // the sums of all rows, and nothing says so
		}
		if i%97 == 96 && p.odds(20) {
			b.WriteString("\n")
		}
	}
	if odd && !subtotals && p.odds(50) { // the sums of all rows above them, and nothing says so
		rest := b.String()
		b.Reset()
		b.WriteString(rest[:top])
		figures("Whatever", all)
		b.WriteString(rest[top:])
	} else if p.odds(60) {
		figures("Grand total", all)
	}
	if p.odds(30) {
		b.WriteString([]string{"as of today", "Holm", "north dock", "Late"}[p.IntN(4)] + "\n")
	}
	return b.String()
}

const piecedPlan = `umbau: 1
extracts: [{ files: raw/*.csv, path: "{region}"%s }]
fact:
  region: text
  branch: name
  %s
  note: { is: text, blanks: leave }
  amount: { is: number, blanks: 0, nulls: 0, texts: hold, unclear: hold, errors: hold%s }
deliver: [{ to: out/s.csv }, { to: out/s.csv.gz }, { to: out/few.jsonl, columns: [branch, amount] }%s]
record: out/record
`

func (p *pieced) write(t *testing.T, dir string, rows int) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	odd := p.odds(50)
	for i := range 1 + p.IntN(3) {
		text := p.extract(rows/2+p.IntN(rows/2), odd)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", fmt.Sprintf("Coast %d.csv", i)), []byte(text), 0o666))
	}
	unpivot, product, decimals := "", "", ""
	if p.wide {
		unpivot, product = `, unpivot: { header: "{product}", cell: amount }`, "product: { is: name, book: book.csv, unknown: keep }"
	}
	if p.odds(50) {
		decimals = ", decimals: 1"
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "book.csv"), []byte("seen,standard\nrope,Marine rope\n"), 0o666))
	more := ""
	if p.odds(30) {
		more = `,
  { to: out/p.csv, parts: yes }, { to: "out/{branch}.csv" }, { to: out/p.parquet, parts: yes }`
	}
	plan := fmt.Sprintf(piecedPlan, unpivot, product, decimals, more)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(plan), 0o666))
}

// Extracts that are cut into pieces come to the same bytes, or the same stop, whatever depends on the rows
// of other pieces, and most of them without reading them again.
func TestSharesOfPieces(t *testing.T) {
	fact.CutFrom(t, 1)
	again, stops, joins := 0, 0, 0
	for seed := range seeds(32) {
		p := &pieced{Rand: rand.New(rand.NewPCG(seed, 77)), wide: seed%2 == 1}
		s := shared{dir: t.TempDir(), again: &again}
		if seed%4 < 3 {
			f := &folder{dir: s.dir}
			s.look = f.file([]int{1, 3, 40}[seed%3])
			p.write(t, s.dir, 60)
		} else {
			p.write(t, s.dir, 5000)
		}
		sum := s.build(t, fact.Options{})
		require.NotEqual(t, 1, sum.ExitCode(), "%v", sum.Problems)
		if sum.ExitCode() == 3 {
			stops++
		}
		want := s.outputs(t, sum)
		for _, of := range []int{2, 3, 7} {
			have := s.inShares(t, p.Rand, of)
			joins++
			for name := range want {
				require.True(t, want[name] == have[name], "seed %d, %d shares: %s", seed, of, name)
			}
			require.Len(t, have, len(want), "seed %d, %d shares", seed, of)
		}
	}
	require.Greater(t, stops, int(seeds(5)))
	require.Less(t, stops, 40)
	require.Less(t, again, joins/2)
}

// A file of a delivery that is all in one share is not copied; one that is no longer as the share wrote it
// is an error.
func TestSharesMakeFiles(t *testing.T) {
	s := shared{dir: t.TempDir()}
	require.NoError(t, os.MkdirAll(filepath.Join(s.dir, "raw"), 0o777))
	for _, name := range []string{"Lakes", "Skerries"} {
		text := "branch,amount\n" + strings.Repeat(name+" dock,5\n", 100)
		require.NoError(t, os.WriteFile(filepath.Join(s.dir, "raw", name+".csv"), []byte(text), 0o666))
	}
	require.NoError(t, os.WriteFile(filepath.Join(s.dir, "umbau.yaml"), []byte(`umbau: 1
extracts: [{ files: raw/*.csv }]
fact: { branch: text, amount: number }
deliver: [{ to: out/s.csv, parts: yes }, { to: "out/{branch}.parquet" }]
record: out/record
`), 0o666))
	dir := t.TempDir()
	for n := range 2 {
		s.build(t, fact.Options{Share: &fact.Share{N: n + 1, Of: 2, Dir: dir}})
	}
	require.Zero(t, s.build(t, fact.Options{Join: dir}).ExitCode())
	made, err := filepath.Glob(filepath.Join(dir, "share-*", "*"))
	require.NoError(t, err)
	require.Len(t, made, 4)
	for _, name := range []string{"s-00001.csv", "s-00002.csv", "Lakes dock.parquet", "Skerries dock.parquet"} {
		own, err := os.Stat(filepath.Join(s.dir, "out", name))
		require.NoError(t, err)
		same := 0
		for _, m := range made {
			info, err := os.Stat(m)
			require.NoError(t, err)
			if os.SameFile(own, info) {
				same++
			}
		}
		require.Equal(t, 1, same, name)
	}
	require.NoError(t, os.RemoveAll(filepath.Join(s.dir, "out")))
	data, err := os.ReadFile(made[0])
	require.NoError(t, err)
	data[len(data)/2] ^= 1
	require.NoError(t, os.WriteFile(made[0], data, 0o666))
	sum := s.build(t, fact.Options{Join: dir})
	require.Equal(t, 1, sum.ExitCode())
	require.Contains(t, sum.Problems.Error(), filepath.Base(made[0])+" is not there, or not as it was written")
	require.NoFileExists(t, filepath.Join(s.dir, "out", "s-00001.csv"))
}

// A value in the path of a delivery does not make it one of the files that the build reads.
func TestPathOfValuesOverwritesNothing(t *testing.T) {
	s := shared{dir: t.TempDir()}
	for name, text := range map[string]string{"raw.csv": "product,amount\nbook,5\n", "book.csv": "seen,standard\nbook,book\n",
		"umbau.yaml": `umbau: 1
extracts: [{ files: raw.csv }]
fact: { product: { is: name, book: book.csv }, amount: number }
deliver: [{ to: "{product}.csv" }]
`} {
		require.NoError(t, os.WriteFile(filepath.Join(s.dir, name), []byte(text), 0o666))
	}
	sum := s.build(t, fact.Options{})
	require.Equal(t, 1, sum.ExitCode())
	require.Contains(t, sum.Problems.Error(), "book.csv: the file is a book of this build and would be overwritten")
	text, err := os.ReadFile(filepath.Join(s.dir, "book.csv"))
	require.NoError(t, err)
	require.Equal(t, "seen,standard\nbook,book\n", string(text))
}
