package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Rows of averages, of the year before, of differences and of parts of others are left out, by the column of their label.
func TestRowsBesideOthers(t *testing.T) {
	const header, parts, columns = "Branch,Month,Amount\n", "Holm,2024-01,30.75\nSaltby,2024-02,12.85\n", "region,branch,month,amount"
	for _, more := range []string{"Average,,21.80\n", "Total,,43.60\nVorjahr,,41.00\nAbweichung,,2.60\n", "of which online,2024-02,2.50\n",
		"davon Pier,2024-02,2.50\n", "Max,,30.75\nMin,,12.85\n",
		"Highest,,30.75\nLowest,,12.85\n", "Ø,,21.80\n", "Number of rows,,2\n"} {
		r, err := drafted(t, columns, map[string]string{"raw/Lakes.csv": header + parts + more})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s%v\n%s", more, r.Problems, r.Text)
		require.Equal(t, 2, r.Rows, more)
		require.Contains(t, r.Text, "only: ")
		require.Contains(t, r.Columns[1].Evidence, "are left out")
	}
	for _, more := range []string{"Max,2024-01,30.75\n", "Counter,2024-01,30.75\n", "Meanwhile,2024-01,30.75\n", "Py,2024-01,1.00\n"} {
		r, err := drafted(t, columns, map[string]string{"raw/Lakes.csv": header + parts + more})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s%v\n%s", more, r.Problems, r.Text)
		require.Equal(t, 3, r.Rows, more)
		require.NotContains(t, r.Text, "only: ")
	}

	// A book that came with the extracts knows better; what may be the name of a thing is a question, and a label need not be asked for.
	r, err := drafted(t, columns, map[string]string{"raw/Lakes.csv": header + parts + "Average,2024-01,1.00\n",
		"names/branch.csv": "seen,standard\nHolm,Holm\nSaltby,Saltby\nAverage,Average\n"})
	require.NoError(t, err)
	require.Equal(t, 3, r.Rows, r.Text)
	r, err = drafted(t, "region,month,amount", map[string]string{"raw/Lakes.csv": header + parts + "Average,2024-01,40.00\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Equal(t, 2, r.Rows)
	require.Contains(t, r.Text, "only: \"=not (branch = 'Average')\"")
	r, err = drafted(t, columns, map[string]string{"raw/Lakes.csv": header + parts + "Budget,2024-01,40.00\n"})
	require.NoError(t, err)
	require.Contains(t, r.Missing, "amount", r.Text)
	require.Contains(t, strings.Join(r.Open, "\n"), "rows of Budget in Branch may be no sales")
}

// Taxes, shares and balances among labels may be no sales; other labels that begin like these are none.
func TestMayBeNoSales(t *testing.T) {
	for _, label := range []string{"VAT", "VAT 19%", "MwSt. 7 %", "Share of coast", "Opening balance", "Saldo", "Budget", "Budget 2024",
		"Head office costs", "Allgemeine Kosten"} {
		require.True(t, mayBeNoSales(label), label)
	}
	for _, label := range []string{"Tax Free Shop", "Plan Bay", "Opening Quay", "Budget Line", "Vatersay", ""} {
		require.False(t, mayBeNoSales(label), label)
	}
}

// Marks in a column of remarks say which rows were planned.
func TestMarksOfPlans(t *testing.T) {
	for mark, asked := range map[string]bool{"forecast": true, "delivered as planned": false, "late": false} {
		r, err := drafted(t, "region,month,amount", map[string]string{"raw/Lakes.csv": "Month,Amount,Note\nJan 2024,19.45,\nFeb 2024,28.50,\n" +
			"Mar 2024,30.00," + mark + "\n"})
		require.NoError(t, err)
		require.Equal(t, asked, r.Exit != 0, "%s\n%s", mark, r.Text)
	}
}

// A column of signs says which rows count against the others.
func TestColumnOfSigns(t *testing.T) {
	r, err := drafted(t, "region,branch,month,amount", map[string]string{
		"raw/Lakes.csv": "Branch,Month,Sign,Amount\nHolm,2024-01,+,30.75\nSaltby,2024-02,+,12.85\nSaltby,2024-03,-,2.85\n"})
	require.NoError(t, err)
	require.NotZero(t, r.Exit)
	require.Contains(t, strings.Join(r.Open, "\n"), "Sign says what the figures of a row are (+, -)")
}

// Names of columns and labels as formulas have them.
func TestInFormulas(t *testing.T) {
	require.Equal(t, "'of which Holm''s'", textInFormula("of which Holm's"))
	require.Equal(t, "{größe}", nameInFormula("größe"))
	require.Equal(t, "branch", nameInFormula("branch"))
}

// A table whose title says that it was planned is left aside, where others are not; a title that says more is none.
func TestPlansByTheirTitle(t *testing.T) {
	const header = "Branch,Month,Amount\n"
	for title, aside := range map[string]bool{"Budget 2024": true, "Plan": true, "Target": true, "Plan Bay": false,
		"Sales against budget": false} {
		r, err := drafted(t, "region,branch,month,amount", map[string]string{"raw/Lakes.csv": header + "Holm,2024-01,30.75\n",
			"raw/Skerries.csv": title + "\n\n" + header + "Pier,2024-01,40.00\nQuay,2024-02,12.00\n"})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %v\n%s", title, r.Problems, r.Text)
		require.Equal(t, map[bool]int{true: 1, false: 3}[aside], r.Rows, title)
	}
}

// Lines of dashes and marks of pages are no labels: their rows are filtered, and no blank below takes them for its own.
func TestMarksBetweenRows(t *testing.T) {
	rows := "Branch,Product,Jan 2024,Feb 2024\nHolm,Oar,30.75,1.50\nHolm,Buoy,12.85,2.50\n-----,---,---,---\nPier,Oar,7.25,3.50\n" +
		"Pier,Buoy,1.15,4.50\n"
	r, err := drafted(t, "branch,product,month,amount", map[string]string{"raw/a.csv": rows})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Equal(t, 8, r.Rows, r.Text)
	first := strings.NewReplacer("Holm,Buoy", ",Buoy", "Pier,Buoy", ",Buoy", "Pier,Oar", ",Lamp").Replace(rows) // the branch is that above
	r, err = drafted(t, "branch,product,month,amount", map[string]string{"raw/a.csv": first})
	require.NoError(t, err)
	require.NotZero(t, r.Exit, r.Text)
	require.Contains(t, strings.Join(r.Open, "\n"), "blanks would take the value above, which is -----")
}
