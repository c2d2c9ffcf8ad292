// Package key has the one key by which headers, names, lookup keys and the
// groups of control files are compared.
//
// Two texts are the same when their keys are. The key of a text is made so:
//
//   - Unicode compatibility forms are resolved (full width, ligatures; Unicode
//     Standard Annex #15, form NFKC) and case is folded (Unicode 5.18, "ß" is "ss").
//   - Accents and apostrophes are set aside; so are zero-width characters and
//     soft hyphens.
//   - A point, comma, middle point or slash between two digits stays, and a point
//     with which a number begins (.5); "%", "#", "&", "+", symbols such as "€" and a
//     prime or quote right behind a digit (feet, inches) are words of their own; all
//     other punctuation is a space.
//   - White space is squeezed to single spaces, none at the ends.
//
// So "  dock-LINE." is "Dock Line", "unit_price" is "Unit price", while
// "Sales %" is not "Sales", "Dockline" is not "Dock Line", and "1.5 m", "15 m"
// and "10 m" are three different things. Digits that compatibility would run
// together ("10²", "1½") are kept apart.
package key

import (
	"encoding/binary"
	"math/bits"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Of returns the key of a text. A text of punctuation alone is its own key, so
// that "*" and "!" are not the same; a blank text has the empty key.
func Of(s string) string { return string(Append(make([]byte, 0, len(s)+4), s)) }

// Append appends the key of a text.
func Append(dst []byte, s string) []byte {
	begin := len(dst)
	dst, ok := appendWestern(dst, s)
	if !ok {
		dst = append(dst[:begin], ofUnicode(s)...)
	}
	if len(dst) == begin {
		dst = append(dst, strings.TrimFunc(s, Invisible)...)
	}
	return dst
}

// Head returns the first eight letters and digits of ASCII in the key of a text as a word, the first one lowest and
// zeros behind the last one, mostly without the key. Texts of one key have one head.
func Head(s string) uint64 {
	head, ok := headOf(s, false)
	if !ok {
		head, _ = headOf(Of(s), true)
	}
	return head
}

// headOf is the first eight letters and digits of ASCII in the key of a text, if nothing but ASCII and western letters stands
// among them, or in a key.
func headOf(s string, isKey bool) (head uint64, ok bool) {
	i, n := 0, 0
	if len(s) >= 8 {
		if w := eightOf(s, 0); w&(0x80*ones) == 0 {
			head, n = squeezed(w)
			i = 8
		}
	}
	for ; i < len(s) && n < 64; i++ {
		if c := plain[s[i]]; c != 0 {
			head |= uint64(c) << n
			n += 8
		}
		if s[i] < 0x80 || isKey {
			continue
		}
		letter := Western(s, i)
		if letter == "" {
			return 0, false
		}
		for j := 0; j < len(letter) && n < 64; j++ {
			if c := plain[letter[j]]; c != 0 {
				head |= uint64(c) << n
				n += 8
			}
		}
		i++
	}
	return head, true
}

// squeezed are the letters and digits among eight bytes of ASCII, small and side by side, and how many bits they take.
func squeezed(w uint64) (out uint64, size int) {
	letters, digits, out := alphanumeric(w)
	size = 64
	for other := ^(letters | digits) & (0x80 * ones); other != 0; size -= 8 {
		below := other&-other>>7 - 1 // the bits of what stands before the first one
		out = out&below | out>>8&^below
		other = other &^ (0xff * (below + 1)) >> 8
	}
	return out, size
}

// alphanumeric tells by their highest bits which of eight bytes of ASCII are letters, and which are digits; letters are small
// in low, and digits as they were.
func alphanumeric(w uint64) (letters, digits, low uint64) {
	low = w | 0x20*ones
	letters = (low + (0x80-'a')*ones) &^ (low + (0x7f-'z')*ones)
	digits = (w + (0x80-'0')*ones) &^ (w + (0x7f-'9')*ones)
	return letters, digits, low
}

// Same reports whether two texts have one key.
func Same(a, b string) bool { return a == b || Of(a) == Of(b) }

// Differ reports whether some texts are not all the same.
func Differ(texts []string) bool {
	return slices.ContainsFunc(texts, func(t string) bool { return !Same(t, texts[0]) })
}

// Invisible reports whether a rune shows nothing: white space of any width,
// zero-width characters and soft hyphens.
func Invisible(r rune) bool {
	return unicode.IsSpace(r) || r > 0x7f && unicode.Is(unicode.Cf, r)
}

// appendWestern appends what ofUnicode gives, for the plain texts that most names are: ASCII and the
// letters of western languages. It reports whether the text is one of these.
func appendWestern(dst []byte, s string) (out []byte, ok bool) {
	b := builder{out: slices.Grow(dst, len(s)+12), begin: len(dst)}
	for i := 0; i < len(s); i++ {
		if len(s) >= 8 {
			if i += b.eight(eightOf(s, i)); i == len(s) {
				break
			}
		}
		c := s[i]
		switch {
		case plain[c] != 0:
			b.gap()
			b.out = append(b.out, plain[c])
			for i+1 < len(s) && plain[s[i+1]] != 0 {
				i++
				b.out = append(b.out, plain[s[i]])
			}
		case c >= 0x80:
			letter := Western(s, i)
			if letter == "" {
				return b.out, false
			}
			b.gap()
			b.out = append(b.out, letter...)
			i++
		case c == '\'' || c == '`' || c == '"':
			i += b.prime(c == '"', i > 0 && digit(s[i-1]), i+1 < len(s) && (s[i+1] == '\'' || s[i+1] == '`'))
		case c == '.' || c == ',' || c == '/':
			before, after := i > 0 && digit(s[i-1]), i+1 < len(s) && digit(s[i+1])
			if after && (before || c == '.' && b.apart()) {
				b.letter(c)
			} else {
				b.space = true
			}
		case strings.IndexByte("%#&+$<=>|~", c) >= 0:
			b.word(s[i : i+1])
		default:
			b.space = true
		}
	}
	return b.out, true
}

// eightOf are the bytes of a text of at least eight from i on, as a word, the first one lowest; zeros behind
// its end.
func eightOf(s string, i int) uint64 {
	begin := min(i, len(s)-8)
	e := s[begin : begin+8]
	w := uint64(e[0]) | uint64(e[1])<<8 | uint64(e[2])<<16 | uint64(e[3])<<24 | uint64(e[4])<<32 | uint64(e[5])<<40 | uint64(e[6])<<48 |
		uint64(e[7])<<56
	return w >> (8 * (i - begin))
}

// eight takes in the first of eight bytes, as far as they are letters and digits of ASCII with single spaces
// among them. It returns how many it took.
func (b *builder) eight(w uint64) (taken int) {
	const high = 0x80 * ones
	letters, digits, low := alphanumeric(w) // spaces are as they were in low, too
	spaces := ^((w ^ ' '*ones) + 0x7f*ones) & high
	other := (w | ^(letters | digits | spaces) | spaces&(spaces<<8)) & high // right up to the first one
	if taken = bits.TrailingZeros64(other) / 8; taken == 0 {
		return 0
	}
	n := taken
	if spaces&0x80 != 0 {
		b.space, low, n = true, low>>8, n-1
	}
	if n == 0 {
		return taken
	}
	b.gap()
	if spaces>>(8*taken-1)&1 != 0 {
		b.space, n = true, n-1
	}
	end := len(b.out) + n
	b.out = binary.LittleEndian.AppendUint64(b.out, low)[:end]
	return taken
}

const ones = 0x0101010101010101

// plain is what becomes of the letters and digits of ASCII, 0 for other bytes.
var plain = func() (table [256]byte) {
	for c := range table {
		switch {
		case c >= 'a' && c <= 'z', c >= '0' && c <= '9':
			table[c] = byte(c)
		case c >= 'A' && c <= 'Z':
			table[c] = byte(c | 0x20)
		}
	}
	return table
}()

// westerns is what becomes of each letter of two bytes that begin with c3, c4 or c5, from À to ſ; "" for
// what is none, or is to be looked at closely.
var westerns = func() (table [3][64]string) {
	const letters = `a a a a a a æ c e e e e i i i i ð n o o o o o - ø u u u u y þ ss a a a a a a æ c e e e e i i i i ð n o o o o o - ø
		u u u u y þ y a a a a a a c c c c c c c c d d đ đ e e e e e e e e e e g g g g g g g g h h ħ ħ i i i i i i i i i ı - - j j k k ĸ
		l l l l l l - - ł ł n n n n n n - ŋ ŋ o o o o o o œ œ r r r r r r s s s s s s s s t t t t ŧ ŧ u u u u u u u u u u u u w w y y y
		z z z z z z -`
	for i, l := range strings.Fields(letters) {
		if l != "-" {
			table[i>>6][i&0x3f] = l
		}
	}
	return table
}()

// Western is what becomes in a key of the western letter of two bytes that begins at a byte of a text; "" where none does, or
// it is to be looked at closely.
func Western[T string | []byte](s T, i int) string {
	if c := s[i]; c >= 0xc3 && c <= 0xc5 && i+1 < len(s) && s[i+1]&0xc0 == 0x80 {
		return westerns[c-0xc3][s[i+1]&0x3f]
	}
	return ""
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// builder puts a key together; a pending space is written before the next letter.
type builder struct {
	out   []byte
	begin int // of the key in it
	space bool
}

func (b *builder) gap() {
	if b.space && len(b.out) > b.begin {
		b.out = append(b.out, ' ')
	}
	b.space = false
}

// apart reports whether a word begins with what comes next.
func (b *builder) apart() bool { return b.space || len(b.out) == b.begin }

func (b *builder) letter(c byte) {
	b.gap()
	b.out = append(b.out, c)
}

func (b *builder) word(s string) {
	b.space = true
	b.gap()
	b.out = append(b.out, s...)
	b.space = true
}

// prime takes in an apostrophe or a quote: right behind a digit it ends the word, two
// apostrophes are a quote, and elsewhere apostrophes are set aside. It returns how
// many more runes it took.
func (b *builder) prime(quote, behindDigit, again bool) (more int) {
	if !behindDigit {
		b.space = b.space || quote
		return 0
	}
	if !quote && again {
		quote, more = true, 1
	}
	sign := byte('\'') // where it stands, or it would be none
	if quote {
		sign = '"'
	}
	b.letter(sign)
	b.space = true
	return more
}

func ofUnicode(s string) string {
	// Folding makes some scripts' small letters capitals (Cherokee), and the library
	// makes those small again: small ones are meant.
	s = strings.ToLower(cases.Fold().String(norm.NFKC.String(apart(s))))
	runes := []rune(norm.NFKD.String(s))
	kept := runes[:0]
	for _, r := range runes {
		if accent(r) || unicode.Is(unicode.Cf, r) {
			continue
		}
		switch {
		case r == '\u2044': // the stroke of a vulgar fraction
			r = '/'
		case apostrophe(r):
			r = '\''
		}
		kept = append(kept, r)
	}
	var b builder
	for i := 0; i < len(kept); i++ {
		r, before, after := kept[i], i > 0 && unicode.IsDigit(kept[i-1]), i+1 < len(kept) && unicode.IsDigit(kept[i+1])
		switch {
		case r == '\'' || strings.ContainsRune("\"”“", r):
			i += b.prime(r != '\'', before, i+1 < len(kept) && kept[i+1] == '\'')
		case unicode.IsLetter(r), unicode.IsDigit(r), unicode.IsNumber(r), unicode.IsMark(r):
			b.gap()
			b.out = append(b.out, string(r)...)
		case r == '.' || r == ',' || r == '/' || r == '·':
			if after && (before || r == '.' && b.apart()) {
				b.gap()
				b.out = append(b.out, string(r)...)
			} else {
				b.space = true
			}
		case strings.ContainsRune("%#&+", r), unicode.IsSymbol(r) && r != '^':
			b.word(string(r))
		default:
			b.space = true
		}
	}
	return norm.NFC.String(string(b.out))
}

// apart puts a space where compatibility forms would run digits together that
// are not one number: after "10" in "10²", before "½" in "1½".
func apart(s string) string {
	var b strings.Builder
	before := false // the last rune ends in a digit
	special := false
	for _, r := range s {
		plain := unicode.IsDigit(r) // full-width digits are plain digits too
		made := !plain && unicode.IsNumber(r) && strings.ContainsFunc(norm.NFKC.String(string(r)), unicode.IsDigit)
		if before && made || special && plain {
			b.WriteByte(' ')
		}
		b.WriteRune(r)
		before, special = plain || made, made
	}
	return b.String()
}

// accent reports whether r is a combining diacritical mark. Marks of scripts in
// which they are part of the letter stay.
func accent(r rune) bool {
	switch {
	case r < 0x300:
		return false
	case r <= 0x36f, r >= 0x1ab0 && r <= 0x1aff, r >= 0x1dc0 && r <= 0x1dff, r >= 0x20d0 && r <= 0x20ff, r >= 0xfe20 && r <= 0xfe2f:
		return true
	}
	return false
}

func apostrophe(r rune) bool { return strings.ContainsRune("'`´‘’‛ʼʹʻʽ′", r) }
