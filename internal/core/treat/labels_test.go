package treat

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
)

// Labels are never forgotten; of a few it is sure whether one is there, and of many that another one is not.
func TestLabels(t *testing.T) {
	var l labels
	for _, n := range []int{10, fewLabels, fewLabels + 1, 200_000, 3} {
		l.forget()
		for i := range n {
			l.add(labelOf(1, fmt.Sprintf("Code %d", i)))
		}
		require.Equal(t, n > fewLabels, l.many)
		for i := range n {
			may, sure := l.has(labelOf(1, fmt.Sprintf("code %d.", i)))
			require.True(t, may)
			require.Equal(t, n <= fewLabels, sure)
			for _, other := range []label{labelOf(1, fmt.Sprintf("Note %d", i)), labelOf(2, fmt.Sprintf("Code %d", i))} {
				may, sure := l.has(other)
				require.False(t, may)
				require.True(t, sure)
			}
		}
	}
}

// Who lists many labels leaves their whole keys out; others may not know yet that they are many.
func TestLabelsWithoutWholes(t *testing.T) {
	var l labels
	l.forget()
	l.add(labelOf(1, "Quay 4"), label{Begins: beginOf(1, "Old Slip")}, labelOf(1, "Boatyard"))
	for _, text := range []string{"quay 4", "Old Slip", "Boatyard"} {
		may, sure := l.has(labelOf(1, text))
		require.True(t, may, text)
		require.False(t, sure, text)
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
			have, sure := merged.has(h)
			want, alsoSure := whole.has(h)
			require.Equal(t, []bool{want, alsoSure}, []bool{have, sure}, "%v %d", sizes, i)
		}
	}
	require.Error(t, (&labels{}).UnmarshalBinary(make([]byte, 7)))
	require.Error(t, (&labels{}).UnmarshalBinary(make([]byte, 16*(fewLabels+1))))
}
