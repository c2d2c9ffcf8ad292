package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/cli"
)

// Every example of the page of shapes is built as it stands there.
func TestShapesPage(t *testing.T) {
	page, err := os.ReadFile("../../docs/shapes.md")
	require.NoError(t, err)
	n := 0
	for _, section := range strings.Split(string(page), "\n## ")[1:] {
		title, text, _ := strings.Cut(section, "\n")
		t.Run(title, func(t *testing.T) {
			dir := t.TempDir()
			want := ""
			for _, block := range strings.Split(text, "\n```")[1:] {
				info, body, _ := strings.Cut(block, "\n")
				body += "\n"
				switch {
				case info == "yaml":
					require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(body), 0o666))
				case info == "csv out.csv":
					want = body
				case strings.HasPrefix(info, "csv "):
					file := filepath.Join(dir, strings.TrimPrefix(info, "csv "))
					require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
					require.NoError(t, os.WriteFile(file, []byte(body), 0o666))
				}
			}
			var out, errOut bytes.Buffer
			require.Zero(t, cli.Main([]string{"build", filepath.Join(dir, "umbau.yaml")}, &out, &errOut), errOut.String())
			have, err := os.ReadFile(filepath.Join(dir, "out.csv"))
			require.NoError(t, err)
			require.Equal(t, want, string(have))
			n++
		})
	}
	require.Equal(t, 12, n)
}
