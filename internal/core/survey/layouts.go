package survey

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
)

// Layout is what tables share: the same headers by the key, in any order. Wide columns
// count as one, and so do columns of numbers below one label.
type Layout struct {
	Tables  []*Table
	Columns []Column
}

// Column is a column of all tables of a layout, or several that count as one.
type Column struct {
	Header        string // as the first of the tables has it; "" for wide columns
	Is            string
	Folded        []string // the headers of several, in the first table that has them
	Fewest, Most  int      // of how many columns it is made in a table
	Filled        int      // in all tables, as the counts below
	Gaps          map[string]int
	Least, Utmost int  // distinct usable values in one table; 0 where it is several
	Estimated     bool // these are, in some table
	Examples      []string
	Gap           Gap // the first that is no blank
}

// GapKinds are the kinds of gaps in the order in which they are told.
var GapKinds = []string{"blank", "null", "text", "unclear", "error"}

// Layouts groups tables by their layout, largest groups first.
func Layouts(tables []*Table) []Layout {
	index := map[string]int{}
	var out []Layout
	for _, t := range tables {
		columns := t.folded()
		var keys []string
		for _, c := range columns {
			keys = append(keys, key.Of(c.Header))
		}
		slices.Sort(keys)
		k := strings.Join(keys, "\x00")
		i, ok := index[k]
		if !ok {
			i = len(out)
			index[k] = i
			out = append(out, Layout{Columns: columns})
		} else {
			out[i].join(columns)
		}
		out[i].Tables = append(out[i].Tables, t)
	}
	slices.SortStableFunc(out, func(a, b Layout) int { return len(b.Tables) - len(a.Tables) })
	return out
}

// Rows is how many rows of data its tables have.
func (l *Layout) Rows() int {
	n := 0
	for _, t := range l.Tables {
		n += t.Rows
	}
	return n
}

// join adds the columns of one more table.
func (l *Layout) join(columns []Column) {
	taken := make([]bool, len(columns))
	for i := range l.Columns {
		to := &l.Columns[i]
		for j := range columns {
			if taken[j] || key.Of(columns[j].Header) != key.Of(to.Header) {
				continue
			}
			taken[j] = true
			to.add(&columns[j])
			to.Fewest, to.Most = min(to.Fewest, columns[j].Fewest), max(to.Most, columns[j].Most)
			to.Estimated = to.Estimated || columns[j].Estimated
			to.Least, to.Utmost = min(to.Least, columns[j].Least), max(to.Utmost, columns[j].Utmost)
			break
		}
	}
}

// add counts the cells of another column in this one.
func (c *Column) add(other *Column) {
	switch {
	case c.Is == other.Is || other.Filled == 0:
	case c.Is == "whole" && other.Is == "number" || c.Filled == 0:
		c.Is = other.Is
	case c.Is == "number" && other.Is == "whole":
	case !strings.Contains(c.Is, other.Is):
		c.Is += ", " + other.Is
	}
	c.Filled += other.Filled
	for kind, n := range other.Gaps {
		c.Gaps[kind] += n
	}
	if c.Gap.Kind == "" {
		c.Gap = other.Gap
	}
}

// folded is the columns of a table, those that count as one together.
func (t *Table) folded() []Column {
	labels := map[string]int{}
	for _, f := range t.Fields {
		if l := labelOf(&f); l != "" {
			labels[l]++
		}
	}
	index := map[string]int{}
	var out []Column
	for _, f := range t.Fields {
		c := Column{Header: f.Header, Is: f.Is, Fewest: 1, Most: 1, Filled: f.Filled, Least: f.Distinct, Utmost: f.Distinct,
			Estimated: f.Estimated, Examples: f.Examples,
			Gaps: map[string]int{"blank": f.Blank, "null": f.Null, "text": f.Text, "unclear": f.Unclear, "error": f.Error}}
		for _, g := range f.Gaps {
			if g.Kind != "blank" {
				c.Gap = g
				break
			}
		}
		fold, name := "", ""
		switch l := labelOf(&f); {
		case f.Wide:
			fold = "wide"
		case labels[l] > 2:
			fold, name = l, l+" | …"
		}
		if fold == "" {
			out = append(out, c)
			continue
		}
		i, ok := index[fold]
		if !ok {
			index[fold] = len(out)
			c.Header, c.Folded, c.Least, c.Utmost, c.Estimated, c.Examples = name, []string{f.Header}, 0, 0, false, nil
			out = append(out, c)
			continue
		}
		out[i].add(&c)
		out[i].Folded = append(out[i].Folded, f.Header)
		out[i].Fewest, out[i].Most = out[i].Fewest+1, out[i].Most+1
	}
	return out
}

// labelOf is the label of the group that a column of numbers stands in, "" for none.
func labelOf(f *Field) string {
	label, _, grouped := strings.Cut(f.Header, " | ")
	if !grouped || f.Is != "whole" && f.Is != "number" {
		return ""
	}
	return label
}

// Described says what a table is like beside its columns, part by part: how it is
// written, and what lies around its data.
func (t *Table) Described() []string {
	out := []string{"header in row " + strconv.Itoa(t.HeaderRow)}
	switch t.HeaderRows {
	case 2:
		out[0] = fmt.Sprintf("header in rows %d and %d", t.HeaderTop, t.HeaderRow)
	case 3:
		out[0] = fmt.Sprintf("header in rows %d to %d", t.HeaderTop, t.HeaderRow)
	}
	if t.HeaderRow == 0 { // a database, or a column file
		out[0] = "headers of its own"
	}
	if t.Facts.Encoding != "" {
		out = append(out, t.Facts.Encoding, t.Facts.DelimiterName())
	}
	if t.Numbers != "" {
		out = append(out, "numbers written "+t.Numbers)
	}
	if t.Dates != "" {
		out = append(out, "dates written "+t.Dates)
	}
	for i, text := range t.TitleTexts {
		out = append(out, fmt.Sprintf("title in row %d %q", t.Titles[i], text))
	}
	for i, text := range t.NoteTexts {
		out = append(out, fmt.Sprintf("footnote in row %d %q", t.Footnotes[i], text))
	}
	for _, r := range []struct {
		rows []int
		noun string
	}{{t.BlankRows, "blank"}, {t.RepeatedHeaders, "the header again"}, {t.TotalRows, "totals"}} {
		if len(r.rows) > 0 {
			out = append(out, rowList(r.rows)+" "+r.noun)
		}
	}
	if len(t.TotalColumns) > 0 {
		out = append(out, "totals in column "+strings.Join(t.TotalColumns, ", "))
	}
	return out
}

// rowList names the first rows of many.
func rowList(rows []int) string {
	var out []string
	for i, r := range rows {
		if i == 5 {
			out = append(out, fmt.Sprintf("… (%d)", len(rows)))
			break
		}
		out = append(out, strconv.Itoa(r))
	}
	if len(rows) == 1 {
		return "row " + out[0]
	}
	return "rows " + strings.Join(out, ", ")
}
