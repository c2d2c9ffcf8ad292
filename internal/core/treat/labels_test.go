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

// Labels of pieces, written down and merged in any order, are those of the whole.
func TestLabelsMerged(t *testing.T) {
	for _, sizes := range [][]int{{3, 5}, {fewLabels, 1}, {10, fewLabels + 5, 3}, {fewLabels + 1, fewLabels + 1}, {0, 2, 0}} {
		var whole, merged labels
		whole.forget()
		merged.forget()
		var pieces []*labels
		next := 0
		for _, n := range sizes {
			own := &labels{}
			own.forget()
			for range n {
				h := labelOf(1, fmt.Sprintf("Code %d", next))
				own.add(h)
				whole.add(h)
				next++
			}
			pieces = append(pieces, own)
		}
		for i := range pieces {
			sent := &labels{}
			text, err := pieces[len(pieces)-1-i].MarshalBinary()
			require.NoError(t, err)
			require.NoError(t, sent.UnmarshalBinary(text))
			merged.merge(sent)
		}
		require.Equal(t, whole.many, merged.many, "%v", sizes)
		for i := range next + 1000 {
			h := labelOf(1, fmt.Sprintf("Code %d", i))
			require.Equal(t, whole.has(h), merged.has(h), "%v %d", sizes, i)
		}
	}
	require.Error(t, (&labels{}).UnmarshalBinary(make([]byte, 7)))
	require.Error(t, (&labels{}).UnmarshalBinary(make([]byte, 8*(fewLabels+1))))
}
