package tie

import (
	"slices"

	"umbau/internal/core/value"
)

// Growing finds out whether wide columns grow from left to right in every row, as figures do that are the sums of the months
// so far, of each year anew; amounts of single months, or of things, do not.
type Growing struct {
	rows   int   // that do
	begins []int // where figures fall: the sums of another year begin; ascending
	falls  int
	deep   int // falls to half, or below
	over   bool
}

const (
	leastGrowing = 5 // figures of a row that counts, and between two falls …
	leastRows    = 5 // … and such rows
)

// Row takes the figures of the wide columns of a row. Those before the first and behind the last that is there count for nothing.
func (g *Growing) Row(figures []value.Decimal) {
	first, last := 0, len(figures)
	for first < last && figures[first].Sign() == 0 {
		first++
	}
	for first < last && figures[last-1].Sign() == 0 {
		last--
	}
	if g.over || last-first < leastGrowing {
		return
	}
	steps := 0
	for i := first; i < last-1; i++ {
		switch c := figures[i].Cmp(figures[i+1]); {
		case figures[i].Sign() < 0 || c > 0 && !g.begin(i+1):
			g.over = true
			return
		case c > 0:
			g.falls++
			if figures[i+1].Add(figures[i+1]).Cmp(figures[i]) <= 0 {
				g.deep++
			}
		case c < 0:
			steps++
		}
	}
	if steps >= leastGrowing-1 { // others stand still, as plans do
		g.rows++
	}
}

// begin notes a fall, and reports whether it is far enough from the others to be where sums begin anew.
func (g *Growing) begin(at int) bool {
	i, known := slices.BinarySearch(g.begins, at)
	if known {
		return true
	}
	if i > 0 && at-g.begins[i-1] < leastGrowing || i < len(g.begins) && g.begins[i]-at < leastGrowing {
		return false
	}
	g.begins = slices.Insert(g.begins, i, at)
	return true
}

// All reports whether all rows grow, and enough of them; where they fall, mostly to half or less.
func (g *Growing) All() bool { return !g.over && g.rows >= leastRows && 2*g.deep >= g.falls }
