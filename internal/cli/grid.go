package cli

import (
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"
)

// grid prints cells in columns, two spaces behind a margin of two: texts begin at the left
// of theirs, figures end at the right.
type grid struct {
	right []int // the columns of figures
	rows  [][]string
}

func (g *grid) add(cells ...string) { g.rows = append(g.rows, cells) }

// print prints the rows; nothing stands behind the last cell of each that is not empty.
func (g *grid) print(w io.Writer) {
	var widths []int
	for _, row := range g.rows {
		for i, cell := range row {
			if i == len(widths) {
				widths = append(widths, 0)
			}
			widths[i] = max(widths[i], utf8.RuneCountInString(cell))
		}
	}
	for _, row := range g.rows {
		var b strings.Builder
		for i, cell := range row {
			pad := strings.Repeat(" ", widths[i]-utf8.RuneCountInString(cell))
			if slices.Contains(g.right, i) {
				cell, pad = pad+cell, ""
			}
			b.WriteString("  " + cell + pad)
		}
		fmt.Fprintln(w, strings.TrimRight(b.String(), " "))
	}
}
