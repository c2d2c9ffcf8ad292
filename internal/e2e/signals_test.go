package e2e

import (
	"bytes"
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

const signalsPlan = `umbau: 1
extracts: [{ files: raw/* }]
fact: { branch: text, product: { is: name, book: book.csv, unknown: hold }, month: month, amount: number }
deliver: [{ to: out/sales.csv }]
record: out/record
`

// muchToDo makes a folder in which every command has something to do for seconds: many rows, and
// names that no book knows.
func muchToDo(t *testing.T, rows, names int) string {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "raw"), 0o777))
	words := strings.Fields("Marine Rope Brass Cleat Deck Brush Oak Tiller Anchor Chain Flare Kit Oar Sail Mast")
	var text, book bytes.Buffer
	text.WriteString("branch,product,month,amount\n")
	for i := range rows {
		fmt.Fprintf(&text, "Old Slip,%s %s %dx%d,2024-%02d,%d.25\n", words[i%15], words[i/15%15], i%7919, i*31%211, i%12+1, i)
	}
	book.WriteString("seen,standard\n")
	for i := range names {
		fmt.Fprintf(&book, "%s %s %dy%d,Item %d\n", words[i%15], words[i/15%15], i%7919, i*37%211, i)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(signalsPlan), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "raw/a.csv"), text.Bytes(), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "other.csv"), text.Bytes(), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "book.csv"), book.Bytes(), 0o666))
	return dir
}

// Told to end, every command ends within a second, whatever it is at, says so, and leaves nothing.
func TestEveryCommandEnds(t *testing.T) {
	dir := muchToDo(t, 1_200_000, 20_000)
	for _, command := range []string{"build", "survey raw", "draft raw -o drafted.yaml", "totals raw/a.csv --by product,month", "names list",
		"names suggest", "gaps raw", "keys raw/a.csv --on product,month", "compare raw/a.csv other.csv --by product,month",
		"widen raw/a.csv --across month --cell amount", "build --try rows.grain=[product]", "watch"} {
		for _, signal := range []syscall.Signal{syscall.SIGINT, syscall.SIGTERM} {
			t.Run(command+" "+signal.String(), func(t *testing.T) {
				endsWhenTold(t, dir, command, signal, 50*time.Millisecond)
				after := 200 * time.Millisecond
				for !endsWhenTold(t, dir, command, signal, after) {
					after *= 2 // a machine on which it had not begun by then
					require.Less(t, after, 10*time.Second)
				}
			})
		}
	}
}

// endsWhenTold runs a command, tells it to end after a while, and says whether it had begun by then:
// a program that has not come as far as to listen is ended by the signal itself, and says nothing.
func endsWhenTold(t *testing.T, dir, command string, signal syscall.Signal, after time.Duration) bool {
	before := files(t, dir)
	c := exec.Command(program(t), append(strings.Fields(command), "--workers", "1")...)
	c.Dir = dir
	var said bytes.Buffer
	c.Stdout, c.Stderr = &said, &said
	require.NoError(t, c.Start())
	time.Sleep(after)
	begin := time.Now()
	require.NoError(t, c.Process.Signal(signal))
	err := c.Wait()
	require.Less(t, time.Since(begin), 2*time.Second, "a second, and the machine may be slow")
	require.NotContains(t, said.String(), "goroutine")
	require.Equal(t, before, files(t, dir), "left lying about")
	if status := c.ProcessState.Sys().(syscall.WaitStatus); status.Signaled() {
		require.Empty(t, said.String())
		return false
	}
	if command != "watch" { // which is meant to be ended so
		require.Error(t, err, said.String())
		require.Contains(t, said.String(), "interrupted")
	}
	return true
}

// A demo that was killed half way can be run again.
func TestDemoKilled(t *testing.T) {
	for _, after := range []time.Duration{5, 20, 40, 80, 160} {
		dir := t.TempDir()
		c := exec.Command(program(t), "demo", dir)
		require.NoError(t, c.Start())
		time.Sleep(after * time.Millisecond)
		require.NoError(t, c.Process.Kill())
		_ = c.Wait()
		out, err := exec.Command(program(t), "demo", dir).CombinedOutput()
		require.NoError(t, err, "after %d ms: %s", after, out)
	}
}
