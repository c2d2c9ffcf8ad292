package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Tables of one kind below each other, each under a line that says what it is of, and with its header once more.

// findBlocks finds out whether a table is made of such: then the lines head the rows below them, the first of all, which stands above the
// header, too.
func (s *sheet) findBlocks() {
	s.heads = s.findHeads()
	if len(s.heads) == 0 || !s.alone || !all(s.heads, isLabel) || s.otherFigures() != "" || !key.Differ(s.heads) {
		return
	}
	before := titleBefore(s.heads[0])
	if !all(s.heads, func(l string) bool { return strings.HasPrefix(l, before) && !terms.SaysNothing(l[len(before):]) }) {
		return
	}
	if lines := s.titleLines(); len(lines) == 0 || before == "" && len(lines) > 1 { // a pattern would fit the other lines, too
		return
	}
	s.blocked, s.block, s.sections = true, before, true
}

// findHeads are the lines just above each header of a table, if it has several among its first rows, and some words stand above each.
func (s *sheet) findHeads() (heads []string) {
	if len(s.RepeatedHeaders) == 0 {
		return nil
	}
	begins := func(line int) bool { // a header, of several rows maybe
		return line == s.headerTop() || slices.Contains(s.RepeatedHeaders, line) && !slices.Contains(s.RepeatedHeaders, line-1)
	}
	var above []string // the filled cells of the line before
	s.alone = true
	for i, row := range s.Head {
		if begins(s.HeadLines[i]) {
			if len(above) == 0 || len(above) > 3 {
				return nil
			}
			heads, s.alone = append(heads, strings.Join(above, " ")), s.alone && len(above) == 1
		}
		if cells := slices.DeleteFunc(slices.Clone(row), func(c string) bool { return c == "" }); len(cells) > 0 {
			above = cells
		}
	}
	return heads
}

// otherFigures is a line above a header, of several, that says that its figures are not of the kind of the others: another measure,
// currency or time, returns, plans; "" for none. What all lines say is no difference.
func (s *sheet) otherFigures() string {
	in := map[string]int{}
	for _, head := range s.heads {
		for _, w := range slices.Compact(slices.Sorted(slices.Values(strings.Fields(key.Of(head))))) {
			in[w]++
		}
	}
	for _, head := range s.heads {
		if t, _ := terms.TimeOf(head); t != terms.None && key.Differ(s.heads) {
			return head
		}
		for _, w := range strings.Fields(key.Of(head)) {
			t, _ := terms.TimeOf(w)
			ofTime := t != terms.None || terms.BareTimes([]string{w}) != terms.None
			if in[w] < len(s.heads) && (terms.SaysKind(w) || terms.Of(w).OfMeasure() || value.IsUnit(w) || ofTime) {
				return head
			}
		}
	}
	return ""
}

// askHeads asks about tables below each other whose figures are of different kinds, or whose lines of their own would be rows.
func (e *entry) askHeads(d *drafter, s *sheet) {
	head := s.otherFigures()
	if head == "" && !s.alone && key.Differ(s.heads) && !all(s.heads, terms.SaysNothing) {
		head = s.heads[0]
	}
	if head != "" {
		e.askAbout(d, fmt.Sprintf("%s: tables stand below each other, one below %q: their figures would be added up, and what these lines "+
			"say is lost; have a sheet or a file for each, or area says which is read", s.Place.Source(), head))
	}
}

// ofBlock is what the line above a block says that it is of.
func (s *sheet) ofBlock(line string) string {
	return strings.TrimSpace(strings.TrimPrefix(line, s.block))
}

// headBlocks lets rows of the first block of each table have what the line above its header says, in the column of section rows.
func (d *drafter) headBlocks(e *entry, c *column) {
	before := e.sheets[0].block
	for _, other := range d.entries {
		for _, s := range other.sheets {
			if !s.blocked || s.block != before { // rules of a column are of all extracts
				return
			}
		}
	}
	first := d.named(firstBlock)
	if first == nil {
		first = d.helper(firstBlock, terms.None)
		first.is = "text"
	}
	p := piece{Piece: filenames.Piece{Before: before}, from: "titles", title: e.titles, column: first}
	for _, s := range e.sheets {
		lines := s.titleLines()
		p.Values = append(p.Values, s.ofBlock(lines[len(lines)-1]))
	}
	e.titles++
	e.pieces = append(e.pieces, p)
	first.claim(e, "", "titles")
	c.learn(p.Values)
	c.rules["blanks"] = "=" + first.name
	if before != "" {
		c.read = "[" + pattern.Escape(before) + "]{}"
	}
}

// firstBlock is what the column is called that has what stands above the first block.
const firstBlock = "first_block"
