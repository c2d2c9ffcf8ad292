package e2e

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/cli"
)

// Finished tables are looked at twice: by the program, and here, slowly, row by row, with maps and fractions.

// sales is a table of chance.
type sales struct {
	header []string
	rows   [][]string
}

// salesByChance are rows of some columns, spelt in several ways and with blanks.
func salesByChance(r *rand.Rand, header ...string) *sales {
	s := &sales{header: header}
	regions := []string{"Skerries", "Amber Bay", "Long Sound", "Lakes", "amber-bay", "AMBER  BAY", "lakes"}
	products := []string{"Dock Line 10 m", "Dock Line 15 m", "Oar", "Brass Cleat", "brass  cleat", "OAR"}
	for range 1 + r.IntN(60) {
		var row []string
		for _, h := range header {
			text := map[string]string{"region": regions[r.IntN(len(regions))], "product": products[r.IntN(len(products))],
				"month": fmt.Sprintf("2024-%02d", 1+r.IntN(6)), "code": strconv.Itoa(1 + r.IntN(12)),
				"amount": fmt.Sprintf("%d.%02d", r.IntN(900)-50, r.IntN(100)), "planned": fmt.Sprintf("%d.5", r.IntN(900))}[h]
			if r.IntN(20) == 0 {
				text = ""
			}
			row = append(row, text)
		}
		if strings.Join(row, "") != "" {
			s.rows = append(s.rows, row)
		}
	}
	return s
}

// full reports whether each column has a value: what is blank throughout has no kind.
func (s *sales) full() bool {
	return len(s.rows) > 0 && !slices.ContainsFunc(s.header, func(h string) bool {
		return !slices.ContainsFunc(s.rows, func(row []string) bool { return row[slices.Index(s.header, h)] != "" })
	})
}

// write writes the table into a file, and returns its path.
func (s *sales) write(t *testing.T, dir, name string) string {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	require.NoError(t, w.WriteAll(append([][]string{s.header}, s.rows...)))
	file := filepath.Join(dir, name)
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o666))
	return file
}

// pairByChance are two tables that share columns, these first; nil where one has a column without any value.
func pairByChance(r *rand.Rand) (on []string, a, b *sales) {
	on = columnsByChance(r)
	a, b = salesByChance(r, append(slices.Clone(on), "amount")...), salesByChance(r, append(slices.Clone(on), "planned")...)
	if !a.full() || !b.full() {
		return nil, nil, nil
	}
	return on, a, b
}

// plainKey is the key of texts that only differ in case, spaces and hyphens.
func plainKey(text string) string {
	return strings.Join(strings.Fields(strings.ReplaceAll(strings.ToLower(text), "-", " ")), " ")
}

// keyOf is the key of some texts of columns, and whether one of them is blank.
func keyOf(on, texts []string) (key string, blank bool) {
	for i, text := range texts {
		blank = blank || text == ""
		if on[i] != "month" && on[i] != "code" {
			text = plainKey(text)
		}
		key += text + "\x00"
	}
	return key, blank
}

// linesOf are the lines of each key of the first columns, in the order of their coming; those with a blank are counted
// apart, or are keys too.
func (s *sales) linesOf(on []string, blanks bool) (lines map[string][]int, order []string, blank int) {
	lines = map[string][]int{}
	for i, row := range s.rows {
		k, isBlank := keyOf(on, row[:len(on)])
		if isBlank && !blanks {
			blank++
			continue
		}
		if lines[k] == nil {
			order = append(order, k)
		}
		lines[k] = append(lines[k], i+2)
	}
	return lines, order, blank
}

// told is what a command prints for machines.
func told[T any](t *testing.T, code int, args ...string) (doc T) {
	var out, said bytes.Buffer
	require.Equal(t, code, cli.Main(append(args, "--json"), &out, &said), "%v: %s", args, said.String())
	require.NoError(t, json.Unmarshal(out.Bytes(), &doc), "%v: %s", args, out.String())
	return doc
}

// columnsByChance are some of the columns that two tables share.
func columnsByChance(r *rand.Rand) []string {
	all := []string{"region", "product", "month", "code"}
	r.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	return all[:1+r.IntN(3)]
}

func TestKeysReadTwice(t *testing.T) {
	dir := t.TempDir()
	for seed := range uint64(150) {
		on, a, b := pairByChance(rand.New(rand.NewPCG(seed, 41)))
		if a == nil {
			continue
		}
		one, other := a.write(t, dir, "a.csv"), b.write(t, dir, "b.csv")
		doc := told[struct {
			Tables   []struct{ Rows, Distinct, Blank, Repeated int }
			Relation string
			Partners []struct{ Rows, Keys int }
			Alone    [][]struct {
				Key  []string
				Rows int
			}
			SideBySide int `json:"side_by_side"`
		}](t, 0, "keys", one, other, "--on", strings.Join(on, ","))

		of, orders := [2]map[string][]int{}, [2][]string{}
		unique := [2]string{"one", "one"}
		for i, s := range []*sales{a, b} {
			lines, order, blank := s.linesOf(on, false)
			of[i], orders[i] = lines, order
			repeated := 0
			for _, at := range lines {
				if len(at) > 1 {
					repeated, unique[i] = repeated+1, "many"
				}
			}
			require.Equal(t, struct{ Rows, Distinct, Blank, Repeated int }{len(s.rows), len(lines), blank, repeated}, doc.Tables[i], "seed %d", seed)
		}
		require.Equal(t, unique[0]+" to "+unique[1], doc.Relation, "seed %d", seed)
		pairs := 0
		for i := range 2 {
			rows, keys, alone := 0, 0, 0
			for _, k := range orders[i] {
				if with := of[1-i][k]; with != nil {
					rows, keys, pairs = rows+len(of[i][k]), keys+1, pairs+len(of[i][k])*len(with)
					continue
				}
				require.Equal(t, len(of[i][k]), doc.Alone[i][alone].Rows, "seed %d", seed)
				first := []*sales{a, b}[i].rows[of[i][k][0]-2]
				require.Equal(t, first[:len(on)], doc.Alone[i][alone].Key, "seed %d: in the spelling seen first", seed)
				alone++
			}
			require.Len(t, doc.Alone[i], alone, "seed %d", seed)
			require.Equal(t, struct{ Rows, Keys int }{rows, keys}, doc.Partners[i], "seed %d", seed)
		}
		require.Equal(t, pairs/2, doc.SideBySide, "seed %d", seed)
	}
}

// sumOf is the sum of a column in rows at these lines, nil where all are blank.
func (s *sales) sumOf(lines []int, column string) *big.Rat {
	var sum *big.Rat
	for _, line := range lines {
		if v, ok := new(big.Rat).SetString(s.rows[line-2][slices.Index(s.header, column)]); ok {
			if sum == nil {
				sum = new(big.Rat)
			}
			sum.Add(sum, v)
		}
	}
	return sum
}

// sameFigure makes sure that a figure was printed, or null for none.
func sameFigure(t *testing.T, want *big.Rat, printed *string, what string) {
	require.Equal(t, want == nil, printed == nil, what)
	if want != nil {
		have, ok := new(big.Rat).SetString(*printed)
		require.True(t, ok, what)
		require.Zero(t, want.Cmp(have), "%s: %s, not %s", what, have, want)
	}
}

// comparedLine is a line of umbau compare.
type comparedLine struct {
	By                      []*string
	A, B, Difference, Ratio []*string
	Only                    *string
}

// check holds the figures of a line against two sums.
func (l *comparedLine) check(t *testing.T, a, b *big.Rat, what string) {
	sameFigure(t, a, l.A[0], what)
	sameFigure(t, b, l.B[0], what)
	difference, ratio := (*big.Rat)(nil), (*big.Rat)(nil)
	if a != nil || b != nil {
		difference = new(big.Rat).Sub(or(a, new(big.Rat)), or(b, new(big.Rat)))
	}
	if a != nil && b != nil && b.Sign() != 0 {
		ratio, _ = new(big.Rat).SetString(new(big.Rat).Quo(a, b).FloatString(6)) // halves away from zero
	}
	sameFigure(t, difference, l.Difference[0], what)
	sameFigure(t, ratio, l.Ratio[0], what)
}

func TestCompareReadsTwice(t *testing.T) {
	dir := t.TempDir()
	for seed := range uint64(150) {
		on, a, b := pairByChance(rand.New(rand.NewPCG(seed, 42)))
		if a == nil {
			continue
		}
		one, other := a.write(t, dir, "a.csv"), b.write(t, dir, "b.csv")
		doc := told[struct {
			Rows  []comparedLine
			Total comparedLine
		}](t, 0, "compare", one, other, "--by", strings.Join(on, ","), "--of", "amount=planned")

		ofA, _, _ := a.linesOf(on, true)
		ofB, _, _ := b.linesOf(on, true)
		keys := map[string]bool{}
		for i := range doc.Rows {
			l := &doc.Rows[i]
			var texts []string
			for _, text := range l.By {
				texts = append(texts, deref(text))
			}
			k, _ := keyOf(on, texts)
			what := fmt.Sprintf("seed %d, %q", seed, k)
			require.False(t, keys[k], what)
			keys[k] = true
			l.check(t, a.sumOf(ofA[k], "amount"), b.sumOf(ofB[k], "planned"), what)
			only := map[[2]bool]string{{true, false}: "a", {false, true}: "b"}[[2]bool{ofA[k] != nil, ofB[k] != nil}]
			require.Equal(t, only, deref(l.Only), what)
		}
		for _, of := range []map[string][]int{ofA, ofB} {
			for k := range of {
				require.True(t, keys[k], "seed %d: no line for %q", seed, k)
			}
		}
		doc.Total.check(t, a.sumOf(all(len(a.rows)), "amount"), b.sumOf(all(len(b.rows)), "planned"), fmt.Sprintf("seed %d, total", seed))
	}
}

// or is a figure, or another one where it is missing.
func or(a, b *big.Rat) *big.Rat {
	if a == nil {
		return b
	}
	return a
}

// all are the lines of so many rows.
func all(rows int) (lines []int) {
	for i := range rows {
		lines = append(lines, i+2)
	}
	return lines
}

func TestWidenReadsTwice(t *testing.T) {
	dir := t.TempDir()
	for seed := range uint64(150) {
		r := rand.New(rand.NewPCG(seed, 43))
		on := columnsByChance(r)
		across := []string{"month", "code"}[r.IntN(2)]
		by := slices.DeleteFunc(on, func(h string) bool { return h == across })
		s := salesByChance(r, append(slices.Clone(by), across, "amount")...)
		if len(by) == 0 || !s.full() {
			continue
		}
		file := s.write(t, dir, "a.csv")
		doc := told[struct {
			Columns []string
			Rows    [][]*string
		}](t, 0, "widen", file, "--by", strings.Join(by, ","), "--across", across, "--cell", "amount", "--take", "sum")

		lines, wide := map[string]map[string][]int{}, map[string]bool{}
		var order []string
		for i, row := range s.rows { // as they stand
			k, w := strings.Join(row[:len(by)], "\x00"), row[len(by)]
			if w == "" {
				w = "(empty)"
			}
			if lines[k] == nil {
				lines[k] = map[string][]int{}
				order = append(order, k)
			}
			lines[k][w], wide[w] = append(lines[k][w], i+2), true
		}
		require.Len(t, doc.Rows, len(order), "seed %d", seed)
		require.Equal(t, by, doc.Columns[:len(by)])
		require.Len(t, doc.Columns, len(by)+len(wide), "seed %d", seed)
		for i, row := range doc.Rows {
			k := strings.Split(order[i], "\x00")
			for j := range by {
				require.Equal(t, k[j], deref(row[j]), "seed %d", seed)
			}
			for j, w := range doc.Columns[len(by):] {
				sameFigure(t, s.sumOf(lines[order[i]][w], "amount"), row[len(by)+j], fmt.Sprintf("seed %d, %s", seed, w))
			}
		}
	}
}

// deref is a text, "" where it is missing.
func deref(text *string) string {
	if text == nil {
		return ""
	}
	return *text
}
