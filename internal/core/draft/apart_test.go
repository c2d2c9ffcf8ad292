package draft

import (
	"fmt"
	"strings"
	"testing"

	"umbau/internal/core/terms"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// What was planned is left aside where it stands in files or sheets beside what was sold, and else taken; a column that
// says so may be asked for.
func TestPlansAreLeftAside(t *testing.T) {
	rows, columns := "Region,Month,Amount\nLakes,2024-01,1.50\nLakes,2024-02,2.50\n", "region,month,amount"
	for _, test := range []struct {
		columns string
		files   map[string]string
		rows    int
		plan    string
	}{
		{columns, map[string]string{"raw/actual_2024.csv": rows, "raw/budget_2024.csv": rows + "Lakes,2024-03,3.50\n"}, 2,
			`files: "raw/actual_*.csv"`},
		{columns, map[string]string{"Lakes 2024.csv": rows, "plan/Lakes 2024.csv": rows + "Lakes,2024-03,3.50\n"}, 2, `files: "Lakes *.csv"`},
		{columns, map[string]string{"raw/2024/Lakes.csv": rows, "plan/2024/Lakes.csv": rows + "Lakes,2024-03,3.50\n"}, 2,
			`files: "raw/*/*.csv"`},
		{columns, map[string]string{"raw/budget_2024.csv": rows}, 2, `files: "raw/budget_*.csv"`},
		{"region,month,scenario,amount", map[string]string{"a.csv": "Region,Month,Scenario,Amount\nLakes,2024-01,Actual,30.50\n" +
			"Lakes,2024-01,Budget,33.50\n"}, 2, "scenario: text"},
		{"", map[string]string{"a.csv": "Region,Month,Currency,Amount\nLakes,2024-01,EUR,30.50\nLakes,2024-01,GBP,33.50\n"}, 2,
			"currency: text"},
	} {
		r, err := drafted(t, test.columns, test.files)
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v", r.Problems)
		require.Equal(t, test.rows, r.Rows, r.Text)
		require.Contains(t, r.Text, test.plan)
	}
}

// A sheet that sums up others is left aside; files that are all called totals are extracts.
func TestSheetsThatSumUp(t *testing.T) {
	f := excelize.NewFile()
	defer f.Close()
	for sheet, rows := range map[string][][]any{
		"Lakes":   {{"Month", "Amount"}, {"2024-01", 1.5}, {"2024-02", 2.5}},
		"Wick":    {{"Month", "Amount"}, {"2024-01", 3.5}, {"2024-02", 4.5}},
		"Summary": {{"Region", "Amount"}, {"Lakes", 4}, {"Wick", 8}},
	} {
		_, err := f.NewSheet(sheet)
		require.NoError(t, err)
		for i, row := range rows {
			require.NoError(t, f.SetSheetRow(sheet, fmt.Sprintf("A%d", i+1), &row))
		}
	}
	require.NoError(t, f.DeleteSheet("Sheet1"))
	book, err := f.WriteToBuffer()
	require.NoError(t, err)
	for _, columns := range []string{"region,month,amount", "region,amount"} {
		r, err := drafted(t, columns, map[string]string{"raw/sales.xlsx": book.String()})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Equal(t, 4, r.Rows, r.Text)
		require.Contains(t, r.Text, "except_sheets: [Summary]")
	}
	r, err := drafted(t, "region,branch,product,amount", map[string]string{"totals/Lakes.csv": noMonth, "totals/Wick.csv": noMonth + "\n"})
	require.NoError(t, err)
	require.Equal(t, 4, r.Rows, r.Text)
}

// A table without figures among the extracts may be one whose header was not found: it is asked about, others are not.
func TestTablesWithoutFigures(t *testing.T) {
	people := "who,what,when\nInes,till,noon\nOdo,till,night\nMaren,yard,noon\n"
	r, err := drafted(t, "region,branch,month,product,amount", map[string]string{
		"raw/Lakes.csv": longRows, "raw/people.csv": people, "ref/others.csv": people + "Tove,yard,night\n", "raw/notes.csv": "a,b\nc,d\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit)
	require.Len(t, r.Open, 1)
	require.Contains(t, r.Open[0], "raw/people.csv stands among the extracts")
	require.Contains(t, r.Text, "# ? raw/people.csv")
}

// Money of two kinds, or of two scales, is never added up, whether headers or titles say so; where all say the same it is.
func TestMoneyThatCannotBeAddedUp(t *testing.T) {
	long, wide := "Region,Month,%s\nLakes,2024-01,1.50\nLakes,2024-02,2.50\n", "%s,,\nRegion,2024-01,2024-02\nLakes,1.50,2.50\n"
	titled := "%s,,\nRegion,Month,Amount\nLakes,2024-01,1.50\nLakes,2024-02,2.50\n"
	for _, test := range []struct {
		in, one, other string
		unlike         bool
	}{
		{long, "Amount", "Amount (kEUR)", true},
		{long, "Amount EUR", "Amount GBP", true},
		{long, "Umsatz in TEUR", "Umsatz TEUR", false},
		{titled, "Sales in EUR", "Sales in GBP", true},
		{titled, "Sales in EUR", "Sales", false},
		{titled, "Currency:,EUR", "Currency:,GBP", true},
		{titled, "Printed,2024-05-02", "Printed,2024-05-03", false},
		{titled, "Sales", "Sales in thousands of EUR", true},
		{titled, "Sales", "Sales in EUR 1000", true},
		{titled, "Umsatz", "Umsatz in T€", true},
		{titled, "Sales", "Sales of depot 1000", false},
		{long, "Amount", "Amount in cents", true},
		{titled, "Sales in SEK", "Sales in NOK", true},
		{titled, "Sales in EUR", "Sales by Ron", false},
		{titled, "Sales excl. VAT", "Sales incl. VAT", true},
		{titled, "Sales of nets", "Sales incl. returns", false},
		{wide, "Sales in EUR", "Ventes en USD", true},
		{wide, "Sales in EUR", "Ventes en EUR", false},
	} {
		r, err := drafted(t, "region,month,amount", map[string]string{"a.csv": fmt.Sprintf(test.in, test.one),
			"b.csv": strings.ReplaceAll(fmt.Sprintf(test.in, test.other), "Lakes", "Wick")})
		require.NoError(t, err)
		if !test.unlike {
			require.Zero(t, r.Exit, "%s, %s: %v", test.one, test.other, r.Problems)
			require.Equal(t, 4, r.Rows)
			continue
		}
		require.Contains(t, r.Missing, "amount", "%s, %s: %s", test.one, test.other, r.Text)
		require.NotEmpty(t, r.Open)
	}
}

// Quantities of pieces and of boxes are never added up, whichever header or title says so; where all say the same they are. A header that
// says a unit alone is found late, and stops the build.
func TestQuantitiesThatCannotBeAddedUp(t *testing.T) {
	for _, test := range []struct {
		titles, headers [2]string
		unlike          bool
	}{
		{[2]string{"Sales", "Sales"}, [2]string{"Quantity", "Quantity (dz)"}, true},
		{[2]string{"Sales", "Sales"}, [2]string{"Quantity", "Quantity in boxes"}, true},
		{[2]string{"Sales", "Sales"}, [2]string{"Quantity", "Cartons"}, true},
		{[2]string{"Sales", "Quantity in dozens"}, [2]string{"Quantity", "Quantity"}, true},
		{[2]string{"Sales", "Sales of boxes"}, [2]string{"Quantity", "Quantity"}, false},
		{[2]string{"Sales", "Sales"}, [2]string{"Quantity", "Quantity (pcs)"}, false},
		{[2]string{"Sales", "Sales"}, [2]string{"Units", "Stück"}, false},
		{[2]string{"Sales", "Sales"}, [2]string{"Cartons", "Cartons"}, false},
	} {
		files := map[string]string{}
		for i, region := range []string{"Lakes", "Wick"} {
			files[region+".csv"] = test.titles[i] + ",,,\nRegion,Month," + test.headers[i] + ",Amount\n" + region + ",2024-01,3,1.50\n" +
				region + ",2024-02,5,2.50\n"
		}
		r, err := drafted(t, "region,month,quantity,amount", files)
		require.NoError(t, err)
		if !test.unlike {
			require.Zero(t, r.Exit, "%v: %v\n%s", test, r.Problems, r.Text)
			require.Equal(t, 4, r.Rows)
			continue
		}
		require.NotEmpty(t, r.Open, "%v\n%s", test, r.Text)
		require.True(t, len(r.Missing) > 0 || strings.Contains(r.Text, "settled"), r.Text)
	}
}

// What only some tables say of money is told beside the column: the others may mean the same.
func TestMoneyThatSomeSay(t *testing.T) {
	r, err := drafted(t, "region,month,amount", map[string]string{"a.csv": "Region,Month,Amount GBP\nLakes,2024-01,1.50\n",
		"b.csv": "Region,Month,Amount\nWick,2024-01,1.50\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit)
	require.Contains(t, r.Text, `# "Amount GBP" in a.csv; of 1 table nothing says so`)
}

// A column that is not asked for may say that some rows have what others have, once more or otherwise; others only part what was sold.
func TestRowsThatSayThingsTwice(t *testing.T) {
	for _, test := range []struct {
		header string
		labels [2]string
		both   bool // each row stands once for each label
		asks   bool
	}{
		{"Period type", [2]string{"MTD", "YTD"}, false, true},
		{"Basis", [2]string{"Monthly", "Year to date"}, false, true},
		{"Curr", [2]string{"LC", "GC"}, false, true},
		{"Currency type", [2]string{"Local", "Group"}, false, true},
		{"Currency", [2]string{"EURO", "Euro"}, false, false},
		{"Currency", [2]string{"Euro", "Kronen"}, false, true},
		{"Period", [2]string{"TY", "LY"}, false, true},
		{"Version", [2]string{"V1", "V2"}, false, true},
		{"Kind", [2]string{"Sell-in", "Sell-out"}, false, true},
		{"Level", [2]string{"Branch", "Region"}, false, true},
		{"Tax", [2]string{"incl.", "excl."}, false, true},
		{"Basis", [2]string{"Net", "Gross"}, false, true},
		{"Type", [2]string{"Sale", "Transfer"}, false, true},
		{"Unit", [2]string{"pcs", "box"}, true, true},
		{"Snapshot", [2]string{"2024-05-01", "2024-06-01"}, true, true},
		{"Snapshot", [2]string{"2024-05-01", "2024-06-01"}, false, false},
		{"Channel", [2]string{"Retail", "Trade"}, true, false},
		{"Unit", [2]string{"pcs", "box"}, false, false},
	} {
		var b strings.Builder
		b.WriteString("Region,Month,Product," + test.header + ",Quantity,Amount\n")
		for i := range 24 {
			for k, label := range test.labels {
				if test.both || i%2 == k {
					fmt.Fprintf(&b, "Lakes,2024-%02d,%s,%s,%d,%d.50\n", i/2%12+1, []string{"Oar", "Buoy"}[i%2], label, i+3*k+1, 7*i+k)
				}
			}
		}
		r, err := drafted(t, "region,month,product,quantity,amount", map[string]string{"a.csv": b.String()})
		require.NoError(t, err)
		require.Equal(t, test.asks, len(r.Open) > 0, "%v: %v\n%s", test, r.Open, r.Text)
	}
}

// Names of files and folders say what cannot be added up, too, and versions are no regions.
func TestNamesThatCannotBeAddedUp(t *testing.T) {
	const text = "Month,Branch,Amount\n2024-01,%[1]s Quay,1.50\n2024-02,%[1]s Quay,2.50\n2024-01,%[1]s Mole,3.50\n"
	for names, asks := range map[string]bool{
		"Lakes net 2024,Wick gross 2024": true, "Lakes TEUR 2024,Wick 2024": true, "Lakes LY 2024,Wick TY 2024": true,
		"Lakes V1 2024,Lakes V2 2024,Wick V1 2024,Wick V2 2024": true, "V1/Lakes,V1/Wick,V2/Lakes,V2/Wick": true,
		"Thousand Islands 2024,Wick 2024": false, "Lakes 2024,Wick 2024": false, "Lakes v2 2024,Wick v2 2024": false,
	} {
		files := map[string]string{}
		for i, name := range strings.Split(names, ",") {
			region := []string{"Lakes", "Wick"}[min(1, strings.Count(name, "Wick"))]
			files["raw/"+name+".csv"] = strings.ReplaceAll(fmt.Sprintf(text, region), ".50", fmt.Sprintf(".%d1", i))
		}
		r, err := drafted(t, "region,month,branch,amount", files)
		require.NoError(t, err)
		require.Equal(t, asks, len(r.Open) > 0, "%s: %v\n%s", names, r.Open, r.Text)
	}
}

func TestSaysAll(t *testing.T) {
	for _, label := range []string{"All", "alle", "All branches", "Alle Filialen", "tous produits", "Totales", "SOMMA", "Gesamtergebnis",
		"I alt"} {
		require.True(t, terms.SaysAll(label), label)
	}
	for _, label := range []string{"All Weather", "All-purpose cord", "Alley", "Tot Bag", "", "Lakes"} {
		require.False(t, terms.SaysAll(label), label)
	}
}

// What a spreadsheet calls its subtotals in other languages: the label they are of, and a word behind it.
func TestSubtotalsOfGroups(t *testing.T) {
	for _, words := range [][2]string{{"Ergebnis", "Gesamtergebnis"}, {"Summa", "Totalsumma"}, {"Totalt", "I alt"}} {
		text := strings.NewReplacer("Ergebnis", words[0], "Gesamt", words[1]).Replace("Filiale;Monat;Buoy;Oar;Gesamt\n" +
			"Holm;2024-01;1.200,50;20,00;1.220,50\nHolm;2024-02;300,00;40,25;340,25\nHolm Ergebnis;;1.500,50;60,25;1.560,75\n" +
			"Saltby;2024-01;11,00;7,50;18,50\nSaltby Ergebnis;;11,00;7,50;18,50\nGesamt;;1.511,50;67,75;1.579,25\n")
		r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": text})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Equal(t, 6, r.Rows, text)
		require.Contains(t, r.Text, "Saltby "+words[0])

		text = strings.Replace(text, "1.560,75", "1.560,74", 1)
		r, err = drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": text})
		require.NoError(t, err)
		require.NotZero(t, r.Exit)
	}
	require.False(t, terms.IsResult("Ergebnis", []string{"Ergebnis"}))
	require.False(t, terms.IsResult("Holm Ergebnis", []string{"Saltby"}))
}

// Lists as ledgers print them: lines of dashes between rows are left aside, and rows that asterisks mark are totals.
func TestLinesOfDashes(t *testing.T) {
	const dashes = "---------------------------------\n"
	list := "Sales list 2024\n" + dashes + "||Branch |Month  |Product|   Amount|\n" + dashes + "||Holm   |2024-01|Buoy   | 1.234,50|\n" +
		"||Holm   |2024-01|Oar    |    20,25-|\n|*|Holm |       |       | 1.214,25|\n" + dashes + "||Saltby |2024-01|Oar    |    70,10|\n" +
		"||Saltby |2024-02|Buoy   |    11,50|\n|*|Saltby|      |       |    81,60|\n" + dashes + "|**|     |       |       | 1.295,85|\n" + dashes
	const columns = "region,branch,month,product,amount"
	r, err := drafted(t, columns, map[string]string{"raw/Lakes.txt": list})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Equal(t, 4, r.Rows)
	require.Contains(t, r.Text, "sections: line ")
	require.Contains(t, r.Text, `total_words: ["*", "**"]`)
	require.Empty(t, r.Open)

	r, err = drafted(t, columns, map[string]string{"raw/Lakes.txt": strings.Replace(list, "70,10", "70,11", 1)})
	require.NoError(t, err)
	require.NotZero(t, r.Exit)

	// With labels alone among them it does not know what these are of.
	r, err = drafted(t, columns, map[string]string{"raw/all.csv": "Branch,Month,Product,Amount\nLakes,,,\n-----,,,\nHolm,2024-01,Buoy,1.50\n" +
		"Skerries,,,\n-----,,,\nHolm,2024-02,Oar,2.50\nHolm,2024-03,Oar,2.50\n"})
	require.NoError(t, err)
	require.Contains(t, r.Missing, "region", r.Text)
	require.Contains(t, strings.Join(r.Open, "\n"), "rows with a label alone stand among lines of dashes")
}

// Rows of all branches among others are totals: they agree with those above, or the build stops.
func TestRowsOfAll(t *testing.T) {
	header, parts := "Region,Branch,Month,Amount\n", "Lakes,Dock,2024-01,10.50\nLakes,Pier,2024-01,20.25\n"
	r, err := drafted(t, "region,branch,month,amount", map[string]string{"a.csv": header + parts + "Lakes,All branches,,30.75\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Equal(t, 2, r.Rows)
	require.Contains(t, r.Text, "total_words: [All branches]")
	r, err = drafted(t, "region,branch,month,amount", map[string]string{"a.csv": header + parts + "Totales,,,30.75\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, "total_words: [Totales]")
	r, err = drafted(t, "region,branch,month,amount", map[string]string{"a.csv": header + "Lakes,All,2024-01,30.75\n" + parts})
	require.NoError(t, err)
	require.Equal(t, 3, r.Exit, r.Text)
	r, err = drafted(t, "region,branch,month,amount", map[string]string{"a.csv": header + "Lakes,All,2024-01,30.75\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "nothing but all: %s", r.Text)
}

// What counts against what was sold is asked about unless it is below zero; of two versions of a file one has to go, unless
// their rows are the same.
func TestCreditsAndVersions(t *testing.T) {
	rows := "Region,Month,Amount\nLakes,2024-01,30.50\nLakes,2024-02,50.50\n"
	for _, test := range []struct {
		name, other, text, open string
		rows                    int
	}{
		{"invoices.csv", "credit notes.csv", strings.ReplaceAll(rows, "0.50", "0.75"), "credit notes.csv counts against", 0},
		{"invoices.csv", "credit notes.csv", strings.ReplaceAll(strings.ReplaceAll(rows, ",3", ",-3"), ",5", ",-5"), "", 4},
		{"Lakes.csv", "Lakes v2.csv", strings.ReplaceAll(rows, "30.50", "31.50"), "two versions of one table", 0},
		{"Lakes.csv", "Copy of Lakes.csv", strings.ReplaceAll(rows, "30.50", "31.50"), "two versions of one table", 0},
		{"Lakes.csv", "Copy of Lakes.csv", rows + "\n", "", 2},
		{"Lakes_2023.csv", "Lakes_2024.csv", strings.ReplaceAll(rows, "30.50", "31.50"), "", 4},
	} {
		r, err := drafted(t, "region,month,amount", map[string]string{test.name: rows, test.other: test.text})
		require.NoError(t, err)
		if test.open == "" {
			require.Zero(t, r.Exit, "%s: %v", test.other, r.Problems)
			require.Equal(t, test.rows, r.Rows, test.other)
			continue
		}
		require.True(t, r.Exit > 0 || len(r.Missing) > 0, test.other)
		require.Contains(t, strings.Join(r.Open, "\n"), test.open)
	}
}

// What a remark says of some rows, and how they were paid, keeps no figures apart.
func TestRemarksSayThisAndThat(t *testing.T) {
	r, err := drafted(t, "region,month,amount", map[string]string{"a.csv": "Region,Month,Remark,Payment,Amount\n" +
		"Lakes,2024-01,on credit,Credit card,30.50\nLakes,2024-02,late,Debit card,50.50\nLakes,2024-03,return expected,cash,5.25\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Empty(t, r.Open)
	require.Equal(t, 3, r.Rows)
}

// Figures below a month that is misspelt are held, and those below another header that nothing says are asked about.
func TestFiguresBesideOneMonth(t *testing.T) {
	for header, open := range map[string]string{"Febuary 2024": "stands beside times, and is none", "Gizmo": "are they none of those across"} {
		r, err := drafted(t, "region,month,amount", map[string]string{
			"a.csv": "Region,Jan 2024," + header + "\nLakes,30.50,1.25\nWick,50.50,2.25\n"})
		require.NoError(t, err)
		require.Equal(t, 2, r.Rows, r.Text)
		require.Contains(t, strings.Join(r.Open, "\n"), open)
		require.Equal(t, header == "Febuary 2024", strings.Contains(r.Text, "2 unclear held"), r.Text)
	}
}

// Codes of documents and sides of an account say which figures count against others: in rows, and as two columns.
func TestSides(t *testing.T) {
	rows := func(header string, values ...string) string {
		text := "Month," + header + ",Amount\n"
		for i, v := range values {
			text += fmt.Sprintf("2024-%02d,%s,%d.50\n", i+1, v, 30+i*i)
		}
		return text
	}
	for _, values := range [][]string{{"INV", "CRN", "INV"}, {"RE", "GU", "RE"}, {"D", "C", "D"}, {"+", "-", "+"}} {
		text := rows("Type", values...)
		r, err := drafted(t, "region,month,amount", map[string]string{"Lakes.csv": text})
		require.NoError(t, err)
		require.Contains(t, strings.Join(r.Open, "\n"), "added up one counts for the other", "%v", values)
		r, err = drafted(t, "", map[string]string{"Lakes.csv": text})
		require.NoError(t, err)
		require.Contains(t, r.Text, "count against those of the other", "%v", values)
		require.Empty(t, r.Open)
		r, err = drafted(t, "region,month,amount", map[string]string{"Lakes.csv": strings.ReplaceAll(text, ",31.50", ",-31.50")})
		require.NoError(t, err)
		require.Equal(t, values[0] == "D" || values[0] == "+", len(r.Open) > 0, "%v: figures below zero", values)
	}
	r, err := drafted(t, "region,month,amount", map[string]string{"Lakes.csv": rows("Country", "IN", "CN", "IN")})
	require.NoError(t, err)
	require.Empty(t, r.Open)
	for _, pair := range []string{"Soll,Haben", "Debit,Credit"} {
		r, err := drafted(t, "region,month,amount", map[string]string{
			"Lakes.csv": "Month," + pair + "\n2024-01,1.50,\n2024-02,,3.50\n2024-03,,7.25\n"})
		require.NoError(t, err)
		require.Contains(t, strings.Join(r.Open, "\n"), "amount may be", pair)
	}
}
