package e2e

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/creack/pty"
	"github.com/stretchr/testify/require"
	"golang.org/x/term"
)

// screen is what a program shows in a pseudo-terminal.
type screen struct {
	t     *testing.T
	tty   *os.File
	cmd   *exec.Cmd
	mutex sync.Mutex
	text  bytes.Buffer
	seen  int // looked at so far
}

// waitFor waits until a text shows that was not looked at before.
func (s *screen) waitFor(text string) {
	s.t.Helper()
	for end := time.Now().Add(10 * time.Second); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		s.mutex.Lock()
		i := strings.Index(s.text.String()[s.seen:], text)
		if i >= 0 {
			s.seen += i + len(text)
		}
		s.mutex.Unlock()
		if i >= 0 {
			return
		}
	}
	s.mutex.Lock()
	defer s.mutex.Unlock()
	require.Fail(s.t, "never showed: "+text, s.text.String())
}

func (s *screen) press(keys string) {
	_, err := s.tty.WriteString(keys)
	require.NoError(s.t, err)
}

// startReview runs names review in a terminal of its own; wait waits for its end.
func startReview(t *testing.T, dir string) (s *screen, wait func()) {
	cmd := exec.Command(program(t), "names", "review", "--no-color")
	cmd.Dir = dir
	tty, err := pty.Start(cmd)
	require.NoError(t, err)
	t.Cleanup(func() { tty.Close() })
	s = &screen{t: t, tty: tty, cmd: cmd}
	go func() {
		buf := make([]byte, 4096)
		for {
			n, err := tty.Read(buf)
			s.mutex.Lock()
			s.text.Write(buf[:n])
			s.mutex.Unlock()
			if err != nil {
				return
			}
		}
	}()
	return s, func() { require.NoError(t, cmd.Wait()) }
}

// A person decides names one by one; every answer is in the book at once.
func TestReviewInTerminal(t *testing.T) {
	dir, book := bookToReview(t)
	s, wait := startReview(t, dir)
	s.waitFor(`"Bouy"  product 1 of 5, in 1 fact row, first a.csv, row 1, header "Bouy"`)
	s.waitFor("1  Buoy  (0.")
	s.waitFor("q stop: ")
	s.press("\r")
	s.waitFor(`"Dcok Line"  product 2 of 5`)
	require.Contains(t, book(), ",Bouy,Buoy\n")
	s.waitFor("q stop: ")
	s.press("1")
	s.waitFor(`"Storm Lantern"  product 3 of 5`)
	s.waitFor("no name is like it")
	s.waitFor("q stop: ")
	s.press("b") // take the last answer back
	s.waitFor(`"Dcok Line"  product 2 of 5`)
	require.NotContains(t, book(), "Dcok")
	s.waitFor("q stop: ")
	s.press("1")
	s.waitFor(`"Storm Lantern"  product 3 of 5`)
	s.waitFor("q stop: ")
	s.press("k")
	s.waitFor(`"Oar"  product 4 of 5`)
	s.waitFor("q stop: ")
	s.press("t")
	s.waitFor("standard name: ")
	s.press("Oars\n")
	s.waitFor(`"Anchr"  product 5 of 5`)
	s.waitFor("q stop: ")
	s.press("q")
	s.waitFor("Stopped: 4 names decided, 1 left")
	wait()
	require.Equal(t, "note,seen,standard\nx,Buoy,Buoy\n,Dock Line,Dock Line\n,Anchor,Anchor\n,Bouy,Buoy\n,Dcok Line,Dock "+
		"Line\n,Storm Lantern,Storm Lantern\n,Oar,Oars\n", book())
}

// Told to end while it waits for a key, a review ends at once, and the terminal is as it was.
func TestReviewEnds(t *testing.T) {
	for _, signal := range []os.Signal{os.Interrupt, syscall.SIGTERM} {
		dir, _ := bookToReview(t)
		s, _ := startReview(t, dir)
		before, err := term.GetState(int(s.tty.Fd()))
		require.NoError(t, err)
		s.waitFor("q stop: ")
		begin := time.Now()
		require.NoError(t, s.cmd.Process.Signal(signal))
		require.Error(t, s.cmd.Wait())
		require.Less(t, time.Since(begin), 2*time.Second)
		require.Equal(t, 1, s.cmd.ProcessState.ExitCode())
		s.waitFor("interrupted")
		after, err := term.GetState(int(s.tty.Fd()))
		require.NoError(t, err)
		require.Equal(t, before, after, "the terminal still gives keys one by one")
	}
}

// bookToReview makes a folder with five names that its book does not know.
func bookToReview(t *testing.T) (dir string, book func() string) {
	dir = t.TempDir()
	files := map[string]string{
		"umbau.yaml": "umbau: 1\nextracts: [{ files: a.csv, unpivot: { header: \"{product}\", cell: amount } }]\nfact: { product: { is: " +
			"name, book: book.csv }, amount: number }\ndeliver: [{ to: out.csv }]\n",
		"a.csv":    "Bouy,Dcok Line,Storm Lantern,Oar,Anchr\n1,2,3,4,5\n",
		"book.csv": "note,seen,standard\nx,Buoy,Buoy\n,Dock Line,Dock Line\n,Anchor,Anchor\n",
	}
	for name, text := range files {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	return dir, func() string {
		b, err := os.ReadFile(filepath.Join(dir, "book.csv"))
		require.NoError(t, err)
		return string(b)
	}
}
