package packed

import (
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// memberName returns the name of a member in UTF-8. One that is none is of the code page of the system that packed it,
// which an archive does not say: that is taken in which all beyond ASCII are letters, and none is a capital one behind a small one,
// code page 850 before Windows-1252. Code page 437, which the format asks for (PKWARE APPNOTE 4.4.4), has the western letters at the
// same places as 850, as far as it has them. A name that neither reads stays as it is.
func memberName(name string) string {
	if utf8.ValidString(name) {
		return name
	}
	for _, page := range []*charmap.Charmap{charmap.CodePage850, charmap.Windows1252} {
		if text, ok := letters(name, page); ok {
			return text
		}
	}
	return name
}

// letters reads a text in a code page; ok is false where it has something else than letters beyond ASCII, or SÒo for São.
func letters(text string, page *charmap.Charmap) (out string, ok bool) {
	runes := make([]rune, 0, len(text))
	for i := range len(text) {
		r := page.DecodeByte(text[i])
		if r >= utf8.RuneSelf && (!unicode.IsLetter(r) || r == 'ƒ' || unicode.IsUpper(r) && i > 0 && unicode.IsLower(runes[i-1])) {
			return "", false
		}
		runes = append(runes, r)
	}
	return string(runes), true
}
