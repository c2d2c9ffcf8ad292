package build

import (
	"fmt"
	"math"
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
)

// What would be counted twice: cells that two entries read, files that are copies.

// known reports whether a book of the plan knows a label.
func (r *run) known(label string) bool {
	return slices.ContainsFunc(slices.Concat(r.books, r.labels), func(b *names.Book) bool {
		if b == nil {
			return false
		}
		_, _, ok := b.Find(label)
		return ok
	})
}

// readCells are the cells of a sheet or text file that an entry reads into a measure.
type readCells struct {
	in       *input
	from, to int      // rows
	columns  [][2]int // measure and column of the sheet
}

// readTwice stops where another entry reads cells of an extract into the same measure.
func (r *run) readTwice(in *input, l *layout.Lineup) (problems place.List) {
	if len(r.plan.Entries) == 1 {
		return nil
	}
	own := readCells{in: in, from: l.Header.Row + 1, to: math.MaxInt}
	if a := l.Entry.Area; a != nil {
		own.from = max(own.from, a.FirstRow)
		if a.LastRow > 0 {
			own.to = a.LastRow
		}
	}
	for ci, c := range r.plan.Columns {
		if !c.Measure() {
			continue
		}
		from := ci
		if o := layout.Origin(r.plan, ci); o >= 0 {
			from = o
		}
		for _, cell := range l.Cells(from) {
			own.columns = append(own.columns, [2]int{ci, l.Header.First + cell})
		}
	}
	k := place.Place{File: resolved(at(r.dir, in.path)), Sheet: in.sheet, Header: in.table.Member}
	for _, other := range r.cells[k] {
		if other.in.entry == in.entry || other.from > own.to || own.from > other.to {
			continue
		}
		for _, mc := range own.columns {
			if !slices.Contains(other.columns, mc) {
				continue
			}
			p := place.At(in.place(), "read twice", "two entries of extracts read the same cells into column %s", r.plan.Columns[mc[0]].Name).ByRule()
			p.Column, p.Plan = r.plan.Columns[mc[0]].Name, in.entry.Pos
			p.Texts = []string{fmt.Sprintf("by %s (line %d) and %s (line %d)", other.in.entry.Name, other.in.entry.Pos.Line, in.entry.Name, in.entry.Pos.Line)}
			p.Advice = "let one of them leave it out with except or except_sheets, or give each its own area or columns"
			return place.List{p}
		}
	}
	r.cells[k] = append(r.cells[k], own)
	return nil
}
