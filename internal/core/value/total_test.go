package value

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
)

// No total word is missed by the quick look, whatever letters and signs stand for it.
func TestMayTotal(t *testing.T) {
	hides := map[rune][]string{'t': {"t", "T", "ţ", "Ť", "t'", "t\u0301", "ｔ", "t\u200b"},
		'o': {"o", "Ö", "ô", "Ő", "ｏ"}, 's': {"s", "S", "ß", "Ş", "ſ"},
		'u': {"u", "Ü", "ů", "Ų"}, 'm': {"m", "M", "m\u00ad"}, 'e': {"e", "É", "ě", "Ę"}, 'g': {"g", "Ğ", "ģ"}, 'a': {"a", "å", "ª"}}
	var words []string
	for w := range totalWords {
		words = append(words, w)
	}
	r := rand.New(rand.NewPCG(5, 6))
	met, quick := 0, 0
	for range 100_000 {
		var b strings.Builder
		before, behind := []string{"", "Lakes ", "Müller-", "10 "}[r.IntN(4)], []string{"", " EUR", "bad", "."}[r.IntN(4)]
		for _, c := range before + words[r.IntN(len(words))] + behind {
			if list := hides[c]; len(list) > 0 && r.IntN(3) == 0 {
				b.WriteString(list[r.IntN(len(list))])
			} else {
				b.WriteRune(c)
			}
		}
		text := b.String()
		among := false
		for _, w := range strings.Fields(key.Of(text)) {
			among = among || totalWord(w)
		}
		if among {
			met++
			require.True(t, mayTotal(text), "%q", text)
			require.True(t, mayTotal([]byte(text)), "%q", text)
		}
	}
	require.Greater(t, met, 30_000)
	for _, text := range []string{"Größe 12, cut to length", "Mr Özdemir", "Æbelø 3", "Dock Line", "Țesătură"[2:], "Brass"} {
		if !mayTotal(text) {
			quick++
		}
	}
	require.Equal(t, 6, quick, "most texts are not looked at long")
}

// The quick look says what a slow one says: whether one of four words stands in a text, folded.
func TestMayTotalByDefinition(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	letters := []string{"t", "o", "T", "s", "u", "m", "g", "e", "S", "x", " ", "7", "ö", "ß", "x", "7", "'", "ţ", "ｔ"}
	found := 0
	for i := range 200_000 {
		text, folded, hidden := "", "", false
		for range r.IntN(10) {
			n := len(letters) - 2*(i%2) - i%3 // mostly without what hides
			c := letters[r.IntN(n)]
			text += c
			hidden = hidden || c == "'" || c == "ｔ"
			folded += map[string]string{"ß": "s", "ö": "o", "ţ": "t"}[c] // "ss" is two of one
			if len(c) == 1 {
				folded += strings.ToLower(c)
			}
		}
		want := false
		for _, word := range []string{"tot", "sum", "som", "ges"} {
			want = want || strings.Contains(folded, word)
		}
		switch {
		case !hidden:
			require.Equal(t, want, mayTotal(text), "%q", text)
		case want:
			require.True(t, mayTotal(text), "%q", text)
		}
		if want && !hidden {
			found++
		}
	}
	require.Greater(t, found, 1000)
}

func BenchmarkMayTotal(b *testing.B) {
	texts := []string{"collected by Mr Özdemir, 356831764", "receipt 386696589, paid late", "post 448662539", `said "by 788494024"`}
	for i := 0; b.Loop(); i++ {
		mayTotal(texts[i%len(texts)])
	}
}
