// Package charset turns text files of the encodings that regions send into
// UTF-8.
//
// Where the encoding is not said it is found out: by a byte order mark; by the
// NUL bytes that UTF-16 puts beside ASCII letters; as UTF-8, if that is what it
// is; else Windows-1252 or ISO 8859-15. These two differ in a few bytes: those
// from 0x80 to 0x9F are letters in the first and control characters in the
// second; 0xA4 is the euro sign in the second and hardly ever meant in the first, and š, ž and œ of the second, where
// they stand between small letters, are no signs of the first.
// As long as a file holds ASCII alone nothing is decided.
//
// What was found out is watched to the end of the text: bytes that no Windows-1252 text
// has, signs within words that other code pages have letters for, and letters of UTF-8
// among others are a doubt.
package charset

import (
	"bytes"
	"encoding/binary"
	"io"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// The encodings.
const (
	UTF8        = "utf-8"
	UTF16LE     = "utf-16le"
	UTF16BE     = "utf-16be"
	Windows1252 = "windows-1252"
	ISO885915   = "iso-8859-15"
	CP437       = "cp437"
	CP850       = "cp850"
	Macintosh   = "macintosh"
)

var encodings = map[string]encoding.Encoding{
	UTF16LE:     unicode.UTF16(unicode.LittleEndian, unicode.UseBOM),
	UTF16BE:     unicode.UTF16(unicode.BigEndian, unicode.UseBOM),
	Windows1252: charmap.Windows1252,
	ISO885915:   charmap.ISO8859_15,
	CP437:       charmap.CodePage437,
	CP850:       charmap.CodePage850,
	Macintosh:   charmap.Macintosh,
}

// Reader reads a text of any of the encodings as UTF-8 without a byte order
// mark. What is no UTF-8 in a text that should be is passed on as it is.
type Reader struct {
	in      io.Reader
	name    string // "" until it is known
	guessed bool   // it was found out
	rows    int    // before buf
	word    []byte // with which that ends
	buf     []byte // read, but not handed out
	begun   bool
	err     error // of in
	doubt   *Doubt
}

// How many bytes are looked at: the first ones for marks and UTF-16, and those from
// the first beyond ASCII on for the other encodings.
const (
	first  = 4 << 10
	sample = 64 << 10
)

// NewReader returns a reader of a text in the encoding of this name, "" for one
// to be found out.
func NewReader(in io.Reader, name string) *Reader {
	return &Reader{in: in, name: name, guessed: name == ""}
}

// Doubt returns what speaks against the encoding that was found out, as far as it was
// read; nil for nothing.
func (r *Reader) Doubt() *Doubt {
	if r.doubt == nil || r.doubt.Row == 0 {
		return nil
	}
	return r.doubt
}

// Encoding names the encoding, as far as it has shown.
func (r *Reader) Encoding() string {
	if r.name == "" {
		return UTF8
	}
	return r.name
}

// Read implements io.Reader.
func (r *Reader) Read(p []byte) (int, error) {
	if !r.begun {
		r.begun = true
		r.begin()
	}
	n := copy(p, r.buf)
	if r.buf = r.buf[n:]; n == 0 {
		if r.err != nil {
			return 0, r.err
		}
		if n, r.err = r.in.Read(p); n == 0 {
			return 0, r.err
		}
	}
	if r.name != "" {
		return n, nil
	}
	at := firstBeyondASCII(p[:n])
	r.rows += bytes.Count(p[:at], []byte{'\n'})
	r.word = lastWord(r.word, p[:at])
	if at == n {
		return n, nil
	}
	r.buf = append(append(make([]byte, 0, sample), p[at:n]...), r.buf...)
	if at == 0 {
		r.decide()
		return r.Read(p)
	}
	return at, nil
}

// fill reads so many more bytes.
func (r *Reader) fill(n int) {
	buf := make([]byte, n)
	n, err := io.ReadFull(r.in, buf)
	if err == io.ErrUnexpectedEOF {
		err = io.EOF
	}
	r.buf, r.err = append(r.buf, buf[:n]...), err
}

// begin looks at the beginning of the text.
func (r *Reader) begin() {
	r.fill(first)
	b := r.buf
	mark := ""
	switch {
	case bytes.HasPrefix(b, []byte("\xef\xbb\xbf")):
		mark = UTF8
	case bytes.HasPrefix(b, []byte("\xff\xfe")):
		mark = UTF16LE
	case bytes.HasPrefix(b, []byte("\xfe\xff")):
		mark = UTF16BE
	case r.name == "":
		mark = utf16Without(b)
	}
	if r.name == "" {
		r.name = mark
	}
	if r.name == UTF8 && mark == UTF8 {
		r.buf = b[3:]
	}
	if r.name != "" && r.name != UTF8 {
		r.decode()
	}
}

// utf16Without finds UTF-16 without a byte order mark: nearly every other byte
// is NUL, as of ASCII letters, and hardly one between them.
func utf16Without(b []byte) string {
	if len(b) < 4 {
		return ""
	}
	var nul [2]int
	for i, c := range b[:len(b)&^1] {
		if c == 0 {
			nul[i&1]++
		}
	}
	pairs := len(b) / 2
	switch {
	case nul[1] > pairs*6/10 && nul[0] <= pairs/20:
		return UTF16LE
	case nul[0] > pairs*6/10 && nul[1] <= pairs/20:
		return UTF16BE
	}
	return ""
}

// decide names the encoding of a text whose buffer begins with a byte beyond
// ASCII.
func (r *Reader) decide() {
	for len(r.buf) < sample && r.err == nil {
		r.fill(sample)
	}
	r.name = eightBit(r.word, r.buf, r.err != nil)
	if r.name != UTF8 {
		r.decode()
	}
}

// eightBit tells UTF-8, Windows-1252 and ISO 8859-15 apart. A word stands before the text.
func eightBit(word, b []byte, whole bool) string {
	for cut := 0; cut < utf8.UTFMax; cut++ { // the sample may end within a letter
		if utf8.Valid(b[:max(0, len(b)-cut)]) && len(b) > cut {
			return UTF8
		}
		if whole {
			break
		}
	}
	for _, c := range b {
		if c >= 0x80 && c <= 0x9f {
			return Windows1252
		}
	}
	if bytes.IndexByte(b, 0xa4) >= 0 {
		return ISO885915
	}
	for i, c := range b { // which are signs in the first
		if c != 0xa8 && c != 0xb8 && c != 0xbd || i+1 == len(b) || !small(b[i+1]) {
			continue
		}
		if i > 0 {
			word = b[:i]
		}
		if len(word) > 0 && small(word[len(word)-1]) {
			return ISO885915
		}
	}
	return Windows1252
}

// decode lets the rest of the text pass through the decoder.
func (r *Reader) decode() {
	rest := io.MultiReader(bytes.NewReader(r.buf), &after{r.in, r.err})
	if r.guessed && (r.name == Windows1252 || r.name == ISO885915) {
		r.doubt = &Doubt{}
		rest = &watch{in: rest, doubt: r.doubt, latin9: r.name == ISO885915, row: 1 + r.rows, word: r.word}
	}
	r.in, r.buf, r.err = transform.NewReader(rest, encodings[r.name].NewDecoder()), nil, nil
}

// after reads on where no error has come yet.
type after struct {
	in  io.Reader
	err error
}

func (a *after) Read(p []byte) (int, error) {
	if a.err != nil {
		return 0, a.err
	}
	return a.in.Read(p)
}

func firstBeyondASCII(b []byte) int {
	i := 0
	for ; i+32 <= len(b); i += 32 {
		w := b[i : i+32]
		if (binary.LittleEndian.Uint64(w)|binary.LittleEndian.Uint64(w[8:])|binary.LittleEndian.Uint64(w[16:])|binary.LittleEndian.Uint64(
			w[24:]))&0x8080808080808080 != 0 {
			break
		}
	}
	for ; i < len(b); i++ {
		if b[i] >= 0x80 {
			return i
		}
	}
	return len(b)
}
