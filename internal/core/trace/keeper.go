package trace

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// finder looks for the fact rows that are meant, and for their cells.
type finder struct {
	plan    *plan.Plan
	where   int              // the column that says so, -1 for none
	cell    *place.Place     // or the cell that they are made of
	at      *pass.Position   // or where the one that is meant stands
	grains  map[string][]int // of rows: the found ones that have them too
	fate    table.Fate       // of the rows that are looked for by their grain
	number  int              // the delivered row that is looked for, from 1; 0 for none
	most    int              // how many rows have their cells; 0 for all
	kept    []int
	measure []int

	found     []*found
	sums      []value.Sum // of the measures, of delivered rows
	delivered int
	counted   int            // found rows
	held, out int            // that fit, and are not delivered
	position  *pass.Position // of the row with the number
	left      []Left         // what became of the cell, where no fact row has it
	extract   int
	given     map[[2]int]treat.Traced // the last value of a column and slot
	heading   int                     // the line of the last section row
	met       bool                    // the extract of the cell was
	headers   []string                // that it has, where none is that of the cell
}

// found is a fact row that is meant.
type found struct {
	line  int // of the delivery, 0 where it is not delivered
	fact  []string
	cells []treat.Traced
	fate  table.Fate
	why   string
	grain string
	open  []int // cells that take a value of a block before
}

// Part implements pass.Keeper.
func (f *finder) Part() pass.Part { return &finderPart{to: f} }

type finderPart struct {
	to        *finder
	extract   int
	found     []*found
	within    []int // of found: how many were delivered before it in the block, and itself
	sums      []value.Sum
	delivered int
	counted   int
	held, out int
	positions []pass.Position
	left      []Left
	given     map[[2]int]treat.Traced
	section   int
	met       bool
	header    string   // the text of the header of the cell, which may be asked for by its letter
	headers   []string // as in finder
}

// See implements pass.Part.
func (p *finderPart) See(b *pass.Block) {
	f := p.to
	*p = finderPart{to: f, extract: b.Extract, positions: p.positions[:0], sums: make([]value.Sum, len(f.measure)),
		given: map[[2]int]treat.Traced{}}
	for at, fate := range b.Batch.Fates {
		row, slot := at/b.Batch.Slots, at%b.Batch.Slots
		if fate == table.Delivered {
			p.delivered++
			if f.number > 0 {
				p.positions = append(p.positions, b.Position(row, slot))
			}
		}
		if f.number == 0 {
			p.seeRow(b, at, row, slot)
		}
	}
	if f.cell != nil {
		p.seeCell(b)
	}
	p.noteGiven(b)
}

// seeRow looks whether a fact row is meant.
func (p *finderPart) seeRow(b *pass.Block, at, row, slot int) {
	f, fate := p.to, b.Batch.Fates[at]
	if f.grains != nil {
		if fate == f.fate {
			if g := grainOf(f.plan, b.Batch, row, slot); f.grains[g] != nil {
				p.add(b, row, slot, fate).grain = g
			}
		}
		return
	}
	switch {
	case f.where >= 0:
		c := &b.Batch.Columns[f.where]
		if c.Texts.Out(c.Codes[c.At(row, slot, b.Batch.Slots)]) != "true" {
			return
		}
	case f.at != nil:
		if b.Position(row, slot) != *f.at {
			return
		}
	default: // a cell: only rows that may have it
		if !f.mayHave(b, row) {
			return
		}
	}
	switch fate {
	case table.Delivered:
		p.counted++
		for i, m := range f.measure {
			c := &b.Batch.Columns[m]
			c.AddTo(&p.sums[i], c.At(row, slot, b.Batch.Slots))
		}
	case table.Held:
		p.held++
	case table.Summed:
	default:
		p.out++
	}
	if fate == table.Delivered || f.cell != nil {
		p.add(b, row, slot, fate)
	}
}

// mayHave reports whether a fact row of a row may be made of the cell: it stands in the row, or
// above one that takes its value.
func (f *finder) mayHave(b *pass.Block, row int) bool {
	if b.Input.File != f.cell.File || b.Input.Sheet != f.cell.Sheet {
		return false
	}
	if b.Line(row) == f.cell.Row {
		return true
	}
	for ci := range f.plan.Columns {
		if b.LineOf(ci, row) == f.cell.Row {
			return true
		}
	}
	return b.Line(row) > f.cell.Row && len(b.AboveOf()) > 0 || f.cell.Row == b.Program.Lineup.Header.Row
}

// add adds a fact row with its cells, if it is one of those that have them.
func (p *finderPart) add(b *pass.Block, row, slot int, fate table.Fate) *found {
	f := p.to
	one := &found{fate: fate}
	if f.most > 0 && len(p.found) >= f.most {
		return one
	}
	for _, ci := range f.kept {
		one.fact = append(one.fact, string(b.Batch.AppendText(nil, &b.Batch.Columns[ci], row, slot)))
	}
	if f.plan.Rows.Repeats == plan.Sum {
		one.grain = grainOf(f.plan, b.Batch, row, slot)
	}
	for _, c := range b.Trace(row, slot) {
		one.cells = append(one.cells, c)
		if c.Above {
			p.above(b, one, &one.cells[len(one.cells)-1], row)
		}
		if c.At.Row == 0 && c.At.Header == "" && b.Program.Plan.Columns[c.Column].Name == f.section(b) {
			one.open = append(one.open, len(one.cells)-1)
		}
	}
	for _, g := range b.Gone {
		if int(g.Index) == row*b.Batch.Slots+slot {
			one.why = g.Reason
			if one.why == "" {
				one.why = g.Fate.String()
			}
		}
	}
	p.found, p.within = append(p.found, one), append(p.within, p.delivered)
	return one
}

// section is the column that an entry's section rows are.
func (f *finder) section(b *pass.Block) string { return b.Program.Lineup.Entry.Sections }

// above adds the cell whose value another one took.
func (p *finderPart) above(b *pass.Block, one *found, c *treat.Traced, row int) {
	slot := max(0, c.Slot)
	for r := row - 1; r >= 0; r-- {
		if t, ok := b.Gives(c.Column, r, slot); ok {
			t.Became = c.Became
			one.cells = append(one.cells, t)
			return
		}
	}
	one.open = append(one.open, len(one.cells))
	one.cells = append(one.cells, treat.Traced{Column: c.Column, Slot: c.Slot, Became: c.Became})
}

// noteGiven keeps what the next block may take from this one.
func (p *finderPart) noteGiven(b *pass.Block) {
	for _, ci := range b.AboveOf() {
		slots := 1
		if b.Batch.Columns[ci].Level == table.PerCell {
			slots = b.Batch.Slots
		}
		for slot := range slots {
			for r := b.Batch.Rows - 1; r >= 0; r-- {
				if t, ok := b.Gives(ci, r, slot); ok {
					p.given[[2]int{ci, slot}] = t
					break
				}
			}
		}
	}
	for _, o := range b.Sorted.Out {
		if o.Reason == layout.SectionRow {
			p.section = b.Rows.Lines[o.Row]
		}
	}
}

// seeCell looks what became of the cell where no fact row is made of it.
func (p *finderPart) seeCell(b *pass.Block) {
	f, l := p.to, b.Program.Lineup
	if b.Input.File != f.cell.File || b.Input.Sheet != f.cell.Sheet {
		return
	}
	p.met = true
	column := columnOf(l, f.cell.Header)
	if p.header = f.cell.Header; column >= 0 {
		p.header = l.Header.Name(column)
	}
	for _, o := range b.Sorted.Out {
		if b.Rows.Lines[o.Row] == f.cell.Row {
			p.left = append(p.left, Left{LeftOut, "the row is left out: " + o.Reason.String()})
		}
	}
	if f.cell.Row <= l.Header.Row && f.cell.Row > 0 {
		why := "it stands above the table"
		if f.cell.Row == l.Header.Row {
			why = "it is the header"
		}
		p.left = append(p.left, Left{Above, why})
		return
	}
	for row := range b.Batch.Rows {
		switch {
		case b.Line(row) != f.cell.Row:
		case column < 0:
			for i := range l.Header.Texts {
				p.headers = append(p.headers, l.Header.Name(i))
			}
		default:
			p.left = append(p.left, Left{LeftOut, whyUnused(l, column)})
		}
	}
}

// whyUnused says why no fact row is made of a cell of a column.
func whyUnused(l *layout.Lineup, i int) string {
	if slices.Contains(l.Dropped, i) {
		return "no column claims the header: others: drop"
	}
	for _, t := range l.Totals {
		if t.Index == i {
			return "it is a total column"
		}
	}
	return "no column is made of it"
}

// columnOf is the column of a header, or of a letter; -1 for none.
func columnOf(l *layout.Lineup, header string) int {
	for i := range l.Header.Texts {
		if key.Same(l.Header.Name(i), header) {
			return i
		}
	}
	for i := range l.Header.Texts {
		if strings.EqualFold(layout.Letter(l.Header.First+i), header) {
			return i
		}
	}
	return -1
}

// Take implements pass.Part.
func (p *finderPart) Take() {
	f := p.to
	if p.extract != f.extract || f.given == nil {
		f.extract, f.given, f.heading = p.extract, map[[2]int]treat.Traced{}, 0
	}
	for i, one := range p.found {
		if f.most > 0 && len(f.found) >= f.most {
			break
		}
		f.complete(one)
		if one.fate == table.Delivered {
			one.line = 1 + f.delivered + p.within[i]
		}
		if f.cell == nil || f.has(one, p.header) {
			f.found = append(f.found, one)
		}
	}
	if n := f.number - f.delivered; f.number > 0 && n > 0 && n <= len(p.positions) {
		at := p.positions[n-1]
		f.position = &at
	}
	f.delivered, f.counted, f.held, f.out = f.delivered+p.delivered, f.counted+p.counted, f.held+p.held, f.out+p.out
	for i := range p.sums {
		f.sums[i].Merge(&p.sums[i])
	}
	for at, t := range p.given {
		f.given[at] = t
	}
	if p.section > 0 {
		f.heading = p.section
	}
	f.left, f.headers, f.met = append(f.left, p.left...), append(f.headers, p.headers...), f.met || p.met
}

// complete fills in the cells that stand in blocks before.
func (f *finder) complete(one *found) {
	for k := len(one.open) - 1; k >= 0; k-- {
		i := one.open[k]
		c := &one.cells[i]
		if c.At.File != "" { // a heading
			c.At.Row = f.heading
			continue
		}
		t, ok := f.given[[2]int{c.Column, max(0, c.Slot)}]
		if !ok {
			one.cells = slices.Delete(one.cells, i, i+1)
			continue
		}
		t.Became = c.Became
		*c = t
	}
}

// has reports whether a fact row is made of the cell, whose header is this.
func (f *finder) has(one *found, header string) bool {
	return slices.ContainsFunc(one.cells, func(c treat.Traced) bool {
		return c.At.File == f.cell.File && c.At.Sheet == f.cell.Sheet && c.At.Row == f.cell.Row && key.Same(c.At.Header, header)
	})
}

// grainOf is the key of a fact row's grain.
func grainOf(p *plan.Plan, b *table.Batch, row, slot int) string {
	var dst []byte
	for _, name := range p.Rows.Grain {
		ci := p.Index(name)
		text := b.AppendText(nil, &b.Columns[ci], row, slot)
		dst = append(p.Columns[ci].Kind.AppendKey(dst, string(text)), 0)
	}
	return string(dst)
}
