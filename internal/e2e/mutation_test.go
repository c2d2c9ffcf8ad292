package e2e

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"umbau/internal/cli"
	"umbau/internal/demo/hostile"
)

// The files of the demo, its plan, books, deliveries and record among them, with bytes changed, cut,
// doubled or moved: whatever comes of it, a command ends soon in its own way, and a delivery is whole and on
// record. UMBAU_MUTATIONS says how many, UMBAU_SEED from which one on.
func TestMutations(t *testing.T) {
	n, first := 200, 0
	if s := os.Getenv("UMBAU_MUTATIONS"); s != "" {
		n, _ = strconv.Atoi(s)
	}
	if s := os.Getenv("UMBAU_SEED"); s != "" {
		first, _ = strconv.Atoi(s)
	}
	dir := t.TempDir()
	require.Zero(t, cli.Main([]string{"demo", dir, "--quiet"}, io.Discard, io.Discard))
	require.Zero(t, cli.Main([]string{"build", filepath.Join(dir, "umbau.yaml"), "--quiet"}, io.Discard, io.Discard))
	kept := map[string][]byte{}
	var names []string
	require.NoError(t, filepath.WalkDir(dir, func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(file)
		kept[file] = b
		names = append(names, file)
		return err
	}))
	codes := map[string]int{}
	for i := range n {
		r := rand.New(rand.NewPCG(uint64(first+i), 16))
		file := names[r.IntN(len(names))]
		require.NoError(t, os.WriteFile(file, hostile.Mutate(r, kept[file]), 0o666))
		before := files(t, dir)
		command := mutationCommand(r, dir, file)
		code, said := comesToAnEnd(t, command)
		what := []any{"UMBAU_SEED=%d UMBAU_MUTATIONS=1: umbau %s\n%s", first + i, strings.Join(command, " "), firstOf(said)}
		require.LessOrEqual(t, code, 3, what...)
		require.NotContains(t, said, "mistake in the program", what...)
		checkMutated(t, dir, command[0], code, before, what)
		codes[command[0]+" "+strconv.Itoa(code)]++
		for file, b := range kept {
			if now, err := os.ReadFile(file); err != nil || !bytes.Equal(now, b) {
				require.NoError(t, os.WriteFile(file, b, 0o666))
			}
		}
	}
	t.Log(codes)
}

// mutationCommand is a command that reads a file of the demo.
func mutationCommand(r *rand.Rand, dir, file string) []string {
	rel, _ := filepath.Rel(dir, file)
	rel = filepath.ToSlash(rel)
	plan := filepath.Join(dir, "umbau.yaml")
	switch {
	case strings.HasPrefix(rel, "out/sales"):
		return []string{"totals", file, "--by", "region"}
	case strings.HasPrefix(rel, "raw/") && r.IntN(3) == 0:
		return []string{"survey", filepath.Join(dir, "raw")}
	case strings.HasPrefix(rel, "raw/") && r.IntN(3) == 0:
		return []string{"draft", filepath.Join(dir, "raw"), "-o", filepath.Join(dir, "drafted.yaml"), "--replace"}
	case r.IntN(6) == 0:
		return []string{"trace", "--plan", plan, "--row", strconv.Itoa(2 + r.IntN(500))}
	case r.IntN(6) == 0:
		return []string{"names", "suggest", plan}
	}
	return []string{"build", plan}
}

// comesToAnEnd runs a command within the time that any of them may take.
func comesToAnEnd(t *testing.T, args []string) (code int, said string) {
	var out bytes.Buffer
	done := make(chan int, 1)
	go func() { done <- cli.Main(append(args, "--workers", "2"), &out, &out) }()
	select {
	case code = <-done:
		return code, out.String()
	case <-time.After(30 * time.Second):
		require.Fail(t, "not at its end", args)
	}
	return 0, ""
}

// checkMutated checks that deliveries are as they were, or those of the record.
func checkMutated(t *testing.T, dir, command string, code int, before map[string]string, what []any) {
	after := files(t, dir)
	for name := range after {
		require.NotContains(t, name, ".tmp", what...)
	}
	if command != "build" || code != 0 {
		for name, sum := range before {
			if strings.HasPrefix(name, filepath.Join("out", "sales")) {
				require.Equal(t, sum, after[name], what...)
			}
		}
		return
	}
	var d struct {
		Deliveries []struct{ To, SHA256 string }
	}
	b, err := os.ReadFile(filepath.Join(dir, "out/record/build.json"))
	require.NoError(t, err, what...)
	require.NoError(t, json.Unmarshal(b, &d), what...)
	require.NotEmpty(t, d.Deliveries, what...)
	for _, to := range d.Deliveries {
		content, err := os.ReadFile(filepath.Join(dir, to.To))
		require.NoError(t, err, what...)
		sum := sha256.Sum256(content)
		require.Equal(t, hex.EncodeToString(sum[:]), to.SHA256, what...)
	}
}
