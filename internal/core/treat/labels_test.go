package treat

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
)

// Labels are never forgotten, few or many; hardly another one is taken for one of them.
func TestLabels(t *testing.T) {
	var l labels
	for _, n := range []int{10, fewLabels, fewLabels + 1, 200_000, 3} {
		l.forget()
		for i := range n {
			l.add(labelOf(1, fmt.Sprintf("Code %d", i)))
		}
		require.Equal(t, n > fewLabels, l.many)
		wrong := 0
		for i := range n {
			require.True(t, l.has(labelOf(1, fmt.Sprintf("code %d.", i))))
			if l.has(labelOf(1, fmt.Sprintf("Note %d", i))) || l.has(labelOf(2, fmt.Sprintf("Code %d", i))) {
				wrong++
			}
		}
		require.LessOrEqual(t, wrong, n/100)
	}
}
