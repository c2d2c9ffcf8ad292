package draft

import (
	"slices"
	"strings"
)

// Tables of one kind below each other, each under a line that says what it is of, and with its header once more.

// findBlocks finds out whether a table is made of such: then the lines head the rows below them, the first of all, which stands above the
// header, too.
func (s *sheet) findBlocks() {
	if len(s.RepeatedHeaders) == 0 {
		return
	}
	begins := func(line int) bool { // a header, of several rows maybe
		return line == s.HeaderRow-s.rows+1 || slices.Contains(s.RepeatedHeaders, line) && !slices.Contains(s.RepeatedHeaders, line-1)
	}
	var labels []string
	above := []string(nil) // the filled cells of the line before
	for i, row := range s.Head {
		if begins(s.HeadLines[i]) {
			if len(above) != 1 || !isLabel(above[0]) {
				return
			}
			labels = append(labels, above[0])
		}
		if cells := slices.DeleteFunc(slices.Clone(row), func(c string) bool { return c == "" }); len(cells) > 0 {
			above = cells
		}
	}
	before := ""
	if len(labels) > 0 {
		before = titleBefore(labels[0])
	}
	if !all(labels, func(l string) bool { return strings.HasPrefix(l, before) && !saysNothing(l[len(before):]) }) {
		return
	}
	if !several(labels) || before == "" && len(s.titleLines()) > 1 { // a pattern would fit the other lines, too
		return
	}
	s.blocked, s.block, s.sections = true, before, true
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
		first = d.helper(firstBlock, noClass)
		first.is = "text"
	}
	p := piece{from: "titles", before: before, title: e.titles, column: first}
	for _, s := range e.sheets {
		lines := s.titleLines()
		p.values = append(p.values, s.ofBlock(lines[len(lines)-1]))
	}
	e.titles++
	e.pieces = append(e.pieces, p)
	first.claim(e, "", "titles")
	c.learn(p.values)
	c.rules["blanks"] = "=" + first.name
	if before != "" {
		c.read = "[" + escaped(before) + "]{}"
	}
}

// firstBlock is what the column is called that has what stands above the first block.
const firstBlock = "first_block"
