package format_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/format"
	"umbau/internal/format/csv"
)

// wide makes a text file with one product a column: most cells plain amounts,
// some blank, words, grouped or without decimals, as regions send them.
func wide(seed uint64, rows, products int) []byte {
	r := rand.New(rand.NewPCG(seed, 1))
	var b bytes.Buffer
	b.WriteString("Branch,Clerk,Month")
	for p := range products {
		fmt.Fprintf(&b, ",Product %03d", p)
	}
	b.WriteByte('\n')
	for range rows {
		fmt.Fprintf(&b, "Branch %d,Clerk %d,2024-%02d", r.IntN(40), r.IntN(200), 1+r.IntN(12))
		for range products {
			b.WriteByte(',')
			switch k := r.IntN(100); {
			case k < 85:
				fmt.Fprintf(&b, "%d.%02d", r.IntN(1000), r.IntN(100))
			case k < 91:
			case k < 93:
				b.WriteString([]string{"n/a", "tbc", "-"}[r.IntN(3)])
			case k < 95:
				fmt.Fprintf(&b, "\"%d,%03d.%02d\"", 1+r.IntN(99), r.IntN(1000), r.IntN(100))
			default:
				fmt.Fprintf(&b, "%d", r.IntN(1000))
			}
		}
		b.WriteByte('\n')
	}
	return b.Bytes()
}

const widePlan = `umbau: 1
extracts:
  - files: "*_*.csv"
    path: "{region}_{year}"
    unpivot: { header: "{product}", cell: amount }
fact:
  region: text
  year: year
  branch: text
  clerk: text
  month: month
  product: name
  amount: { is: number, decimals: 2, blanks: 0, nulls: 0, texts: 0 }
deliver:
  - to: out/sales.csv
`

// setUp writes extracts and plan into a folder and reads the plan.
func setUp(b testing.TB, text string, files map[string][]byte) *plan.Plan {
	dir := b.TempDir()
	for name, data := range files {
		require.NoError(b, os.WriteFile(filepath.Join(dir, name), data, 0o666))
	}
	p, err := plan.Read(filepath.Join(dir, "umbau.yaml"), []byte(text), format.All())
	require.NoError(b, err)
	return p
}

func run(b testing.TB, p *plan.Plan, workers int) *fact.Summary {
	s, err := fact.Build(context.Background(), p, fact.Options{Workers: workers})
	require.NoError(b, err)
	require.Empty(b, s.Problems)
	return s
}

// BenchmarkBuild is the whole: wide text files to one fact table, record on.
func BenchmarkBuild(b *testing.B) {
	files, size := map[string][]byte{}, 0
	for i := range 4 {
		data := wide(uint64(i), 20_000, 12)
		files[fmt.Sprintf("r%d_2024.csv", i)] = data
		size += len(data)
	}
	p := setUp(b, widePlan, files)
	for _, workers := range []int{1, 2} {
		b.Run(fmt.Sprintf("workers=%d", workers), func(b *testing.B) {
			b.SetBytes(int64(size))
			for b.Loop() {
				run(b, p, workers)
			}
		})
	}
}

// BenchmarkShapes is the same number of fact rows in other shapes, on one core:
// two measures side by side, 500 wide columns, and the plain case for comparison.
func BenchmarkShapes(b *testing.B) {
	const factRows = 600_000
	pairs := func(data []byte) []byte { // every other product is the measure of the one before
		header, rest, _ := bytes.Cut(data, []byte("\n"))
		for i := 11; i >= 0; i-- {
			old, name := fmt.Sprintf("Product %03d", i), fmt.Sprintf("%s P%d", []string{"Qty", "Value"}[i%2], i/2)
			header = bytes.Replace(header, []byte(old), []byte(name), 1)
		}
		return append(append(header, '\n'), rest...)
	}
	for _, shape := range []struct {
		name, plan string
		data       []byte
		rows       int
	}{
		{"plain", widePlan, wide(1, factRows/12, 12), factRows},
		{"500 wide columns", widePlan, wide(1, factRows/500, 500), factRows},
		{"two measures", strings.NewReplacer(`header: "{product}", cell: amount`, `header: "{measure} {product}", cell: "{measure}"`,
			"  amount:", "  qty: { is: number, decimals: 2, blanks: 0, nulls: 0, texts: 0 }\n  value:").Replace(widePlan),
			pairs(wide(1, factRows/12, 12)), factRows / 2},
	} {
		p := setUp(b, shape.plan, map[string][]byte{"r_2024.csv": shape.data})
		b.Run(shape.name, func(b *testing.B) {
			for b.Loop() {
				require.Equal(b, shape.rows, run(b, p, 1).FactRows)
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N*shape.rows), "ns/fact-row")
		})
	}
}

// BenchmarkRead cuts text into cells.
func BenchmarkRead(b *testing.B) {
	data := wide(1, 5_000, 12)
	b.SetBytes(int64(len(data)))
	var rows table.Rows
	buf := make([]byte, 0)
	for b.Loop() {
		r := csv.NewReader(bytes.NewReader(data), 0)
		for {
			block, err := r.Next(buf)
			if err == io.EOF {
				break
			}
			buf = block.Data[:0]
			rows.Reset()
			require.NoError(b, r.Split(block, &rows))
		}
	}
}

// block makes one block of wide text ready for a worker.
func block(b *testing.B) (p *treat.Program, src table.Splitter, data table.Block) {
	plan := setUp(b, widePlan, nil)
	reader := csv.NewReader(bytes.NewReader(wide(1, 600, 12)), 0)
	src = reader
	data, err := reader.Next(nil)
	require.NoError(b, err)
	var rows table.Rows
	require.NoError(b, src.Split(data, &rows))
	l, problems := layout.LineUp(plan, plan.Entries[0], layout.ReadHeader(&rows, 0, 0), map[string]string{"region": "r", "year": "2024"},
		func(int) bool { return false }, place.Place{})
	require.Empty(b, problems)
	program, problems := treat.NewProgram(plan, l, make([]*names.Book, len(plan.Columns)), nil)
	require.Empty(b, problems)
	return program, src, data
}

// BenchmarkTreat reads the cells of a block into columns and applies the rules.
func BenchmarkTreat(b *testing.B) {
	p, src, data := block(b)
	b.SetBytes(int64(len(data.Data)))
	w := treat.NewWorker(p.Plan, treat.Wants{})
	for b.Loop() {
		require.NoError(b, w.Read(p, src, treat.Raw{Block: data}))
		require.NoError(b, w.HandOver(treat.NewShared(p.Plan)))
		w.Decide()
	}
}

// BenchmarkWrite writes the fact rows of a block as text.
func BenchmarkWrite(b *testing.B) {
	p, src, data := block(b)
	b.SetBytes(int64(len(data.Data)))
	w := treat.NewWorker(p.Plan, treat.Wants{})
	require.NoError(b, w.Read(p, src, treat.Raw{Block: data}))
	require.NoError(b, w.HandOver(treat.NewShared(p.Plan)))
	o := w.Decide()
	e := csv.NewEncoder([]int{0, 1, 2, 3, 4, 5, 6})
	var out []byte
	for b.Loop() {
		out = e.Encode(out[:0], o.Batch)
	}
}

// BenchmarkFiles is many small files.
func BenchmarkFiles(b *testing.B) {
	const n = 1000
	files := map[string][]byte{}
	for i := range n {
		files[fmt.Sprintf("r%d_2024.csv", i)] = wide(uint64(i), 3, 4)
	}
	p := setUp(b, widePlan, files)
	for b.Loop() {
		run(b, p, 1)
	}
	b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N*n), "µs/file")
}
