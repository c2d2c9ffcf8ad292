package survey

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
)

// Layout is what tables share: the same headers by the key, in any order, wide
// columns aside.
type Layout struct {
	Headers []string // as the first of the tables has them
	Wide    bool     // there are wide columns too
	Tables  []place.Place
}

// Layouts groups tables by their layout, largest groups first.
func Layouts(tables []*Table) []Layout {
	index := map[string]int{}
	var out []Layout
	for _, t := range tables {
		var l Layout
		var keys []string
		for _, f := range t.Fields {
			if f.Wide {
				l.Wide = true
			} else if !slices.Contains(t.TotalColumns, f.Header) {
				l.Headers = append(l.Headers, f.Header)
				keys = append(keys, key.Of(f.Header))
			}
		}
		slices.Sort(keys)
		if l.Wide {
			keys = append(keys, "\x00")
		}
		k := strings.Join(keys, "\x00")
		i, ok := index[k]
		if !ok {
			i = len(out)
			index[k] = i
			out = append(out, l)
		}
		out[i].Tables = append(out[i].Tables, t.Place)
	}
	slices.SortStableFunc(out, func(a, b Layout) int { return len(b.Tables) - len(a.Tables) })
	return out
}
