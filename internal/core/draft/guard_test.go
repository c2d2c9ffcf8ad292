package draft

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Where a currency that nobody asked for is the same everywhere, another one stops the build to come; blanks, and extracts
// that do not say it, are as they were.
func TestGuards(t *testing.T) {
	const rows = "Month,Currency,Amount\n2024-01,EUR,1.50\n2024-02,EUR,2.50\n"
	const more = "Month,Currency,Amount\n2024-01,EUR,3.50\n2024-02,,4.50\n"
	for _, test := range []struct {
		files map[string]string
		plan  []string
		never string
	}{
		{map[string]string{"Lakes.csv": rows, "Wick.csv": rows + "2024-03,EUR,5\n"},
			[]string{"currency: { keep: no }", `must: ["=coalesce(currency, 'EUR') = 'EUR'"]`}, "others"},
		{map[string]string{"Lakes.csv": rows, "Wick.csv": more},
			[]string{"currency: { blanks: leave, keep: no }", `must: ["=coalesce(currency, 'EUR') = 'EUR'"]`}, "Unassigned"},
		{map[string]string{"Lakes.csv": rows, "Wick.csv": "Amount;Month\n7,50;2024-01\n"},
			[]string{"absent: { currency: leave }", `must: ["=coalesce(currency, 'EUR') = 'EUR'"]`}, ""},
		{map[string]string{"Lakes.csv": "Month,Scenario,Remark,Amount\n2024-01,Actual,EUR was late,1.50\n2024-02,Actual,cash,2.50\n"},
			[]string{"others: drop ", `must: ["=coalesce(scenario, 'Actual') = 'Actual'"]`}, "remark"},
		{map[string]string{"Lakes.csv": "Month,Way of sale,Amount\n2024-01,Counter,1.50\n2024-02,Counter,2.50\n"}, nil, "must"},
	} {
		r, err := drafted(t, "region,month,amount", test.files)
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Empty(t, r.Open)
		for _, p := range test.plan {
			require.Contains(t, r.Text, p)
		}
		if test.never != "" {
			require.NotContains(t, r.Text, test.never)
		}
	}
	r, err := drafted(t, "", map[string]string{"Lakes.csv": rows})
	require.NoError(t, err)
	require.NotContains(t, r.Text, "must", "it is delivered")
}

// What figures are may differ from file to file: they are asked about as within one. Signs and codes of one currency are one.
func TestMixesOfFiles(t *testing.T) {
	for _, test := range []struct {
		header, lakes, wick string
		asks                bool
	}{
		{"Currency", "EUR", "GBP", true},
		{"Currency", "EUR", "€", false},
		{"Scenario", "Actual", "Budget", true},
		{"Kind", "Invoice", "Credit note", true},
		{"Kind", "Invoice", "Cash", false},
		{"Kind", "Paid", "Cancelled", true},
		{"Amount", "€1.50", "£2.50", true},
		{"Amount", "€1.50", "€2.50", false},
	} {
		file := func(says string) string {
			if test.header == "Amount" {
				return "Month,Amount\n2024-01," + says + "\n2024-02," + says + "\n"
			}
			return "Month," + test.header + ",Amount\n2024-01," + says + ",1.50\n2024-02," + says + ",2.50\n"
		}
		r, err := drafted(t, "region,month,amount", map[string]string{"Lakes.csv": file(test.lakes), "Wick.csv": file(test.wick)})
		require.NoError(t, err)
		require.Equal(t, test.asks, len(r.Open) > 0, "%v\n%s", test, r.Text)
		require.Equal(t, test.asks, r.Exit != 0, "%v", test)
	}
}

// Two columns that say what figures are, are asked about both, also beside one that a column takes.
func TestTwoMixes(t *testing.T) {
	const header = "Month,Product,Currency,Scenario,Amount\n"
	files := map[string]string{"Wick.csv": header + "2024-01,Buoy,GBP,Actual,1.50\n",
		"Lakes.csv": header + "2024-01,Buoy,EUR,Actual,1.50\n2024-01,Returns,EUR,Actual,2.00\n2024-02,Oar,EUR,Budget,3.00\n"}
	for columns, want := range map[string]int{"region,month,product,amount": 2, "region,month,product,scenario,amount": 1} {
		r, err := drafted(t, columns, files)
		require.NoError(t, err)
		require.Len(t, r.Open, want)
		require.NotZero(t, r.Exit)
	}
}

// What came back is not added to what was sold, and figures of the year before stand aside; a product may be called so.
func TestAgainstAcross(t *testing.T) {
	for header, want := range map[string]struct {
		figure string
		rows   int // -1 where it is asked about
	}{
		"Returns": {"12.50", -1}, "Gutschriften": {"12.50", -1}, "Refunds ": {"-12.50", 6}, "Last year": {"12.50", 4},
		"Return ticket": {"12.50", 6},
	} {
		r, err := drafted(t, "region,month,product,amount", map[string]string{"Lakes.csv": "Month,Buoy,Oar," + header + "\n2024-01,1.50,2.50," +
			want.figure + "\n2024-02,3.50,4.50," + want.figure + "1\n"})
		require.NoError(t, err)
		require.Equal(t, want.rows < 0, len(r.Open) > 0, "%s\n%s", header, r.Text)
		require.Equal(t, want.rows < 0, r.Exit != 0, "%s: %v", header, r.Problems)
		if want.rows > 0 {
			require.Equal(t, want.rows, r.Rows, header)
		}
	}
}

// A column that names one measure in one file and another one in another says what the cells of rows are; one that says
// whether a row was taken back is asked about.
func TestRowsSayWhatTheyAre(t *testing.T) {
	file := func(metric string) string {
		return "Month,Product,Metric,Value\n2024-01,Buoy," + metric + ",12\n2024-02,Buoy," + metric + ",13\n"
	}
	r, err := drafted(t, "region,month,product,amount", map[string]string{"Lakes.csv": file("Amount"), "Wick.csv": file("Units")})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Problems)
	require.Contains(t, r.Text, "widen: { header: Metric, cell: Value }")
	require.Contains(t, r.Text, "others: [Units]")
	r, err = drafted(t, "region,month,amount", map[string]string{"Lakes.csv": "Month,Void,Amount\n2024-01,no,12.50\n2024-02,yes,13.50\n"})
	require.NoError(t, err)
	require.NotZero(t, r.Exit)
	require.Contains(t, r.Text, "# ? *.csv: Void says")
}

// The month is when the span of a title or a name ends, and one that begins in another month stops the build; a period of one day is of
// its month. Other spans are no month.
func TestSpansOfMonths(t *testing.T) {
	table := func(line string, n int) string {
		return fmt.Sprintf("%sBranch,Product,Amount\nHolm,Oar,%d.50\nHolm,Net,%d.25\n", line, n, n+1)
	}
	const titles = `titles: "Period: {since} - {month}"`
	for _, c := range []struct {
		name         string
		files        map[string]string
		pattern      string
		guarded, all bool
	}{
		{"titles", map[string]string{"a.csv": table("Period: 01.01.2024 - 31.01.2024\n\n", 1),
			"b.csv": table("Period: 01.02.2024 - 29.02.2024\n\n", 2)}, titles, true, true},
		{"a day", map[string]string{"a.csv": table("Period: 31.01.2024\n\n", 1), "b.csv": table("Period: 29.02.2024\n\n", 2)},
			`titles: "Period: {month}"`, false, true},
		{"names", map[string]string{"Lakes_20240101-20240131.csv": table("", 1), "Holm_20240101-20240131.csv": table("", 2)},
			`path: "{region}_{since:digits}-{month}"`, true, true},
		{"some names", map[string]string{"x/Lakes_20240101-20240131.csv": table("", 1),
			"y/Holm.csv": "Month,Branch,Item,Amount\n2024-01,Holm,Oar,3.50\n"}, `must: ["=coalesce(since, month) = month"]`, true, true},
		{"quarters", map[string]string{"Lakes_20240101-20240331.csv": table("", 1), "Holm_20240101-20240331.csv": table("", 2)},
			`path: "{region}_20*-20*"`, false, false},
	} {
		r, err := drafted(t, "region,branch,month,product,amount", c.files)
		require.NoError(t, err)
		require.Contains(t, r.Text, c.pattern, c.name)
		require.Equal(t, c.guarded, strings.Contains(r.Text, "since = month") || strings.Contains(r.Text, "coalesce(since"), c.name)
		require.Equal(t, c.all, !slices.Contains(r.Missing, "month"), c.name)
	}
}
