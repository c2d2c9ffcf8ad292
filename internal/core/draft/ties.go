package draft

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/fact"
	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// tie is a file of control totals.
type tie struct {
	sheet    *sheet
	by       [][2]string // column and header
	measures [][2]string
}

// parts are what a tie compares, as the plan has it.
func (t *tie) parts() string {
	pairs := func(list [][2]string) string {
		var out []string
		for _, p := range list {
			out = append(out, p[0]+": "+layout.Flow(p[1]))
		}
		return "{ " + strings.Join(out, ", ") + " }"
	}
	return fmt.Sprintf("by: %s, measures: %s }", pairs(t.by), pairs(t.measures))
}

// tiesText are the ties: those of one kind, in one folder, by a glob.
func (d *drafter) tiesText() (out string) {
	var order []string
	files := map[string][]string{}
	for _, t := range d.ties {
		k := path.Dir(t.sheet.file) + "\x00" + t.parts()
		if len(files[k]) == 0 {
			order = append(order, k)
		}
		files[k] = append(files[k], t.sheet.file)
	}
	for _, k := range order {
		_, parts, _ := strings.Cut(k, "\x00")
		file := escapedGlob(files[k][0])
		if len(files[k]) > 1 {
			prefix, suffix := filenames.CommonEnds(files[k])
			file = escapedGlob(prefix) + "*" + escapedGlob(suffix)
		}
		out += "  - { file: " + layout.Flow(file) + ", " + parts + "\n"
	}
	return out
}

// controlWords are words in the names of folders and files of control totals.
var controlWords = terms.List(`control controls check checks checksum checksums totals ctrl kontrolle kontrollen kontrollsumme
	kontrollsummen kontrollzahlen summen contrôle contrôles totaux controle controles controllo controlli totali totales totalen`)

// findControls finds tables whose name says that they are totals: a trial says whether they are the extracts' own sums.
// Sheets that sum up others of their workbook are left aside.
func (d *drafter) findControls() {
	var named, sums []*sheet
	all := d.extracts()
	for _, s := range all {
		if len(s.wide) == 0 && controlWords.In(strings.NewReplacer("/", " ", ".", " ").Replace(s.file)) {
			named = append(named, s)
		} else if s.source() == d.sums || s.Place.Sheet == "" && terms.SumsUp(s.nameOf()) && slices.ContainsFunc(all, func(o *sheet) bool {
			return o.layout() == s.layout() && o.mayBePartOf(s)
		}) && !s.ofOthers(all) {
			s.apart = true
			s.leaveAside("left aside", "it sums up the others: they would count twice")
		} else if s.sumsSheets() && slices.ContainsFunc(all, func(o *sheet) bool { return o.file == s.file && !o.sumsSheets() }) {
			sums = append(sums, s)
		}
	}
	if len(named) < len(all) {
		for _, s := range named {
			s.leaveAside("control", "its name says that it has totals")
		}
	}
	for _, s := range sums {
		s.apart = true
		s.leaveAside("left aside", "its sheet's name says that it sums up others: they would count twice")
	}
}

// sumsSheets reports whether the name of a sheet says that it sums up others.
func (s *sheet) sumsSheets() bool {
	return terms.Summaries.In(s.Place.Sheet) || s.Place.Sheet != "" && new(value.Totals).Alone(s.Place.Sheet)
}

// mayBePartOf reports whether the name of a table says anything beside one that sums up others, so that it may be one of these: no
// version of that, and no other figures than sales.
func (s *sheet) mayBePartOf(sum *sheet) bool {
	name, known := s.nameOf(), strings.Fields(key.Of(parted(sum.nameOf())))
	if terms.SumsUp(name) || terms.OfYear(name) == "last" || key.Same(withoutVersion(name), sum.nameOf()) {
		return false
	}
	return slices.ContainsFunc(strings.Fields(key.Of(parted(name))), func(w string) bool {
		return !slices.Contains(known, w) && !terms.Kept(w) && !terms.OfVersion(w) && !terms.OfNoSales(w)
	})
}

// finished is the column of the finished table that a header of a control file names: those that are made of others too,
// in place of what they are made of.
func (d *drafter) finished(header string) *column {
	c := d.columnFor(header)
	for _, m := range d.columns {
		if m.made() && !m.helper && (c == nil || c.helper) && (key.Of(m.name) == key.Of(header) || m.class == terms.Of(header)) {
			return m
		}
	}
	if c != nil && c.helper {
		return nil
	}
	return c
}

// learnTotalled keeps the labels that control files have totals of: a field that says them says the column.
func (d *drafter) learnTotalled() {
	for _, s := range d.sheets {
		for i := range s.Fields {
			f := &s.Fields[i]
			listed := s.as == "left aside" && s.figureless && !s.own && f.EachOnce(s.Rows)
			c := d.columnFor(f.Header)
			if (listed || s.as == "control") && f.Is == "text" && c != nil && !c.class.OfTime() && !c.class.OfMeasure() {
				for _, v := range f.Values {
					c.totalled[key.Of(v)] = true
				}
			}
		}
	}
}

// findTies makes ties of the control files, once the columns are known.
func (d *drafter) findTies() {
	for _, s := range d.sheets {
		if s.as != "control" {
			continue
		}
		t, other := &tie{sheet: s}, ""
		for i := range s.Fields {
			f := &s.Fields[i]
			c := d.finished(f.Header)
			if c == nil {
				c = d.columnByValues(f.Values)
			}
			if c == nil || c.missing {
				if terms.Of(f.Header).OfTime() || f.Is == "year" {
					other = f.Header
				}
				continue
			}
			to := &t.by
			if c.class.OfMeasure() {
				to = &t.measures
			}
			if !slices.ContainsFunc(*to, func(pair [2]string) bool { return pair[0] == c.name }) { // the first one
				*to = append(*to, [2]string{c.name, strings.TrimSpace(f.Header)})
			}
		}
		switch {
		case other != "":
			s.leaveAside("left aside", fmt.Sprintf("it has totals by %s, which is no column of the finished table", other))
		case len(t.by) > 0 && len(t.measures) > 0:
			d.ties = append(d.ties, t)
			s.why = "its groups are held against the extracts' own sums"
		}
	}
}

// columnByValues is the column that has most of some values.
func (d *drafter) columnByValues(values []string) *column {
	for _, c := range d.columns {
		if known := c.knows(values); known > 0 && 2*known > len(values) {
			return c
		}
	}
	return nil
}

// mendTie rounds a measure as its control totals are rounded, where few of its cells have more
// decimals than those, and leaves a control file out whose figures are not the extracts' sums even so.
func (d *drafter) mendTie(p *place.Problem, c *column) (changed bool) {
	if c != nil && c.finest == 0 {
		if places := d.controlPlaces(c); places >= 2 && places < c.decimals && d.mostHave(c, places) {
			c.finest, c.decimals = c.decimals, places
			return true
		}
	}
	for _, at := range p.Places {
		for i, t := range d.ties {
			if t.sheet.file == at.File && 2*p.Count > t.sheet.Rows*len(t.measures) {
				if slices.ContainsFunc(d.extracts(), func(o *sheet) bool { return o.layout() == t.sheet.layout() }) {
					d.askAll(fmt.Sprintf("%s is called a control, but its figures are not the sums of the extracts, whose columns it has, and a "+
						"build stops: is it one of them?", t.sheet.Place.Source()))
					return false
				}
				t.sheet.leaveAside("left aside", "its figures are not the sums of the extracts")
				d.ties = slices.Delete(d.ties, i, i+1)
				if c != nil && c.finest > 0 && len(d.ties) == 0 {
					c.decimals, c.finest = c.finest, -1
				}
				return true
			}
		}
	}
	return false
}

// controlPlaces is how many decimal places the control totals of a measure have.
func (d *drafter) controlPlaces(c *column) (places int) {
	for _, t := range d.ties {
		for _, pair := range t.measures {
			if f := t.sheet.field(pair[1]); pair[0] == c.name && f != nil {
				places = max(places, placesOf(f.Values, t.sheet.Numbers))
			}
		}
	}
	return places
}

// mostHave reports whether most numbers of a measure have at most so many decimal places.
func (d *drafter) mostHave(c *column, places int) bool {
	few, all := 0, 0
	d.eachField(c, func(e *entry, f *survey.Field) {
		for _, n := range numbersIn(f.Values, e.numbers) {
			if all++; n.Places() <= places {
				few++
			}
		}
	})
	return 2*few > all
}

// note writes the evidence of gaps and grain beside the columns.
func (d *drafter) note(s *fact.Summary) {
	for _, c := range d.columns {
		var parts []string
		if c.finest > 0 {
			parts = append(parts, fmt.Sprintf("rounded as its control totals are; some cells have %d decimals", c.finest))
		}
		for _, ch := range s.Changes {
			if ch.Column == c.name && ch.Kind != "rounding" {
				parts = append(parts, fmt.Sprintf("%d %s", ch.Count, ch.Kind))
			}
		}
		for _, kind := range []string{"unclear", "errors"} {
			if c.rules[kind] == "hold" {
				parts = append(parts, fmt.Sprintf("%d %s held", c.counts[kind], strings.TrimSuffix(kind, "s")))
			}
		}
		for _, l := range s.Lookups {
			if l.Column != c.name {
				continue
			}
			parts = append(parts, fmt.Sprintf("%d of %d rows found a partner", l.Found, l.Rows))
			if 2*l.Found < l.Rows {
				c.open = fmt.Sprintf("%s: hardly a row found a partner by %s: is it another column?", c.name, c.lookup.by)
			}
		}
		if len(parts) > 0 {
			if c.note != "" {
				c.note += "; "
			}
			c.note += strings.Join(parts, ", ")
		}
	}
}
