package value

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestMark(t *testing.T) {
	for _, text := range []string{"---", "-----", "– – –", "=====", "___", "~~~~", "- 2 -", "- 12 -", "Page 2", "page 2 of 3", "Seite 2 von 3",
		"PAGE 2/3", "Pagina 2 di 3", "continued", "(continued)", "Fortsetzung"} {
		require.True(t, Mark(text), text)
		require.True(t, NoSale(text), text)
	}
	for _, text := range []string{"", "-", "--", "...", "***", "2", "-2-", "Page", "Page Holm", "Paget 2", "Continued Rope",
		"Oar", "Rope - 2", "-12.50", "Blade 2",
		"Page 2 Rope"} {
		require.False(t, Mark(text), text)
	}
}
