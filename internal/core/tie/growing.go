package tie

import "umbau/internal/core/value"

// Growing finds out whether wide columns grow from left to right in every row, as figures do that are the sums of the months
// so far; amounts of single months, or of things, do not.
type Growing struct {
	rows int // that do
	over bool
}

const (
	leastGrowing = 5 // figures of a row that counts …
	leastRows    = 5 // … and such rows
)

// Row takes the figures of the wide columns of a row. Those before the first and behind the last that is there count for nothing.
func (g *Growing) Row(figures []value.Decimal) {
	for len(figures) > 0 && figures[0].Sign() == 0 {
		figures = figures[1:]
	}
	for len(figures) > 0 && figures[len(figures)-1].Sign() == 0 {
		figures = figures[:len(figures)-1]
	}
	if g.over || len(figures) < leastGrowing {
		return
	}
	steps := 0
	for i := range figures[1:] {
		switch c := figures[i].Cmp(figures[i+1]); {
		case c > 0 || figures[i].Sign() < 0:
			g.over = true
			return
		case c < 0:
			steps++
		}
	}
	if steps >= leastGrowing-1 { // others stand still, as plans do
		g.rows++
	}
}

// All reports whether all rows grow, and enough of them.
func (g *Growing) All() bool { return !g.over && g.rows >= leastRows }
