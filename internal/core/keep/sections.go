package keep

import (
	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Sections keeps the section rows of a build, and the labels of the rows below them: a section row whose label is also that of
// such a row may be one whose figures are blank. It keeps rows that have headers, too: another table may begin there;
// and rows that have no label at all.
type Sections struct {
	Rows   []SectionRow
	Labels []SectionLabel // in the order in which they came, each once

	known map[SectionLabel]int // of both: which of the list
	count map[SectionLabel]int // of a column, by one without a key
}

// SectionRow is the first section row of a label.
type SectionRow struct {
	SectionLabel
	Text  string
	Place place.Place
	Count int // how many section rows have the label
}

// SectionLabel is a label, by its key, in a column of the plan that takes what stands there.
type SectionLabel struct {
	Column int
	Key    string
	Row    bool // of a section row
}

// mostSections is how many are kept of a column: the first ones, however the extracts are cut into blocks.
const mostSections = 1 << 14

// between is in place of the column of section rows that are what stands between the pages of a table.
const between = -1

// Between are the section rows whose text stands above the header of their extract, too, or marks a page.
func (k *Sections) Between() []SectionRow { return k.in(between) }

// in are the rows of a column, or of what stands in place of one.
func (k *Sections) in(column int) (out []SectionRow) {
	for _, r := range k.Rows {
		if r.Column == column {
			out = append(out, r)
		}
	}
	return out
}

// Doubtful are the section rows whose label that column has elsewhere.
func (k *Sections) Doubtful() (out []SectionRow) {
	for _, r := range k.Rows {
		if _, elsewhere := k.known[SectionLabel{Column: r.Column, Key: r.Key}]; elsewhere {
			out = append(out, r)
		}
	}
	return out
}

// take takes in what comes next.
func (k *Sections) take(rows []SectionRow, labels []SectionLabel) {
	for _, r := range rows {
		if i, known := k.known[r.SectionLabel]; known {
			k.Rows[i].Count += r.Count
		} else if k.keep(r.SectionLabel, len(k.Rows)) {
			k.Rows = append(k.Rows, r)
		}
	}
	for _, l := range labels {
		if _, known := k.known[l]; !known && k.keep(l, len(k.Labels)) {
			k.Labels = append(k.Labels, l)
		}
	}
}

// keep keeps a label as one of a list, if there are not too many.
func (k *Sections) keep(l SectionLabel, at int) bool {
	if k.known == nil {
		k.known, k.count = map[SectionLabel]int{}, map[SectionLabel]int{}
	}
	column := SectionLabel{Column: l.Column, Row: l.Row}
	if k.count[column] == mostSections {
		return false
	}
	k.count[column]++
	k.known[l] = at
	return true
}

// Merge implements pass.Portable.
func (k *Sections) Merge(other pass.Keeper) {
	o := other.(*Sections)
	k.take(o.Rows, o.Labels)
}

// sectionsPart looks at the blocks of extracts that have section rows.
type sectionsPart struct {
	to     *Sections
	seen   map[seenDict][]bool // by code
	rows   []SectionRow        // of the block …
	labels []SectionLabel      // … that may be new
	keys   map[string]string   // of texts
}

// seenDict is a dictionary as that of a column.
type seenDict struct {
	column int
	number uint64
}

// Part implements pass.Keeper.
func (k *Sections) Part() pass.Part {
	return &sectionsPart{to: k, seen: map[seenDict][]bool{}, keys: map[string]string{}}
}

// See implements pass.Part.
func (p *sectionsPart) See(b *pass.Block) {
	p.rows, p.labels = p.rows[:0], p.labels[:0]
	l := b.Program.Lineup
	p.lookForHeaders(b)
	p.lookForNameless(b)
	if l.Entry.Sections == "" {
		return
	}
	for _, o := range b.Sorted.Out {
		if o.Reason != layout.SectionRow {
			continue
		}
		if text := layout.OnlyText(b.Rows, o.Row); value.Mark(text) || l.Above[key.Of(text)] {
			r := SectionRow{SectionLabel{between, key.Of(text), true}, text, b.Input.Place(), 1}
			r.Place.Row = b.Rows.Lines[o.Row]
			p.rows = append(p.rows, r)
		}
	}
	for ci, c := range b.Program.Plan.Columns {
		s := l.Sources[ci]
		if s.From != layout.Label || c.Kind != plan.Text && c.Kind != plan.Name {
			continue
		}
		p.lookAt(ci, &b.Batch.Columns[ci])
		for _, o := range b.Sorted.Out {
			if cells := b.Rows.Row(o.Row); o.Reason == layout.SectionRow && s.Index < len(cells) {
				if text := value.TrimText(string(b.Rows.Text(cells[s.Index]))); text != "" {
					r := SectionRow{SectionLabel{ci, key.Of(text), true}, text, b.Input.Place(), 1}
					r.Place.Row, r.Place.Header = b.Rows.Lines[o.Row], b.Program.LabelHeader(ci)
					p.rows = append(p.rows, r)
				}
			}
		}
	}
}

// lookAt looks at the labels of a column in the used rows of a block, at each text of a dictionary once.
func (p *sectionsPart) lookAt(ci int, c *table.Column) {
	if c.Texts == nil {
		return
	}
	if len(p.seen) > mostShortcuts {
		clear(p.seen)
	}
	own := seenDict{ci, c.Texts.Number()}
	seen := grown(p.seen[own], c.Texts.Len())
	p.seen[own] = seen
	for _, code := range c.Codes {
		if !seen[code] {
			seen[code] = true
			p.labels = append(p.labels, SectionLabel{Column: ci, Key: key.Of(value.TrimText(c.Texts.Seen(code)))})
		}
	}
}

// Take implements pass.Part.
func (p *sectionsPart) Take() { p.to.take(p.rows, p.labels) }
