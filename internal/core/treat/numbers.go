package treat

import (
	"bytes"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// gapCell is a cell in a column of numbers that holds none.
type gapCell struct {
	at   int32
	kind value.Gap
	cell table.Cell
	made int32 // 1 + the index of what a formula gives
}

// rounded is a number with more places than its column has.
type rounded struct {
	at   int32
	cell table.Cell
	read value.Decimal
}

// reads are the sums of a column of numbers as they were read, for each column of
// cells that feeds it: most of them with the places that the column has, or those that
// the first rows of the block have.
type reads struct {
	places int // of usual
	usual  []value.Sum128
	odd    []value.Sum
	dirty  []int32 // those of odd that hold something
}

func (r *reads) reset(n, places int) {
	r.places = places
	r.usual = resized(r.usual, n)
	clear(r.usual)
	for _, i := range r.dirty {
		r.odd[i] = value.Sum{}
	}
	r.dirty = r.dirty[:0]
	if len(r.odd) < n {
		r.odd = make([]value.Sum, n)
	}
}

// add adds a number with other places.
func (r *reads) add(i int, d value.Decimal) {
	if r.odd[i].Empty() {
		r.dirty = append(r.dirty, int32(i))
	}
	r.odd[i].Add(d)
}

// addTo adds what column of cells i has been read to a sum.
func (r *reads) addTo(s *value.Sum, i int) {
	s.Add128(r.usual[i], r.places)
	if !r.odd[i].Empty() {
		s.Merge(&r.odd[i])
	}
}

// readNumbers reads a column of numbers.
func (w *Worker) readNumbers(ci int) {
	c, out := &w.program.Columns[ci], &w.batch.Columns[ci]
	w.columns[ci].reads.reset(w.width(c), w.usualPlaces(c))
	w.columns[ci].pointed, w.columns[ci].three = false, 0
	w.columns[ci].percents = 0
	fixed, ok := table.NewFixed(w.columns[ci].reads.places, c.reading.Numbers.PointByte(), c.shortens())
	w.columns[ci].fixed, w.columns[ci].usual = fixed, ok && c.plain()
	n := w.size(c.level)
	out.Level, out.Texts, out.Codes, out.Wide = c.level, nil, out.Codes[:0], out.Wide[:0]
	out.Numbers = resized(out.Numbers, n)
	switch {
	case !c.fromCells():
		for i := range n {
			out.Numbers[i] = table.Number{}
			if text := w.field(c, i); text != "" {
				reading := c.reading
				if c.source.From == layout.Constant { // of the plan, or of a path
					reading = &value.Default
				}
				w.readNumber(ci, i, table.Cell{}, []byte(text), reading)
			}
		}
	case c.level == table.PerRow:
		w.kinds = w.kinds[:0]
		for _, row := range w.sorted.Used {
			kind := w.stored(int(w.rows.Starts[row])+c.source.Index, 1)
			if kind == nil {
				break
			}
			w.kinds = append(w.kinds, kind...)
		}
		w.readCells(ci, 0, 0, w.gather(c.source.Index), w.kinds)
	default:
		w.readWide(ci)
	}
}

// usualPlaces is how many places most numbers of a column have: its own, or the most
// that one of the first few has.
func (w *Worker) usualPlaces(c *column) (places int) {
	if c.decimals() >= 0 || !c.fromCells() || c.level == table.PerCell && w.batch.Slots == 0 {
		return c.places()
	}
	const few = 8
	for i := range min(few, w.batch.Rows) {
		index := c.cellColumn(w.program, w.batch.Slots-1)
		if index < 0 {
			break
		}
		cell := w.rows.Cells[int(w.rows.Starts[w.sorted.Used[i]])+index]
		_, n, _, ok := value.PlainAt(w.rows.Data, cell.Off, cell.End, c.reading.Numbers.PointByte())
		if ok && (!c.shortens() || w.rows.Data[cell.End-1] != '0') { // no longer than it must be
			places = max(places, n)
		}
	}
	return places
}

// gather puts the used cells of a column of the extract side by side.
func (w *Worker) gather(index int) []table.Cell {
	starts, cells := w.rows.Starts, w.rows.Cells
	w.gathered = resized(w.gathered, len(w.sorted.Used))
	for i, row := range w.sorted.Used {
		w.gathered[i] = cells[int(starts[row])+index]
	}
	return w.gathered
}

// readWide reads the wide cells of all rows. Cells that stand side by side are
// read in one go.
func (w *Worker) readWide(ci int) {
	c, slots := &w.program.Columns[ci], w.program.Slots
	if len(slots) == 0 { // nothing is wide, and nothing becomes a fact row
		return
	}
	w.places = w.places[:0]
	for slot := range slots {
		w.places = append(w.places, c.cellColumn(w.program, slot))
	}
	first, together := w.places[0], w.places[0] >= 0
	for slot, index := range w.places {
		together = together && index == first+slot
	}
	from := 0 // of the slots that have cells
	if slots[0].Itself {
		from = 1
	}
	for i, row := range w.sorted.Used {
		start := int(w.rows.Starts[row])
		cells := w.rows.Cells[start:]
		i *= len(slots)
		if together {
			w.readCells(ci, i, 0, cells[first:first+len(slots)], w.stored(start+first, len(slots)))
			continue
		}
		if from > 0 { // empty, no gap rule needed
			w.batch.Columns[ci].Numbers[i] = table.Number{}
		}
		w.gathered, w.kinds = w.gathered[:0], w.kinds[:0]
		for _, index := range w.places[from:] {
			cell := table.Cell{} // blank
			if index >= 0 {
				cell = cells[index]
				w.kinds = append(w.kinds, w.stored(start+index, 1)...)
			} else if len(w.stored(start, 1)) > 0 {
				w.kinds = append(w.kinds, table.TextCell)
			}
			w.gathered = append(w.gathered, cell)
		}
		w.readCells(ci, i+from, from, w.gathered, w.kinds)
	}
}

// stored returns the kinds of cells, where it matters which numbers a sheet stores:
// these are written in one way, whatever the style of the entry.
func (w *Worker) stored(at, n int) []table.CellKind {
	if r := &w.program.Lineup.Entry.Reading; len(w.rows.Kinds) == 0 || r.Numbers == value.English && r.Plain() {
		return nil
	}
	return w.rows.Kinds[at : at+n]
}

// readCells reads cells into the column from value i on; slot is that of the first,
// the only one in a column with a value for each row. Plain numbers with the places
// that the column has take the short way.
func (w *Worker) readCells(ci, i, slot int, cells []table.Cell, kinds []table.CellKind) {
	c, s, data := &w.program.Columns[ci], &w.columns[ci], w.rows.Data
	reading, next := c.reading, 1 // slot
	if c.level == table.PerRow {
		next = 0
	}
	if !s.usual || len(kinds) > 0 {
		for j, cell := range cells {
			if len(kinds) > 0 && kinds[j] == table.NumberCell {
				reading = &value.Default
			}
			w.readCell(ci, i+j, slot+j*next, cell, reading)
			reading = c.reading
		}
		return
	}
	numbers, sums := w.batch.Columns[ci].Numbers[i:], s.reads.usual[slot:]
	for j := 0; j < len(cells); j++ {
		n := s.fixed.Read(data, cells[j:], numbers[j:], sums[j*next:])
		s.pointed = s.pointed || n > 0 && c.decimals() > 0
		if j += n; j < len(cells) {
			w.readCell(ci, i+j, slot+j*next, cells[j], reading)
		}
	}
}

// readCell reads one cell: other plain numbers than a column mostly has are read
// here, all else the long way.
func (w *Worker) readCell(ci, i, slot int, cell table.Cell, reading *value.Reading) {
	c, s, data := &w.program.Columns[ci], &w.columns[ci], w.rows.Data
	if cell.Off == cell.End {
		w.gap(ci, i, cell, value.Blank)
		return
	}
	if !c.plain() {
		w.readNumber(ci, i, cell, data[cell.Off:cell.End], reading)
		return
	}
	style := &reading.Numbers
	coef, places, neat, ok := value.PlainAt(data, cell.Off, cell.End, style.PointByte())
	if !ok {
		coef, places, ok = style.Grouped(data[cell.Off:cell.End])
	}
	decimals := c.decimals()
	switch {
	case !ok:
		w.readNumber(ci, i, cell, data[cell.Off:cell.End], reading)
		return
	case places == decimals:
		s.reads.usual[slot].Add(coef)
		s.pointed = s.pointed || places > 0
	case decimals < 0 && (places == 0 || data[cell.End-1] != '0' || !c.shortens()): // no longer than it must be
		if places == s.reads.places {
			s.reads.usual[slot].Add(coef)
		} else {
			s.reads.add(slot, value.NewDecimal(coef, places))
		}
	default:
		w.put(ci, i, cell, value.NewDecimal(coef, places))
		return
	}
	n := &w.batch.Columns[ci].Numbers[i]
	n.Coef, n.Off, n.Len, n.Places, n.Form = coef, cell.Off, uint8(cell.End-cell.Off), uint8(places), table.Print
	if neat {
		n.Form = table.Copy
	}
}

// readNumber reads one cell the long way: dressed numbers, large ones, gaps.
func (w *Worker) readNumber(ci, i int, cell table.Cell, text []byte, reading *value.Reading) {
	if text = value.Trim(text); len(text) == 0 {
		w.gap(ci, i, cell, value.Blank)
		return
	}
	s, words := &w.columns[ci], &w.program.Columns[ci].spec.Words
	if words.Figures() && words.TextGap(string(text)) == value.Null {
		w.gap(ci, i, cell, value.Null)
		return
	}
	if read := w.program.Columns[ci].spec.Read; read != nil {
		piece, ok := read.Piece(string(text))
		if !ok {
			w.gap(ci, i, cell, words.GapOf(string(text)))
			return
		}
		text = []byte(piece)
	}
	// most likely words, and few different ones
	if c := text[0]; (c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z') && reading == w.program.Columns[ci].reading {
		if kind := s.gaps.of(text); kind != value.NoGap {
			w.gap(ci, i, cell, kind)
			return
		}
	}
	d, currency, ok := reading.Number(text)
	if !ok {
		w.gap(ci, i, cell, words.GapOf(string(text)))
		return
	}
	if fraction := w.program.Columns[ci].spec.Kind == plan.Whole && d.Shorten().Places() > 0; currency != "" && !fraction {
		s.currencies = append(s.currencies, money{int32(i), currency, cell})
	}
	if bytes.IndexByte(text, '%') >= 0 {
		if s.percents++; s.percents == 1 {
			s.percent = i
		}
	}
	w.put(ci, i, cell, d)
}

// gap notes that value i has no number.
func (w *Worker) gap(ci, i int, cell table.Cell, kind value.Gap) {
	w.batch.Columns[ci].Numbers[i] = table.Number{}
	s := &w.columns[ci]
	s.gapCells = append(s.gapCells, gapCell{int32(i), kind, cell, 0})
}

// groupPlaces may be a group rather than places: 1.234.
const groupPlaces = 3

// Places are the decimal signs in the cells of a column of a block: how many stand before
// three digits, and whether one stands before other digits. Percents are how many have a percent
// sign, and Percent is where the first of these stands.
type Places struct {
	Column, Three int
	Other         bool
	Percents      int
	Percent       place.Place
}

// Add adds those of a later block.
func (p *Places) Add(o Places) {
	if p.Percents == 0 {
		p.Percent = o.Percent
	}
	p.Three, p.Other, p.Percents = p.Three+o.Three, p.Other || o.Other, p.Percents+o.Percents
}

// placesOf lists the columns of amounts whose cells have places, where they have other
// decimals than three: digits in groups may be meant; and those with percent signs.
func (w *Worker) placesOf() (out []Places) {
	for ci := range w.program.Columns {
		c, s := &w.program.Columns[ci], &w.columns[ci]
		if !c.measure || !c.fromCells() {
			continue
		}
		p := Places{Column: ci, Percents: s.percents}
		if c.spec.Decimals >= 0 && c.spec.Decimals != groupPlaces {
			p.Three, p.Other = s.three, s.pointed
			if len(w.rows.Kinds) > 0 && (p.Three > 0 || p.Other) {
				p.Three, p.Other = w.placesOfTexts(ci)
			}
		}
		if s.percents > 0 {
			p.Percent = w.place(ci, s.percent)
		}
		if p.Three > 0 || p.Other || p.Percents > 0 {
			out = append(out, p)
		}
	}
	return out
}

// placesOfTexts counts the decimal signs, as Places has them, in those cells of a column of a sheet that are
// texts: its number cells are stored in one way.
func (w *Worker) placesOfTexts(ci int) (three int, other bool) {
	c := &w.program.Columns[ci]
	for i := range w.size(c.level) {
		at, _ := w.cellAt(c, i)
		if at < 0 || w.rows.Kinds[at] != table.TextCell {
			continue
		}
		switch d, _, ok := c.reading.Number(value.Trim(w.rows.Text(w.rows.Cells[at]))); {
		case !ok || d.Places() == 0:
		case d.Places() == groupPlaces:
			three++
		default:
			other = true
		}
	}
	return three, other
}

// put takes a number in, as its column wants it.
func (w *Worker) put(ci, i int, cell table.Cell, d value.Decimal) {
	c, out := &w.program.Columns[ci], &w.batch.Columns[ci]
	decimals := c.decimals()
	switch d.Places() {
	case 0:
	case groupPlaces:
		w.columns[ci].three++
	default:
		w.columns[ci].pointed = true
	}
	if d.Places() <= decimals { // as it is, but for zeros that its places lack
		fixed, _ := d.Rescale(decimals)
		if coef, places, ok := fixed.Small(); ok {
			out.Numbers[i] = table.Number{Coef: coef, Places: uint8(places), Form: table.Print}
			w.columns[ci].reads.usual[i%w.width(c)].Add(coef)
			return
		}
	}
	short := d.Shorten()
	switch {
	case c.spec.Kind == plan.Whole && short.Places() > 0:
		w.gap(ci, i, cell, value.Unclear)
		return
	case c.spec.Decimals >= 0 && short.Places() > c.spec.Decimals:
		s := &w.columns[ci]
		s.rounded = append(s.rounded, rounded{int32(i), cell, d})
		out.Set(i, d)
	default:
		out.Set(i, c.fit(short))
	}
	w.columns[ci].reads.add(i%w.width(c), short)
}
