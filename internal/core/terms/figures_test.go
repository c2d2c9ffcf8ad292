package terms_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/terms"
)

// Headers among products that are none say which figures they are of, and nothing else.
func TestSaysFiguresOnly(t *testing.T) {
	for _, text := range []string{
		"YTD", "MTD", "Qty", "Units", "Amount", "Net sales", "Amount gross", "Avg price", "Margin %", "Cost", "COGS",
		"PY", "Last year", "2023", "2023-02", "Jan 2024", "Q1", "Budget", "Target", "Returns", "All products",
		"Alle Artikel", "EUR", "Umsatz netto", "To date", "Sales to date", "Running total",
	} {
		require.True(t, terms.SaysFiguresOnly(text), text)
	}
	for _, text := range []string{
		"", "Dock Line", "Sales bag", "Price gun", "Value pack", "Unit heater", "Volume pump", "Year planner",
		"Day sail", "March flag", "May pole", "10 mm", "M12", "Set12", "Deck Brush 2023", "All-weather jacket",
		"Cost saver rope", "Stock pot", "Nets", "1st aid kit", "Rest", "Other", "Oars to date", "Running shoes",
	} {
		require.False(t, terms.SaysFiguresOnly(text), text)
	}
}

// What is no sum of anything is not added up; a rate in a header of amounts does not make these one.
func TestNotAdded(t *testing.T) {
	for header, want := range map[string]bool{"Share %": true, "% of total": true, "Discount%": true, "Sales YTD": true, "Avg price": true,
		"Price 2024":   true,
		"Oars to date": true, "Running total": true, "Running shoes": false,
		"Closing balance": true, "Amount incl. 20% VAT": false, "Sales (20% off)": false, "Sales": false, "Variance": false} {
		require.Equal(t, want, terms.NotAdded(header), header)
	}
}
