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
	if !mayTotal(text) {
		return false, false
	}
	alone = true
	for _, w := range strings.Fields(key.Of(text)) {
		among = among || totalWords[w]
		alone = alone && (totalWords[w] || besideTotal[w])
	}
	return alone && among, among
}

// mayTotal is false for most texts that hold no total word: each of those has tot,
// sum, som or ges in it, and letters beyond ASCII and apostrophes may hide one.
func mayTotal(text string) bool {
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c >= 0x80 || c == '\'' || c == '`':
			return true
		case i+2 < len(text):
			switch (uint32(c)<<16 | uint32(text[i+1])<<8 | uint32(text[i+2])) | 0x202020 {
			case 't'<<16 | 'o'<<8 | 't', 's'<<16 | 'u'<<8 | 'm', 's'<<16 | 'o'<<8 | 'm', 'g'<<16 | 'e'<<8 | 's':
				return true
			}
		}
	}
	return false
}

// TotalAlone reports whether a text consists of total words alone.
func TotalAlone(text string) bool {
	alone, _ := Total(text)
	return alone
}
