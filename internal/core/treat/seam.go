package treat

import (
	"cmp"
	"encoding/binary"
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/plan"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// An extract may be read in pieces, by readings that know nothing of each other. What depends on the
// rows of other pieces is left open, block by block, and settled at the seams, where the pieces come
// together again: totals, and labels that stand above.

// Cuttable reports whether extracts of an entry can be read in pieces: no row takes over from those above
// it what only these tell.
func Cuttable(p *plan.Plan, e *plan.Entry) bool {
	return e.Sections == "" && e.Widen == nil && e.SameRows != plan.Drop && !slices.ContainsFunc(p.Columns, func(c *plan.Column) bool {
		return slices.ContainsFunc(c.Gaps[:], func(r plan.Rule) bool { return r.Remedy == plan.Above })
	})
}

// Strip is what a block leaves open.
type Strip struct {
	Hashes  []byte // of the used rows, for runs: eight bytes each
	Totals  []openTotal
	Columns []tie.Check // figures of total columns, which were compared
}

// openTotal is a total row, with so many used rows of its block above it.
type openTotal struct {
	Total      total
	Used       int
	Here       beginning // the end of its run, as if nothing stood above the piece
	Words      []string  // of the labels of the row above
	Currencies []string  // by measure, as far as they are known
}

// PieceEnd is what a piece of an extract leaves at its end.
type PieceEnd struct {
	Extract int
	Here    beginning
	Words   []string
	Columns columnTotals
	Labels  *labels
	Asked   []label // labels that were not found above
	Unsure  bool    // whether rows waited above the piece did not show
}

// endPiece keeps what the extract at hand leaves, if only a piece of it was read.
func (s *Shared) endPiece() {
	if s.program == nil || !s.program.Cut {
		return
	}
	above := s.above
	s.pieces = append(s.pieces, &PieceEnd{Extract: s.program.Extract, Here: s.runs.here(), Words: s.runs.words, Columns: s.columns,
		Labels: &above, Asked: s.asked, Unsure: s.unsure})
	s.program, s.above = nil, labels{}
}

// Await takes what waits in a block that stands just before the piece that is read.
func (w *Worker) Await(s *Shared, first bool) {
	s.begin(w.program)
	s.unsure = !first && w.program.Lineup.Measures() && layout.LastMeasure(w.program.Lineup, &w.rows, w.begin) < w.begin
	w.takeTail(s)
	s.above.add(w.fresh...) // which this worker does not list again
}

// leaveOpen lists what the total rows of the block would be compared with.
func (w *Worker) leaveOpen(r *runs) {
	w.strip.Hashes = w.strip.Hashes[:0]
	for _, h := range w.hashes {
		w.strip.Hashes = binary.LittleEndian.AppendUint64(w.strip.Hashes, h)
	}
	from := 0
	for i := range w.totals {
		t := &w.totals[i]
		w.addRows(r, from, t.used)
		from = t.used
		for f := range t.Figures {
			w.noteCurrency(&t.Figures[f])
		}
		for c := range t.Corners {
			w.noteCurrency(&t.Corners[c].Figure)
		}
		w.strip.Totals = append(w.strip.Totals, openTotal{*t, t.used, r.here(), r.words, slices.Clone(w.currencies)})
	}
	w.addRows(r, from, w.batch.Rows)
}

// Seam joins the pieces of an extract.
type Seam struct {
	runs       *runs
	base       beginning // of the piece at hand
	columns    columnTotals
	labels     labels
	currencies []string // by column, as the pieces before have them
}

// NewSeam joins pieces behind extracts in these currencies, by column.
func NewSeam(currencies []string) *Seam {
	s := &Seam{runs: &runs{before: []beginning{{}}, starts: map[uint64]int{0: 0}}, currencies: slices.Clone(currencies)}
	s.labels.forget()
	s.runs.leads.Reset()
	return s
}

// Add takes what the next block leaves open. It returns the figures that were compared; settled is false
// where the rows above make another of the block than its piece did, or a problem.
func (s *Seam) Add(b *Strip) (checks []tie.Check, settled bool) {
	r, from := s.runs, 0
	settled = true
	hashes := make([]uint64, len(b.Hashes)/8)
	for i := range hashes {
		hashes[i] = binary.LittleEndian.Uint64(b.Hashes[8*i:])
	}
	rows := func(to int) {
		r.uncalled(hashes[from:to], func(_, rows, start int) { settled = settled && rows-r.before[start].Rows < 2 })
		r.leads.Follow(hashes[from:to], r.hash, func(int, bool) tie.Head { return tie.Head{Digits: 2 * tie.LongFigure} })
		for _, h := range hashes[from:to] {
			r.hash += h
		}
		r.rows += to - from
		from = to
	}
	for i := range b.Totals {
		t := &b.Totals[i]
		rows(t.Used)
		settled = settled && r.leads.Complete(r.hash) == nil
		r.leads.Reset()
		if t.Here.Rows > 0 {
			r.words = t.Words
		}
		here := s.here(&t.Here)
		readable := func(f *figure) bool {
			own := cmp.Or(s.currencies[f.Measure], t.Currencies[f.Measure])
			settled = settled && f.OK && !f.foreign(own)
			return settled
		}
		if r.compare(here, &t.Total, readable, func(c tie.Check) { checks = append(checks, c) }) {
			settled = false
		}
	}
	rows(len(hashes))
	checks = append(checks, b.Columns...)
	slices.SortStableFunc(checks, func(a, b tie.Check) int { return a.Row - b.Row })
	return checks, settled
}

// here is the end of a run, of all pieces.
func (s *Seam) here(own *beginning) beginning {
	if len(s.base.Sums) == 0 {
		s.base.Sums = make([]value.Decimal, len(own.Sums))
		s.runs.before[0].Sums = s.base.Sums
	}
	all := beginning{Rows: s.base.Rows + own.Rows, Line: own.Line, Sums: make([]value.Decimal, len(own.Sums))}
	if own.Rows == 0 {
		all.Line = s.base.Line
	}
	for c := range own.Sums {
		all.Sums[c] = s.base.Sums[c].Add(own.Sums[c]).Shorten()
	}
	return all
}

// End takes what the piece at hand leaves at its end; settled is as with Add.
func (s *Seam) End(e *PieceEnd, currencies []string) (settled bool) {
	if e.Here.Rows > 0 {
		s.runs.words = e.Words
	}
	s.base = s.here(&e.Here)
	if e.Columns.Begun {
		s.columns.sift(e.Columns.Slots)
	}
	s.labels.merge(e.Labels)
	for ci, c := range currencies {
		s.currencies[ci] = cmp.Or(s.currencies[ci], c)
	}
	return !e.Unsure && !slices.ContainsFunc(e.Asked, func(l label) bool {
		may, _ := s.labels.has(l)
		return may
	})
}

// Settled reports whether all pieces together leave no problem open.
func (s *Seam) Settled() bool {
	return s.runs.leads.Complete(s.runs.hash) == nil && !slices.ContainsFunc(s.columns.Slots, func(c candidate) bool { return c.uncalled() })
}
