// Bench times the program on the shapes that extracts come in, on one core, and
// where there is one against a plain single-purpose program (plain/), whose fact
// table must be the same byte for byte.
//
//	go run ./bench                 all shapes
//	go run ./bench long codes      some
//	go run ./bench -program FILE   a program built before
//
// Each is run five times by turns; the lowest CPU seconds count. A machine is
// never quiet: compare figures of one run only.
package main

import (
	"bytes"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"time"
)

// shape is a kind of input. Say is what its figure says: of CPU seconds for so
// many rows (or files), and of the seconds that the other run took.
type shape struct {
	name  string
	plan  string
	make  func(dir string) (n int, err error)
	other func(dir string) *exec.Cmd // timed beside it; nil for none
	same  bool                       // the other one's output is the fact table
	say   func(n int, mine, other float64) string
}

const rounds = 5

var programs struct{ umbau, plain string }

func main() {
	program := flag.String("program", "", "the program to time; built from here if not given")
	flag.Parse()
	if err := bench(*program, flag.Args()); err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func bench(program string, names []string) error {
	dir, err := os.MkdirTemp("", "bench")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	programs.umbau, programs.plain = program, filepath.Join(dir, "plain")
	if program == "" {
		programs.umbau = filepath.Join(dir, "umbau")
		if err := build(programs.umbau, "umbau"); err != nil {
			return err
		}
	} else if programs.umbau, err = filepath.Abs(program); err != nil {
		return err
	}
	if err := build(programs.plain, "umbau/bench/plain"); err != nil {
		return err
	}
	for _, s := range shapes {
		if len(names) > 0 && !slices.Contains(names, s.name) {
			continue
		}
		if err := s.run(filepath.Join(dir, "work")); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := os.RemoveAll(filepath.Join(dir, "work")); err != nil {
			return err
		}
	}
	return nil
}

func build(to, pkg string) error {
	c := exec.Command("go", "build", "-o", to, pkg)
	c.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := c.CombinedOutput(); err != nil {
		return fmt.Errorf("%w: %s", err, out)
	}
	return nil
}

func (s *shape) run(dir string) error {
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return err
	}
	n := 0
	if s.plan != "" {
		if err := os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(s.plan), 0o666); err != nil {
			return err
		}
		var err error
		if n, err = s.make(dir); err != nil {
			return err
		}
	}
	mine, other := 1e9, 0.0
	var fact bytes.Buffer
	for range rounds {
		c := exec.Command(programs.umbau, "build", "--quiet")
		if s.plan == "" {
			c = exec.Command(programs.umbau, "version")
		}
		took, err := timed(c, dir, s.plan == "")
		if err != nil {
			return err
		}
		mine = min(mine, took)
		if s.other == nil {
			continue
		}
		fact.Reset()
		c = s.other(dir)
		c.Stdout = &fact
		if took, err = timed(c, dir, false); err != nil {
			return err
		}
		if other == 0 || took < other {
			other = took
		}
	}
	if s.same {
		out, err := os.ReadFile(filepath.Join(dir, "out.csv"))
		if err != nil {
			return err
		}
		if !bytes.Equal(out, fact.Bytes()) {
			return fmt.Errorf("the two fact tables differ")
		}
	}
	fmt.Printf("%-9s %s\n", s.name, s.say(n, mine, other))
	return nil
}

// timed runs a command on one core. It returns its CPU seconds, or those on the
// clock.
func timed(c *exec.Cmd, dir string, clock bool) (float64, error) {
	c.Dir, c.Env = dir, append(os.Environ(), "GOMAXPROCS=1")
	var said bytes.Buffer
	c.Stderr = &said
	begin := time.Now()
	if err := c.Run(); err != nil {
		return 0, fmt.Errorf("%w: %s", err, said.Bytes()[:min(said.Len(), 500)])
	}
	if clock {
		return time.Since(begin).Seconds(), nil
	}
	return (c.ProcessState.UserTime() + c.ProcessState.SystemTime()).Seconds(), nil
}

// plainly runs the plain program on the extracts.
func plainly(job string) func(dir string) *exec.Cmd {
	return func(dir string) *exec.Cmd {
		found, _ := filepath.Glob(filepath.Join(dir, "raw", "*"))
		return exec.Command(programs.plain, append([]string{job}, found...)...)
	}
}

func against(n int, mine, other float64) string {
	return fmt.Sprintf("%.1f times the plain program: %.2f s against %.2f s, %d fact rows", other/mine, mine, other, n)
}

func perRow(n int, mine, other float64) string {
	text := fmt.Sprintf("%.0f ns a fact row, %d rows", mine/float64(n)*1e9, n)
	if other > 0 {
		text += fmt.Sprintf(", %.1f times the plain program", other/mine)
	}
	return text
}

var shapes = []*shape{
	{name: "long", plan: longPlan, make: func(d string) (int, error) { return long(d, 800_000) }, other: plainly("long"), same: true,
		say: against},
	{name: "codes", plan: codesPlan, make: func(d string) (int, error) { return codes(d, 800_000) }, other: plainly("codes"), same: true,
		say: against},
	{name: "wide12", plan: widePlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 12, ".csv") }, other: plainly("wide"),
		same: true, say: perRow},
	{name: "grain", plan: grainPlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 12, ".csv") }, say: perRow},
	{name: "wide500", plan: widePlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 500, ".csv") }, other: plainly("wide"),
		same: true, say: perRow},
	{name: "packed", plan: widePlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 12, ".csv.gz") },
		other: func(d string) *exec.Cmd {
			return exec.Command("sh", "-c", "gzip -dc raw/*.gz")
		}, say: func(n int, mine, other float64) string {
			return fmt.Sprintf("%s, of which gzip alone would take %.0f", perRow(n, mine, 0), other/float64(n)*1e9)
		}},
	{name: "files", plan: widePlan, make: func(d string) (int, error) { return files(d, 10_000) }, other: plainly("wide"), same: true,
		say: func(n int, mine, other float64) string {
			return fmt.Sprintf("%.2f ms a file, %d files; the plain program %.2f ms", mine/float64(n/12)*1000, n/12, other/float64(n/12)*1000)
		}},
	{name: "lookup", plan: lookupPlan, make: func(d string) (int, error) { return lookup(d, 5_000_000) },
		other: func(string) *exec.Cmd { return exec.Command(programs.umbau, "build", "without.yaml", "--quiet") },
		say: func(n int, mine, other float64) string {
			return fmt.Sprintf("%.2f times the build without: %.2f s against %.2f s, %d fact rows, 200,000 lines", mine/other, mine, other, n)
		}},
	{name: "book", plan: bookPlan, make: func(d string) (int, error) { return book(d, 120_000) }, say: func(n int, mine, _ float64) string {
		return fmt.Sprintf("%.0f rows a second of 14 cells, %d rows", float64(n)/mine, n)
	}},
	{name: "start", say: func(_ int, mine, _ float64) string {
		return fmt.Sprintf("%.0f ms on the clock for umbau version", mine*1000)
	}},
}
