package key_test

import (
	"fmt"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"

	"umbau/internal/core/key"
)

func TestSame(t *testing.T) {
	for _, pair := range [][2]string{
		{"  dock-LINE.", "Dock Line"}, {"unit_price", "Unit price"}, {"Bouée Côtière", "BOUEE COTIERE"},
		{"Skipper's Mug", "Skippers mug"}, {"Skipper’s Mug", "skippers mug"}, {"Ｄｏｃｋ　Ｌｉｎｅ", "dock line"},
		{"Dock\u200b Line", "Dock Line"}, {"Größe", "GRÖSSE"}, {"ﬁd", "FID"}, {"Sales%", "sales %"}, {"A&B", "a & b"},
		{"MONTH:", "Month"}, {"Price (€)", "price €"}, {"e\u0301tai", "étai"}, {"１.５ m", "1.5 m"}, {"Dock\u00a0Line", "dock line"}, {"ꮔ", "Ꮔ"},
		{"Pipe 6'", "pipe 6′"}, {"Pipe 6''", `Pipe 6"`}, {"Pipe 6”", "Pipe 6″"}, {`"Dock" Line`, "Dock Line"}, {"No.5", "No 5"},
		{"A'.0", "a 0"}, {"a·b", "a b"},
	} {
		assert.Equal(t, key.Of(pair[0]), key.Of(pair[1]), "%q and %q", pair[0], pair[1])
		assert.True(t, key.Same(pair[0], pair[1]))
	}
}

func TestDifferent(t *testing.T) {
	for _, pair := range [][2]string{
		{"Sales %", "Sales"}, {"Dockline", "Dock Line"}, {"Line 10 m", "Line 15 m"}, {"Line 1.5 m", "Line 15 m"},
		{"1,5", "1.5"}, {"1/2", "12"}, {"10²", "102"}, {"1½", "11/2"}, {"½", "12"}, {"*", "!"}, {"A+", "A"}, {"€", "$"}, {"①0", "10"},
		{"Rope .5 mm", "Rope 5 mm"}, {"Pipe 6'", `Pipe 6"`}, {"Pipe 6'", "Pipe 6"}, {"Pipe 6″", "Pipe 6′"}, {"1·5 m", "1 5 m"}, {"1·5 m", "15 m"},
	} {
		assert.NotEqual(t, key.Of(pair[0]), key.Of(pair[1]), "%q and %q", pair[0], pair[1])
	}
	assert.Empty(t, key.Of(" \t\u00a0\u200b"))
}

// The two paths agree on plain text.
func FuzzOf(f *testing.F) {
	for _, s := range []string{"Dock Line", "1.5 m", "a.b", "50%", "x'y", "--", "1,2,3", "Ångström ½", "ꮔ", "6' 6\" .5", "6′′ ·5"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		k := key.Of(s)
		if len(s) < 200 { // a key is its own key
			assert.Equal(t, k, key.Of(k), "key of %q", s)
		}
	})
}

func BenchmarkOf(b *testing.B) {
	for _, text := range []string{"Rope", "  dock-LINE 10 m.", "collected by Mr Özdemir, 356831764"} {
		b.Run(text, func(b *testing.B) {
			var dst []byte
			for b.Loop() {
				dst = key.Append(dst[:0], text)
			}
		})
	}
}

func ExampleOf() {
	fmt.Println(key.Of("  dock-LINE 1.5 m."))
	fmt.Println(key.Of("Sales%"))
	// Output:
	// dock line 1.5 m
	// sales %
}

// Every letter's key is its own key, and that of its capital and small forms that
// differ in nothing else.
func TestEveryRune(t *testing.T) {
	for r := rune(0); r <= unicode.MaxRune; r++ {
		if !unicode.IsGraphic(r) && !unicode.Is(unicode.Cf, r) {
			continue
		}
		s := "x" + string(r) + "x"
		k := key.Of(s)
		if key.Of(k) != k {
			t.Errorf("%U: the key of %q is %q, and its key %q", r, s, k, key.Of(k))
		}
		if up := unicode.ToUpper(r); unicode.ToLower(up) == r && key.Of("x"+string(up)+"x") != k {
			t.Errorf("%U and %U have two keys", r, up)
		}
	}
}
