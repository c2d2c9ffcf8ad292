package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
)

// Headers that a program made unlike: where each may stand only once, it puts a number behind the second one. The amount of a thing then
// stands below another name than its quantity.

// numbered are the things across, by the key, that have the names of others but for such a number, and what these are; nil unless all
// things below one measure have no number, and all below the others do.
func (e *entry) numbered() map[string]string {
	if e.unpivot == nil || len(e.unpivot.named) != 2 || e.unpivot.others != 1 {
		return nil
	}
	things := map[string][]string{} // by measure
	for _, s := range e.sheets {
		for _, i := range s.wide {
			parts := strings.Split(s.Fields[i].Header, e.unpivot.between)
			if len(parts) != 2 {
				return nil
			}
			m := key.Of(parts[e.unpivot.part])
			things[m] = append(things[m], parts[1-e.unpivot.part])
		}
	}
	for _, first := range sortedKeys(things) {
		bare := map[string]string{}
		for _, t := range things[first] {
			bare[key.Of(t)] = t
		}
		out, fit := map[string]string{}, true
		for m, list := range things {
			for _, t := range list {
				base, ok := bare[key.Of(strings.TrimSuffix(t, "2"))]
				fit = fit && (m == first || ok && strings.HasSuffix(t, "2"))
				if m != first {
					out[key.Of(t)] = base
				}
			}
		}
		if fit {
			return out
		}
	}
	return nil
}

// readNumbered has columns read such names without the number, and asks where others end with it, too.
func (d *drafter) readNumbered() {
	for _, e := range d.entries {
		numbered := e.numbered()
		for _, c := range d.columns {
			if len(numbered) == 0 || c.class.OfTime() || c.read != "" || !strings.Contains(e.unpivot.header, "{"+c.name+"}") {
				continue
			}
			ends := func(name string) bool { return strings.HasSuffix(name, "2") && numbered[key.Of(name)] == "" }
			if others := slices.DeleteFunc(sortedKeys(c.values), func(name string) bool { return !ends(name) }); len(others) > 0 {
				e.await(fmt.Sprintf("%s: the measures of a thing stand below two names, for a program put a number behind the second one, but %s "+
					"ends with it, too, and a build stops: a book of names says which they are", e.globs[0], others[0]))
				continue
			}
			c.read = "{}[2]"
			c.note = "a program that lets a header stand once put a 2 behind the second one"
		}
	}
}
