package survey

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// growths looks for months across that grow from left to right in every row, measure by measure: Sales Jan, Sales Feb, or Jan above Qty and
// Sales. Wide columns are looked at together by their table.
type growths struct {
	groups  [][]int // numbers whose headers are months, by what else the header says
	of      []tie.Growing
	figures []value.Decimal // of a group, in the row at hand
}

// newGrowths sorts the headers of the columns of numbers of a table; planned figures and those of the last year may grow as they like.
func newGrowths(t *Table, numbers []int) (g growths) {
	var of byMeasure
	for k, i := range numbers {
		if measure, month := besideMonth(t.Fields[i].Header); month && !terms.BesideActual(measure) {
			of.add(measure, k)
		}
	}
	g.groups, g.of = of.groups, make([]tie.Growing, len(of.groups))
	return g
}

// besideMonth is the key of what a header says beside a month, in any of its rows, and whether it has a month.
func besideMonth(header string) (beside string, month bool) {
	if parts := strings.Split(header, " | "); len(parts) > 1 {
		at := slices.IndexFunc(parts, func(part string) bool { _, month := monthOf(part); return month })
		if at < 0 {
			return "", false
		}
		return key.Of(strings.Join(slices.Delete(parts, at, at+1), " ")), true
	}
	if beside, month = monthOf(header); month {
		return beside, true
	}
	_, _, rest, _, ok := terms.MonthBeside(header)
	return key.Of(rest), ok
}

// row takes the figures of a row, by number.
func (g *growths) row(figures []value.Decimal) {
	for n, list := range g.groups {
		g.figures = g.figures[:0]
		for _, k := range list {
			g.figures = append(g.figures, figures[k])
		}
		g.of[n].Row(g.figures)
	}
}

// some reports whether the months of some measure grow in all rows.
func (g *growths) some() bool {
	return slices.ContainsFunc(g.of, func(own tie.Growing) bool { return own.All() })
}
