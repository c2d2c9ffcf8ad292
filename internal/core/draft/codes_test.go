package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Numbers of customers and documents, dates and times of the day beside products across are none of these.
func TestCodesBesideWhatStandsAcross(t *testing.T) {
	codes := []string{"10023", "10023", "10045", "10046"}
	for header, values := range map[string][]string{"Kunde": codes, "Customer": codes, "Invoice No": codes, "PLZ": codes, "Belegnr": codes,
		"Route": codes, "Monat": {"2024-01", "2024-01", "2024-02", "2024-02"}, "Tag": {"05.01.2024", "05.01.2024", "06.01.2024", "07.01.2024"},
		"Zeit": {"12:30", "14:15", "16:00", "16:30"}, "Doc": {"R-1001", "R-1001", "R-1002", "R-1003"}} {
		rows := "Filiale," + header + ",Rope,Oil,Buoy\n"
		for i, figures := range []string{"5.50,6.50,1.25", "8.50,9.00,2.25", "8.25,12.00,3.50", "8.25,11.00,4.75"} {
			rows += "Holm," + values[i] + "," + figures + "\n"
		}
		r, err := drafted(t, "branch,product,amount", map[string]string{"a.csv": rows})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %v\n%s", header, r.Problems, r.Text)
		require.Equal(t, 12, r.Rows, r.Text)
		require.Contains(t, r.Text, "others: ["+header+"]")
		require.NotContains(t, r.Text, "held")
		require.Equal(t, header == "Route", strings.Contains(r.Text, "the figures below Route are left aside"), "what no word says: %s", r.Text)

		r, err = drafted(t, "", map[string]string{"a.csv": rows})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %v\n%s", header, r.Problems, r.Text)
		require.Equal(t, 12, r.Rows, r.Text)
	}
}

// Files whose names say amounts are none of quantities.
func TestAmountsAreNoQuantities(t *testing.T) {
	const amounts = "Branch,Product,Jan 2024,Feb 2024\nHolm,Rope,5.50,6.50\nKai,Oil,8.50,9.75\n"
	quantities := strings.NewReplacer(".50", "", ".75", "").Replace(amounts)
	r, err := drafted(t, "branch,month,product,quantity", map[string]string{"Lakes amount.csv": amounts, "Lakes quantity.csv": quantities})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Equal(t, 4, r.Rows, r.Text)
	r, err = drafted(t, "branch,month,product,quantity", map[string]string{"Lakes revenue.csv": amounts})
	require.NoError(t, err)
	require.True(t, r.Exit > 0 || len(r.Missing) > 0, r.Text)
	require.Contains(t, r.Text, "its figures are amounts")
}

// An area that a title names is no branch, and section rows below are; a region stands around a table rather than in it.
func TestSectionsBelowNames(t *testing.T) {
	table := func(title, product string) string {
		return title + product + ",2024-01,2024-02\nQuay,,\nRope,5.50,6.50\nOil,8.50,9.75\nPier,,\nRope,1.50,2.50\nOil,3.50,4.75\n"
	}
	r, err := drafted(t, "branch,month,amount", map[string]string{
		"export (1).csv": table("Area: Lakes,,\n", "Article"), "export (2).csv": table("Area: Skerries,,\n", "Article")})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Contains(t, r.Text, "sections: branch")
	require.Equal(t, 16, r.Rows)

	other := strings.ReplaceAll(table("", "Product"), "5", "6")
	r, err = drafted(t, "region,month,product,amount", map[string]string{"Lakes.csv": table("", "Product"), "Skerries.csv": other})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Contains(t, r.Text, `path: "{region}"`)
	require.Contains(t, r.Text, "section: { keep: no }")
	require.Equal(t, 16, r.Rows)
}

// Things across that other tables know are added up where nobody asks for them, one that none knows with a question; freight is none.
func TestKnownThingsAcross(t *testing.T) {
	other := "Branch,Product,Amount\nNess,Rope,1.10\nNess,Oil,2.20\nVik,Buoy,3.30\nVik,Oar,4.40\n"
	table := func(last string) string {
		return "Filiale,Rope,Oil,Buoy,Oar" + last + "\nHolm,1.50,2.50,3.50,4.50,9.90\nKai,2.50,3.50,4.50,5.50,9.80\n" +
			"Mill,3.50,4.50,5.50,6.50,9.70\n"
	}
	for last, asks := range map[string]string{",Sonstiges": "nothing else knows Sonstiges", ",Fracht": "Fracht stands among things"} {
		r, err := drafted(t, "branch,amount", map[string]string{"raw/a.csv": table(last), "raw/other.csv": other})
		require.NoError(t, err)
		require.Contains(t, r.Text, asks)
		require.Equal(t, last == ",Fracht", r.Exit != 0, r.Text)
	}
	before := strings.NewReplacer(",9.90", "", ",9.80", "", ",9.70", "").Replace(table(""))
	r, err := drafted(t, "branch,amount", map[string]string{
		"raw/2023.csv": before, "raw/2024.csv": table(",Sonstiges"), "raw/old list/other.csv": other})
	require.NoError(t, err)
	require.Contains(t, r.Text, "nothing else knows Sonstiges", "a later file has one thing more")
	r, err = drafted(t, "branch,amount", map[string]string{"raw/a/a.csv": before, "raw/other.csv": other,
		"raw/b/b.csv": "Shop;Ann;Ben;Cyd;Dan\nPier;1,50;2,50;3,50;4,50\nMole;2,50;3,50;4,50;5,75\n"})
	require.NoError(t, err)
	require.True(t, r.Exit > 0, "of another table nobody knows what stands across: %s", r.Text)

	sums := "Branch,Qty Rope,Amount Rope,Qty Oil,Amount Oil,Qty Total,Amount Total\nHolm,1,1.50,2,2.50,3,4.00\nKai,3,3.50,4,4.50,7,8.00\n"
	r, err = drafted(t, "branch,quantity,amount", map[string]string{"a.csv": sums})
	require.NoError(t, err)
	require.Zero(t, r.Exit)
	require.Equal(t, 2, r.Rows, "their sums: %s", r.Text)
}

// What is charged, paid or counted beside goods is none of them: it stops with a question, or is left aside, and hides none of the goods; a
// good whose name has such a word among others is one.
func TestBesideGoods(t *testing.T) {
	for header, as := range map[string]string{"Freight": "stops", "Cash difference": "stops", "Trinkgeld": "stops", "Cost": "aside",
		"Rent": "stops", "Löhne": "stops", "Days open": "stops", "Visitors": "aside", "Temperature": "aside",
		"Gift box": "good", "Deposit bag": "good"} {
		r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": "Branch,Month,Rope,Oil," + header +
			",Buoy\nHolm,2024-01,1.50,2.50,31,4.50\nHolm,2024-02,2.50,3.50,32,5.50\nKai,2024-01,3.50,4.50,33,6.50\n"})
		require.NoError(t, err)
		require.Empty(t, r.Missing, r.Text)
		switch as {
		case "stops":
			require.NotZero(t, r.Exit, header)
			require.Contains(t, r.Text, header+" stands among things that were sold, and may be none")
		case "aside":
			require.Zero(t, r.Exit, header)
			require.Equal(t, 9, r.Rows, r.Text)
			require.Contains(t, r.Text, "others: ["+header+"]")
		default:
			require.Zero(t, r.Exit, header)
			require.Equal(t, 12, r.Rows, r.Text)
		}
	}
}

// So it is beside the names of measures, in one header or in two.
func TestBesideGoodsOfMeasures(t *testing.T) {
	for freight, header := range map[string]string{
		"Quantity | Freight": ",,Quantity,,,Amount,,\nBranch,Month,Rope,Oil,Freight,Rope,Oil,Freight\n",
		"Qty Freight":        "Branch,Month,Qty Rope,Qty Oil,Qty Freight,Amount Rope,Amount Oil,Amount Freight\n",
	} {
		r, err := drafted(t, "region,branch,month,product,quantity,amount", map[string]string{
			"raw/Lakes.csv": header + "Pier,2024-01,1,2,3,4.50,5.25,6.10\nPier,2024-02,4,5,6,7.50,8.25,9.10\nMole,2024-01,2,3,4,5.50,6.25,7.10\n"})
		require.NoError(t, err)
		require.Empty(t, r.Missing, r.Text)
		require.NotZero(t, r.Exit)
		require.Contains(t, r.Text, freight+" stands among things that were sold")
	}
}

// Figures of which no word says what they are do not hide the months beside them, unless they may be one that is misspelt.
func TestUnknownFiguresBesideMonths(t *testing.T) {
	for header, want := range map[string]int{"Rating": 9, "Channel": 9, "Febuary": 0, "Febuary 2024": 0, "Returns": 0} {
		r, err := drafted(t, "branch,month,product,amount", map[string]string{"a.csv": "Branch,Product," + header +
			",2024-04,2024-05,2024-06\nHolm,Rope,4,7.84,6.01,5.30\nHolm,Oil,2,2.84,8.01,3.68\nHolm,Buoy,3,2.25,6.50,6.75\n"})
		require.NoError(t, err)
		if want == 0 {
			require.True(t, r.Exit > 0 || len(r.Missing) > 0, "%s: %s", header, r.Text)
			continue
		}
		require.Zero(t, r.Exit, "%s: %v\n%s", header, r.Problems, r.Text)
		require.Equal(t, want, r.Rows, r.Text)
		require.Contains(t, r.Text, "the figures below "+header+" are left aside")
	}
}

// A measure whose figures do not read is a question, not one that a table lacks; days of making are none of the year that is asked for.
func TestWhatIsNotThere(t *testing.T) {
	r, err := drafted(t, "branch,month,product,amount", map[string]string{
		"a/2024.csv":    "Branch,Product,Apr 2024,May 2024\nQuay,Rope,5.50,6.50\nQuay,Oil,8.50,9.75\n",
		"b/2024-04.csv": "Branch,Product,Sales,Price\nHolm,Rope,\"7.818,24\",2.25\nHolm,Oil,\"3.062,37\",1.50\nKai,Oil,\"1.033,91\",3.00\n"})
	require.NoError(t, err)
	require.True(t, r.Exit > 0 || len(r.Missing) > 0, r.Text)
	require.Contains(t, r.Text, "Sales")

	r, err = drafted(t, "branch,year,amount", map[string]string{
		"2024-05.csv": "Branch,Product,Amount,Entered on\nHolm,Rope,5.50,2024-06-03\nKai,Oil,8.25,2024-06-04\n",
		"2024-06.csv": "Branch,Product,Amount,Entered on\nHolm,Rope,6.50,2024-07-03\nKai,Oil,9.25,2024-07-04\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Equal(t, 4, r.Rows, r.Text)
	require.NotContains(t, r.Text, "held")
}
