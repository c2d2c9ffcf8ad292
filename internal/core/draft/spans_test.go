package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Periods across, below years or beside measures too, are of a column of periods; a few numbers only where another column has the product.
func TestPeriodsAcross(t *testing.T) {
	for _, test := range []struct {
		form    string
		n       int
		product string
		column  string
	}{
		{"P%02d", 12, "Product", "period"}, {"P%d", 4, "Product", "period"}, {"FY24 P%02d", 3, "Product", "period"},
		{"FY24-Q%d", 4, "Product", "period"}, {"FY%d", 3, "Product", "period"}, {"2024 P%d", 3, "Product", "period"},
		{"24-%s", 12, "Product", "period"}, {"P%02d", 12, "Branch", "period"}, {"FY24 P%02d", 3, "Branch", "period"},
		{"P%d", 4, "Branch", "item"}, {"M%02d 2024", 4, "Product", "month"}, {"2024-M%02d", 4, "Product", "month"},
		{"2024 | P%d", 4, "Product", "period"}, {"Week %d", 4, "Product", "week"},
	} {
		var heads [2][]string
		for i := range test.n {
			var n any = i + 1
			if strings.Contains(test.form, "%s") {
				n = strings.Fields("Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec")[i]
			} else if strings.HasPrefix(test.form, "FY%") {
				n = 22 + i
			}
			above, head, two := strings.Cut(fmt.Sprintf(test.form, n), " | ")
			if !two {
				above, head = "", above
			}
			heads[0], heads[1] = append(heads[0], above), append(heads[1], head)
		}
		text := test.product + "," + strings.Join(heads[1], ",") + "\n"
		if heads[0][0] != "" {
			text = "," + strings.Join(heads[0], ",") + "\n" + text
		}
		for k, name := range []string{"Oar", "Buoy", "Bell"} {
			text += name
			for i := range test.n {
				text += fmt.Sprintf(",%d.25", 3+i*7+k*11)
			}
			text += "\n"
		}
		r, err := drafted(t, "", map[string]string{"raw/Lakes.csv": text, "raw/Skerries.csv": strings.ReplaceAll(text, ".25", ".50")})
		require.NoError(t, err, test)
		require.Zero(t, r.Exit, "%v\n%s", test, r.Text)
		require.Empty(t, r.Missing, "%v\n%s", test, r.Text)
		require.Equal(t, 6*test.n, r.Rows, "%v\n%s", test, r.Text)
		require.Contains(t, r.Text, "{"+test.column+"}", test)
		require.NotContains(t, r.Text, "{branch}", test)
	}
}

// Months of which nothing says the year stop a build until the plan says it, also below one another with measures; lines of dashes
// on the left are no column.
func TestTimesWithoutYear(t *testing.T) {
	for _, test := range []struct {
		text, column string
		rows         int
	}{
		{"Product,Jan,Feb,Mar\nOar,1.25,2.5,3\nBuoy,2.75,3,4\n", `month:   { is: month, write: "{mon} {year}" }`, 6},
		{"Product,Q1,Q2,Q3\nOar,1.25,2.5,3\nBuoy,2.75,3,4\n", `quarter: { is: quarter, write: "{q} {year}" }`, 6},
		{"Product,Jan Qty,Jan Value,Feb Qty,Feb Value\nOar,1,1.25,2,3\nBuoy,3,4.5,1,1.5\n", `write: "{mon} {year}"`, 4},
		{"Product,Jan,,Feb,\n,Qty,Value,Qty,Value\nOar,1,1.25,2,3\nBuoy,3,4.5,1,1.5\n", `write: "{mon} {year}"`, 4},
		{"Month,Product,Amount\nJan,Oar,1.25\nFeb,Oar,2\nMar,Buoy,3\n", `write: "{mon} {year}"`, 3},
		{"Month,Product,Amount\n1,Oar,1.25\n2,Oar,2\n12,Buoy,3\n", `write: "{year}-{mon}"`, 3},
		{"Quarter,Product,Amount\nQ1,Oar,1.25\nQ2,Oar,2\nQ3,Buoy,3\n", `write: "{q} {year}"`, 3},
	} {
		r, err := drafted(t, "", map[string]string{"raw/Lakes.csv": test.text})
		require.NoError(t, err)
		require.NotZero(t, r.Exit, r.Text)
		require.Empty(t, r.Missing, r.Text)
		require.Contains(t, r.Text, test.column)
		require.Equal(t, []string{"raw/*.csv: nothing there says year, and a build stops; set: { year: … } in the entry can"}, r.Open)
		rows, _ := built(t, strings.Replace(r.Text, `path: "{region}"`, "path: \"{region}\"\n    set: { year: 2024 }", 1),
			map[string]string{"raw/Lakes.csv": test.text})
		require.Len(t, rows, test.rows, r.Text)
		require.Contains(t, rows[0], "2024-")
		r, err = drafted(t, "", map[string]string{"raw/Lakes 2024.csv": test.text})
		require.NoError(t, err)
		require.Zero(t, r.Exit)
		require.Equal(t, test.rows, r.Rows)
	}
	days := map[string]string{"raw/Lakes.csv": "Date,Month,Product,Amount\n2024-01-05,Jan,Oar,2.5\n2025-02-07,Feb,Oar,3\n" +
		"2025-03-09,Mar,Buoy,4\n"}
	r, err := drafted(t, "", days)
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, "month:   text", "days say the year, which may be several")
	require.Contains(t, r.Open[0], "Jan, Feb and Mar, in which no whole month is read")
	r, err = drafted(t, "region,month,product,amount", days)
	require.NoError(t, err)
	require.NotContains(t, r.Text, "{year}")
	line := strings.Repeat("-", 32) + "\n"
	r, err = drafted(t, "", map[string]string{"raw/Lakes.txt": line + "|Material  |Jan 2024 |Feb 2024 |\n" + line +
		"|Oar       |   12,50 |  13,00  |\n|Buoy      | 1.112,50|  13,00- |\n" + line + "|Summe     | 1.125,00|   0,00  |\n" + line})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Empty(t, r.Open)
	require.Equal(t, 4, r.Rows)
	require.NotContains(t, r.Text, "  a: ")
}

// What stands below a header of a time, and is none, is a text and no row loses it; a question, where the header promised more.
func TestNoTimesBelow(t *testing.T) {
	for _, test := range []struct{ header, form, column, open string }{
		{"Period", "P%02d", "period:  text", ""}, {"Period", "FY24 P%d", "period:  text", ""},
		{"Posting period", "%03d", "posting_period: text", "001, 002 and 003"},
		{"Month", "P%02d", "month:   text", "P01, P02 and P03, in which no month is read"},
		{"Year,Month", "2024,M%02d", `write: "{year}-{mon}"`, ""}, {"Year,Month", "2024,%d", `write: "{year}-{mon}"`, ""},
		{"Year,Period", "2024,P%02d", "year:    year", ""}, {"Year,Quarter", "2024,%d", "quarter: text", "no quarter is read"},
		{"Date", "day %d", "date:    text", "no date is read"}, {"Month", "Day %d", "month:   text", "no month is read"},
		{"Year", "FY2%d", "year:    text", ""}, {"Year", "last %d", "year:    text", "no year is read"},
		{"Period", "%d", "period:  text", "no month is read"},
		{"Day", "%d", "day:     text", "no date is read"},
		{"Month", "2024-%02d", "month:   month", ""},
	} {
		text := test.header + ",Product,Amount\n"
		for i := range 4 {
			text += fmt.Sprintf(test.form+",Oar,%d.25\n"+test.form+",Buoy,%d.75\n", i+1, 3+i*i, i+1, 90-i*i)
		}
		r, err := drafted(t, "", map[string]string{"raw/Lakes.csv": text, "raw/Skerries.csv": text + "\n"})
		require.NoError(t, err, test)
		require.Zero(t, r.Exit, "%v\n%s", test, r.Text)
		require.Empty(t, r.Missing, "%v\n%s", test, r.Text)
		require.Contains(t, r.Text, test.column, test)
		if test.open == "" {
			require.Empty(t, r.Open, test)
			continue
		}
		require.Len(t, r.Open, 1, test)
		require.Contains(t, r.Open[0], test.open)
	}
	files := map[string]string{"raw/Lakes.csv": "Month,Product,Amount\nP1,Oar,1.5\nP2,Oar,2.5\nP3,Buoy,4.5\n"}
	r, err := drafted(t, "month,product,amount", files)
	require.NoError(t, err)
	require.Equal(t, []string{"month"}, r.Missing)
	require.Contains(t, strings.Join(r.Open, "\n"), "period: { headers: [Month] } takes it as a text")
	files["raw/Lakes.csv"] = "Month,Product,Quantity,Amount\n2024-01,Oar,few,1.5\n2024-02,Oar,many,2.5\n"
	r, err = drafted(t, "month,product,quantity,amount", files)
	require.NoError(t, err)
	require.Equal(t, []string{"quantity"}, r.Missing)
	require.Equal(t, []string{"raw/*.csv: Quantity has few and many, in which no figure is read"}, r.Open)
	r, err = drafted(t, "", files)
	require.NoError(t, err)
	require.Empty(t, r.Missing)
	require.Contains(t, r.Text, "quantity: text")
}
