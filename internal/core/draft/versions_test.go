package draft

import (
	"fmt"
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
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/old/Lakes 2024.csv": other}, "two versions of one table, by their names"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/Lakes 2024.txt": other}, "two versions of one"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/Lakes 2024.txt": rows + "Lowe,2024-01,3.75\nLowe,2024-01,4.75\n"},
			"two versions of one"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/2024 Lakes.csv": other}, "its name but for words that say nothing"},
		{map[string]string{"raw/Lakes 2024.csv": rows, "raw/Copy of Lakes 2024.csv": other}, "may be a version of it, by its name"},
		{map[string]string{"raw/Lakes_final.csv": rows, "raw/Lakes_final2.csv": other}, "may be a version of it, by its name"},
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

// What stands beside a file of all is none of its parts where its name says that it has other figures, or is a version of that: then the
// file of all stays, and the other is asked about. The same is asked of things that are called so, and of tables of the year before.
func TestBesideAFileOfAll(t *testing.T) {
	rows := "Branch,Month,Product,Amount\nHolm,2024-01,Oar,30.75\nPier,2024-01,Oar,12.85\nHolm,2024-02,Buoy,7.25\nPier,2024-02,Buoy,1.15\n"
	other := strings.ReplaceAll(strings.ReplaceAll(rows, ".75", ".50"), "12.", "11.")
	for name, want := range map[string]string{"all old": "two versions of one table", "all_v2": "two versions of one table",
		"all returns": "counts against what was sold", "Last year": "is of the year before", "Forecast": "", "all quotes": ""} {
		r, err := drafted(t, "branch,month,product,amount", map[string]string{"raw/all.csv": rows, "raw/" + name + ".csv": other})
		require.NoError(t, err)
		require.NotContains(t, r.Text, "files: "+name, r.Text)
		require.Equal(t, want == "", r.Exit == 0 && len(r.Missing) == 0, "%s\n%s", name, r.Text)
		require.Contains(t, strings.Join(r.Open, "\n"), want, "%s\n%s", name, r.Text)
		for _, f := range r.Files {
			require.False(t, f.File == "raw/all.csv" && f.As != "extract", "%s: %v", name, f)
		}
	}
	things := strings.ReplaceAll(rows, ",Product", "")
	things = strings.ReplaceAll(strings.ReplaceAll(things, ",Oar", ""), ",Buoy", "")
	for _, name := range []string{"Life Vest (2)", "Life Vest corrected", "Life Vest VAT", "Life Vest draft"} {
		r, err := drafted(t, "branch,month,product,amount", map[string]string{"raw/Life Vest.csv": things, "raw/Oar.csv": things + "\n",
			"raw/" + name + ".csv": strings.ReplaceAll(things, ".75", ".50")})
		require.NoError(t, err)
		require.NotZero(t, r.Exit, "%s\n%s", name, r.Text)
		require.Contains(t, strings.Join(r.Open, "\n"), "raw/"+name+".csv has the labels of raw/Life Vest.csv", r.Text)
	}
}

// Sheets that are left aside are not taken by the pattern that chooses the others.
func TestSheetsThatAPatternWouldTake(t *testing.T) {
	rows := "Branch,Month,Product,Amount\nHolm,%s-01,Oar,30.75\nPier,%[1]s-02,Oar,12.85\n"
	r, err := drafted(t, "branch,month,product,amount", map[string]string{"raw/Lakes.xlsx": sheets(map[string]string{
		"2023": fmt.Sprintf(rows, "2023"), "2024": fmt.Sprintf(rows, "2024"), "2024 budget": fmt.Sprintf(rows, "2024")})})
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Equal(t, 4, r.Rows, r.Text)
	require.Contains(t, r.Text, "except_sheets: [2024 budget]")
}

// Members of two archives that have one name are no versions of each other by that.
func TestMembersOfOneName(t *testing.T) {
	january, february := &sheet{file: "raw/2024-01.zip", member: "Lakes.csv"}, &sheet{file: "raw/2024-02.zip", member: "Lakes.csv"}
	require.NotEqual(t, january.folderWords(), february.folderWords())
	require.Equal(t, "Lakes 2024", withoutVersion("Copy of Lakes 2024 (2)"))
	require.Equal(t, "Lakes", withoutVersion("Lakes corrected backup"))
	require.Equal(t, "Old Slip", withoutVersion("Old Slip"))
}
