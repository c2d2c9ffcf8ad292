package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Tables of one kind below each other, each under a line that says what it is of.
func TestBlocks(t *testing.T) {
	wide := "Item,2024-01,2024-02\nOar,1.50,2.50\nBuoy,3.50,4.50\nTotal,5.00,7.00\n"
	long := "Shop,Item,Month,Amount\nHolm,Oar,2024-01,1.50\nPier,Oar,2024-02,2.50\n"
	for _, test := range []struct {
		name, columns, text string
		rows                int
		says                []string
	}{
		{"labels", "branch,product,month,amount", "Wick,,\n" + wide + ",,\nTarn,,\n" + wide, 8,
			[]string{`titles: "{first_block}"`, "sections: branch", "blanks: =first_block"}},
		{"named labels below a title", "region,branch,product,month,amount", "Halyard & Moss,,,\nRegion: Lakes,,,\n" + long +
			"\nRegion: Sound,,,\n" + long, 4,
			[]string{`titles: "Region: {first_block}"`, "sections: region", `read: "[Region: ]{}"`}},
		{"without --columns", "", "Region: Lakes,,,\n" + long + "Region: Sound,,,\n" + long, 4, []string{"sections: region", "shop: ", "item: "}},
		{"below two header rows", "region,branch,month,amount", "Lakes,,\nShop,2024,\n,Jan,Feb\nHolm,1.50,2.50\nPier,1.75,2.75\n,,\nSound,,\n" +
			"Shop,2024,\n,Jan,Feb\nWick,4.50,5.50\nTarn,4.75,5.75\n", 8, []string{"sections: region", "header: 2 rows"}},
		{"pages of one report", "branch,product,month,amount", "Sales report,,,\n" + long + "\nSales report,,,\n" + long, -1, nil},
		{"a label and what it is", "branch,product,month,amount", "Branch,Wick,\n" + wide + ",,\nBranch,Tarn,\n" + wide, -1, nil},
	} {
		t.Run(test.name, func(t *testing.T) {
			r, err := drafted(t, test.columns, map[string]string{"x.csv": test.text})
			require.NoError(t, err)
			if test.rows < 0 {
				require.NotContains(t, r.Text, firstBlock)
				return
			}
			require.Zero(t, r.Exit, "%v\n%s", r.Problems, r.Text)
			require.Empty(t, r.Open, r.Text)
			require.Equal(t, test.rows, r.Rows)
			for _, text := range test.says {
				require.Contains(t, r.Text, text)
			}
		})
	}
}

// Tables below each other whose figures are of different kinds, or whose lines would be rows of data, are a question, and a build stops.
func TestBlocksOfOtherFigures(t *testing.T) {
	table := "Shop,Item,Month,Amount\nHolm,Oar,2024-01,1.50\nPier,Oar,2024-02,2.50\n"
	for _, heads := range [][2]string{{"EUR", "USD"}, {"Amounts in EUR", "Amounts in USD"}, {"Sales", "Returns"}, {"Actual", "Budget"},
		{"Quantity", "Amount"}, {"Jan 2024", "Feb 2024"}, {"2024-01", "2024-02"},
		{"Month: Jan 2024", "Month: Feb 2024"}, {"Sales January", "Sales February"},
		{"Currency,EUR", "Currency,USD"}, {"Client,Reed", "Client,Ash"}} {
		for _, columns := range []string{"", "branch,product,month,amount"} {
			pad := func(head string) string { return head + strings.Repeat(",", 3-strings.Count(head, ",")) + "\n" }
			r, err := drafted(t, columns, map[string]string{"x.csv": pad(heads[0]) + table + pad(heads[1]) + table})
			require.NoError(t, err)
			require.True(t, r.Exit == 3 || len(r.Missing) > 0, "%v\n%s", heads, r.Text)
			require.Contains(t, r.Text, "tables stand below each other")
		}
	}
	for _, heads := range [][2]string{{"Page 1 of 2", "Page 2 of 2"}, {"Sales report", "Sales report"}} {
		r, err := drafted(t, "branch,product,month,amount", map[string]string{"x.csv": heads[0] + ",,,\n" + table + heads[1] + ",,,\n" + table})
		require.NoError(t, err)
		require.NotContains(t, r.Text, "tables stand below each other")
	}
}
