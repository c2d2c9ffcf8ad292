package value

import (
	"strings"

	"umbau/internal/core/key"
)

// totalWords are the words by which a total is known, by the key …
var totalWords = wordSet(strings.Fields("total totals subtotal sum gesamt summe gesamtsumme zwischensumme totaux somme totale subtotale suma totaal subtotaal")...)

// … and those that may stand beside them.
var besideTotal = wordSet("grand", "overall", "general", "sub", "sous")

// Total says what a text says of totals: whether it consists of total words
// alone (Grand total), and whether one is among its words (North total).
func Total(text string) (alone, among bool) {
	alone = true
	for _, w := range strings.Fields(key.Of(text)) {
		among = among || totalWords[w]
		alone = alone && (totalWords[w] || besideTotal[w])
	}
	return alone && among, among
}

// TotalAlone reports whether a text consists of total words alone.
func TotalAlone(text string) bool {
	alone, _ := Total(text)
	return alone
}
