package draft

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A file that sums up others is left aside, by its name or by its figures; one that only might is not.
func TestFilesThatSumUp(t *testing.T) {
	table := func(of func(i int) int) string {
		text := "Month,Product,Amount\n"
		for i := range 12 {
			text += fmt.Sprintf("2024-%02d,%s,%d.%02d\n", 1+i/2, []string{"Buoy", "Oar"}[i%2], of(i)/100, of(i)%100)
		}
		return text
	}
	lakes, wick := func(i int) int { return 12_345 + 677*i }, func(i int) int { return 4_321 + 99*i*i }
	both := table(func(i int) int { return lakes(i) + wick(i) })
	for _, test := range []struct {
		name, text string
		rows       int
	}{
		{"All coasts 2024", both, 24}, {"Gesamt", both, 24}, {"Sales overview", table(lakes), 24},
		{"Firth", both, 24}, {"All Weather", table(wick), 36},
	} {
		r, err := drafted(t, "region,month,product,amount", map[string]string{"raw/Lakes.csv": table(lakes), "raw/Wick.csv": table(wick) + "\n",
			"raw/" + test.name + ".csv": test.text + "\n\n"})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %v", test.name, r.Problems)
		require.Equal(t, test.rows, r.Rows, test.name)
		aside := 0
		for _, f := range r.Files {
			if f.As == "left aside" {
				require.Contains(t, f.File, test.name)
				aside++
			}
		}
		require.Equal(t, 3-test.rows/12, aside, test.name)
	}
}

// A file that is called after all, but has labels or months of its own, is one of several.
func TestFilesOfAllOthers(t *testing.T) {
	const header = "Region,Month,Product,Amount\n"
	rows := func(region, month string) string {
		return fmt.Sprintf("%[1]s,%[2]s-01,Buoy,10.50\n%[1]s,%[2]s-01,Oar,20.25\n%[1]s,%[2]s-02,Buoy,31.75\n", region, month)
	}
	for _, c := range []struct {
		all  string
		rows int
	}{{rows("All coasts", "2024"), 6}, {rows("Total", "2024"), 6},
		{rows("Holm", "2024"), 9}, {rows("Lakes", "2023"), 9}, {rows("Lakes", "2024") + rows("Wick", "2024"), 6}} {
		r, err := drafted(t, "region,month,product,amount", map[string]string{"raw/branch sales.csv": header + rows("Lakes", "2024"),
			"raw/agents.csv": header + rows("Wick", "2024"), "raw/all_sales.csv": header + c.all})
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
		require.Equal(t, c.rows, r.Rows, r.Text)
	}
}

// Files that are called controls or plans by a part of a word are none; others that have their own labels are asked about.
func TestFilesCalledControlsAndPlans(t *testing.T) {
	const header = "Branch,Month,Product,Amount\n"
	lakes := header + "Holm,2024-01,Oar,30.50\nHolm,2024-02,Oar,41.75\nPier,2024-01,Buoy,7.10\n"
	other := header + "Mere,2024-01,Oar,12.50\nMere,2024-02,Oar,91.75\nLowe,2024-01,Buoy,7.70\n"
	for name, asks := range map[string]string{"Checkout": "", "Planters Quay": "", "Check Bay": "is called a control",
		"Budget Marine": "its name may say that it was planned, but no other table has its labels"} {
		r, err := drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": lakes, "raw/" + name + ".csv": other})
		require.NoError(t, err)
		if asks != "" {
			require.Contains(t, strings.Join(r.Open, "\n"), asks)
			require.True(t, r.Exit != 0 || len(r.Missing) > 0, name)
			continue
		}
		require.Zero(t, r.Exit, "%s: %v", name, r.Problems)
		require.Equal(t, 6, r.Rows, name)
	}
	const across = "Branch,Product,2024-01,2024-02\n"
	r, err := drafted(t, "region,branch,month,product,amount", map[string]string{
		"raw/Lakes.csv":        across + "Holm,Oar,30.50,41.75\nPier,Buoy,7.10,8.20\n",
		"raw/Stock Island.csv": across + "Mere,Oar,1.50,4.75\nLowe,Jib,7.70,8.80\n"})
	require.NoError(t, err)
	require.Contains(t, strings.Join(r.Open, "\n"), "raw/Stock Island.csv: its name may say that it has no sales, but no other table has its")
	r, err = drafted(t, "region,branch,month,product,amount", map[string]string{"raw/Lakes.csv": lakes,
		"raw/Lakes budget.csv": strings.ReplaceAll(lakes, "0.50", "1.50")})
	require.NoError(t, err)
	require.Zero(t, r.Exit)
	require.Equal(t, 3, r.Rows)
}

// A file that is called after all is the sum of one other, too, whatever its labels are.
func TestFileOfAllBesideOne(t *testing.T) {
	const one, all = "Month,Product,Amount\n2024-01,Buoy,1110.51\n2024-01,Oar,2220.25\n2024-02,Buoy,3331.70\n",
		"Month,Product,Amount\n2024-01,Floats,3330.76\n2024-02,Floats,3331.70\n"
	for name, rows := range map[string]int{"all_sales": 3, "Holm": 5} {
		r, err := drafted(t, "month,product,amount", map[string]string{"raw/branch sales.csv": one, "raw/" + name + ".csv": all})
		require.NoError(t, err)
		require.Zero(t, r.Exit, r.Text)
		require.Equal(t, rows, r.Rows, r.Text)
	}
}

// Exports of two months of the same name that say the same rows otherwise are asked about, however many were mended; two
// tills are added up.
func TestExportsOfTwoMonths(t *testing.T) {
	rows := func(cents int) string {
		return fmt.Sprintf("Month,Product,Amount\n2024-01,Buoy,10.%d\n2024-01,Oar,20.%d\n2024-02,Buoy,30.%d\n", cents, cents, cents)
	}
	for names, asks := range map[[2]string]bool{{"Lakes 2024-02.csv", "Lakes 2024-03.csv"}: true,
		{"Lakes_20240229.csv", "Lakes_20240331.csv"}: true, {"Lakes till 1.csv", "Lakes till 2.csv"}: false} {
		r, err := drafted(t, "month,product,amount", map[string]string{names[0]: rows(50), names[1]: rows(75)})
		require.NoError(t, err)
		require.Equal(t, asks, r.Exit != 0, "%v\n%s", names, r.Text)
		require.Equal(t, asks, strings.Contains(r.Text, "two versions of one table"), names)
	}
	r, err := drafted(t, "region,product,amount", map[string]string{"Lakes 2024-02.csv": "Product,Amount\nBuoy,1.50\nOar,2.50\n",
		"Lakes 2024-03.csv": "Product,Amount\nBuoy,3.50\nOar,4.50\n"})
	require.NoError(t, err)
	require.Zero(t, r.Exit, "of no time: %s", r.Text)
	require.Equal(t, 4, r.Rows)
}

// A file that says most of what another one says, and some of it otherwise, is asked about: they are not added up.
func TestLaterExports(t *testing.T) {
	const rows = "2024-01,Buoy,10.50\n2024-01,Oar,20.25\n2024-02,Buoy,30.75\n"
	for later, want := range map[string]int{
		rows + "2024-03,Buoy,1.50\n":                                            4,  // all of the other
		strings.Replace(rows, "20.25", "21.25", 1) + "2024-03,Buoy,1.50\n":      -1, // some mended
		"2024-01,Buoy,7.50\n2024-01,Oar,20.25\n2024-02,Buoy,3.75\n":             6,  // of a branch that is not asked for
		"2024-01,Buoy,7.50\n2024-01,Oar,2.25\n2024-02,Buoy,3.75\n":              6,
		strings.Replace(rows, "2024-0", "2023-0", 3) + "2023-03,Buoy,1.50\n":    7,
		strings.ReplaceAll(rows, "Buoy", "Rope") + rows + "2024-03,Oar,99.99\n": 6,
	} {
		const header = "Month,Product,Amount\n"
		r, err := drafted(t, "month,product,amount", map[string]string{"a.csv": header + rows, "b.csv": header + later})
		require.NoError(t, err)
		if want < 0 {
			require.NotZero(t, r.Exit)
			require.Contains(t, r.Text, "b.csv has rows that stand in another file too")
			continue
		}
		require.Zero(t, r.Exit, "%s\n%s", later, r.Text)
		require.Equal(t, want, r.Rows, "%s\n%s", later, r.Text)
	}
}

// A file that sums up some of the others is a question, whether labels say which these are or only its sum does; one that does not quite
// is none.
func TestSumsOfSome(t *testing.T) {
	for _, test := range []struct {
		header, columns string
		labels          []string // by region
	}{
		{"Branch,Month,Amount\n", "region,branch,month,amount", []string{"Mill", "Pier", "Quay", "Holm"}},
		{"Product,Month,Amount\n", "region,month,product,amount", []string{"Oar", "Oar", "Oar", "Oar"}},
	} {
		for amount, asked := range map[string]bool{"215.55": true, "215.56": false} {
			files := map[string]string{}
			row := func(k int, amount string) string { return test.labels[k] + ",2024-01," + amount + "\n" }
			for k, region := range []string{"Lakes", "Skerries", "Holm", "Tarn"} {
				files["raw/"+region+" 2024.csv"] = test.header + row(k, "1"+strconv.Itoa(k)+"15.55") + row(k, "3.2"+strconv.Itoa(k))
			}
			files["raw/Mainland 2024.csv"] = test.header + row(1, "1115.55") + row(1, "3.21") + row(3, "1"+amount) + row(3, "103.23")
			r, err := drafted(t, test.columns, files)
			require.NoError(t, err)
			open := strings.Join(r.Open, "\n")
			require.Equal(t, asked, strings.Contains(open, "Mainland 2024.csv has the sums of some of the other tables"), "%s\n%s", r.Text, open)
			require.Equal(t, asked, r.Exit != 0 || len(r.Missing) > 0, r.Text)
		}
	}
}
