package terms

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestMonthBeside(t *testing.T) {
	for header, want := range map[string][3]string{
		"Jan Actual": {"Jan", " ", "Actual"}, "Jan-24 Actual": {"Jan-24", " ", "Actual"}, "Jan 2024 Budget": {"Jan 2024", " ", "Budget"},
		"Budget_2024-01":   {"2024-01", "_", "Budget"},
		"Prior year - Jan": {"Jan", " - ", "Prior year"}, "Actual (Jan)": {"Jan", " (", "Actual"}, "Q1 Ist": {"Q1", " ", "Ist"}, "Jan": {},
		"Rope Actual": {}, "Jan Feb": {"Jan", " ", "Feb"},
	} {
		month, sign, rest, first, ok := MonthBeside(header)
		require.Equal(t, want, [3]string{month, sign, rest}, header)
		require.Equal(t, want[0] != "", ok, header)
		require.Equal(t, ok && header[:1] == month[:1], first, header)
	}
}

func TestActuals(t *testing.T) {
	for _, text := range []string{"Actual", "Actuals", "Ist", "TY", "Current year", "Actual sales", "Act."} {
		require.True(t, SaysActual(text), text)
	}
	for _, text := range []string{"Sales", "Budget", "Actual stock", "LY", "Actuary", ""} {
		require.False(t, SaysActual(text), text)
	}
	for _, text := range []string{"Budget", "Bud", "LY", "Prior year", "Diff %", "Abw.", "Variance", "Forecast", "LY sales", "Cost"} {
		require.True(t, BesideActual(text), text)
	}
	for _, text := range []string{"Sales", "Actual", "Returns", "Restated", "A", ""} {
		require.False(t, BesideActual(text), text)
	}
}
