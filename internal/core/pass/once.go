package pass

import (
	"fmt"
	"math"
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/whole"
)

// known reports whether a book of the plan knows a label.
func (p *pass) known(label string) bool {
	return slices.ContainsFunc(slices.Concat(p.rules.Books, p.rules.Labels), func(b *names.Book) bool {
		if b == nil {
			return false
		}
		_, _, ok := b.Find(label)
		return ok
	})
}

// readCells are the cells of a sheet or text file that an entry reads into a measure.
type readCells struct {
	in       *Input
	from, to int      // rows
	columns  [][2]int // measure and column of the sheet
}

// readTwice stops where another entry reads cells of an extract into the same measure.
func (rd *reader) readTwice(in *Input, l *layout.Lineup) (problems place.List) {
	if len(rd.rules.Plan.Entries) == 1 {
		return nil
	}
	own := readCells{in: in, from: l.Header.Row + 1, to: math.MaxInt}
	if a := l.Entry.Area; a != nil {
		own.from = max(own.from, a.FirstRow)
		if a.LastRow > 0 {
			own.to = a.LastRow
		}
	}
	for ci, c := range rd.rules.Plan.Columns {
		if !c.Measure() {
			continue
		}
		from := ci
		if o := layout.Origin(rd.rules.Plan, ci); o >= 0 {
			from = o
		}
		for _, cell := range l.Cells(from) {
			own.columns = append(own.columns, [2]int{ci, l.Header.First + cell})
		}
	}
	k := place.Place{File: whole.Resolved(rd.rules.Plan.At(in.Path)), Sheet: in.Sheet, Header: in.Table.Member}
	for _, other := range rd.cells[k] {
		if other.in.Entry == in.Entry || other.from > own.to || own.from > other.to {
			continue
		}
		for _, mc := range own.columns {
			if !slices.Contains(other.columns, mc) {
				continue
			}
			p := place.At(in.Place(), "read twice", "two entries of extracts read the same cells into column %s",
				rd.rules.Plan.Columns[mc[0]].Name).ByRule()
			p.Column, p.Plan = rd.rules.Plan.Columns[mc[0]].Name, in.Entry.Pos
			p.Texts = []string{fmt.Sprintf("by %s (line %d) and %s (line %d)", other.in.Entry.Name, other.in.Entry.Pos.Line, in.Entry.Name,
				in.Entry.Pos.Line)}
			p.Advice = "let one of them leave it out with except or except_sheets, or give each its own area or columns"
			return place.List{p}
		}
	}
	rd.cells[k] = append(rd.cells[k], own)
	return nil
}
