//go:build unix

package e2e

import (
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"
)

// asOther is a command of the program that may do what an ordinary user may, in a folder
// that is that user's.
func asOther(t *testing.T, dir string, args ...string) *exec.Cmd {
	path := program(t)
	c := exec.Command(path, args...)
	if os.Getuid() == 0 {
		const nobody = 65534
		self, err := os.Open(path)
		require.NoError(t, err)
		defer self.Close()
		c.Path = filepath.Join(dir, "bin", "umbau")
		require.NoError(t, os.MkdirAll(filepath.Dir(c.Path), 0o755))
		to, err := os.OpenFile(c.Path, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o755)
		require.NoError(t, err)
		_, err = io.Copy(to, self)
		require.NoError(t, err)
		require.NoError(t, to.Close())
		require.NoError(t, os.Chmod(filepath.Dir(dir), 0o755))
		require.NoError(t, filepath.WalkDir(dir, func(path string, _ os.DirEntry, _ error) error { return os.Chown(path, nobody, nobody) }))
		c.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: nobody, Gid: nobody}}
	}
	c.Dir = dir
	return c
}

// A folder that a glob walks and cannot read may hold extracts: nothing is delivered.
func TestFolderThatCannotBeRead(t *testing.T) {
	for _, glob := range []string{"raw/*/*.csv", "raw/**/*.csv", "raw/s*/*.csv"} {
		dir := t.TempDir()
		for name, text := range map[string]string{
			"umbau.yaml":      "umbau: 1\nextracts: [{ files: \"" + glob + "\" }]\nfact: { amount: number }\ndeliver: [{ to: out.csv }]\n",
			"raw/sea/a.csv":   "amount\n1\n",
			"raw/south/b.csv": "amount\n2\n",
		} {
			path := filepath.Join(dir, name)
			require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
			require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
		}
		c := asOther(t, dir, "build")
		require.NoError(t, os.Chmod(filepath.Join(dir, "raw", "south"), 0))
		said, err := c.CombinedOutput()
		require.Error(t, err, "%s: %s", glob, said)
		require.Equal(t, 1, c.ProcessState.ExitCode(), string(said))
		require.Contains(t, string(said), "raw/south")
		require.NoFileExists(t, filepath.Join(dir, "out.csv"))
		c = asOther(t, dir, "survey", glob)
		require.NoError(t, os.Chmod(filepath.Join(dir, "raw", "south"), 0))
		said, err = c.CombinedOutput()
		require.Error(t, err, "%s: %s", glob, said)
		require.Contains(t, string(said), "raw/south")
		require.NoError(t, os.Chmod(filepath.Join(dir, "raw", "south"), 0o755))
	}
}

// Several that write to one book at once lose no line of each other.
func TestOneBookManyWriters(t *testing.T) {
	dir := t.TempDir()
	write := func(name, text string) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	write("names.csv", "seen,standard\nBuoy,Buoy\n")
	const many = 12
	for i := range many {
		write(fmt.Sprintf("%d.yaml", i), fmt.Sprintf("umbau: 1\nextracts: [{ files: %d.csv }]\nfact: { product: { is: name, book: "+
			"names.csv }, amount: number }\ndeliver: [{ to: %d/out.csv }]\nrecord: %[2]d\n", i, i))
		write(fmt.Sprintf("%d.csv", i), fmt.Sprintf("product,amount\nLamp %c,1\nBuoy,2\n", 'A'+i))
	}
	said := make(chan string)
	for i := range many {
		go func() {
			c := exec.Command(program(t), "names", "suggest", "--write", fmt.Sprintf("%d.yaml", i))
			c.Dir = dir
			out, err := c.CombinedOutput()
			if err != nil {
				said <- fmt.Sprintf("%v: %s", err, out)
				return
			}
			said <- ""
		}()
	}
	for range many {
		require.Empty(t, <-said)
	}
	book, err := os.ReadFile(filepath.Join(dir, "names.csv"))
	require.NoError(t, err)
	for i := range many {
		require.Equal(t, 1, strings.Count(string(book), fmt.Sprintf("\nLamp %c,", 'A'+i)), string(book))
	}
	left, err := filepath.Glob(filepath.Join(dir, "*names.csv*"))
	require.NoError(t, err)
	require.Len(t, left, 1, "nothing is left beside the book")
}
