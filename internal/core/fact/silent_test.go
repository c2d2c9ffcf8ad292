package fact_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
)

// silent is a small folder in which a wrong figure once passed without a word: what must
// come of it now, as a fact table or as the kinds of its stops.
type silent struct {
	name  string
	plan  string            // p, pu or a whole plan
	files map[string]string // of a book: lines of cells parted by a bar, # before a number, = for a formula without a value
	want  string            // the fact table without its header, or "stop: …" of all stops
}

const (
	long = `umbau: 1
extracts: [{ files: "a.*"%s }]
fact: { branch: text, amount: number }
deliver: [{ to: out/s.csv }]
record: out/record
`
	wide = `umbau: 1
extracts: [{ files: "a.*", unpivot: { header: "{product}", cell: amount }%s }]
fact: { branch: text, product: text, amount: { is: number%s } }
deliver: [{ to: out/s.csv }]
record: out/record
`
)

// singleFirst has groups that end with their sums, the first of a single row.
const singleFirst = "branch,amount\nQuay,1000.50\nAll,1000.50\n" +
	"Holm,1234.50\nLowe,1000.25\nAll,2234.75\nPier,100.25\nSlip,200.5\nAll,300.75\n"

// p is the long plan with further keys of its entry, pu the wide one with those of amount.
func p(keys string) string         { return fmt.Sprintf(long, keys) }
func pu(keys, rules string) string { return fmt.Sprintf(wide, keys, rules) }

// whole is a plan of entries, columns and more.
func wholePlan(entries, fact, more string) string {
	return "umbau: 1\nextracts:\n" + entries + "\nfact: { " + fact + " }\ndeliver: [{ to: out/s.csv }]\nrecord: out/record\n" + more
}

// acrossPlan is a plan of rows that say what their cells across are.
var acrossPlan = wholePlan(`  - { files: a.csv, unpivot: { header: "{product}" }, widen: { header: Figure } }`,
	"branch: text, product: text, quantity: { is: whole, blanks: leave }, amount: { is: number, blanks: leave }", "")

func csvOf(text string) map[string]string { return map[string]string{"a.csv": text} }
func bookOf(text string) map[string]string {
	return map[string]string{"a.xlsx": text}
}

// folder writes the files.
func (c silent) folder(t *testing.T) *folder {
	f := &folder{dir: t.TempDir(), plan: c.plan, sheets: map[string][]*sheet{}}
	for name, text := range c.files {
		if !strings.HasSuffix(name, ".xlsx") {
			f.write(t, name, text)
			continue
		}
		f.write(t, name, name)
		for _, part := range strings.Split(text, "@") { // @ begins a further sheet, by its name
			s := &sheet{file: name, name: "2024"}
			if head, rest, found := strings.Cut(part, ":\n"); found {
				s.name, part = head, rest
			}
			for line := range strings.Lines(part) {
				var row []cell
				for _, text := range strings.Split(strings.TrimSuffix(line, "\n"), "|") {
					x := cell{text: text}
					switch {
					case text == "=":
						x = cell{kind: table.FormulaCell}
					case strings.HasPrefix(text, "#") && len(text) > 1 && strings.Trim(text[1:], "0123456789.-") == "":
						x = cell{text: text[1:], kind: table.NumberCell}
					}
					row = append(row, x)
				}
				s.rows = append(s.rows, row)
			}
			f.sheets[name] = append(f.sheets[name], s)
		}
	}
	f.write(t, "umbau.yaml", c.plan)
	return f
}

func (c silent) run(t *testing.T, workers, cut int) string {
	s, files := c.folder(t).build(t, workers, cut)
	if s.ExitCode() != 0 {
		var kinds []string
		for _, p := range s.Problems {
			if !slices.Contains(kinds, p.What) {
				kinds = append(kinds, p.What)
			}
		}
		return fmt.Sprintf("stop: %s", strings.Join(kinds, ", "))
	}
	_, rows, _ := strings.Cut(files["s.csv"], "\n")
	return strings.TrimSuffix(rows, "\n")
}

// nothingSilentCases are those of TestNothingSilent.
var nothingSilentCases = []silent{
	// Formula cells without a stored value.
	{"formula in a row that would be a footnote", p(""), bookOf("branch|amount\nHolm|#1\nLowe|="), "stop: formula without value"},
	{"formula in the only row", p(""), bookOf("branch|amount\nHolm|="), "stop: formula without value"},
	{"formula in a total row", p(""), bookOf("branch|amount\nHolm|#1\nTotal|="), "stop: formula without value"},
	{"formula in a total row that is dropped", p(", totals: drop"), bookOf("branch|amount\nHolm|#1\nTotal|="), "Holm,1"},
	{"formula in a column that nothing reads", p(", others: drop"), bookOf("branch|amount|note\nHolm|#1|="), "Holm,1"},
	{"formula in the header", p(", others: drop"), bookOf("branch|amount|=\nHolm|#1|x"), "stop: formula without value"},
	// Headers of two letters are no letters of columns that are not there.
	{"a header that could be a letter, in a sheet without it", wholePlan(`  - { files: "a.*", others: drop }`,
		"branch: text, amount: { is: number, headers: [CA], blanks: 0 }", ""), bookOf("branch|Sales\nHolm|#1"), "stop: missing header"},
	{"a header that could be a letter, beside another", wholePlan(`  - { files: "a.*" }`,
		"branch: text, amount: { is: number, headers: [Sales, CA], blanks: 0 }", ""), bookOf("branch|Sales\nHolm|#1"), "Holm,1"},
	{"such a header, where lines may be short", wholePlan(`  - { files: "a.*", others: drop, short_rows: fill }`,
		"branch: text, amount: { is: number, headers: [CA], blanks: 0 }", ""), csvOf("branch,Sales\nHolm,1\n"), "stop: missing header"},
	{"the letter of a column behind the header", wholePlan(`  - { files: "a.*" }`,
		"branch: text, amount: { is: number, headers: [C], blanks: leave }, note: { blanks: leave }", ""),
		bookOf("branch|note\nHolm|x\nLowe|y|#2"), "Holm,,x\nLowe,2,y"},
	{"the letter of a column that is filled further down", wholePlan(`  - { files: "a.*" }`,
		"branch: text, amount: number, note: { headers: [C], blanks: leave }", ""),
		bookOf("branch|amount" + strings.Repeat("\nHolm|#1", 20_000) + "\nLowe|#2|late"), strings.Repeat("Holm,1,\n", 20_000) + "Lowe,2,late"},
	{"the letter of one further right, which the area names", wholePlan(`  - { files: "a.*", area: "A1:F" }`,
		"branch: text, amount: number, note: { headers: [E], blanks: leave }", ""),
		bookOf("branch|amount" + strings.Repeat("\nHolm|#1", 20_000) + "\nLowe|#2|||late"), strings.Repeat("Holm,1,\n", 20_000) + "Lowe,2,late"},
	// One dictionary for extracts that lack a column and those that have it.
	{"a column that one file lacks", wholePlan(`  - { files: "*.csv", absent: leave }`, "branch: { blanks: drop }, amount: number", ""),
		map[string]string{"b.csv": "branch,amount\n,1\nHolm,2\n", "c.csv": "amount\n3\n4\n"}, "Holm,2\n,3\n,4"},
	{"an optional field", wholePlan(`  - { files: "*.csv", path: "{year}[-{state}]", absent: leave }`,
		"year: year, state: { nulls: drop }, amount: number", ""),
		map[string]string{"2023.csv": "state,amount\nNA,1\nX,2\n", "2024-NA.csv": "amount\n3\n"}, "2023,X,2\n2024,NA,3"},
	// Widened rows.
	{"widen with a total", wholePlan(`  - { files: "*.csv", widen: { header: Figure, cell: Value }, headers: { note: [Note] } }`,
		"branch: text, note: { blanks: leave }, amount: number", ""),
		map[string]string{"a.csv": "branch,Figure,Value\nNorth,amount,1\nNorth,note,x\nHolm,amount,2\nHolm,note,y\nNorth total,amount,3\n",
			"b.csv": "branch,Figure,Value\nNorth,amount,5\nNorth,note,z\n"}, "North,x,1\nHolm,y,2\nNorth,z,5"},
	{"widen with a total that is wrong", wholePlan(`  - { files: a.csv, widen: { header: Figure, cell: Value } }`,
		"branch: text, amount: number", ""),
		csvOf("branch,Figure,Value\nNorth,amount,1\nHolm,amount,2\nTotal,amount,4\n"), "stop: total"},
	{"widen with a total that nobody calls one", wholePlan(`  - { files: a.csv, widen: { header: Figure, cell: Value } }`,
		"branch: text, quantity: whole, amount: number", ""),
		csvOf("branch,Figure,Value\nNorth,amount,1\nNorth,quantity,3\nHolm,amount,2\nHolm,quantity,4\nAll,amount,3\nAll,quantity,7\n"),
		"stop: total or none"},
	{"the same, each figure by itself", wholePlan(`  - { files: a.csv, widen: { header: Figure, cell: Value } }`,
		"branch: text, quantity: whole, amount: number", ""),
		csvOf("branch,Figure,Value\nNorth,amount,1\nHolm,amount,2\nAll,amount,3\nNorth,quantity,3\nHolm,quantity,4\nAll,quantity,7\n"),
		"stop: total or none"},
	// Rows that say what their cells across are.
	{"cells across that rows name", acrossPlan,
		csvOf("branch,Figure,Buoy,Oar,Total\nHolm,amount,1,2,3\nHolm,quantity,3,4,7\nLowe,amount,5,6,11\n"),
		"Holm,Buoy,3,1\nHolm,Oar,4,2\nLowe,Buoy,,5\nLowe,Oar,,6"},
	{"the same, with a total column that is wrong", acrossPlan,
		csvOf("branch,Figure,Buoy,Oar,Total\nHolm,amount,1,2,3\nHolm,quantity,3,4,8\n"), "stop: total"},
	{"the same, with a total row of the total column alone", acrossPlan,
		csvOf("branch,Figure,Buoy,Oar,Total\nHolm,amount,1,2,3\nHolm,quantity,3,4,7\nTotal,amount,,,4\n"), "stop: total"},
	{"the same, with a total row that is wrong in one of the cells", acrossPlan,
		csvOf("branch,Figure,Buoy,Oar\nHolm,amount,1,2\nHolm,quantity,3,4\nTotal,amount,1,3\nTotal,quantity,3,4\n"), "stop: total"},
	{"the same, with a total row that nobody calls one", acrossPlan, csvOf("branch,Figure,Buoy,Oar\nHolm,amount,1,2\nHolm,quantity,3,4\n" +
		"Lowe,amount,1,2\nLowe,quantity,3,4\nAll,amount,2,4\nAll,quantity,6,8\n"), "stop: total or none"},
	{"the same, with a total column that nobody calls one", acrossPlan, csvOf("branch,Figure,Buoy,Oar,All\nHolm,amount,1,2,3\n" +
		"Lowe,amount,1,3,4\nSalt,amount,7,2,9\nHolm,quantity,1,2,3\nLowe,quantity,1,3,4\nSalt,quantity,7,2,9\n"), "stop: total or none"},
	{"the same, with a header that says no thing", strings.Replace(acrossPlan, "{product}", "{product} kg", 1),
		csvOf("branch,Figure,Buoy\nHolm,amount,1\n"), "stop: header does not fit"},
	{"the same, with a figure twice", acrossPlan, csvOf("branch,Figure,Buoy\nHolm,amount,1\nHolm,amount,1\nHolm,quantity,1\n"),
		"stop: figure twice"},
	{"widen with a figure that is dropped", wholePlan(`  - { files: a.csv, others: drop, widen: { header: Figure, cell: Value } }`,
		"branch: text, amount: number", ""),
		csvOf("branch,Figure,Value\nNorth,amount,1\nNorth,Returns,2\n"), "North,1"},
	{"widen with a figure that no row names", wholePlan(`  - { files: a.csv, widen: { header: Figure, cell: Value } }`,
		"branch: text, quantity: whole, amount: number", ""),
		csvOf("branch,Figure,Value\nNorth,amount,1\n"), "stop: missing header"},
	{"widen and sections", wholePlan(`  - { files: a.csv, sections: coast, widen: { header: Figure, cell: Value } }`,
		"coast: text, branch: text, amount: number", ""),
		csvOf("branch,Figure,Value\nSouth,,\nHolm,amount,1\nNorth,,\nHolm,amount,2\n"), "South,Holm,1\nNorth,Holm,2"},
	// Labels of totals in columns of figures.
	{"total label under a measure", wholePlan(`  - { files: a.csv }`, "quantity: { is: whole, texts: 0 }, amount: number", ""),
		csvOf("quantity,amount\n1,10\n2,5\nTotal,15\n"), "1,10\n2,5"},
	{"total label under a price", wholePlan(`  - { files: a.csv }`, "price: { is: number, add: no, texts: leave }, amount: number", ""),
		csvOf("price,amount\n1,10\n2,5\nTotal,15\n"), "1,10\n2,5"},
	{"total label in a wide cell", pu("", ", texts: 0, blanks: 0"), csvOf("branch,Buoy,Oar\nHolm,1,2\nLowe,3,4\n,Total,6\n"),
		"Holm,Buoy,1\nHolm,Oar,2\nLowe,Buoy,3\nLowe,Oar,4"},
	{"a total word with a figure under a price", wholePlan(`  - { files: a.csv }`,
		"price: { is: number, add: no, unclear: leave }, amount: number", ""), csvOf("price,amount\n1,10\n2,5\nTotal 2024,15\n"), "1,10\n2,5"},
	{"a row is a total whatever another entry reads",
		wholePlan("  - { files: a.csv, others: drop, dates: 31.12.2024 }\n  - { files: b.csv, others: drop, same_files: keep }",
			"branch: text, amount: number", ""),
		map[string]string{"a.csv": "amount,branch,note\n1,Holm,\n2,Lowe,\n3,Total north,31.12.2024\n",
			"b.csv": "amount,branch,note\n1,Holm,\n2,Lowe,\n3,Total north,31.12.2024\n"}, "stop: total or none"},
	// Totals that cannot be compared.
	{"a total in other figures", p(""), csvOf("branch,amount\nHolm,1\nLowe,2\nTotal,\"1,6\"\n"), "stop: total"},
	{"a total that is an error", p(""), csvOf("branch,amount\nHolm,1\nLowe,2\nTotal,#REF!\n"), "stop: total"},
	{"the corner", pu("", ""), csvOf("branch,Buoy,Oar,Total\nHolm,1,2,3\nLowe,3,4,7\nTotal,4,6,11\n"), "stop: total"},
	{"a total column of no measure", wholePlan(
		`  - { files: a.csv, headers: { quantity: [Qty], amount: [Value] }, unpivot: { header: "{what} {product}", cell: "{what}" } }`,
		"product: text, quantity: whole, amount: number", ""),
		csvOf("Qty Buoy,Value Buoy,Total\n1,2,3\n"), "stop: total"},
	{"Total Value", wholePlan(`  - { files: a.csv, headers: { quantity: [Qty], amount: [Value] }, unpivot: { header: "{what} `+
		`{product}", cell: "{what}" } }`, "product: text, quantity: whole, amount: number", ""),
		csvOf("Qty Buoy,Value Buoy,Value Oar,Total Value\n1,2,4,6\n"), "stop: blank gap"},
	{"Total Value that is wrong", wholePlan(
		`  - { files: a.csv, headers: { quantity: [Qty], amount: [Value] }, unpivot: { header: "{what} {product}", cell: "{what}" } }`,
		"product: text, quantity: { is: whole, blanks: 0 }, amount: number", ""),
		csvOf("Qty Buoy,Value Buoy,Value Oar,Total Value\n1,2,4,7\n"), "stop: total"},
	{"a control figure that is a dash", p("") + "ties: [{ file: c.csv, by: [branch], measures: { amount: Sum } }]\n",
		map[string]string{"a.csv": "branch,amount\nHolm,1\n", "c.csv": "branch,Sum\nHolm,-\n"}, "stop: null gap"},
	{"a control figure that is blank", p("") + "ties: [{ file: c.csv, by: [branch], measures: { amount: Sum } }]\n",
		map[string]string{"a.csv": "branch,amount\nHolm,1\n", "c.csv": "branch,Sum\nHolm,\n"}, "Holm,1"},
	{"control groups that differ in their sign", wholePlan("  - { files: a.csv }", "rate: { is: number, add: no }, amount: number",
		"ties: [{ file: c.csv, by: [rate], measures: { amount: amount } }]\n"),
		map[string]string{"a.csv": "rate,amount\n1.50,1\n-1.5,2\n", "c.csv": "rate,amount\n-1.5,1\n1.5,2\n"}, "stop: control total"},
	{"keys of a reference that differ in their sign", wholePlan("  - { files: a.csv }",
		"rate: { is: number, add: no }, who: { lookup: r, by: rate }", "references: { r: { file: r.csv } }\n"),
		map[string]string{"a.csv": "rate\n1.50\n-1.5\n", "r.csv": "rate,who\n-1.50,Bea\n1.5,Ann\n"}, "1.5,Ann\n-1.5,Bea"},
	// Totals in other words.
	{"a column All", pu("", ""), csvOf("branch,Buoy,Oar,All\nHolm,1,2,3\nLowe,3,4,7\nHolm,5,6,11\n"), "stop: total or none"},
	{"a column All that is called a total", pu(", total_words: [All]", ""), csvOf("branch,Buoy,Oar,All\nHolm,1,2,3\n"),
		"Holm,Buoy,1\nHolm,Oar,2"},
	{"totals above their rows", p(""), csvOf("branch,amount\nLakes,2234.75\nHolm,1234.50\nLowe,1000.25\nSkerries,2000.50\nOld Slip,1000.25\n" +
		"Pier,1000.25\n"), "stop: total or none"},
	{"a total above all rows", p(""), csvOf("branch,amount\nAll branches,2264.75\nHolm,1234.50\nLowe,1000.25\nOld Slip,10\nPier,20\n"),
		"stop: total or none"},
	{"totals above their rows, of two levels", p(""), csvOf("branch,amount\nWest,3234.75\nLakes,2234.75\nHolm,1234.50\nLowe,1000.25\n" +
		"Sound,1000\nOld Slip,999\nPier,1\n"), "stop: total or none"},
	{"totals above their rows, below one of all", p(""), csvOf("branch,amount\nCoast,4235.25\nLakes,2234.75\nHolm,1234.50\nLowe,1000.25\n" +
		"Skerries,2000.50\nOld Slip,1000.25\nPier,1000.25\n"), "stop: total or none"},
	{"totals above their rows, one left out", p(", totals: drop, total_words: [Skerries]"), csvOf("branch,amount\nLakes,2254.75\n" +
		"Holm,1234.50\nLowe,1000.25\nOld Slip,10\nPier,10\nSkerries,2000.50\nQuay,1000.25\nDock,1000.25\n"), "stop: total or none"},
	{"totals above their rows, and one of them below", p(""), csvOf("branch,amount\nLakes,2234.75\nHolm,1234.50\nLowe,1000.25\n" +
		"Skerries,2000.50\nOld Slip,1000.25\nPier,1000.25\nTotal,4235.25\n"), "stop: total or none, total"},
	{"totals above their rows, called so, and one of them below", p(", total_words: [Lakes, Skerries], totals: drop"),
		csvOf("branch,amount\nLakes,2234.75\nHolm,1234.50\nLowe,1000.25\nSkerries,2000.50\nOld Slip,1000.25\nPier,1000.25\nTotal,4235.25\n"),
		"Holm,1234.5\nLowe,1000.25\nOld Slip,1000.25\nPier,1000.25"},
	{"totals below their rows, the first one below a single row", p(""), csvOf(singleFirst), "stop: total or none"},
	{"totals below their rows, and one of all", p(""), csvOf(singleFirst + "Everything,3536\n"), "stop: total or none"},
	{"totals below their rows, and one of all that says so", p(""), csvOf(singleFirst + "Total,3536\n"), "stop: total or none, total"},
	{"totals below their rows, called so", p(", total_words: [All]"), csvOf(singleFirst + "Total,3536\n"),
		"Quay,1000.5\nHolm,1234.5\nLowe,1000.25\nPier,100.25\nSlip,200.5"},
	{"no totals below their rows", p(", no_totals: [All]"), csvOf(singleFirst),
		"Quay,1000.5\nAll,1000.5\nHolm,1234.5\nLowe,1000.25\nAll,2234.75\nPier,100.25\nSlip,200.5\nAll,300.75"},
	{"rows below which others have nearly the sums", p(""), csvOf(strings.Replace(singleFirst, "200.5", "200.6", 1)),
		"Quay,1000.5\nAll,1000.5\nHolm,1234.5\nLowe,1000.25\nAll,2234.75\nPier,100.25\nSlip,200.6\nAll,300.75"},
	{"no totals above their rows", p(", no_totals: [Lakes]"), csvOf("branch,amount\nLakes,2234.75\nHolm,1234.50\nLowe,1000.25\n" +
		"Skerries,2000.50\nOld Slip,1000.25\nPier,1000.25\n"),
		"Lakes,2234.75\nHolm,1234.5\nLowe,1000.25\nSkerries,2000.5\nOld Slip,1000.25\nPier,1000.25"},
	{"a row All branches", p(""), csvOf("branch,amount\nHolm,1234.50\nLowe,1000.25\nAll branches,2234.75\n"), "stop: total or none"},
	{"a row All branches that is called a total", p(", total_words: [All branches]"),
		csvOf("branch,amount\nHolm,1234.50\nLowe,1000.25\nAll branches,2234.75\n"), "Holm,1234.5\nLowe,1000.25"},
	{"a row All branches that is none", p(", no_totals: [All branches]"),
		csvOf("branch,amount\nHolm,1234.50\nLowe,1000.25\nAll branches,2234.75\n"), "Holm,1234.5\nLowe,1000.25\nAll branches,2234.75"},
	{"Total EUR", p(""), csvOf("branch,amount\nHolm,1\nLowe,2\nTotal EUR,3\n"), "Holm,1\nLowe,2"},
	{"Jahressumme", p(""), csvOf("branch,amount\nHolm,1\nLowe,2\nJahressumme,3\n"), "Holm,1\nLowe,2"},
	{"Total 2024", p(""), csvOf("branch,amount\nHolm,1\nLowe,2\nTotal 2024,3\n"), "Holm,1\nLowe,2"},
	{"two labels", wholePlan(`  - { files: a.csv }`, "region: text, branch: text, amount: number", ""),
		csvOf("region,branch,amount\nNorth,Holm,10\nNorth,Lowe,5\nNorth,North total,15\n"), "North,Holm,10\nNorth,Lowe,5"},
	{"a sheet of totals", p(""), bookOf("Jan:\nbranch|amount\nHolm|#1\n@Total:\nbranch|amount\nHolm|#1\n"), "stop: sheet of totals"},
	{"a sheet of totals that is named", p(", sheets: [Total]"), bookOf("Jan:\nbranch|amount\nHolm|#1\n@Total:\nbranch|amount\nHolm|#2\n"),
		"Holm,2"},
	// Products that say total.
	{"Total Care Wax", p(""), csvOf("branch,amount\nDeck Brush,7\nTotal Care Wax,7\n"), "stop: total or none"},
	{"Total Care Wax that is none", p(", no_totals: [Total Care Wax]"), csvOf("branch,amount\nDeck Brush,7\nTotal Care Wax,7\n"),
		"Deck Brush,7\nTotal Care Wax,7"},
	{"North total of one row", p(""), csvOf("branch,amount\nNorth,7\nNorth total,7\nSouth,1\nSouth total,1\n"), "North,7\nSouth,1"},
	{"Total Energies in a control", wholePlan(`  - { files: a.csv }`, "branch: { book: book.csv }, amount: number",
		"ties: [{ file: c.csv, by: [branch], measures: { amount: Sum } }]\n"),
		map[string]string{"a.csv": "branch,amount\nTotal Energies,1\n", "book.csv": "seen,standard\nTotal Energies,Total Energies\n",
			"c.csv": "branch,Sum\nTotal Energies,2\n"}, "stop: control total"},
	// Numbers made of texts of cells.
	{"from in the entry's numbers", wholePlan(`  - { files: a.csv, numbers: "1.234,56" }`,
		"raw: { headers: [amount], keep: no }, amount: { is: number, from: raw }", ""), csvOf("amount\n1.234\n"), "1234"},
	{"from in another currency", wholePlan(`  - { files: a.csv, numbers: "1.234,56" }`,
		"raw: { headers: [amount], keep: no }, amount: { is: number, from: raw, currency: EUR }", ""), csvOf("amount\n£ 2.500\n"),
		"stop: unclear gap"},
	{"from is tied", wholePlan(`  - { files: a.csv }`,
		"branch: text, raw: { headers: [amount], keep: no }, amount: { is: number, from: raw }", ""),
		csvOf("branch,amount\nHolm,1\nLowe,2\nTotal,4\n"), "stop: total"},
	{"from of a word for nothing", wholePlan(`  - { files: a.csv }`,
		"raw: { headers: [amount], keep: no, not_null_words: [n/a] }, amount: { is: number, from: raw, nulls: 0 }", ""),
		csvOf("amount\nn/a\n5\n"), "0\n5"},
	// Currencies.
	{"a price in another currency", wholePlan(`  - { files: a.csv }`, "price: { is: number, add: no }, amount: number", ""),
		csvOf("price,amount\n€ 1,10\n£ 2,5\n"), "stop: unclear gap"},
	{"a total in another currency", p(""), csvOf("branch,amount\nHolm,€ 1\nLowe,€ 2\nTotal,£ 3\n"), "stop: total"},
	{"a control in another currency", p("") + "ties: [{ file: c.csv, by: [branch], measures: { amount: Sum } }]\n",
		map[string]string{"a.csv": "branch,amount\nHolm,€ 1\n", "c.csv": "branch,Sum\nHolm,£ 1\n"}, "stop: control total"},
	{"above a figure in another currency", wholePlan(`  - { files: a.csv }`,
		"branch: text, amount: { is: number, blanks: above, unclear: 0 }", ""), csvOf("amount,branch\n€ 1,a\n£ 2,b\n,c\n4,d\n"),
		"a,1\nb,0\nc,1\nd,4"},
	// Counted twice.
	{"one file under two entries", wholePlan("  - { files: a.csv }\n  - { files: \"*.csv\" }", "branch: text, amount: number", ""),
		csvOf("branch,amount\nHolm,1\n"), "stop: read twice"},
	{"one file under two entries, each its own column",
		wholePlan("  - { files: a.csv, others: drop, absent: leave, headers: { amount: [x] } }\n  - { files: a.csv, others: drop, "+
			"absent: leave, headers: { amount: [y] } }", "amount: number", ""), csvOf("x,y\n1,2\n"), "1\n2"},
	{"two copies of a file", wholePlan("  - { files: \"*.csv\" }", "branch: text, amount: number", ""),
		map[string]string{"a.csv": "branch,amount\nHolm,1\n", "b.csv": "branch,amount\nHolm,1\n"}, "stop: same file"},
	{"two copies of a file that are meant", wholePlan("  - { files: \"*.csv\", same_files: keep }", "branch: text, amount: number", ""),
		map[string]string{"a.csv": "branch,amount\nHolm,1\n", "b.csv": "branch,amount\nHolm,1\n"}, "Holm,1\nHolm,1"},
	{"two copies without rows", wholePlan("  - { files: \"*.csv\" }", "branch: text, amount: number", ""),
		map[string]string{"a.csv": "branch,amount\n", "b.csv": "branch,amount\n"}, ""},
	{"rows exported twice", p(", same_rows: drop"), csvOf("branch,amount\nHolm,1\nLowe,2\nHolm,1\nTotal,3\n"), "Holm,1\nLowe,2"},
	// Headers.
	{"a renamed label", pu(", absent: leave", ", texts: 0"), csvOf("Filliale,Buoy\nHolm,1\nLowe,2\n"), "stop: unexpected header"},
	{"rows above the header", p(""), csvOf("Filiale,Betrag\nHolm,1\nLowe,2\nbranch,amount\nHolm,3\n"), "stop: rows above the header"},
	{"a second title", wholePlan(`  - { files: a.csv, titles: ["Coast: {coast}"], short_rows: fill }`,
		"coast: text, branch: text, amount: number", ""),
		csvOf("Coast: North,\nbranch,amount\nHolm,1\nCoast: South,\nbranch,amount\nLowe,2\n"), "stop: title again, blank gap"},
	{"a second title in two cells", wholePlan(`  - { files: a.csv, titles: "Coast: {coast}", unpivot: { header: "{product}", cell: amount } }`,
		"coast: text, branch: text, product: text, amount: { is: number, blanks: 0, texts: 0 }", ""),
		csvOf("Coast:,North,\nbranch,Buoy,Oar\nHolm,1,2\nCoast:,South,\nbranch,Buoy,Oar\nLowe,3,4\n"), "stop: title again"},
	{"a label that a title begins with", wholePlan(`  - { files: a.csv, titles: "Coast {coast}" }`,
		"coast: text, branch: text, amount: number", ""), csvOf("Coast,North\nbranch,amount\nCoast,1\nCoast road,2\n"),
		"North,Coast,1\nNorth,Coast road,2"},
	{"a claimed header beside a pattern", wholePlan(
		`  - { files: a.csv, headers: { branch: [Branch name], quantity: [Qty] }, unpivot: { header: "{what} {product}", cell: "{what}" } }`,
		"branch: text, product: text, quantity: whole", ""), csvOf("Branch name,Qty Buoy\nHolm,1\n"), "Holm,Buoy,1"},
	{"a field that another entry has", wholePlan("  - { files: \"b_*.csv\", path: \"b_{year}\" }\n  - { files: a.csv, absent: "+
		"leave, widen: { header: Figure, cell: Value } }", "year: year, branch: text, amount: number", ""),
		map[string]string{"b_2024.csv": "branch,amount\nHolm,1\n", "a.csv": "branch,Figure,Value\nLowe,amount,2\n"}, "2024,Holm,1\n,Lowe,2"},
	{"a claim wins over a name", wholePlan(`  - { files: a.csv }`,
		"mon: { headers: [Month], keep: no }, year: { keep: no }, month: { is: month, write: \"{mon} {year}\" }, amount: number", ""),
		csvOf("Month,Year,amount\nJan,2024,1\n"), "2024-01,1"},
	{"no wide column at all", pu(", absent: leave", ""), csvOf("branch\nx\n"), ""},
	{"headers that are left aside", pu(", others: [Notes, \"Entered *\"]", ""), csvOf("branch,Notes,Entered by,Buoy\nHolm,x,y,1\n"),
		"Holm,Buoy,1"},
	{"a column that may be absent", wholePlan(`  - { files: a.csv, absent: { quantity: leave } }`,
		"branch: text, quantity: whole, amount: number", ""), csvOf("branch,amount\nHolm,1\n"), "Holm,,1"},
	{"another column that may not", wholePlan(`  - { files: a.csv, absent: { quantity: leave } }`,
		"branch: text, quantity: whole, amount: number", ""), csvOf("amount\n1\n"), "stop: missing header"},
	{"two header rows under a title", wholePlan(
		`  - { files: a.csv, header: 2 rows, short_rows: fill, unpivot: { header: "{quarter} | {product}", cell: amount } }`,
		"branch: text, quarter: text, product: text, amount: number", ""),
		csvOf("Halyard & Moss,,,\n,Q1,,Q2\nbranch,Buoy,Oar,Buoy\nHolm,1,2,3\n"), "Holm,Q1,Buoy,1\nHolm,Q1,Oar,2\nHolm,Q2,Buoy,3"},
	// Text files.
	{"carriage returns alone", p(""), csvOf("branch,amount\rHolm,1\rLowe,2\r"), "Holm,1\nLowe,2"},
	{"UTF-8 in some lines", p(""), csvOf("branch,amount\nGr\xf6\xdfe,1\nMüller,2\n"), "stop: encoding"},
	{"code page 850", p(""), csvOf("branch,amount\nM\x81ller,1\n"), "stop: encoding"},
	{"code page 850 that is said", p(", encoding: cp850"), csvOf("branch,amount\nM\x81ller,1\n"), "Müller,1"},
	{"a last row with a label alone", wholePlan(`  - { files: a.csv }`, "branch: text, amount: { is: number, blanks: 0 }", ""),
		csvOf("branch,amount\nLowe,1\nHolm,2\nLowe,\nprinted in May,\n"), "Lowe,1\nHolm,2\nLowe,0"},
	{"above and a total", wholePlan(`  - { files: a.csv }`, "branch: text, amount: { is: number, blanks: above }", ""),
		csvOf("branch,amount\nHolm,1\nLowe,\nSaltby,2\nTotal,3\n"), "Holm,1\nLowe,1\nSaltby,2"},
	{"a line break within a number", wholePlan(`  - { files: a.csv, numbers: "1 234,56" }`, "branch: text, amount: number", ""),
		csvOf("branch,amount\nHolm,\"1\n234\"\n"), "stop: unclear gap"},
	{"a date of a path and a cell that are unclear",
		wholePlan("  - { files: \"*2024.csv\", path: \"{day}\" }\n  - { files: a.csv }", "day: date, amount: number", ""),
		map[string]string{"03.04.2024.csv": "amount\n1\n", "a.csv": "day,amount\n03/04/2024,2\n"}, "stop: unclear gap"},
	{"numbers of two kinds", p(", numbers: [\"1,234.56\", \"1.234,56\"]"), csvOf("branch;amount\nHolm;1.234,56\nLowe;1,234.56\n"),
		"Holm,1234.56\nLowe,1234.56"},
	{"numbers of two kinds that differ", p(", numbers: [\"1,234.56\", \"1.234,56\"]"), csvOf("branch;amount\nHolm;1.234\n"),
		"stop: unclear gap"},
	{"months in figures", wholePlan(`  - { files: a.csv, dates: 12/2024 }`, "month: month, amount: number", ""),
		csvOf("month,amount\n3/2024,1\n"), "2024-03,1"},
	{"a number of a sheet through a text", wholePlan(`  - { files: a.xlsx, numbers: "1.234,56" }`,
		"tax_text: { headers: [Tax], keep: no }, tax: { is: number, from: tax_text }", ""), bookOf("Tax\n#1.234\n#172.39\n1.234,5\n"),
		"1.234\n172.39\n1234.5"},
	{"a note that is a label below, texts dropped", wholePlan(`  - { files: a.csv }`,
		"branch: text, amount: { is: number, blanks: 0, texts: drop }", ""), csvOf("branch,amount\nHolm,1\nLowe,\nLowe,closed\n"), "Holm,1"},
	{"a number of a sheet written into a number", wholePlan(`  - { files: a.xlsx, numbers: "1.234,56" }`,
		"tax_text: { headers: [Tax], keep: no }, tax: { is: number, write: \"{tax_text} EUR\" }", ""),
		bookOf("Tax\n#1.234\n#172.39\n1.234,5\n"), "1.234\n172.39\n1234.5"},
	{"a number of a sheet beside its unit", wholePlan(`  - { files: a.xlsx, numbers: "1.234,56" }`,
		"tax_text: { headers: [Tax], keep: no }, unit: { keep: no }, tax: { is: number, write: \"{tax_text} {unit}\" }", ""),
		bookOf("Tax|unit\n#1.234|EUR\n#7|EUR\n1.234,5|EUR\n"), "1.234\n7\n1234.5"},
	{"a name seen first where no fact row is " +
		"made", wholePlan(`  - { files: "*.csv", absent: leave, unpivot: { header: "{product}", cell: amount } }`,
		"branch: name, product: text, amount: number", ""),
		map[string]string{"a.csv": "branch\nHolm\n", "b.csv": "branch,Oar\nHOLM,1\n"}, "HOLM,Oar,1"},
	{"what must be", wholePlan(`  - { files: "a*.csv", path: "a_{file_year}" }`,
		"file_year: { is: year, keep: no }, year: year, amount: number", "rows: { must: [=file_year = year] }\n"),
		map[string]string{"a_2023.csv": "year,amount\n2023,1\n2024,2\n"}, "stop: must"},
}

// Each was found to deliver a wrong figure, or to lose one, with exit 0; or another one
// with another number of workers.
func TestNothingSilent(t *testing.T) {
	for _, c := range nothingSilentCases {
		t.Run(c.name, func(t *testing.T) {
			for _, how := range [][2]int{{1, 0}, {8, 0}, {2, 1}, {3, 2}} {
				if c.name == "a line break within a number" { // blocks are never cut within quotes
					how[1] = 0
				}
				require.Equal(t, c.want, c.run(t, how[0], how[1]), "%d workers, blocks of %d lines\n%s", how[0], how[1], c.plan)
			}
		})
	}
}

// A folder that cannot be read may hold extracts.
func TestUnreadableFolder(t *testing.T) {
	if os.Getuid() == 0 {
		t.Skip("root reads every folder; the program is asked as another user in e2e")
	}
	c := silent{plan: wholePlan(`  - { files: "raw/**/*.csv" }`, "amount: number", ""),
		files: map[string]string{"raw/north/a.csv": "amount\n1\n", "raw/south/b.csv": "amount\n2\n"}}
	f := &folder{dir: t.TempDir(), plan: c.plan}
	for name, text := range c.files {
		f.write(t, name, text)
	}
	south := filepath.Join(f.dir, "raw", "south")
	require.NoError(t, os.Chmod(south, 0))
	defer os.Chmod(south, 0o777)
	s, _ := f.build(t, 1, 0)
	require.Equal(t, 1, s.ExitCode())
	require.Contains(t, s.Problems[0].Places[0].File, "raw/south")
}

// Cells that are unclear for their currency alone are said to be.
func TestOtherCurrency(t *testing.T) {
	for text, want := range map[string]string{
		"branch,amount\nHolm,€ 1.50\nLowe,\"$1,200.00\"\nMere,7 USD\n": "they are in $, USD, not in EUR",
		"branch,amount\nHolm,$1\nLowe,12 or so\n":                      "or a value",
	} {
		f := &folder{dir: t.TempDir(), plan: wholePlan("  - { files: a.csv }", "branch: text, amount: { is: number, currency: EUR }", "")}
		f.write(t, "a.csv", text)
		s, _ := f.build(t, 1, 0)
		require.Equal(t, 3, s.ExitCode())
		require.Contains(t, s.Problems[0].Advice, want)
	}
}
