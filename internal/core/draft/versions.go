package draft

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/terms"
)

// Two versions of one table.

// version is what a name says of which of several versions of a file it is.
var version = expression.Of(`(?i)^(copy of|kopie von|copie de|copia de) ` +
	`|[ _-]+(v\d+|version ?\d*|final\d*|prelim\w*|corrected\d*|korrigiert\d*|korr\d*|copy\d*|kopie\d*|copie|copia|rev ?\d*)\b` +
	`|[ _-]+(vorläufig|endgültig)| ?\(\d+\)$`)

// exported is a month or day in a name.
var exported = expression.Of(`[ _-]*(19|20)\d\d[-_. ]?[01]\d([-_. ]?[0-3]\d)?`)

// askVersions asks which of two files counts where one is another version of the other, by their names, or as most rows of one
// grain are the same in both, though not all. It reports whether there are such files.
func (d *drafter) askVersions(built *fact.Summary) bool {
	known := map[string]*sheet{}
	for _, s := range d.extracts() {
		name := withoutVersion(s.nameOf())
		if d.across { // of the months up to then
			name = exported().ReplaceAllString(name, "")
		}
		of := path.Dir(s.file) + "/" + strings.ToLower(name)
		first, ok := known[of]
		if !ok || first.file == s.file || s.titledApart(first) {
			known[of] = s
			continue
		}
		d.askAll(fmt.Sprintf("%s and %s may be two versions of one table: rows of one grain differ, and a build stops; except: leaves one aside",
			first.file, s.file))
		return true
	}
	if d.twice != nil {
		d.askAll(fmt.Sprintf("%s has rows that stand in another file too, most with the same figures, some not, and a build stops: does it "+
			"come in the place of that one (except: leaves one aside), or do they add up (repeats: keep)?", d.twice.Places[0].File))
		return true
	}
	first, again := d.sameByRows(built)
	if first != nil {
		leaves := "except"
		if first.file == again.file {
			leaves = "except_sheets"
		}
		d.askAll(fmt.Sprintf("%s and %s may be two versions of one table: most of their rows are of one grain, and a build stops; %s: "+
			"leaves one aside, repeats: keep adds them up", first.Place.Source(), again.Place.Source(), leaves))
	}
	return first != nil
}

// askCalledVersions asks about a table that is called a version of another one and shares its rows. It reports whether there is one.
func (d *drafter) askCalledVersions() bool {
	all := d.extracts()
	called := calledTables(all)
	for _, s := range all {
		if o := s.versionOf(called); o != nil {
			d.askAll(fmt.Sprintf("%s and %s may be two versions of one table, by their names: rows of one grain differ, and a build stops; "+
				"except: leaves one aside", o.Place.Source(), s.Place.Source()))
			return true
		}
	}
	return false
}

// calledTables are tables by what they are called; where none is called as versions are without what they say of that, the first of these.
func calledTables(all []*sheet) map[string]*sheet {
	out := map[string]*sheet{}
	for _, s := range all {
		out[calledIn(s.folderWords(), s.nameOf(), s.Place.Sheet)] = s
	}
	for _, s := range all {
		if k := calledIn(s.folderWords(), withoutVersion(s.nameOf()), withoutVersion(s.Place.Sheet)); out[k] == nil {
			out[k] = s
		}
	}
	return out
}

// calledIn is what a table in a folder, by the words of its name, is called: its file and its sheet.
func calledIn(folders []string, file, sheet string) string {
	return strings.Join(folders, " ") + "\x00" + key.Of(file) + "\x00" + key.Of(sheet)
}

// folderWords are the words of the folders of a table, its archive among them.
func (s *sheet) folderWords() []string {
	dir := path.Dir(s.file)
	if s.member != "" {
		dir = s.file + "/" + path.Dir(s.member)
	}
	return strings.Fields(key.Of(parted(dir)))
}

// versionOf is the one of called tables that a table shares the rows of, and is a version of, by its name, or by a folder that says
// nothing else than where a file is kept, or of which age it is; nil for none.
func (s *sheet) versionOf(called map[string]*sheet) *sheet {
	folders, file, sheet := s.folderWords(), withoutVersion(s.nameOf()), withoutVersion(s.Place.Sheet)
	for _, of := range [][]string{folders, slices.DeleteFunc(slices.Clone(folders), terms.Kept)} {
		o := called[calledIn(of, file, sheet)]
		if o == nil || o == s || s.titledApart(o) {
			continue
		}
		if alike, _ := s.sharesRows(o); alike {
			return o
		}
	}
	return nil
}

// sameByRows finds two tables of which half the rows are of one grain, at least, though neither has rows of one grain itself, and nothing
// tells them apart: no word of their names, no number, and no label that is left aside; nil for none.
func (d *drafter) sameByRows(built *fact.Summary) (first, again *sheet) {
	own, made := map[place.Place]int{}, map[string]int{}
	for i := range built.Extracts {
		x := &built.Extracts[i]
		made[x.File+"\x00"+x.Sheet] = x.Rows.Made
	}
	for _, b := range d.between {
		if b.First == b.Again {
			own[b.First] += b.Rows
		}
	}
	for _, b := range d.sharing() {
		x, y := b.first, b.again
		rows := min(made[x.source()], made[y.source()])
		if 2*b.rows >= rows && 10*(own[b.places[0]]+own[b.places[1]]) < rows && !x.apartFrom(y) {
			return x, y
		}
	}
	return nil, nil
}

// sharing are two tables that have rows of the same grain, and how many.
type sharing struct {
	first, again *sheet
	rows         int
	places       [2]place.Place
}

// sharing finds all of these.
func (d *drafter) sharing() (out []sharing) {
	tables := map[string]*sheet{}
	for _, s := range d.extracts() {
		tables[s.source()] = s
	}
	for _, b := range d.between {
		x, y := tables[b.First.File+"\x00"+b.First.Sheet], tables[b.Again.File+"\x00"+b.Again.Sheet]
		if b.First != b.Again && x != nil && y != nil {
			out = append(out, sharing{x, y, b.Rows, [2]place.Place{b.First, b.Again}})
		}
	}
	return out
}

// toldFrom reports whether the names of two tables tell their rows apart: a.csv and b.csv are no names, two versions have one, and a folder
// such as old says nothing.
func (s *sheet) toldFrom(o *sheet) bool {
	a, b := s.nameOf(), o.nameOf()
	switch {
	case s.titledApart(o):
		return true
	case !s.apartFrom(o) || len(a)+len(b) < 3:
		return false
	case a != b:
		return !key.Same(withoutVersion(a), withoutVersion(b))
	}
	return !terms.SaysNothing(path.Base(path.Dir(s.file))) && !terms.SaysNothing(path.Base(path.Dir(o.file))) || s.Place.Sheet != o.Place.Sheet
}

// titledApart reports whether the titles of two tables say different places or things, or months.
func (s *sheet) titledApart(o *sheet) bool {
	said := func(s *sheet) (out []string) {
		n := slices.Index(s.entry.sheets, s)
		for _, p := range s.entry.pieces {
			if p.from == "titles" && n < len(p.Values) && (slices.Contains(things, terms.Of(p.Before)) || p.Time == terms.Month) {
				out = append(out, key.Of(p.Values[n]))
			}
		}
		return out
	}
	a, b := said(s), said(o)
	return len(a) == len(b) && !slices.Equal(a, b)
}

// withoutVersion is a name without what it says of that, and of where a file is kept, behind it: Lakes backup.
func withoutVersion(name string) string {
	name = version().ReplaceAllString(name, "")
	for {
		i := strings.LastIndexAny(name, " _-")
		if i <= 0 {
			return name
		}
		if word := key.Of(name[i+1:]); !terms.Kept(word) && !terms.OfVersion(word) && word != "" {
			return name
		}
		name = name[:i]
	}
}

// apartFrom reports whether the names of two tables, or labels that no column takes, tell their rows apart.
func (s *sheet) apartFrom(o *sheet) bool {
	if s.titledApart(o) {
		return true
	}
	if words := s.nameWords(); len(beyond(words, o.nameWords())) > 0 || len(words) < len(o.nameWords()) {
		return true
	}
	only := func(list, others []string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(n string) bool { return slices.Contains(others, n) })
	}
	a, b := only(s.nameTimes(), o.nameTimes()), only(o.nameTimes(), s.nameTimes())
	tells := func(list []string) bool { // a till, or a year
		return slices.ContainsFunc(list, func(n string) bool { return len(n) < 4 }) || len(list) == 1 && terms.IsYear(list[0])
	}
	if len(a) == len(b) && tells(a) && tells(b) {
		return true
	}
	return slices.ContainsFunc(s.labels(), func(i int) bool {
		f := &s.Fields[i]
		g := o.counterpart(f)
		return s.entry.measures[key.Of(f.Header)] == "" && (f.Is == "text" || f.Is == "whole") && terms.Of(f.Header) != terms.Aside &&
			len(f.Values) > 0 && g != nil && shared(s.labelsOf(f), o.labelsOf(g)) == 0
	})
}
