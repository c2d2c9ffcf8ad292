package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Tables that are called as others are, but for a word, and have their labels: of no sales they are left aside, of anything else they
// are a question, wherever the word stands.
func TestRivals(t *testing.T) {
	table := func(region, name, amounts string) (file, text string) {
		a := strings.Fields(amounts)
		return "raw/" + strings.ReplaceAll(name, "Lakes", region), "Branch,Month,Amount\n" + region + " Holm,2024-01," + a[0] + "\n" +
			region + " Pier,2024-02," + a[1] + "\n" + region + " Quay,2024-02," + a[2] + "\n"
	}
	words := map[string]bool{"Cost": true, "Einkauf": true, "Stock": true, "Budget": true,
		"Freight": false, "Prior": false, "Orders": false, "Returns": false, "Late bookings": false}
	for _, where := range []string{"Lakes WORD 2024.csv", "WORD Lakes 2024.csv", "WORD/Lakes 2024.csv", "Lakes/WORD 2024.csv",
		"LakesWORD2024.csv"} {
		for word, aside := range words {
			for _, columns := range []string{"region,branch,month,amount", ""} {
				files := map[string]string{}
				for _, region := range []string{"Lakes", "Skerries"} {
					file, text := table(region, strings.ReplaceAll(where, "WORD", "Sales"), "30.75 12.85 1.15")
					files[file] = text
					file, text = table(region, strings.ReplaceAll(where, "WORD", word), "18.20 7.05 0.66")
					files[file] = text
				}
				r, err := drafted(t, columns, files)
				require.NoError(t, err)
				require.Equal(t, aside, r.Exit == 0 && len(r.Missing) == 0, "%s %s\n%s\n%v", where, word, r.Text, r.Open)
				if aside {
					require.Equal(t, 6, r.Rows, r.Text)
				}
			}
		}
	}
}

// What a title says more than another one, and two words for each region, are questions; words that places begin with, other times and
// other labels are none.
func TestRivalsByOtherWords(t *testing.T) {
	const rows, sums = "Branch,Month,Amount\nHolm,2024-01,30.75\nPier,2024-02,12.85\n", "Branch,Amount\nHolm,30.75\nPier,12.85\n"
	other := strings.NewReplacer("30.75", "18.20", "12.85", "7.05").Replace(rows)
	for _, test := range []struct {
		files map[string]string
		asked string
	}{
		{map[string]string{"a1.csv": "Lakes sales\n\n" + rows, "a2.csv": "Lakes levies\n\n" + other},
			"a1.csv, and its title with levies besides"},
		{map[string]string{"Lakes_Trade.csv": rows, "Lakes_Web.csv": other}, ""},
		{map[string]string{"Lakes_Trade.csv": rows, "Lakes_Web.csv": other, "Holm_Trade.csv": rows, "Holm_Web.csv": other},
			"and its name with trade for web"},
		{map[string]string{"Lakes.csv": rows, "North Lakes.csv": other}, ""},
		{map[string]string{"Lakes.csv": rows, "Lakes late.csv": strings.ReplaceAll(other, "2024", "2025")}, ""},
		{map[string]string{"Lakes.csv": rows, "Lakes late.csv": strings.NewReplacer("Holm", "Wick", "Pier", "Lowe").Replace(other)}, ""},
		{map[string]string{"Lakes.csv": rows, "Lakes late.csv": other}, "Lakes.csv, and its name with late besides"},
		{map[string]string{"Skerries 2024.csv": rows, "Lakes cost 2024.csv": other}, "may have no sales, by its name"},
		{map[string]string{"Lakes YTD 2024-01.csv": sums, "Lakes YTD 2024-02.csv": sums + "Lowe,3\n"}, "has sums of all months so far"},
		{map[string]string{"Lakes YTD 2024.csv": rows, "Holm YTD 2024.csv": other}, ""},
		{map[string]string{"Lakes.csv": "Average takings a day\n\n" + rows}, "has averages, by its name or title"},
		{map[string]string{"Skerries 2024.csv": rows, "Price Street 2024.csv": other}, ""},
	} {
		r, err := drafted(t, "region,branch,month,amount", test.files)
		require.NoError(t, err)
		open := strings.Join(r.Open, "\n")
		require.Contains(t, open, test.asked, r.Text)
		require.Equal(t, test.asked != "", strings.Contains(open, "a build stops") || strings.Contains(open, "A build stops"), open)
		require.False(t, test.asked != "" && r.Exit == 0, r.Text)
	}
}

// Files that are left aside by a word in their names are excepted, so that the next year's are read, and these are not.
func TestExceptNoSales(t *testing.T) {
	const rows = "Branch,Month,Amount\nHolm,2024-01,30.75\nPier,2024-02,12.85\n"
	files := map[string]string{}
	for _, region := range []string{"Lakes", "Tarn"} {
		for _, word := range []string{"", " Cost", " Budget"} {
			files["raw/"+region+word+" 2024.csv"] = strings.ReplaceAll(rows, "Holm", region+" Holm")
		}
	}
	r, err := drafted(t, "region,branch,month,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
	require.Equal(t, 4, r.Rows, r.Text)
	require.Contains(t, r.Text, `files: "raw/* 20*.csv"`)
	require.Contains(t, r.Text, `except: ["raw/* Budget *", "raw/* Cost *"]`)
	for name, glob := range map[string]string{"Lakes_Cost.csv": "*_Cost.*", "LakesCost2024.csv": "*[a-z]Cost[0-9]*", "Costa Bay 2024.csv": "",
		"Cost 2024.csv": "Cost *", "2024-COST-Tarn.csv": "*-COST-*"} {
		require.Equal(t, glob, wordGlob(name), name)
	}
}
