package value

import (
	"math/rand/v2"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
)

// slowNamed reads a date with the name of its month, word by word.
func slowNamed(text string) (Date, bool) {
	var d Date
	var figures []string
	nameAt := -1
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune("-/.,–", r) }) {
		switch m := monthNames[key.Of(w)]; {
		case w[0] >= '0' && w[0] <= '9':
			figures = append(figures, w)
		case strings.ToLower(w) == "de" || strings.ToLower(w) == "di":
		case m == 0 || d.Month != 0:
			return Date{}, false
		default:
			d.Month, nameAt = m, len(figures)
		}
	}
	if d.Month == 0 || len(figures) == 0 || len(figures) > 2 || nameAt == 2 {
		return Date{}, false
	}
	last := figures[len(figures)-1]
	if d.Year = number(last); len(last) != 4 || d.Year < 1 {
		return Date{}, false
	}
	if len(figures) == 2 {
		if d.Day = number(figures[0]); d.Day < 1 || len(figures[0]) > 2 {
			return Date{}, false
		}
	}
	return d, d.valid()
}

// slowParts takes a text apart in a form.
func slowParts(f DateForm, text string) []string {
	switch {
	case f.named:
		return strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || strings.ContainsRune("-/.'’", r) })
	case f.sep != 0:
		return strings.Split(text, string(f.sep))
	case f.order == "YMD" && len(text) == 8:
		return []string{text[:4], text[4:6], text[6:]}
	case f.order == "YM" && len(text) == 6:
		return []string{text[:4], text[4:]}
	}
	return nil
}

// Dates are read as the slow way does, whatever stands there.
func TestDatesTwoWays(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	pieces := []string{"31", "1", "02", "2024", "24", "Dec", "décembre", "märz", "MAI", "Août", "sept", "de", "DI", "rope", "2nd", "", "000",
		"’24", "T10:30"}
	between := []string{" ", "-", "/", ".", ",", "–", "'", "’", "\u00a0", "", "  ", "_"}
	read := 0
	for range 60_000 {
		var b strings.Builder
		for range r.IntN(6) {
			b.WriteString(pieces[r.IntN(len(pieces))] + between[r.IntN(len(between))])
		}
		text := b.String()
		want, wantOK := slowNamed(text)
		got, ok := namedDate(text)
		require.Equal(t, wantOK, ok, "%q", text)
		if ok {
			read++
			require.Equal(t, want, got, "%q", text)
		}
		for _, f := range DateForms {
			want := slowParts(f, text)
			parts, n := f.parts(text)
			if len(want) > 3 {
				require.Greater(t, n, 3, "%q as %s", text, f.Example)
				continue
			}
			require.Equal(t, append([]string{}, want...), append([]string{}, parts[:n]...), "%q as %s", text, f.Example)
		}
	}
	require.Greater(t, read, 150)
}
