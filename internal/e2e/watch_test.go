//go:build unix

package e2e

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// watching is a watch that is running.
type watching struct {
	t   *testing.T
	dir string
	cmd *exec.Cmd
	out chan watchedBuild
}

type watchedBuild struct {
	Exit     int
	Because  []string
	Problems []struct{ What, Message string }
	Fact     struct{ Rows int }
	Since    struct {
		First    bool
		Extracts []struct{ File string }
	}
}

const watchPlan = `umbau: 1
extracts: [{ files: "raw/*.csv", path: "{region}" }]
fact:
  region: text
  branch: { is: name, book: book.csv, unknown: stop }
  amount: number
deliver: [{ to: out/sales.csv }]
record: out/record
`

// newWatch begins to watch a folder with one extract.
func newWatch(t *testing.T) *watching {
	w := &watching{t: t, dir: t.TempDir(), out: make(chan watchedBuild, 10)}
	w.write("umbau.yaml", watchPlan)
	w.write("book.csv", "seen,standard\nDock,Dock\nPier,Pier\n")
	w.write("raw/lakes.csv", "Branch,Amount\nDock,1\n")
	w.cmd = exec.Command(program(t), "watch", "--json", "--quiet-for", "300ms")
	w.cmd.Dir = w.dir
	out, err := w.cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, w.cmd.Start())
	t.Cleanup(func() { _ = w.cmd.Process.Kill() })
	go func() {
		lines := bufio.NewScanner(out)
		lines.Buffer(nil, 1<<20)
		for lines.Scan() {
			var b watchedBuild
			if json.Unmarshal(lines.Bytes(), &b) != nil {
				b.Problems = append(b.Problems, struct{ What, Message string }{"no document", lines.Text()})
			}
			w.out <- b
		}
		close(w.out)
	}()
	first := w.next()
	require.Zero(t, first.Exit)
	require.Empty(t, first.Because)
	require.True(t, first.Since.First)
	return w
}

func (w *watching) write(name, text string) {
	require.NoError(w.t, os.MkdirAll(filepath.Dir(filepath.Join(w.dir, name)), 0o777))
	require.NoError(w.t, os.WriteFile(filepath.Join(w.dir, name), []byte(text), 0o666))
}

// next is the next build.
func (w *watching) next() watchedBuild {
	w.t.Helper()
	select {
	case b, open := <-w.out:
		require.True(w.t, open, "the watch has ended")
		return b
	case <-time.After(15 * time.Second):
		require.Fail(w.t, "no build within 15 seconds")
		return watchedBuild{}
	}
}

// none requires that nothing is built for a while.
func (w *watching) none() {
	w.t.Helper()
	select {
	case b := <-w.out:
		require.Fail(w.t, "built", "%+v", b)
	case <-time.After(900 * time.Millisecond):
	}
}

// Files that come, change, are renamed into place and go away; a file that is written slowly is built
// from once, when it is whole.
func TestWatchFiles(t *testing.T) {
	w := newWatch(t)
	w.none()
	w.write("raw/skerries.csv", "Branch,Amount\nDock,2\nPier,3\n")
	b := w.next()
	require.Equal(t, []string{"raw/skerries.csv"}, b.Because)
	require.Equal(t, 3, b.Fact.Rows)
	require.Equal(t, "raw/skerries.csv", b.Since.Extracts[0].File)

	w.write("raw/.part", "Branch,Amount\nDock,2\n") // hidden until it is renamed
	w.none()
	require.NoError(t, os.Rename(filepath.Join(w.dir, "raw/.part"), filepath.Join(w.dir, "raw/skerries.csv")))
	require.Equal(t, 2, w.next().Fact.Rows)

	slow, err := os.Create(filepath.Join(w.dir, "raw/amber.csv"))
	require.NoError(t, err)
	fmt.Fprintln(slow, "Branch,Amount")
	for i := range 12 {
		time.Sleep(100 * time.Millisecond)
		fmt.Fprintf(slow, "Pier,%d\n", i)
	}
	require.NoError(t, slow.Close())
	require.Equal(t, 14, w.next().Fact.Rows)

	require.NoError(t, os.Remove(filepath.Join(w.dir, "raw/amber.csv")))
	require.Equal(t, 2, w.next().Fact.Rows)
	w.none() // its own deliveries are no extracts
}

// A build that stops leaves the watch running and the delivery as it was; the plan and the book are
// watched too.
func TestWatchStops(t *testing.T) {
	w := newWatch(t)
	before, err := os.ReadFile(filepath.Join(w.dir, "out/sales.csv"))
	require.NoError(t, err)
	w.write("raw/lakes.csv", "Branch,Amount\nHolm,9\n")
	b := w.next()
	require.Equal(t, 3, b.Exit)
	require.Equal(t, "unknown name", b.Problems[0].What)
	after, err := os.ReadFile(filepath.Join(w.dir, "out/sales.csv"))
	require.NoError(t, err)
	require.Equal(t, before, after)
	w.write("book.csv", "seen,standard\nHolm,Holm\n")
	b = w.next()
	require.Zero(t, b.Exit)
	require.Equal(t, []string{"book.csv"}, b.Because)
	w.write("umbau.yaml", strings.Replace(watchPlan, "is: name", "is: nmae", 1))
	b = w.next()
	require.Equal(t, 1, b.Exit)
	require.Contains(t, b.Problems[0].Message, "nmae")
	w.write("umbau.yaml", watchPlan)
	require.Zero(t, w.next().Exit)
}

// A second watch on one record is refused; a signal ends the watch with 0, and another may begin.
func TestWatchEnds(t *testing.T) {
	for _, signal := range []os.Signal{os.Interrupt, syscall.SIGTERM} {
		w := newWatch(t)
		second := exec.Command(program(t), "watch")
		second.Dir = w.dir
		said, err := second.CombinedOutput()
		require.Error(t, err)
		require.Contains(t, string(said), "another watch that writes this record is running")
		require.NoError(t, w.cmd.Process.Signal(signal))
		require.NoError(t, w.cmd.Wait())
		require.NoFileExists(t, filepath.Join(w.dir, "out/record/.umbau-watch.lock"))
	}
}
