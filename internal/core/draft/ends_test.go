package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Rows at the ends of tables that lack a label all others have are held, be they called as they may; those between others are sales.
func TestRowsAtEnds(t *testing.T) {
	const header = "Branch,Product,Amount,Note\n"
	const rows = "Holm,Oar,10.50,\nHolm,Net,20.25,\nPier,Oar,30.50,\nPier,Net,5.50,\nQuay,Oar,6.50,\nQuay,Net,7.50,\n"
	other := strings.NewReplacer("Holm", "Mill", "Pier", "Lock", "Quay", "Saltby", ".50", ".75").Replace(rows)
	for _, c := range []struct {
		name, lakes, wick, want string
		rows                    int
	}{
		{"as many everywhere", rows + "Peak,,30.50,\n", other + "Peak,,30.50,\n", "product: 2 rows without one at the ends of tables", 12},
		{"in one table", rows + ",,4.10,by till\n", other, "branch: 1 row without one at the ends of tables", 12},
		{"the first ones", "Before,,9.75,\n" + rows, other, "product: 1 row without one at the ends of tables", 12},
		{"one here, one there", rows + "Best,,30.50,\n,Worst,5.50,\n", other, "blanks: hold", 12},
		{"between", strings.Replace(rows, "Pier,Oar", "Pier,", 1) + "Peak,,30.50,\n", other, "product: { blanks: Unassigned }", 13},
		{"of few", "Holm,Oar,1.50,\n,Net,2.50,\n", other, "branch:  { blanks: above }", 8},
	} {
		r, err := drafted(t, "region,branch,product,amount", map[string]string{"Lakes.csv": header + c.lakes, "Wick.csv": header + c.wick})
		require.NoError(t, err)
		require.Contains(t, r.Text, c.want, c.name)
		require.Equal(t, []int{c.rows, 0}, []int{r.Rows, r.Exit}, "%s: %s%v", c.name, r.Text, r.Problems)
	}
}

// Rows that lack a label behind such as have it in each row do not take the last one: where they have the sums of the others, that is a
// question.
func TestBlanksBehindLabelsInEachRow(t *testing.T) {
	text, sums := "Coast,Branch,Product,Amount\n", ""
	for i, b := range []string{"Holm", "Pier", "Quay"} {
		for k, p := range []string{"Oar", "Net", "Buoy"} {
			row := fmt.Sprintf(",%s,%s,%d.75\n", b, p, 1000+371*i+53*k)
			text, sums = text+[]string{"Lakes", "Lakes", "Wick"}[i]+row, sums+row
		}
	}
	r, err := drafted(t, "region,branch,product,amount", map[string]string{"a.csv": text + sums})
	require.NoError(t, err)
	require.Contains(t, r.Text, "blanks: Unassigned")
	require.Contains(t, strings.Join(r.Open, "\n"), "Unassigned in region has the sums of all others, in 9 of 9 rows")
	require.NotZero(t, r.Exit)
}
