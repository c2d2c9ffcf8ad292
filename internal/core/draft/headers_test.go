package draft

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// Labels that stand only in the first row of each group, below two header rows.
func TestBlanksBelowTwoHeaderRows(t *testing.T) {
	for _, headers := range []string{"Shop,Item,Amount,Amount\n,,2024-01,2024-02\n", "Shop,Item,Amount,\nShop,Item,2024-01,2024-02\n",
		",,Amount,\nShop,Item,2024-01,2024-02\n"} {
		r, err := drafted(t, "branch,month,product,amount", map[string]string{"a.csv": headers + "Holm,Oar,1.50,2.50\n,Buoy,3.50,4.50\n" +
			"Lowe,Oar,5.50,6.50\n,Buoy,7.50,8.50\n"})
		require.NoError(t, err)
		require.Contains(t, r.Text, "blanks: above", r.Text)
		require.Zero(t, r.Exit)
	}
}
