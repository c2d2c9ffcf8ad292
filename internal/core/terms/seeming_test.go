package terms

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestSeemsMonth(t *testing.T) {
	for text, want := range map[string]Seeming{
		"1": {Numbered: true, Name: "January", Month: 1}, "07": {Numbered: true, Name: "July", Month: 7},
		"M07":       {Before: "M", Numbered: true, Name: "July", Month: 7, Word: true, Letter: true},
		"Monat 12":  {Before: "Monat ", Numbered: true, Name: "December", Month: 12, Word: true},
		"02 Feb":    {Before: "* ", Name: "Feb", Month: 2, Word: true},
		"2. März":   {}, // the third month
		"3. März":   {Before: "*. ", Name: "März", Month: 3, Word: true},
		"[Jan]":     {Before: `\[`, Behind: `\]`, Name: "Jan", Month: 1, Word: true},
		"[2024-02]": {Before: `\[`, Behind: `\]`, Name: "2024-02", Month: 12*2024 + 2, Word: true},
		"01/24":     {Form: "12/24", Name: "2024-01", Month: 12*2024 + 1},
		"SET12":     {Form: "DEC24", Name: "2012-09", Month: 12*2012 + 9},
		"13":        {}, "0": {}, "M13": {}, "13/24": {}, "[Rope]": {}, "[2024]": {}, "Jan": {}, "Size 3": {}, "": {}, "P1": {},
	} {
		got, ok := SeemsMonth(text)
		require.Equal(t, want.Name != "", ok, text)
		if ok {
			require.Equal(t, want, got, text)
		}
	}
}
