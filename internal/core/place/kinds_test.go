package place

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestKinds(t *testing.T) {
	seen := map[string]bool{}
	for _, k := range kinds {
		require.False(t, seen[k.what], k.what)
		seen[k.what] = true
	}
	first, last := Problem{What: "unreadable file"}, Problem{What: "control total"}
	require.Less(t, first.Rank(), last.Rank())
	require.Equal(t, []string{InRows, InEntry, InEntry, InColumn}, []string{
		(&Problem{What: "repeated grain"}).In(), (&Problem{What: "total", Column: "amount"}).In(), (&Problem{What: "short row"}).In(),
		(&Problem{What: "null gap", Column: "amount"}).In()})
	require.True(t, last.Told())
	require.False(t, first.Told())
}

// Every kind that the code makes problems of is in the table; others would be told first.
func TestKindsOfCode(t *testing.T) {
	made := regexp.MustCompile(`(?:place\.At|place\.InPlan|\.problem)\((?:[^"()]|\([^"()]*\))*, "([a-z ]+)"|place\.Problem\{What: "([a-z ]+)"`)
	known := map[string]bool{"plan": true, // told in the order of lines
		"number readings": true, "sum of others": true, "hidden rows": true, "hidden columns": true,
		"no sales": true, "percents": true, "header left aside": true, "section rows": true,
		"summed twice": true, "headers within": true, "rows without labels": true} // warnings
	for _, k := range kinds {
		known[k.what] = true
	}
	n := 0
	require.NoError(t, filepath.WalkDir(filepath.Join("..", ".."), func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		text, err := os.ReadFile(path)
		for _, m := range made.FindAllStringSubmatch(string(text), -1) {
			n++
			require.True(t, known[m[1]+m[2]], "%s: %q", path, m[1]+m[2])
		}
		return err
	}))
	require.Greater(t, n, 40)
}
