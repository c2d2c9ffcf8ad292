package value

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/key"
)

// totalWords are the words by which a total is known, by the key …
var totalWords = wordSet(strings.Fields("total totals subtotal sum gesamt summe gesamtsumme zwischensumme totaux somme totale " +
	"subtotale suma totaal subtotaal")...)

// … those that may stand beside them, which say which total it is …
var besideTotal = wordSet(strings.Fields("grand overall general sub sous")...)

// … and words for units, which may too, as currencies.
var unitWords = wordSet(strings.Fields("pcs pc pce piece pieces unit units ea each stk stuck kg g t lb lbs l ltr liter litre m ft")...)

// IsUnit reports whether a text is a unit or a currency, and nothing else.
func IsUnit(text string) bool { return unitWords[key.Of(text)] || IsCurrency(text) }

// Totals are the labels that an entry says are totals, or are none, besides those
// that total words make so. The zero Totals has none.
type Totals struct {
	are, arent map[string]bool // by the key
}

// NewTotals returns the labels that are totals, and those that are none.
func NewTotals(are, arent []string) Totals {
	set := func(labels []string) map[string]bool {
		var out map[string]bool
		for _, l := range labels {
			if out == nil {
				out = map[string]bool{}
			}
			out[key.Of(l)] = true
		}
		return out
	}
	return Totals{set(are), set(arent)}
}

// Says tells what a text says of totals: whether it consists of total words alone
// (Grand total, Total EUR) or is a label that the entry calls a total, and whether a
// total word is among its words (North total).
func (t *Totals) Says(text string) (alone, among bool) {
	if t.are == nil && !mayTotal(text) {
		return false, false
	}
	k := key.Of(text)
	switch {
	case t.are[k]:
		return true, true
	case t.arent[k]:
		return false, false
	}
	alone = true
	for _, w := range strings.Fields(k) {
		total := totalWord(w)
		among = among || total
		alone = alone && (total || besideTotal[w] || unitWords[w] || isCurrency(w))
	}
	return alone && among, among
}

// MaySay is false for most texts that Says finds no total word in, without looking long.
func (t *Totals) MaySay(text []byte) bool { return t.are != nil || mayTotal(text) }

// None reports whether the entry says that a label is no total.
func (t *Totals) None(label string) bool { return t.arent != nil && t.arent[key.Of(label)] }

// Alone reports whether a text consists of total words alone.
func (t *Totals) Alone(text string) bool {
	alone, _ := t.Says(text)
	return alone
}

// Sheet reports whether the name of a sheet consists of total words, and years beside
// them, alone.
func (t *Totals) Sheet(name string) bool {
	var words []string
	for _, w := range strings.Fields(key.Of(name)) {
		if len(w) != 4 || number(w) < 1900 || number(w) > 2100 {
			words = append(words, w)
		}
	}
	return t.Alone(name) || !t.arent[key.Of(name)] && t.Alone(strings.Join(words, " "))
}

// totalWord reports whether a word of a key says total: German ones are made of
// several.
func totalWord(w string) bool {
	return totalWords[w] || strings.HasSuffix(w, "summe") || strings.HasSuffix(w, "gesamt")
}

// IsTotalWord reports whether a word of a key says total, or stands beside one that
// does.
func IsTotalWord(w string) bool {
	return totalWord(w) || besideTotal[w] || unitWords[w] || isCurrency(w)
}

// IsCurrency reports whether a text is a currency: its sign, or its code (ISO 4217).
func IsCurrency(text string) bool { return isCurrency(key.Of(text)) }

// isCurrency reports whether a word of a key is a currency.
func isCurrency(w string) bool {
	if len(w) == 3 && codes[strings.ToUpper(w)] || wordKeys[w] {
		return true
	}
	r, n := utf8.DecodeRuneInString(w)
	return n == len(w) && unicode.Is(unicode.Sc, r)
}

// mayTotal is false for most texts that hold no total word: each of those has tot, sum, som or ges in it;
// apostrophes, and letters that are not western, may hide one. Two of the three letters of each stand beside each
// other in one of the pairs of a text, wherever these begin: only where such a pair stands one looks closer.
func mayTotal[T string | []byte](text T) bool {
	for i, begin := 0, 0; i+1 < len(text); {
		if firstOfPair[text[i]]&secondOfPair[text[i+1]] == 0 {
			i += 2
			continue
		}
		may, next := totalNear(text, max(begin, i-1), i)
		if may {
			return true
		}
		i, begin = next, next
	}
	return false
}

// totalNear is mayTotal for what begins at a byte of a text and before the next one, which it returns: behind the pair
// at a place, and where none of the four is about to come. All are looked for at once: of each, a bit for each of
// its letters that was met (Baeza-Yates and Gonnet 1992).
func totalNear[T string | []byte](text T, begin, pair int) (may bool, next int) {
	met := uint16(0)
	for i := begin; i < len(text); i++ {
		letters := lettersOf[text[i]]
		if letters == unsure {
			letter := key.Western(text, i) // "ss" is two of one
			if letter == "" {
				return true, i
			}
			letters = lettersOf[letter[0]]
			i++
		}
		switch met = (met<<1 | firstInTotals) & letters; {
		case met&lastInTotals != 0:
			return true, i
		case met == 0 && i > pair:
			return false, i + 1
		}
	}
	return false, len(text)
}

const (
	firstInTotals = 0b001_001_001_001
	lastInTotals  = 0b100_100_100_100
	unsure        = 1 << 15 // an apostrophe, or no ASCII
	unsureFirst   = 1 << 14
	unsureSecond  = 1 << 13
)

// lettersOf tells of a byte which letters it may be of the words that mayTotal looks for, and the other two of which of
// their pairs it may be the first or the second one.
var lettersOf, firstOfPair, secondOfPair = func() (letters, first, second [256]uint16) {
	for c := range 256 {
		first[c], second[c] = unsureSecond, unsureFirst
		if c == '\'' || c == '`' || c >= 0x80 {
			letters[c], first[c], second[c] = unsure, unsureFirst|unsureSecond, unsureFirst|unsureSecond
		}
	}
	for i, word := range []string{"tot", "sum", "som", "ges"} {
		for j, small := range []byte(word) {
			for _, c := range []byte{small, small &^ 0x20} {
				letters[c] |= 1 << (3*i + j)
				if j < 2 {
					first[c] |= 1 << (2*i + j)
				}
				if j > 0 {
					second[c] |= 1 << (2*i + j - 1)
				}
			}
		}
	}
	return letters, first, second
}()
