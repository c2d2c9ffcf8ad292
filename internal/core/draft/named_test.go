package draft

import (
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

const (
	wholeRows = "Branch,Month,Oar,Rope,Pump\nQuay,2024-01,17,18,21\nQuay,2024-02,11,13,14\n"
	centRows  = "Branch,Month,Oar,Rope,Pump\nQuay,2024-01,17.5,18.25,21.75\nQuay,2024-02,11.5,13.75,14.25\n"
	longBoth  = "Region,Branch,Month,Product,Qty,Amount\nHolm,Pier,2024-01,Oar,3,17.25\nHolm,Pier,2024-02,Oar,4,18.5\n"
)

// sheets is a workbook with sheets of such lines; figures are numbers.
func sheets(of map[string]string) string {
	must := func(err error) {
		if err != nil {
			panic(err)
		}
	}
	book := excelize.NewFile()
	for _, name := range sortedKeys(of) {
		_, err := book.NewSheet(name)
		must(err)
		for i, line := range strings.Split(strings.TrimSpace(of[name]), "\n") {
			cell, _ := excelize.CoordinatesToCellName(1, i+1)
			var cells []any
			for _, text := range strings.Split(line, ",") {
				if n, err := strconv.ParseFloat(text, 64); err == nil {
					cells = append(cells, n)
				} else {
					cells = append(cells, text)
				}
			}
			must(book.SetSheetRow(name, cell, &cells))
		}
	}
	must(book.DeleteSheet("Sheet1"))
	out, err := book.WriteToBuffer()
	must(err)
	return out.String()
}

// namedFigures are deliveries whose names say which measure their figures are.
var namedFigures = []struct {
	name, columns string
	files         map[string]string
	want, without []string // in the plan
	asks          string
}{
	{"a file of each", "quantity,amount", map[string]string{"raw/Lakes quantity.csv": wholeRows, "raw/Lakes amount.csv": centRows},
		[]string{"cell: amount }", "cell: quantity }", "repeats: sum }"}, nil, ""},
	{"a folder of each", "quantity,amount", map[string]string{"raw/qty/Lakes.csv": wholeRows, "raw/value/Lakes.csv": centRows},
		[]string{"cell: amount }", "cell: quantity }", "repeats: sum }"}, nil, ""},
	{"a title", "quantity,amount", map[string]string{"raw/Lakes.csv": "Quantity sold\n" + wholeRows, "raw/all.csv": longBoth},
		[]string{"cell: quantity }", "absent: { amount: leave }"}, nil, ""},
	{"a title of a cost centre", "amount", map[string]string{"raw/Lakes.csv": "Cost centre: 4711\n" + centRows, "raw/all.csv": longBoth},
		[]string{"cell: amount }"}, nil, ""},
	{"money and pieces", "amount", map[string]string{"raw/Lakes.csv": "Sales in EUR, not in pieces\n" + centRows, "raw/all.csv": longBoth},
		[]string{"cell: amount }"}, nil, ""},
	{"a sheet of each", "quantity,amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{
		"Amount": centRows, "Quantity": wholeRows}), "raw/all.csv": longBoth},
		[]string{"sheets: [Amount]", "sheets: [Quantity]", "cell: amount }", "cell: quantity }", "repeats: sum }"}, nil, ""},
	{"quantities not asked for", "amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{
		"Amount": centRows, "Quantity": wholeRows})}, []string{"except_sheets: [Quantity]"}, []string{"repeats"}, ""},
	{"values that are quantities", "quantity,amount", map[string]string{
		"raw/Lakes quantity.csv": "Branch,Month,Product,Value\nQuay,2024-01,Oar,3\n",
		"raw/Lakes amount.csv":   "Branch,Month,Product,Value\nQuay,2024-01,Oar,4.5\n"}, []string{"headers: { amount: [Value] }",
		"headers: { quantity: [Value] }", "repeats: sum }"}, nil, ""},
	{"figures without a name that are quantities", "quantity,amount", map[string]string{
		"raw/qty/Lakes.csv": "Branch,Month,Product,F1\nQuay,2024-01,Oar,3\n", "raw/all.csv": longBoth},
		[]string{"headers: [Qty, F1]", "absent: { amount: leave }"}, nil, ""},
	{"units that may be offices", "amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{
		"Units": centRows, "Agents": centRows})}, nil, nil, "its figures are quantities, by its name"},
	{"quantities beside nothing like them", "amount", map[string]string{"raw/Business Units/Lakes.csv": centRows, "raw/all.csv": longBoth},
		nil, nil, "its figures are quantities, by its name"},
	{"what was not sold", "amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{
		"Umsatz": centRows, "Kosten": wholeRows})}, []string{"except_sheets: [Kosten]"}, []string{"repeats"}, ""},
	{"sheets of other money", "amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{"EUR": centRows, "GBP": wholeRows})},
		nil, []string{"repeats"}, "cannot be added up"},
	{"what came back", "amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{"Sales": centRows, "Returns": wholeRows})},
		nil, []string{"repeats"}, "counts against what was sold"},
	{"a figure with decimals", "quantity,amount", map[string]string{"raw/a/Lakes.csv": "Branch,Month,Product,F1\nQuay,2024-01,Oar,17.25\n",
		"raw/all.csv": longBoth}, []string{"absent: { quantity: leave }", "headers: [F1]"}, nil, ""},
	{"a figure without", "quantity,amount", map[string]string{"raw/a/Lakes.csv": "Branch,Month,Product,F1\nQuay,2024-01,Oar,17\n",
		"raw/all.csv": longBoth}, nil, []string{"headers: [Qty, F1]"}, "amount may be F1"},
	{"months and their total", "amount", map[string]string{"raw/Lakes 2024.xlsx": sheets(map[string]string{
		"01": "Branch,Product,Amount\nQuay,Oar,1.5\n", "02": "Branch,Product,Amount\nQuay,Oar,2.5\n",
		"Total": "Branch,Product,Amount\nQuay,Oar,4\n"})}, []string{`sheet: "{mon:digits}"`, "except_sheets: [Total]"}, nil, ""},
	{"two layouts in one workbook", "amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{"Shops": centRows,
		"Agents": "Branch,Month,Product,Amount\nAgent A,2024-01,Oar,18.25\nAgent B,2024-02,Oar,13.75\n"})},
		[]string{"sheets: [Shops]", "sheets: [Agents]"}, nil, ""},
}

// Which measure figures are that no header names is said by the name of their file, sheet or folder, or by a title; what says it
// in none of these is not added to what it may not be.
func TestFiguresThatNamesTell(t *testing.T) {
	for _, test := range namedFigures {
		t.Run(test.name, func(t *testing.T) {
			r, err := drafted(t, "region,branch,month,product,"+test.columns, test.files)
			require.NoError(t, err)
			for _, text := range test.want {
				require.Contains(t, r.Text, text)
			}
			for _, text := range test.without {
				require.NotContains(t, r.Text, text)
			}
			if test.asks == "" {
				require.Zero(t, r.Exit, r.Text)
				require.Empty(t, r.Open)
				return
			}
			require.NotZero(t, r.Exit)
			require.Contains(t, strings.Join(r.Open, "\n"), test.asks)
		})
	}
}

// A list of things with prices is a reference, not an extract of them; a column that it has is not what stands across.
func TestPriceLists(t *testing.T) {
	list := "Article,Group,List price\nOar,Wood,17.50\nRope,Fibre,3.25\nPump,Metal,40.00\n"
	for name, extract := range map[string]string{"long": longBoth, "across": centRows,
		"across below months": ",2024-01,,2024-02,\nBranch,Oar,Rope,Oar,Rope\nQuay,1.5,2.5,3.5,4.5\n"} {
		r, err := drafted(t, "region,branch,month,product,group,amount", map[string]string{"raw/Lakes.csv": extract, "ref/products.csv": list})
		require.NoError(t, err, name)
		require.Zero(t, r.Exit, "%s: %s", name, r.Text)
		require.Empty(t, r.Missing, name)
		require.Contains(t, r.Text, "lookup: products, by: { product: Article }, take: Group", name)
	}
	r, err := drafted(t, "branch,month,product,amount,price", map[string]string{"raw/Lakes.csv": "Branch,Month,Product,Unit price,Amount\n" +
		"Quay,2024-01,Oar,2.5,5\nQuay,2024-02,Oar,2.5,7.5\n", "raw/Holm.csv": "Branch,Month,Product,Unit price,Amount\nPier,2024-01,Oar,2.5,5\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.EqualValues(t, 3, r.Rows, "prices beside amounts are no list")
}

// Files of a measure each are put together; a file of both beside them, with rows of theirs, would count twice: a question, wherever
// it stands among them.
func TestDoubledBesideMeasures(t *testing.T) {
	for _, name := range []string{"raw/a/all.csv", "raw/z/all.csv"} {
		r, err := drafted(t, "region,branch,month,product,quantity,amount", map[string]string{
			"raw/m/Lakes quantity.csv": wholeRows, "raw/m/Lakes amount.csv": centRows,
			name: "Region,Branch,Month,Product,Qty,Amount\nLakes,Quay,2024-01,Oar,17,17.5\nHolm,Pier,2024-01,Oar,5,6.5\n"})
		require.NoError(t, err)
		require.NotZero(t, r.Exit, name)
		require.NotContains(t, r.Text, "repeats: sum", name)
		require.Contains(t, strings.Join(r.Open, "\n"), "they would count twice", name)
	}
}

// A column called total has the amounts of a long table that has no others; beside figures that may be some it is a question, and beside
// amounts no question. Numbers of orders are no amounts.
func TestTotalsOfLongTables(t *testing.T) {
	for header, want := range map[string]string{
		"Qty,Price,Total": "headers: [Total]", "Menge,Preis,Gesamt": "headers: [Gesamt]", "Qty,Tax,Total": "headers: [Total]",
		"Order,Price,Total": "headers: [Total]", "Qty,Price,Amount": "amount:  { is: number, decimals: 2 }",
		"Qty,Cash,Total": "amount may be Cash or Total", "Qty,Net,Total": "amount may be Net or Total",
	} {
		text := "Month,Branch,Item," + header + "\n2024-01,Holm,Oar,2,10.00,20.00\n2024-01,Holm,Buoy,3,5.50,16.50\n" +
			"2024-02,Holm,Oar,1,10.00,10.00\n2024-02,Pier,Buoy,4,5.50,22.00\n"
		r, err := drafted(t, "branch,month,product,amount", map[string]string{"a.csv": text})
		require.NoError(t, err)
		require.Contains(t, r.Text, want, header)
		require.Equal(t, strings.Contains(want, "may be"), len(r.Missing) > 0, header)
	}
	text := "Month,Item,Qty,Unit price,Total\n2024-01,Oar,2,10.00,20.00\n2024-01,Buoy,3,5.50,16.50\n"
	r, err := drafted(t, "", map[string]string{"a.csv": text})
	require.NoError(t, err)
	require.Contains(t, r.Text, "  total:      { is: number, decimals: 2 }")
}
