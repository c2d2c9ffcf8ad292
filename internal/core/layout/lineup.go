package layout

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/shape"
)

// From says where a column of the fact table gets its values in an extract.
type From uint8

const (
	Absent   From = iota // nowhere: empty, and no rule applies
	Constant             // one text for the whole extract
	Label                // a cell of each row
	Piece                // a piece of each wide header
	WideCell             // the wide cells
	Section              // the section row above
	Made                 // of other columns
)

// Source is where one column of the fact table comes from in an extract.
type Source struct {
	From  From
	Text  string // of a Constant
	Index int    // of a Label: which cell of the row; of a WideCell: which of the slots' cells
}

// Lineup says how the rows of one extract become columns.
type Lineup struct {
	Entry   *plan.Entry
	Place   place.Place // the extract: file and sheet
	Header  Header
	Sources []Source       // by column of the plan
	Slots   []shape.Slot   // the wide columns; none where nothing is unpivoted
	Totals  []shape.Column // total columns, to be compared with the wide cells
	Dropped []int          // columns nothing claims
	Doubts  place.List     // headers among these that may be those of columns that are not there
	blank   []int          // columns without a header: their cells must be blank
	first   int            // the column by which a repeated header is suspected
	measure []bool         // by column of the extract: a measure's cells
	numeric []bool         // the same of all columns of numbers
	Widen   *Widening      // nil where rows are as they are

	// Above are the lines above the header, by the key, where the entry has sections: below it they head none.
	Above map[string]bool

	titleHeads []string // what each title begins with, by the key; "" where that is a piece

	// Known reports whether a book knows a label.
	Known func(label string) bool
}

// SetAbove keeps the lines above the header.
func (l *Lineup) SetAbove(lines []string) {
	if l.Entry.Sections == "" {
		return
	}
	l.Above = map[string]bool{}
	for _, line := range lines {
		l.Above[key.Of(line)] = true
	}
}

// Measures reports whether any column of the extract holds a measure.
func (l *Lineup) Measures() bool { return slices.Contains(l.measure, true) }

// Measure reports whether column i of the extract holds a measure.
func (l *Lineup) Measure(i int) bool { return i < len(l.measure) && l.measure[i] }

// Numeric reports whether column i of the extract holds numbers.
func (l *Lineup) Numeric(i int) bool { return i < len(l.numeric) && l.numeric[i] }

// LineUp matches the headers of an extract with the columns of the plan.
// fields are the constants of the extract, from its path and from set; wordy tells
// below which headers words stand and not one number. What does not match is returned
// as problems, decided by rules.
func LineUp(p *plan.Plan, e *plan.Entry, h Header, fields map[string]string, wordy func(column int) bool, at place.Place) (*Lineup,
	place.List) {
	l := &lining{plan: p, entry: e, header: h, at: at, wordy: wordy, claimed: make([]*plan.Column, len(h.Texts)),
		owners: make([][]*plan.Column, len(h.Texts)), told: map[string]bool{},
		out: &Lineup{Entry: e, Place: at, Header: h, Sources: make([]Source, len(p.Columns)), Known: func(string) bool { return false }}}
	for _, t := range e.Titles {
		l.out.titleHeads = append(l.out.titleHeads, headOf(t))
	}
	l.twice()
	l.findOwners()
	l.findCells()
	l.widen()
	for i, c := range p.Columns {
		l.out.Sources[i] = l.source(c, fields)
	}
	l.wide()
	l.unclaimed()
	l.findFigures()
	l.missing()
	l.besideWide()
	l.out.first = l.firstFilled()
	l.findMeasures()
	return l.out, l.problems
}

// findMeasures notes which columns of the extract hold a measure: those whose cells
// are one, and those from whose texts one is made.
func (l *lining) findMeasures() {
	l.out.measure, l.out.numeric = make([]bool, len(l.header.Texts)), make([]bool, len(l.header.Texts))
	for i, c := range l.plan.Columns {
		if !c.Kind.Numeric() {
			continue
		}
		if from := Origin(l.plan, i); from >= 0 {
			i = from
		}
		for _, cell := range l.out.Cells(i) {
			l.out.numeric[cell] = true
			l.out.measure[cell] = l.out.measure[cell] || c.Measure()
		}
	}
}

// Cells are the columns of the extract whose cells go to a column of the plan.
func (l *Lineup) Cells(column int) []int {
	switch s := l.Sources[column]; {
	case s.From == Label && s.Index >= len(l.Header.Texts):
		return []int{l.InExtract(s.Index)}
	case s.From == Label:
		return []int{s.Index}
	case s.From == WideCell:
		var out []int
		for _, slot := range l.Slots {
			if cell := slot.Cells[s.Index]; cell >= 0 {
				out = append(out, l.InExtract(cell))
			}
		}
		return out
	}
	return nil
}

// Origin is the column of texts from which a column of numbers takes its own, by from
// alone; -1 for none.
func Origin(p *plan.Plan, column int) int {
	c := p.Columns[column]
	if c.From == "" || !c.Kind.Numeric() {
		return -1
	}
	for c.From != "" {
		column = slices.Index(p.Columns, p.Column(c.From))
		if c = p.Columns[column]; c.Kind != plan.Text {
			return -1
		}
	}
	if c.Made() {
		return -1
	}
	return column
}

// lining is a line-up in the making.
type lining struct {
	plan     *plan.Plan
	entry    *plan.Entry
	header   Header
	at       place.Place
	wordy    func(column int) bool
	owners   [][]*plan.Column // by header: the columns that claim it by headers
	claimed  []*plan.Column   // by header
	absent   []*plan.Column
	cells    []*plan.Column // those that wide cells go to
	out      *Lineup
	problems place.List
	told     map[string]bool // headers of problems
}

// stop reports a problem of the extract's headers.
func (l *lining) stop(header, what, format string, args ...any) *place.Problem {
	at := l.at
	at.Row, at.Header = l.header.Row, header
	p := place.At(at, what, format, args...).ByRule()
	p.Plan = l.entry.Pos
	l.problems = append(l.problems, p)
	l.told[header] = true
	return &l.problems[len(l.problems)-1]
}

// How many headers are told one by one: that stand twice, and that nothing claims.
const (
	mostTwice      = 100
	mostUnexpected = 1000
)

// twice stops where two headers or more are the same by the key, but for those that the entry leaves aside.
func (l *lining) twice() {
	first, more := make(map[string]int, len(l.header.Keys)), map[int][]int{}
	for i, k := range l.header.Keys {
		if k == "" || l.entry.LeftAside(l.header.Name(i)) && !l.mayClaim(k) {
			continue
		}
		if at, known := first[k]; known {
			more[at] = append(more[at], i)
		} else {
			first[k] = i
		}
	}
	told := 0
	for _, i := range slices.Sorted(maps.Keys(more)) {
		all, second := 1+len(more[i]), more[i][0]
		if told++; told > mostTwice {
			l.stop(l.header.Texts[second], "header twice", "further headers stand twice").Advice = "rename one of each in the extract"
			continue
		}
		p := l.stop(l.header.Texts[second], "header twice", "the header stands twice, in columns %s and %s (%q and %q)", l.header.Letter(i),
			l.header.Letter(second), l.header.Texts[i], l.header.Texts[second])
		if p.Advice = "rename one of them in the extract"; all > 2 {
			p.Message = fmt.Sprintf("the header stands %d times, first in columns %s and %s (%q and %q)", all, l.header.Letter(i),
				l.header.Letter(second), l.header.Texts[i], l.header.Texts[second])
			p.Advice = "let each have a text of its own in the extract"
		}
		if !l.mayClaim(l.header.Keys[i]) {
			p.Advice += "; or others: [" + FlowHeader(l.header.Name(i)) + "] in the entry leaves them aside"
		}
	}
}

// mayClaim reports whether a header with this key is one of a column.
func (l *lining) mayClaim(k string) bool {
	return slices.ContainsFunc(l.plan.Columns, func(c *plan.Column) bool { return slices.Contains(keysOf(c, l.entry), k) })
}

// findOwners notes which columns claim a header by headers: it belongs to them.
func (l *lining) findOwners() {
	for _, c := range l.plan.Columns {
		own := keysOf(c, l.entry)[1:]
		for i, k := range l.header.Keys {
			if k != "" && slices.Contains(own, k) {
				l.owners[i] = append(l.owners[i], c)
			}
		}
	}
}

// source finds where a column comes from, and claims its header.
func (l *lining) source(c *plan.Column, fields map[string]string) Source {
	index := l.find(c)
	text, constant := fields[c.Name]
	piece := l.entry.Unpivot != nil && l.entry.Unpivot.Header.Has(c.Name)
	if index >= 0 && (constant || piece || l.entry.Sections == c.Name || c.Made() || l.isCell(c)) {
		from := "the path, the sheet, the titles, set or sections"
		if c.Made() {
			from = "the plan, which makes it"
		}
		if piece {
			from = "the wide headers"
		}
		if l.isCell(c) {
			from = "the wide cells"
		}
		p := l.stop(l.header.Texts[index], "value from two places", "column %s comes from %s, and the extract has a column of that name too",
			c.Name, from)
		p.Column = c.Name
		p.Advice = "give one of them another name in the plan"
	}
	switch {
	case c.Value != nil:
		return Source{From: Constant, Text: *c.Value}
	case c.Made():
		return Source{From: Made}
	case constant:
		return Source{From: Constant, Text: text}
	case piece:
		return Source{From: Piece}
	case l.isCell(c):
		return Source{From: WideCell, Index: slices.Index(l.cells, c)}
	case l.entry.Sections == c.Name:
		return Source{From: Section}
	case index >= 0:
		l.claimed[index] = c
		return Source{From: Label, Index: index}
	}
	if w := l.out.Widen; w != nil && !l.optional(c.Name) {
		w.Columns = append(w.Columns, c)
		if w.Cell < 0 {
			return Source{From: WideCell, Index: len(w.Columns) - 1}
		}
		return Source{From: Label, Index: len(l.header.Texts) + len(w.Columns) - 1}
	}
	if !l.optional(c.Name) {
		l.absent = append(l.absent, c)
	}
	return Source{From: Absent}
}

// optional reports whether a column is a piece of the path, the sheet or the
// titles whose bracket is absent here: it is empty then.
func (l *lining) optional(name string) bool {
	return slices.ContainsFunc(fieldPatterns(l.entry), func(p *pattern.Pattern) bool { return p.Has(name) })
}

// find returns the header that a column claims, -1 if there is none.
func (l *lining) find(c *plan.Column) int {
	if l.isCell(c) && l.entry.Unpivot.Cells != nil {
		return -1
	}
	keys := keysOf(c, l.entry)
	found := -1
	for i, k := range l.header.Keys {
		if w := l.out.Widen; w != nil && (i == w.Header || i == w.Cell) {
			continue
		}
		if k == "" {
			k = key.Of(l.header.Letter(i)) // a column without a header is called by its letter
			if !slices.Contains(keys[1:], k) {
				continue
			}
		}
		own := slices.Contains(keys[1:], k)
		switch {
		case !slices.Contains(keys, k), found >= 0 && l.header.Keys[found] == k:
			continue
		case !own && i < len(l.owners) && len(l.owners[i]) > 0: // another's, whatever the name
			continue
		case !own && l.isCell(c): // a wide header may be called as the column of its cells
			continue
		}
		if found >= 0 {
			p := l.stop(l.header.Texts[i], "two headers for one column", "column %s claims both %q and %q", c.Name, l.header.Name(found),
				l.header.Name(i))
			p.Column, p.Plan = c.Name, c.Pos
			p.Advice = "take one of them out of the column's headers"
			continue
		}
		found = i
	}
	return found
}

// keysOf are the keys of the headers that a column claims: its name first.
func keysOf(c *plan.Column, e *plan.Entry) []string {
	keys := []string{key.Of(c.Name)}
	for _, h := range slices.Concat(c.Headers, e.Headers[c.Name]) {
		keys = append(keys, key.Of(h))
	}
	return keys
}

// Claims reports whether a column claims a header, by its key.
func Claims(c *plan.Column, e *plan.Entry, k string) bool { return slices.Contains(keysOf(c, e), k) }

// unclaimed deals with headers that nothing claims.
func (l *lining) unclaimed() {
	wide := map[int]bool{}
	for _, s := range l.out.Slots {
		for _, cell := range s.Cells {
			wide[l.out.InExtract(cell)] = true
		}
	}
	for _, s := range l.out.Totals {
		wide[s.Index] = true
	}
	told := 0
	for i, h := range l.header.Texts {
		if l.claimed[i] != nil || wide[i] {
			continue
		}
		if l.entry.Others == plan.Drop || l.entry.LeftAside(l.header.Name(i)) {
			l.out.Dropped = append(l.out.Dropped, i)
			continue
		}
		if l.header.Keys[i] == "" {
			l.out.blank = append(l.out.blank, i)
			continue
		}
		if l.reported(h) {
			continue
		}
		if told++; told > mostUnexpected {
			l.problems[len(l.problems)-1].Count++
			continue
		}
		p := l.stop(h, "unexpected header", "nothing in the plan claims the header")
		p.Add = "others: drop"
		var names []string
		for _, c := range l.absent {
			names = append(names, c.Name)
		}
		if len(names) > 0 {
			p.Advice = fmt.Sprintf("if it is column %s, add to that column: headers: [%s]", strings.Join(names, " or "), Flow(h))
		}
	}
}

// Flow writes a text as a value inside brackets of a plan.
func Flow(s string) string {
	if strings.ContainsAny(s, ",:[]{}#&*!|>'\"%@`\\") || strings.ContainsFunc(s, unicode.IsControl) || strings.TrimSpace(s) != s ||
		s == "" || s == "~" || strings.EqualFold(s, "null") || strings.ContainsAny(s[:1], "-?=") {
		return fmt.Sprintf("%q", s)
	}
	return s
}

// FlowHeader writes a header as an entry of a list of headers and patterns.
func FlowHeader(header string) string { return Flow(pattern.Escape(header)) }

func (l *lining) reported(header string) bool { return l.told[header] }

// missing stops for columns that found no header.
func (l *lining) missing() {
	for _, c := range l.absent {
		if l.entry.AbsentOf(c.Name) == plan.Leave {
			l.doubt(c)
			continue
		}
		p := l.stop("", "missing header", "no header for column %s", c.Name)
		p.Column, p.Plan, p.Add = c.Name, l.entry.Pos, "absent: leave"
		for i, h := range l.header.Texts {
			if l.claimed[i] == nil && h != "" && key.Nearest(key.Of(c.Name), []string{l.header.Keys[i]}) != "" {
				p.Plan, p.Add = c.Pos, "headers: ["+Flow(h)+"]"
				break
			}
		}
		p.Advice = fmt.Sprintf("which of its headers is it: %s? Name that in headers: [...] of the column; leave it empty with absent: "+
			"leave in the entry of extracts", l.some())
		if l.some() == "" {
			p.Advice = "all its headers are claimed; a column without a header is called by its letter where area reaches it; leave it empty with " +
				"absent: leave in the entry of extracts"
		}
		p.Advice += "; set: { " + Flow(c.Name) + ": … } there says it of all its rows"
	}
}

// doubt notes a header that is left aside, though it is nearly one of a column that the extract lacks.
func (l *lining) doubt(c *plan.Column) {
	for _, i := range l.out.Dropped {
		h := l.header.Texts[i]
		if h == "" || l.entry.LeftAside(h) || key.Nearest(l.header.Keys[i], keysOf(c, l.entry)) == "" {
			continue
		}
		at := l.at
		at.Row, at.Header = l.header.Row, h
		p := place.At(at, "header left aside", "an extract has no header for it, and leaves aside one that is nearly the same: %s",
			place.Shorten(h))
		p.Column, p.Plan = c.Name, l.entry.Pos
		p.Advice = "if it is that, headers: [" + Flow(h) + "] of the column; if not, others: [" + FlowHeader(h) + "] in the entry says so"
		l.out.Doubts.Add(p)
	}
}

// some lists the first headers of the extract that nothing but unpivot claims.
func (l *lining) some() string {
	var out []string
	for i, h := range l.header.Texts {
		if l.claimed[i] == nil && h != "" {
			out = append(out, place.Shorten(h))
		}
	}
	if len(out) > 6 {
		out = append(out[:6], "…")
	}
	return strings.Join(out, ", ")
}

// besideWide stops for measures that would be added once a wide cell.
func (l *lining) besideWide() {
	if len(l.out.Slots) == 0 {
		return
	}
	for i, c := range l.plan.Columns {
		if s := l.out.Sources[i]; s.From == Label && c.Measure() {
			p := l.stop(l.header.Texts[s.Index], "number beside wide columns",
				"column %s stands beside wide columns and would be added once for each of them", c.Name)
			p.Column, p.Plan, p.Add = c.Name, c.Pos, "add: no"
		}
	}
}

func (l *lining) firstFilled() int {
	for i, c := range l.claimed {
		if c != nil && l.header.Keys[i] != "" {
			return i
		}
	}
	return max(0, slices.IndexFunc(l.header.Keys, func(k string) bool { return k != "" }))
}
