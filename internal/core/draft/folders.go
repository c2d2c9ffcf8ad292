package draft

import (
	"maps"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// What the names of folders say.

// folder is one around a table's file, or an archive that it is in.
type folder struct {
	name      string
	timeAlone bool // of what it says, only the time counts
}

// findFolders finds the folders around tables that say more than the files' names.
func (d *drafter) findFolders() {
	wanted := d.wanted()
	places := maps.Clone(wanted)
	places[terms.Branch] = wanted[terms.Branch] || len(d.Columns) == 0
	vary := d.varyingFolders()
	for _, s := range d.sheets {
		if s.as == "extract" && !s.database() {
			s.two = s.unsaid(wanted) > 1
			s.folders = s.tellingFolders(s.unsaid(places), vary)
		}
	}
}

// level is a folder so far from its file, of so many.
type level struct{ far, of int }

// varyingFolders are the levels on which not all extracts have the same folder.
func (d *drafter) varyingFolders() map[level]bool {
	first, vary := map[level]string{}, map[level]bool{}
	for _, s := range d.extracts() {
		around := s.around()
		for i, name := range around {
			at := level{len(around) - i, len(around)}
			if before, ok := first[at]; !ok {
				first[at] = name
			} else if before != name {
				vary[at] = true
			}
		}
	}
	return vary
}

// around are the folders around a table's file, from the outer one on; an archive is one of its members.
func (s *sheet) around() (out []string) {
	file := s.file
	if s.member != "" {
		file = path.Join(strings.TrimSuffix(file, path.Ext(file)), s.member)
	}
	for _, name := range strings.Split(path.Dir(file), "/") {
		if strings.Trim(name, ".") != "" {
			out = append(out, name)
		}
	}
	return out
}

// outside is how many of the folders that tell something are around the file, rather than within an archive.
func (s *sheet) outside() int {
	if s.member == "" {
		return len(s.folders)
	}
	return max(0, len(s.folders)-strings.Count(s.member, "/")-1)
}

// starred is the glob of the folder that a table's file is in: of any name, as far as these tell something.
func (s *sheet) starred() string {
	dir := path.Dir(s.file)
	for range s.outside() {
		dir = path.Dir(dir)
	}
	return escapedGlob(dir) + strings.Repeat("/*", s.outside())
}

// told is what the name of a file and the folders around it say so far.
type told struct {
	time   bool // a month, a day, a quarter or a year
	year   bool // no more than a year
	month  bool // a month without a year
	labels int
}

// tellingFolders are the folders around a table that say more than its file: a time that it does not, and labels, of which so many
// are unsaid.
func (s *sheet) tellingFolders(unsaid int, vary map[level]bool) []folder {
	around, has, n := s.around(), s.toldBy(s.nameOf()), 0
	out := make([]folder, len(around))
	for far := 1; far <= len(around); far++ {
		at := len(around) - far
		name := around[at]
		own := s.toldBy(name)
		more := own.labels > 0 && (has.labels == 0 || has.labels < unsaid && vary[level{far, len(around)}])
		out[at] = folder{name: name, timeAlone: !more}
		switch {
		case has.month && terms.IsYear(name):
			has.time, has.month = true, false
		case own.month && !has.time && at > 0 && terms.IsYear(around[at-1]):
			has.month = true
		case own.time && (!has.time || has.year && !own.year):
			has.time, has.year = true, own.year
		case !more || own.time || own.month:
			continue
		}
		if n = far; more {
			has.labels += own.labels
		}
	}
	return out[len(out)-n:]
}

// toldBy is what a name says that no column of labels says in all rows.
func (s *sheet) toldBy(name string) told {
	label, _, time, timed := filenames.SplitTime(name)
	year := timed && terms.IsYear(time)
	switch {
	case filenames.TimeAlone(name):
		return told{time: true}
	case !timed && (ofMonth(name) || filenames.NumberedMonth(name) != "" || filenames.MonthsOfYear([]string{name}) != nil):
		return told{month: true}
	case !timed:
		label = name
	}
	first, _, second, two := filenames.SplitTwo(label)
	month := two && !timed && (ofMonth(first) || ofMonth(second))
	switch {
	case two && !month:
		return told{time: timed, year: year, labels: 2}
	case terms.SaysNothing(label) || s.says(label):
		return told{time: timed, year: year}
	}
	return told{time: timed, year: year, month: month, labels: 1}
}

// ofMonth reports whether a name is a month without a year.
func ofMonth(name string) bool {
	return terms.MonthNumbers([]string{name}) || terms.BareTimes([]string{name}) == terms.Month
}

// says reports whether a column of labels has a text in all rows.
func (s *sheet) says(text string) bool {
	return slices.ContainsFunc(s.labels(), func(i int) bool {
		f := &s.Fields[i]
		return f.Distinct == 1 && len(f.Values) == 1 && key.Same(f.Values[0], text)
	})
}
