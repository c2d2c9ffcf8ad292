package trace_test

import (
	"context"
	"encoding/csv"
	"fmt"
	"math/big"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/draft"
	"umbau/internal/core/fact"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/trace"
	"umbau/internal/demo/messy"
	"umbau/internal/format"
)

// built writes a plan and builds with it.
func built(t *testing.T, dir, text string) (*plan.Plan, *fact.Summary) {
	t.Helper()
	file := filepath.Join(dir, "umbau.yaml")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
	p, err := plan.Read(file, []byte(text), format.All())
	require.NoError(t, err)
	s, err := fact.Build(context.Background(), p, fact.Options{})
	require.NoError(t, err)
	return p, s
}

func asked(t *testing.T, p *plan.Plan, a trace.Asked) *trace.Result {
	t.Helper()
	r, err := trace.Run(context.Background(), p, p.Source(), a, trace.Options{Formats: format.All(), Workers: 2})
	require.NoError(t, err)
	return r
}

func lines(t *testing.T, file string) [][]string {
	t.Helper()
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	out, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	return out
}

// The traces of all fact rows, put together, give each cell of a measure once, and their sums are the
// accounts of the record; a row is what stands in its line of the delivery.
func TestTracesAreTheAccounts(t *testing.T) {
	n := 0
	for seed := range uint64(60) {
		dir := t.TempDir()
		d, err := messy.Make(dir, seed, int(seed%3))
		require.NoError(t, err)
		r, err := draft.Draft(context.Background(), draft.Options{Paths: []string{dir}, Dir: dir, Columns: d.Columns, Formats: format.All()})
		if err != nil || r.Exit != 0 || len(r.Missing) > 0 {
			continue // it stops, and so has no fact rows
		}
		for _, b := range r.Books {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, b.File)), 0o777))
			require.NoError(t, os.WriteFile(filepath.Join(dir, b.File), b.Text, 0o666))
		}
		p, s := built(t, dir, r.Text)
		require.Zero(t, s.ExitCode(), "%v", s.Problems)
		checkAll(t, dir, p, fmt.Sprint("seed ", seed))
		n++
	}
	require.Greater(t, n, 40)
}

// checkAll traces all fact rows of a build, and holds them against its record.
func checkAll(t *testing.T, dir string, p *plan.Plan, name string) {
	all := asked(t, p, trace.Asked{Where: "1 = 1"})
	delivery := lines(t, p.At(p.Deliveries[0].To))
	require.Equal(t, len(delivery)-1, len(all.Rows), name)
	sums, once := map[[2]string]*big.Rat{}, map[string]bool{}
	for i, row := range all.Rows {
		require.Equal(t, i+2, row.Line, name)
		require.Equal(t, delivery[i+1], row.Fact, name)
		for _, c := range row.Cells {
			if !p.Column(c.Column).Measure() {
				continue
			}
			at := c.Column + " " + c.Place.String()
			require.False(t, once[at], "%s: %s twice", name, at)
			once[at] = true
			extract := c.File
			if c.Sheet != "" {
				extract += ", sheet " + c.Sheet
			}
			id := [2]string{extract, c.Column}
			if sums[id] == nil {
				sums[id] = new(big.Rat)
			}
			if d, ok := new(big.Rat).SetString(c.Became); ok {
				sums[id].Add(sums[id], d)
			}
		}
	}
	for _, tie := range lines(t, p.At(p.Record+"/ties.csv"))[1:] {
		want, _ := new(big.Rat).SetString(tie[4])
		have := sums[[2]string{tie[0], tie[1]}]
		if have == nil {
			have = new(big.Rat)
		}
		require.Zero(t, want.Cmp(have), "%s: %s: %s of %s is %s in the traces", name, tie[0], tie[1], want.RatString(), have.RatString())
	}
	for _, row := range all.Rows[:min(3, len(all.Rows))] { // one by its line, and back from its cells
		one := asked(t, p, trace.Asked{Row: row.Line - 1})
		require.Len(t, one.Rows, 1, name)
		require.Equal(t, row.Fact, one.Rows[0].Fact, name)
		require.Equal(t, row.Cells, one.Rows[0].Cells, name)
		for _, c := range row.Cells {
			if !p.Column(c.Column).Measure() || c.File == "" {
				continue
			}
			at := c.Place
			back := asked(t, p, trace.Asked{Cell: &at})
			require.NotEmpty(t, back.Rows, "%s: %s", name, at)
			require.Equal(t, row.Line, back.Rows[0].Line, "%s: %s", name, at)
		}
	}
}

// manyWays is a build in which cells become figures in many ways.
func manyWays(t *testing.T) *plan.Plan {
	dir := t.TempDir()
	write := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	write("raw/Lakes_2024.csv", "Branch,Month,Oar | Qty,Oar | "+
		"Value\nDock,2024-01,2,10.005\n,2024-02,n/a,4\nPier,2024-03,x,5\nTotal,,2,19.005\n")
	write("ref/coast.csv", "Branch,Coast\nDock,North\nPier,South\n")
	write("book.csv", "seen,standard\nOar,Ash Oar\n")
	write("fix.csv", "file,sheet,row,header,was,value,reason\nraw/Lakes_2024.csv,,4,Oar | Qty,x,7,typed\n")
	p, s := built(t, dir, `umbau: 1
extracts: [{ files: "raw/*.csv", path: "{region}_{year}", unpivot: { header: "{product} | {measure}", cell: "{measure}" }, totals: drop }]
fact:
  region: text
  year: year
  branch: { is: name, blanks: above }
  month: { is: month, keep: no }
  quarter: { is: quarter, from: month }
  coast: { lookup: coasts, by: branch, take: Coast }
  product: { is: name, book: book.csv, unknown: stop }
  quantity: { is: whole, headers: [Qty], nulls: 0 }
  amount: { is: number, decimals: 2, headers: [Value] }
  price: { formula: amount / quantity, decimals: 2, errors: leave }
references: { coasts: { file: ref/coast.csv } }
corrections: fix.csv
deliver: [{ to: out/sales.csv }]
record: out/record
`)
	require.Zero(t, s.ExitCode(), "%v", s.Problems)
	return p
}

// Each way in which a cell becomes a figure has its cells, what they became, and the line of the rule.
func TestWays(t *testing.T) {
	p := manyWays(t)
	r := asked(t, p, trace.Asked{Where: "region = 'Lakes'"})
	var text strings.Builder
	for _, row := range r.Rows {
		fmt.Fprintln(&text, row.Line, row.Fate, row.Fact)
		for _, c := range row.Cells {
			fmt.Fprintf(&text, "  %s %s:%d:%s %q %q %s %d\n", c.Column, c.File, c.Row, c.Header, c.Read, c.Became, c.Rule, c.Line)
		}
	}
	require.Equal(t, `2 fact [Lakes 2024 Dock 2024-Q1 North Ash Oar 2 10.01 5.01]
  branch raw/Lakes_2024.csv:2:Branch "Dock" "Dock"  0
  month raw/Lakes_2024.csv:2:Month "2024-01" "2024-01"  0
  coast ref/coast.csv:2:Coast "North" "North" lookup coasts 9
  product raw/Lakes_2024.csv:1:Oar | Qty "Oar" "Ash Oar" book book.csv 10
  quantity raw/Lakes_2024.csv:2:Oar | Qty "2" "2"  0
  amount raw/Lakes_2024.csv:2:Oar | Value "10.005" "10.01" decimals: 2 12
3 fact [Lakes 2024 Dock 2024-Q1 North Ash Oar 0 4.00 ]
  branch raw/Lakes_2024.csv:3:Branch "" "Dock" above 6
  branch raw/Lakes_2024.csv:2:Branch "Dock" "Dock"  0
  month raw/Lakes_2024.csv:3:Month "2024-02" "2024-02"  0
  coast ref/coast.csv:2:Coast "North" "North" lookup coasts 9
  product raw/Lakes_2024.csv:1:Oar | Qty "Oar" "Ash Oar" book book.csv 10
  quantity raw/Lakes_2024.csv:3:Oar | Qty "n/a" "0" 0 11
  amount raw/Lakes_2024.csv:3:Oar | Value "4" "4.00"  0
4 fact [Lakes 2024 Pier 2024-Q1 South Ash Oar 7 5.00 0.71]
  branch raw/Lakes_2024.csv:4:Branch "Pier" "Pier"  0
  month raw/Lakes_2024.csv:4:Month "2024-03" "2024-03"  0
  coast ref/coast.csv:3:Coast "South" "South" lookup coasts 9
  product raw/Lakes_2024.csv:1:Oar | Qty "Oar" "Ash Oar" book book.csv 10
  quantity raw/Lakes_2024.csv:4:Oar | Qty "x" "7" correction 15
  amount raw/Lakes_2024.csv:4:Oar | Value "5" "5.00"  0
`, text.String())
	require.Equal(t, []trace.Figure{{"quantity", "9"}, {"amount", "19.01"}}, r.Sums)
}

// What wrote a text or a figure otherwise is said: a book, its rule for unknown names, a spelling, the case, the piece that is read,
// and what a column that is made of another one makes of its value.
func TestRules(t *testing.T) {
	dir := t.TempDir()
	write := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	write("raw/a.csv", "Branch,Product,Code,Tax,Amount\nDock,Bouy,x-A1 foo,1.505,3\nDOCK,Oar,x-a2 b,n/a,EUR 4.5\n")
	write("book.csv", "seen,standard\nBuoy,Buoy\nBouy,Buoy\n")
	write("families.csv", "seen,standard\nBuoy,Floats\n")
	p, s := built(t, dir, `umbau: 1
extracts: [{ files: "raw/*" }]
fact:
  branch: name
  product: { is: name, book: book.csv, unknown: Other }
  family: { is: name, from: product, book: families.csv, unknown: Rest }
  code: { is: text, read: "*-{} *" }
  shelf: { is: text, from: code, case: upper }
  tax_text: { headers: [Tax], gaps: leave, keep: no }
  tax: { is: number, from: tax_text, decimals: 2 }
  amount: { is: number, read: "[EUR ]{}" }
  none: { from: branch }
deliver: [{ to: out/s.csv }]
record: out/record
`)
	require.Zero(t, s.ExitCode(), "%v", s.Problems)
	var text strings.Builder
	for _, row := range asked(t, p, trace.Asked{Where: "1 = 1"}).Rows {
		fmt.Fprintln(&text, row.Fact)
		for _, c := range row.Cells {
			fmt.Fprintf(&text, "  %s %s:%d:%s %q %q %s %d\n", c.Column, c.File, c.Row, c.Header, c.Read, c.Became, c.Rule, c.Line)
		}
	}
	require.Equal(t, `[Dock Buoy Floats A1 A1 1.51 3 Dock]
  branch raw/a.csv:2:Branch "Dock" "Dock"  0
  product raw/a.csv:2:Product "Bouy" "Buoy" book book.csv 5
  family raw/a.csv:2:Product "Bouy" "Floats" book families.csv 6
  code raw/a.csv:2:Code "x-A1 foo" "A1" read: *-{} * 7
  tax_text raw/a.csv:2:Tax "1.505" "1.505"  0
  tax raw/a.csv:2:Tax "1.505" "1.51" decimals: 2 10
  amount raw/a.csv:2:Amount "3" "3"  0
[Dock Other Rest a2 A2  4.5 Dock]
  branch raw/a.csv:3:Branch "DOCK" "Dock" spelling 4
  product raw/a.csv:3:Product "Oar" "Other" unknown: Other 5
  family raw/a.csv:3:Product "Oar" "Rest" unknown: Rest 6
  code raw/a.csv:3:Code "x-a2 b" "a2" read: *-{} * 7
  shelf raw/a.csv:3:Code "x-a2 b" "A2" case 8
  tax_text raw/a.csv:3:Tax "n/a" "" leave 9
  amount raw/a.csv:3:Amount "EUR 4.5" "4.5" read: [EUR ]{} 11
`, text.String())
}

// A figure that a rule put where the extract has no cell is said, without a header.
func TestNoCell(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", "a.csv"), []byte("Branch,Qty Oar,Value Oar,Value Buoy\nDock,2,3,4\n"), 0o666))
	p, s := built(t, dir, `umbau: 1
extracts: [{ files: "raw/*", unpivot: { header: "{what} {product}", cell: "{what}" }, headers: { quantity: [Qty], amount: [Value] } }]
fact: { branch: text, product: text, quantity: { is: whole, blanks: 3 }, amount: number }
deliver: [{ to: out/s.csv }]
record: out/record
`)
	require.Zero(t, s.ExitCode(), "%v", s.Problems)
	r := asked(t, p, trace.Asked{Where: "product = 'Buoy'"})
	require.Len(t, r.Rows[0].Cells, 4)
	cell := r.Rows[0].Cells[2]
	require.Equal(t, []any{"quantity", 2, "", "", "3", "3", 3},
		[]any{cell.Column, cell.Row, cell.Header, cell.Read, cell.Became, cell.Rule, cell.Line})
}

// A cell became a figure, or it is said why not; what cannot be asked is a mistake.
func TestCells(t *testing.T) {
	p := manyWays(t)
	for _, test := range []struct {
		row       int
		header    string
		fate, why string
	}{
		{3, "Oar | Value", trace.Fact, ""},
		{5, "Oar | Value", trace.LeftOut, "the row is left out: total"},
		{2, "Branch", trace.Fact, ""},
		{3, "d", trace.Fact, ""}, // the letter of Oar | Value
		{5, "no such header", trace.LeftOut, "the row is left out: total"},
	} {
		back := asked(t, p, trace.Asked{Cell: &place.Place{File: "raw/Lakes_2024.csv", Row: test.row, Header: test.header}})
		require.NotEmpty(t, back.Rows)
		require.Equal(t, test.fate, back.Rows[0].Fate)
		require.Equal(t, test.why, back.Rows[0].Why)
	}
	both := asked(t, p, trace.Asked{Cell: &place.Place{File: "raw/Lakes_2024.csv", Row: 2, Header: "branch"}})
	require.Len(t, both.Rows, 2) // its own row, and the one below that takes its value
	for _, bad := range []trace.Asked{
		{Where: "region"}, {Where: "regoin = 'x'"}, {Where: "region ="}, {Row: 9}, {Where: "1 = 1", Of: []string{"region"}},
		{Cell: &place.Place{File: "raw/none.csv", Row: 2, Header: "Branch"}},
		{Cell: &place.Place{File: "raw/Lakes_2024.csv", Row: 99, Header: "Branch"}},
		{Cell: &place.Place{File: "raw/Lakes_2024.csv", Row: 3, Header: "no such header"}},
	} {
		_, err := trace.Run(context.Background(), p, p.Source(), bad, trace.Options{Formats: format.All()})
		var mistake *trace.Mistake
		require.ErrorAs(t, err, &mistake, "%v", bad)
	}
}

// Rows of one grain that were added up are one row with the cells of all.
func TestSummedRows(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	text := "Branch,Amount\nDock,1\nPier,2\nDOCK,4\nDock,8\nDock,n/a\n"
	require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", "a.csv"), []byte(text), 0o666))
	p, s := built(t, dir, `umbau: 1
extracts: [{ files: "raw/*.csv" }]
fact: { branch: name, amount: { is: number, nulls: 0 } }
rows: { grain: [branch], repeats: sum }
deliver: [{ to: out/s.csv }]
record: out/record
`)
	require.Zero(t, s.ExitCode(), "%v", s.Problems)
	r := asked(t, p, trace.Asked{Where: "branch = 'Dock'"})
	require.Len(t, r.Rows, 1)
	require.Equal(t, []trace.Figure{{"amount", "13"}}, r.Sums)
	rows, became := []int{}, []string{}
	for _, c := range r.Rows[0].Cells {
		if c.Column == "amount" {
			rows, became = append(rows, c.Row), append(became, c.Became)
		}
	}
	require.Equal(t, []int{2, 4, 5, 6}, rows)
	require.Equal(t, []string{"1", "4", "8", "0"}, became) // each what it adds
	back := asked(t, p, trace.Asked{Cell: &place.Place{File: "raw/a.csv", Row: 4, Header: "Amount"}})
	require.Equal(t, trace.Summed, back.Rows[0].Fate)
	require.Equal(t, 2, back.Rows[0].Line, "of the row that it was added to")
	require.Len(t, back.Rows[0].Cells, 2, "its own alone")
}

// A value above, and a section, may stand in a block long before.
func TestLongAgo(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	var b strings.Builder
	b.WriteString("Branch,Remark,Amount\n")
	line, branch, section := 1, map[int]int{}, map[int]int{}
	at, head := 0, 0
	for i := range 12_000 {
		line++
		if i%5000 == 0 {
			fmt.Fprintf(&b, "Family %d,,\n", i)
			head = line
			line++
		}
		name := ""
		if i%3000 == 0 {
			name, at = fmt.Sprint("Dock ", i), line
		}
		branch[line], section[line] = at, head
		fmt.Fprintf(&b, "%s,some words that make the line longer,%d\n", name, i)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", "a.csv"), []byte(b.String()), 0o666))
	p, s := built(t, dir, `umbau: 1
extracts: [{ files: "raw/*.csv", sections: family, others: drop }]
fact: { family: text, branch: { is: text, blanks: above }, amount: whole }
deliver: [{ to: out/s.csv }]
record: out/record
`)
	require.Zero(t, s.ExitCode(), "%v", s.Problems)
	r := asked(t, p, trace.Asked{Where: "1 = 1"})
	require.Len(t, r.Rows, 12_000)
	for _, row := range r.Rows {
		own := row.Cells[len(row.Cells)-1].Row
		for _, c := range row.Cells {
			switch {
			case c.Column == "family":
				require.Equal(t, section[own], c.Row)
			case c.Column == "branch" && c.Read != "":
				require.Equal(t, branch[own], c.Row)
			}
		}
	}
}
