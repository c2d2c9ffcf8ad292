package value_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/value"
)

// Labels of averages, the year before, plans and the like are known; those of things and places that begin alike are none.
func TestNoSale(t *testing.T) {
	for label, want := range map[string]bool{
		"Average": true, "AVERAGE": true, "avg.": true, "Mittelwert": true, "Écart": true, "Veränderung": true, "Last year": true,
		"Vorjahr": true, "Année précédente": true, "of which oars": true, "davon Ruder": true, "Budget": true, "Budget 2024": true,
		"VAT 20 %": true, "Opening balance": true, "Share of total": true, "Übertrag": true, "LY": false, "plan": true,
		"Budget Marine": false, "Share": true, "Sharewood Quay": false, "Opening Street": false, "Averell": false, "Meantime": false,
		"Balance brought forward": true, "balance b/f": true, "Carried forward": true, "Saldovortrag": true, "Vortrag": true, "Riporto": true,
		"Report à nouveau": true, "B/F": true, "Rank": true, "Brought Wharf": false, "Rankin": false, "BF": false,
		"Planters Wharf": false, "Ly": false, "": false, "a": false, "Ø": true, "Δ": true, "Number of rows": true, "Highest": true,
		"Previous page": true, "Highest Point": false, "Max": false, "Holm": false, "Öland": false,
		"budget of the office on the quay at Long Sound": false, "Größe 12": false, "B'udget": true, "Bu­dget": true, "Buðget": false,
	} {
		require.Equal(t, want, value.NoSale(label), label)
		if len(label) > 1 && len(label) < 40 {
			require.Equal(t, want, value.StandsBeside(label) || value.MayBeNoSale(label), label)
		}
	}
}

// The short look never differs from the long one.
func TestNoSaleShortly(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	pieces := []string{"b", "u", "dget", "Budget", "VAT", "vat", " ", "20", "%", "é", "cart", "É", "ver", "ä", "nderung", "ø", "'", ".",
		"-", "_", "&", "of", "which", "last", "year", "ü", "bertrag", "share", "l", "y", "\u200b", "ß", "ſ", "opening", "balance", "а"}
	found := 0
	for range 300_000 {
		label := ""
		for range 1 + r.IntN(5) {
			label += pieces[r.IntN(len(pieces))]
		}
		if len(label) < 2 || label[0] >= '0' && label[0] <= '9' {
			continue
		}
		want := value.StandsBeside(label) || value.MayBeNoSale(label)
		if want {
			found++
		}
		require.Equal(t, want, value.NoSale(label), "%q", label)
	}
	require.Greater(t, found, 5000)
}

func BenchmarkNoSale(b *testing.B) {
	texts := []string{"collected by Mr Özdemir, 356831764", "receipt 386696589, paid late", "post 448662539",
		"Größe 783599893, cut to length", "Rope 10"}
	for b.Loop() {
		for _, t := range texts {
			if value.NoSale(t) {
				b.Fatal(t)
			}
		}
	}
}
