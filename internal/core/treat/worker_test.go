package treat_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
	"umbau/internal/format"
	"umbau/internal/format/csv"
)

// decided is what becomes of an extract, all of it one block.
func decided(t *testing.T, j job, repeats treat.Repeats) *treat.Outcome {
	j.text = strings.TrimSpace(j.text)
	program, problems := programOf(t, j)
	require.Empty(t, problems)
	w := treat.NewWorker(program.Plan, treat.Wants{Gaps: true})
	reader := csv.NewReader(strings.NewReader(j.text), '|')
	block, err := reader.Next(nil)
	require.NoError(t, err)
	require.NoError(t, w.Read(program, reader, treat.Raw{Block: block, Last: true, Repeats: repeats}))
	require.NoError(t, w.HandOver(treat.NewShared(program.Plan)))
	return w.Decide()
}

// facts are the delivered fact rows of a block.
func facts(of *treat.Outcome) []string {
	var o outcome
	o.take(of)
	return o.facts
}

// Every cell without a value is listed, whatever the rules say of it.
func TestGapCells(t *testing.T) {
	o := decided(t, job{entry: `, unpivot: { header: "{product}", cell: amount, blanks: skip }`, fact: `
		branch: { blanks: above }
		day: { is: date, nulls: leave }
		product: text
		amount: { is: number, decimals: 2, nulls: 0, texts: drop }`,
		text: `
Branch|Day|Buoy|Oar
Quay 4|n/a|1|
|2024-01-05|none|12 pcs
Old Slip|soon|closed|#N/A`}, treat.Repeats{})
	var have []string
	for _, g := range o.Gaps {
		have = append(have, fmt.Sprintf("%s %d %s %s", g.Place, g.Column, g.Kind, g.Text))
	}
	require.Equal(t, []string{
		`a.csv, row 2, header "Day" 1 null n/a`,
		`a.csv, row 3, header "Branch" 0 blank `,
		`a.csv, row 3, header "Buoy" 3 null none`,
		`a.csv, row 3, header "Oar" 3 unclear 12 pcs`,
		`a.csv, row 4, header "Day" 1 text soon`,
		`a.csv, row 4, header "Buoy" 3 text closed`,
		`a.csv, row 4, header "Oar" 3 error #N/A`,
	}, have)
}

// Rows whose grain stands again get the fate that the build found for them, but for
// those that a rule takes before.
func TestRepeats(t *testing.T) {
	became := decided(t, job{entry: `, unpivot: { header: "{product}", cell: amount }`,
		fact: "branch: { blanks: drop }\nproduct: text\namount: { is: whole, nulls: hold }",
		text: "Branch|Buoy|Oar\nQuay 4|1|2\n|3|4\nQuay 4|n/a|6"}, treat.Repeats{Fate: func(line, slot int) table.Fate {
		switch {
		case slot == 0 && line > 2:
			return table.Repeated
		case slot == 1 && line > 3:
			return table.Summed
		}
		return table.Delivered
	}})
	var o outcome
	o.take(became)
	require.Equal(t, []string{"Quay 4|Buoy|1", "Quay 4|Oar|2"}, o.facts)
	require.Equal(t, []string{"3 dropped by branch", "3 dropped by branch", "4 held by amount: null", "4 summed"}, o.gone)
	a := became.Accounts[2].Totals()
	require.Equal(t, "16 9 0 7", fmt.Sprintf("%s %s %s %s", a.Read, a.Fact, a.Held, a.LeftOut), "a summed row counts as in the fact table")
}

// summed has sums for some rows: by line, a column and a sum, "" for none.
func summed(t *testing.T, sums map[int]map[int]string) treat.Repeats {
	return treat.Repeats{Sums: func(line, _ int) (out []treat.Summed) {
		for _, ci := range slices.Sorted(maps.Keys(sums[line])) {
			s := treat.Summed{Column: ci}
			if text := sums[line][ci]; text != "" {
				d, _, ok := value.English.Number([]byte(text))
				require.True(t, ok)
				s.Filled = true
				s.Sum.Add(d)
			}
			out = append(out, s)
		}
		return out
	}}
}

// Where measures are sums, what is made of them is worked out once more.
func TestRework(t *testing.T) {
	j := job{fact: `
		branch: text
		amount: { is: number, decimals: 2, nulls: leave, mark: gap }
		cost: { is: number, blanks: 0 }
		margin: =amount - cost
		large: { is: flag, formula: margin > 10 }
		label: { write: "{branch} {margin}" }
		twice: { formula: cost * 2, keep: no }`,
		text: "Branch|Amount|Cost\nQuay 4|1.50|1\nOld Slip|n/a|\nBoatyard|20|3"}
	require.Equal(t, []string{"Quay 4|1.50||1|0.5|false|Quay 4 0.5|2", "Old Slip||null|0|||Old Slip|0",
		"Boatyard|20.00||3|17|true|Boatyard 17|6"}, facts(decided(t, j, treat.Repeats{})))
	o := decided(t, j, summed(t, map[int]map[int]string{2: {1: "101.50", 3: "1.0"}, 3: {1: "", 3: "7.125"}}))
	require.Equal(t, []string{"Quay 4|101.50||1|100.5|true|Quay 4 100.5|2", "Old Slip||null|7.125|||Old Slip|14.25",
		"Boatyard|20.00||3|17|true|Boatyard 17|6"}, facts(o))
	require.Equal(t, []string{"", "0"}, []string{string(o.AppendAfter(nil, &o.Changes[0])), string(o.AppendAfter(nil, &o.Changes[1]))},
		"changes keep what they were")
}

// Sums may divide by zero where the numbers of one row did not.
func TestReworkFails(t *testing.T) {
	src := "branch: text\namount: whole\nquantity: whole\nprice: { formula: amount / quantity, %s }\nlabel: { write: \"{price}\" }"
	text := "Branch|Amount|Quantity\nQuay 4|6|2"
	zero := summed(t, map[int]map[int]string{2: {2: "0"}})
	for rule, want := range map[string]string{"errors: leave": "Quay 4|6|0||", "errors: 7": "Quay 4|6|0|7|7"} {
		j := job{fact: fmt.Sprintf(src, rule), text: text}
		require.Equal(t, []string{"Quay 4|6|2|3|3"}, facts(decided(t, j, treat.Repeats{})))
		o := decided(t, j, zero)
		require.Equal(t, []string{want}, facts(o))
		require.Empty(t, o.Problems)
	}
	o := decided(t, job{fact: fmt.Sprintf(src, "errors: stop"), text: text}, zero)
	require.Len(t, o.Problems, 1)
	require.Equal(t, "error gap", o.Problems[0].What)
}

// Where rows become fewer, each cell keeps its own line.
func TestLinesOfWidenedRows(t *testing.T) {
	o := decided(t, job{entry: `, widen: { header: Figure, cell: Value }`,
		fact: "branch: text\nquantity: { is: whole, blanks: 0 }\namount: { is: number, texts: 0 }",
		text: "Branch|Figure|Value\nQuay 4|Quantity|2\nOld Slip|Amount|closed\nQuay 4|Amount|1.5"}, treat.Repeats{})
	require.Equal(t, []string{"Quay 4|2|1.5", "Old Slip|0|0"}, facts(o))
	require.Equal(t, []int{2, 2, 4}, []int{o.LineOf(0, 0), o.LineOf(1, 0), o.LineOf(2, 0)})
	require.Equal(t, 3, o.LineOf(2, 1))
}

func TestProgram(t *testing.T) {
	wide := `, unpivot: { header: "{what} {product}", cell: "{what}" }`
	program, problems := programOf(t, job{entry: wide,
		fact: "branch: text\nproduct: text\nquantity: whole\namount: number\nprice: { is: number, add: no }",
		text: "Branch|Quantity Buoy|Amount Buoy|Amount Oar|Price"})
	require.Empty(t, problems)
	require.Equal(t, []int{2, 3}, program.Measures())
	require.Equal(t, []int{-1, 2, 3, 3, -1}, []int{program.MeasureAt(0), program.MeasureAt(1), program.MeasureAt(2), program.MeasureAt(3),
		program.MeasureAt(4)})
	require.Equal(t, "Amount Oar", program.CellHeader(3, 1))
	require.Equal(t, "Price", program.LabelHeader(4))
	require.Empty(t, program.LabelHeader(1))

	_, problems = programOf(t, job{entry: `, unpivot: { header: "{product}", cell: amount }`,
		fact: "branch: { blanks: \"=if(amount > 1, 'a', 'b')\" }\nproduct: text\namount: whole", text: "Branch|Buoy|Oar"})
	require.Len(t, problems, 1)
	require.Equal(t, "value from two places", problems[0].What)
	require.Contains(t, problems[0].Advice, "=coalesce(branch, …)")
}

func TestMadeOfMeasures(t *testing.T) {
	p, err := plan.Read("umbau.yaml", []byte("umbau: 1\nextracts: [{ files: \"*.csv\" }]\nfact:\n  branch: text\n  amount: number\n  "+
		"price: { is: number, add: no }\n  twice: =amount * 2\n  label: { write: \"{branch} {twice}\" }\n  dear: =price > 3\n  short: { "+
		"from: branch, read: \"{}-*\" }\ndeliver: [{ to: out.csv }]\n"), format.All())
	require.NoError(t, err)
	require.Equal(t, []bool{false, false, false, true, true, false, false}, treat.MadeOfMeasures(p))
}

// A worker is used for extract after extract, of this plan's entry or of others: what
// the last one left behind is not in the next.
func TestWorkerAgain(t *testing.T) {
	j := job{fact: "branch: { blanks: above }\nproduct: name\namount: { is: number, nulls: 0 }",
		text: "Branch|Product|Amount\nQuay 4|Buoy|1\n|OAR|n/a\nOld Slip|buoy|x"}
	program, _ := programOf(t, j)
	w := treat.NewWorker(program.Plan, treat.Wants{})
	var first outcome
	for i := range 3 {
		reader := csv.NewReader(strings.NewReader(j.text), '|')
		block, err := reader.Next(nil)
		require.NoError(t, err)
		require.NoError(t, w.Read(program, reader, treat.Raw{Block: block, Last: true}))
		require.NoError(t, w.HandOver(treat.NewShared(program.Plan)))
		became := w.Decide()
		var o outcome
		o.take(became)
		o.problems = []string{fmt.Sprint(became.Problems)}
		if i == 0 {
			first = o
			require.Equal(t, []string{"Quay 4|Buoy|1", "Quay 4|OAR|0"}, o.facts)
		}
		require.Equal(t, first, o)
	}
}

// Random extracts of all that is odd come to the same wherever blocks are cut, and
// every row and amount is accounted for (treated sees to both).
func TestRandomCuts(t *testing.T) {
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 29))
		pick := func(of ...string) string { return of[r.IntN(len(of))] }
		j := job{entry: ", short_rows: fill, sections: family" + pick("", ", totals: keep", ", footnotes: keep"),
			rows: pick("", "rows: { only: =amount >= 0 }", "rows: { zeros: drop }"), fact: fmt.Sprintf(`
			family: { blanks: %s }
			branch: { blanks: above, nulls: %s }
			product: { is: name, book: book.csv, unknown: %s, blanks: %s }
			amount: { is: number, decimals: 2, blanks: %s, nulls: %s, texts: %s, unclear: %s, errors: %s, mark: gap }
			double: =amount + amount`,
				pick("leave", "None", "drop"), pick("drop", "hold", "X"), pick("hold", "keep", "drop", "Other", "stop"), pick("leave", "above", "hold"),
				pick("0", "leave", "above", "drop", "hold", "stop"), pick("0", "above"), pick("leave", "hold", "=1 + 1"), pick("5", "stop", "drop"),
				pick("hold", "above", "0")),
			book: "Bouy,Buoy\nDock Line,Dock Line\n"}
		var b strings.Builder
		b.WriteString("Branch|Product|Amount\n")
		for range 3 + r.IntN(40) {
			switch r.IntN(12) {
			case 0:
				b.WriteString(pick("\n", "||\n", "Ropes\n", "Lamps||\n", "Total\n", "BRANCH|product|AMOUNT\n", "Total||12\n", "Quay total||3.5\n"))
			default:
				fmt.Fprintf(&b, "%s|%s|%s\n", pick("Quay 4", "Old Slip", "", "n/a"), pick("Buoy", "BOUY", "dock-line", "Oar", "oar", ""),
					pick("1", "2.50", "-3", "0.005", "", "n/a", "closed", "12 pcs", "#N/A", "1,234.5"))
			}
		}
		b.WriteString("Quay 4|Buoy|1\n")
		j.text = b.String()
		t.Run(fmt.Sprint(seed), func(t *testing.T) { treated(t, j) })
	}
}

// The same of wide extracts: pairs of cells, the rows themselves, skipped blanks; and of
// extracts whose figures stand below each other.
func TestRandomWideCuts(t *testing.T) {
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 31))
		pick := func(of ...string) string { return of[r.IntN(len(of))] }
		figure := func() string {
			return pick("1", "2", "-3", "0", "2.50", "", "", "n/a", "closed", "12 pcs", "#N/A", "1,234.5", "0.005")
		}
		rule := func() string { return pick("0", "leave", "hold", "drop", "above") }
		j := job{book: "Bouy,Buoy\n", rows: pick("", "rows: { only: \"=amount > 0 or quantity > 0\" }", "rows: { zeros: drop }",
			"rows: { only: =product != 'oar' }")}
		columns := fmt.Sprintf(`branch: { blanks: above, nulls: %s }
			month: { is: month, blanks: above, texts: %s }
			product: { is: name, book: book.csv, unknown: %s, blanks: leave }
			quantity: { is: whole, blanks: %s, nulls: %s, texts: %s, unclear: %s, errors: %s }
			amount: { is: number, decimals: 2, blanks: %s, nulls: %s, texts: %s, unclear: %s, errors: %s, mark: gap }
			each: { formula: amount / quantity, add: no, errors: %s }`, pick("None", "hold"), pick("2024-12", "drop"),
			pick("hold", "keep", "drop", "Other"),
			rule(), rule(), rule(), rule(), rule(), rule(), rule(), rule(), rule(), rule(), pick("leave", "0", "hold"))
		var b strings.Builder
		switch r.IntN(3) {
		case 0:
			j.entry = fmt.Sprintf(`, sections: family, unpivot: { header: "{what} {product}", cell: "{what}", blanks: %s }`, pick("skip", "keep"))
			j.fact = "family: { blanks: leave }\n" + columns
			b.WriteString("Branch|Month|Quantity Bouy|Amount Bouy|Amount Oar|Quantity Total\n")
			for range 2 + r.IntN(30) {
				switch r.IntN(10) {
				case 0:
					b.WriteString(pick("Ropes|||||\n", "|||||\n", "Total||1|2|3|\n",
						"branch|month|quantity bouy|amount bouy|amount oar|quantity total\n", "|12|||||\n"[1:]))
				default:
					fmt.Fprintf(&b, "%s|%s|%s|%s|%s|%s\n", pick("Quay", "Slip", "", "n/a"), pick("2024-01", "2024-02", "", "soon"), figure(), figure(),
						figure(), pick("", "3"))
				}
			}
			b.WriteString("Quay|2024-03|1|1|1|1\n")
		case 1:
			j.entry = fmt.Sprintf(`, unpivot: { columns: ["Part *"], header: "{part} {n}", cell: product, blanks: %s, itself: yes }, others: drop`,
				pick("skip", "keep"))
			j.fact = "n: { is: text }\npart: { is: text }\n" +
				strings.NewReplacer("is: whole", "is: whole, add: no", "is: number, decimals", "is: number, add: no, decimals").Replace(columns)
			b.WriteString("Branch|Month|Part 1|Part 2|Quantity|Amount|Note\n")
			for range 2 + r.IntN(30) {
				fmt.Fprintf(&b, "%s|%s|%s|%s|%s|%s|x\n", pick("Quay", "Slip", ""), pick("2024-01", "", "soon"), pick("Bouy", "OAR", "oar", ""),
					pick("Bouy", "", "Sail"), figure(), figure())
			}
			b.WriteString("Quay|2024-03|Bouy|Bouy|1|1|x\n")
			j.rows = ""
		default:
			j.entry, j.fact = `, widen: { header: Figure, cell: Value }`, columns
			b.WriteString("Branch|Month|Product|Figure|Value\n")
			for i := range 2 + r.IntN(30) {
				fmt.Fprintf(&b, "%s %d|%s|%s|%s|%s\n", pick("Quay", "Slip"), i/3, pick("2024-01", "soon"), pick("Bouy", "Oar"),
					pick("Quantity", "amount"), figure())
			}
		}
		j.text = b.String()
		t.Run(fmt.Sprint(seed), func(t *testing.T) { treated(t, j) })
	}
}

// A quote that is never closed is an error of the block, with its line.
func TestReadError(t *testing.T) {
	j := job{fact: "branch: text", text: "Branch\nQuay 4"}
	program, _ := programOf(t, j)
	w := treat.NewWorker(program.Plan, treat.Wants{})
	reader := csv.NewReader(strings.NewReader(""), '|')
	err := w.Read(program, reader, treat.Raw{Block: table.Block{Data: []byte("a\n\"b\n"), Line: 7}})
	var row *table.RowError
	require.ErrorAs(t, err, &row)
	require.Equal(t, 8, row.Row)
	require.Equal(t, place.Place{File: "a.csv"}, program.Lineup.Place)
}
