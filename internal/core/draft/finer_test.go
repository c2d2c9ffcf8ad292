package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Times that are asked for are made of finer ones, whether these are asked for or not.
func TestTimesOfFinerOnes(t *testing.T) {
	dated := "Date,Branch,Amount\n2024-01-05,Holm,1.50\n2024-05-06,Kai,2.50\n2024-11-30,Kai,4.00\n"
	across := func(headers string) string {
		return "Branch,Product," + headers + "\nHolm,Rope,5.00,5.00\nKai,Oil,8.50,8.50\n"
	}
	for _, test := range []struct {
		columns string
		files   map[string]string
		rows    int
		plan    []string
	}{
		{"date,month,quarter,year,amount", map[string]string{"a.csv": dated}, 3,
			[]string{"month:   { from: date, is: month }", "quarter: { from: date, is: quarter }", "year:    { from: date, is: year }"}},
		{"month,quarter,amount", map[string]string{"a.csv": dated}, 3,
			[]string{"{ is: month, headers: [Date] }", "{ from: month, is: quarter }"}},
		{"year,quarter,amount", map[string]string{"a.csv": dated}, 3, []string{"year:    { from: quarter, is: year }"}},
		{"year,branch,amount", map[string]string{"a.csv": across("2024-01,2024-02")}, 4,
			[]string{"month:  { is: month, keep: no }", "{ from: month, is: year }", "grain: [year, branch], repeats: keep"}},
		{"branch,amount", map[string]string{"a.csv": across("2024-01,2024-02")}, 4, []string{"{ is: month, keep: no }", "repeats: keep"}},
		{"quarter,branch,amount", map[string]string{"a.csv": across("2024-01,2024-02")}, 4,
			[]string{`header: "{quarter}"`, "the wide headers may tell"}},
		{"year,branch,amount", map[string]string{"a.csv": across("Q1 2024,Q2 2024")}, 4,
			[]string{"{ from: quarter, is: year }", "the wide headers may"}},
		{"year,branch,amount", map[string]string{"a.csv": across("2024-01-01,2024-02-01")}, 4, []string{"{ from: day, is: year }"}},
		{"quarter,branch,amount", map[string]string{"2023.csv": across("Jan,Feb"), "2024.csv": across("Jan,Mar")}, 8,
			[]string{"{ from: month, is: quarter }", `write: "{mon} {year}", keep: no`}},
		{"year,branch,amount", map[string]string{"2024.csv": "Branch,Jan,Feb,Amount\nHolm,1.50,2.50,4.00\nKai,2.00,3.50,5.50\n"}, 2,
			[]string{"others: [Feb, Jan]"}}, // their sums
	} {
		r, err := drafted(t, test.columns, test.files)
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %v\n%s", test.columns, r.Problems, r.Text)
		require.Empty(t, r.Missing, r.Text)
		require.Equal(t, test.rows, r.Rows, r.Text)
		for _, want := range test.plan {
			require.Contains(t, r.Text, want, test.columns)
		}
	}
}

// Files of quarters have months without a year: that of the quarter, if they lie in it.
func TestMonthsOfQuarters(t *testing.T) {
	table := func(months string) string { return "Branch," + months + "\nHolm,1.50,2.25,3.00\nKai,4.00,5.50,6.75\n" }
	for _, names := range [][2]string{{"Q1 2024", "Q2 2024"}, {"2024-Q1", "2024-Q2"}, {"Sales Q1 2024", "Sales Q2 2024"},
		{"Lakes Q1 2024", "Lakes Q2 2024"}} {
		files := map[string]string{names[0] + ".csv": table("Jan,Feb,Mar"), names[1] + ".csv": table("Apr,May,Jun")}
		for _, columns := range []string{"", "branch,month,amount", "branch,quarter,month,amount"} {
			r, err := drafted(t, columns, files)
			require.NoError(t, err)
			require.Zero(t, r.Exit, "%s: %v\n%s", names, r.Problems, r.Text)
			require.Equal(t, 12, r.Rows, r.Text)
			require.Contains(t, r.Text, `write: "{mon} {year}"`)
		}
		files[names[0]+".csv"], files[names[1]+".csv"] = table("Apr,May,Jun"), table("Jul,Aug,Sep")
		r, err := drafted(t, "branch,month,amount", files)
		require.NoError(t, err)
		require.NotZero(t, r.Exit, "quarters of another year: %s", r.Text)
	}
}

// Rows that agree in all that is asked for, and differ in what is not, are no copies of each other.
func TestRowsApartByWhatIsNotAskedFor(t *testing.T) {
	rows := "Month,Branch,Amount\n2024-01,Harbour,5.00\n2024-02,"
	for _, test := range []struct {
		columns string
		files   map[string]string
		rows    int
		plan    string
	}{
		{"year,branch,amount", map[string]string{
			"a.csv": "Date,Branch,Amount\n2024-01-05,Holm,5.00\n2024-02-06,Holm,5.00\n2024-02-07,Kai,7.00\n"}, 3,
			"Date may tell them apart"},
		{"month,branch,amount", map[string]string{"Lakes.csv": rows + "Quay,7.00\n2024-02,Mill,7.00\n",
			"Skerries.csv": rows + "Holm,8.50\n2024-02,Pier,8.50\n"}, 6,
			"the names of tables may tell them apart"},
		{"month,branch,amount", map[string]string{"Lakes.csv": rows + "Quay,7.00\n",
			"Lakes copy.csv": rows + "Holm,8.50\n"}, 3, "repeats: first"},
	} {
		r, err := drafted(t, test.columns, test.files)
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Equal(t, test.rows, r.Rows, r.Text)
		require.True(t, strings.Contains(r.Text, test.plan), r.Text)
	}
}

// Rows that were exported twice are found by all labels, however few are asked for.
func TestExportedTwiceByAllLabels(t *testing.T) {
	rows := "Date,Branch,Product,Amount\n2024-01-05,Holm,Rope,1.50\n2024-05-06,Kai,Rope,2.50\n2024-05-06,Kai,Rope,2.50\n" +
		"2024-11-30,Kai,Oil,2.50\n"
	for _, columns := range []string{"amount", "branch,amount", "year,branch,amount", "date,branch,product,amount"} {
		r, err := drafted(t, columns, map[string]string{"Lakes.csv": rows, "Skerries.csv": strings.ReplaceAll(rows, "50", "75")})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %v\n%s", columns, r.Problems, r.Text)
		require.Equal(t, 6, r.Rows, "%s\n%s", columns, r.Text)
	}
}
