package terms_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/terms"
)

// What is asked of each sense is asked of every text that one of them may hear something from.
func TestSaidOfAllBySense(t *testing.T) {
	words := strings.Fields(`Sales sales in EUR euro € $ £ US$ SEK sek NOK, 12SEK net netto gross excl. VAT ex without ohne tax incl TTC
		thousands TEUR t K keur 1000 1.000 1,000 x mio cents pence boxes dozen
		Quantity qty kg this last year TY ly prior previous current Vorjahr Lakes amounts Umsatz (in 000) Preise – /`)
	r := rand.New(rand.NewPCG(1, 2))
	said := 0
	for range 20_000 {
		var text []string
		for range 1 + r.IntN(4) {
			text = append(text, words[r.IntN(len(words))])
		}
		line := strings.Join(text, []string{" ", "_", "-", ""}[r.IntN(4)])
		var want []string
		for _, s := range []terms.Saying{terms.OfTax, terms.OfMoney, terms.OfYears, terms.OfUnit, terms.OfScale} {
			if s.Lines(line) || s.Names != nil && s.Names(line) {
				want = append(want, s.Name+" "+s.Of(line))
			}
		}
		var have []string
		for _, s := range terms.SaidOfAll([]string{line}, []string{line}) {
			have = append(have, s.What)
		}
		require.Equal(t, want, have, line)
		said += len(want)
	}
	require.Greater(t, said, 5000)
}

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
