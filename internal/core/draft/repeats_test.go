package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Rows of one grain: what was exported twice goes, what another column tells apart stays, and where that may be either way
// the build stops.
func TestRowsOfOneGrain(t *testing.T) {
	header, rows := "Region,Month,Product,Customer,Note,Amount\n", "Lakes,2024-01,Oar,Ann,x,10.00\nLakes,2024-02,Net,Ann,y,5.00\n"+
		"Lakes,2024-03,Net,Ann,x,7.00\nLakes,2024-04,Net,Ben,z,9.00\nLakes,2024-05,Net,Cyd,z,9.50\n"
	for _, test := range []struct {
		name  string
		files map[string]string
		rows  int // 0 where it stops
		plan  string
	}{
		{"another customer", map[string]string{"a.csv": header + rows + "Lakes,2024-01,Oar,Ben,x,10.00\n"}, 6, "Customer may tell them apart"},
		{"the same in every cell", map[string]string{"a.csv": header + rows + "Lakes,2024-01,Oar,Ann,x,10.00\n"}, 5, "same_rows: drop"},
		{"the same, written otherwise", map[string]string{"a.csv": header + rows + "Lakes,2024-01,Oar,Ann,x,10.0\n"}, 5, "repeats: first"},
		{"both", map[string]string{"a.csv": header + rows + "Lakes,2024-01,Oar,Ann,x,10.00\nLakes,2024-01,Oar,Ben,x,10.00\n"}, 6,
			"same_rows: drop"},
		{"another amount", map[string]string{"a.csv": header + rows + "Lakes,2024-01,Oar,Ben,x,11.00\n"}, 6, "Customer may tell them apart"},
		{"another amount of one customer", map[string]string{"a.csv": header + rows + "Lakes,2024-01,Oar,Ann,x,11.00\n"}, 6,
			"not the same in everything"},
		{"all of a file once more", map[string]string{"a.csv": header + rows, "b.csv": header + strings.ReplaceAll(rows, "y", "z")}, 0,
			"were they exported twice"},
		{"once more without customers", map[string]string{
			"a.csv": "Region,Month,Amount,Note\nLakes,2024-01,1.50,x\nLakes,2024-02,2.50,y\n",
			"b.csv": "Region,Month,Amount,Note\nLakes,2024-01,1.50,y\nLakes,2024-02,2.50,z\n"}, 2, "repeats: first"},
	} {
		columns := "region,month,product,amount"
		if !strings.Contains(test.files["a.csv"], "Product") {
			columns = "region,month,amount"
		}
		r, err := drafted(t, columns, test.files)
		require.NoError(t, err)
		require.Contains(t, r.Text, test.plan, test.name)
		require.Equal(t, test.rows == 0, r.Exit != 0, "%s: %v", test.name, r.Problems)
		if test.rows > 0 {
			require.Equal(t, test.rows, r.Rows, "%s: %s", test.name, r.Text)
		}
	}
}

// A table without decimals beside one that has them, for the same rows, may have quantities; one of a till has not.
func TestWholeFiguresBesideOthers(t *testing.T) {
	table := func(cells ...string) string {
		text := "Month,Product,Kassa\n"
		for i, c := range cells {
			text += fmt.Sprintf("2024-0%d,%s,%s\n", i/2+1, []string{"Buoy", "Oar"}[i%2], c)
		}
		return text
	}
	for _, c := range []struct {
		other string
		asks  bool
	}{{table("3", "4", "1", "7"), true}, {table("3.50", "4.25", "1", "7"), false},
		{strings.ReplaceAll(table("3", "4", "1", "7"), "2024", "2023"), false}} {
		r, err := drafted(t, "month,product,amount", map[string]string{"one.csv": table("10.50", "23.45", "6.90", "7.10"), "two.csv": c.other})
		require.NoError(t, err)
		require.Equal(t, c.asks, strings.Contains(r.Text, "two.csv has no decimals, "), r.Text)
		require.Equal(t, c.asks, r.Exit != 0)
	}
}
