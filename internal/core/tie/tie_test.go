package tie

import (
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/value"
)

func add(t *testing.T, s *value.Sum, texts ...string) {
	for _, text := range texts {
		d, _, ok := value.English.Number([]byte(text))
		require.True(t, ok)
		s.Add(d)
	}
}

func TestAccount(t *testing.T) {
	var a, b, all Account
	add(t, &a.Read, "1.005", "20", "-3.5")
	add(t, &a.Changed, "0.005", "7")
	add(t, &a.Fact, "1.01", "20", "7")
	add(t, &a.Held, "-3.5")
	add(t, &b.Read, "99999999999999999999.9")
	add(t, &b.LeftOut, "99999999999999999999.9")
	all.Merge(&a)
	all.Merge(&b)
	got := all.Totals()
	require.Equal(t, "100000000000000000017.405", got.Read.String())
	require.Equal(t, "7.005", got.Changed.String())
	require.Equal(t, "28.010", got.Fact.String())
	require.Equal(t, "-3.500", got.Held.String())
	require.Equal(t, "99999999999999999999.900", got.LeftOut.String())
	require.Equal(t, "0.000", got.Difference.String())
	add(t, &all.Fact, "0.001")
	require.Equal(t, "-0.001", all.Totals().Difference.String())
}

func TestRows(t *testing.T) {
	a := Rows{Read: 10, Blank: 1, RepeatedHeader: 2, Used: 7, Made: 14, Skipped: 3, Dropped: 2, Held: 1, Fact: 8}
	require.True(t, a.Balanced())
	b := a
	b.Merge(a)
	require.True(t, b.Balanced())
	require.Equal(t, 16, b.Fact)
	require.Len(t, a.List(), len(RowsHeader))
	b.Held++
	require.False(t, b.Balanced())
	b.Held--
	b.Blank++
	require.False(t, b.Balanced())
}
