package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Headers that say nothing: the labels of a control file say which field is its column; fields that are left are asked about.
func TestHeadersThatSayNothing(t *testing.T) {
	files := map[string]string{
		"raw/old/list.csv": "Where,Whereabouts,Remark,When,Amount\nWick Sands,Gannet Quay,late,2024-01,1.50\n" +
			"Wick Sands,Saltby,,2024-02,2.50\n",
		"raw/new/Amber Bay.csv": "Branch,Month,Amount\nUpper Lock,2024-01,3.50\nUpper Lock,2024-02,4.50\n",
		"control/regions.csv":   "Region,Amount\nAmber Bay,8.00\nWick Sands,4.00\n",
	}
	const columns = "region,branch,month,amount"
	r, err := drafted(t, columns, files)
	require.NoError(t, err)
	require.Contains(t, r.Text, "region: { headers: [Where] }")
	require.Contains(t, r.Text, "# ? raw/old/*.csv: branch may be Whereabouts; in fact branch: { headers: [Whereabouts] } says which")
	require.NotZero(t, r.Exit)

	files["raw/old/more/list.csv"] = "Where,Branch,Month,Amount\nWick Sands,Gannet Quay,2024-03,5.00\nWick Sands,Saltby,2024-03,1.00\n"
	files["control/regions.csv"] = "Region,Amount\nAmber Bay,8.00\nWick Sands,10.00\n"
	r, err = drafted(t, columns, files)
	require.NoError(t, err)
	require.Contains(t, r.Text, "branch: { headers: [Whereabouts] }")
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Equal(t, 6, r.Rows)

	delete(files, "control/regions.csv")
	r, err = drafted(t, columns, files) // "old" is no region
	require.NoError(t, err)
	require.Contains(t, r.Text, "region: { headers: [Where] }  # no word says what Where is, but no other texts are left")
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)

	files["raw/old/list.csv"] = "Where,Site,Kind,Desk,Till,Lot,When,Amount\n" +
		"Wick Sands,Dock,b,c,e,f,2024-01,1.50\nWick Sands,Saltby,a,b,g,h,2024-02,2.50\n"
	delete(files, "raw/old/more/list.csv")
	r, err = drafted(t, columns, files)
	require.NoError(t, err)
	require.Contains(t, r.Text, "nothing there says region", r.Text)
}

// Two fields that hold the labels of a column are a question, whether control files or other extracts have them.
func TestTwoFieldsOfLabels(t *testing.T) {
	extract := "From,To,Month,Amount\nLakes,Skerries,2024-01,10.50\nSkerries,Lakes,2024-01,20.25\nLakes,Lakes,2024-02,5.00\n"
	for name, text := range map[string]string{"control/regions.csv": "Region,Amount\nLakes,25.25\nSkerries,10.50\n",
		"raw/old.csv": "Region,Month,Amount\nLakes,2023-01,1.50\nSkerries,2023-01,2.50\n"} {
		r, err := drafted(t, "region,month,amount", map[string]string{"raw/all.csv": extract, name: text})
		require.NoError(t, err)
		require.Contains(t, r.Text, "region may be From or To")
		require.True(t, r.Exit != 0 || len(r.Missing) > 0, r.Text)
	}
}

// Of very many values it is known only about how many are distinct: a reference of as many lines is one, and numbers of rows are not
// added up.
func TestVeryManyValues(t *testing.T) {
	const n = 50_000
	reference, extract := strings.Builder{}, strings.Builder{}
	reference.WriteString("Article,Family\n")
	extract.WriteString("No.,Month,Article,Amount\n")
	for i := range n {
		fmt.Fprintf(&reference, "Art %d,Family %d\n", i, i%9)
		fmt.Fprintf(&extract, "%d,2024-%02d,Art %d,%d.50\n", i+1, 1+i%12, i*7919%n, i%1000)
	}
	files := map[string]string{"ref/articles.csv": reference.String(), "raw/Lakes.csv": extract.String()}
	for _, columns := range []string{"", "month,article,family,amount"} {
		r, err := drafted(t, columns, files)
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Equal(t, n, r.Rows)
		require.Equal(t, columns != "", strings.Contains(r.Text, "lookup: articles"), r.Text)
		require.NotContains(t, r.Text, "  no: ")
		for _, f := range r.Files {
			require.Equal(t, strings.HasPrefix(f.File, "ref"), f.As == "reference", f.Why)
		}
	}
}

// Very many names have no book, but are not taken apart by their spellings.
func TestVeryManyNames(t *testing.T) {
	text := strings.Builder{}
	text.WriteString("Month,Customer,Amount\n")
	for i := range 4000 {
		fmt.Fprintf(&text, "2024-01,Cap. Reed %d,%d.50\n2024-02,%s %d,%d.25\n", i, i, []string{"cap reed", "Cap. Reed"}[min(i, 1)], i, i)
	}
	r, err := drafted(t, "month,customer,amount", map[string]string{"Lakes.csv": text.String()})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v", r.Problems)
	require.Empty(t, r.Books)
	require.Contains(t, r.Text, "customer: name")
}

// Workbooks in a format that is not read are left aside, and beside extracts a question.
func TestUnreadWorkbooks(t *testing.T) {
	r, err := drafted(t, "", map[string]string{"raw/Lakes.csv": "Month,Amount\n2024-01,3.50\n", "raw/Skerries.XLS": "x",
		"notes/a.numbers": "x"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "# ? raw/Skerries.XLS stands among the extracts and is left aside")
	require.NotContains(t, r.Text, "a.numbers")
	require.Len(t, r.Open, 1)
	var aside []string
	for _, f := range r.Files {
		if f.As == "left aside" {
			aside = append(aside, f.File)
		}
	}
	require.Equal(t, []string{"notes/a.numbers", "raw/Skerries.XLS"}, aside)
	require.Equal(t, 3, r.Exit)
	r, err = drafted(t, "", map[string]string{"raw/Lakes/x.csv": "Month,Amount\n2024-01,3.50\n", "raw/Skerries/y.ods": "PK"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "# ? raw/Skerries/y.ods could not be read, and may be an extract")
	require.Equal(t, 3, r.Exit)
}

// Which files stand among the extracts of these folders.
func TestAmongTheExtracts(t *testing.T) {
	for _, test := range []struct {
		folders, file string
		among         bool
	}{
		{"raw", "raw/x.xls", true}, {"raw", "notes/x.xls", false}, {"raw", "x.xls", false}, {"raw/a", "raw/b/x.xls", true},
		{"a b", "c/x.xls", true}, {". a", "c/x.xls", true}, {".", "c/x.xls", false}, {".", "x.xls", true}, {"raw/a", "raw/x.xls", false},
	} {
		d := &drafter{}
		for _, folder := range strings.Fields(test.folders) {
			s := &sheet{file: folder + "/x.csv", as: "extract"}
			d.sheets = append(d.sheets, s)
		}
		require.Equal(t, test.among, d.among(test.file), test)
	}
}

// Folders of extracts beside the plan: what it delivers is none of them.
func TestFoldersBesideThePlan(t *testing.T) {
	r, err := drafted(t, "branch,month,amount", map[string]string{"2023/all.csv": "Branch,Month,Amount\nDock,2023-01,3.50\n",
		"2024/all.csv": "Branch,Month,Amount\nDock,2024-01,4.50\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Contains(t, r.Text, "except: out/**")
	require.Equal(t, 2, r.Rows)
}

// Extracts that no plan can be made of as they are end with what is wrong, or with a plan: never with one that has a mistake, or
// of what came back.
func TestPlansWithoutMistakes(t *testing.T) {
	for _, test := range []struct{ columns, text, says, plan string }{
		{"colour,weight", "Branch,Month,Amount\nDock,2024-01,3.50\n", "nothing in the extracts says any of the columns", ""},
		{"", "Branch,%,Amount\nDock,2024-01,3.50\nPier,2024-02,4.50\n", "", "month:  { is: month, headers: [\"%\"] }"},
		{"metric,value", "Code,Oar,Jib,Buoy,Amount\nx,1.5,2.5,3.5,9.75\ny,2.5,3.5,4.5,8.25\n", "", "value:"},
	} {
		r, err := drafted(t, test.columns, map[string]string{"a.csv": test.text})
		if test.says != "" {
			require.ErrorContains(t, err, test.says)
			continue
		}
		require.NoError(t, err, test.columns)
		require.Contains(t, r.Text, test.plan)
	}
	alone, err := drafted(t, "übertrag", map[string]string{"a.csv": "Code,Übertrag\nx,1.50\ny,2.50\n"})
	require.NoError(t, err)
	require.Contains(t, alone.Text, "title: Übertrag\n")
	for header, found := range map[string]bool{"Returns": false, "Gutschrift": false, "Net returns": false, "Credit card": true,
		"Booked": true} {
		r, err := drafted(t, "month,amount", map[string]string{"a.csv": "Month," + header + "\n2024-01,3.50\n2024-02,4.50\n"})
		require.NoError(t, err)
		require.Equal(t, found, len(r.Missing) == 0, header)
	}
	r, err := drafted(t, "region,month,amount", map[string]string{"raw/Lakes.csv": "Month,Amount\n2024-01,3.50\n2024-02,4.50\n",
		"raw/Wick.csv":  "Month,Amount\n2024-01,1.50\n2024-02,2.50\n",
		"control/x.csv": "Coast,Region,Amount,Net\nLakes,Lakes,8.00,1\nWick,Wick,4.00,2\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, "by: { region: Coast }, measures: { amount: Amount }")
	require.Zero(t, r.Exit, "%v", r.Problems)
}

// Names whose letters were read in another encoding stand for what they were.
func TestGarbledNames(t *testing.T) {
	r, err := drafted(t, "region,product,amount", map[string]string{"Lakes.csv": "Product,Amount\nGrÃ¶ÃŸe L,1.50\nOar,2\nÃ–ljacke,3\n",
		"Skerries.csv": "Product,Amount\nGröße L,4.25\nBuoy,2\n"})
	require.NoError(t, err)
	require.Len(t, r.Books, 1)
	book := string(r.Books[0].Text)
	for _, line := range []string{"GrÃ¶ÃŸe L,Größe L,,\n", "Größe L,Größe L,,\n", "Ã–ljacke,Öljacke,,\n", "Oar,Oar,,\n"} {
		require.Contains(t, book, line)
	}
	require.Contains(t, r.Text, "letters of 2 of them were read in another encoding")
}

// A measure that nothing else stands beside is one, whatever its header may say elsewhere.
func TestReceipts(t *testing.T) {
	var text strings.Builder
	text.WriteString("Branch,Month,Till\n")
	for i := range 40 {
		fmt.Fprintf(&text, "Quay %d,2024-%02d,%d\n", i, i%12+1, 100+i*i)
	}
	r, err := drafted(t, "", map[string]string{"Lakes.csv": text.String()})
	require.NoError(t, err)
	require.Contains(t, r.Text, "till:   number")
	rows, r := rowsOf(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes_2024.csv": "Branch,Product,Jan,Feb,Mar,Returns\n" +
		"Quay,Oar,10.5,2.5,3.5,1\nPier,Oar,1.5,20.5,3.5,2\n"})
	require.Empty(t, rows, "what came back is not left aside without a word: %s", r.Text)
	require.NotEmpty(t, r.Open)
}

// Averages, shares and sums so far stand in the table, and are not added up; what was sold is, and what has figures below zero.
func TestNotAdded(t *testing.T) {
	var text strings.Builder
	text.WriteString("Month,Branch,Actual,Var,Sales YTD,Average sale,Discount,Share %,Closing balance\n")
	for i := range 12 {
		fmt.Fprintf(&text, "2024-%02d,Holm,%d,%d,%d,%d.50,%d%%,0.%d,%d\n", i+1, 10+i*i%7, i-6, 100+i, 20+i, i%3*5, 10+i, 70+i*i)
	}
	r, err := drafted(t, "", map[string]string{"Lakes.csv": text.String()})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	for _, line := range []string{"actual:          number\n", "var:             number\n", "sales_ytd:       { is: whole, add: no }",
		"average_sale:    { is: number, decimals: 2, add: no }", "discount:        { is: number, decimals: 2, add: no }",
		"share:           { is: number, decimals: 2, add: no, headers: [\"Share %\"] }", "closing_balance: { is: whole, add: no }"} {
		require.Contains(t, r.Text, line, r.Text)
	}
}

// A word that may be a month is one beside another month; a table of which no figures are taken is a question, and figures that say that
// they are sums of all months so far do not stand among those across.
func TestFiguresThatAreNone(t *testing.T) {
	for header, want := range map[string]string{
		"Product,In,Out":                    "no column is taken for figures: are In and Out?",
		"Product,Rum 40%,Rum 55%,Gin 40%":   "no column is taken for figures: are Rum 40%, Rum 55% and Gin 40%?",
		"Product,Set,Out,Nov":               `header: "{mon}"`,
		"Product,Out 2024":                  `header: "{month}"`,
		"Branch,Rope,Oar,Average,Sales YTD": "others: [Average, Sales YTD]",
		"Branch,Amount,Q2":                  "the figures below Q2 are left aside: are they of the time that this says?",
	} {
		var text strings.Builder
		text.WriteString(header)
		for i := range 12 {
			fmt.Fprintf(&text, "\nP%d", i)
			for k := range strings.Count(header, ",") {
				fmt.Fprintf(&text, ",%d", 10+i*(k+3)+i*i*k)
			}
		}
		r, err := drafted(t, "", map[string]string{"Lakes_2024.csv": text.String()})
		require.NoError(t, err)
		require.Contains(t, r.Text, want, header)
	}
}

// Whole numbers that stand for customers, documents or weeks are not added up.
func TestIdentities(t *testing.T) {
	var text strings.Builder
	text.WriteString("Branch,Customer,Calendar week,Invoice,Order value,Amount\n")
	for i := range 40 {
		fmt.Fprintf(&text, "Holm,%d,%d,%d,%d,%d.50\n", 4000+i, 1+i, 900+i, 50+i*i, i)
	}
	r, err := drafted(t, "", map[string]string{"Lakes.csv": text.String()})
	require.NoError(t, err)
	for _, line := range []string{"customer:      text", "calendar_week: text", "invoice:       text", "order_value:   number",
		"amount:        { is: number, decimals: 2 }"} {
		require.Contains(t, r.Text, line)
	}
}

// What was sold, and what it cost, is added up, however few different whole numbers stand there; what a unit costs, codes, and what may be
// rates, are not.
func TestFewFigures(t *testing.T) {
	var text strings.Builder
	text.WriteString("Product,Month,Sold,Cost,Cost center,Unit cost,VAT,Revenue\n")
	for i := range 12 {
		fmt.Fprintf(&text, "Oar,2024-%02d,%d,%d,%d,%d,%d,%d.50\n", i+1, i%4, 3+i%3, 1+i%2, 2+i%3, 7+12*(i%2), 90-i)
	}
	r, err := drafted(t, "", map[string]string{"Lakes.csv": text.String()})
	require.NoError(t, err)
	for _, line := range []string{"title: \"Revenue, sold and cost by", "sold:        number", "cost:        number", "cost_center: text",
		"unit_cost:   { is: whole, add: no }",
		"vat:         text"} {
		require.Contains(t, r.Text, line)
	}
}
