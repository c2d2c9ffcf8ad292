// Bench times the program on the shapes that extracts come in, on one core, and
// where there is one against a plain single-purpose program (plain/), whose fact
// table must be the same byte for byte.
//
//	go run ./bench                 all shapes
//	go run ./bench long codes      some
//	go run ./bench -program FILE   a program built before
//	go run ./bench -into DIR long  the input of a shape alone, to be looked at or profiled
//	go run ./bench -profile bench/umbau.pgo   where time goes on all shapes, for go build -pgo
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
	"strings"
	"time"
)

// shape is a kind of input, and what is timed on it.
type shape struct {
	name  string
	plan  string
	make  func(dir string) (n int, err error)
	call  []string                   // of the program; nil for a build
	other func(dir string) *exec.Cmd // timed beside it; nil for none
	same  bool                       // the other one's output is the fact table
	lean  string                     // the job of the lean program for just this shape, whose fact table is the same
	needs string                     // a variable of the environment: the address of a database
	say   func(measured) string
}

// measured is what came of it: rows (or files), CPU seconds, those of the other run, and
// the most memory that the program had, in MB.
type measured struct {
	n           int
	mine, other float64
	lean        float64
	peak        int
}

const rounds = 5

var programs struct{ umbau, plain string }

func main() {
	program := flag.String("program", "", "the program to time; built from here if not given")
	into := flag.String("into", "", "make the input of the shapes there, and time nothing")
	pgo := flag.String("profile", "", "write a profile of all shapes there, and time nothing")
	flag.Parse()
	do := func() error { return bench(*program, flag.Args()) }
	if *into != "" {
		do = func() error { return only(*into, flag.Args()) }
	}
	if *pgo != "" {
		do = func() error { return profile(*pgo) }
	}
	if err := do(); err != nil {
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
		if len(names) > 0 && !slices.Contains(names, s.name) || s.needs != "" && os.Getenv(s.needs) == "" {
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

// only makes the input of shapes.
func only(dir string, names []string) error {
	for _, s := range shapes {
		if slices.Contains(names, s.name) && s.plan != "" {
			if _, err := s.prepare(filepath.Join(dir, s.name)); err != nil {
				return err
			}
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

// prepare makes the plan and the input, and returns how many rows there are.
func (s *shape) prepare(dir string) (n int, err error) {
	if err := os.MkdirAll(dir, 0o777); err != nil || s.plan == "" {
		return 0, err
	}
	if err := os.WriteFile(filepath.Join(dir, "umbau.yaml"), []byte(s.plan), 0o666); err != nil {
		return 0, err
	}
	return s.make(dir)
}

func (s *shape) run(dir string) error {
	n, err := s.prepare(dir)
	if err != nil {
		return err
	}
	m := measured{n: n, mine: 1e9}
	var fact bytes.Buffer
	for range rounds {
		call := s.call
		if call == nil {
			call = []string{"build", "--quiet"}
		}
		c := exec.Command(programs.umbau, call...)
		took, err := timed(c, dir, s.plan == "")
		if err != nil {
			return err
		}
		m.mine, m.peak = min(m.mine, took), max(m.peak, peak(c.ProcessState))
		if s.lean != "" {
			if took, err = timed(plainly(s.lean)(dir), dir, false); err != nil {
				return err
			}
			if m.lean == 0 || took < m.lean {
				m.lean = took
			}
		}
		if s.other == nil {
			continue
		}
		fact.Reset()
		c = s.other(dir)
		c.Stdout = &fact
		if took, err = timed(c, dir, false); err != nil {
			return err
		}
		if m.other == 0 || took < m.other {
			m.other = took
		}
	}
	if err := s.compare(dir, fact.Bytes()); err != nil {
		return err
	}
	fmt.Printf("%-9s %s\n", s.name, s.say(m))
	return nil
}

// compare holds the fact tables of the other programs against that of the program.
func (s *shape) compare(dir string, others []byte) error {
	if !s.same {
		return nil
	}
	out, err := os.ReadFile(filepath.Join(dir, "out.csv"))
	if err == nil && !bytes.Equal(out, others) {
		err = fmt.Errorf("the fact table of the plain program differs")
	}
	if err != nil || s.lean == "" {
		return err
	}
	lean, err := os.ReadFile(filepath.Join(dir, "lean.csv"))
	if err == nil && !bytes.Equal(out, lean) {
		err = fmt.Errorf("the fact table of the lean program differs")
	}
	return err
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

// delivered builds what was made.
func delivered(n int, err error) func(dir string) (int, error) {
	return func(dir string) (int, error) {
		if err == nil {
			_, err = timed(rebuild(dir), dir, false)
		}
		return n, err
	}
}

// plainly runs the plain program on the extracts.
func plainly(job string) func(dir string) *exec.Cmd {
	return func(dir string) *exec.Cmd {
		found, _ := filepath.Glob(filepath.Join(dir, "raw", "*"))
		return exec.Command(programs.plain, append([]string{job}, found...)...)
	}
}

func against(m measured) string {
	return fmt.Sprintf("%.2f s; %.1f times a lean program (%.2f s), %.1f times as fast as a plain one (%.2f s); %d rows, %.0f ns each",
		m.mine, m.mine/m.lean, m.lean, m.other/m.mine, m.other, m.n, m.mine/float64(m.n)*1e9)
}

func perRow(m measured) string {
	return fmt.Sprintf("%.0f ns a fact row, %d rows", m.mine/float64(m.n)*1e9, m.n)
}

// ofBuild says what a command on a delivery takes, beside the build of it.
func ofBuild(m measured) string {
	return fmt.Sprintf("%.2f times its build: %.2f s against %.2f s, %d rows, %d MB", m.mine/m.other, m.mine, m.other, m.n, m.peak)
}

// perSecond says how many fact rows are delivered in a second, and with how much memory.
func perSecond(m measured) string {
	return fmt.Sprintf("%.2f million fact rows a second, %d rows, %d MB", float64(m.n)/m.mine/1e6, m.n, m.peak)
}

// to is the plan of wide extracts with another delivery.
func to(delivery string) string { return strings.Replace(widePlan, "{ to: out.csv }", delivery, 1) }

// million makes wide extracts of so many fact rows.
func million(rows int) func(dir string) (int, error) {
	return func(dir string) (int, error) { return wide(dir, rows, 12, ".csv") }
}

// rebuild is the build that made a delivery, once more.
func rebuild(string) *exec.Cmd { return exec.Command(programs.umbau, "build", "--quiet") }

var shapes = []*shape{
	{name: "long", plan: longPlan, make: func(d string) (int, error) { return long(d, 800_000) }, other: plainly("long"), same: true,
		lean: "lean-long", say: against},
	{name: "codes", plan: codesPlan, make: func(d string) (int, error) { return codes(d, 800_000) }, other: plainly("codes"), same: true,
		lean: "lean-codes", say: against},
	{name: "wide12", plan: widePlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 12, ".csv") }, other: plainly("wide"),
		same: true, lean: "lean-wide", say: against},
	{name: "grain", plan: grainPlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 12, ".csv") }, say: perRow},
	{name: "wide500", plan: widePlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 500, ".csv") }, other: plainly("wide"),
		same: true, lean: "lean-wide", say: against},
	{name: "packed", plan: widePlan, make: func(d string) (int, error) { return wide(d, 2_400_000, 12, ".csv.gz") },
		other: func(d string) *exec.Cmd {
			return exec.Command("sh", "-c", "gzip -dc raw/*.gz")
		}, say: func(m measured) string {
			gzip := m.other / float64(m.n) * 1e9
			m.other = 0
			return fmt.Sprintf("%s, of which gzip alone would take %.0f", perRow(m), gzip)
		}},
	{name: "files", plan: widePlan, make: func(d string) (int, error) { return files(d, 10_000) }, other: plainly("wide"), same: true,
		say: func(m measured) string {
			return fmt.Sprintf("%.2f ms a file, %d files; the plain program %.2f ms", m.mine/float64(m.n/12)*1000, m.n/12,
				m.other/float64(m.n/12)*1000)
		}},
	{name: "lookup", plan: lookupPlan, make: func(d string) (int, error) { return lookup(d, 5_000_000) },
		other: func(string) *exec.Cmd { return exec.Command(programs.umbau, "build", "without.yaml", "--quiet") },
		say: func(m measured) string {
			return fmt.Sprintf("%.2f times the build without: %.2f s against %.2f s, %d fact rows, 200,000 lines", m.mine/m.other, m.mine, m.other,
				m.n)
		}},
	{name: "parquet", plan: to("{ to: out.parquet }"), make: million(5_900_000), say: perSecond},
	{name: "gz", plan: to("{ to: out.csv.gz }"), make: million(5_900_000), say: perSecond},
	{name: "zst", plan: to("{ to: out.csv.zst }"), make: million(5_900_000), say: perSecond},
	{name: "sqlite", plan: to("{ to: \"sqlite:out.db\", table: sales }"), make: million(2_400_000), say: perSecond},
	{name: "xlsx", plan: to("{ to: out.xlsx }"), make: million(900_000), say: perSecond},
	{name: "postgres", plan: to("{ to: \"${SALES_DB}\", table: sales }"), make: million(2_400_000), say: perSecond,
		needs: "SALES_DB"},
	{name: "totals", plan: widePlan, make: func(d string) (int, error) { return delivered(wide(d, 5_900_000, 12, ".csv"))(d) },
		call: []string{"totals", "--by", "region,product", "--quiet"}, other: rebuild, say: ofBuild},
	{name: "keys", plan: invoicesPlan, make: func(d string) (int, error) { return delivered(invoices(d, 5_000_000, 1_000_000))(d) },
		call: []string{"keys", "out.csv", "--on", "invoice", "--quiet"}, other: rebuild, say: ofBuild},
	{name: "book", plan: bookPlan, make: func(d string) (int, error) { return book(d, 120_000) }, say: func(m measured) string {
		return fmt.Sprintf("%.0f rows a second of 14 cells, %d rows", float64(m.n)/m.mine, m.n)
	}},
	{name: "start", call: []string{"version"}, say: func(m measured) string {
		return fmt.Sprintf("%.0f ms on the clock for umbau version", m.mine*1000)
	}},
}
