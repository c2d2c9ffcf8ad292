package pattern_test

import (
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"umbau/internal/core/pattern"
)

func TestFit(t *testing.T) {
	for _, c := range []struct {
		pattern, text string
		want          string // fields in order, "-" when it does not fit
	}{
		{"{region}_{year:digits}", "north_2023", "region=north year=2023"},
		{"{region}_{year:digits}", "north_east_2023", "region=north_east year=2023"},
		{"{region}_{rest}", "north_east_2023", "region=north rest=east_2023"},
		{"{region}_{year:digits}", "north_next", "-"},
		{"*-{}", "A-B-C", "=B-C"},
		{"{product} ({size})", "Dock Line (10 m)", "product=Dock Line size=10 m"},
		{"{product}[ - {part}]", "Stove - Grate", "product=Stove part=Grate"},
		{"{product}[ - {part}]", "Stove", "product=Stove"},
		{"total_{code}", "TOTAL_x9", "code=x9"},
		{"{measure:letters} {product}", "Qty Dock Line", "measure=Qty product=Dock Line"},
		{"Qty *", "qty   Dock", ""},
		{"Qty *", "qtyDock", "-"},
		{"a b", "A\t\n B", ""},
		{`\{x\}\[\]\*\\`, `{X}[]*\`, ""},
		{"{a}", "", "-"},
		{"*", "", ""},
		{"[{a}]", "", ""},
		{"{y:digits}", "٣", "-"},
		{"Straße {n}", "STRAßE 5", "n=5"},
		{"[[a]b]c", "bc", ""},
		{"[[a]b]c", "ac", "-"},
	} {
		p, err := pattern.Parse(c.pattern)
		require.NoError(t, err, c.pattern)
		got, ok := p.Fit(c.text)
		text := "-"
		if ok {
			var parts []string
			for _, f := range p.Fields() {
				if v, there := got[f]; there {
					parts = append(parts, f+"="+v)
				}
			}
			text = strings.Join(parts, " ")
		}
		assert.Equal(t, c.want, text, "%s on %s", c.pattern, c.text)
		assert.Equal(t, ok, p.Fits(c.text))
	}
}

func TestErrors(t *testing.T) {
	for in, want := range map[string]string{
		"{a": "character 1", "a}": "character 2", "[a": "character 1", "a]": "character 2", `a\b`: "character 2",
		`\`: "character 1", "{a}{a}": "stands twice", "{a:many}": "digits or letters", strings.Repeat("[", 30): "more than 20",
	} {
		_, err := pattern.Parse(in)
		assert.ErrorContains(t, err, want, in)
	}
}

func TestSetLimit(t *testing.T) {
	p, err := pattern.Parse("{a}{year}")
	require.NoError(t, err)
	p.SetLimit("year", pattern.Digits)
	got, ok := p.Fit("x2023")
	assert.True(t, ok)
	assert.Equal(t, "x", got["a"])
	assert.Equal(t, "2023", got["year"])
	assert.True(t, p.Has("year"))
	assert.False(t, p.Literal())
}

func TestWriteLeavesOutBrackets(t *testing.T) {
	p, err := pattern.Parse("{product}[ - {size}]")
	require.NoError(t, err)
	write := func(product, size string) string {
		return p.Write(func(n string) string { return map[string]string{"product": product, "size": size}[n] })
	}
	assert.Equal(t, "Rope - 10 m", write("Rope", "10 m"))
	assert.Equal(t, "Rope", write("Rope", ""))
}

// A long text with many choices must not take exponential time: this would never end.
func TestFitIsLinear(t *testing.T) {
	p, err := pattern.Parse(strings.Repeat("[*a]", 12) + "b")
	require.NoError(t, err)
	assert.False(t, p.Fits(strings.Repeat("a", 20_000)))
}

// What a pattern writes, it fits; and fitting what it wrote and writing again
// gives the same text.
func FuzzWriteIsRead(f *testing.F) {
	f.Add("{a}_{b}", "north", "2023")
	f.Add("{a}[ - {b}]", "x", "")
	f.Add("[{a}:]x {b:digits}", "", "5")
	f.Add(`\[{a}\] {b}`, "q", "w")
	f.Add("{a}{b}", "\xcc", "\xa7")
	f.Fuzz(func(t *testing.T, text, a, b string) {
		p, err := pattern.Parse(text)
		if err != nil || len(text) > 100 || len(a)+len(b) > 200 || strings.Contains(text, "*") {
			return
		}
		if !utf8.ValidString(a) || !utf8.ValidString(b) { // two halves of a letter would be one character
			return
		}
		values := map[string]string{"a": a, "b": b}
		for _, name := range p.Fields() {
			if values[name] == "" || strings.Contains(text, ":") {
				return
			}
		}
		written := p.Write(func(n string) string { return values[n] })
		got, ok := p.Fit(written)
		require.True(t, ok, "%q writes %q and does not fit it", text, written)
		again := p.Write(func(n string) string { return got[n] })
		_, ok = p.Fit(again)
		assert.True(t, ok)
	})
}

func ExamplePattern_Fit() {
	p, _ := pattern.Parse("{region}_{year:digits}")
	pieces, ok := p.Fit("long_sound_2024")
	fmt.Println(pieces["region"], pieces["year"], ok)
	// Output: long_sound 2024 true
}

func BenchmarkFit(b *testing.B) {
	p, _ := pattern.Parse("{region}_{year:digits}")
	for b.Loop() {
		p.Fit("long_sound_2024")
	}
}

// The short way of simple patterns finds what the machine finds.
func FuzzSimple(f *testing.F) {
	for _, s := range []string{"*-{} *", "{a} {b}", "{a}*x", "Qty *", "{}", "*{a}", "{a} ", " {a}-{b}*c", "ab", "*a*b"} {
		for _, text := range []string{"art-A0001 Rope 10 mm", "x  ", "a b  c", "qty  ROPE", "", "--", "x-y-c zc", "ab", "Straße-5 x"} {
			f.Add(s, text)
		}
	}
	f.Fuzz(func(t *testing.T, s, text string) {
		p, err := pattern.Parse(s)
		if err != nil || len(s) > 60 || len(text) > 200 {
			return
		}
		slow, fast := pattern.Both(p, text)
		require.Equal(t, slow, fast, "%q on %q", s, text)
		piece, ok := p.Piece(text)
		pieces, fits := p.Fit(text)
		require.Equal(t, fits, ok)
		require.Equal(t, pieces[pattern.Keep], piece)
	})
}

func BenchmarkPiece(b *testing.B) {
	p, err := pattern.Parse("*-{} *")
	require.NoError(b, err)
	for b.Loop() {
		p.Piece("art-A0012345 Marine Rope 10 mm")
	}
}

// A text fits its own pattern, and no other text does.
func TestEscape(t *testing.T) {
	for _, text := range []string{"Avg [EUR]", "{x}", "*", `a\b`, "Rank*", "Kosten [EUR", "}{"} {
		p, err := pattern.Parse(pattern.Escape(text))
		require.NoError(t, err)
		require.True(t, p.Fits(text), "%q", text)
		require.True(t, p.Literal(), "%q", text)
		require.False(t, p.Fits(text+"x"), "%q", text)
	}
}
