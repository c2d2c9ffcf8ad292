package charset

import (
	"io"
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
	in    io.Reader
	doubt *Doubt
	row   int
	word  []byte // the bytes since the last one that no word has
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
	if !mixed && !strange(word) {
		return
	}
	text, _ := charmap.Windows1252.NewDecoder().Bytes(word)
	*w.doubt = Doubt{Row: w.row, Word: string(text), Mixed: mixed}
	if !mixed {
		w.doubt.Other = other(word)
	}
}

// strange reports whether a word holds bytes that Windows-1252 does not have, or signs and
// capital letters between small ones.
func strange(word []byte) bool {
	small := func(i int) bool { return i >= 0 && i < len(word) && word[i] >= 'a' && word[i] <= 'z' }
	for i, c := range word {
		switch c {
		case 0x81, 0x8d, 0x8f, 0x90, 0x9d: // which Windows-1252 does not have
			return true
		}
		if c >= 0x80 && c <= 0x9f && small(i+1) && (small(i-1) || i == 1 && word[0] < 0x80) {
			switch c {
			case 0x80, 0x85, 0x92, 0x96, 0x97, 0x99, 0x9a, 0x9c, 0x9e: // signs that may stand in a word, and letters
			default:
				return true
			}
		}
	}
	return false
}

// other is the encoding in which most of a word are small letters.
func other(word []byte) string {
	best, most := CP850, -1
	for _, o := range []struct {
		name string
		page *charmap.Charmap
	}{{CP850, charmap.CodePage850}, {CP437, charmap.CodePage437}, {Macintosh, charmap.Macintosh}} {
		n := 0
		for _, c := range word {
			if r := o.page.DecodeByte(c); unicode.IsLower(r) && r != 'ƒ' {
				n++
			}
		}
		if n > most {
			best, most = o.name, n
		}
	}
	return best
}
