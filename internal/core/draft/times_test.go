package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/layout"
)

// Months of figures alone are months, whatever their column is called; articles that look like months of a year to come are none.
func TestMonthsOfFigures(t *testing.T) {
	rows := func(header string, month func(i int) string) string {
		var b strings.Builder
		b.WriteString(header + "\n")
		for i := range 12 {
			fmt.Fprintf(&b, "Lakes,Quay %d,%s,%s,%d.50\n", i%2, month(i), []string{"Oar", "Rope", "Pump"}[i%3], 17+i*i)
		}
		return b.String()
	}
	figures := func(i int) string { return fmt.Sprintf("2023%02d", 1+i/3) }
	for _, header := range []string{"Period", "Periodo", "Zeitraum", "Buchungsmonat", "Invoice month", "When", "YYYYMM"} {
		result, err := drafted(t, "region,branch,month,product,amount", map[string]string{
			"raw/sales.csv": rows("Region,Branch,"+header+",Product,Amount", figures)})
		require.NoError(t, err, header)
		require.Empty(t, result.Missing, header)
		require.Contains(t, result.Text, "{ is: month, headers: ["+header+"] }", header)
		require.Contains(t, result.Text, `dates: "202412"`, header)
	}

	result, err := drafted(t, "branch,month,product,amount", map[string]string{
		"raw/Lakes.xlsx": sheets(map[string]string{"Sales": "Branch,Month,Product,Amount\nQuay,202301,Oar,1.5\nQuay,202302,Oar,2.5\n"})})
	require.NoError(t, err)
	require.Zero(t, result.Exit, result.Text)
	require.Contains(t, result.Text, `dates: "202412"`, "numbers of a sheet")

	result, err = drafted(t, "region,branch,month,product,amount", map[string]string{
		"raw/sales.csv": rows("Region,Branch,Lot no.,Product,Amount", figures)})
	require.NoError(t, err)
	require.Equal(t, []string{"month"}, result.Missing, "a number of something")

	result, err = drafted(t, "region,branch,month,product,amount", map[string]string{
		"raw/sales.csv": rows("Region,Branch,Period,Item code,Product,Amount",
			func(i int) string { return fmt.Sprintf("Sep-22,%d-%d", 8305-i*7, 1+i) })})
	require.NoError(t, err)
	require.Contains(t, result.Text, "month:   { is: month, headers: [Period] }")
	require.Contains(t, result.Text, "Item code")
}

// Months of figures across are the header, not the first row below them, however the figures there are written.
func TestMonthsOfFiguresAcross(t *testing.T) {
	for _, rows := range []string{"Quay;Oar;1.250,50;2,25\n\nPier;Oar;3,75;4.500,25\n", "Quay;Oar;1'250.50;2.25\n;Rope;3.75;-\n"} {
		for _, header := range []string{"Branch;Product;202301;202302", "Branch:;Product;202301;202302"} {
			text := "Halyard & Moss\n\n" + header + "\n" + rows
			r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": text})
			require.NoError(t, err)
			require.Zero(t, r.Exit, r.Text)
			require.EqualValues(t, 4, r.Rows)
			require.Contains(t, r.Text, `unpivot: { header: "{month}", cell: amount }`)
		}
	}
}

// A title is a label in one cell, and what it says in the next one, too.
func TestTitlesInTwoCells(t *testing.T) {
	for title, pattern := range map[string]string{
		"Region,%s":               `titles: "Region {region}"`,
		"Region:,%s":              `titles: "Region: {region}"`,
		"Region: %s,Sent: Monday": `titles: "Region: {region}"`,
		"Region:,%s,Year:,2024":   `titles: "Region: {region} Year: 20*"`,
	} {
		files := map[string]string{}
		for i, region := range []string{"Lakes", "Amber Bay"} {
			name := fmt.Sprintf("raw/report%d.csv", i)
			files[name] = fmt.Sprintf("Halyard & Moss\n"+title, region) + "\n\n" +
				"Branch,Month,Product,Remark,Amount\n" +
				fmt.Sprintf("Quay,2024-01,Oar,late,%d.5\nQuay,2024-02,Oar,,7.25\nPier,2024-01,Rope,,9.75\n", i+1)
		}
		result, err := drafted(t, "region,branch,month,product,amount", files)
		require.NoError(t, err, title)
		require.Empty(t, result.Missing, title)
		require.Contains(t, result.Text, pattern, title)
	}
}

// Quarters beside months are their sums, and no measure that another extract has.
func TestQuartersAreNoMeasure(t *testing.T) {
	result, err := drafted(t, "region,branch,month,product,quantity,amount", map[string]string{
		"raw/Lakes q.csv": "Branch,Product,Jan 2024,Feb 2024,Mar 2024,Q1 2024\n" +
			"Quay,Oar,1.5,2.5,3.5,7.5\nQuay,Rope,2.25,2.5,3,7.75\nPier,Oar,4,5,6,15\n",
		"raw/Holm sales.csv": "Branch,Month,Product,Quantity,Amount\nMole,2024-01,Oar,3,12.5\nMole,2024-02,Oar,4,14.5\n",
	})
	require.NoError(t, err)
	require.Empty(t, result.Missing)
	require.NotContains(t, result.Text, "headers: [Quantity, Q1 2024]")
	require.Contains(t, result.Text, "others: [Q1 2024]")
	result, err = drafted(t, "region,branch,month,product,amount", map[string]string{
		"raw/Lakes q.csv": "Branch,Product,Q1 2024,Q2 2024,Jul 2024,Aug 2024,Q3 2024\nQuay,Oar,10.5,2.5,3.5,4.5,8\nQuay,Rope,2.25,2.5,3,5,8\n"})
	require.NoError(t, err)
	require.NotZero(t, result.Exit)
	require.Len(t, result.Open, 2)
	require.Contains(t, result.Open[0], "Q1 2024 stands beside months, and is the sum of none of them")
	require.Contains(t, result.Text, "others: [Q3 2024]")
	result, err = drafted(t, "", map[string]string{
		"raw/Lakes q.csv": "Branch,Product,Jan 2024,Feb 2024,Mar 2024,Q1 2024\nQuay,Oar,1.5,2.5,3.5,7.5\nQuay,Rope,2.25,2.5,3,7.75\n"})
	require.NoError(t, err)
	require.Zero(t, result.Exit, result.Text)
	require.NotContains(t, result.Text, "q1_2024")
}

// Years across, above rows of months by their names or numbers, make months of both; what is beside them is left aside.
func TestYearsAcross(t *testing.T) {
	for _, beside := range []string{"Average", "Ø", "%", "+/-", "Veränderung"} {
		for _, months := range [][]string{{"Jan", "Feb"}, {"1", "2"}} {
			text := "Branch,Month,Product,2023,2024," + beside + "\nQuay," + months[0] + ",Oar,1.5,2.5,1\nQuay," + months[1] +
				",Oar,3.5,4.5,1\nPier," + months[0] + ",Oar,5.25,6.25,1\n"
			result, err := drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": text})
			require.NoError(t, err)
			require.Zero(t, result.Exit, result.Text)
			require.EqualValues(t, 6, result.Rows)
			require.Contains(t, result.Text, `unpivot: { header: "{year}", cell: amount }`)
			require.Contains(t, result.Text, "others: ["+layout.Flow(beside)+"]")
		}
	}
}

// Of two columns of figures that nobody asked for by name, the one that a header names is it; of a name and its number, the name.
func TestNobodyAsked(t *testing.T) {
	result, err := drafted(t, "", map[string]string{
		"raw/a/export.csv": "Region,Branch,Month,Artikelnummer,Artikel,Importe,Descuento\n" +
			"Lakes,Quay,2024-01,4711-1,Oar,17.25,1.10\nLakes,Quay,2024-02,4712-2,Rope,18.25,2.10\n",
		"raw/b/ledger.csv": "Region,Branch,Month,Product,Sales\nHolm,Pier,2024-01,Oar,5.25\nHolm,Pier,2024-02,Rope,6.75\n"})
	require.NoError(t, err)
	require.Zero(t, result.Exit, result.Text)
	require.Contains(t, result.Text, "importe:       { is: number, decimals: 2, headers: [Sales] }")
	require.Contains(t, result.Text, "artikel:       { headers: [Product] }")
}

// Rows that say one figure each, with a name spelt in two ways, do not become one: that is a question.
func TestHalvesOfRows(t *testing.T) {
	var b strings.Builder
	b.WriteString("Branch,Month,Product,Figure,Value\n")
	for i := range 8 {
		branch := []string{"Old Slip", "OLD SLIP"}[i/5%2]
		fmt.Fprintf(&b, "Old Slip,2024-%02d,Oar,Quantity,%d\n%s,2024-%02d,Oar,Amount,%d.25\n", 1+i, 3+i, branch, 1+i, 40+i*i)
	}
	result, err := drafted(t, "region,branch,month,product,quantity,amount", map[string]string{"raw/Lakes.csv": b.String()})
	require.NoError(t, err)
	require.Contains(t, strings.Join(result.Open, "\n"), "each with a part of the figures")
	require.NotContains(t, result.Text, "repeats: keep")
}
