package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Months without a year that go over the turn of one are not those of the year that a name says.
func TestOverTheTurn(t *testing.T) {
	for _, c := range []struct{ months, later []int }{
		{[]int{4, 5, 6, 7, 8, 9, 10, 11, 12, 1, 2, 3}, []int{1, 2, 3}},
		{[]int{3, 2, 1, 12, 11}, []int{3, 2, 1}},
		{[]int{12, 1}, []int{1}},
		{[]int{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}, nil},
		{[]int{12, 11, 10}, nil},
		{[]int{11, 1, 2}, nil},
		{[]int{6, 4, 5}, nil},
		{[]int{1}, nil},
		{nil, nil},
	} {
		require.Equal(t, c.later, overTheTurn(c.months), "%v", c.months)
	}
}

func TestFiscalYears(t *testing.T) {
	const fiscal, plain = "Apr May Jun Jul Aug Sep Oct Nov Dec Jan Feb Mar", "Jan Feb Mar Apr"
	wide := func(region, months string) string {
		list := strings.Fields(months)
		return "Branch," + strings.Join(list, ",") + "\n" + region + " Quay" + strings.Repeat(",1.50", len(list)) + "\n"
	}
	long := func(region, months string) string {
		text := "Month,Branch,Amount\n"
		for _, m := range strings.Fields(months) {
			text += m + "," + region + " Quay,2.50\n"
		}
		return text
	}
	for name, table := range map[string]func(string, string) string{"wide": wide, "long": long} {
		for _, c := range []struct {
			year, months string
			asks         bool
		}{
			{"FY2024", fiscal, true}, {"2024", fiscal, true}, {"2023-2024", fiscal, true}, {"2023 to 2024", plain, true},
			{"Apr 2023 - Mar 2024", plain, true}, {"FY2024", plain, false}, {"2024", plain, false}, {"2024", "Dec Nov Oct", false},
		} {
			r, err := drafted(t, "region,month,branch,amount", map[string]string{
				"raw/Lakes " + c.year + ".csv": table("Lakes", c.months), "raw/Wick " + c.year + ".csv": table("Wick", c.months)})
			require.NoError(t, err)
			require.Equal(t, c.asks, len(r.Open) > 0 || r.Exit == 3, "%s %v\n%s", name, c, r.Text)
			if c.asks && c.months == fiscal {
				require.Contains(t, r.Text, "if(mon = 'Jan' or mon = 'Feb' or mon = 'Mar', year, year - 1)")
			}
		}
	}
}
