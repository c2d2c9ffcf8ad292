package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A file that is another one in another order is a question, whatever region its name says; files of the same amounts with other labels
// are none.
func TestTwins(t *testing.T) {
	const header, columns = "Branch,Month,Amount\n", "region,branch,month,amount"
	one := "Holm,2024-01,30.75\nSaltby,2024-02,12.85\nPier,2024-02,1.15\n"
	other := "Pier,2024-02,1.15\nHolm,2024-01,30.75\nSaltby,2024-02,12.85\n"
	r, err := drafted(t, columns, map[string]string{"raw/Lakes.csv": header + one, "raw/Sorted list.csv": header + other})
	require.NoError(t, err)
	require.Contains(t, r.Missing, "amount", r.Text)
	require.Contains(t, strings.Join(r.Open, "\n"), "raw/Sorted list.csv has as many rows as raw/Lakes.csv, and the same sums")
	for _, unlike := range []string{strings.ReplaceAll(other, "2024-02", "2024-03"), strings.Replace(other, "Pier", "Quay", 1),
		strings.Replace(other, "1.15", "1.16", 1)} {
		r, err = drafted(t, columns, map[string]string{"raw/Lakes.csv": header + one, "raw/Skerries.csv": header + unlike})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Equal(t, 6, r.Rows)
	}
}

// Quotes, orders and invoices may be the same sale.
func TestStepsOfASale(t *testing.T) {
	for kinds, asked := range map[[2]string]bool{{"Order", "Quote"}: true, {"Rechnung", "Auftrag"}: true, {"Order", "Web order"}: false,
		{"Order", "Counter"}: false, {"Revenue", "Cost"}: true, {"Sales", "Cost of sales"}: true,
		{"Club", "Stock"}: false} {
		r, err := drafted(t, "region,branch,month,amount", map[string]string{"raw/Lakes.csv": "Branch,Month,Amount,Type\nHolm,2024-01,30.75," +
			kinds[0] + "\nSaltby,2024-02,12.85," + kinds[0] + "\nPier,2024-02,1.15," + kinds[1] + "\n"})
		require.NoError(t, err)
		require.Equal(t, asked, r.Exit != 0, "%v\n%s", kinds, r.Text)
	}
}

// Columns that say which rows were cancelled, rejected or tests are questions, however they say it.
func TestRowsThatWereNoSales(t *testing.T) {
	for cells, asked := range map[[4]string]bool{{"Status", "Paid", "Rejected", "Paid"}: true, {"Status", "Paid", "Open", "Paid"}: false,
		{"Phase", "Live", "Test", "Live"}: true, {"Kind", "Test kit", "Draft beer", "Lost cargo"}: false, {"Cancelled", "", "Y", ""}: true,
		{"Storno", "0", "1", "0"}: true, {"Cancelled on", "", "2024-02-03", ""}: true, {"Is test", "no", "yes", "no"}: true,
		{"Paid on", "", "2024-02-03", ""}: false, {"Product", "Draft", "Copy", "Test"}: false, {"Deleted", "no", "no", "no"}: false} {
		text := "Branch,Month,Amount," + cells[0] + "\nHolm,2024-01,30.75," + cells[1] + "\nSaltby,2024-01,12.85," + cells[2] +
			"\nPier,2024-01,1.15," + cells[3] + "\n"
		r, err := drafted(t, "region,branch,month,amount", map[string]string{"raw/Lakes.csv": text})
		require.NoError(t, err)
		require.Equal(t, asked, r.Exit != 0, "%v\n%s", cells, r.Text)
	}
}
