package draft

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Months without a year that go over the turn of one are not those of the year that a name says.
func TestOverTheTurn(t *testing.T) {
	for _, c := range []struct{ months, later []int }{
		{[]int{4, 5, 6, 7, 8, 9, 10, 11, 12, 1, 2, 3}, []int{1, 2, 3}},
		{[]int{3, 2, 1, 12, 11}, []int{3, 2, 1}},
		{[]int{12, 1}, []int{1}},
		{[]int{11, 11, 12, 11, 1, 12, 1}, []int{1}},
		{[]int{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}, nil},
		{[]int{12, 11, 10}, nil},
		{[]int{11, 1, 2}, nil},
		{[]int{6, 4, 5}, nil},
		{[]int{1}, nil},
		{nil, nil},
	} {
		require.Equal(t, c.later, overTheTurn(c.months), "%v", c.months)
	}
}

func TestFiscalYears(t *testing.T) {
	const fiscal, plain = "Apr May Jun Jul Aug Sep Oct Nov Dec Jan Feb Mar", "Jan Feb Mar Apr"
	wide := func(region, months string) string {
		list := strings.Fields(months)
		return "Branch," + strings.Join(list, ",") + "\n" + region + " Quay" + strings.Repeat(",1.50", len(list)) + "\n"
	}
	long := func(region, months string) string {
		text := "Month,Branch,Amount\n"
		for _, m := range strings.Fields(months) {
			text += m + "," + region + " Quay,2.50\n"
		}
		return text
	}
	for name, table := range map[string]func(string, string) string{"wide": wide, "long": long} {
		for _, c := range []struct {
			year, months string
			asks         bool
		}{
			{"FY2024", fiscal, true}, {"2024", fiscal, true}, {"2023-2024", fiscal, true}, {"2023 to 2024", plain, true},
			{"Apr 2023 - Mar 2024", plain, true}, {"FY2024", plain, false}, {"2024", plain, false}, {"2024", "Dec Nov Oct", false},
		} {
			r, err := drafted(t, "region,month,branch,amount", map[string]string{
				"raw/Lakes " + c.year + ".csv": table("Lakes", c.months), "raw/Wick " + c.year + ".csv": table("Wick", c.months)})
			require.NoError(t, err)
			require.Equal(t, c.asks, len(r.Open) > 0 || r.Exit == 3, "%s %v\n%s", name, c, r.Text)
			if c.asks && c.months == fiscal {
				require.Contains(t, r.Text, "if(mon = 'Jan' or mon = 'Feb' or mon = 'Mar', year, year - 1)")
			}
		}
	}
}

// Rows say which of two orders they have, and a header or a name that a year is a fiscal one.
func TestFiscalYearsOfRows(t *testing.T) {
	rows := func(header string, months ...string) string { // of two branches in each of two years
		text := header + ",Month,Branch,Amount\n"
		for i, branch := range []string{"Holm", "Lowe", "Holm", "Lowe"} {
			for k, m := range strings.Fields(months[min(i, len(months)-1)]) {
				text += fmt.Sprintf("%d,%s,%s,%d.50\n", 2023+i/2, m, branch, 10*i+k)
			}
		}
		return text
	}
	const april = "Apr May Jun Jul Aug Sep Oct Nov Dec"
	for name, c := range map[string]struct {
		file, text string
		asks       bool
	}{
		"fiscal years":                  {"raw/Lakes.csv", rows("Year", april+" Jan Feb Mar"), true},
		"fiscal years by their header":  {"raw/Lakes.csv", rows("FY", april), true},
		"years of the calendar":         {"raw/Lakes.csv", rows("Year", "Jan Feb Mar "+april), false},
		"a branch that began in April":  {"raw/Lakes.csv", rows("Year", april, "Jan Feb Mar "+april), false},
		"years that no word calls so":   {"raw/Lakes.csv", rows("Y", "Jan Feb Mar "+april), false},
		"months and fiscal years apart": {"raw/Lakes FY2024 Apr.csv", "Branch,Amount\nHolm,1.50\n", true},
		"months and years apart":        {"raw/Lakes 2024 Apr.csv", "Branch,Amount\nHolm,1.50\n", false},
	} {
		files := map[string]string{c.file: c.text}
		if strings.Contains(c.file, "Apr") {
			files[strings.Replace(c.file, "Apr", "May", 1)] = c.text + "Lowe,7.25\n"
		}
		r, err := drafted(t, "region,month,branch,amount", files)
		require.NoError(t, err, name)
		asks := slices.ContainsFunc(r.Open, func(o string) bool { return strings.Contains(o, "one year would be") })
		require.Equal(t, c.asks, asks, "%s\n%s", name, r.Text)
	}
}

// Numbers of months in a fiscal year may begin in any month of the calendar; what the question says makes months of them.
func TestNumbersOfFiscalYears(t *testing.T) {
	numbers := ofMonths(12, func(m int) string { return fmt.Sprint(m) })
	var rows strings.Builder
	rows.WriteString("Branch,Product,Month,Amount\n")
	for m := 1; m <= 12; m++ {
		fmt.Fprintf(&rows, "Quay,Oar,%d,%d.5\n", m, m)
	}
	for name, text := range map[string]string{
		"Lakes_FY2024": across(0, numbers...), "Lakes FY2024": rows.String(), "FY2024/Lakes": rows.String(),
	} {
		files := map[string]string{"raw/" + name + ".csv": text}
		r, err := drafted(t, "region,branch,product,month,amount", files)
		require.NoError(t, err)
		require.Contains(t, strings.Join(r.Open, "\n"), "are numbers in a fiscal year", "%s\n%s", name, r.Text)
		lines := strings.Split(r.Text, "\n")
		for i, line := range lines {
			switch {
			case strings.HasPrefix(line, "rows: "):
				lines[i] = ""
			case strings.HasPrefix(line, "  month:"):
				lines[i] = `  month: { is: month, write: "{began}-{m}" }`
			case strings.HasPrefix(line, "  mon:"):
				headers := ""
				if strings.Contains(line, "headers") {
					headers = "headers: [Month], "
				}
				lines[i] = "  mon: { is: whole, " + headers + "keep: no }\n" +
					`  m: { is: whole, formula: "if(mon <= 9, mon + 3, mon - 9)", keep: no }` + "\n" +
					`  began: { is: year, formula: "if(mon <= 9, year - 1, year)", keep: no }`
			}
		}
		out, s := built(t, strings.Join(lines, "\n"), files)
		require.Empty(t, s.Problems, strings.Join(lines, "\n"))
		require.Equal(t, "Lakes,Quay,Oar,2023-04,1.5", out[0])
		require.Equal(t, "Lakes,Quay,Oar,2024-03,12.5", out[11])
	}
	r, err := drafted(t, "region,branch,product,month,amount", map[string]string{"raw/Lakes_2024.csv": across(0, numbers...)})
	require.NoError(t, err)
	require.Empty(t, r.Open, r.Text)
}
