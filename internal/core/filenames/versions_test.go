package filenames

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestVersionOf(t *testing.T) {
	for name, of := range map[string]string{"Lakes (2)": "Lakes", "Copy of Lakes": "Lakes", "Lakes old": "Lakes", "Lakes_v2": "Lakes",
		"Lakes corrected": "Lakes", "Lakes - draft": "Lakes", "Lakes (provisional)": "Lakes", "Lakes final corrected": "Lakes",
		"Quay 4": "", "Lakes": "", "Old Slip": "", "draft": "", "": ""} {
		require.Equal(t, of, VersionOf(name), name)
	}
}

// A bracket that stays open is no end, and all sheets of one name have it.
func TestEndsOfNames(t *testing.T) {
	require.Empty(t, lastWords("Hand Flare (2)"))
	require.Equal(t, []string{"North Holm", "North Holm"}, OfSheets([]string{"North Holm", "North Holm"})[0].Values)
}
