package draft

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Rows with a single cell among the others: section rows, and lines of dashes.

// eachHead calls a function with the first rows of data: how many cells are filled, and the text of the first of them.
func (s *sheet) eachHead(call func(filled int, text string)) {
	for i, row := range s.Head {
		if s.HeadLines[i] <= s.HeaderRow {
			continue
		}
		filled, text := 0, ""
		for _, c := range row {
			if c == "" {
				continue
			}
			if filled++; filled == 1 {
				text = c
			}
		}
		call(filled, text)
	}
}

// lookAtRows looks for rows with a label alone, which stands in no other row, among the first rows.
func (s *sheet) lookAtRows() {
	known := map[string]bool{}
	full := 0
	for i, row := range s.Head {
		filled := slices.DeleteFunc(slices.Clone(row), func(c string) bool { return c == "" })
		if s.HeadLines[i] <= s.HeaderRow || len(filled) < 2 {
			continue
		}
		full++
		for _, c := range filled {
			known[key.Of(c)] = true
		}
	}
	groups, last := 0, false
	s.eachHead(func(filled int, text string) {
		switch {
		case filled == 1 && isLabel(text) && !known[key.Of(text)]:
			last = true
		case filled > 1:
			if last {
				groups++
			}
			last = false
		}
	})
	s.sections = groups > 0 && full > groups
	line := false
	s.eachHead(func(filled int, text string) {
		s.ruled = s.ruled || line && filled > 1
		line = filled == 1 && isRule(text)
	})
	if s.ruled && s.sections {
		s.sections, s.mixed = false, true
	}
}

// isRule reports whether a text is a line between rows, of dashes or other signs.
func isRule(text string) bool { return len(text) > 2 && !strings.ContainsFunc(text, saysSomething) }

// saysNoRule reports whether a text is none.
func saysNoRule(text string) bool { return text != "" && !isRule(text) }

// saysSomething reports whether a rune is a letter or a digit.
func saysSomething(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// isLabel reports whether a text may stand for a group of rows: one of words, "Quay 4" among them, but no total and no time.
func isLabel(text string) bool {
	if !strings.ContainsFunc(text, saysSomething) {
		return false
	}
	gap := value.GapOf(text)
	first, _ := utf8.DecodeRuneInString(text)
	if gap != value.Text && (gap != value.Unclear || !unicode.IsLetter(first)) {
		return false
	}
	c, _ := terms.TimeOf(text)
	return c == terms.None && !new(value.Totals).Alone(text)
}

// takeRules leaves lines of dashes between rows aside, as section rows of a column that is not delivered.
func (d *drafter) takeRules(e *entry) {
	if e.sections != "" || !slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.ruled }) {
		return
	}
	if d.lines == nil {
		d.lines = d.helper("line", terms.Aside)
		d.lines.is, d.lines.rules["blanks"] = "text", "leave"
		d.lines.note = "lines of dashes between rows"
	}
	e.sections = d.lines.name
	d.lines.claim(e, "", "lines of dashes")
	if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.mixed }) {
		e.open = append(e.open, e.globs[0]+": rows with a label alone stand among lines of dashes; what they are of is not settled, and "+
			"they are left out")
	}
}

// sectionColumn is the column that section rows are of: one whose labels they are elsewhere, or the one behind those that the path and
// the sheets say; of places before things.
func (d *drafter) sectionColumn(e *entry) *column {
	list := d.lacking(e)
	if c := d.of(terms.Product); c != nil && !c.settled(e) && !slices.Contains(list, c) {
		list = append(list, c)
	}
	var labels []string
	for _, s := range e.sheets {
		labels = append(labels, s.sectionLabels()...)
	}
	for _, c := range list {
		if known := c.knows(labels); known > 0 && 2*known >= len(labels) {
			return c
		}
	}
	around := len(e.openPieces("path")) + len(e.openPieces("sheet"))
	if len(list) == 0 || len(list) <= around && list[len(list)-1].class == terms.Region { // a region is said around a table rather than in it
		return nil
	}
	return list[min(len(list)-1, around)]
}

// leaveSections takes section rows for a column that nobody asked for: they are no rows of data. It is delivered where nobody says what is.
func (d *drafter) leaveSections(e *entry) {
	if d.section == nil {
		d.section = d.helper("section", terms.Aside)
		d.section.is, d.section.further, d.section.helper = "text", true, len(d.Columns) > 0
	}
	e.sections = d.section.name
	d.section.claim(e, "", "rows with a label alone")
}

// withoutSections are the values of a field that are no labels of section rows, which stand in it too.
func (s *sheet) withoutSections(values []string) []string {
	known := map[string]bool{}
	for _, l := range s.sectionLabels() {
		known[key.Of(l)] = true
	}
	if len(known) == 0 {
		return values
	}
	return slices.DeleteFunc(slices.Clone(values), func(v string) bool { return known[key.Of(v)] })
}

// sectionLabels are the labels of section rows among the first rows.
func (s *sheet) sectionLabels() (out []string) {
	if !s.sections {
		return nil
	}
	s.eachHead(func(filled int, text string) {
		if filled == 1 {
			out = append(out, s.ofBlock(text))
		}
	})
	return out
}

// headless reports whether rows stand above the first section row of a column, below a title that may be the label they lack,
// and asks about it.
func (d *drafter) headless(p *place.Problem, c *column) bool {
	for _, e := range d.entriesAt(p) {
		if e.sections != c.name {
			continue
		}
		for _, s := range e.sheets {
			if lines := s.titleLines(); len(lines) > 0 && !s.beginsWithLabel() {
				c.open = fmt.Sprintf("%s: rows stand above the first section row of %s: are they of %q, which stands above the header?", c.name, s.file,
					lines[len(lines)-1])
				return true
			}
		}
	}
	return false
}

// beginsWithLabel reports whether the first row of data has a label alone.
func (s *sheet) beginsWithLabel() bool {
	first := 0
	s.eachHead(func(filled int, _ string) {
		if first == 0 {
			first = filled
		}
	})
	return first == 1
}
