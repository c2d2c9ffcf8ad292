package value_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"

	"umbau/internal/core/value"
)

// Texts whose UTF-8 was read in another encoding come back; others stay.
func TestRestored(t *testing.T) {
	texts := strings.Split("Größe L Weste|Öljacke|ÄRMEL|Château d'eau|Évian|ÉTÉ|bœuf|España|João|Malmö|Ærø|"+
		"Łódź|Žižka|Côté – mer|Tom’s|„Anker“|5 €|½ Zoll|Gore™", "|")
	for _, was := range texts {
		for _, page := range []*charmap.Charmap{charmap.Windows1252, charmap.Macintosh, charmap.CodePage850, charmap.ISO8859_1} {
			var b strings.Builder
			for _, c := range []byte(was) {
				r := page.DecodeByte(c)
				if r == '\ufffd' { // Windows-1252 has no such sign: programs take that of ISO 8859-1
					r = rune(c)
				}
				b.WriteRune(r)
			}
			got, ok := value.Restored(b.String())
			require.True(t, ok, "%q, which was %q", b.String(), was)
			require.Equal(t, was, got)
		}
		_, ok := value.Restored(was)
		require.False(t, ok, "%q", was)
	}
	for _, text := range []string{"", "Dock Line", "CAFÉ–BAR", "GRÖ™", "BORDÄ–F", "São", "Ã", "IRMÃ", "Åland", "„Ö”", "日本", "50 Â",
		"TALLÅ…", "Â°", "Größe GrÃ¶ÃŸe"} {
		_, ok := value.Restored(text)
		require.False(t, ok, "%q", text)
	}
}
