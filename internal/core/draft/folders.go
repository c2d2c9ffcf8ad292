package draft

import (
	"path"
	"strings"
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
		name, _, _, timed := splitTime(s.nameOf())
		if timeAlone(s.nameOf()) {
			name, timed = "", true
		} else if !timed {
			name = s.nameOf()
		}
		if s.findOuter(dir, timed) {
			continue
		}
		s.two = s.unsaid(wanted) > 1
		_, _, _, both := splitTwo(name)
		if c, _ := timeOf(folder); c == noClass && !timeAlone(folder) && (saysNothing(folder) || !saysNothing(name) && (!s.two || both)) {
			continue
		}
		s.inFolder = folder
	}
}

// findOuter finds two folders that say something together: a year and a month in it, or a label and a year in it, where the file is
// called by a month.
func (s *sheet) findOuter(dir string, timed bool) bool {
	folder, outer := path.Base(dir), path.Base(path.Dir(dir))
	inner, _ := timeOf(folder)
	around, _ := timeOf(outer)
	ofMonth := func(name string) bool { return monthNumbers([]string{name}) || bareTimes([]string{name}) == month }
	switch {
	case around == year && ofMonth(folder):
	case inner == year && (timed || ofMonth(s.nameOf())) && strings.Trim(outer, ".") != "" && !saysNothing(outer):
	default:
		return false
	}
	s.inFolder, s.outer = folder, outer
	return true
}

// ofFolder are the pieces of folders: a time, a month alone or a label.
func ofFolder(names []string) []namePiece {
	c, _ := timesOf(names)
	if pieces := timeWithin(names, true); c == noClass && pieces != nil && timeAlone(names[0]) {
		for i := range pieces {
			pieces[i].folder = true
		}
		return pieces
	}
	return []namePiece{{values: names, time: c, folder: true, digits: monthNumbers(names)}}
}
