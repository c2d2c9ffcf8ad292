package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What is worked out of other figures, stands against them or is carried to them from another time is not added up unseen.
func TestDerivedFigures(t *testing.T) {
	groups := "Branch,Month,Group,Product,Amount\n"
	for _, m := range []string{"2024-01,", "2024-02,", "2024-03,"} {
		n := m[6:7]
		groups += "Holm," + m + "Safety,,100" + n + ".25\nHolm," + m + "Safety,Buoy,100" + n + ".25\n" +
			"Holm," + m + "Deck,,35" + n + ".50\nHolm," + m + "Deck,Oar,20" + n + ".25\nHolm," + m + "Deck,Rope,150.25\n"
	}
	for _, c := range []struct {
		name, text, want string
		rows             int // 0 where it stops
	}{
		{"sums of groups without a label", groups, "product: 6 rows with the sums of others may be a total: held", 9},
		{"sums of groups with one", strings.ReplaceAll(groups, ",,", ",All goods,"), "a build stops", 0},
		{"returns", "Branch,Month,Product,Amount,Returns\nHolm,2024-01,Oar,9.50,1.00\nPier,2024-01,Oar,8.50,2.00\n",
			"the figures below Returns are left aside: are they taken off those of amount already?", 2},
		{"cents", "Branch,Month,Product,Amount (cents)\nHolm,2024-01,Oar,950\nPier,2024-01,Oar,850\n",
			`# in cents ("Amount (cents)"), and delivered as they stand`, 2},
		{"a balance", "Branch,Month,Product,Amount\nHolm,2024-01,Balance b/f,900.00\nHolm,2024-01,Oar,9.50\nPier,2024-01,Oar,8.50\n",
			"Balance b/f in Product may be no sales", 0},
	} {
		r, err := drafted(t, "branch,month,product,amount", map[string]string{"a.csv": c.text})
		require.NoError(t, err)
		require.Contains(t, r.Text, c.want, c.name)
		require.Equal(t, c.rows == 0, r.Exit != 0 || len(r.Missing)+len(r.Waiting) > 0, "%s: %s", c.name, r.Text)
		if c.rows > 0 {
			require.Equal(t, c.rows, r.Rows, "%s: %s", c.name, r.Text)
		}
	}
}

// Rows with a label alone that no column takes are no rows of data: where nobody says what the table has, they are a column of it.
func TestSectionsOfNoColumn(t *testing.T) {
	text := "Branch,Product,2024-01,2024-02\nSafety,,,\nHolm,Buoy,1.50,2.50\nPier,Buoy,3.50,4.50\nDeck,,,\n" +
		"Holm,Oar,5.50,6.50\nPier,Oar,7.25,8.25\n"
	for columns, delivered := range map[string]bool{"region,branch,month,product,amount": false, "": true} {
		r, err := drafted(t, columns, map[string]string{"raw/Lakes.csv": text, "raw/Tarn.csv": strings.ReplaceAll(text, "Pier", "Mill")})
		require.NoError(t, err)
		require.Contains(t, r.Text, "sections: section")
		require.Equal(t, delivered, !strings.Contains(r.Text, "keep: no"), r.Text)
		require.Equal(t, []int{16, 0}, []int{r.Rows, r.Exit}, r.Text)
	}
}
