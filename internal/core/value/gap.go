// Package value reads one raw cell: as a number, a month or a year, or as a gap
// of one of five kinds. Decimal arithmetic is exact; nothing here ever passes
// through a binary float.
package value

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/key"
)

// Gap is why a cell has no usable value.
type Gap uint8

// The kinds of gaps.
const (
	NoGap   Gap = iota
	Blank       // empty, or white space only
	Null        // a word for nothing, such as n/a
	Text        // words where a number or a date is wanted
	Unclear     // the same with a digit in it: it may be money
	Error       // a spreadsheet error, such as #N/A
	Missing     // a lookup's key that its reference does not have
	Gaps        // how many kinds there are, NoGap among them
)

var gapNames = [Gaps]string{"", "blank", "null", "text", "unclear", "error", "missing"}

// String returns the kind as the record calls it: "blank", "null", …
func (g Gap) String() string { return gapNames[g] }

var nullWords = wordSet("null", "n/a", "n.a.", "na", "nil", "none", "nan", "-", "--", "–", "—", ".", "?")

var errorWords = wordSet("#n/a", "#div/0!", "#value!", "#ref!", "#name?", "#num!", "#null!", "#spill!", "#calc!",
	"#getting_data", "#field!", "#blocked!", "#connect!", "#unknown!", "#busy!") // newer ones, as error cells have them

func wordSet(words ...string) map[string]bool {
	set := make(map[string]bool, len(words))
	for _, w := range words {
		set[w] = true
	}
	return set
}

// wordBegins has the first bytes of null and error words in any case, and all
// beyond ASCII.
var wordBegins = func() (b [256]bool) {
	for _, set := range []map[string]bool{nullWords, errorWords} {
		for w := range set {
			b[w[0]], b[strings.ToUpper(w)[0]] = true, true
		}
	}
	for c := utf8.RuneSelf; c < len(b); c++ {
		b[c] = true
	}
	return b
}()

// longestWord is the most bytes a null or error word takes in any case.
const longestWord = 13

// TextGap tells whether a trimmed text is a gap in a column of texts: Blank,
// Null, Error, or NoGap for every other text.
func TextGap(text string) Gap {
	if text == "" {
		return Blank
	}
	if len(text) > longestWord || !wordBegins[text[0]] {
		return NoGap
	}
	low := strings.ToLower(text)
	switch {
	case nullWords[low]:
		return Null
	case errorWords[low]:
		return Error
	}
	return NoGap
}

// GapOf tells which gap a trimmed text is that does not read as the number or
// date its column wants. It never returns NoGap.
func GapOf(text string) Gap {
	return new(Words).GapOf(text)
}

// Words are the words of one column that mean nothing there besides those that
// always do, and those that do not. The zero Words has none.
type Words struct {
	null, value map[string]bool // in small letters
	figures     bool            // a number is among those that mean nothing
}

// NewWords returns the words of a column.
func NewWords(null, value []string) Words {
	set := func(words []string) map[string]bool {
		if len(words) == 0 {
			return nil
		}
		out := map[string]bool{}
		for _, w := range words {
			out[strings.ToLower(TrimText(w))] = true
		}
		return out
	}
	w := Words{null: set(null), value: set(value)}
	for word := range w.null {
		w.figures = w.figures || strings.ContainsFunc(word, unicode.IsNumber)
	}
	return w
}

// Figures reports whether a number may mean nothing.
func (w *Words) Figures() bool { return w.figures }

// TextGap is TextGap with the words of the column.
func (w *Words) TextGap(text string) Gap {
	if w.null != nil && w.null[strings.ToLower(text)] {
		return Null
	}
	g := TextGap(text)
	if g == Null && w.value != nil && w.value[strings.ToLower(text)] {
		return NoGap
	}
	return g
}

// GapOf is GapOf with the words of the column.
func (w *Words) GapOf(text string) Gap {
	if g := w.TextGap(text); g != NoGap {
		return g
	}
	if strings.ContainsFunc(text, unicode.IsNumber) {
		return Unclear
	}
	return Text
}

// TrimText is Trim for a text.
func TrimText(s string) string {
	if n := len(s); n > 0 && Visible(s[0]) && Visible(s[n-1]) {
		return s
	}
	return strings.TrimFunc(s, key.Invisible)
}

// Visible reports of the first byte of a text that its first character is seen; of others
// than ASCII it does not know.
func Visible(c byte) bool { return c > ' ' && c < utf8.RuneSelf }

// Trim cuts white space of any width and zero-width characters from both ends.
func Trim(b []byte) []byte {
	for len(b) > 0 {
		if Visible(b[0]) {
			break
		}
		r, n := utf8.DecodeRune(b)
		if !key.Invisible(r) {
			break
		}
		b = b[n:]
	}
	for len(b) > 0 {
		if Visible(b[len(b)-1]) {
			break
		}
		r, n := utf8.DecodeLastRune(b)
		if !key.Invisible(r) {
			break
		}
		b = b[:len(b)-n]
	}
	return b
}
