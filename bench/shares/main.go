// Shares works out what a build in shares costs, from speeds that were measured on one core:
//
//	go run ./bench/shares
//
// It knows nothing of queues, of machines that are slower than others, and of a network that others use.
package main

import (
	"fmt"
	"math"
	"time"
)

// shape is a kind of extracts: how fast one core reads them into parts, and how much text comes out.
type shape struct {
	name   string
	read   float64 // bytes of extracts a second and core
	widens float64 // bytes of delivery, and about as many of parts, for each byte of extracts
}

// Measured on one core: the wide workload (49 MB in, 333 MB out), and six million rows of seven cells with
// remarks that never come again (439 MB in, 497 MB out).
var shapes = []shape{{"wide", 100e6, 6.8}, {"long", 53e6, 1.1}}

const (
	copies   = 750e6 // bytes of parts that a join copies a second
	checks   = 1.1e9 // bytes of files of shares that it looks at a second, which it does not copy
	begin    = 0.05  // seconds for a share to begin: plan, books, references
	perFile  = 2e-5  // seconds a share spends on each file of the build, which it looks up to work out the shares
	perPart  = 0.003 // seconds the join spends on each part beside copying it
	fileSize = 100e6 // bytes of an extract
	finest   = 1e6   // bytes of the least piece that is cut off one
	skip     = 3e9   // bytes a second that a share skips to where its piece of an extract begins
	network  = 10e9  // bytes a second that the shared file system gives all machines together
)

func main() {
	fmt.Println("| shape | extracts | shares | a share reads | slowest share | join | join, `parts: yes` | core hours | " +
		"through the file system |")
	fmt.Println("|---|--:|--:|--:|--:|--:|--:|--:|--:|")
	for _, s := range shapes {
		for _, size := range []float64{100e9, 10e12} {
			for _, shares := range []float64{1, 16, 256, 4096} {
				s.print(size, shares)
			}
		}
	}
}

// print prints the line of a build.
func (s shape) print(size, shares float64) {
	files := size / fileSize
	piece := math.Max(size/shares, finest)
	above := math.Max(0, fileSize-math.Min(piece, fileSize)) // most that stands above the piece of an extract
	slowest := begin + perFile*files + piece/s.read + above/skip
	join, check := size*s.widens/copies+perPart*shares, size*s.widens/checks+perPart*shares
	traffic := size + shares*above/2 + 3*size*s.widens // extracts read, parts written and read, the delivery written
	if shares == 1 {                                   // built at once
		slowest, join, check, traffic = begin+size/s.read, 0, 0, size+size*s.widens
	}
	work := shares * slowest
	slowest = math.Max(slowest, (size+size*s.widens)/network) // no faster than the file system gives
	fmt.Printf("| %s | %s | %.0f | %s | %s | %s | %s | %.1f | %s |\n", s.name, bytes(size), shares, bytes(piece), span(slowest), span(join),
		span(check), (work+join)/3600, bytes(traffic))
}

func bytes(n float64) string {
	for _, u := range []struct {
		size float64
		name string
	}{{1e12, "TB"}, {1e9, "GB"}, {1e6, "MB"}} {
		if n >= u.size {
			return fmt.Sprintf("%.3g %s", n/u.size, u.name)
		}
	}
	return fmt.Sprintf("%.0f B", n)
}

func span(seconds float64) string {
	return time.Duration(seconds * float64(time.Second)).Round(time.Second).String()
}
