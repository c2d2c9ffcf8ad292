package draft

import (
	"encoding/json"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// lookup is where a column stands in a reference.
type lookup struct {
	sheet  *sheet
	name   string // of the reference
	by     string // the column of the extracts
	header string // of the key in the reference
	take   string
}

// findLookups finds columns that no extract has in tables beside them: one of whose columns has
// most values of a column of the extracts, each once.
func (d *drafter) findLookups() {
	for _, s := range d.sheets {
		if s.as != "left aside" || s.own || s.apart || len(s.Fields) < 2 || s.Rows < 1 {
			continue
		}
		by, header := d.keyOf(s, false)
		if by == nil {
			if by, header = d.keyOf(s, true); by != nil {
				s.leaveAside("left aside", fmt.Sprintf("a value of %s stands in several of its lines: a lookup would not know which", header))
			}
			continue
		}
		s.leaveAside("reference", fmt.Sprintf("its column %s has values of %s, each once", header, by.name))
		name := strings.TrimSuffix(path.Base(s.file), path.Ext(s.file))
		for _, c := range d.columns {
			if len(c.used) > 0 || c.lookup != nil {
				continue
			}
			for i := range s.Fields {
				f := &s.Fields[i]
				named := key.Same(f.Header, c.name) || c.class != terms.None && terms.Of(f.Header) == c.class
				if key.Same(f.Header, header) || !named {
					continue
				}
				c.lookup = &lookup{s, snake(name), by.name, strings.TrimSpace(header), strings.TrimSpace(f.Header)}
				c.sources = append(c.sources, "looked up in "+s.file)
				c.is = "text"
				if s.numeric(i) {
					c.is = "number"
				}
				break
			}
		}
	}
}

// keyOf is the column of the extracts whose values a table has, and the header of them there: each
// once, or else several times.
func (d *drafter) keyOf(s *sheet, several bool) (by *column, header string) {
	for i := range s.Fields {
		f := &s.Fields[i]
		if f.EachOnce(s.Rows) == several || len(f.Values) == 0 {
			continue
		}
		own := map[string]bool{}
		for _, v := range f.Values {
			own[key.Of(v)] = true
		}
		for _, c := range d.columns {
			known := 0
			for v := range c.values {
				if own[v] {
					known++
				}
			}
			// of very many values only the first are known: as many are shared as chance has it
			expected := len(c.values) * len(own) / max(f.Distinct, len(own))
			if few := known == 1 && (c.class == terms.None || terms.Of(f.Header) != c.class); known > 0 && !few && 2*known > expected {
				return c, f.Header
			}
		}
	}
	return nil, ""
}

// text is the column as the plan has it.
func (l *lookup) text(is string) string {
	by := l.by
	if key.Of(l.header) != key.Of(l.by) {
		by = "{ " + l.by + ": " + layout.Flow(l.header) + " }"
	}
	missing := "Unassigned"
	if is != "text" {
		missing = "leave"
	}
	return fmt.Sprintf("{ is: %s, lookup: %s, by: %s, take: %s, missing: %s }", is, l.name, by, layout.Flow(l.take), missing)
}

// referencesText are the references of the plan.
func (d *drafter) referencesText() string {
	files := map[string]string{}
	for _, c := range d.columns {
		if c.lookup != nil {
			files[c.lookup.name] = c.lookup.sheet.file
		}
	}
	if len(files) == 0 {
		return ""
	}
	out := "\nreferences:\n"
	for _, name := range sortedKeys(files) {
		out += "  " + name + ": { file: " + layout.Flow(files[name]) + " }\n"
	}
	return out
}

// own are the folders of records, the deliveries of the builds that they are of, and the folders
// beside records of builds that stopped: a build's own files are no extracts.
func own(files []string) (folders, deliveries, besides []string) {
	var dirs []string
	for _, f := range files {
		if dir := filepath.Dir(f); !slices.Contains(dirs, dir) {
			dirs = append(dirs, dir)
		}
	}
	for _, dir := range dirs {
		text, err := os.ReadFile(filepath.Join(dir, "build.json"))
		var doc struct {
			Umbau      string
			Record     string
			Deliveries []struct {
				To    string
				Files []struct{ File string }
			}
		}
		if err != nil || json.Unmarshal(text, &doc) != nil || doc.Umbau == "" {
			continue
		}
		folders = append(folders, dir, filepath.Join(dir, "last"))
		if strings.Contains(doc.Record, "/") && len(doc.Deliveries) == 0 { // of a build that stopped: earlier ones delivered beside it
			besides = append(besides, filepath.Dir(dir))
		}
		root := strings.TrimSuffix(dir, filepath.FromSlash(doc.Record))
		for _, one := range doc.Deliveries {
			deliveries = append(deliveries, filepath.Clean(filepath.Join(root, filepath.FromSlash(one.To))))
			for _, f := range one.Files {
				deliveries = append(deliveries, filepath.Clean(filepath.Join(root, filepath.FromSlash(f.File))))
			}
		}
	}
	return folders, deliveries, besides
}

// leavePriceLists leaves tables aside that have no figures but prices, and a label of their own in each row, among them most labels of
// a column of others: they may be references.
func (d *drafter) leavePriceLists() {
	all := d.extracts()
	var columns [][]string // labels of tables with other figures, in rows and across
	for _, s := range all {
		if s.prices() {
			continue
		}
		var across []string
		for i := range s.Fields {
			if f := &s.Fields[i]; s.isWide(i) {
				across = append(across, f.Header)
			} else if f.Is == "text" {
				columns = append(columns, f.Values)
			}
		}
		columns = append(append(columns, across), s.parts()...)
	}
	for _, s := range all {
		lists := func(f survey.Field) bool { return f.Is == "text" && f.EachOnce(s.Rows) && hasMost(&f, columns) }
		if s.prices() && slices.ContainsFunc(s.Fields, lists) {
			s.figureless = true
			s.leaveAside("left aside", "it has no figures but prices")
		}
	}
}

// hasMost reports whether a field has most labels of one of some columns.
func hasMost(f *survey.Field, columns [][]string) bool {
	own := map[string]bool{}
	for _, v := range f.Values {
		own[key.Of(v)] = true
	}
	return slices.ContainsFunc(columns, func(labels []string) bool {
		n := 0
		for _, l := range labels {
			if own[key.Of(l)] {
				n++
			}
		}
		return n > 0 && 2*n >= len(labels)
	})
}

// prices reports whether all figures of a table are prices, costs or numbers of things.
func (s *sheet) prices() bool {
	found := false
	for i := range s.Fields {
		h := s.Fields[i].Header
		switch {
		case !s.numeric(i), s.yearLike(i), terms.SaysCode(key.Of(h)), terms.Counts(h):
		case terms.Of(h) == terms.Price, terms.NoSales.In(h):
			found = true
		default:
			return false
		}
	}
	return found && s.wideTime() == terms.None
}

// referred reports whether a table that may be a reference has a column's header.
func (d *drafter) referred(c *column) bool {
	called := func(f survey.Field) bool { return key.Of(f.Header) == key.Of(c.name) }
	return slices.ContainsFunc(d.sheets, func(s *sheet) bool {
		return s.as == "left aside" && s.figureless && slices.ContainsFunc(s.Fields, called)
	})
}
