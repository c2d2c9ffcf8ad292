package key

import (
	"encoding/binary"
	"math/rand/v2"
	"testing"
	"unicode"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/norm"
)

// The short way, for western texts, comes to what the long way does.
func TestWestern(t *testing.T) {
	signs := []rune(" aZ09.,'\"`/%#&+$-_~()\t")
	for r := rune(0x80); r < 0x250; r++ {
		signs = append(signs, r, rune("a0 .,'x9"[r%8]))
	}
	r := rand.New(rand.NewPCG(3, 4))
	short := 0
	for range 300_000 {
		var s []rune
		for range 1 + r.IntN(9) {
			if r.IntN(3) == 0 { // what is taken in eight at a time
				s = append(s, []rune("Rope 12 mm, zZ09  ab")[r.IntN(12):][:r.IntN(9)]...)
			} else if r.IntN(3) == 0 {
				s = append(s, signs[r.IntN(22)])
			} else {
				s = append(s, signs[r.IntN(len(signs))])
			}
		}
		text := string(s)
		if got, ok := appendWestern(nil, text); ok {
			short++
			require.Equal(t, ofUnicode(text), string(got), "%q", text)
		}
		require.Equal(t, headByDefinition(text), Head(text), "%q", text)
	}
	require.Greater(t, short, 50_000)
	for _, torn := range []string{"\xc3", "x\xc3x", "\xc4\xff", "\xc3\x28"} {
		_, ok := appendWestern(nil, torn)
		require.False(t, ok, "%q", torn)
	}
}

// Whatever stands among and behind the first letters of a text, its head is that of its key.
func TestHead(t *testing.T) {
	signs := []rune("\u0301\u0338\u0307\u05b0\u3099\u200d\u2044²½’'\"º.,/٣ﬁＡ𝟙ſK ×€")
	r := rand.New(rand.NewPCG(3, 5))
	for range 100_000 {
		var s []rune
		for range 5 + r.IntN(10) {
			if r.IntN(5) == 0 {
				s = append(s, signs[r.IntN(len(signs))])
			} else {
				s = append(s, []rune("e1i. s'Kßã")[r.IntN(10)])
			}
		}
		require.Equal(t, headByDefinition(string(s)), Head(string(s)), "%q", string(s))
	}
}

// headByDefinition takes the letters and digits of ASCII out of the key, one by one.
func headByDefinition(text string) uint64 {
	var first [8]byte
	n := 0
	for _, r := range Of(text) {
		if n < len(first) && (r >= 'a' && r <= 'z' || r >= '0' && r <= '9') {
			first[n] = byte(r)
			n++
		}
	}
	return binary.LittleEndian.Uint64(first[:])
}

// The table of western letters is what the long way makes of each.
func TestWesternLetters(t *testing.T) {
	for r := 'À'; r < 0x180; r++ {
		between := ofUnicode("x" + string(r) + "x")
		want := between[1 : len(between)-1]
		if !unicode.IsLetter(r) || !norm.NFKC.IsNormalString(string(r)) {
			want = ""
		}
		require.Equal(t, want, Western(string(r), 0), "%c", r)
	}
}
