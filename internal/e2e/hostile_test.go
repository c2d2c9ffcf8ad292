//go:build linux

package e2e

import (
	"bufio"
	"bytes"
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"umbau/internal/demo/hostile"
)

// What a stranger may send ends soon, in bounded memory, with an error or with the table.
func TestHostileFiles(t *testing.T) {
	for _, c := range hostile.Cases() {
		t.Run(c.Name, func(t *testing.T) {
			if c.Large && testing.Short() {
				t.Skip("takes long to make")
			}
			t.Parallel()
			dir := writeHostile(t, &c)
			took, mostMB, said, code := endless(t, dir, 10*c.Time, "build")
			t.Logf("%.2f s, %d MB, exit %d: %s", took.Seconds(), mostMB, code, firstOf(said))
			if c.Says != "" {
				require.NotZero(t, code, said)
				require.Contains(t, said, c.Says)
				require.NoFileExists(t, filepath.Join(dir, "out.csv"))
			} else {
				require.Zero(t, code, firstOf(said))
			}
			require.LessOrEqual(t, mostMB, c.Most, "MB of memory of a build")
			require.Less(t, took, 10*c.Time, "a build; the machine may be slow")
			for _, args := range [][]string{{"survey", "raw"}, {"draft", "raw", "-o", "drafted.yaml"}} {
				took, mostMB, said, _ = endless(t, dir, 10*c.Time, args...)
				t.Logf("%s: %.2f s, %d MB: %s", args[0], took.Seconds(), mostMB, firstOf(said))
				require.LessOrEqual(t, mostMB, max(2*c.Most, 1200), args) // a draft builds, and keeps a while what repeats
				require.Less(t, took, 10*c.Time, "%s; the machine may be slow", args)
			}
		})
	}
}

// The memory of a build and of a survey is that of the widest row and of the distinct names: ten times the
// rows take the same.
func TestMemoryIsFlat(t *testing.T) {
	if testing.Short() {
		t.Skip("writes hundreds of megabytes")
	}
	const plan = "extracts: [{ files: raw/* }]\nfact: { branch: name, amount: { is: number, decimals: 2 } }\n"
	few, many := hostile.Long(80_000), hostile.Long(800_000)
	for kind := range few {
		t.Run(kind, func(t *testing.T) {
			for _, args := range [][]string{{"build"}, {"survey", "raw"}} {
				least := func(files []hostile.File, enough int) (mb int) { // of three: the collector is not always as quick
					dir := writeHostile(t, &hostile.Case{Files: files, Plan: plan})
					for n := 0; n < 3 && (n == 0 || mb > enough); n++ {
						_, most, said, code := endless(t, dir, time.Minute, args...)
						require.Zero(t, code, said)
						if n == 0 || most < mb {
							mb = most
						}
					}
					return mb
				}
				one := least(few[kind], 0)
				ten := least(many[kind], one+one/4+15)
				t.Logf("%s: %d MB, ten times the rows %d MB", args[0], one, ten)
				require.LessOrEqual(t, ten, one+one/4+15)
			}
		})
	}
}

// writeHostile writes the files of a case, and a plan, into a folder.
func writeHostile(t *testing.T, c *hostile.Case) string {
	dir := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(dir, "raw"), 0o777))
	for _, f := range c.Files {
		to, err := os.Create(filepath.Join(dir, "raw", f.Name))
		require.NoError(t, err)
		w := bufio.NewWriterSize(to, 1<<20)
		require.NoError(t, f.Write(w))
		require.NoError(t, w.Flush())
		require.NoError(t, to.Close())
	}
	plan := c.Plan
	if plan == "" {
		plan = hostile.Plain
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte("umbau: 1\n"+plan+"deliver: [{ to: out.csv }]\n"), 0o666))
	return dir
}

// endless runs the program, with one worker, for so long at most: how long it took, and the most memory in MB.
func endless(t *testing.T, dir string, most time.Duration, args ...string) (took time.Duration, mostMB int, said string, code int) {
	ctx, cancel := context.WithTimeout(context.Background(), most)
	defer cancel()
	c := exec.CommandContext(ctx, program(t), append(args, "--workers", "2")...)
	c.Dir = dir
	var out bytes.Buffer
	c.Stdout, c.Stderr = &out, &out
	began := time.Now()
	require.NoError(t, c.Start())
	_, mostMB = watched(c)
	took = time.Since(began)
	require.NoError(t, ctx.Err(), "not at its end in time: %s", firstOf(out.String()))
	require.NotContains(t, out.String(), "goroutine ", "a mistake in the program")
	return took, mostMB, out.String(), c.ProcessState.ExitCode()
}

func firstOf(said string) string {
	if len(said) > 400 {
		return said[:400] + " …"
	}
	return said
}
