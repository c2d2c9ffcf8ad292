package main

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime/pprof"

	"umbau/internal/cli"
)

// profile writes where the program spends its time on all shapes together, each weighing as long as it
// takes, for the compiler (profile-guided optimization).
func profile(to string) error {
	dir, err := os.MkdirTemp("", "profile")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	to, err = filepath.Abs(to)
	if err != nil {
		return err
	}
	programs.umbau = filepath.Join(dir, "umbau") // some input is made by it
	if err := build(programs.umbau, "umbau"); err != nil {
		return err
	}
	var profiles []string
	for _, s := range shapes {
		if s.plan == "" || s.needs != "" {
			continue
		}
		work := filepath.Join(dir, s.name)
		if _, err := s.prepare(work); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := os.Chdir(work); err != nil {
			return err
		}
		calls := [][]string{{"build", "--quiet"}, {"survey", "."}}
		if s.call != nil {
			calls = [][]string{s.call}
		}
		for i, call := range calls {
			name := filepath.Join(dir, fmt.Sprintf("%s.%d.pprof", s.name, i))
			if err := profiled(name, call); err != nil {
				return fmt.Errorf("%s: %w", s.name, err)
			}
			profiles = append(profiles, name)
		}
		if err := os.RemoveAll(work); err != nil {
			return err
		}
		fmt.Println(s.name)
	}
	var merged bytes.Buffer
	c := exec.Command("go", append([]string{"tool", "pprof", "-proto"}, profiles...)...)
	c.Dir, c.Stdout, c.Stderr = dir, &merged, os.Stderr
	if err := c.Run(); err != nil {
		return err
	}
	return os.WriteFile(to, merged.Bytes(), 0o666)
}

// profiled runs a command of the program, and writes its profile.
func profiled(to string, call []string) error {
	f, err := os.Create(to)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := pprof.StartCPUProfile(f); err != nil {
		return err
	}
	var said bytes.Buffer
	code := cli.Main(call, io.Discard, &said)
	pprof.StopCPUProfile()
	if code != 0 {
		return fmt.Errorf("umbau %v ended with %d: %s", call, code, said.String())
	}
	return f.Close()
}
