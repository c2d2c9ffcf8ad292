package draft

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
)

// A label whose rows have the sums of all others, wherever these stand, would count twice, and so would rows that stand in the tables of
// two regions. Where one row differs, nobody is asked.
func TestOneLabelInAnother(t *testing.T) {
	table := func(odd int, more string) string { // two shops of three products, and one that sums them up
		text := "Branch,Month,Product,Amount\n"
		shops := ""
		for p, product := range []string{"Oar", "Rope", "Buoy"} {
			a, b := 1200+311*p, 700+97*p*p
			if text += fmt.Sprintf("Company,2024-01,%s,%d.25\n", product, a+b+odd); p == 0 {
				odd = 0
			}
			shops += fmt.Sprintf("Holm,2024-01,%s,%d.15\nPier,2024-01,%s,%d.10\n", product, a, product, b)
		}
		return text + shops + more
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
