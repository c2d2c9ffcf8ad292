package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// rowsOfFigures is a table of rows that say which figures theirs are, with headers made by the number of a month, and more behind them.
func rowsOfFigures(figures []string, header string, more func(row int, cells []int) string) string {
	text := "Branch,Product,Figure"
	for m := range 4 {
		text += "," + fmt.Sprintf(header, m+1)
	}
	text += more(-1, nil) + "\n"
	for k := range 3 * len(figures) {
		text += fmt.Sprintf("Quay %d,Oar,%s", k/len(figures), figures[k%len(figures)])
		var cells []int
		for m := range 4 {
			cells = append(cells, 10+(k*7+m*13)%31)
			text += fmt.Sprintf(",%d", cells[m])
		}
		text += more(k, cells) + "\n"
	}
	return text
}

// Rows that say which figures their cells across are become rows with a column for each.
func TestRowsSayWhatIsAcross(t *testing.T) {
	nothing := func(int, []int) string { return "" }
	total := func(header string) func(row int, cells []int) string {
		return func(row int, cells []int) string {
			if row < 0 {
				return "," + header
			}
			return fmt.Sprintf(",%d", cells[0]+cells[1]+cells[2]+cells[3])
		}
	}
	for _, test := range []struct {
		figures, header string
		more            func(row int, cells []int) string
		plan            string
	}{
		{"Quantity,Amount", "2024-0%d", nothing, `unpivot: { header: "{month}" }`},
		{"Menge,Umsatz", "Q%d 2024", nothing, `unpivot: { header: "{quarter}" }`},
		{"Qty,Sales", "2024-0%d", total("Total"), `widen: { header: Figure }`},
		{"Qty,Sales", "2024-0%d", total("Everything"), `others: [Everything]`},
		{"Quantity,Price,Amount", "2024-0%d", nothing, "the figures of rows that say Price are left aside"},
		{"Quantity LY,Quantity,Amount", "2024-0%d", nothing, "the figures of rows that say Quantity LY are left aside"},
		{"Quantity,Amount,Cost", "2024-0%d", nothing, "the figures of rows that say Cost are left aside"},
	} {
		rows, r := rowsOf(t, "", map[string]string{"raw/Lakes.csv": rowsOfFigures(strings.Split(test.figures, ","), test.header, test.more)})
		require.Contains(t, r.Text, test.plan, test.figures)
		require.Len(t, rows, 12, r.Text)
		require.True(t, strings.HasPrefix(rows[0], "Lakes,Quay 0,2024-"), rows[0])
		if strings.Contains(test.figures, "Qty") {
			require.Equal(t, "Lakes,Quay 0,2024-01,Oar,10,17", rows[0])
		}
	}
	for _, other := range []string{"All amounts in USD\n\n", "in thousand EUR\n\n"} { // added up with EUR they are nothing
		for _, rows := range []string{rowsOfFigures([]string{"Quantity", "Amount (EUR)"}, "2024-0%d", nothing),
			"Branch,Product,Figure,Value\nQuay 1,Oar,Quantity,3\nQuay 1,Oar,Amount (EUR),4.5\n"} {
			rows, r := rowsOf(t, "", map[string]string{"raw/Lakes.csv": rows, "raw/Skerries.csv": other + strings.ReplaceAll(rows, " (EUR)", "")})
			require.Empty(t, rows, r.Text)
			require.NotZero(t, r.Exit, r.Text)
		}
	}
	for _, unlike := range []string{"Actual Budget", "Sales Returns", "Sales Cost", "Units Orders"} { // no measures of one row
		_, r := rowsOf(t, "", map[string]string{"raw/Lakes.csv": rowsOfFigures(strings.Fields(unlike), "2024-0%d", nothing)})
		require.Contains(t, r.Text, "  figure:  text\n           # "+strings.Replace(unlike, " ", " and ", 1)+": ", r.Text)
	}
}
