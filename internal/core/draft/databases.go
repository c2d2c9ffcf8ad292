package draft

import (
	"path"
	"slices"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
)

// database reports whether a table is one of a database; its file is the address then.
func (s *sheet) database() bool { return plan.IsAddress(s.file) }

// secrets are problems of addresses that no plan may hold.
func secrets(paths []string) (problems place.List) {
	for _, p := range paths {
		if plan.IsAddress(p) && plan.Shown(p) != p {
			problems.Add(place.Problem{What: "environment", Count: 1, Message: plan.Shown(p) + " has a password, and a plan holds none; " +
				"put the address into an environment variable, SALES_DB say, and draft from '${SALES_DB}'"})
		}
	}
	return problems
}

// findTables finds globs that match the names of the entry's tables in a database, and of no other.
func (e *entry) findTables(d *drafter) {
	var tables []string
	for _, s := range e.sheets {
		tables = append(tables, s.Place.Sheet)
	}
	glob := timeless(tables[0])
	if len(tables) > 1 {
		prefix, suffix := filenames.CommonEnds(tables)
		glob = escapedGlob(prefix) + "*" + escapedGlob(suffix)
	}
	others := slices.ContainsFunc(d.sheets, func(s *sheet) bool {
		fits, _ := path.Match(glob, s.Place.Sheet)
		return fits && s.entry != e && s.file == e.sheets[0].file
	})
	if !others {
		e.globs = []string{glob}
		return
	}
	for _, t := range tables {
		e.globs = append(e.globs, escapedGlob(t))
	}
}

// source is the key and the text that say where an entry's tables are.
func (e *entry) source() (name, text string) {
	list := layout.Flow(e.globs[0])
	if len(e.globs) > 1 {
		list = "[" + strings.Join(flowAll(e.globs), ", ") + "]"
	}
	if first := e.sheets[0]; first.database() {
		return "from", layout.Flow(first.file) + "\n    table: " + list
	}
	return "files", list
}
