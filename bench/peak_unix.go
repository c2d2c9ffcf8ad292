//go:build unix

package main

import (
	"os"
	"runtime"
	"syscall"
)

// peak is the most memory that a process had, in MB.
func peak(p *os.ProcessState) int {
	use, ok := p.SysUsage().(*syscall.Rusage)
	if !ok {
		return 0
	}
	if runtime.GOOS == "darwin" {
		return int(use.Maxrss >> 20)
	}
	return int(use.Maxrss >> 10)
}
