package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Figures that were sold are the amount, in one header row or two; those beside them are left aside.
func TestActualsBesideOthers(t *testing.T) {
	for _, c := range []struct{ actual, others string }{
		{"Actual", "Budget"}, {"Actual", "Budget,Variance"}, {"Act", "Bud,Var"}, {"Ist", "Soll,Abw. %"}, {"TY", "LY"}, {"Actual", "Prior year"},
		{"Sales", "Target,Diff %"}, {"Réel", "Prévu"}, {"Sales", "Cost,Margin"},
	} {
		kinds := append([]string{c.actual}, strings.Split(c.others, ",")...)
		for _, form := range []string{"%[1]s %[2]s", "%[2]s %[1]s", "%[1]s - %[2]s", ""} {
			var above, headers, cells []string
			for m, month := range []string{"Jan", "Feb", "Mar"} {
				for k, kind := range kinds {
					above, headers = append(above, []string{month, ""}[min(k, 1)]), append(headers, kind)
					if form != "" {
						headers[len(headers)-1] = fmt.Sprintf(form, month, kind)
					}
					cells = append(cells, fmt.Sprintf("%d.5", 10*m+k+1))
				}
			}
			row := strings.Join(cells, ",")
			text := "Branch,Product," + strings.Join(headers, ",") + "\nQuay,Oar," + row + "\nPier,Rope," + row + "\n"
			if form == "" {
				text = ",," + strings.Join(above, ",") + "\n" + text
			}
			rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{
				"raw/Lakes_2024.csv": text, "raw/Skerries_2024.csv": text + "\n"})
			require.Len(t, rows, 12, "%v %q\n%s", c, form, r.Text)
			require.Equal(t, []string{"Lakes,Quay,Oar,2024-01,1.5", "Lakes,Quay,Oar,2024-02,11.5", "Lakes,Quay,Oar,2024-03,21.5"}, rows[:3])
		}
	}
	for _, kinds := range []string{"A,B", "Budget,Forecast", "Sales,Returns", "Actual,Restated"} {
		var headers []string
		for _, month := range []string{"Jan", "Feb", "Mar"} {
			for _, kind := range strings.Split(kinds, ",") {
				headers = append(headers, month+" "+kind)
			}
		}
		rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{"raw/Lakes_2024.csv": across(0, headers...)})
		require.Nil(t, rows, "%s\n%s", kinds, r.Text)
	}
}

// Quarters across have a word for them, or the name of a measure beside them.
func TestQuartersAcross(t *testing.T) {
	for form, year := range map[string]string{"Q%d": "_2024", "Quarter %d": "_2024", "%d. Quartal": "_2024", "Sales Q%d": "_2024",
		"Q%d 2024": "", "Quarter %d 2024": "", "%d. Quartal 2024": "", "Net sales Q%d 2024": "", "%dQ 2024": ""} {
		headers := ofMonths(4, func(q int) string { return fmt.Sprintf(form, q) })
		rows, r := rowsOf(t, "region,branch,product,quarter,amount", map[string]string{
			"raw/Lakes" + year + ".csv": across(0, headers...), "raw/Skerries" + year + ".csv": across(9, headers...)})
		require.Len(t, rows, 16, "%s\n%s", form, r.Text)
		require.Equal(t, "Lakes,Quay,Oar,2024-Q1,1.5", rows[0])
		require.Equal(t, "Skerries,Pier,Rope,2024-Q4,13.5", rows[15])
	}
}

// Without columns that are asked for, two measures across are two columns; what is left aside beside them is told. Asked for by its own
// name, it is found.
func TestMeasuresLeftAsideAcross(t *testing.T) {
	table := func(one, other string) map[string]string {
		return map[string]string{"raw/Lakes.csv": ",," + one + ",," + other + ",\nOutlet,Month,Oar,Rope,Oar,Rope\n" +
			"Quay,2024-01,1,2,3.5,4.5\nQuay,2024-02,5,6,7.5,8.5\nPier,2024-01,9,10,11.5,12.5\n"}
	}
	for _, two := range [][2]string{{"Units", "Sales"}, {"pcs", "EUR"}, {"Qty", "Amount"}} {
		rows, r := rowsOf(t, "", table(two[0], two[1]))
		require.Len(t, rows, 6, r.Text)
		require.Equal(t, "Lakes,Quay,2024-01,Oar,1,3.5", rows[0], r.Text)
		require.Empty(t, r.Open)
	}
	for _, two := range [][2]string{{"Net", "Gross"}, {"Cost", "Sales"}, {"Orders", "Revenue"}} {
		_, r := rowsOf(t, "", table(two[0], two[1]))
		require.Contains(t, strings.Join(r.Open, "\n"), "are left aside, beside", r.Text)
		rows, r := rowsOf(t, "region,outlet,month,item,"+strings.ToLower(two[0]+","+two[1]), table(two[0], two[1]))
		require.Len(t, rows, 6, r.Text)
		require.Equal(t, "Lakes,Quay,2024-01,Oar,1,3.5", strings.Replace(rows[0], ",1.0,", ",1,", 1), r.Text)
	}
}

// Sales beside net or gross ones are a question, unless the column is called so.
func TestNetBesideSales(t *testing.T) {
	for header, of := range map[string]string{"Sales,Net sales": "Sales or Net sales", "Sales,Sales excl. VAT": "Sales or Sales excl. VAT",
		"Revenue,Discount": "", "Amount,Net amount": ""} {
		r, err := drafted(t, "region,branch,month,amount", map[string]string{
			"Lakes.csv": "Branch,Month," + header + "\nHolm,2024-01,105.50,100.25\nPier,2024-01,99.75,95.10\n"})
		require.NoError(t, err)
		require.Equal(t, of != "", strings.Contains(strings.Join(r.Open, "\n"), "amount may be "+of), "%s: %v\n%s", header, r.Open, r.Text)
		require.Equal(t, of != "", len(r.Missing) > 0 || r.Exit != 0, r.Text)
	}
}

// A ledger that writes its sales below zero beside others that do not, and numbers of versions, are questions.
func TestSignsAndVersions(t *testing.T) {
	const rows = "Holm,2024-01,Oar,105.50,V\nHolm,2024-02,Oar,99.75,V\nPier,2024-01,Net,95.10,V\nPier,2024-02,Net,80.25,V\n"
	lakes := "Branch,Month,Product,Amount,Version\n" + strings.ReplaceAll(rows, "V", "1")
	below := strings.NewReplacer("Oar,", "Oar,-", "Net,", "Net,-").Replace(lakes)
	beside := func(text string) string {
		return strings.NewReplacer("Amount", "Qty,Amount", "Oar,", "Oar,3,", "Net,", "Net,2,").Replace(text)
	}
	across := func(sign string) string {
		return strings.ReplaceAll("Branch,Product,2024-01,2024-02\nHolm,Oar,V1.50,V2.25\nPier,Oar,V3.75,V4.50\nPier,Net,V5.25,V6.75\n", "V", sign)
	}
	for name, c := range map[string]struct{ lakes, wick, asks string }{
		"signs":        {lakes, below, "nearly all figures of amount are below zero"},
		"beside units": {beside(lakes), beside(below), "nearly all figures of amount are below zero"},
		"across":       {across(""), across("-"), "nearly all figures of amount are below zero"},
		"both":         {below, strings.Replace(below, "105", "106", 1), ""},
		"some returns": {lakes, strings.Replace(below, "-105", "106", 1), ""},
		"versions":     {lakes + strings.ReplaceAll(rows, "V", "2"), lakes, "Version says what the figures of a row are (1, 2)"},
		"one version":  {lakes, strings.Replace(lakes, "105", "106", 1), ""},
	} {
		columns := "region,branch,month,product,amount"
		if strings.Contains(c.lakes, "Qty") {
			columns += ",quantity"
		}
		r, err := drafted(t, columns, map[string]string{"Lakes.csv": c.lakes, "Wick.csv": c.wick})
		require.NoError(t, err)
		require.Equal(t, c.asks != "", r.Exit != 0, "%s: %s", name, r.Text)
		require.Contains(t, strings.Join(r.Open, "\n"), c.asks, name)
	}
}

// Sums so far are a question, whatever stands beside the months; a budget may grow as it likes.
func TestSumsSoFarBesideMeasures(t *testing.T) {
	months := strings.Fields("Jan Feb Mar Apr May Jun")
	table := func(grows bool, forms ...string) map[string]string {
		headers, rows := []string{"Branch", "Product"}, ""
		for _, m := range months {
			for _, form := range forms {
				headers = append(headers, fmt.Sprintf(form, m))
			}
		}
		for b := range 6 {
			row := []string{fmt.Sprint("Quay ", b), "Oar"}
			for m := range months {
				for k := range forms {
					n := 10*m + b + 1
					if k == 0 && !grows && m%2 == 1 {
						n = 1
					}
					row = append(row, fmt.Sprintf("%d.5", n))
				}
			}
			rows += strings.Join(row, ",") + "\n"
		}
		return map[string]string{"raw/Lakes_2024.csv": strings.Join(headers, ",") + "\n" + rows}
	}
	for _, forms := range [][]string{{"%s"}, {"Sales %s"}, {"%s turnover"}, {"%s Actual", "%s Budget"}, {"Sales %s", "LY %s"}} {
		_, r := rowsOf(t, "region,branch,product,month,amount", table(true, forms...))
		require.Contains(t, strings.Join(r.Open, "\n"), "are they sums so far", "%v\n%s", forms, r.Text)
		if forms[0] == "%s" {
			continue
		}
		rows, r := rowsOf(t, "region,branch,product,month,amount", table(false, forms...))
		require.Len(t, rows, 36, "%v\n%s", forms, r.Text)
	}
}
