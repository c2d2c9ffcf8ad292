package fact_test

import (
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/names"
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
	tame   bool     // it is built to the end, most likely: what stops is left out
	money  bool     // many amounts name a currency, and which rows are wanted depends on amounts
	labels []string // branches
}

func (f *folder) pick(of ...string) string { return of[f.r.IntN(len(of))] }

// odds reports true so many times of a hundred.
func (f *folder) odds(of100 int) bool { return f.r.IntN(100) < of100 }

// stops is the word for what stops a build, but another one in a folder that is to be built to the end.
func (f *folder) stops(other string) string {
	if f.tame {
		return other
	}
	return "stop"
}

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
		return cell{text: f.pick("", "", "", "n/a", "-", "closed", "12 pcs", "#REF!", "1,23", "1.234", "(4)", "7 EUR", "8 USD", "€ 3",
			"£ 2.500", " 5 ", "2.5", "Total", "North total", "All", "0.005", "1.005")}, 0
	}
	if f.money && f.odds(12) {
		return cell{text: f.pick("", "-") + f.pick("7 EUR", "€ 3", "9 EUR", "2 EUR", "8 USD", "$ 4", "USD 6", "£ 2")}, 0
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
	if f.tame && f.odds(f.messy) {
		return cell{text: f.pick("", "n/a", "NA", "#N/A", "Holm ", "holm", "2024")}
	}
	if f.odds(f.messy) {
		return cell{text: f.pick("", "", "n/a", "NA", "#N/A", "Total Energies", "Sum", "Holm ", "holm", "2024", "All branches", "total care wax")}
	}
	return cell{text: f.pick(of...)}
}

var totalLabels = []string{"Total", "Total", "Total", "Grand total", "North total", "Total EUR", "Jahressumme", "All", "Total Care Wax",
	"Total 2024", "Summe", "Subtotal North"}

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
		if !f.tame && f.odds(4) {
			continue
		}
		parts = append(parts, k+": "+f.pick(append(values, "leave", "drop", "hold")...))
	}
	return strings.Join(parts, ", ")
}

func newFolder(t *testing.T, seed uint64) *folder {
	f := &folder{r: rand.New(rand.NewPCG(seed, 77)), dir: t.TempDir(), sheets: map[string][]*sheet{},
		labels: []string{"Holm", "Saltby", "Lowe", "holm."}}
	f.messy = []int{0, 0, 1, 4, 12}[f.r.IntN(5)]
	f.tame, f.money = f.odds(50), f.odds(20)
	products := []string{"Buoy", "BOUY", "dock-line", "Oar"}
	var entries []string
	for i := range 1 + f.r.IntN(3) {
		f.books, f.style = f.odds(35), english
		f.labels = []string{"Holm", "Saltby", "Lowe", "holm."}
		layout := f.pick("long", "wide", "pairs", "widen", "matrix")
		if f.tame {
			layout = f.pick("long", "long", "wide", "pairs")
		}
		name := fmt.Sprintf("raw/%s%d", layout, i)
		entry := f.entry(layout, name)
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
	f.show(t)
	return f
}

// entry is an entry of extracts of one layout.
func (f *folder) entry(layout, name string) string {
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
	if f.tame || f.odds(30) {
		entry += "    others: drop\n"
	} else if f.odds(30) {
		entry += "    others: [Notes, \"Entered *\"]\n"
	}
	if f.tame || f.odds(85) {
		entry += "    absent: leave\n"
	} else if f.odds(50) {
		entry += "    absent: { price: leave, tax_text: leave, section: leave, quantity: leave, day: leave }\n"
	}
	totals := f.pick("tie", "tie", "tie", "drop", "keep")
	if f.tame && (f.messy > 0 || f.money) {
		totals = f.pick("drop", "keep")
	}
	entry += "    totals: " + totals + "\n"
	if f.odds(15) {
		entry += "    total_words: [All, Lowe]\n"
	}
	if f.odds(15) {
		entry += "    no_totals: [Total Care Wax, Saltby, Oar]\n"
	}
	if f.odds(20) {
		entry += "    same_rows: drop\n"
	}
	if f.tame || f.odds(50) {
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
		entry += fmt.Sprintf("    unpivot: { header: \"{what} {product}\", cell: \"{what}\", blanks: %s }\n    headers: { quantity: "+
			"[Qty], amount: [Value] }\n", f.pick("keep", "skip"))
	case "matrix":
		entry += fmt.Sprintf("    unpivot: { header: \"{product}\", blanks: %s }\n    widen: { header: Figure }\n    headers: { quantity: "+
			"[Qty] }\n", f.pick("keep", "skip"))
	case "widen":
		entry += "    widen: { header: Figure, cell: Value }\n    headers: { quantity: [Qty] }\n"
	}
	return entry
}

// show keeps the sheets as text, to look at.
func (f *folder) show(t *testing.T) {
	keep := os.Getenv("UMBAU_KEEP")
	if keep == "" {
		return
	}
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

func (f *folder) factTable(entries []string) string {
	blanks := f.pick("leave", "above", "Unassigned", "drop")
	decimals := f.pick("", "", ", decimals: 2", ", decimals: 0")
	currency := f.pick("", "", ", currency: EUR")
	var b strings.Builder
	b.WriteString("umbau: 1\nextracts:\n" + strings.Join(entries, ""))
	fmt.Fprintf(&b, "fact:\n  source: text\n  n: { keep: no }\n  section: { blanks: leave }\n")
	fmt.Fprintf(&b, "  branch: { is: %s, headers: [Outlet], blanks: %s, nulls: %s, errors: %s }\n", f.pick("name", "text"), blanks,
		f.pick("leave", "hold", "Unassigned"), f.pick("leave", "drop", f.stops("hold")))
	if f.odds(60) {
		fmt.Fprintf(&b, "  product: { is: name, book: book.csv, unknown: %s, blanks: leave, nulls: leave, errors: hold }\n",
			f.pick(f.stops("hold"), "keep", "hold", "drop", "Other", "keep"))
		if f.odds(40) {
			b.WriteString("  family: { from: product, book: family.csv, unknown: Other }\n")
		}
	} else {
		fmt.Fprintf(&b, "  product: { is: name, blanks: %s, nulls: leave, errors: hold }\n", f.pick("leave", "above"))
	}
	fmt.Fprintf(&b, "  day: { is: date, %s }\n", f.rules("2024-01-01", "above"))
	fmt.Fprintf(&b, "  price: { is: number, add: no, %s }\n", f.rules("0", "1.25"))
	fmt.Fprintf(&b, "  tax_text: { headers: [Tax], gaps: leave, keep: no }\n  tax: { is: number, from: tax_text%s, %s }\n", decimals,
		f.rules("0"))
	fmt.Fprintf(&b, "  quantity: { is: whole, %s }\n", f.rules("0", "3", "above"))
	fmt.Fprintf(&b, "  amount: { is: number%s%s, %s }\n", decimals, currency, f.rules("0", "1.25", "above"))
	if f.odds(40) {
		b.WriteString("  margin: =amount - quantity\n")
	}
	var rows []string
	switch {
	case f.money && f.odds(80):
		rows = append(rows, f.pick("only: =amount >= 5", "only: =amount < 7 or tax > 3", "only: =amount > tax", "only: =quantity <> 8"))
	case f.odds(20):
		rows = append(rows, f.pick("only: =amount >= 0 or quantity > 1", "only: \"=branch <> 'Saltby'\"", "only: \"=product <> 'Oar'\""))
	}
	if f.odds(20) {
		rows = append(rows, "zeros: drop")
	}
	if !f.tame && f.odds(20) {
		rows = append(rows, "must: [=amount < 2000 or quantity < 30]")
	}
	if f.odds(35) {
		rows = append(rows, "grain: [branch, product, day]", "repeats: "+f.pick(f.stops("first"), "keep", "first", "last"))
	}
	if len(rows) > 0 {
		fmt.Fprintf(&b, "rows: { %s }\n", strings.Join(rows, ", "))
	}
	if !f.tame && f.odds(15) {
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

// build builds the folder, and returns what came of it and all files as they are.
func (f *folder) build(t *testing.T, workers, cut int) (*fact.Summary, map[string]string) {
	require.NoError(t, os.RemoveAll(filepath.Join(f.dir, "out")))
	file := filepath.Join(f.dir, "umbau.yaml")
	p, err := plan.Read(file, []byte(f.plan), format.All())
	require.NoError(t, err, f.plan)
	p.Formats.Look = f.file(cut)
	s, err := fact.Build(context.Background(), p, fact.Options{Workers: workers})
	require.NoError(t, err)
	files := map[string]string{}
	for _, name := range []string{"s.csv", "record/rows.csv", "record/changes.csv", "record/names.csv", "record/held.csv",
		"record/left_out.csv", "record/ties.csv", "record/checks.csv", "record/unmatched.csv"} {
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
	p, err := plan.Read(filepath.Join(f.dir, "umbau.yaml"), []byte(f.plan), format.All())
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

// lookUp adds columns that are looked up in references, by one column and by two.
func (f *folder) lookUp(t *testing.T) {
	f.write(t, "places.csv", "Branch,Coast,Rank\nHOLM,North,1\nlowe,South,2\nSaltby,,3\n")
	f.write(t, "units.csv", "Branch,Product,Unit\nHolm,Buoy,1.5\nHolm,Oar,2\nSaltby,dock line,2.5\nlowe,oar,3\n")
	missing := func() string { return f.pick("leave", "0", "hold", "drop", "stop") }
	columns := fmt.Sprintf("  coast: { lookup: places, by: branch, take: Coast, missing: %s, blanks: leave }\n", missing()) +
		fmt.Sprintf("  rank: { lookup: places, by: branch, take: Rank, missing: %s, add: no }\n", missing()) +
		fmt.Sprintf("  unit: { lookup: units, by: [branch, product], take: Unit, missing: %s, add: no }\n", missing()) +
		"  price_of: =amount * unit\n"
	f.plan = strings.Replace(f.plan, "deliver:", "references: { places: { file: places.csv }, units: { file: units.csv } }\ndeliver:", 1)
	f.plan = strings.Replace(f.plan, "  quantity:", columns+"  quantity:", 1)
	f.write(t, "umbau.yaml", f.plan)
}
