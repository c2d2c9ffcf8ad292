package cli

import (
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/format/packed"
)

// A limit is raised by the name in its message; what it cannot be is said.
func TestLimits(t *testing.T) {
	var l limits
	for _, text := range []string{"strings=2GB", "cells=8000000", "texts=256 MB", "sheets=10000", "members=7", "depth=8"} {
		require.NoError(t, l.Set(text), text)
	}
	want := packed.Default
	want.Strings, want.Cells, want.Texts, want.Sheets, want.Members, want.Depth = 2<<30, 8_000_000, 256<<20, 10_000, 7, 8
	got := packed.Default
	for name, n := range l.most {
		*named(&got)[name] = n
	}
	require.Equal(t, want, got)
	for text, says := range map[string]string{
		"rows=5":     "the limits are cells, depth, members, sheets, strings, texts",
		"cells":      "cells is a number or a size",
		"cells=many": "cells is a number or a size",
		"cells=0":    "at least 1",
		"texts=8GB":  "at most 2GB",
		"":           "the limits are",
	} {
		require.ErrorContains(t, l.Set(text), says, text)
	}
}
