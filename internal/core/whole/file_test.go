package whole_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/whole"
)

// A file appears whole, with the rights of the one before it, through a link that stays one.
func TestFileAppears(t *testing.T) {
	dir := t.TempDir()
	target, link := filepath.Join(dir, "sales.csv"), filepath.Join(dir, "link.csv")
	require.NoError(t, os.WriteFile(target, []byte("old"), 0o640))
	require.NoError(t, os.Symlink("sales.csv", link))
	f, err := whole.Create(link, ".mark-")
	require.NoError(t, err)
	_, err = f.Write([]byte("news"))
	require.NoError(t, err)
	require.NoError(t, f.Empty())
	_, err = f.Write([]byte("new"))
	require.NoError(t, err)
	require.EqualValues(t, 3, f.Bytes)
	require.Equal(t, "old", read(t, target))
	require.NoError(t, f.Finish())
	require.NoError(t, f.Publish())
	require.Equal(t, "new", read(t, link))
	info, err := os.Lstat(link)
	require.NoError(t, err)
	require.NotZero(t, info.Mode()&os.ModeSymlink)
	info, err = os.Stat(target)
	require.NoError(t, err)
	require.Equal(t, os.FileMode(0o640), info.Mode().Perm())
	require.Len(t, names(t, dir), 2)
}

// What is no plain file is not replaced, and what is abandoned is gone.
func TestFileDoesNotAppear(t *testing.T) {
	dir := t.TempDir()
	_, err := whole.Create(dir, ".mark-")
	require.ErrorContains(t, err, "no plain file")
	f, err := whole.Create(filepath.Join(dir, "a.csv"), ".mark-")
	require.NoError(t, err)
	_, err = f.Write([]byte("half"))
	require.NoError(t, err)
	f.Abandon()
	require.Empty(t, names(t, dir))
	_, err = whole.Create(filepath.Join(dir, "none", "a.csv"), ".mark-")
	require.ErrorIs(t, err, os.ErrNotExist)
}

// A finished file is taken in the place of what was written, by a link where there can be one: the other
// file stays as it is when the target is replaced later.
func TestAdopt(t *testing.T) {
	made := t.TempDir()
	dirs := map[string]bool{t.TempDir(): true}
	if other, err := os.MkdirTemp("/dev/shm", "umbau"); err == nil { // mostly another file system
		t.Cleanup(func() { os.RemoveAll(other) })
		dirs[other] = false
	}
	for dir, linked := range dirs {
		from, target := filepath.Join(made, "part.csv"), filepath.Join(dir, "sales.csv")
		require.NoError(t, os.WriteFile(from, []byte("branch\nHolm\n"), 0o666))
		f, err := whole.Create(target, ".mark-")
		require.NoError(t, err)
		_, err = f.Write([]byte("what does not count"))
		require.NoError(t, err)
		require.NoError(t, f.Adopt(from))
		require.EqualValues(t, 12, f.Bytes)
		require.NoError(t, f.Finish())
		require.NoError(t, f.Publish())
		require.Equal(t, "branch\nHolm\n", read(t, target))
		if linked {
			a, err := os.Stat(from)
			require.NoError(t, err)
			b, err := os.Stat(target)
			require.NoError(t, err)
			require.True(t, os.SameFile(a, b))
		}
		require.NoError(t, whole.Replace(target, ".mark-", []byte("next month")))
		require.Equal(t, "branch\nHolm\n", read(t, from))
		require.Len(t, names(t, dir), 1)
	}
	f, err := whole.Create(filepath.Join(made, "b.csv"), ".mark-")
	require.NoError(t, err)
	require.Error(t, f.Adopt(filepath.Join(made, "none.csv")))
	f.Abandon()
	require.Equal(t, []string{"part.csv"}, names(t, made))
}

func read(t *testing.T, file string) string {
	t.Helper()
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	return string(text)
}

func names(t *testing.T, dir string) (out []string) {
	t.Helper()
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	for _, e := range list {
		out = append(out, e.Name())
	}
	return out
}
