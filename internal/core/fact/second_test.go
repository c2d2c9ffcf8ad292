package fact_test

import (
	"math/big"
	"path"
	"slices"

	"umbau/internal/core/formula"
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
	cell    int   // that which has the cell, -1 where cells stand across
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
