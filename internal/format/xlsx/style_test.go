package xlsx

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// The currency that a format shows counts; other texts beside the digits do not.
func TestCurrencyOfFormats(t *testing.T) {
	for code, want := range map[string]string{
		`#,##0.00\ "€"`: "€", `[$€-407] #,##0.00`: "€", `#,##0.00\ [$kr-41D]`: "kr", `[$kr.-406] #,##0.00`: "kr", `#,##0.00\ "zł";[Red]-0`: "zł",
		`#,##0\ [$Kč-405]`: "Kč", `[$CHF] 0.00`: "CHF", `_-* #,##0.00\ "kr"_-`: "kr", `[$$-409]#,##0.00`: "$", `$#,##0`: "$",
		`0 "pcs"`: "", `"krona" 0`: "", `0.00_ ;[Red]-0.00\ `: "", `[$-F800]dddd`: "", `0.0%`: "", `0;0 "€"`: "",
	} {
		require.Equal(t, want, currencyOf(code), code)
	}
}
