package build_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/build"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/format"
)

// folder is a random plan with random extracts: text files, and books whose sheets are
// only in memory.
type folder struct {
	r      *rand.Rand
	dir    string
	plan   string
	sheets map[string][]*sheet // by file
	fixes  [][7]string
	messy  int // of a hundred cells, how many are odd
	style  func(cents int64) string
	books  bool
	labels []string // branches
}

func (f *folder) pick(of ...string) string { return of[f.r.IntN(len(of))] }

// odds reports true so many times of a hundred.
func (f *folder) odds(of100 int) bool { return f.r.IntN(100) < of100 }

func english(cents int64) string { return signed(cents, ",", ".") }
func german(cents int64) string  { return signed(cents, ".", ",") }

// signed writes an amount in cents, with groups where it has thousands.
func signed(cents int64, group, point string) string {
	sign := ""
	if cents < 0 {
		sign, cents = "-", -cents
	}
	whole := strconv.FormatInt(cents/100, 10)
	if n := len(whole); n > 3 && cents%3 == 0 {
		whole = whole[:n-3] + group + whole[n-3:]
	}
	if cents%100 == 0 {
		return sign + whole
	}
	return sign + whole + point + fmt.Sprintf("%02d", cents%100)
}

// figure is a cell of a measure: mostly an amount, whose cents it returns.
func (f *folder) figure(whole bool) (cell, int64) {
	if f.odds(f.messy) {
		return cell{text: f.pick("", "", "", "n/a", "-", "closed", "12 pcs", "#REF!", "1,23", "1.234", "(4)", "7 EUR", "8 USD", "€ 3", "£ 2.500", " 5 ", "2.5", "Total", "North total", "All", "0.005", "1.005")}, 0
	}
	cents := int64(f.r.IntN(40)) * 100
	if !whole && f.odds(60) {
		cents = int64(f.r.IntN(300000)) - 20000
	}
	if f.books && f.odds(70) {
		return cell{text: strings.ReplaceAll(english(cents), ",", ""), kind: table.NumberCell}, cents
	}
	return cell{text: f.style(cents)}, cents
}

func (f *folder) label(of ...string) cell {
	if f.odds(f.messy) {
		return cell{text: f.pick("", "", "n/a", "NA", "#N/A", "Total Energies", "Sum", "Holm ", "holm", "2024", "All branches", "total care wax")}
	}
	return cell{text: f.pick(of...)}
}

var totalLabels = []string{"Total", "Total", "Total", "Grand total", "North total", "Total EUR", "Jahressumme", "All", "Total Care Wax", "Total 2024", "Summe", "Subtotal North"}

// table makes a table: labels, and measures that are told by whole.
func (f *folder) table(header []string, labels int, whole []bool, row func() []cell) (rows [][]cell) {
	line := func(texts ...string) (out []cell) {
		for _, t := range texts {
			out = append(out, cell{text: t})
		}
		return out
	}
	if f.odds(8) {
		rows = append(rows, line("Halyard & Moss"), nil)
	}
	if f.odds(2) {
		rows = append(rows, line(f.pick("x", "Holm"), "5", "7"), line("y", "6", "8"))
	}
	rows = append(rows, line(header...))
	n := f.r.IntN(14)
	sums, all := make([]int64, len(whole)), make([]int64, len(whole))
	total := func(sums []int64) []cell {
		out := line(f.pick(totalLabels...))
		if f.odds(10) {
			out = line(f.labels[f.r.IntN(len(f.labels))])
		}
		for len(out) < labels {
			out = append(out, cell{text: f.pick("", "", "", "North", "Total")})
		}
		if labels == 0 {
			out = nil
		}
		for i, s := range sums {
			c := cell{text: f.style(s)}
			if f.odds(f.messy / 2) {
				c, _ = f.figure(whole[i])
			}
			out = append(out, c)
		}
		return out
	}
	for range n {
		switch k := f.r.IntN(60); {
		case k == 0:
			rows = append(rows, nil)
		case k == 1:
			rows = append(rows, line(header...))
		case k == 2:
			rows = append(rows, line(f.pick("Family A", "Family B", "Holm", "printed in May", "Total")))
		case k < 6:
			rows = append(rows, total(sums))
			clear(sums)
		case k == 7 && len(rows) > 1:
			rows = append(rows, slices.Clone(rows[len(rows)-1]))
		default:
			r := row()
			for i := range whole {
				c, cents := f.figure(whole[i])
				r = append(r, c)
				sums[i] += cents
				all[i] += cents
			}
			rows = append(rows, r)
		}
	}
	if f.odds(25) {
		rows = append(rows, total(all))
	}
	if f.odds(10) {
		rows = append(rows, line(f.pick("Holm", "as of 5 May", "Lowe")))
	}
	return rows
}

// put makes a table a text file or a sheet.
func (f *folder) put(t *testing.T, name string, rows [][]cell) {
	if f.books {
		for i := range rows {
			for len(rows[i]) > 0 && f.odds(3) { // which a sheet does not store
				rows[i] = rows[i][:len(rows[i])-1]
			}
		}
		for _, s := range []string{"2023", "2024"}[:1+f.r.IntN(2)] {
			own := make([][]cell, len(rows))
			for i := range rows {
				own[i] = slices.Clone(rows[i])
			}
			if s == "2024" { // not the same once more
				own = append(own, []cell{{text: "Lowe"}})
			}
			f.sheets[name+".xlsx"] = append(f.sheets[name+".xlsx"], &sheet{file: name + ".xlsx", name: s, rows: own})
		}
		f.write(t, name+".xlsx", name)
		return
	}
	width := 0
	for _, r := range rows {
		width = max(width, len(r))
	}
	var b strings.Builder
	w := csv.NewWriter(&b)
	for i, r := range rows {
		for len(r) > 0 && len(r) < width && !f.odds(2) {
			r = append(r, cell{})
		}
		rows[i] = r
		var texts []string
		for _, c := range r {
			texts = append(texts, c.text)
		}
		if len(texts) == 0 {
			w.Flush()
			b.WriteString("\n")
			rows[i] = []cell{{}}
			continue
		}
		require.NoError(t, w.Write(texts))
	}
	w.Flush()
	text := b.String()
	rows = nil // as they are read, not as they were meant
	for line := range strings.Lines(text) {
		texts, err := csv.NewReader(strings.NewReader(line)).Read()
		if err == io.EOF {
			texts = []string{""}
		}
		var r []cell
		for _, t := range texts {
			r = append(r, cell{text: t})
		}
		rows = append(rows, r)
	}
	f.sheets[name+".csv"] = []*sheet{{file: name + ".csv", rows: rows}}
	f.write(t, name+".csv", text)
}

func (f *folder) write(t *testing.T, name, text string) {
	file := filepath.Join(f.dir, name)
	require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
	require.NoError(t, os.WriteFile(file, []byte(text), 0o666))
}

// rules are what gaps of a column get.
func (f *folder) rules(values ...string) string {
	var parts []string
	for _, k := range kinds {
		if f.odds(4) {
			continue
		}
		parts = append(parts, k+": "+f.pick(append(values, "leave", "drop", "hold")...))
	}
	return strings.Join(parts, ", ")
}

func newFolder(t *testing.T, seed uint64) *folder {
	f := &folder{r: rand.New(rand.NewPCG(seed, 77)), dir: t.TempDir(), sheets: map[string][]*sheet{}, labels: []string{"Holm", "Saltby", "Lowe", "holm."}}
	f.messy = []int{0, 0, 1, 4, 12}[f.r.IntN(5)]
	products := []string{"Buoy", "BOUY", "dock-line", "Oar"}
	var entries []string
	for i := range 1 + f.r.IntN(3) {
		f.books, f.style = f.odds(35), english
		f.labels = []string{"Holm", "Saltby", "Lowe", "holm."}
		layout := f.pick("long", "wide", "pairs", "widen")
		name := fmt.Sprintf("raw/%s%d", layout, i)
		entry := fmt.Sprintf("  - files: %s*\n    path: \"{source}_{n:digits}\"\n", name)
		if f.odds(40) {
			f.style = german
			entry += "    numbers: 1.234,56\n"
		} else if f.odds(15) {
			entry += "    numbers: [\"1,234.56\", \"1.234,56\"]\n"
		}
		if f.odds(15) {
			entry += "    dates: 31.12.2024\n"
		}
		if f.odds(30) {
			entry += "    others: drop\n"
		} else if f.odds(30) {
			entry += "    others: [Notes, \"Entered *\"]\n"
		}
		if f.odds(85) {
			entry += "    absent: leave\n"
		} else if f.odds(50) {
			entry += "    absent: { price: leave, tax_text: leave, section: leave, quantity: leave, day: leave }\n"
		}
		entry += "    totals: " + f.pick("tie", "tie", "tie", "drop", "keep") + "\n"
		if f.odds(15) {
			entry += "    total_words: [All, Lowe]\n"
		}
		if f.odds(15) {
			entry += "    no_totals: [Total Care Wax, Saltby, Oar]\n"
		}
		if f.odds(20) {
			entry += "    same_rows: drop\n"
		}
		if f.odds(50) {
			entry += "    short_rows: fill\n"
		}
		if f.odds(15) {
			entry += "    footnotes: keep\n"
		}
		if f.odds(20) {
			entry += "    sections: section\n"
		}
		entry += "    same_files: keep\n"
		switch layout {
		case "wide":
			entry += fmt.Sprintf("    unpivot: { header: \"{product}\", cell: amount, blanks: %s }\n", f.pick("keep", "skip"))
		case "pairs":
			entry += fmt.Sprintf("    unpivot: { header: \"{what} {product}\", cell: \"{what}\", blanks: %s }\n    headers: { quantity: [Qty], amount: [Value] }\n", f.pick("keep", "skip"))
		case "widen":
			entry += "    widen: { header: Figure, cell: Value }\n    headers: { quantity: [Qty] }\n"
		}
		entries = append(entries, entry)
		for k := range 1 + f.r.IntN(3) {
			f.put(t, fmt.Sprintf("%s_%d", name, k), f.extract(layout, products))
		}
	}
	f.plan = f.factTable(entries)
	f.write(t, "umbau.yaml", f.plan)
	f.write(t, "book.csv", "seen,standard\nBuoy,Buoy\nBouy,Buoy\nDock Line,Dock Line\nTotal Energies,Total Energies\n")
	f.write(t, "family.csv", "seen,standard\nBuoy,Floats\nDock Line,Ropes\n")
	f.correct(t)
	if keep := os.Getenv("UMBAU_KEEP"); keep != "" { // to look at
		for name, list := range f.sheets {
			for _, s := range list {
				var b strings.Builder
				for i, row := range s.rows {
					fmt.Fprintf(&b, "%d", i+1)
					for _, c := range row {
						fmt.Fprintf(&b, "|%s%s", []string{"", "#", "", "", "="}[c.kind], c.text)
					}
					b.WriteString("\n")
				}
				require.NoError(t, os.WriteFile(filepath.Join(keep, strings.ReplaceAll(name, "/", "_")+s.name), []byte(b.String()), 0o666))
			}
		}
	}
	return f
}

// extract makes one table of a layout; files of an entry differ in order and in what they
// lack.
func (f *folder) extract(layout string, products []string) [][]cell {
	r := f.r
	day := func() cell {
		if f.odds(f.messy) {
			return cell{text: f.pick("", "n/a", "03/04/2024", "2024-02-30", "Total")}
		}
		return cell{text: f.pick("2024-01-05", "7 March 2024", "2024-02-29")}
	}
	type column struct {
		header string
		cell   func() cell
	}
	labels := []column{{f.pick("Branch", "branch", "Outlet"), func() cell { return f.label(f.labels...) }}}
	if f.odds(50) {
		labels = append(labels, column{f.pick("day", "Day"), day})
	}
	if f.odds(20) {
		labels = append(labels, column{f.pick("Notes", "Entered by", "Memo"), func() cell { return cell{text: f.pick("", "x", "n/a", "total", "ok")} }})
	}
	if f.odds(25) {
		labels = append(labels, column{"Price", func() cell { c, _ := f.figure(false); return c }})
	}
	if f.odds(25) && layout == "long" {
		labels = append(labels, column{"Tax", func() cell { c, _ := f.figure(false); return c }})
	}
	if layout == "long" || layout == "widen" {
		labels = append(labels, column{"Product", func() cell { return f.label(products...) }})
	}
	if layout == "widen" {
		labels = append(labels, column{"Figure", func() cell {
			if f.odds(f.messy) {
				return cell{text: f.pick("", "Returns", "Total")}
			}
			return cell{text: f.pick("Qty", "Amount", "qty", "amount")}
		}})
	}
	first := r.Perm(len(labels))
	if f.odds(60) {
		slices.Sort(first)
	}
	var header []string
	for _, i := range first {
		header = append(header, labels[i].header)
	}
	var whole []bool
	switch layout {
	case "long":
		whole = []bool{true, false}
		header = append(header, "Quantity", "Amount")
		if f.odds(15) {
			header, whole = header[:len(header)-1], whole[:1]
		}
	case "widen":
		header, whole = append(header, "Value"), []bool{true}
	case "wide":
		for _, i := range r.Perm(len(products))[:1+r.IntN(len(products))] {
			header, whole = append(header, products[i]), append(whole, f.odds(50))
		}
	case "pairs":
		for _, i := range r.Perm(len(products))[:1+r.IntN(len(products))] {
			for _, m := range []string{"Qty", "Value"} {
				if f.odds(85) {
					header, whole = append(header, m+" "+products[i]), append(whole, m == "Qty")
				}
			}
		}
	}
	row := func() (out []cell) {
		for _, i := range first {
			out = append(out, labels[i].cell())
		}
		return out
	}
	rows := f.table(header, len(first), whole, row)
	if (layout == "wide" || layout == "pairs") && f.odds(25) {
		f.totalColumn(rows, header, len(first), layout)
	}
	return rows
}

// totalColumn adds a column with the sums of the others.
func (f *folder) totalColumn(rows [][]cell, header []string, labels int, layout string) {
	name, parity := f.pick("Total", "Summe", "All"), -1
	if layout == "pairs" {
		name, parity = f.pick("Qty Total", "Value total", "Total Value"), 0
	}
	for i, row := range rows {
		if len(row) != len(header) {
			continue
		}
		if row[0].text == header[0] && row[len(row)-1].text == header[len(header)-1] {
			rows[i] = append(slices.Clone(row), cell{text: name})
			continue
		}
		var sum int64
		for j := labels; j < len(row); j++ {
			if parity == 0 && !strings.HasPrefix(strings.ToLower(header[j]), strings.ToLower(strings.Fields(strings.Replace(name, "Total ", "", 1))[0])) {
				continue
			}
			text := strings.NewReplacer(".", "", ",", "").Replace(row[j].text)
			n, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				continue
			}
			if at := strings.LastIndexAny(row[j].text, ".,"); at < 0 || len(row[j].text)-at != 3 {
				n *= 100
			}
			sum += n
		}
		c := cell{text: f.style(sum)}
		if f.odds(f.messy / 3) {
			c, _ = f.figure(false)
		}
		rows[i] = append(slices.Clone(row), c)
	}
}

func (f *folder) factTable(entries []string) string {
	blanks := f.pick("leave", "above", "Unassigned", "drop")
	decimals := f.pick("", "", ", decimals: 2", ", decimals: 0")
	currency := f.pick("", "", ", currency: EUR")
	var b strings.Builder
	b.WriteString("umbau: 1\nextracts:\n" + strings.Join(entries, ""))
	fmt.Fprintf(&b, "fact:\n  source: text\n  n: { keep: no }\n  section: { blanks: leave }\n")
	fmt.Fprintf(&b, "  branch: { is: %s, headers: [Outlet], blanks: %s, nulls: %s, errors: %s }\n", f.pick("name", "text"), blanks, f.pick("leave", "hold", "Unassigned"), f.pick("leave", "drop", "stop"))
	if f.odds(60) {
		fmt.Fprintf(&b, "  product: { is: name, book: book.csv, unknown: %s, blanks: leave, nulls: leave, errors: hold }\n", f.pick("stop", "keep", "hold", "drop", "Other", "keep"))
		if f.odds(40) {
			b.WriteString("  family: { from: product, book: family.csv, unknown: Other }\n")
		}
	} else {
		fmt.Fprintf(&b, "  product: { is: name, blanks: %s, nulls: leave, errors: hold }\n", f.pick("leave", "above"))
	}
	fmt.Fprintf(&b, "  day: { is: date, %s }\n", f.rules("2024-01-01", "above"))
	fmt.Fprintf(&b, "  price: { is: number, add: no, %s }\n", f.rules("0", "1.25"))
	fmt.Fprintf(&b, "  tax_text: { headers: [Tax], gaps: leave, keep: no }\n  tax: { is: number, from: tax_text%s, %s }\n", decimals, f.rules("0"))
	fmt.Fprintf(&b, "  quantity: { is: whole, %s }\n", f.rules("0", "3", "above"))
	fmt.Fprintf(&b, "  amount: { is: number%s%s, %s }\n", decimals, currency, f.rules("0", "1.25", "above"))
	if f.odds(40) {
		b.WriteString("  margin: =amount - quantity\n")
	}
	var rows []string
	if f.odds(20) {
		rows = append(rows, f.pick("only: =amount >= 0 or quantity > 1", "only: \"=branch <> 'Saltby'\"", "only: \"=product <> 'Oar'\""))
	}
	if f.odds(20) {
		rows = append(rows, "zeros: drop")
	}
	if f.odds(20) {
		rows = append(rows, "must: [=amount < 2000 or quantity < 30]")
	}
	if f.odds(35) {
		rows = append(rows, "grain: [branch, product, day]", "repeats: "+f.pick("stop", "keep", "first", "last"))
	}
	if len(rows) > 0 {
		fmt.Fprintf(&b, "rows: { %s }\n", strings.Join(rows, ", "))
	}
	if f.odds(15) {
		b.WriteString("corrections: corrections.csv\n")
	}
	b.WriteString("deliver: [{ to: out/s.csv }]\nrecord: out/record\n")
	return b.String()
}

// correct answers some cells by hand; some of these are not there, or say otherwise.
func (f *folder) correct(t *testing.T) {
	lines := "file,sheet,row,header,was,value,reason\n"
	for _, list := range f.sheets {
		for _, s := range list {
			if f.r.IntN(2) == 0 || len(s.rows) < 3 || len(s.rows[0]) < 2 || s.rows[0][1].text == "" {
				continue
			}
			i, j := 1+f.r.IntN(len(s.rows)-1), f.r.IntN(len(s.rows[0]))
			was := ""
			if j < len(s.rows[i]) {
				was = s.rows[i][j].text
			}
			if f.odds(8) {
				was += "x"
			}
			fix := [7]string{s.file, s.name, strconv.Itoa(i + 1), s.rows[0][j].text, was, f.pick("5", "7", "Holm"), ""}
			if fix[3] != "" {
				f.fixes = append(f.fixes, fix)
				lines += string(table.AppendLine(nil, fix[:]...))
			}
		}
	}
	f.write(t, "corrections.csv", lines)
	if keep := os.Getenv("UMBAU_KEEP"); keep != "" {
		require.NoError(t, os.WriteFile(filepath.Join(keep, "corrections.csv"), []byte(lines), 0o666))
	}
}

// file looks into a file of the folder: books are in memory, and blocks are cut anywhere.
func (f *folder) file(cut int) func(name string) ([]table.Table, error) {
	real := &format.Reader{}
	return func(name string) ([]table.Table, error) {
		short, err := filepath.Rel(f.dir, name)
		if err != nil {
			return nil, err
		}
		var out []table.Table
		if !strings.HasSuffix(short, ".xlsx") {
			out, err = real.File(name)
			for i := range out {
				open := out[i].Open
				out[i].Open = func(how table.Reading) (table.Source, error) {
					s, err := open(how)
					return &cutSource{Source: s, lines: cut}, err
				}
			}
			return out, err
		}
		for _, s := range f.sheets[filepath.ToSlash(short)] {
			out = append(out, table.Table{Sheet: s.name, Size: 1, Bytes: 1, Open: func(table.Reading) (table.Source, error) { return &memory{rows: s.rows, cut: cut}, nil }})
		}
		return out, nil
	}
}

// cutSource cuts blocks of a text after so many lines.
type cutSource struct {
	table.Source
	lines int
	rest  table.Block
}

func (c *cutSource) Next(buf []byte) (table.Block, error) {
	if len(c.rest.Data) == 0 {
		b, err := c.Source.Next(nil)
		if err != nil || c.lines == 0 {
			return b, err
		}
		c.rest = b
	}
	b := c.rest
	at := 0
	for range c.lines {
		if k := bytes.IndexByte(b.Data[at:], '\n'); k >= 0 {
			at += k + 1
		} else {
			at = len(b.Data)
		}
	}
	c.rest = table.Block{Data: b.Data[at:], Line: b.Line + c.lines}
	data := append(make([]byte, 0, at+table.BlockSlack), b.Data[:at]...)
	return table.Block{Data: data, Line: b.Line}, nil
}

// memory is a sheet that is no file.
type memory struct {
	rows [][]cell
	cut  int
	at   int
}

func (m *memory) Next([]byte) (table.Block, error) {
	if m.at >= len(m.rows) {
		return table.Block{}, io.EOF
	}
	n := len(m.rows) - m.at
	if m.cut > 0 {
		n = min(n, m.cut)
	}
	b := table.Block{Line: m.at + 1}
	for _, row := range m.rows[m.at : m.at+n] {
		for _, c := range row {
			b.Data = append(append(append(b.Data, '0'+byte(c.kind)), c.text...), 0x1f)
		}
		b.Data = append(b.Data, '\n')
	}
	m.at += n
	b.Data = append(make([]byte, 0, len(b.Data)+table.BlockSlack), b.Data...)
	return b, nil
}

func (m *memory) Split(b table.Block, rows *table.Rows) error {
	line := b.Line
	rows.Data = nil
	for text := range strings.Lines(string(b.Data)) {
		rows.Starts, rows.Lines = append(rows.Starts, uint32(len(rows.Cells))), append(rows.Lines, line)
		line++
		for _, c := range strings.Split(strings.TrimSuffix(text, "\n"), "\x1f") {
			if c == "" {
				continue
			}
			off := uint32(len(rows.Data))
			rows.Data = append(rows.Data, c[1:]...)
			rows.Cells, rows.Kinds = append(rows.Cells, table.Cell{Off: off, End: uint32(len(rows.Data))}), append(rows.Kinds, table.CellKind(c[0]-'0'))
		}
	}
	rows.End()
	return nil
}

func (m *memory) Facts() table.Facts { return table.Facts{} }
func (m *memory) Close() error       { return nil }

// build builds the folder, and returns what came of it and all files as they are.
func (f *folder) build(t *testing.T, workers, cut int) (*build.Summary, map[string]string) {
	require.NoError(t, os.RemoveAll(filepath.Join(f.dir, "out")))
	file := filepath.Join(f.dir, "umbau.yaml")
	p, err := plan.Read(file, []byte(f.plan))
	require.NoError(t, err, f.plan)
	s, err := build.Run(context.Background(), p, build.Options{Workers: workers, File: f.file(cut), Text: format.Text, NewEncoder: format.NewEncoder})
	require.NoError(t, err)
	files := map[string]string{}
	for _, name := range []string{"s.csv", "record/rows.csv", "record/changes.csv", "record/names.csv", "record/held.csv", "record/left_out.csv", "record/ties.csv", "record/checks.csv"} {
		data, _ := os.ReadFile(filepath.Join(f.dir, "out", name)) // which a build that stops may not write
		files[filepath.Base(name)] = string(data)
	}
	var problems []string
	for _, p := range s.Problems {
		problems = append(problems, fmt.Sprintf("%s|%s|%d|%s|%v", p.What, p.Column, p.Count, p.Message, p.Texts))
	}
	files["problems"] = strings.Join(problems, "\n")
	return s, files
}

// second carries the plan out in the other way.
func (f *folder) second(t *testing.T) *second {
	p, err := plan.Read(filepath.Join(f.dir, "umbau.yaml"), []byte(f.plan))
	require.NoError(t, err)
	books := make([]*names.Book, len(p.Columns))
	for i, c := range p.Columns {
		if c.Book != "" {
			in, err := os.Open(filepath.Join(f.dir, c.Book))
			require.NoError(t, err)
			books[i], err = names.ReadBook(c.Book, in)
			require.NoError(t, err)
			in.Close()
		}
	}
	s := newSecond(p, books)
	if p.Corrections != "" {
		s.fix(f.fixes)
	}
	var files []string
	for name := range f.sheets {
		files = append(files, name)
	}
	slices.Sort(files)
	for _, e := range p.Entries {
		for _, name := range files {
			if !strings.HasPrefix(name, strings.TrimSuffix(e.Files[0], "*")) {
				continue
			}
			fields, ok := e.Path.Fit(strings.TrimSuffix(strings.TrimSuffix(filepath.Base(name), ".csv"), ".xlsx"))
			require.True(t, ok, name)
			for _, sh := range f.sheets[name] {
				own := &sheet{file: sh.file, name: sh.name}
				for _, row := range sh.rows {
					own.rows = append(own.rows, slices.Clone(row))
				}
				s.extract(e, own, fields)
			}
		}
	}
	s.finish()
	return s
}

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
var layoutStops = []string{"empty file", "missing header", "unexpected header", "header does not fit", "header twice", "number beside wide columns", "rows above the header", "value from two places", "total|"}

// folders is how many random folders are read twice: UMBAU_FOLDERS=100000 for a hunt.
func folders() (from, count uint64) {
	count = 150
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

// fix takes in the answers by hand.
func (s *second) fix(fixes [][7]string) {
	for _, c := range fixes {
		s.fixes[fmt.Sprintf("%s|%s|%s|%s", c[0], c[1], c[2], key.Of(c[3]))] = [2]string{c[4], c[5]}
	}
}
