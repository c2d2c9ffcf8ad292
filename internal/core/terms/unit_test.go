package terms

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestUnitBeside(t *testing.T) {
	for header, want := range map[string]Measured{
		"Sales Jan 2024 (EUR)":  {"Sales Jan 2024", " (EUR)", "Sales", false},
		"Sales  Jan 2024 EUR":   {"Sales Jan 2024", " EUR", "Sales", false},
		"Jan 2024 Sales, EUR":   {"Jan 2024 Sales", ", EUR", "Sales", false},
		"Jan 2024 Sales in EUR": {"Jan 2024 Sales", " in EUR", "Sales", false},
		"Qty Oar [pcs]":         {"Qty Oar", " [pcs]", "Qty", false},
		"Qty (pcs) Jan 2024":    {"Qty Jan 2024", " (pcs)", "Qty", true},
		"Qty (kg) Jan 2024":     {"Qty Jan 2024", " (kg)", "Qty", true},
		"Price Jan 2024 (EUR)":  {"Price Jan 2024", " (EUR)", "", false},
	} {
		got, ok := UnitBeside(header)
		require.True(t, ok, header)
		require.Equal(t, want, got, header)
	}
	for _, header := range []string{"", "Sales", "Sales (EUR)", "Jan 2024 Sales EUR", "Jan 2024 (EUR)", "Oar (EUR)", "Sales Jan 2024 (net)",
		"Sales EUR Jan 2024"} {
		_, ok := UnitBeside(header)
		require.False(t, ok, header)
	}
}
