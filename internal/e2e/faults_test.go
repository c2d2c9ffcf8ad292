package e2e

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// program returns the path of the program; this test binary is it by that name.
func program(t *testing.T) string {
	self, err := os.Executable()
	require.NoError(t, err)
	link := filepath.Join(t.TempDir(), "umbau")
	require.NoError(t, os.Symlink(self, link))
	return link
}

const faultsPlan = `umbau: 1
extracts: [{ files: raw/*.csv, same_files: keep, path: "{region}", unpivot: { header: "{product}", cell: amount } }]
fact: { region: text, branch: text, product: name, amount: { is: number, decimals: 2, gaps: 0 } }
deliver: [{ to: out/sales.csv }]
record: out/record
`

// folder makes a folder with the plan and extracts of so many rows in all.
func folder(t *testing.T, rows int, amount string) string {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(faultsPlan), 0o666))
	extracts(t, dir, rows, amount)
	return dir
}

func extracts(t *testing.T, dir string, rows int, amount string) {
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	coasts := []string{"Skerries", "Amber Bay", "Long Sound", "Lakes"}
	for _, c := range coasts {
		text := "Branch,Marine Rope,Brass Cleat,Deck Brush\n" + strings.Repeat("Old Slip,"+amount+",n/a,7.00\n", rows/len(coasts))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", c+".csv"), []byte(text), 0o666))
	}
}

// start begins a build.
func start(t *testing.T, dir string, args ...string) (*exec.Cmd, *bytes.Buffer) {
	c := exec.Command(program(t), append([]string{"build", "--quiet"}, args...)...)
	c.Dir = dir
	var said bytes.Buffer
	c.Stderr = &said
	require.NoError(t, c.Start())
	return c, &said
}

// files lists what is in a folder, with its digest.
func files(t *testing.T, dir string) map[string]string {
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(path)
		name, _ := filepath.Rel(dir, path)
		sum := sha256.Sum256(b)
		out[name] = hex.EncodeToString(sum[:])
		return err
	}))
	return out
}

// underWay waits until a build has begun to write its delivery, or has ended.
func underWay(t *testing.T, dir string) (temp string, ok bool) {
	for range 5000 {
		found, _ := filepath.Glob(filepath.Join(dir, "out", ".umbau-*.tmp"))
		for _, f := range found {
			if info, err := os.Stat(f); err == nil && info.Size() > 1<<16 {
				return f, true
			}
		}
		time.Sleep(time.Millisecond)
	}
	return "", false
}

// A build that is killed at any moment leaves a whole delivery, the old one or the
// new one, and no record of another one. The next build clears what it left.
func TestKilled(t *testing.T) {
	dir := folder(t, 4000, "1.00")
	whole, takes := map[string]bool{}, time.Minute // at best
	for _, amount := range []string{"1.00", "2.00", "1.00", "2.00"} {
		extracts(t, dir, 4000, amount)
		begin := time.Now()
		c, said := start(t, dir)
		require.NoError(t, c.Wait(), said)
		takes = min(takes, time.Since(begin))
		whole[files(t, dir)["out/sales.csv"]] = true
	}
	require.Len(t, whole, 2)
	r, killed, recorded := rand.New(rand.NewPCG(1, 2)), 0, 0
	for i := range 200 {
		extracts(t, dir, 4000, []string{"1.00", "2.00"}[i%2])
		c, _ := start(t, dir)
		time.Sleep(time.Duration(r.Int64N(int64(2 * takes)))) // some end before
		_ = c.Process.Kill()
		if c.Wait() != nil {
			killed++
		}
		there := files(t, dir)
		require.True(t, whole[there["out/sales.csv"]], "half a delivery")
		b, err := os.ReadFile(filepath.Join(dir, "out/record/build.json"))
		if err != nil {
			continue
		}
		recorded++
		var d struct {
			Deliveries []struct{ SHA256 string }
		}
		require.NoError(t, json.Unmarshal(b, &d), string(b))
		require.Equal(t, there["out/sales.csv"], d.Deliveries[0].SHA256, "a record of another delivery")
	}
	require.Greater(t, killed, 30, "too few were under way")
	require.Greater(t, recorded, 0)
	c, said := start(t, dir)
	require.NoError(t, c.Wait(), said)
	for name := range files(t, filepath.Join(dir, "out")) {
		require.NotContains(t, name, ".umbau", "left lying about")
	}
}

// SIGINT and SIGTERM end a build at once, and nothing is left.
func TestInterrupted(t *testing.T) {
	dir := folder(t, 1_500_000, "123.45")
	for _, signal := range []os.Signal{os.Interrupt, syscall.SIGTERM} {
		c, said := start(t, dir)
		_, ok := underWay(t, dir)
		require.True(t, ok)
		begin := time.Now()
		require.NoError(t, c.Process.Signal(signal))
		require.Error(t, c.Wait())
		require.Less(t, time.Since(begin), 2*time.Second)
		require.Equal(t, 1, c.ProcessState.ExitCode())
		require.Equal(t, "interrupted; nothing was delivered\n", said.String())
		require.NoDirExists(t, filepath.Join(dir, "out"))
	}
}

// An extract that grows, shrinks or is replaced while it is read is named.
func TestExtractChanges(t *testing.T) {
	for what, change := range map[string]func(file string) error{
		"grows": func(file string) error {
			f, err := os.OpenFile(file, os.O_APPEND|os.O_WRONLY, 0)
			if err == nil {
				_, err = f.WriteString("Quay 4,1,2,3\n")
			}
			return err
		},
		"shrinks":     func(file string) error { return os.Truncate(file, 1000) },
		"is replaced": func(file string) error { return os.Rename(filepath.Join(filepath.Dir(file), "Lakes.csv"), file) },
		"is gone":     os.Remove,
	} {
		dir := folder(t, 1_500_000, "123.45")
		c, said := start(t, dir)
		_, ok := underWay(t, dir)
		require.True(t, ok, what)
		require.NoError(t, change(filepath.Join(dir, "raw", "Skerries.csv")), what)
		require.Error(t, c.Wait(), what)
		require.Equal(t, 1, c.ProcessState.ExitCode(), what)
		require.Contains(t, said.String(), "The file changed while it was read", what)
		require.Contains(t, said.String(), "raw/Skerries.csv", what)
		require.NoDirExists(t, filepath.Join(dir, "out"), what)
	}
}

// No second build writes the record of one that is under way.
func TestTwoBuilds(t *testing.T) {
	dir := folder(t, 400, "1.00")
	c, said := start(t, dir)
	require.NoError(t, c.Wait(), said)
	before := files(t, dir)
	lock, err := os.OpenFile(filepath.Join(dir, "out/record/.umbau.lock"), os.O_CREATE|os.O_RDWR, 0o666)
	require.NoError(t, err)
	require.NoError(t, syscall.Flock(int(lock.Fd()), syscall.LOCK_EX))
	c, said = start(t, dir)
	require.Error(t, c.Wait())
	require.Contains(t, said.String(), "Another build that writes this record is under way\n    out/record\n")
	require.NoError(t, lock.Close())
	extracts(t, dir, 400, "2.00")
	c, said = start(t, dir)
	require.NoError(t, c.Wait(), said)
	after := files(t, dir)
	require.Equal(t, slices.Sorted(maps.Keys(before)), slices.Sorted(maps.Keys(after)), "the lock is gone")
	require.NotEqual(t, before["out/sales.csv"], after["out/sales.csv"])
}

// A disk that fills up, a limit on the size of files: the older delivery stays, and
// nothing lies beside it.
func TestNoRoom(t *testing.T) {
	dir := folder(t, 40_000, "1.00")
	c, said := start(t, dir)
	require.NoError(t, c.Wait(), said)
	before := files(t, dir)
	extracts(t, dir, 40_000, "2.00")
	for name := range before {
		if strings.HasPrefix(name, "raw") {
			delete(before, name)
		}
	}
	info, err := os.Stat(filepath.Join(dir, "out/sales.csv"))
	require.NoError(t, err)
	for _, blocks := range []int64{1, 100, info.Size()/512 - 1} {
		c := exec.Command("sh", "-c", fmt.Sprintf("ulimit -f %d; exec %s build --quiet", blocks, program(t)))
		c.Dir = dir
		out, err := c.CombinedOutput()
		require.Error(t, err)
		require.Equal(t, 1, c.ProcessState.ExitCode(), string(out))
		require.Contains(t, string(out), "The file cannot be written: file too large")
		after := files(t, dir)
		for name := range after {
			if strings.HasPrefix(name, "raw") {
				delete(after, name)
			}
		}
		require.Equal(t, before, after)
	}

	small := filepath.Join(dir, "out") // a disk of its own
	require.NoError(t, os.RemoveAll(small))
	require.NoError(t, os.Mkdir(small, 0o777))
	if err := syscall.Mount("none", small, "tmpfs", 0, "size=300k"); err != nil {
		t.Skip("no disk to fill: ", err)
	}
	defer syscall.Unmount(small, syscall.MNT_DETACH)
	c, said = start(t, dir)
	require.Error(t, c.Wait())
	require.Contains(t, said.String(), "The file cannot be written: no space left on device")
	require.Empty(t, files(t, small))
}

// An output folder that goes away, or that nothing may be written to any longer.
func TestFolderGoes(t *testing.T) {
	dir := folder(t, 1_500_000, "123.45")
	c, said := start(t, dir)
	_, ok := underWay(t, dir)
	require.True(t, ok)
	require.NoError(t, os.Rename(filepath.Join(dir, "out"), filepath.Join(dir, "moved")))
	require.Error(t, c.Wait())
	require.Contains(t, said.String(), "The file cannot be written: no such file or directory\n    out/sales.csv")
	require.NoDirExists(t, filepath.Join(dir, "out"))
	require.NoFileExists(t, filepath.Join(dir, "moved/sales.csv"))
	if os.Getuid() == 0 {
		return // root may write anywhere
	}
	c, said = start(t, dir)
	_, ok = underWay(t, dir)
	require.True(t, ok)
	require.NoError(t, os.Chmod(filepath.Join(dir, "out"), 0o500))
	require.Error(t, c.Wait())
	require.NoError(t, os.Chmod(filepath.Join(dir, "out"), 0o700))
	require.Contains(t, said.String(), "The file cannot be written: permission denied\n    out/sales.csv")
}

// Locale, time zone, umask, a reader that goes away, and few open files change
// nothing of what is delivered.
func TestSurroundings(t *testing.T) {
	dir := folder(t, 4000, "1.00")
	c, said := start(t, dir)
	require.NoError(t, c.Wait(), said)
	want := files(t, dir)["out/sales.csv"]
	for i := range 40 { // more archives than may be open
		f, err := os.Create(filepath.Join(dir, "raw", fmt.Sprintf("Quay %d.zip", i)))
		require.NoError(t, err)
		z := zip.NewWriter(f)
		_, err = z.Create("empty.txt.csv")
		require.NoError(t, err)
		require.NoError(t, z.Close())
		require.NoError(t, f.Close())
	}
	for _, command := range []string{
		"LC_ALL=tr_TR.UTF-8 LANG=de_DE TZ=Asia/Kolkata %s build --quiet",
		"umask 077; %s build --quiet",
		"%s build --json | true",
		"%s build | head -c 1 >/dev/null",
		"ulimit -n 22; %s survey raw >/dev/null; %[1]s build --quiet",
	} {
		require.NoError(t, os.RemoveAll(filepath.Join(dir, "out")))
		c := exec.Command("sh", "-c", fmt.Sprintf(command, program(t)))
		c.Dir = dir
		out, err := c.CombinedOutput()
		require.NoError(t, err, string(out))
		there := files(t, filepath.Join(dir, "out"))
		require.Equal(t, want, there["sales.csv"], command)
		require.Len(t, there, 12, command)
	}
}

// What no table is, is refused or done in bounded memory.
func TestLimits(t *testing.T) {
	if testing.Short() {
		t.Skip("writes hundreds of megabytes")
	}
	dir := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(dir, "raw"), 0o777))
	f, err := os.Create(filepath.Join(dir, "raw", "a.csv"))
	require.NoError(t, err)
	_, err = f.WriteString("Branch,Marine Rope\n")
	require.NoError(t, err)
	for range 200 {
		_, err = f.Write(bytes.Repeat([]byte("x"), 1<<20))
		require.NoError(t, err)
	}
	require.NoError(t, f.Close())
	require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(faultsPlan), 0o666))
	c, said := start(t, dir)
	require.Error(t, modest(t, c))
	require.Contains(t, said.String(), "A row longer than 64 MB; this is no table\n    raw/a.csv, row 2")

	header, row := []byte("Branch"), []byte("Old Slip")
	for i := range 200_000 {
		header, row = fmt.Appendf(header, ",P %d", i), append(row, ",1"...)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", "a.csv"), slices.Concat(header, []byte("\n"), row, []byte("\n")), 0o666))
	c, said = start(t, dir)
	require.NoError(t, modest(t, c), said)

	require.NoError(t, os.Remove(filepath.Join(dir, "raw", "a.csv")))
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "out"))) // else 400,000 names and headers are gone since then
	for i := range 20_000 {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "raw", fmt.Sprintf("%05d.csv", i)), []byte("Branch,Marine Rope\nOld Slip,1\n"), 0o666))
	}
	c, said = start(t, dir)
	require.NoError(t, modest(t, c), said)
}

// modest waits for a command, and checks how much memory it took.
func modest(t *testing.T, c *exec.Cmd) error {
	err, peak := watched(c)
	require.Less(t, peak, 600, "MB of memory")
	return err
}

// watched waits for a command that was started: how it ended, and the most memory it took in MB, as far
// as the system tells while it runs.
func watched(c *exec.Cmd) (err error, peak int) {
	done := make(chan error)
	go func() { done <- c.Wait() }()
	for {
		select {
		case err := <-done:
			return err, peak >> 10
		case <-time.After(5 * time.Millisecond):
			b, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", c.Process.Pid))
			if _, rest, ok := bytes.Cut(b, []byte("VmHWM:")); ok {
				_, _ = fmt.Sscan(string(rest), &peak)
			}
		}
	}
}
