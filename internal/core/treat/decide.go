package treat

import (
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Decide applies the rules, column by column in the plan's order: the first
// drop or hold decides a fact row, and what stands in a row that is gone
// changes and stops nothing. Then it draws up the accounts, and puts the sums of rows
// that repeat the grain.
func (w *Worker) Decide() *Outcome {
	if w.wants.Gaps {
		w.gaps = w.gapCells()
	}
	w.tieColumns()
	if !w.program.inTurn {
		for _, ci := range w.program.Plan.Made {
			w.make(ci)
		}
	}
	if w.program.Plan.Rows.Only != nil && !w.filtered {
		w.filter()
	}
	w.countLookups()
	for ci := range w.program.Columns {
		if w.program.Columns[ci].spec.Kind.Numeric() {
			w.decideNumbers(ci)
		} else {
			w.countNames(ci)
			w.decideTexts(ci)
		}
	}
	w.dropZeros()
	w.endRepeats()
	w.listGone()
	for ci := range w.program.Columns {
		w.settle(ci)
	}
	w.listCorrections()
	w.sortChanges()
	w.accountRows()
	w.reportStops()
	w.putSums()
	w.must()
	return w.outcome()
}

func (w *Worker) decideNumbers(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	if len(s.gapCells) > 0 {
		w.layPuts(ci)
	}
	for _, g := range s.gapCells {
		i := int(g.at)
		if !w.present(c.level, i) {
			continue
		}
		rule := &c.spec.Gaps[g.kind]
		switch rule.Remedy {
		case plan.Put:
			if rule.Formula != nil {
				w.putMade(ci, g)
				continue
			}
			if n := &s.puts[g.kind]; n.Form == table.Copy {
				out.Numbers[i] = *n
			} else {
				out.Set(i, rule.Number)
			}
			s.changed = append(s.changed, g)
		case plan.Leave:
			if g.kind != value.Blank {
				s.changed = append(s.changed, g)
			}
		default:
			w.end(ci, i, rule.Remedy, g.kind)
		}
	}
}

// layPuts writes the values that gaps get behind the texts of the block, so that
// they are copied from there like numbers that stand in cells.
func (w *Worker) layPuts(ci int) {
	s := &w.columns[ci]
	for kind, rule := range w.program.Columns[ci].spec.Gaps {
		s.puts[kind] = table.Number{}
		coef, places, ok := rule.Number.Small()
		if rule.Remedy != plan.Put || !ok {
			continue
		}
		var buf [32]byte
		cell := w.keepText(value.AppendFixed(buf[:0], coef, places))
		s.puts[kind] = table.Number{Coef: coef, Off: cell.Off, Len: uint8(cell.End - cell.Off), Places: uint8(places), Form: table.Copy}
	}
}

func (w *Worker) decideTexts(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	if !s.odd {
		return
	}
	for i, code := range out.Codes {
		in := s.texts.of(code)
		if !in.odd || !w.present(c.level, i) {
			continue
		}
		remedy := c.spec.Unknown.Remedy
		if in.gap != value.NoGap {
			remedy = c.spec.Gaps[in.gap].Remedy
		}
		switch remedy {
		case plan.Put, plan.Leave:
			if in.gap != value.NoGap && remedy == plan.Put && c.spec.Gaps[in.gap].Formula != nil { // which gave none
				w.stop(ci, i, in.gap)
				continue
			}
			if c.recorded() {
				s.changed = append(s.changed, gapCell{int32(i), in.gap, w.said(c, i, in.text), 0})
			}
		default:
			w.end(ci, i, remedy, in.gap)
		}
	}
}

// present reports whether a fact row that value i belongs to is still there.
func (w *Worker) present(l table.Level, i int) bool {
	if l == table.PerCell {
		return w.batch.Fates[i].InFact()
	}
	found := false
	w.factRows(l, i, func(f *table.Fate, _ int) {
		found = found || f.InFact()
	})
	return found
}

// factRows visits the fact rows that value i of a level belongs to.
func (w *Worker) factRows(l table.Level, i int, visit func(f *table.Fate, at int)) {
	b := &w.batch
	switch l {
	case table.PerCell:
		visit(&b.Fates[i], i)
	case table.PerRow:
		for at := i * b.Slots; at < (i+1)*b.Slots; at++ {
			visit(&b.Fates[at], at)
		}
	case table.PerSlot:
		for at := i; at < len(b.Fates); at += b.Slots {
			visit(&b.Fates[at], at)
		}
	default:
		for at := range b.Fates {
			visit(&b.Fates[at], at)
		}
	}
}

// end takes the fact rows of value i out, or notes that it stops the build.
func (w *Worker) end(ci, i int, remedy plan.Remedy, gap value.Gap) {
	c := &w.program.Columns[ci]
	if remedy == plan.Silent || remedy == plan.Stop || remedy == plan.Above {
		if gap != value.Blank || !w.formulaIn(c, i) { // else that is told already
			w.stop(ci, i, gap)
		}
		return
	}
	row := Row{Column: int32(ci), Fate: table.Dropped}
	if remedy == plan.Hold {
		row.Fate = table.Held
		switch row.Reason = gap.String(); gap {
		case value.NoGap:
			row.Reason = "unknown name " + w.textOf(ci, i)
		case value.Missing:
			row.Reason = "missing key " + w.textOf(ci, i)
		}
	}
	w.factRows(c.level, i, func(f *table.Fate, at int) {
		if *f == table.Delivered {
			*f = row.Fate
			row.Index = int32(at)
			w.gone = append(w.gone, row)
		}
	})
}

// formulaIn reports whether a formula without a stored value stands in the cell behind a
// value.
func (w *Worker) formulaIn(c *column, i int) bool {
	if len(w.rows.Kinds) == 0 || !c.fromCells() {
		return false
	}
	row, slot := w.rowAndSlot(c.level, i)
	index := c.cellColumn(w.program, slot)
	return index >= 0 && w.rows.Kind(int(w.sorted.Used[row]), index) == table.FormulaCell
}

// textOf is the text behind a value, trimmed.
func (w *Worker) textOf(ci, i int) string {
	c := &w.program.Columns[ci]
	if cell, ok := w.cell(c, i); ok {
		return string(value.Trim(w.rows.Text(cell)))
	}
	switch {
	case c.lookup != nil:
		return w.lookedUpText(ci, i)
	case c.made || c.source.From == layout.Section:
		return w.seenText(ci, i)
	}
	return w.field(c, i)
}

// said is the cell behind a value. What stands in no cell, a piece of a header, say, is
// put behind the texts of the block.
func (w *Worker) said(c *column, i int, text string) table.Cell {
	if cell, ok := w.cell(c, i); ok {
		return cell
	}
	return w.keepText([]byte(text))
}

// keepText puts a text behind those of the block.
func (w *Worker) keepText(text []byte) table.Cell {
	at := len(w.batch.Data) - table.BlockSlack
	w.batch.Data = append(append(w.batch.Data[:at], text...), make([]byte, table.BlockSlack)...)
	w.rows.Data = w.batch.Data
	return table.Cell{Off: uint32(at), End: uint32(at + len(text))}
}

// listGone puts the fact rows that are not delivered in order, skipped ones
// among them.
func (w *Worker) listGone() {
	if w.passed {
		for i, f := range w.batch.Fates {
			if f.Passed() {
				w.gone = append(w.gone, Row{Index: int32(i), Fate: f, Column: -1})
			}
		}
	}
	slices.SortFunc(w.gone, func(a, b Row) int { return int(a.Index - b.Index) })
}

// settle makes the changes of a column final and adds up its account. A number
// in a fact row that is gone counts as it was read: a gap as none, a number that
// would have been rounded as itself.
func (w *Worker) settle(ci int) {
	c, s, out, a := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci], &w.accounts[ci]
	numeric := c.spec.Kind.Numeric()
	for _, g := range s.changed {
		i := int(g.at)
		switch there := w.present(c.level, i); {
		case there && numeric:
			if d, ok := out.Decimal(i); ok {
				a.Changed.Add(d)
			}
			fallthrough
		case there:
			w.change(c, ci, i, g.kind, g.cell)
		case numeric:
			out.Numbers[i] = table.Number{}
		}
	}
	for _, r := range s.rounded {
		i := int(r.at)
		if !w.present(c.level, i) {
			continue
		}
		to := c.fit(r.read)
		out.Set(i, to)
		a.Changed.Add(to.Sub(r.read))
		w.change(c, ci, i, value.NoGap, r.cell)
	}
	w.countEmpties(ci)
	if c.measure {
		for i := range s.reads.usual {
			s.reads.addTo(&a.Read, i)
		}
		w.addUp(ci)
	}
}

// change lists a change of value i. One of a value that stands once an extract or
// wide column is listed apart: other blocks have it too.
func (w *Worker) change(c *column, ci, i int, kind value.Gap, cell table.Cell) {
	if !c.recorded() {
		return
	}
	if c.spec.Kind.Numeric() && !c.fromCells() {
		text := w.field(c, i)
		if c.made {
			text = w.made(c, i)
		}
		cell = w.keepText([]byte(text))
	}
	change := Change{Row: int32(i), Slot: -1, Column: int32(ci), Kind: kind, Cell: cell}
	switch c.level {
	case table.PerRow:
	case table.PerCell:
		change.Row, change.Slot = int32(i/w.batch.Slots), int32(i%w.batch.Slots)
	case table.PerSlot:
		change.Row, change.Slot = -1, int32(i)
		w.headChanges = append(w.headChanges, change)
		return
	default:
		change.Row = -1
		w.headChanges = append(w.headChanges, change)
		return
	}
	w.changes = append(w.changes, change)
}

// addUp sums the numbers of a measure by the fate of their fact rows. A measure
// has one number a fact row.
func (w *Worker) addUp(ci int) {
	out, a := &w.batch.Columns[ci], &w.accounts[ci]
	numbers := out.Numbers
	if len(w.gone) > 0 {
		sums := [...]*value.Sum{table.Delivered: &a.Fact, table.Skipped: &a.LeftOut, table.Dropped: &a.LeftOut, table.Held: &a.Held,
			table.Filtered: &a.LeftOut, table.Zero: &a.LeftOut, table.Repeated: &a.LeftOut, table.Summed: &a.Fact}
		for i, f := range w.batch.Fates {
			out.AddTo(sums[f], i)
		}
		return
	}
	places := uint8(w.columns[ci].reads.places)
	var usual value.Sum128
	for i := range numbers {
		n := &numbers[i]
		if n.Places == places && (n.Form == table.Copy || n.Form == table.Print) {
			usual.Add(n.Coef)
		} else {
			out.AddTo(&a.Fact, i)
		}
	}
	a.Fact.Add128(usual, int(places))
}

// sortChanges puts changes of several columns, each in order, in the order of the
// fact table: runs are merged two by two, the earlier column first.
func (w *Worker) sortChanges() {
	after := func(a, b *Change) bool { return a.Row > b.Row || a.Row == b.Row && a.Slot > b.Slot }
	var ends []int // of the runs
	for i := 1; i < len(w.changes); i++ {
		if after(&w.changes[i-1], &w.changes[i]) {
			ends = append(ends, i)
		}
	}
	ends = append(ends, len(w.changes))
	for len(ends) > 1 {
		out, from := w.merged[:0], 0
		var next []int
		for k := 0; k < len(ends); k += 2 {
			a, b := w.changes[from:ends[k]], []Change(nil)
			if from = ends[k]; k+1 < len(ends) {
				b, from = w.changes[ends[k]:ends[k+1]], ends[k+1]
			}
			for len(a) > 0 && len(b) > 0 {
				if after(&a[0], &b[0]) {
					out, b = append(out, b[0]), b[1:]
				} else {
					out, a = append(out, a[0]), a[1:]
				}
			}
			out = append(append(out, a...), b...)
			next = append(next, len(out))
		}
		w.changes, w.merged, ends = out, w.changes, next
	}
}

func (w *Worker) accountRows() {
	r := &w.rowsAccount
	r.Used = len(w.sorted.Used)
	if w.used >= 0 {
		r.Used = w.used
	}
	for _, o := range w.sorted.Out {
		switch o.Reason {
		case layout.BlankRow:
			r.Blank++
		case layout.RepeatedHeader:
			r.RepeatedHeader++
		case layout.SectionRow:
			r.Section++
		case layout.Footnote:
			r.Footnote++
		case layout.TotalRow:
			r.Total++
		case layout.SameRow:
			r.Same++
		}
	}
	r.Read = r.Used + len(w.sorted.Out)
	r.Made = len(w.batch.Fates)
	for _, g := range w.gone {
		switch g.Fate {
		case table.Skipped:
			r.Skipped++
		case table.Dropped:
			r.Dropped++
		case table.Held:
			r.Held++
		case table.Filtered:
			r.Filtered++
		case table.Zero:
			r.Zero++
		case table.Repeated, table.Summed:
			r.Repeated++
		}
	}
	r.Fact = r.Made - len(w.gone)
}
