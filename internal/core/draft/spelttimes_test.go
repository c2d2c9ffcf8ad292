package draft

import (
	"context"
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/fact"
	"umbau/internal/core/plan"
	"umbau/internal/format"
)

// rowsOf drafts from files and builds: its rows without the header, each with commas; none where it stops.
func rowsOf(t *testing.T, columns string, files map[string]string) (rows []string, r *Result) {
	t.Helper()
	r, err := drafted(t, columns, files)
	require.NoError(t, err)
	if r.Exit != 0 || len(r.Missing) > 0 {
		return nil, r
	}
	rows, s := built(t, r.Text, files)
	require.Empty(t, s.Problems, r.Text)
	return rows, r
}

// built are the rows that a build with a plan delivers.
func built(t *testing.T, text string, files map[string]string) (rows []string, s *fact.Summary) {
	t.Helper()
	dir := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	p, err := plan.Read(filepath.Join(dir, "umbau.yaml"), []byte(text), format.All())
	require.NoError(t, err, text)
	s, err = fact.Build(context.Background(), p, fact.Options{Workers: 1})
	require.NoError(t, err)
	if len(s.Problems) > 0 {
		return nil, s
	}
	f, err := os.Open(filepath.Join(dir, "out/sales.csv"))
	require.NoError(t, err)
	defer f.Close()
	lines, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	for _, line := range lines[1:] {
		rows = append(rows, strings.Join(line, ","))
	}
	return rows, s
}

// across is a table with figures across: 1.5 and more below the first header, 2.5 and more below the next, and so on.
func across(more int, headers ...string) string {
	figures := make([]string, len(headers))
	for i := range headers {
		figures[i] = fmt.Sprintf("%d.5", more+i+1)
	}
	cells := strings.Join(figures, ",")
	return "Branch,Product," + strings.Join(headers, ",") + "\nQuay,Oar," + cells + "\nPier,Rope," + cells + "\n"
}

// ofMonths are headers of months, each written by a function of its number.
func ofMonths(n int, write func(m int) string) (out []string) {
	for m := 1; m <= n; m++ {
		out = append(out, write(m))
	}
	return out
}

// Months across are months, however they are written; what the plan says finds them.
func TestMonthsAsTheyAreWritten(t *testing.T) {
	short := strings.Fields("Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec")
	name := func(before, behind string) func(m int) string {
		return func(m int) string { return before + short[m-1] + behind }
	}
	number := func(form string) func(m int) string { return func(m int) string { return fmt.Sprintf(form, m) } }
	for header, c := range map[string]struct {
		write func(m int) string
		year  string // of the name of the file
	}{
		"{month}":            {name("", "_2024"), ""},
		" {month}":           {name("", "2024"), ""},
		"  {month}":          {name("", "24"), ""},
		"   {month}":         {number("2024_%02d"), ""},
		"    {month}":        {number("%02d_2024"), ""},
		"     {month}":       {number("2024M%02d"), ""},
		"      {month}":      {number("%02d/24"), ""},
		"       {month}":     {number("%d.24"), ""},
		"Sales {month}":      {name("Sales ", " 2024"), ""},
		"Net sales {month}":  {number("Net sales 2024-%02d"), ""},
		"{month} turnover":   {name("", " 2024 turnover"), ""},
		`\[{month}\]`:        {name("[", " 2024]"), ""},
		"{mon}":              {number("%d"), "_2024"},
		" {mon}":             {number("%02d"), "_2024"},
		"M{mon}":             {number("M%02d"), "_2024"},
		"Month {mon}":        {number("Month %d"), "_2024"},
		"Monat {mon}":        {number("Monat %d"), "_2024"},
		"Sales {mon}":        {number("Sales %02d"), "_2024"},
		" Sales {mon}":       {name("Sales ", ""), "_2024"},
		"Sales Month {mon}":  {number("Sales Month %d"), "_2024"},
		"{mon} sales":        {name("", " sales"), "_2024"},
		"* {mon}":            {func(m int) string { return fmt.Sprintf("%02d %s", m, short[m-1]) }, "_2024"},
		"*-{mon}":            {func(m int) string { return fmt.Sprintf("%02d-%s", m, short[m-1]) }, "_2024"},
		"Net sales {mon}":    {name("Net sales ", ""), "_2024"},
		"Sales_{mon}":        {number("Sales_%02d"), "_2024"},
		"Umsatz Monat {mon}": {number("Umsatz Monat %d"), "_2024"},
	} {
		files := map[string]string{}
		for i, region := range []string{"Lakes", "Skerries"} {
			files["raw/"+region+c.year+".csv"] = across(20*i, ofMonths(12, c.write)...)
		}
		rows, r := rowsOf(t, "region,branch,product,month,amount", files)
		require.Contains(t, r.Text, `header: "`+strings.ReplaceAll(strings.TrimSpace(header), `\`, `\\`)+`"`, "%s", c.write(1))
		require.Len(t, rows, 48, "%s\n%s", c.write(1), r.Text)
		require.Equal(t, "Lakes,Quay,Oar,2024-01,1.5", rows[0])
		require.Equal(t, "Skerries,Pier,Rope,2024-12,32.5", rows[47])
	}
}

// What may be something else than a month is none: sizes, shops, days, times so far, what was planned.
func TestMonthsThatMayBeSomethingElse(t *testing.T) {
	number := func(form string) func(m int) string { return func(m int) string { return fmt.Sprintf(form, m) } }
	short := strings.Fields("Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec")
	asked := "region,branch,product,month,amount"
	for what, headers := range map[string][]string{
		"screws":           {"M3", "M4", "M5", "M6"},
		"sizes":            {"10/12", "11/14", "12/16"},
		"periods":          ofMonths(12, number("P%d")),
		"a hole":           {"1", "2", "4", "5"},
		"some":             ofMonths(5, number("%d")),
		"so far":           ofMonths(12, func(m int) string { return "Sales YTD " + short[m-1] }),
		"a budget":         ofMonths(12, func(m int) string { return "Budget " + short[m-1] }),
		"of the year past": ofMonths(12, func(m int) string { return "Sales LY " + short[m-1] }),
		"another order":    {"01 Mar", "02 Apr", "03 May", "04 Jun"},
	} {
		rows, r := rowsOf(t, asked, map[string]string{"raw/Lakes_2024.csv": across(0, headers...),
			"raw/Skerries_2024.csv": across(7, headers...)})
		require.Nil(t, rows, "%s\n%s", what, r.Text)
	}
	// Twelve shops, where a name or a column says the month.
	shops := ofMonths(12, number("%d"))
	rows, r := rowsOf(t, "region,shop,branch,product,month,amount", map[string]string{
		"raw/Lakes_2024-01.csv": across(0, shops...), "raw/Lakes_2024-02.csv": across(1, shops...)})
	require.Len(t, rows, 48, r.Text)
	require.Contains(t, r.Text, `header: "{shop}"`)
}

// A table of twelve numbers beside one of five, of names, of other words and of whole months: each has its entry.
func TestMonthsWrittenInSeveralWays(t *testing.T) {
	number := func(form string) func(m int) string { return func(m int) string { return fmt.Sprintf(form, m) } }
	rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{
		"raw/Lakes_2023.csv": across(0, ofMonths(12, number("%d"))...), "raw/Lakes_2024.csv": across(1, ofMonths(5, number("%d"))...),
		"raw/Skerries_2024.csv":  across(2, "Sales Jan", "Sales Feb", "Sales Mar"),
		"raw/Amber Bay_2024.csv": across(3, "Umsatz 01", "Umsatz 02", "Umsatz 03"),
		"raw/Long Sound.csv":     across(4, "Jan_2024", "Feb_2024"),
	})
	require.Len(t, rows, 24+10+6+6+4, r.Text)
}

// Measures of several words stand beside what they are of, before it or behind.
func TestMeasuresOfSeveralWords(t *testing.T) {
	for _, headers := range []string{"Units sold Jan 2024,Net sales Jan 2024,Units sold Feb 2024,Net sales Feb 2024",
		"Jan 2024 Units sold,Jan 2024 Net sales,Feb 2024 Units sold,Feb 2024 Net sales",
		"Qty_Jan_2024,Net_sales_Jan_2024,Qty_Feb_2024,Net_sales_Feb_2024"} {
		rows, r := rowsOf(t, "region,branch,product,month,quantity,amount", map[string]string{
			"raw/Lakes.csv": "Branch,Product," + headers + "\nQuay,Oar,1,2.5,3,4.5\nPier,Rope,5,6.5,7,8.5\n"})
		require.Equal(t, []string{"Lakes,Quay,Oar,2024-01,1,2.5", "Lakes,Quay,Oar,2024-02,3,4.5", "Lakes,Pier,Rope,2024-01,5,6.5",
			"Lakes,Pier,Rope,2024-02,7,8.5"}, rows, r.Text)
	}
}

// Measures across that cannot be added up to those of another table are a question, as those of columns are.
func TestContrariesAcross(t *testing.T) {
	for _, two := range [][2]string{{"Net", "Gross"}, {"Sales EUR", "Sales USD"}, {"Net sales", "Gross sales"}} {
		files := map[string]string{}
		for i, region := range []string{"Lakes", "Skerries"} {
			files["raw/"+region+".csv"] = across(i, two[i]+" Jan 2024", two[i]+" Feb 2024")
		}
		_, r := rowsOf(t, "region,branch,product,month,amount", files)
		require.Equal(t, 3, r.Exit, "%v\n%s", two, r.Text)
		require.Contains(t, strings.Join(r.Open, "\n"), "cannot be added up to that of others")
	}
}

// A column with the name of a measure that is the sum of what stands across is compared with it, and taken where that is not asked for.
func TestSumsBesideWhatStandsAcross(t *testing.T) {
	months, products := "Branch,Product,Jan 2024,Feb 2024,", "Branch,Month,Oar,Rope,Pump,"
	for _, sum := range []string{"Sales", "Total sales", "Sales total", "Amount", "Sales 2024"} {
		text := months + sum + "\nQuay,Oar,1.5,2.5,4\nPier,Rope,3.5,,3.5\nPier,Oar,1,n/a,1\n"
		rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{"raw/Lakes.csv": text, "raw/Skerries.csv": text + "\n"})
		require.Len(t, rows, 12, "%s\n%s", sum, r.Text)
		require.Contains(t, r.Text, "total_words: ["+sum+"]", sum)
		_, s := built(t, r.Text, map[string]string{"raw/Lakes.csv": strings.Replace(text, ",3.5\n", ",3.6\n", 1)})
		require.NotEmpty(t, s.Problems, "next month, a sum that does not agree")
		if sum == "Sales 2024" {
			continue
		}
		rows, r = rowsOf(t, "region,branch,product,amount", map[string]string{"raw/Lakes.csv": text, "raw/Skerries.csv": text + "\n"})
		require.Len(t, rows, 6, "%s\n%s", sum, r.Text)
		require.Equal(t, "Lakes,Quay,Oar,4.0", rows[0])
	}
	text := products + "Sales\nQuay,2024-01,1.5,2.5,3,7\nQuay,2024-02,1,1,1,3\nPier,2024-01,4,5,6,15\n"
	rows, r := rowsOf(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": text, "raw/Skerries.csv": text + "\n"})
	require.Len(t, rows, 18, r.Text)
	rows, r = rowsOf(t, "region,branch,month,amount", map[string]string{"raw/Lakes.csv": text, "raw/Skerries.csv": text + "\n"})
	require.Len(t, rows, 6, r.Text)
	// One figure that is not the sum, and it is a question what is what.
	rows, r = rowsOf(t, "region,branch,month,product,amount", map[string]string{
		"raw/Lakes.csv": strings.Replace(text, ",15\n", ",15.01\n", 1)})
	require.Nil(t, rows, r.Text)
}

// A year in a title of sales is that of months that have none, next year's too; that of a house is not.
func TestYearsInTitlesOfSales(t *testing.T) {
	months := across(0, "Jan", "Feb", "Mar")
	for title, want := range map[string]string{
		"Sales 2024": `titles: "Sales {year}"`, "Monthly turnover, 2024": `titles: "Monthly turnover, {year}"`,
		"Halyard & Moss 1998": "", "Sales of Halyard & Moss since 2003": "", "Branches of 2024": ""} {
		title := strings.ReplaceAll(title, ", ", " – ")
		want := strings.ReplaceAll(want, ", ", " – ")
		rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{"raw/Lakes.csv": title + "\n\n" + months,
			"raw/Skerries.csv": title + "\n\n" + across(4, "Jan", "Feb", "Mar")})
		if want == "" {
			require.Nil(t, rows, "%s\n%s", title, r.Text)
			continue
		}
		require.Len(t, rows, 12, "%s\n%s", title, r.Text)
		require.Contains(t, r.Text, want)
		require.Equal(t, "Lakes,Quay,Oar,2024-01,1.5", rows[0])
	}
	// A file that says the year needs no title for it.
	rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{"raw/Lakes_2023.csv": "Sales 2024\n\n" + months})
	require.Equal(t, "Lakes,Quay,Oar,2023-01,1.5", rows[0], r.Text)
}

// Months in forms that may be something else are some below a header that says so, and labels below others.
func TestBriefMonthsInRows(t *testing.T) {
	for _, months := range [][2]string{{"JAN24", "FEB24"}, {"01/24", "02/24"}, {"1-24", "2-24"}} {
		text := func(header string) map[string]string {
			return map[string]string{"raw/Lakes.csv": "Branch,Product," + header + ",Amount\n" +
				"Quay,Oar," + months[0] + ",1.5\nPier,Oar," + months[1] + ",2.5\n"}
		}
		rows, r := rowsOf(t, "region,branch,product,month,amount", text("Period"))
		require.Equal(t, []string{"Lakes,Quay,Oar,2024-01,1.5", "Lakes,Pier,Oar,2024-02,2.5"}, rows, r.Text)
		rows, r = rowsOf(t, "", text("Size"))
		require.Contains(t, rows[0], months[0], r.Text)
	}
	for _, months := range [][2]string{{"05/06", "07/08"}, {"SET12", "GEN"}, {"JAN24", "2024"}} {
		rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{
			"raw/Lakes.csv": "Branch,Product,Month,Amount\nQuay,Oar," + months[0] + ",1.5\nPier,Oar," + months[1] + ",2.5\n"})
		require.Nil(t, rows, "%v\n%s", months, r.Text)
	}
}

// Years above the numbers of months, which a letter says.
func TestYearsAboveNumberedMonths(t *testing.T) {
	above, headers := "2023"+strings.Repeat(",", 12)+"2024"+strings.Repeat(",", 11),
		ofMonths(12, func(m int) string { return fmt.Sprintf("M%02d", m) })
	text := ",," + above + "\n" + across(0, append(headers, headers...)...)
	rows, r := rowsOf(t, "region,branch,product,month,amount", map[string]string{"raw/Lakes.csv": text})
	require.Len(t, rows, 48, r.Text)
	require.Contains(t, r.Text, `header: "{year} | M{mon}"`)
	require.Equal(t, "Lakes,Quay,Oar,2024-12,24.5", rows[23])
}

// Numbers below a header of days count these as spreadsheets do; below others they are numbers.
func TestCountedDays(t *testing.T) {
	r, err := drafted(t, "region,date,amount", map[string]string{"Lakes.csv": "Date,Amount\n45292,1.50\n45351,2\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, `dates: "45657"`)
	require.Contains(t, r.Text, "days as spreadsheets count them")
	require.Empty(t, r.Open)
	r, err = drafted(t, "region,month,amount", map[string]string{"Lakes.csv": "Month,Amount\n45292,1.50\n45323,2\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, `dates: "45657"`)
	rows, r := rowsOf(t, "region,branch,month,amount", map[string]string{"raw/Lakes.csv": "Branch,45292,45323,45352\nQuay,1.5,2.5,3.5\n"})
	require.Equal(t, []string{"Lakes,Quay,2024-01,1.5", "Lakes,Quay,2024-02,2.5", "Lakes,Quay,2024-03,3.5"}, rows, r.Text)
	_, r = rowsOf(t, "region,branch,month,amount", map[string]string{"raw/Lakes.csv": "Branch,45292,45324,45352\nQuay,1.5,2.5,3.5\n"})
	require.NotEmpty(t, r.Open, "no months: %s", r.Text)
	r, err = drafted(t, "region,date,amount", map[string]string{"Lakes.csv": "Date,Amount\n2024-01-05,1.50\n2024-01-06,2\n45351,2\n"})
	require.NoError(t, err)
	require.NotContains(t, r.Text, "45657", "a number among dates")
	require.Contains(t, r.Text, "unclear: hold")
	for _, text := range []string{"Code,Amount\n45292,1.50\n45351,2\n",
		"Date,Amount\n45292,1.50\n7,2\n", "Date,Amount\n30000,1.50\n30001,2\n"} {
		r, err = drafted(t, "region,date,amount", map[string]string{"Lakes.csv": text})
		require.NoError(t, err)
		require.NotContains(t, r.Text, "45657", text)
	}
}
