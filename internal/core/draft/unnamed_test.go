package draft

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// Remarks beside a table are left aside, unless they say something of the figures, or a row has gone out of its columns.
func TestRemarksBesideTables(t *testing.T) {
	const columns = "region,branch,product,amount"
	file := func(rows string) map[string]string {
		return map[string]string{"raw/Lakes.csv": "Branch;Product;Amount;Clerk\nHolm;Buoy;10.50;Ann\nHolm;Oar;23.45;Bo\n" + rows +
			"Saltby;Oar;7.10;Bo\n"}
	}
	for _, c := range []struct{ name, rows, others string }{
		{"a remark", "Saltby;Buoy;6.90;Ann;;checked\n", `others: [Clerk, F]`},
		{"beside nothing", "Saltby;Buoy;n/a;Ann;;checked\n", `others: [Clerk, F]`},
		{"one of money", "Saltby;Buoy;6.90;Ann;;USD\n", ""},
		{"one of a cancelled row", "Saltby;Buoy;6.90;Ann;;storniert\n", ""},
		{"a figure", "Saltby;Buoy;6.90;Ann;;12\n", ""},
		{"a delimiter that is not in quotes", "Saltby;Buoy;red;6.90;Ann\n", ""},
		{"one behind a number", "Saltby;Oil; 5;6.90;Ann\n", ""},
		{"many", "Saltby;Buoy;6.90;Ann;;checked\nSaltby;Jib;6.90;Ann;;seen\nSaltby;Sail;6.90;Ann;;seen\nSaltby;Rope;6.90;Ann;;seen\n", ""},
	} {
		r, err := drafted(t, columns, file(c.rows))
		require.NoError(t, err, c.name)
		if c.others != "" {
			require.Contains(t, r.Text, c.others+`  # F: remarks beside the table, such as "checked"`, c.name)
			require.Zero(t, r.Exit, c.name)
			require.Equal(t, 4, r.Rows)
		} else {
			require.NotZero(t, r.Exit, "%s\n%s", c.name, r.Text)
			require.NotContains(t, r.Text, "remarks beside", c.name)
		}
	}
	r, err := drafted(t, columns, map[string]string{
		"raw/Lakes.csv": "Branch,Product,,Amount\nHolm,Buoy,,10.50\nHolm,Oar,seen,23.45\nSaltby,Buoy,,6.90\n"})
	require.NoError(t, err)
	require.Contains(t, r.Text, `# C: remarks beside the table, such as "seen"`, "between columns")
	require.Zero(t, r.Exit)

	r, err = drafted(t, columns, map[string]string{"raw/Lakes.csv": "Branch;Product;Amount;Day;Clerk\nHolm;Buoy;10.50;2024-01-03;Ann\n" +
		"Holm;Oar;23.45;2024-01-04;Bo\nSaltby;Oil; 5;6.90;2024-01-05;Ann\nSaltby;Oar;7.10;2024-01-06;Bo\n"})
	require.NoError(t, err)
	require.NotZero(t, r.Exit, "a number where days stand: %s", r.Text)
}

// Net, or gross, is no better a name for an amount than one with a unit, or figures that only their currency names.
func TestNetBesideAnAmount(t *testing.T) {
	for _, header := range []string{"Amount €", "Amount in EUR", "Q9 in EUR", "Q9"} {
		r, err := drafted(t, "region,month,revenue", map[string]string{
			"a.csv": "Region,Month,Net," + header + "\nLakes,2024-01,30.50,1.25\nWick,2024-02,50.50,2.25\n"})
		require.NoError(t, err)
		require.Equal(t, []string{"revenue"}, r.Missing)
		require.Contains(t, r.Text, "revenue may be Net or "+header)
	}
}
