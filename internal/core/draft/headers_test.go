package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Labels that stand only in the first row of each group, below two header rows.
func TestBlanksBelowTwoHeaderRows(t *testing.T) {
	for _, headers := range []string{"Shop,Item,Amount,Amount\n,,2024-01,2024-02\n", "Shop,Item,Amount,\nShop,Item,2024-01,2024-02\n",
		",,Amount,\nShop,Item,2024-01,2024-02\n"} {
		r, err := drafted(t, "branch,month,product,amount", map[string]string{"a.csv": headers + "Holm,Oar,1.50,2.50\n,Buoy,3.50,4.50\n" +
			"Lowe,Oar,5.50,6.50\n,Buoy,7.50,8.50\n"})
		require.NoError(t, err)
		require.Contains(t, r.Text, "blanks: above", r.Text)
		require.Zero(t, r.Exit)
	}
}

// Header rows above each other: measures, times, things and places, a year or several, units; whatever stands where.
func TestHeaderRows(t *testing.T) {
	rows := "Holm,%s,1.50,2.50,3.50,4.50\nLowe,%s,5.50,6.50,7.50,8.50\n"
	thing := strings.ReplaceAll(rows, "%s", "Oar")
	for _, test := range []struct{ name, columns, text, unpivot string }{
		{"thing, month, measure", "branch,month,product,amount,quantity", "Shop,Oar,,,,Sail,,,\n,2024-01,,2024-02,,2024-01,,2024-02,\n" +
			",Qty,Amount,Qty,Amount,Qty,Amount,Qty,Amount\nHolm,1,1.50,2,2.50,3,3.50,4,4.50\nLowe,1,1.50,2,2.50,3,3.50,4,4.50\n",
			`{ header: "{product} | {month} | {measure}", cell: "{measure}" }`},
		{"measure that nobody wants", "branch,product,month,amount", "Shop,Item,2024-01,,2024-02,\nShop,Item,Qty,Amount,Qty,Amount\n" + thing,
			`{ header: "{month} | Amount", cell: amount }`},
		{"years, measure", "branch,product,month,amount,quantity", "Shop,Item,2023,,2024,\n,,Jan,,Jan,\n,,Qty,Amount,Qty,Amount\n" + thing,
			`{ header: "{year} | {mon} | {measure}", cell: "{measure}" }`},
		{"measure, a year", "branch,product,month,amount", "Shop,Item,Amount,,,\n,,2024,,,\n,,Jan,Feb,Mar,Apr\n" + thing,
			`{ header: "{measure} | {year} | {mon}", cell: "{measure}" }`},
		{"months alone, measure", "branch,product,month,amount,quantity", "Year: 2024\nShop,Item,Jan,,Feb,\n,,Qty,Amount,Qty,Amount\n" + thing,
			`{ header: "{mon} | {measure}", cell: "{measure}" }`},
		{"regions, branches", "region,branch,product,month,amount", "Item,Month,Lakes,,Sound,\n,,Wick,Pier,Mole,Tarn\n" +
			"Oar,2024-01,1.50,2.50,3.50,4.50\nSail,2024-01,5.50,6.50,7.50,8.50\n", `{ header: "{region} | {branch}", cell: amount }`},
		{"regions, branches, months", "region,branch,product,month,amount", "Item,Lakes,,,,Sound,\n,Wick,,Pier,,Mole,\n" +
			",2024-01,2024-02,2024-01,2024-02,2024-01,2024-02\nOar,1.50,2.50,3.50,4.50,5.50,6.50\nSail,1.50,2.50,3.50,4.50,5.50,6.50\n",
			`{ header: "{region} | {branch} | {month}", cell: amount }`},
		{"units", "branch,product,month,amount", "Shop,Item,2024-01,2024-02,2024-03,2024-04\n,,EUR,EUR,EUR,EUR\n" + thing,
			`{ header: "{month} | EUR", cell: amount }`},
		{"units of measures", "branch,product,month,amount,quantity", "Shop,Item,2024-01,,2024-02,\n,,Qty,Amount,Qty,Amount\n" +
			",,pcs,EUR,pcs,EUR\n" + thing,
			`{ columns: ["* | Qty | pcs", "* | Amount | EUR"], header: "{month} | {measure} | *", cell: "{measure}" }`},
		{"units of a measure that nobody wants", "branch,product,month,amount", "Shop,Item,2024-01,,2024-02,\n,,Qty,Amount,Qty,Amount\n" +
			",,pcs,EUR,pcs,EUR\n" + thing,
			`{ columns: ["* | Amount | EUR"], header: "{month} | Amount | *", cell: amount }`},
		{"units of columns", "branch,month,amount,quantity", "Shop,Month,Qty,Amount\n,,pcs,EUR\nHolm,2024-01,1,2.50\nLowe,2024-01,3,4.50\n",
			""},
	} {
		t.Run(test.name, func(t *testing.T) {
			r, err := drafted(t, test.columns, map[string]string{"x.csv": strings.ReplaceAll(test.text, "1.50,2.50,3.50,4.50", "1,2.50,3,4.50")})
			require.NoError(t, err)
			require.Empty(t, r.Missing, r.Text)
			require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
			require.Empty(t, r.Open, r.Text)
			if require.Regexp(t, `header: [23] rows`, r.Text); test.unpivot == "" {
				require.NotContains(t, r.Text, "unpivot")
			}
			require.Contains(t, r.Text, test.unpivot)
		})
	}
}

// Two rows that name measures are a question, and no mistake of the program.
func TestTwoRowsOfMeasures(t *testing.T) {
	text := "Shop,Sales,,Returns,\n,2024-01,2024-02,2024-01,2024-02\n,Amount,Amount,Amount,Amount\nHolm,1.50,2.50,3.50,4.50\n" +
		"Pier,5.50,6.50,7.50,8.50\n"
	for _, top := range []string{"Sales,,Qty,", "Sales,,Returns,"} {
		for _, columns := range []string{"", "branch,month,amount", "branch,product,month,amount,quantity"} {
			r, err := drafted(t, columns, map[string]string{"x.csv": strings.Replace(text, "Sales,,Returns,", top, 1)})
			require.NoError(t, err)
			require.True(t, r.Exit == 3 || len(r.Missing) > 0, r.Text)
		}
	}
}

// Without --columns, what stands across has its own column, and places in section rows have theirs; a label in both rows is said once.
func TestHeaderRowsWithoutColumns(t *testing.T) {
	for _, test := range []struct{ text, columns string }{
		{"Store,Client,2023,,,\nStore,Client,Jan,Feb,Mar,Apr\nWick,Reed,1.50,2.50,3.50,4.50\nPier,Ash,5.50,6.50,7.50,8.50\n",
			"store month amount client mon year"},
		{"Store,Oar,,,Sail,,\n,2024-01,2024-02,2024-03,2024-01,2024-02,2024-03\nLakes,,,,,,\nWick,1.50,2.50,3.50,4.50,5.50,6.50\n" +
			"Pier,1.25,2.25,3.25,4.25,5.25,6.25\nSound,,,,,,\nTarn,7.50,8.50,9.50,1.75,2.75,3.75\n", "region store month item amount"},
		{"Item,Month,Lakes,,Sound,\n,,Wick,Pier,Mole,Tarn\nOar,2024-01,1.50,2.50,3.50,4.50\nSail,2024-01,5.50,6.50,7.50,8.50\n",
			"region branch month item amount"},
		{"Store,Item,2023,,,\n,,Jan,,Feb,\n,,Qty,Sales,Qty,Sales\nWick,Oar,1,2.50,3,4.50\nPier,Oar,5,6.50,7,8.50\n",
			"store month item qty sales mon year"},
		{"Item,Month,Wick,Pier,Mole,Tarn\n,,EUR,EUR,EUR,EUR\nOar,2024-01,1.50,2.50,3.50,4.50\nSail,2024-01,5.50,6.50,7.50,8.50\n",
			"region month item amount"},
	} {
		r, err := drafted(t, "", map[string]string{"x.csv": test.text})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		_, fact, _ := strings.Cut(r.Text, "\nfact:\n")
		var columns []string
		for line := range strings.Lines(fact) {
			name, _, ok := strings.Cut(strings.TrimSpace(line), ":")
			if !ok {
				break
			}
			columns = append(columns, name)
		}
		require.Equal(t, test.columns, strings.Join(columns, " "), r.Text)
	}
}

// A row of two currencies, or of units that tell columns apart, is no row to pass over.
func TestUnitsThatDiffer(t *testing.T) {
	for _, files := range []map[string]string{
		{"x.csv": "Shop,2024-01,,2024-02,\n,EUR,USD,EUR,USD\nHolm,1.50,2.50,3.50,4.50\nPier,5.50,6.50,7.50,8.50\n"},
		{"x.csv": "Shop,Oar,Sail,Rope\n,EUR,USD,EUR\nHolm,1.50,2.50,3.50\nPier,5.50,6.50,7.50\n"},
		{"x.csv": "Shop,Oar,,Rope,\n,Amount,Qty,Amount,Qty\n,EUR,pcs,USD,pcs\nHolm,1.50,2,3.50,4\nPier,5.50,6,7.50,8\n"},
		{"x.csv": "Shop,2024-01,2024-02\n,EUR,EUR\nHolm,1.50,2.50\n", "y.csv": "Shop,2024-01,2024-02\n,GBP,GBP\nWick,1.50,2.50\n"},
		{"x.csv": "Shop,Month,Amount,Qty\n,,EUR,pcs\nHolm,2024-01,1.50,2\n", "y.csv": "Shop,Month,Amount,Qty\n,,GBP,pcs\nWick,2024-01,1.50,2\n"},
	} {
		for _, columns := range []string{"", "branch,month,amount", "branch,product,amount"} {
			r, err := drafted(t, columns, files)
			require.NoError(t, err)
			require.True(t, r.Exit == 3 || len(r.Missing) > 0, r.Text)
			require.NotEmpty(t, r.Open, r.Text)
		}
	}
}

// Names of months below a header that no word names, beside years across.
func TestNamesOfMonthsBelowAnyHeader(t *testing.T) {
	text := "Shop,Zx,2023,2024\nHolm,Jan,1.50,2.50\nHolm,Feb,1.75,2.75\nPier,Mar,3.50,4.50\n"
	r, err := drafted(t, "branch,month,amount", map[string]string{"x.csv": text})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, `write: "{mon} {year}"`)
	require.Contains(t, r.Text, "headers: [Zx]")
}

// A row of words below the header rows that were found is a question: it would be a row of data with 0.
func TestOneMoreHeaderRow(t *testing.T) {
	text := "Shop,2023,,2024,\n,Jan,Feb,Jan,Feb\n,Sales,Sales,Sales,Sales\n,EUR,EUR,EUR,EUR\nHolm,1.50,2.50,3.50,4.50\n" +
		"Pier,5.50,6.50,7.50,8.50\nWick,1.25,2.25,3.25,4.25\nTarn,5.25,6.25,7.25,8.25\n"
	r, err := drafted(t, "branch,month,amount", map[string]string{"x.csv": text})
	require.NoError(t, err)
	require.True(t, r.Exit == 3 || len(r.Missing) > 0, r.Text)
	text = "Shop,Item,2024-01,2024-02\n,,checked,open\nHolm,Oar,1.50,2.50\nPier,Oar,5.50,6.50\nPier,Sail,7.50,8.50\n"
	r, err = drafted(t, "branch,product,month,amount", map[string]string{"x.csv": text})
	require.NoError(t, err)
	require.Equal(t, 3, r.Exit, r.Text)
	require.Contains(t, r.Text, "row 2, below the header, has words and no label or figure")
	r, err = drafted(t, "branch,product,month,amount", map[string]string{"x.csv": strings.Replace(text, ",,checked", "Wick,,closed", 1)})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
}

// A header row in which the last column has none is the header, not the row of data below it.
func TestColumnWithoutAHeader(t *testing.T) {
	for _, text := range []string{"Region,Branch,Month,Product,Amount,Clerk,\nLakes,Holm,31/01/2024,Oar,30.75,Maud,30.75\n" +
		"Lakes,Holm,31/01/2024,Buoy,12.85,Ines,12.85\nLakes,Pier,29/02/2024,Oar,7.25,Tom,7.25\n",
		"AMOUNT;MONTH;PRODUCT;BRANCH;REGION;\n6 427,77;2023-01;Oar;Holm;Lakes;6 427,77\n3 257,09;2023-01;Buoy;Holm;Lakes;3 257,09\n"} {
		r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"raw/a.csv": text})
		require.NoError(t, err)
		require.NotContains(t, r.Text, "header:")
		require.NotZero(t, r.Exit, r.Text)
		require.Equal(t, "cell without a header", r.Problems[0].What)
	}
}
