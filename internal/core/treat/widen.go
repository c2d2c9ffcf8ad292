package treat

import (
	"slices"
	"strconv"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// Rows that agree in all but two cells become one. All rows of an extract are
// kept until its last block, one for each that comes out: the memory grows with
// these, and with nothing else.

// widening is the rows of one extract that become fewer.
type widening struct {
	index   map[string]int   // of a row, by its other cells
	rows    table.Rows       // with the cells that are added behind those of the extract
	lines   [][]int          // the line of each added cell, 0 where there is none
	figures map[string]int   // the column that a text names, by the text; -1 for none
	named   []bool           // by column that is added: a row names it
	section string           // of the row at hand, and
	of      []layout.Heading // of each row that comes out
	used    int              // rows
	cuts    []cut
}

// cut is where total rows stand: so many of the rows that come out began above them, and whether the runs above give their figures.
type cut struct {
	rows int
	ties bool
}

// loadToWiden sorts the total rows of the block out, as far as its labels tell.
func (w *Worker) loadToWiden() {
	w.beginColumns()
	w.readWidenLabels()
	l := w.program.Lineup
	var suspects []int
	for i, row := range w.sorted.Used {
		if l.SaysTotal(&w.rows, int(row)) {
			suspects = append(suspects, i)
		}
	}
	w.takeTotals(func() []int { return suspects })
	w.takeShortTotals()
	w.noteAllLabels()
	w.batch.Fates = w.batch.Fates[:0]
}

// readWidenLabels reads the labels of the rows before they become fewer.
func (w *Worker) readWidenLabels() {
	for _, ci := range w.program.labels {
		if w.program.Columns[ci].source.Index < len(w.program.Lineup.Header.Texts) {
			w.readTexts(ci)
			continue
		}
		w.columns[ci].texts = w.memory.of(w.program, ci)
		w.batch.Columns[ci].Codes = make([]uint32, w.batch.Rows)
	}
}

// widen takes the rows of the block in; the last block brings out all of them.
func (w *Worker) widen(s *Shared) {
	if s.wide == nil {
		s.wide = &widening{index: map[string]int{}, figures: map[string]int{}, named: make([]bool, len(w.program.Lineup.Widen.Columns))}
	}
	totals := w.totals
	for i, row := range w.sorted.Used {
		for len(totals) > 0 && totals[0].used <= i {
			w.compareWidened(s, &totals[0])
			totals = totals[1:]
		}
		if h := w.sorted.Headings; len(h) > 0 && h[0].Used <= i {
			s.wide.section = w.heading(i)
		}
		w.takeRow(s, int(row))
	}
	if h := w.sorted.Headings; len(h) > 0 { // for the next block
		s.wide.section = h[len(h)-1].Text
	}
	for i := range totals {
		w.compareWidened(s, &totals[i])
	}
	used, checks := len(w.sorted.Used), w.checks
	s.wide.used += used
	out, problems := w.sorted.Out, w.problems
	lines := make([]int, w.rows.Len()) // what is left out of the block is still to be listed
	copy(lines, w.rows.Lines)
	w.sorted.Used, w.sorted.Headings = w.sorted.Used[:0], w.sorted.Headings[:0]
	rows := table.Rows{}
	if w.last {
		rows = s.wide.rows
		w.sorted.Headings = s.wide.of
		w.widened = s.wide.lines
		w.unnamed(s.wide.named, s.wide.used > 0, &problems)
	} else {
		w.widened = [][]int{}
	}
	rows.End()
	n := rows.Len()
	for i := range n {
		w.sorted.Used = append(w.sorted.Used, int32(i))
	}
	for i := range out { // rows that are left out follow the others, with no cells
		rows.Lines = append(rows.Lines, lines[out[i].Row])
		rows.Starts = append(rows.Starts, rows.Starts[len(rows.Starts)-1])
		out[i].Row = n + i
	}
	scratch := w.rows.Scratch
	w.rows = rows
	w.rows.Scratch = scratch
	w.reset()
	w.sorted.Out, w.sorted.Totals, w.problems, w.checks = out, w.sorted.Totals[:0], problems, append(w.checks, checks...)
	w.used = used
	w.loadColumns()
}

// unnamed deals with the columns that no row of the extract names: they are as ones whose
// header it lacks. The program of the block is another one then, for it is the only one
// that has rows. An extract without rows lacks nothing.
func (w *Worker) unnamed(named []bool, rows bool, problems *place.List) {
	l := w.program.Lineup
	if len(named) == 0 || !slices.Contains(named, false) {
		return
	}
	p := *w.program
	p.Columns = slices.Clone(p.Columns)
	p.labels = slices.Clone(p.labels)
	for i, c := range l.Widen.Columns {
		if named[i] {
			continue
		}
		ci := slices.Index(p.Plan.Columns, c)
		p.Columns[ci].source, p.Columns[ci].level, p.Columns[ci].origin = layout.Source{From: layout.Absent}, table.PerExtract, -1
		p.Columns[ci].measure = false
		if l.Widen.Cell < 0 {
			p.cells--
		}
		p.labels = slices.DeleteFunc(p.labels, func(k int) bool { return k == ci })
		if l.Entry.AbsentOf(c.Name) == plan.Leave || !rows {
			continue
		}
		at := l.Place
		at.Header = l.Header.Name(l.Widen.Header)
		problem := place.At(at, "missing header", "no header for column %s, and no row names it", c.Name).ByRule()
		problem.Column, problem.Plan, problem.Add = c.Name, l.Entry.Pos, "absent: { "+c.Name+": leave }"
		problem.Advice = "or name what the rows call it in headers of the column"
		problems.Add(problem)
	}
	w.program = &p
}

// compareWidened compares a total row with the rows that it totals: those that say the
// same figure.
func (w *Worker) compareWidened(s *Shared, t *total) {
	if column, ok := w.widenedColumn(s, t); ok {
		w.currencies = append(w.currencies[:0], s.currencies...)
		t.Figures, t.Corners = w.widenedFigures(int32(t.row), column, t.Label)
	}
	c := cut{len(s.wide.lines), w.compare(s.runs, t)}
	if last := len(s.wide.cuts) - 1; last >= 0 && s.wide.cuts[last].rows == c.rows {
		s.wide.cuts[last].ties = s.wide.cuts[last].ties && c.ties
		return
	}
	s.wide.cuts = append(s.wide.cuts, c)
}

// lookAtWidened looks for rows among those that came out that have the sums of others, and nobody calls totals.
func (w *Worker) lookAtWidened(s *Shared) {
	if !w.last {
		return
	}
	w.hashRows()
	w.siftColumns(&s.columns)
	r, from := newRuns(w.program), 0
	for _, c := range s.wide.cuts {
		w.lookAtRows(r, from, c.rows)
		if l := r.takeLeads(); !c.ties || w.program.Lineup.Entry.Totals == plan.Drop {
			w.askLeads(l, r)
		}
		r.begin(r.here())
		from = c.rows
	}
	w.lookAtRows(r, from, w.batch.Rows)
	w.askLeads(r.takeLeads(), r)
	w.uncalledColumns(&s.columns)
}

// widenedColumn is the column that a total row names, if it is compared.
func (w *Worker) widenedColumn(s *Shared, t *total) (column int, ok bool) {
	l, row := w.program.Lineup, w.rows.Row(t.row)
	filled := func(i int) bool {
		if i >= len(row) {
			return false
		}
		_, filled := w.figure(int32(t.row), i, t.Label)
		return filled
	}
	ofTotal := func(t totalColumn) bool { return filled(t.Index) }
	if l.Entry.Totals != plan.Tie || len(row) <= l.Widen.Header ||
		!slices.ContainsFunc(l.Widen.Cells(), filled) && !slices.ContainsFunc(w.program.totals, ofTotal) {
		return 0, false
	}
	column, ok = w.named(s.wide, value.TrimText(string(w.rows.Text(row[l.Widen.Header]))), t.row)
	return column, ok && l.Widen.Columns[column].Measure()
}

// widenedFigures are what a row says for the column that it names, and what its total columns say of that.
func (w *Worker) widenedFigures(row int32, column int, label string) (figures []figure, corners []corner) {
	l := w.program.Lineup
	first, measure := len(l.Header.Texts), slices.Index(w.program.Plan.Columns, l.Widen.Columns[column])
	read := func(i int) (figure, bool) {
		if i >= len(w.rows.Row(int(row))) {
			return figure{}, false
		}
		f, filled := w.figure(row, i, label)
		f.Header, f.Measure = l.Header.Name(i), measure
		return f, filled
	}
	for slot, i := range l.Widen.Cells() {
		if f, filled := read(i); filled {
			f.Column = first + l.Widen.At(slot, column)
			figures = append(figures, f)
		}
	}
	for _, t := range w.program.totals {
		f, filled := read(t.Index)
		if !filled {
			continue
		}
		c := corner{Figure: f}
		for _, slot := range t.slots {
			c.Cells = append(c.Cells, first+l.Widen.At(slot, column))
			if own, filled := read(l.Widen.Across[slot]); filled {
				c.Any = true
				c.Have.Add(own.Said)
			}
		}
		corners = append(corners, c)
	}
	return figures, corners
}

// tieAcross compares the total columns of a row with its cells across, for the measure that it names.
func (w *Worker) tieAcross(s *Shared, row, column int) {
	if len(w.program.totals) == 0 || !w.program.Lineup.Widen.Columns[column].Measure() {
		return
	}
	w.currencies = append(w.currencies[:0], s.currencies...)
	_, corners := w.widenedFigures(int32(row), column, "")
	for i := range corners {
		if c := &corners[i]; w.readable(&c.Figure, w.rows.Lines[row]) {
			w.checks = append(w.checks, tie.Check{Kind: tie.TotalColumn, Row: w.rows.Lines[row], Header: c.Figure.Header,
				Column: c.Figure.Measure, Said: c.Figure.Said, Have: c.Have.Total()})
		}
	}
}

// takeRow puts the cell of a row where it belongs.
func (w *Worker) takeRow(s *Shared, row int) {
	l, wide := w.program.Lineup, s.wide
	cells := w.rows.Row(row)[:len(l.Header.Texts)]
	text := func(i int) string { return string(value.Trim(w.rows.Text(cells[i]))) }
	column, ok := w.named(wide, text(l.Widen.Header), row)
	if !ok && l.Entry.Others != plan.Drop && !l.Entry.LeftAside(text(l.Widen.Header)) {
		return // which stops
	}
	k := append([]byte(wide.section), 0) // rows of two sections are two
	for i := range cells {
		if !l.Widen.Apart(i) {
			t := text(i)
			k = append(strconv.AppendInt(k, int64(len(t)), 10), ':')
			k = append(k, t...)
		}
	}
	at, known := wide.index[string(k)]
	if !known {
		at = wide.begin(&w.rows, row, l)
		wide.index[string(k)] = at
		wide.of = append(wide.of, layout.Heading{Used: at, Text: wide.section})
	}
	line := w.rows.Lines[row]
	s.runs.rows++
	s.runs.words, s.runs.line = l.Words(&w.rows, row), line
	if !ok { // a header that nothing claims: its cell is left aside
		return
	}
	wide.named[column] = true
	for slot, i := range l.Widen.Cells() {
		if d, _, ok := l.Number(&w.rows, row, i); ok {
			s.runs.sums[len(l.Header.Texts)+l.Widen.At(slot, column)].Add(d)
		}
	}
	if before := wide.lines[at][column]; before > 0 {
		here := l.Place
		here.Row, here.Header = line, l.Header.Name(l.Widen.Header)
		if l.Widen.Cell >= 0 {
			here.Header = l.Header.Name(l.Widen.Cell)
		}
		p := place.At(here, "figure twice", "two rows that agree in all other cells say the same figure").ByRule()
		p.Texts = []string{"first in row " + strconv.Itoa(before)}
		p.Plan, p.Advice = l.Entry.Widen.Pos, "mend the extract, or name the column that tells the rows apart"
		w.problems.Add(p)
		return
	}
	wide.lines[at][column] = line
	wide.put(w, row, at, column)
	w.tieAcross(s, row, column)
}

// put takes the cells of a row for a column that they go to.
func (d *widening) put(w *Worker, row, at, column int) {
	l, rows := w.program.Lineup, &d.rows
	for slot, i := range l.Widen.Cells() {
		to := int(rows.Starts[at]) + len(l.Header.Texts) + l.Widen.At(slot, column)
		cell := &rows.Cells[to]
		cell.Off = uint32(len(rows.Data))
		rows.Data = append(rows.Data, w.rows.Text(w.rows.Row(row)[i])...)
		cell.End = uint32(len(rows.Data))
		if len(rows.Kinds) > 0 {
			rows.Kinds[to] = w.rows.Kind(row, i)
		}
	}
}

// named finds the column that a text names, and reports one that names none, unless the
// plan leaves it aside.
func (w *Worker) named(wide *widening, text string, row int) (column int, ok bool) {
	l := w.program.Lineup
	column, known := wide.figures[text]
	if !known {
		column = -1
		for i, c := range l.Widen.Columns {
			if layout.Claims(c, l.Entry, key.Of(text)) {
				column = i
			}
		}
		wide.figures[text] = column
	}
	if column < 0 && l.Entry.Others != plan.Drop && !l.Entry.LeftAside(text) {
		at := l.Place
		at.Row, at.Header = w.rows.Lines[row], l.Header.Name(l.Widen.Header)
		p := place.At(at, "unexpected figure", "what the cell is names no column of the fact table").ByRule()
		p.Texts, p.Once = []string{text}, true
		p.Plan, p.Add = l.Entry.Widen.Pos, "others: drop"
		p.Advice = "or name it in headers of the column that it is"
		w.problems.Add(p)
	} else if column < 0 && l.Entry.Others == plan.Drop {
		w.doubtFigure(text, row)
	}
	return column, column >= 0
}

// doubtFigure notes a figure that is left aside, though it is nearly one of a column.
func (w *Worker) doubtFigure(text string, row int) {
	l := w.program.Lineup
	var known []string
	for _, c := range l.Widen.Columns {
		for _, header := range slices.Concat([]string{c.Name}, c.Headers, l.Entry.Headers[c.Name]) {
			known = append(known, key.Of(header))
		}
	}
	if key.Nearest(key.Of(text), known) == "" || l.Entry.LeftAside(text) {
		return
	}
	at := l.Place
	at.Row, at.Header = w.rows.Lines[row], l.Header.Name(l.Widen.Header)
	p := place.At(at, "header left aside", "rows say a figure that is left aside, and nearly one of a column: %s", place.Shorten(text))
	p.Plan = l.Entry.Widen.Pos
	p.Advice = "if it is that, name it in headers of the column; if not, others: [" + layout.FlowHeader(text) + "] says so"
	w.doubts.Add(p)
}

// begin adds a row with the cells of an extract row, and room for those of widen.
func (d *widening) begin(rows *table.Rows, row int, l *layout.Lineup) int {
	r := &d.rows
	r.Starts, r.Lines = append(r.Starts, uint32(len(r.Cells))), append(r.Lines, rows.Lines[row])
	for i, c := range rows.Row(row)[:len(l.Header.Texts)] {
		cell := table.Cell{Off: uint32(len(r.Data)), End: uint32(len(r.Data))}
		if !l.Widen.Figure(i) {
			r.Data = append(r.Data, rows.Text(c)...)
			cell.End = uint32(len(r.Data))
		}
		r.Cells = append(r.Cells, cell)
		if len(rows.Kinds) > 0 {
			r.Kinds = append(r.Kinds, rows.Kind(row, i))
		}
	}
	for range l.Width() - len(l.Header.Texts) {
		r.Cells = append(r.Cells, table.Cell{})
		if len(rows.Kinds) > 0 {
			r.Kinds = append(r.Kinds, table.TextCell)
		}
	}
	d.lines = append(d.lines, make([]int, len(l.Widen.Columns)))
	return len(d.lines) - 1
}
