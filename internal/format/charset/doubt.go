package charset

import (
	"io"
	"slices"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// Doubt is what speaks against an encoding that was found out.
type Doubt struct {
	Row   int    // where it was met first
	Word  string // the word, as it would read
	Mixed bool   // letters of UTF-8 stand among others
	Other string // the encoding that reads the word best; "" where it is mixed
}

// watch looks at the bytes of a text that was taken for Windows-1252 or ISO 8859-15.
type watch struct {
	in     io.Reader
	doubt  *Doubt
	latin9 bool // for the second
	row    int
	word   []byte // the bytes since the last one that no word has
}

// mostWord is how many bytes of a word are looked at.
const mostWord = 64

// Read implements io.Reader.
func (w *watch) Read(p []byte) (int, error) {
	n, err := w.in.Read(p)
	if w.doubt.Row > 0 {
		return n, err
	}
	for _, c := range p[:n] {
		if inWord(c) && len(w.word) < mostWord {
			w.word = append(w.word, c)
			continue
		}
		w.look()
		if c == '\n' {
			w.row++
		}
	}
	if err == io.EOF {
		w.look()
	}
	return n, err
}

// lastWord is the word with which a text ends, of which a part stood before.
func lastWord(before, text []byte) []byte {
	from := len(text)
	for from > 0 && inWord(text[from-1]) && len(text)-from < mostWord {
		from--
	}
	if from > 0 {
		before = before[:0]
	}
	word := append(before, text[from:]...)
	return word[max(0, len(word)-mostWord/2):]
}

func inWord(c byte) bool { return c >= 0x80 || c|0x20 >= 'a' && c|0x20 <= 'z' }

// look looks at the word that has ended.
func (w *watch) look() {
	word := w.word
	w.word = w.word[:0]
	if firstBeyondASCII(word) == len(word) || w.doubt.Row > 0 {
		return
	}
	mixed := utf8.Valid(word)
	if !mixed && !strange(word, w.latin9) {
		return
	}
	text, _ := charmap.Windows1252.NewDecoder().Bytes(word)
	*w.doubt = Doubt{Row: w.row, Word: string(text), Mixed: mixed}
	if !mixed {
		w.doubt.Other = other(word)
	}
}

// strange reports whether a word holds bytes that Windows-1252 does not have, or what no word has within it: signs and
// capital letters between small ones, or small ones between capitals; or whether it begins with a trade mark. In ISO 8859-15 some of
// the signs are letters.
func strange(word []byte, latin9 bool) bool {
	for i, c := range word {
		if noWindows1252(c) {
			return true
		}
		before, behind := byte(0), byte(0)
		if i > 0 {
			before = word[i-1]
		}
		if i+1 < len(word) {
			behind = word[i+1]
		}
		switch {
		case i == 0 && c == 0x99 && (small(behind) || capital(behind)):
			return true
		case small(behind) && (small(before) || i == 1 && before < 0x80):
			if noneWithin(c, latin9) {
				return true
			}
		case capital(before) && capital(behind) && (c == 0x9a || c == 0x9c || c == 0x9e):
			return true
		}
	}
	return false
}

// small reports whether a byte of Windows-1252 is a small letter.
func small(c byte) bool {
	return c >= 'a' && c <= 'z' || c >= 0xdf && c != 0xf7 || c == 0x9a || c == 0x9c || c == 0x9e
}

// capital reports whether a byte is a capital letter of ASCII.
func capital(c byte) bool { return c >= 'A' && c <= 'Z' }

// noWindows1252 reports whether Windows-1252 has no such byte.
func noWindows1252(c byte) bool { return c == 0x81 || c == 0x8d || c == 0x8f || c == 0x90 || c == 0x9d }

// noneWithin reports whether a byte does not stand between small letters: neither a small letter, nor a sign that may stand there, such
// as an apostrophe, a dash, a trade mark or a space.
func noneWithin(c byte, latin9 bool) bool {
	switch c {
	case 0x80, 0x85, 0x92, 0x96, 0x97, 0x99, 0xa0, 0xa9, 0xaa, 0xab, 0xad, 0xae, 0xb0, 0xb2, 0xb3, 0xb4, 0xb5, 0xb7, 0xb9, 0xba, 0xbb:
		return false
	case 0xa6, 0xa8, 0xb8, 0xbc, 0xbd, 0xbe:
		return !latin9
	}
	return c >= 0x80 && !small(c)
}

// other is the encoding in which most of a word are small letters, or capital ones, if none of ASCII is small.
func other(word []byte) string {
	fits := unicode.IsLower
	if !slices.ContainsFunc(word, func(c byte) bool { return c >= 'a' && c <= 'z' }) {
		fits = unicode.IsUpper
	}
	best, most := CP850, -1
	for _, o := range []struct {
		name string
		page *charmap.Charmap
	}{{CP850, charmap.CodePage850}, {CP437, charmap.CodePage437}, {Macintosh, charmap.Macintosh}, {ISO885915, charmap.ISO8859_15}} {
		n := 0
		for i, c := range word {
			if r := o.page.DecodeByte(c); r != 'ƒ' && (fits(r) || i == 0 && unicode.IsLetter(r)) {
				n++
			}
		}
		if n > most {
			best, most = o.name, n
		}
	}
	return best
}
