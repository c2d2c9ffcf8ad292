package terms_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/terms"
)

// Lines and names say of all figures in which sense they are; most say nothing.
func TestSaidOfAll(t *testing.T) {
	for _, test := range []struct {
		lines, names []string
		want         []terms.Said
	}{
		{[]string{"Halyard & Moss", "Sales by branch and month", "as of 31 January 2024"}, []string{"raw/Lakes_2024.csv", "2024"}, nil},
		{[]string{"Sales in thousands", "All amounts in USD, excl. VAT"}, nil, []terms.Said{{"tax net", "All amounts in USD, excl. VAT"},
			{"money USD", "All amounts in USD, excl. VAT"}, {"scale thousands", "Sales in thousands"}}},
		{[]string{"Currency: EUR", "Beträge in EUR"}, nil, []terms.Said{{"money EUR", "Currency: EUR"}}},
		{nil, []string{"raw/Lakes TEUR.csv", "prior year"}, []terms.Said{{"year last", "prior year"}, {"scale thousands", "raw/Lakes TEUR.csv"}}},
		{[]string{"Quantity in dozens"}, nil, []terms.Said{{"unit pieces''", "Quantity in dozens"}}},
	} {
		require.Equal(t, test.want, terms.SaidOfAll(test.lines, test.names), "%v %v", test.lines, test.names)
	}
}
