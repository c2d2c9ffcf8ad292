package whole_test

import (
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/whole"
)

// What is put aside can be read again, and is no file that anybody finds.
func TestAside(t *testing.T) {
	dir := t.TempDir()
	t.Setenv("TMPDIR", dir)
	f, err := whole.Aside()
	require.NoError(t, err)
	_, err = f.WriteString("Old Slip,Lakes\n")
	require.NoError(t, err)
	left, err := filepath.Glob(filepath.Join(dir, "*"))
	require.NoError(t, err)
	require.Empty(t, left, "it would stay when the program is killed")
	_, err = f.Seek(4, io.SeekStart)
	require.NoError(t, err)
	b, err := io.ReadAll(f)
	require.NoError(t, err)
	require.Equal(t, "Slip,Lakes\n", string(b))
	require.NoError(t, f.Close())
	t.Setenv("TMPDIR", filepath.Join(dir, "none"))
	_, err = whole.Aside()
	require.ErrorIs(t, err, os.ErrNotExist)
}
