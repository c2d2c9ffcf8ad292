package value

import (
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// misread are the encodings in which UTF-8 is read by mistake.
var misread = []*charmap.Charmap{charmap.Windows1252, charmap.Macintosh, charmap.CodePage850, charmap.CodePage437}

// Restored returns what a text was before its UTF-8 was read in another encoding, as GrÃ¶ÃŸe was Größe; ok is false for a text
// that does not look so.
func Restored(text string) (was string, ok bool) {
	ascii := true
	for i := 0; i < len(text) && ascii; i++ {
		ascii = text[i] < utf8.RuneSelf
	}
	if ascii {
		return "", false
	}
	for _, page := range misread {
		if was, ok := restored(text, page); ok {
			return was, true
		}
	}
	return "", false
}

// restored is Restored for one encoding.
func restored(text string, page *charmap.Charmap) (was string, ok bool) {
	b := make([]byte, 0, len(text))
	for _, r := range text {
		c, ok := page.EncodeRune(r)
		switch {
		case ok:
		case page == charmap.Windows1252 && r >= 0x80 && r < 0xa0: // of ISO 8859-1
			c = byte(r)
		default:
			return "", false
		}
		b = append(b, c)
	}
	if !utf8.Valid(b) {
		return "", false
	}
	sure := false
	for i, r := range string(b) {
		switch {
		case r < utf8.RuneSelf:
		case r < 0xa0, r > 0x17f && r < 0x2010, r > 0x2044 && r != '€' && r != '™':
			return "", false // no letter or sign of western languages
		default:
			// Ä, Å or Â before a dash or a quote may be a letter at the end of a word, but for small letters around both.
			within := i > 0 && i+2 < len(b) && small(b[i-1]) && small(b[i+2])
			sure = sure || page != charmap.Windows1252 || b[i] == 0xc3 || b[i] == 0xe2 || !closes(b[i+1]) || within
		}
	}
	return string(b), sure
}

func small(c byte) bool { return c >= 'a' && c <= 'z' }

// closes reports whether a byte of Windows-1252 is a sign that may stand behind a word: a dash, a quote, dots, a trade mark, a
// no-break space.
func closes(c byte) bool {
	switch c {
	case 0x85, 0x91, 0x92, 0x93, 0x94, 0x96, 0x97, 0x99, 0xa0, 0xab, 0xae, 0xb0, 0xb4, 0xbb:
		return true
	}
	return false
}
