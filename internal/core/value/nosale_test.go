package value_test

import (
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
		"Planters Wharf": false, "Ly": false, "": false, "a": false, "Ø": false, "Holm": false, "Öland": false,
		"budget of the office on the quay at Long Sound": false,
	} {
		require.Equal(t, want, value.NoSale(label), label)
		if len(label) > 1 && len(label) < 40 {
			require.Equal(t, want, value.StandsBeside(label) || value.MayBeNoSale(label), label)
		}
	}
}
