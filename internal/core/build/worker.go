package build

import (
	"fmt"
	"runtime/debug"

	"umbau/internal/core/layout"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// worker turns blocks into rows of text.
type worker struct {
	run      *run
	treat    *treat.Worker
	record   record.Encoder
	encoders []Encoder
	shared   *treat.Shared
	order    *turns
	groupers []*grouper // by control
	hasher   hasher
}

func (r *run) newWorker(shared *treat.Shared, order *turns) *worker {
	w := &worker{run: r, treat: treat.NewWorker(r.plan), shared: shared, order: order}
	w.treat.Where = r.options.Where
	for _, c := range r.controls {
		w.groupers = append(w.groupers, &grouper{control: c, groups: map[string]*groupSums{}})
	}
	for _, d := range r.plan.Deliveries[:len(r.deliveries)] {
		w.encoders = append(w.encoders, r.options.NewEncoder(d.To, r.columns))
	}
	return w
}

// work does one block. A mistake in the program ends as an error of its block.
func (w *worker) work(j *job) {
	handed := false
	hand := func(do func()) {
		if !handed {
			handed = true
			w.order.take(j.number, do)
		}
	}
	defer func() {
		if p := recover(); p != nil {
			j.err = fmt.Errorf("a mistake in the program: %v\n%s", p, debug.Stack())
		}
		hand(func() {})
	}()
	t := w.treat
	if j.err = t.Read(j.program, j.source, j.block); j.err != nil {
		return
	}
	hand(func() { t.HandOver(w.shared) })
	if j.gaps = nil; w.run.options.Gaps != nil {
		j.gaps = t.GapCells()
	}
	if again := w.run.again; again != nil {
		find := again.finder(j.extract, len(j.program.Slots))
		t.Repeats = func(line, slot int) table.Fate {
			if i := find(line, slot); i >= 0 {
				return again.fates[i]
			}
			return table.Delivered
		}
	}
	t.Decide()
	w.encode(j)
}

// encode writes the block as text and copies its figures out of the worker.
func (w *worker) encode(j *job) {
	t := w.treat
	if !w.run.options.DryRun {
		j.changes = w.record.Changes(j.changes[:0], t)
		j.held = w.record.Held(j.held[:0], t)
		j.leftOut = w.record.LeftOut(j.leftOut[:0], t)
	}
	j.headChanges = j.headChanges[:0]
	for i := range t.HeadChanges {
		j.headChanges = append(j.headChanges, headChange{t.HeadChanges[i], w.record.HeadChange(nil, t, &t.HeadChanges[i])})
	}
	if w.run.again != nil && w.run.again.sums != nil {
		w.putSums(j)
	}
	t.Must()
	for i, e := range w.encoders {
		j.facts[i] = e.Encode(j.facts[i][:0], &t.Batch)
	}
	j.groups = j.groups[:0]
	for _, g := range w.groupers {
		g.add(&t.Batch)
		j.groups = append(j.groups, g.flush())
	}
	if w.run.batches != nil {
		w.run.batches(j.extract, t)
	}
	j.looked = j.looked[:0]
	if w.run.looking != nil {
		w.look(j)
	}
	j.program = t.Program             // which knows of a widened extract what no row names
	j.seen, t.Names = t.Names, j.seen // which are forgotten by the next block
	j.accounts = append(j.accounts[:0], t.Accounts...)
	j.rows = t.Account
	j.empties = append(j.empties[:0], t.Empties...)
	j.checked = append(j.checked[:0], t.Checks...)
	j.places = t.ThreePlaces()
	j.applied = append(j.applied[:0], t.Applied...)
	j.notes = j.notes[:0]
	for _, o := range t.Sorted.Out {
		if o.Reason == layout.Footnote {
			j.notes = append(j.notes, note{t.Rows.Lines[o.Row], layout.OnlyText(&t.Rows, o.Row)})
		}
	}
	j.countChanges(t.Changes)
	j.problems = t.Problems
	if w.run.grain != nil && w.run.looking == nil {
		j.grain = w.hasher.rows(j.grain[:0], w.run.grain.columns, t, j.extract)
	}
	j.head = j.head[:0]
	if w.run.options.DryRun {
		j.head = w.run.firstRows(t)
	}
}

// putSums puts sums in the place of the measures of fact rows that stand for others.
func (w *worker) putSums(j *job) {
	t, measures := w.treat, w.run.measures()
	var rows []int
	slots := t.Batch.Slots
	for at, f := range t.Batch.Fates {
		if f != table.Delivered {
			continue
		}
		g := w.run.again.sums[position(j.extract, t.Rows.Lines[t.Sorted.Used[at/slots]], at%slots, slots)]
		if g == nil {
			continue
		}
		rows = append(rows, at)
		for i, ci := range measures {
			t.PutSum(at, ci, g.sums[i].Total(), g.filled[i])
		}
	}
	if len(rows) > 0 {
		t.Rework(rows)
	}
}

// look copies the fact rows that are looked for.
func (w *worker) look(j *job) {
	t, b := w.treat, &w.treat.Batch
	find := w.run.looking.finder(j.extract, b.Slots)
	for at, f := range b.Fates {
		if f != table.Delivered || find(t.Rows.Lines[t.Sorted.Used[at/b.Slots]], at%b.Slots) < 0 {
			continue
		}
		n := len(b.Columns)
		row := lookedAt{position(j.extract, t.Rows.Lines[t.Sorted.Used[at/b.Slots]], at%b.Slots, b.Slots), make([]string, n), make([]value.Decimal, n), make([]bool, n)}
		for ci := range b.Columns {
			c := &b.Columns[ci]
			row.texts[ci] = string(b.AppendText(nil, c, at/b.Slots, at%b.Slots))
			if c.Numbers != nil {
				row.numbers[ci], row.filled[ci] = c.Decimal(c.At(at/b.Slots, at%b.Slots, b.Slots))
			}
		}
		j.looked = append(j.looked, row)
	}
}

func (j *job) countChanges(changes []treat.Change) {
	j.counts, j.numbers = j.counts[:0], j.numbers[:0]
next:
	for _, c := range changes {
		for i, k := range j.counts {
			if k.Column == c.Column && k.Kind == c.Kind {
				j.numbers[i]++
				continue next
			}
		}
		j.counts, j.numbers = append(j.counts, c), append(j.numbers, 1)
	}
}
