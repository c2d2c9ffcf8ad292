package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A date may stand in three columns, with the month by its name or number.
func TestDatesInThreeColumns(t *testing.T) {
	for _, c := range []struct{ heads, row string }{
		{"Year,Month,Day", "2024,3,17"},
		{"Day,Month,Year", "17,3,2024"}, {"Jahr,Monat,Tag", "2024,März,17"}, {"Year,Month,Day of month", "2024,Mar,17"},
	} {
		other := strings.NewReplacer("17", "5", "März", "Mai", "Mar", "May", ",3,", ",5,").Replace(c.row)
		text := "Branch,Product," + c.heads + ",Amount\nQuay,Oar," + c.row + ",1.5\nPier,Rope," + other + ",2.5\nPier,Oar," + c.row + ",3.5\n"
		rows, r := rowsOf(t, "region,branch,product,date,amount", map[string]string{"raw/Lakes.csv": text, "raw/Skerries.csv": text + "\n"})
		require.Len(t, rows, 6, r.Text)
		require.Equal(t, "Lakes,Quay,Oar,2024-03-17,1.5", rows[0], r.Text)
		require.Equal(t, "Lakes,Pier,Rope,2024-05-05,2.5", rows[1])
		one := map[string]string{"raw/Lakes.csv": text}
		rows, r = rowsOf(t, "region,branch,product,month,date,amount", one)
		require.Equal(t, "Lakes,Quay,Oar,2024-03,2024-03-17,1.5", rows[0], r.Text)
	}
	// A shop's number, or days of no known month, are none.
	for _, heads := range []string{"Year,Month,Shop no.", "Year,Store,Day", "Season,Month,Day"} {
		text := "Branch,Product," + heads + ",Amount\nQuay,Oar,2024,3,17,1.5\nPier,Rope,2024,5,5,2.5\n"
		rows, r := rowsOf(t, "region,branch,product,date,amount", map[string]string{
			"raw/Lakes.csv": strings.Replace(text, "Season", "Season no.", 1)})
		if heads != "Season,Month,Day" {
			require.Nil(t, rows, "%s\n%s", heads, r.Text)
		}
	}
}

// Days stand across in tables of one month each, which their names say; the last of them may end today.
func TestDaysAcross(t *testing.T) {
	days := func(n int) (out []string) {
		for d := 1; d <= n; d++ {
			out = append(out, fmt.Sprint(d))
		}
		return out
	}
	files := map[string]string{"raw/Lakes_2024-01.csv": across(0, days(31)...), "raw/Lakes_2024-02.csv": across(1, days(29)...),
		"raw/Skerries_2024-01.csv": across(2, days(31)...), "raw/Skerries_2024-02.csv": across(3, days(12)...)}
	rows, r := rowsOf(t, "region,branch,product,date,amount", files)
	require.Len(t, rows, 2*(31+29+31+12), r.Text)
	require.Equal(t, "Lakes,Quay,Oar,2024-01-01,1.5", rows[0])
	require.Equal(t, "Skerries,Pier,Rope,2024-02-12,15.5", rows[len(rows)-1])
	rows, r = rowsOf(t, "region,branch,product,month,date,amount", files)
	require.Equal(t, "Lakes,Quay,Oar,2024-01,2024-01-01,1.5", rows[0], r.Text)
	rows, r = rowsOf(t, "region,branch,product,month,amount", files) // of which nobody wants more than the month
	require.Len(t, rows, 2*(31+29+31+12), r.Text)
	require.Equal(t, "Lakes,Quay,Oar,2024-01,1.5", rows[0], r.Text)
	goods := "Branch,Oar,Rope,Buoy\nMole,1.25,2.25,3.25\nDock,4.25,5.25,6.25\n" // beside products, which are none
	rows, r = rowsOf(t, "region,branch,product,month,amount", map[string]string{"a/Lakes_2024-01.csv": across(0, days(31)...),
		"b/Wick_2024-01.csv": goods, "c/Firth_2024-02.csv": across(1, days(29)...)})
	require.Len(t, rows, 2*(31+29)+6, "%s%v", r.Text, r.Open)
	require.Contains(t, rows, "Wick,Mole,Buoy,2024-01,3.25")
	blank := strings.ReplaceAll(strings.Replace(across(1, days(29)...), ",29\n", ",29,30,31\n", 1), ".5\n", ".5,,\n")
	rows, r = rowsOf(t, "region,branch,product,month,amount", map[string]string{
		"raw/Lakes_2024-01.csv": across(0, days(31)...), "raw/Lakes_2024-02.csv": blank})
	require.Len(t, rows, 4*31, "%s%v", r.Text, r.Open)
	// Thirty days are none of February, and shops beside a month none of its days.
	rows, r = rowsOf(t, "region,branch,product,date,amount", map[string]string{
		"raw/Lakes_2024-02.csv": across(0, days(30)...), "raw/Skerries_2024-02.csv": across(1, days(29)...)})
	require.Nil(t, rows, r.Text)
	rows, r = rowsOf(t, "region,shop,branch,product,month,amount", map[string]string{"raw/Lakes_2024-01.csv": across(0, days(31)...)})
	require.Len(t, rows, 62, r.Text)
	require.Contains(t, r.Text, `header: "{shop}"`)
}
