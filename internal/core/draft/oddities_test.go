package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A file without a header row loses its first row to it, one in cents is out of scale: both are questions.
func TestOddities(t *testing.T) {
	const header, columns = "Branch,Month,Product,Amount\n", "region,branch,month,product,amount"
	rows := func(month string) string {
		return strings.ReplaceAll("Holm,M,Buoy,1010.50\nHolm,M,Oar,3.20\nSaltby,M,Buoy,5.75\n", "M", month)
	}
	for _, test := range []struct{ text, asked string }{
		{rows("2024-02"), `"2024-02" stands where its header row should be`},
		{strings.ReplaceAll(rows("2024-02"), ",2024-02", ""), `"1010.50" stands where its header row should be`},
		{header + strings.NewReplacer("1010.50", "101050", "3.20", "320", "5.75", "575").Replace(rows("2024-02")), "are these cents?"},
		{header + strings.NewReplacer("1010.50", "1010", "3.20", "3", "5.75", "5").Replace(rows("2024-02")), ""},
		{header + rows("2024-02"), ""},
		{"Branch,Product,2024-02\nHolm,Buoy,1010.50\n", ""},
		{"Branch,Month,1.5 m,2.5 m\nHolm,2024-02,1010.50,3.25\n", ""},
	} {
		r, err := drafted(t, columns, map[string]string{"raw/Lakes_2024-01.csv": header + rows("2024-01"), "raw/Lakes_2024-02.csv": test.text})
		require.NoError(t, err)
		require.Equal(t, test.asked != "", r.Exit != 0 || len(r.Missing) > 0, "%s\n%s\n%v", test.text, r.Text, r.Problems)
		require.Contains(t, strings.Join(r.Open, "\n"), test.asked, test.text)
	}
}
