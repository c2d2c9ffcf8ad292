package fact

import (
	"slices"

	"umbau/internal/core/since"
	"umbau/internal/core/value"
)

// GroupDifference is a group that has one figure under a plan, and another under one that is tried.
// A figure is empty where the group has no fact rows.
type GroupDifference struct{ Group, Measure, Plan, Tried string }

// Difference is that of the tried plan less that of the plan.
func (g *GroupDifference) Difference() value.Decimal {
	c := since.Change{Before: g.Plan, Now: g.Tried}
	return c.Difference()
}

// CompareGroups lists the groups of history (see plan.HistoryBy) that differ between two dry runs,
// the largest difference first.
func CompareGroups(planned, tried *Summary) (out []GroupDifference) {
	index := map[[2]string]int{}
	add := func(s *Summary, set func(*GroupDifference, string)) {
		if s.Since.now == nil {
			return
		}
		for i := range s.Since.now.Lines {
			l := &s.Since.now.Lines[i]
			if l.What != since.Group {
				continue
			}
			id := [2]string{l.Group, l.Measure}
			at, known := index[id]
			if !known {
				at = len(out)
				index[id], out = at, append(out, GroupDifference{Group: l.Group, Measure: l.Measure})
			}
			set(&out[at], l.Value)
		}
	}
	add(planned, func(g *GroupDifference, text string) { g.Plan = text })
	add(tried, func(g *GroupDifference, text string) { g.Tried = text })
	out = slices.DeleteFunc(out, func(g GroupDifference) bool {
		return g.Plan == g.Tried || g.Plan != "" && g.Tried != "" && g.Difference().Sign() == 0
	})
	slices.SortStableFunc(out, func(a, b GroupDifference) int { return b.Difference().Abs().Cmp(a.Difference().Abs()) })
	return out
}
