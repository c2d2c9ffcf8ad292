package value

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
)

// Numbers that are read at once are those that are read sign by sign: a plus before the digits takes the long way.
func TestNumberBothWays(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 18))
	plain := 0
	for range 40_000 {
		text := make([]byte, 1+r.IntN(21))
		for i := range text {
			text[i] = "00123456789.,' "[r.IntN(15)]
		}
		for _, s := range Styles {
			got, currency, ok := s.Number(text)
			want, _, wantOK := s.Number(append([]byte{'+'}, text...))
			if digit(text[0]) {
				require.Equal(t, wantOK, ok, "%s as %s", text, s.Example)
				require.Equal(t, 0, want.Cmp(got), "%s as %s", text, s.Example)
				require.Equal(t, want.Places(), got.Places(), "%s as %s", text, s.Example)
				require.Empty(t, currency)
			}
			if _, _, _, is := Plain(Trim(text), s.PointByte()); is {
				plain++
			}
		}
	}
	require.Greater(t, plain, 10_000)
}
