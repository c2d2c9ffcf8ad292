package cli

import (
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/survey"
)

// Of an estimate no more digits are shown than are known.
func TestDistinctOf(t *testing.T) {
	for want, c := range map[string]survey.Column{
		"12,345":                   {Least: 12_345, Utmost: 12_345},
		"3 to 4,321":               {Least: 3, Utmost: 4321},
		"about 196,000":            {Least: 196_376, Utmost: 196_376, Estimated: true},
		"about 5,010":              {Least: 5012, Utmost: 5012, Estimated: true},
		"about 162,000 to 164,000": {Least: 162_036, Utmost: 163_885, Estimated: true},
		"":                         {Folded: []string{"Oar"}},
	} {
		require.Equal(t, want, distinctOf(&c))
	}
}
