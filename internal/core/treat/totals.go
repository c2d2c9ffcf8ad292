package treat

import (
	"slices"
	"sort"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/shape"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Total is a total row: its figures are compared with the rows they total, which may
// stand in other blocks.
type total struct {
	row     int // its index
	used    int // how many used rows of the block stand above it
	Line    int
	Label   string
	Alone   bool // the label says total, and nothing else
	Figures []figure
	Corners []corner // what its total columns say
}

// figure is what a total row says in a column of the extract, under a header, of a measure.
type figure struct {
	Column   int
	Header   string
	Measure  int
	Text     string
	Said     value.Decimal
	Currency string
	OK       bool // it can be read
}

// corner is what a total row says in a total column, and what its own wide cells add up
// to.
type corner struct {
	Figure figure
	Cells  []int // the columns of those
	Have   value.Sum
	Any    bool // one is filled
}

// totalColumn is a total column that can be compared: with the cells of a measure in
// some slots.
type totalColumn struct {
	shape.Column
	measure int
	slots   []int
}

// findTotals finds what each total column totals, and reports those that cannot be
// compared.
func (p *Program) findTotals() (problems place.List) {
	l := p.Lineup
	if l.Entry.Totals != plan.Tie || l.Entry.Unpivot == nil {
		return nil
	}
	for _, t := range l.Totals {
		ci, named := p.totalOf(t)
		slots := p.totalled(t.Pieces, named)
		if (ci >= 0 || l.Widen != nil) && len(slots) > 0 {
			p.totals = append(p.totals, totalColumn{t, ci, slots})
			continue
		}
		at := l.Place
		at.Row, at.Header = l.Header.Row, t.Header
		problem := place.At(at, "total", "a total column cannot be compared: it does not say which wide cells it totals").ByRule()
		problem.Plan, problem.Add = l.Entry.Pos, "others: ["+layout.FlowHeader(t.Header)+"]"
		problem.Advice = "which leaves it aside; or no_totals: [" + layout.Flow(t.Header) +
			"], if it is none; totals: drop leaves all totals out without comparing"
		problems.Add(problem)
	}
	return problems
}

// totalOf is the measure that a total column totals: the only one of wide cells, or the
// one that its header names, with the piece that does so beside the pattern of
// unpivot.cell; -1 for none.
func (p *Program) totalOf(t shape.Column) (ci int, piece string) {
	u := p.Lineup.Entry.Unpivot
	var measures []int
	for ci := range p.Columns {
		if c := &p.Columns[ci]; c.measure && c.origin >= 0 && p.Columns[c.origin].source.From == layout.WideCell {
			measures = append(measures, ci)
		}
	}
	if len(measures) == 1 {
		return measures[0], ""
	}
	find := func(name string) int {
		for _, ci := range measures {
			if layout.Claims(p.Plan.Columns[p.Columns[ci].origin], p.Lineup.Entry, name) {
				return ci
			}
		}
		return -1
	}
	if u.Cells != nil && t.Pieces != nil {
		if ci := find(key.Of(u.Cells.Write(func(piece string) string { return t.Pieces[piece] }))); ci >= 0 {
			return ci, ""
		}
	}
	for _, name := range u.Header.Fields() {
		if ci := find(key.Of(t.Pieces[name])); t.Pieces != nil && ci >= 0 {
			return ci, name
		}
	}
	return -1, ""
}

// totalled returns the slots that a total column totals: those with the same pieces in
// their headers, but for one that says total or names the measure.
func (p *Program) totalled(pieces map[string]string, named string) []int {
	var slots []int
	for i, s := range p.Slots {
		same := !s.Itself
		for name, text := range pieces {
			if name == named || p.namesCell(name) {
				continue
			}
			if !p.Lineup.Entry.Labels.Alone(text) && !key.Same(s.Pieces[name], text) {
				same = false
			}
		}
		if same {
			slots = append(slots, i)
		}
	}
	return slots
}

// namesCell reports whether a piece only names the column of the cell.
func (p *Program) namesCell(piece string) bool {
	u := p.Lineup.Entry.Unpivot
	return u.Cells != nil && u.Cells.Has(piece) && p.Plan.Column(piece) == nil
}

// suspects are the used rows that may be total rows: a total word stands in a label, or in
// a column that nothing claims.
func (w *Worker) suspects() []int {
	var out []int
	for _, ci := range w.program.labels {
		s, codes := &w.columns[ci], w.batch.Columns[ci].Codes
		if w.program.Columns[ci].source.Index >= len(w.program.Lineup.Header.Texts) || !s.total {
			continue
		}
		for i, code := range codes {
			if s.texts.marks[code]&totalMark != 0 {
				out = append(out, i)
			}
		}
	}
	l := w.program.Lineup
	for _, t := range l.Totals { // a column of figures, mostly
		for i, row := range w.sorted.Used {
			if cells := w.rows.Row(int(row)); t.Index < len(cells) {
				if text := w.rows.Text(cells[t.Index]); len(text) > 0 && (text[0] < '0' || text[0] > '9') {
					if _, among := l.Entry.Labels.Says(value.TrimText(string(text))); among {
						out = append(out, i)
					}
				}
			}
		}
	}
	for _, column := range l.Dropped {
		says := w.memory.saysTotal(w.program)
		for i, row := range w.sorted.Used {
			cells := w.rows.Row(int(row))
			if column >= len(cells) || cells[column].Off == cells[column].End {
				continue
			}
			if says.of(w.rows.Text(cells[column])) {
				out = append(out, i)
			}
		}
	}
	return out
}

// suspectCells are the used rows in whose wide cells or columns of numbers a total word
// stands.
func (w *Worker) suspectCells() []int {
	var out []int
	for ci := range w.program.Columns {
		c, s, b := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
		switch {
		case !c.fromCells():
		case c.spec.Kind.Numeric():
			for _, g := range s.gapCells {
				if g.kind == value.Blank {
					continue
				}
				if _, among := w.program.Lineup.Entry.Labels.Says(string(value.Trim(w.rows.Text(g.cell)))); among {
					row, _ := w.rowAndSlot(c.level, int(g.at))
					out = append(out, row)
				}
			}
		case c.level == table.PerCell && s.total:
			for i, code := range b.Codes {
				if s.texts.marks[code]&totalMark != 0 {
					out = append(out, i/w.batch.Slots)
				}
			}
		}
	}
	return out
}

// takeTotals takes the total rows among some used rows out of them. It reports whether
// there are any.
func (w *Worker) takeTotals(among func() []int) bool {
	l := w.program.Lineup
	if l.Entry.Totals == plan.Keep {
		return false
	}
	suspects := among()
	slices.Sort(suspects)
	var gone []int
	for _, i := range slices.Compact(suspects) {
		row := w.sorted.Used[i]
		label, is := l.TotalRow(&w.rows, int(row))
		if !is {
			continue
		}
		w.totals = append(w.totals, w.total(row, label, i))
		gone = append(gone, i)
	}
	w.leaveOut(gone, layout.TotalRow)
	return len(gone) > 0
}

// total reads a total row, above which so many used rows stand.
func (w *Worker) total(row int32, label string, used int) total {
	l := w.program.Lineup
	t := total{row: int(row), used: used, Line: w.rows.Lines[row], Label: label, Alone: l.Entry.Labels.Alone(label)}
	if l.Entry.Totals == plan.Tie && l.Widen == nil {
		t.Figures, t.Corners = w.figures(row, label), w.corners(row, label)
	}
	return t
}

// takeShortTotals takes total rows that are too short to be used.
func (w *Worker) takeShortTotals() {
	for _, row := range w.sorted.Totals {
		used, _ := slices.BinarySearch(w.sorted.Used, row)
		label, _ := w.program.Lineup.TotalRow(&w.rows, int(row))
		w.totals = append(w.totals, w.total(row, label, used))
	}
	slices.SortFunc(w.totals, func(a, b total) int { return a.Line - b.Line })
}

// leaveOut takes used rows, by their numbers in order, out of them and lists why. Labels
// that were read already go with them.
func (w *Worker) leaveOut(gone []int, reason layout.Reason) {
	if len(gone) == 0 {
		return
	}
	before := func(used int) int { return sort.SearchInts(gone, used) }
	for k := range w.totals {
		if t := &w.totals[k]; t.used > 0 {
			t.used -= before(t.used)
		}
	}
	for h := range w.sorted.Headings {
		w.sorted.Headings[h].Used -= before(w.sorted.Headings[h].Used)
	}
	kept, next := 0, 0
	for i, row := range w.sorted.Used {
		if next < len(gone) && gone[next] == i {
			w.sorted.Out = append(w.sorted.Out, layout.LeftOut{Row: int(row), Reason: reason})
			next++
			continue
		}
		w.sorted.Used[kept] = row
		for _, ci := range w.program.labels {
			codes := w.batch.Columns[ci].Codes
			codes[kept] = codes[i]
		}
		kept++
	}
	w.sorted.Used, w.batch.Rows = w.sorted.Used[:kept], kept
	for _, ci := range w.program.labels {
		w.batch.Columns[ci].Codes = w.batch.Columns[ci].Codes[:kept]
	}
	slices.SortFunc(w.sorted.Out, func(a, b layout.LeftOut) int { return a.Row - b.Row })
}

// figures are what a total row says in the columns of measures. Its label is no figure.
func (w *Worker) figures(row int32, label string) []figure {
	var out []figure
	for j := range w.rows.Row(int(row)) {
		if w.program.Lineup.Measure(j) {
			if f, filled := w.figure(row, j, label); filled {
				f.Header, f.Measure = w.program.Lineup.Header.Name(j), w.program.MeasureAt(j)
				out = append(out, f)
			}
		}
	}
	return out
}

// figure reads a cell of a total row, or of a total column.
func (w *Worker) figure(row int32, j int, label string) (f figure, filled bool) {
	l := w.program.Lineup
	text := string(value.Trim(w.rows.Text(w.rows.Row(int(row))[j])))
	if text == "" || text == label {
		return f, false
	}
	f = figure{Column: j, Text: text}
	if f.Said, f.Currency, f.OK = l.Number(&w.rows, int(row), j); f.OK {
		f.Said = f.Said.Shorten()
		return f, true
	}
	if ci := w.program.MeasureAt(j); ci >= 0 { // a piece of it may be the figure
		for c := &w.program.Columns[ci]; ; c = &w.program.Columns[c.needs[0]] {
			if c.spec.Read != nil {
				if piece, ok := c.spec.Read.Piece(text); ok {
					f.Said, f.Currency, f.OK = l.Entry.Reading.Number([]byte(piece))
					f.Said = f.Said.Shorten()
				}
			}
			if len(c.needs) == 0 {
				break
			}
		}
	}
	return f, true
}

// corners are what a total row says in the total columns.
func (w *Worker) corners(row int32, label string) []corner {
	var out []corner
	for _, t := range w.program.totals {
		if t.Index >= len(w.rows.Row(int(row))) {
			continue
		}
		f, filled := w.figure(row, t.Index, label)
		if !filled {
			continue
		}
		f.Header, f.Measure = t.Header, t.measure
		c := corner{Figure: f}
		for _, slot := range t.slots {
			column := w.program.cellOf(&w.program.Columns[t.measure], slot)
			if column < 0 {
				continue
			}
			c.Cells = append(c.Cells, column)
			if column >= len(w.rows.Row(int(row))) {
				continue
			}
			if own, filled := w.figure(row, column, label); filled {
				c.Any = true
				c.Have.Add(own.Said)
			}
		}
		out = append(out, c)
	}
	return out
}

// tieColumns compares the total columns with the wide cells of their rows.
func (w *Worker) tieColumns() {
	for _, t := range w.program.totals {
		if t.measure < 0 { // which was compared before rows became fewer
			continue
		}
		out := w.asRead(t.measure)
		for i, row := range w.sorted.Used {
			f, filled := w.figure(row, t.Index, "")
			f.Header, f.Measure = t.Header, t.measure
			if !filled || !w.readable(&f, w.rows.Lines[row]) {
				continue
			}
			var sum value.Sum
			for _, slot := range t.slots {
				out.AddTo(&sum, i*w.batch.Slots+slot)
			}
			w.checks = append(w.checks, tie.Check{Kind: tie.TotalColumn, Row: w.rows.Lines[row], Header: t.Header, Column: t.measure, Said: f.Said,
				Have: sum.Total()})
		}
	}
	slices.SortStableFunc(w.checks, func(a, b tie.Check) int { return a.Row - b.Row })
}

// foreign reports whether a figure is in another currency than an own one, if that is known.
func (f *figure) foreign(own string) bool {
	return f.OK && f.Currency != "" && own != "" && f.Currency != own
}

// noteCurrency notes the currency of a figure that is compared while that of its measure is not known.
func (w *Worker) noteCurrency(f *figure) {
	if f.OK && f.Currency != "" && w.currencies[f.Measure] == "" {
		w.unsettled = append(w.unsettled, Unsettled{f.Measure, f.Currency})
	}
}

// readable reports whether a figure can be compared with those of a measure, and stops
// where it cannot.
func (w *Worker) readable(f *figure, line int) bool {
	w.noteCurrency(f)
	foreign := f.foreign(w.currencies[f.Measure])
	if f.OK && !foreign {
		return true
	}
	at := w.program.Lineup.Place
	at.Row, at.Header = line, f.Header
	p := place.At(at, "total", "a total cannot be compared: it cannot be read as a number").ByRule()
	if foreign {
		p.Message = "a total cannot be compared: it is in another currency than column " + w.program.Columns[f.Measure].spec.Name
	}
	p.Column, p.Texts = w.program.Columns[f.Measure].spec.Name, []string{f.Text}
	p.Plan, p.Add = w.program.Lineup.Entry.Pos, "totals: drop"
	p.Advice = "which leaves totals out without comparing; or mend the figure in the extract"
	w.problems.Add(p)
	return false
}

// asRead is a column of numbers as its cells were read, whatever a rule put for them.
func (w *Worker) asRead(ci int) *table.Column {
	if s := &w.columns[ci]; s.asRead != nil {
		out := w.batch.Columns[ci]
		out.Numbers = s.asRead
		return &out
	}
	return &w.batch.Columns[ci]
}
