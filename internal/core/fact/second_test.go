package fact_test

import (
	"math/big"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/formula"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// The second reading: a plan carried out row by row, with lists and rational numbers, in
// the order in which the manual tells it. It shares with the build what one number, date,
// key, pattern, book and formula is, and nothing of how rows are found, sorted, turned,
// decided, compared and counted. It is slow, and as plain as it can be.

// sheet is a table as a person sees it: all of its rows, blank ones too.
type sheet struct {
	file, name string // name of a sheet, "" of a text file
	rows       [][]cell
}

type cell struct {
	text string
	kind table.CellKind
}

func (c cell) trimmed() string { return value.TrimText(c.text) }
func (c cell) filled() bool    { return c.trimmed() != "" || c.kind == table.FormulaCell }

// val is the value of a column in one fact row or more: units share it.
type val struct {
	gap     value.Gap
	raw     string // as it stands, trimmed
	text    string // of a text: as delivered
	num     *value.Decimal
	read    *value.Decimal // of a number: as its cell was read
	line    int            // of its cell, 0 for none
	header  string
	cells   bool   // it comes from cells
	stored  string // the number that its sheet stores
	absent  bool
	open    bool // nobody has decided it
	first   bool // a name that its first spelling decides
	unknown bool
	how     names.How
	name    bool
	kind    string // of the change
	facts   []*factRow
	fixed   bool   // corrected
	was     string // before that
}

type factRow struct {
	line   int
	slot   string // header of its wide cell
	vals   []*val
	fate   string // "" for delivered
	column int
	reason string
	row    []cell
	x      *reading
	moved  bool   // a rule stops it
	over   []*val // of a row that stands for others: what it has in the fact table
}

// final are the values as they are delivered.
func (f *factRow) final() []*val {
	if f.over != nil {
		return f.over
	}
	return f.vals
}

// reading is one extract under its entry.
type reading struct {
	e       *plan.Entry
	s       *sheet
	header  []string
	at      int // index of the header row
	source  []source
	slots   []slot
	totals  []slot
	dropped []int
	measure map[int]int // column of the sheet → measure
	asked   bool        // a row that has the sums of those above it was asked about
	facts   []*factRow
	vals    []*val // in order, each once
	count   map[string]int
	read    map[int]*big.Rat
	figure  int   // of widen: the column that names, and
	cell    int   // that which has the cell
	foreign []int // measures with an amount in another currency than the first
}

type source struct {
	from  string // "", constant, label, piece, cell, section, made
	text  string
	index int
}

type slot struct {
	header string
	pieces map[string]string
	cells  map[int]int // column of the plan → column of the sheet
}

type second struct {
	p        *plan.Plan
	books    []*names.Book
	problems map[string]int
	readings []*reading
	currency []string
	firsts   []map[string]string
	checks   []string
	leftOut  []string
	changes  []string
	machine  *formula.Machine
	fixes    map[string][2]string // file, sheet, row, header → was, value
	used     map[string]bool
	mixed    bool // a measure has several currencies in rows alone that are no fact rows
}

func newSecond(p *plan.Plan, books []*names.Book) *second {
	s := &second{p: p, books: books, problems: map[string]int{}, machine: formula.NewMachine(p.Calendar), fixes: map[string][2]string{},
		used: map[string]bool{}}
	for _, c := range p.Columns {
		s.currency, s.firsts = append(s.currency, c.Currency), append(s.firsts, map[string]string{})
	}
	return s
}

func (s *second) stop(what, column string, n int) { s.problems[what+"|"+column] += n }

func (s *second) known(label string) bool {
	return slices.ContainsFunc(s.books, func(b *names.Book) bool {
		if b == nil {
			return false
		}
		_, _, ok := b.Find(label)
		return ok
	})
}

// extract reads one table.
func (s *second) extract(e *plan.Entry, t *sheet, fields map[string]string) {
	r := &reading{e: e, s: t, measure: map[int]int{}, count: map[string]int{}, read: map[int]*big.Rat{}, figure: -1, cell: -1}
	s.readings = append(s.readings, r)
	if !s.findHeader(r) || !s.lineUp(r, fields) {
		return
	}
	s.correct(r)
	used, headings := s.sortRows(r)
	if e.Widen != nil {
		s.widen(r, used, headings)
	} else {
		used = s.tie(r, used)
		s.take(r, used, headings)
	}
}

// widened is a row that widen makes of others.
type widened struct {
	row   []cell
	i     int
	cells map[int]cell
	lines map[int]int
}

// widening makes one row of those that agree in all other cells.
type widening struct {
	*second
	r     *reading
	list  []*widened
	index map[string]*widened
	named map[int]bool // columns that rows name
	runs  *runs
	last  usedRow
	cuts  map[int]bool // total rows stand below so many of the list: all of them tie
}

func (s *second) widen(r *reading, rows []usedRow, headings map[int]string) {
	w := &widening{second: s, r: r, index: map[string]*widened{}, named: map[int]bool{}, runs: newRuns(), cuts: map[int]bool{}}
	for _, u := range rows {
		if u.total != "" {
			ties, known := w.cuts[len(w.list)]
			w.cuts[len(w.list)] = w.total(u) && (ties || !known)
			w.runs.end()
		} else {
			w.take(u, headings[u.i])
		}
	}
	for ci, c := range s.p.Columns {
		if r.source[ci].from == "figure" && !w.named[ci] {
			r.source[ci].from = ""
			delete(r.read, ci)
			if r.e.AbsentOf(c.Name) != plan.Leave && r.count["used"] > 0 {
				s.stop("missing header", c.Name, 1)
			}
		}
	}
	w.uncalled()
	above := map[string]*val{}
	for _, one := range w.list {
		s.row(r, one.i, one.row, headings[one.i], above, func(ci int) (cell, int) {
			line := one.lines[ci]
			if line == 0 {
				line = one.i + 1
			}
			return one.cells[ci], line
		})
	}
}

// find is the column that the text of a row names.
func (w *widening) find(text string) int {
	found := -1
	for ci := range w.p.Columns {
		if w.r.source[ci].from == "figure" && slices.Contains(w.keys(w.r, ci), key.Of(text)) {
			found = ci
		}
	}
	if found < 0 && w.r.e.Others != plan.Drop {
		w.stop("unexpected figure", "", 1)
	}
	return found
}

// total compares a total row with those above it, and reports whether these do not say another figure.
func (w *widening) total(u usedRow) bool {
	row, r := w.r.s.rows[u.i], w.r
	if r.e.Totals != plan.Tie || len(row) <= max(r.cell, r.figure) {
		return true
	}
	c := row[r.cell]
	if c.trimmed() == "" || c.trimmed() == u.total {
		return true
	}
	ci := w.find(row[r.figure].trimmed())
	if ci < 0 || !w.p.Columns[ci].Measure() {
		return true
	}
	d, currency, ok := r.number(c)
	if !ok || currency != "" && w.currency[ci] != "" && currency != w.currency[ci] {
		w.stop("total", w.p.Columns[ci].Name, 1)
		return true
	}
	best, agree := w.runs.best(map[int]*big.Rat{ci: rational(d)})
	w.check("total row", r, u.i, r.cell, ci, rational(d), w.runs.since(best, ci))
	if agree == 1 && w.runs.n-w.runs.marks[best].n == 1 && !r.e.Labels.Alone(u.total) && !w.shares(r, u.total, r.s.rows[w.last.i]) {
		w.stop("total or none", "", 1)
	}
	return agree == 1
}

// take puts a row to those that it agrees with.
func (w *widening) take(u usedRow, heading string) {
	row, r := w.r.s.rows[u.i], w.r
	ci := w.find(row[r.figure].trimmed())
	if ci < 0 && r.e.Others != plan.Drop {
		return
	}
	w.runs.n++
	w.last = u
	parts := []string{heading} // rows of two sections are two
	for j := range r.header {
		if j != r.figure && j != r.cell {
			parts = append(parts, row[j].trimmed())
		}
	}
	k := strings.Join(parts, "\x00")
	one := w.index[k]
	if one == nil {
		one = &widened{row: slices.Clone(row), i: u.i, cells: map[int]cell{}, lines: map[int]int{}}
		one.row[r.figure], one.row[r.cell] = cell{}, cell{}
		w.index[k] = one
		w.list = append(w.list, one)
	}
	if ci < 0 {
		return
	}
	w.named[ci] = true
	if d, _, ok := r.number(row[r.cell]); ok {
		w.runs.add(ci, rational(d))
	}
	if _, twice := one.lines[ci]; twice {
		w.stop("figure twice", "", 1)
		return
	}
	one.cells[ci], one.lines[ci] = row[r.cell], u.i+1
}

func (s *second) take(r *reading, used []usedRow, headings map[int]string) {
	last := map[string]*val{}
	for _, u := range used {
		s.row(r, u.i, r.s.rows[u.i], headings[u.i], last, nil)
	}
}

// name of a table, as the account calls it.
func (t *sheet) account() string {
	if t.name != "" {
		return t.file + ", sheet " + t.name
	}
	return path.Clean(t.file)
}

// uncalled looks for rows that came out and have the sums of others.
func (w *widening) uncalled() {
	if w.r.e.Totals == plan.Keep || len(w.r.measure) == 0 {
		return
	}
	r := *w.r
	r.measure = map[int]int{}
	own, t := slices.Clone(w.currency), newRuns()
	var below []leadingRow
	for k := 0; k <= len(w.list); k++ {
		if ties, cut := w.cuts[k]; cut {
			if !ties || r.e.Totals == plan.Drop {
				w.leading(&r, below)
			}
			below = nil
			t.end()
		}
		if k == len(w.list) {
			break
		}
		one := w.list[k]
		cells := make([]cell, len(w.p.Columns)) // as if each column of the plan were one of the sheet
		for ci, c := range w.p.Columns {
			if r.source[ci].from == "figure" && c.Measure() {
				cells[ci], r.measure[ci] = one.cells[ci], ci
			}
		}
		f := w.figures(&r, cells, own)
		w.second.uncalled(&r, one.row, f, t)
		below = append(below, leadingRow{one.row, f})
		for j, d := range f {
			t.add(j, d)
		}
		t.n++
	}
	w.leading(&r, below)
}
