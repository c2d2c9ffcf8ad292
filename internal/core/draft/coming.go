package draft

import (
	"path"
	"slices"
	"strings"

	"umbau/internal/core/terms"
)

// widenGlob lets the glob of an entry match the files of other places, too, where a column takes the place from their names: of
// "Lakes 2024.csv" alone, "* 20*.csv", for next month there may be one of Skerries.
func (e *entry) widenGlob(d *drafter) {
	if len(e.globs) != 1 || len(e.except) > 0 || e.sheets[0].database() {
		return
	}
	dir, base := path.Split(e.globs[0])
	name, ok := e.globOfPieces()
	glob := dir + name + path.Ext(base)
	if covered, _ := path.Match(base, strings.ReplaceAll(path.Base(glob), "*", "x")); !ok || covered || !fitsAll(glob, e.files()) ||
		!e.alone(d, glob) {
		return
	}
	for i, q := range e.open {
		e.open[i] = strings.Replace(q, e.globs[0]+": ", glob+": ", 1)
	}
	e.globs = []string{glob}
}

// globOfPieces is a glob for names of the pieces of the path, whatever place a column takes from it; ok is false where none does, or
// the files have several already.
func (e *entry) globOfPieces() (glob string, ok bool) {
	for _, p := range e.pieces {
		switch {
		case p.from != "path":
			continue
		case p.Absent || p.Folder || strings.Contains(p.Before, "/"):
			return "", false
		}
		glob += escapedGlob(p.Before)
		switch {
		case p.Time != terms.None || p.column != nil && p.column.class.OfTime():
			glob += timeGlob(p.Values)
		case len(slices.Compact(slices.Sorted(slices.Values(p.Values)))) > 1:
			return "", false
		case p.column != nil:
			glob, ok = glob+"*", true
		case len(p.Values) > 0:
			glob += escapedGlob(p.Values[0])
		}
	}
	return glob, ok
}
