package treat

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/plan"
	"umbau/internal/core/shape"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Total is a total row: its figures wait to be compared with the rows they
// total, which may stand in other blocks.
type Total struct {
	Line    int
	Label   string
	Figures []Figure
	used    int // how many used rows of the block stand above it
}

// Figure is one number of a total row, in a column of the extract.
type Figure struct {
	Column int
	Said   value.Decimal
}

// Sums are the sums of used rows, by column of the extract that holds a measure.
type Sums struct {
	Rows    int
	Columns []value.Sum
}

// totalTexts are the texts of a column that nothing claims, and which of them
// say total.
type totalTexts struct {
	*table.Dict
	says []totalSays
}

// totalSays is what a text says of totals.
type totalSays struct {
	alone, among bool
	label, known bool // whether it is a label, once that was asked
}

func saysTotal(text string) totalSays {
	alone, among := value.Total(text)
	return totalSays{alone: alone, among: among}
}

// isLabel reports whether the text is one: no gap, number or date.
func (s *totalSays) isLabel(text string, r *value.Reading) bool {
	if !s.known {
		s.label, s.known = text != "" && (s.among || r.IsLabel(text)), true
	}
	return s.label
}

// takeTotals takes the total rows out of the used ones. A row with a label of
// total words alone is one; so is a row whose only label has a total word among
// others and is in no book.
func (w *Worker) takeTotals() {
	l := w.Program.Lineup
	if l.Entry.Totals == plan.Keep {
		return
	}
	kept := 0
	for i, row := range w.Sorted.Used {
		label, total := w.totalRow(i, row)
		if !total {
			w.keep(kept, i)
			kept++
			continue
		}
		w.Sorted.Out = append(w.Sorted.Out, layout.LeftOut{Row: int(row), Reason: layout.TotalRow})
		if l.Entry.Totals == plan.Tie {
			w.Totals = append(w.Totals, Total{Line: w.Rows.Lines[row], Label: label, Figures: w.figures(row), used: kept})
		}
		for h := range w.Sorted.Headings {
			if w.Sorted.Headings[h].Used > kept {
				w.Sorted.Headings[h].Used--
			}
		}
	}
	w.Sorted.Used, w.Batch.Rows = w.Sorted.Used[:kept], kept
	for ci := range w.Program.Columns {
		if c := &w.Program.Columns[ci]; !c.spec.Kind.Numeric() && c.level == table.PerRow && !c.made {
			w.Batch.Columns[ci].Codes = w.Batch.Columns[ci].Codes[:kept]
		}
	}
	slices.SortFunc(w.Sorted.Out, func(a, b layout.LeftOut) int { return a.Row - b.Row })
}

// takeShortTotals takes total rows that are too short to be used.
func (w *Worker) takeShortTotals() {
	if w.Program.Lineup.Entry.Totals != plan.Tie {
		return
	}
	for _, row := range w.Sorted.Totals {
		used, _ := slices.BinarySearch(w.Sorted.Used, row)
		w.Totals = append(w.Totals, Total{Line: w.Rows.Lines[row], Label: layout.OnlyText(&w.Rows, int(row)), Figures: w.figures(row), used: used})
	}
	slices.SortFunc(w.Totals, func(a, b Total) int { return a.Line - b.Line })
}

// keep moves used row i, and its texts, to a place before it.
func (w *Worker) keep(to, i int) {
	w.Sorted.Used[to] = w.Sorted.Used[i]
	for ci := range w.Program.Columns {
		if c := &w.Program.Columns[ci]; !c.spec.Kind.Numeric() && c.level == table.PerRow && !c.made {
			codes := w.Batch.Columns[ci].Codes
			codes[to] = codes[i]
		}
	}
}

// totalRow reports whether used row i is a total row, and by which label.
func (w *Worker) totalRow(i int, row int32) (label string, total bool) {
	labels, among := 0, ""
	for ci := range w.Program.Columns {
		c := &w.Program.Columns[ci]
		if c.source.From != layout.Label || c.spec.Kind.Numeric() {
			continue
		}
		in := w.columns[ci].texts.of(w.Batch.Columns[ci].Codes[i])
		switch {
		case in.total.alone:
			return in.text, true
		case in.total.isLabel(in.text, c.reading):
			labels++
			if in.total.among && !known(c, in.text) {
				among = in.text
			}
		}
	}
	cells := w.Rows.Row(int(row))
	for _, column := range w.Program.Lineup.Dropped {
		if column >= len(cells) || cells[column].Off == cells[column].End {
			continue
		}
		t := w.dropped[column]
		if t == nil {
			t = &totalTexts{Dict: table.NewDict()}
			w.dropped[column] = t
		} else if t.Full() {
			*t = totalTexts{Dict: t.Next()}
		}
		code, fresh := t.Code(w.Rows.Text(cells[column]))
		if fresh {
			t.says = append(t.says, saysTotal(value.TrimText(t.Seen(code))))
		}
		says := &t.says[code]
		text := t.Seen(code)
		switch {
		case says.alone:
			return text, true
		case says.isLabel(value.TrimText(text), &w.Program.Lineup.Entry.Reading):
			labels++
			if says.among {
				among = text
			}
		}
	}
	return among, among != "" && labels == 1
}

// known reports whether a text is in the column's book.
func known(c *column, text string) bool {
	if c.book == nil {
		return false
	}
	_, _, ok := c.book.Find(text)
	return ok
}

// figures are the numbers of a total row in the columns of measures.
func (w *Worker) figures(row int32) []Figure {
	var out []Figure
	for j := range w.Rows.Row(int(row)) {
		if !w.Program.Lineup.Measure(j) {
			continue
		}
		if d, ok := w.Program.Lineup.Number(&w.Rows, int(row), j); ok {
			out = append(out, Figure{j, d.Shorten()})
		}
	}
	return out
}

// addSums adds up what stands between the total rows of the block, as it was
// read.
func (w *Worker) addSums() {
	l := w.Program.Lineup
	w.Sums = w.Sums[:0]
	if l.Entry.Totals != plan.Tie || !l.Measures() || l.Widen != nil {
		return
	}
	from := 0
	for k := 0; k <= len(w.Totals); k++ {
		to := w.Batch.Rows
		if k < len(w.Totals) {
			to = w.Totals[k].used
		}
		sums := Sums{Rows: to - from, Columns: w.sumsOf(k)}
		for ci := range w.Program.Columns {
			c, out := &w.Program.Columns[ci], &w.Batch.Columns[ci]
			places := c.places()
			switch {
			case !c.measure:
			case len(w.Totals) == 0: // all of the block
				reads := &w.columns[ci].reads
				for slot := range reads.usual {
					if column := c.cellColumn(w.Program, slot); column >= 0 {
						reads.addTo(&sums.Columns[column], slot, places)
					}
				}
			case c.level == table.PerCell:
				for slot := range w.Program.Slots {
					if column := c.cellColumn(w.Program, slot); column >= 0 {
						addEvery(&sums.Columns[column], out, from*w.Batch.Slots+slot, to*w.Batch.Slots, w.Batch.Slots, places)
					}
				}
			default:
				addEvery(&sums.Columns[c.source.Index], out, from, to, 1, places)
			}
		}
		w.Sums = append(w.Sums, sums)
		from = to
	}
}

// sumsOf returns empty sums, from the ones of the block before where it can.
func (w *Worker) sumsOf(k int) []value.Sum {
	n := len(w.Program.Lineup.Header.Texts)
	if k < len(w.spare) && len(w.spare[k]) == n {
		clear(w.spare[k])
		return w.spare[k]
	}
	for len(w.spare) <= k {
		w.spare = append(w.spare, nil)
	}
	w.spare[k] = make([]value.Sum, n)
	return w.spare[k]
}

// addEvery adds every step-th number from one index up to another.
func addEvery(s *value.Sum, c *table.Column, from, to, step, places int) {
	var usual value.Sum128
	for i := from; i < to; i += step {
		if n := &c.Numbers[i]; int(n.Places) == places && (n.Form == table.Copy || n.Form == table.Print) {
			usual.Add(n.Coef)
		} else {
			c.AddTo(s, i)
		}
	}
	s.Add128(usual, places)
}

// tieColumns compares the total columns with the wide cells of their rows.
func (w *Worker) tieColumns() {
	w.Checks = w.Checks[:0]
	l := w.Program.Lineup
	if l.Entry.Totals != plan.Tie || len(l.Totals) == 0 || l.Entry.Unpivot == nil {
		return
	}
	for _, t := range l.Totals {
		ci := w.totalOf(t)
		if ci < 0 {
			continue
		}
		out, slots := &w.Batch.Columns[ci], w.totalled(t.Pieces)
		for i, row := range w.Sorted.Used {
			said, ok := l.Number(&w.Rows, int(row), t.Index)
			if !ok {
				continue
			}
			var sum value.Sum
			for _, slot := range slots {
				out.AddTo(&sum, i*w.Batch.Slots+slot)
			}
			w.Checks = append(w.Checks, tie.Check{Kind: tie.TotalColumn, Row: w.Rows.Lines[row], Header: t.Header, Column: ci, Said: said.Shorten(), Have: sum.Total()})
		}
	}
	slices.SortStableFunc(w.Checks, func(a, b tie.Check) int { return a.Row - b.Row })
}

// totalOf is the measure that a total column totals: the only one of wide cells,
// or the one that its header names; -1 for none.
func (w *Worker) totalOf(t shape.Column) int {
	u := w.Program.Lineup.Entry.Unpivot
	name := ""
	if u.Cells != nil {
		name = key.Of(u.Cells.Write(func(piece string) string { return t.Pieces[piece] }))
	}
	for ci := range w.Program.Columns {
		c := &w.Program.Columns[ci]
		if c.source.From == layout.WideCell && c.measure && (u.Cells == nil || layout.Claims(c.spec, w.Program.Lineup.Entry, name)) {
			return ci
		}
	}
	return -1
}

// totalled returns the slots that a total column totals: those with the same
// pieces in their headers but for the one that says total.
func (w *Worker) totalled(pieces map[string]string) []int {
	var slots []int
	for i, s := range w.Program.Slots {
		same := !s.Itself
		for name, text := range pieces {
			if w.names(name) {
				continue
			}
			if !value.TotalAlone(text) && !key.Same(s.Pieces[name], text) {
				same = false
			}
		}
		if same {
			slots = append(slots, i)
		}
	}
	return slots
}

// names reports whether a piece only names the column of the cell.
func (w *Worker) names(piece string) bool {
	u := w.Program.Lineup.Entry.Unpivot
	return u.Cells != nil && u.Cells.Has(piece) && w.Program.Plan.Column(piece) == nil
}
