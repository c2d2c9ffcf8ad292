package xlsx

import (
	"bytes"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
)

// Strings of all lengths are what was put in, long ones between short ones too.
func TestPool(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	var p pool
	var want [][]byte
	for i := range 70_000 {
		n := r.IntN(30)
		if i%5_000 == 17 {
			n = r.IntN(4 << chunkBits)
		}
		if i%9_000 == 5 {
			n = 1<<chunkBits - 3 + r.IntN(6) // about a chunk
		}
		text := bytes.Repeat([]byte{byte('a' + i%26)}, n)
		p.add(text)
		want = append(want, text)
	}
	require.Equal(t, len(want), p.len())
	for i := range want {
		require.True(t, bytes.Equal(want[i], p.at(i)), i)
	}
	require.GreaterOrEqual(t, p.size(), int64(4*len(want)))
	var none *pool
	require.Zero(t, none.len())
}
