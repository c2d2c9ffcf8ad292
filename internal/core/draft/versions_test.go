package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Two tables of which most rows are of one grain are two versions of one, or asked about, whatever they are called and though other
// figures stand in them; tills, and rows that a label left aside tells apart, are none.
func TestVersionsByTheirRows(t *testing.T) {
	const rows = "Branch,Month,Amount\nHolm,2024-01,30.75\nPier,2024-01,12.85\nQuay,2024-01,1.15\nMill,2024-01,7.25\n"
	other := strings.NewReplacer("30.75", "31.15", "12.85", "13.05", "1.15", "1.25", "7.25", "7.55").Replace(rows)
	desk := func(text, name string) string {
		return strings.ReplaceAll(strings.ReplaceAll(text, "\n", ","+name+"\n"), "Amount,"+name, "Amount,Desk")
	}
	for _, test := range []struct {
		files map[string]string
		asked string
	}{
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/old/Lakes 2024.csv": other}, "most of their rows are of one grain"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/Lakes 2024.txt": other}, "two versions of one"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/Lakes 2024.txt": rows + "Lowe,2024-01,3.75\nLowe,2024-01,4.75\n"},
			"two versions of one"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/2024 Lakes.csv": other}, "its name but for words that say nothing"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/Copy of Lakes 2024.csv": other}, "its name but for words that say nothing"},
		{map[string]string{"raw/till 1.csv": rows, "raw/till 2.csv": other}, ""},
		{map[string]string{"raw/a.csv": desk(rows, "east desk"), "raw/b.csv": desk(other, "west desk")}, ""},
		{map[string]string{"raw/Lakes A.csv": rows, "raw/Lakes B.csv": other}, ""},
	} {
		columns := "branch,month,amount"
		if strings.Contains(test.asked, "name") {
			columns = "region," + columns
		}
		r, err := drafted(t, columns, test.files)
		require.NoError(t, err)
		open := strings.Join(r.Open, "\n")
		require.Contains(t, open, test.asked, "%v\n%s", test.files, r.Text)
		require.Equal(t, test.asked != "", r.Exit != 0, "%v\n%s", test.files, r.Text)
		require.Equal(t, test.asked != "", strings.Contains(open, "uild stops"), open)
	}
}
