package draft

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
)

// A label whose rows have the sums of all others, wherever these stand, would count twice, and so would rows that stand in the tables of
// two regions. Where one row of few differs, nobody is asked.
func TestOneLabelInAnother(t *testing.T) {
	products := []string{"Oar", "Rope", "Buoy", "Flag", "Pump"}
	tableOf := func(products []string, odd int, more string) string { // of two shops, and one that sums them up
		text := "Branch,Month,Product,Amount\n"
		shops := ""
		for p, product := range products {
			a, b := 1200+311*p, 700+97*p*p
			if text += fmt.Sprintf("Company,2024-01,%s,%d.25\n", product, a+b+odd); p == 0 {
				odd = 0
			}
			shops += fmt.Sprintf("Holm,2024-01,%s,%d.15\nPier,2024-01,%s,%d.10\n", product, a, product, b)
		}
		return text + shops + more
	}
	table := func(odd int, more string) string { return tableOf(products[:3], odd, more) }
	copied := "Coast,Shop,Month,Product,Amount\n" // each row once more, of a coast that is all of them
	for i, p := range products {
		row := fmt.Sprintf(",Shop %d,2024-01,%s,%d.75\n", i%2, p, 1300+31*i)
		copied += []string{"Lakes", "Holm"}[i%2] + row + "Everywhere" + row
	}
	own := "Quay,2024-01,Oar,5.25\nQuay,2024-01,Rope,7.25\n"
	var shared, other string
	for i, p := range []string{"Oar", "Rope", "Buoy", "Net"} {
		shared += fmt.Sprintf("Mill,2024-01,%s,%d.75\n", p, 1100+i)
		other += fmt.Sprintf("Mill,2024-01,%s,%d.75\n", p, 1200+i)
	}
	for _, c := range []struct {
		name  string
		files map[string]string
		asks  string
	}{
		{"sums", map[string]string{"Lakes.csv": table(0, "")}, "Company in branch has the sums of all others"},
		{"one of five differs", map[string]string{"Lakes.csv": tableOf(products, 1, "")},
			"Company in branch has the sums of all others, in 4 of 5 rows"},
		{"in one file of two", map[string]string{"Lakes.csv": table(0, ""), "Holm.csv": "Branch,Month,Product,Amount\n" + own},
			"Company in branch has the sums of all others"},
		{"copies", map[string]string{"all.csv": copied}, "Everywhere in region has the sums of all others, in 5 of 5 rows"},
		{"one differs", map[string]string{"Lakes.csv": table(1, "")}, ""},
		{"a shop more", map[string]string{"Lakes.csv": table(0, own)}, ""},
		{"two regions", map[string]string{"Lakes.csv": "Branch,Month,Product,Amount\n" + own + shared,
			"Holm.csv": "Branch,Month,Product,Amount\nPier,2024-01,Oar,9.75\n" + shared},
			"rows of Mill, 2024-01, Oar stand in region Holm and in Lakes"},
		{"of a name alone", map[string]string{"Lakes.csv": "Branch,Month,Product,Amount\n" + own + shared,
			"Holm.csv": "Branch,Month,Product,Amount\nPier,2024-01,Oar,9.75\n" + other}, ""},
	} {
		r, err := drafted(t, "region,branch,month,product,amount", c.files)
		require.NoError(t, err)
		require.Equal(t, c.asks != "", r.Exit != 0, "%s: %s", c.name, r.Text)
		require.Contains(t, r.Text, c.asks, c.name)
	}
}
