package table_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
)

// A sign that wants quotes is found wherever it stands, and no other one.
func TestQuoted(t *testing.T) {
	for n := range 20 {
		for at := range n {
			for c := range 256 {
				b := []byte(strings.Repeat("x", n))
				b[at] = byte(c)
				want := string(b)
				if strings.ContainsAny(want, ",\"\n\r") {
					want = `"` + strings.ReplaceAll(want, `"`, `""`) + `"`
				}
				require.Equal(t, want, table.Quoted(string(b)), "%d at %d of %d", c, at, n)
				require.Equal(t, want, string(table.AppendQuoted(nil, b)))
			}
		}
	}
}
