package draft

import (
	"path"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/terms"
)

// What the names of folders say.

// findFolders finds the tables whose folder says more than their file: it is a time, or a label while the file says no
// more than a time, or one while two are to be found there.
func (d *drafter) findFolders() {
	wanted := d.wanted()
	for _, s := range d.sheets {
		dir := path.Dir(s.file)
		folder := path.Base(dir)
		if s.as != "extract" || s.member != "" || s.database() || dir == "." || dir == ".." {
			continue
		}
		name, _, _, timed := filenames.SplitTime(s.nameOf())
		if filenames.TimeAlone(s.nameOf()) {
			name, timed = "", true
		} else if !timed {
			name = s.nameOf()
		}
		if s.findOuter(dir, timed) {
			continue
		}
		s.two = s.unsaid(wanted) > 1
		_, _, _, both := filenames.SplitTwo(name)
		c, _ := terms.TimeOf(folder)
		if c == terms.None && !filenames.TimeAlone(folder) && (terms.SaysNothing(folder) || !terms.SaysNothing(name) && (!s.two || both)) {
			continue
		}
		s.inFolder = folder
	}
}

// findOuter finds two folders that say something together: a year and a month in it, or a label and a year in it, where the file is
// called by a month.
func (s *sheet) findOuter(dir string, timed bool) bool {
	folder, outer := path.Base(dir), path.Base(path.Dir(dir))
	inner, _ := terms.TimeOf(folder)
	around, _ := terms.TimeOf(outer)
	ofMonth := func(name string) bool {
		return terms.MonthNumbers([]string{name}) || terms.BareTimes([]string{name}) == terms.Month
	}
	switch {
	case around == terms.Year && ofMonth(folder):
	case inner == terms.Year && (timed || ofMonth(s.nameOf())) && strings.Trim(outer, ".") != "" && !terms.SaysNothing(outer):
	default:
		return false
	}
	s.inFolder, s.outer = folder, outer
	return true
}
