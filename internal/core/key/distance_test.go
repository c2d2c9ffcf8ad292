package key_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/key"
)

func TestDistance(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{
		{"", "", 0}, {"", "abc", 3}, {"rope", "rope", 0}, {"rope", "ropes", 1}, {"rope", "orpe", 1}, {"rope", "rpoe", 1}, {"rope", "cope", 1},
		{"ca", "abc", 3},
		{"größe", "grösse", 2}, {strings.Repeat("a", 64), strings.Repeat("a", 63), 1}, {strings.Repeat("a", 65), strings.Repeat("a", 65), 65},
	} {
		require.Equal(t, c.want, key.Distance([]rune(c.a), []rune(c.b)), c.a+" "+c.b)
		require.Equal(t, c.want, key.Distance([]rune(c.b), []rune(c.a)), "either way round")
	}
}

// slow is the distance by its definition: the least of what the ends of two texts
// leave to do.
func slow(a, b []rune) int {
	if len(a) == 0 || len(b) == 0 {
		return len(a) + len(b)
	}
	x, y := a[:len(a)-1], b[:len(b)-1]
	cost := 1
	if a[len(x)] == b[len(y)] {
		cost = 0
	}
	d := min(slow(x, b)+1, slow(a, y)+1, slow(x, y)+cost)
	if len(x) > 0 && len(y) > 0 && a[len(x)] == b[len(y)-1] && a[len(x)-1] == b[len(y)] {
		d = min(d, slow(x[:len(x)-1], y[:len(y)-1])+1)
	}
	return d
}

func TestDistanceByDefinition(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	word := func() (out []rune) {
		for range r.IntN(7) {
			out = append(out, []rune("abcé")[r.IntN(4)])
		}
		return out
	}
	for range 2000 {
		a, b := word(), word()
		require.Equal(t, slow(a, b), key.Distance(a, b), string(a)+" "+string(b))
	}
}

func TestNearest(t *testing.T) {
	known := []string{"blanks", "nulls", "texts", "unclear", "errors"}
	for word, want := range map[string]string{"blank": "blanks", "unclaer": "unclear", "erors": "errors", "nulls": "nulls", "products": "",
		"": ""} {
		require.Equal(t, want, key.Nearest(word, known), word)
	}
}
