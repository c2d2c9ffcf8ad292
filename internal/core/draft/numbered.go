package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
)

// Headers that a program made unlike: where each may stand only once, it puts a number behind the second one. The amount of a thing then
// stands below another name than its quantity.

// secondOnes are what programs put there.
var secondOnes = []string{"2", " 2", "_2", "_1", ".1", " (2)"}

// passNumbers has patterns of headers leave such a number out, and asks where the name of a thing ends with one, too.
func (d *drafter) passNumbers() {
	for _, e := range d.entries {
		if e.unpivot == nil || len(e.unpivot.named) != 2 || e.unpivot.others != 1 || e.unpivot.part != 0 {
			continue
		}
		for _, end := range secondOnes {
			bare, other := e.apartBy(end)
			ends := func(name string) bool { return strings.HasSuffix(name, end) }
			switch {
			case bare == nil:
				continue
			case slices.ContainsFunc(bare, ends):
				e.await(fmt.Sprintf("%s: the measures of a thing stand below two names, such as %s and %s, for a program put %s behind the second "+
					"one, but the name of a thing ends with it, too, and a build stops: a book of names says which they are", e.globs[0], bare[0], other,
					strings.TrimSpace(end)))
			default:
				e.unpivot.header += "[" + pattern.Escape(end) + "]"
			}
			break
		}
	}
}

// apartBy are the things below one of two measures, and one of those below the other, if these are called the same with something behind
// it; nil if not.
func (e *entry) apartBy(end string) (bare []string, other string) {
	things := map[string][]string{} // by measure
	for _, s := range e.sheets {
		for _, i := range s.wide {
			if measure, thing, ok := strings.Cut(s.Fields[i].Header, e.unpivot.between); ok {
				things[key.Of(measure)] = append(things[key.Of(measure)], thing)
			}
		}
	}
	list := sortedKeys(things)
	if len(list) != 2 {
		return nil, ""
	}
	for k := range list {
		one, two := things[list[k]], things[list[1-k]]
		unlike := func(t string) bool {
			t, cut := strings.CutSuffix(t, end)
			return !cut || !slices.Contains(one, t)
		}
		if !slices.ContainsFunc(two, unlike) {
			return one, two[0]
		}
	}
	return nil, ""
}
