package build

import (
	"fmt"
	"io"
	"maps"
	"runtime/debug"
	"slices"
	"sync"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// job is one block on its way through the pipeline. The reader fills in the
// upper half, a worker the lower; then it is done and used again.
type job struct {
	number  int
	extract int
	program *treat.Program
	source  table.Source
	block   treat.Block
	buffer  []byte

	done     chan struct{}
	err      error
	facts    [][]byte // by delivery
	changes  []byte
	held     []byte
	leftOut  []byte
	seen     []names.Seen
	counts   []treat.Change // one of each kind of change, with …
	numbers  []int          // … how many there are
	accounts []tie.Account
	rows     tie.Rows
	problems place.List
	empties  []treat.Emptied
	looked   []lookedAt
	gaps     []treat.GapCell
	groups   [][]groupSums // by control
	totals   []treat.Total
	sums     []treat.Sums
	checked  []tie.Check
	notes    []note
	grain    []seenRow
	head     [][]string
}

// turns lets blocks hand over in their order.
type turns struct {
	mutex sync.Mutex
	ready sync.Cond
	next  int
}

func newTurns() *turns {
	t := &turns{}
	t.ready.L = &t.mutex
	return t
}

// take runs do when all blocks before number have had their turn.
func (t *turns) take(number int, do func()) {
	t.mutex.Lock()
	for t.next != number {
		t.ready.Wait()
	}
	t.mutex.Unlock()
	defer func() {
		t.mutex.Lock()
		t.next++
		t.mutex.Unlock()
		t.ready.Broadcast()
	}()
	do()
}

// pipeline reads all extracts and writes what becomes of them.
func (r *run) pipeline() {
	ahead := r.options.Workers + 2 // blocks under way
	r.totals = totals{}
	free := make(chan *job, ahead)
	for range ahead {
		free <- &job{done: make(chan struct{}, 1), facts: make([][]byte, max(1, len(r.deliveries)))}
	}
	jobs, ordered := make(chan *job, ahead), make(chan *job, ahead)
	r.slots = make([][]string, len(r.inputs))
	r.headers = make([]layout.Header, len(r.inputs))
	for _, in := range r.inputs {
		r.summary.entries = append(r.summary.entries, in.entry)
		r.summary.Extracts = append(r.summary.Extracts, record.Extract{File: in.file, Sheet: in.sheet, Accounts: make([]tie.Account, len(r.plan.Columns))})
	}
	shared, order := treat.NewShared(r.plan), newTurns()
	var workers sync.WaitGroup
	for range r.options.Workers {
		workers.Add(1)
		go func() {
			defer workers.Done()
			w := r.newWorker(shared, order)
			for j := range jobs {
				w.work(j)
				j.done <- struct{}{}
			}
		}()
	}
	reader := &reader{run: r, free: free, jobs: jobs, ordered: ordered}
	go reader.readAll()
	for i, d := range r.deliveries {
		r.write(d, r.options.NewEncoder(r.plan.Deliveries[i].To, r.columns).Header(r.columnNames()))
	}
	for j := range ordered {
		<-j.done
		r.take(j)
		free <- j
	}
	workers.Wait()
	// What the reader met comes first; it stopped those extracts before a block.
	problems := reader.problems
	problems.Merge(r.summary.Problems)
	r.summary.Problems = problems
}

func (r *run) columnNames() []string {
	var out []string
	for _, i := range r.columns {
		out = append(out, r.plan.Columns[i].Name)
	}
	return out
}

// reader reads the extracts one after another and deals out their blocks.
type reader struct {
	run      *run
	free     chan *job
	jobs     chan<- *job
	ordered  chan<- *job
	number   int
	bytes    int64
	all      int64
	problems place.List
}

func (rd *reader) readAll() {
	defer close(rd.jobs)
	defer close(rd.ordered)
	for _, in := range rd.run.inputs {
		rd.all += in.table.Size
	}
	for i := range rd.run.inputs {
		if rd.run.ctx.Err() != nil {
			return
		}
		in := &rd.run.inputs[i]
		if err := rd.readExtract(i, in); err != nil {
			rd.problems.Add(table.Problem(in.place(), err))
		}
	}
}

// count tells the progress how many bytes were read.
func (rd *reader) count(n int) {
	rd.bytes += int64(n)
	if p := rd.run.options.Progress; p != nil {
		p(rd.bytes, rd.all)
	}
}

// readExtract deals out the blocks of an extract. One is always held back, so
// that the last one is known.
func (rd *reader) readExtract(extract int, in *input) error {
	e := in.entry
	source, err := in.table.Open(table.Reading{Encoding: e.Encoding, Delimiter: e.Delimiter, Count: rd.count})
	if err != nil {
		return err
	}
	defer source.Close()
	held, err := rd.next(source)
	if err == io.EOF {
		p := place.At(in.place(), "empty file", "the file is empty; it has no header").ByRule()
		p.Advice = "was it saved? leave it out with except if it is meant to be empty"
		if in.sheet != "" {
			p.Message, p.Advice = "the sheet is empty; it has no header", "leave it out with except_sheets if it is meant to be empty"
		}
		p.Plan = e.Pos
		rd.problems.Add(p)
		return nil
	}
	if err != nil {
		return err
	}
	program, err := rd.begin(extract, in, source, held)
	if program == nil {
		rd.free <- held
		return err
	}
	for rd.run.ctx.Err() == nil {
		j, err := rd.next(source)
		held.extract, held.program, held.source, held.number = extract, program, source, rd.number
		held.block.Last = err != nil
		rd.number++
		rd.jobs <- held
		rd.ordered <- held
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
		held = j
	}
	rd.free <- held
	return nil
}

// next reads a block into a free job.
func (rd *reader) next(source table.Source) (*job, error) {
	j := <-rd.free
	b, err := source.Next(j.buffer)
	if err != nil {
		rd.free <- j
		return nil, err
	}
	j.buffer = b.Data[:0]
	j.block = treat.Block{Block: b}
	return j, nil
}

// mostHead is how many bytes are looked at for the header at most.
const mostHead = 16 << 20

// begin looks for the header in the first blocks, which it joins to one, and
// makes the plan ready for the extract. It returns nil where the extract cannot
// be used.
func (rd *reader) begin(extract int, in *input, source table.Source, j *job) (*treat.Program, error) {
	p, e := rd.run.plan, in.entry
	finder := layout.NewFinder(p, e)
	var rows, within table.Rows
	var at int
	for {
		rows.Reset()
		if err := source.Split(j.block.Block, &rows); err != nil {
			return nil, err
		}
		within = rows
		layout.Crop(&within, e.Area)
		if e.Header.None {
			break
		}
		var sure bool
		at, sure = finder.Find(&within)
		if sure || len(j.block.Data) > mostHead {
			break
		}
		more, err := source.Next(nil)
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		n := len(j.block.Data)
		j.block.Data = append(j.block.Data[:n:n], more.Data...)
	}
	header, ok := rd.header(in, &within, at)
	if !ok {
		return nil, nil
	}
	j.block.Begin = 0
	for j.block.Begin < rows.Len() && rows.Lines[j.block.Begin] <= header.Row {
		j.block.Begin++
	}
	fields := maps.Clone(in.fields)
	top := j.block.Begin - 1 // of the header, as far as titles are concerned
	for top > 0 && len(e.Header.Above) > 0 && rows.Lines[top] > e.Header.Above[0] {
		top--
	}
	titles, problems := layout.Titles(e, &rows, max(0, top), in.place())
	maps.Copy(fields, titles)
	lineup, unmatched := layout.LineUp(p, e, header, fields, in.place())
	problems.Merge(unmatched)
	if len(problems) > 0 {
		rd.problems.Merge(problems)
		return nil, nil
	}
	program, more := treat.NewProgram(p, lineup, rd.run.books)
	if len(more) > 0 {
		rd.problems.Merge(more)
		return nil, nil
	}
	rd.run.summary.Extracts[extract].Measures = program.Measures()
	rd.run.headers[extract] = lineup.Header
	for _, s := range program.Slots {
		rd.run.slots[extract] = append(rd.run.slots[extract], s.Header)
	}
	return program, nil
}

// header reads the header row that was found, and reports one that was not.
func (rd *reader) header(in *input, rows *table.Rows, at int) (layout.Header, bool) {
	e := in.entry
	first := 0
	if e.Area != nil {
		first = e.Area.FirstColumn
	}
	if e.Header.None {
		width := 0
		for i := range rows.Len() {
			width = max(width, len(rows.Row(i)))
		}
		return layout.Lettered(width, first), true
	}
	if at < 0 {
		p := place.At(in.place(), "no header", "there is no header row").ByRule()
		if e.Header.Row > 0 {
			p = place.At(in.place(), "no header", "row %d, which the plan says is the header, is blank or not there", e.Header.Row).ByRule()
		} else if e.Area == nil {
			p = place.At(in.place(), "empty file", "the file is empty; it has no header").ByRule()
		}
		p.Plan, p.Advice = e.Pos, "leave it out with except if it is meant to be empty"
		rd.problems.Add(p)
		return layout.Header{}, false
	}
	h := layout.ReadHeader(rows, at, first)
	raw := len(rows.Row(at))
	if len(e.Header.Above) > 0 {
		var above []int
		for i := range at {
			if slices.Contains(e.Header.Above, rows.Lines[i]) {
				above = append(above, i)
			}
		}
		h.AddGroups(rows, above)
	}
	if in.sheet != "" || e.FillShort {
		raw = 1 << 14
	}
	h.Widen(min(raw, layout.ClaimedLetters(rd.run.plan, e, first)))
	return h, true
}

// worker turns blocks into rows of text.
type worker struct {
	run      *run
	treat    *treat.Worker
	record   record.Encoder
	encoders []Encoder
	shared   *treat.Shared
	order    *turns
	groupers []*grouper // by control
	scratch  []byte
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
	if w.run.again != nil && w.run.again.sums != nil {
		w.putSums(j)
	}
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
	j.seen = append(j.seen[:0], t.Names...)
	j.accounts = append(j.accounts[:0], t.Accounts...)
	j.rows = t.Account
	j.empties = append(j.empties[:0], t.Empties...)
	j.copyTotals(t)
	j.notes = j.notes[:0]
	for _, o := range t.Sorted.Out {
		if o.Reason == layout.Footnote {
			j.notes = append(j.notes, note{t.Rows.Lines[o.Row], layout.OnlyText(&t.Rows, o.Row)})
		}
	}
	j.countChanges(t.Changes)
	j.problems = t.Problems
	if w.run.grain != nil && w.run.looking == nil {
		j.grain = w.run.grain.hashRows(j.grain[:0], t, j.extract, &w.scratch)
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

// take adds what a block brings to the whole, in the order of the blocks.
func (r *run) take(j *job) {
	e := &r.summary.Extracts[j.extract]
	for _, row := range j.looked {
		r.looked(row)
	}
	if j.err != nil {
		r.fail(table.Problem(place.Place{File: e.File, Sheet: e.Sheet}, j.err))
		j.err = nil
		return
	}
	for _, g := range j.gaps {
		r.options.Gaps(g)
	}
	for i, d := range r.deliveries {
		r.write(d, j.facts[i])
	}
	r.write(r.record[record.ChangesFile], j.changes)
	r.write(r.record[record.HeldFile], j.held)
	r.write(r.record[record.LeftOutFile], j.leftOut)
	for _, s := range j.seen {
		r.summary.Names.Add(s)
	}
	for i := range j.counts {
		r.summary.countChange(r.plan, j.counts[i], j.numbers[i])
	}
	for _, m := range j.empties {
		r.summary.countEmpty(m)
	}
	for _, m := range j.program.Measures() {
		e.Accounts[m].Merge(&j.accounts[m])
	}
	e.Rows.Merge(j.rows)
	r.summary.Problems.Merge(j.problems)
	r.checkTotals(j)
	for _, n := range j.notes {
		r.summary.addNote(e, n)
	}
	for i, c := range r.controls {
		c.merge(j.groups[i])
	}
	if r.grain != nil && r.looking == nil {
		r.grain.add(j.grain)
	}
	if r.options.DryRun && len(r.summary.Head) < headRows {
		r.summary.Head = append(r.summary.Head, j.head[:min(len(j.head), headRows-len(r.summary.Head))]...)
	}
}

// headRows is how many fact rows a dry run shows.
const headRows = 10

// firstRows returns the first fact rows of a block as texts.
func (r *run) firstRows(t *treat.Worker) [][]string {
	var head [][]string
	b := &t.Batch
	for at, f := range b.Fates {
		if len(head) == headRows {
			break
		}
		if f != table.Delivered {
			continue
		}
		var row []string
		for _, ci := range r.columns {
			row = append(row, string(b.AppendText(nil, &b.Columns[ci], at/b.Slots, at%b.Slots)))
		}
		head = append(head, row)
	}
	return head
}

// placeOf turns a position back into a place.
func (r *run) placeOf(position uint64) place.Place {
	extract := int(position >> 42)
	within := int(position & (1<<42 - 1))
	e := &r.summary.Extracts[extract]
	headers := r.slots[extract]
	return place.Place{File: e.File, Sheet: e.Sheet, Row: within / len(headers), Header: headers[within%len(headers)]}
}

func joined(words []string) string {
	if len(words) == 1 {
		return words[0]
	}
	out := words[0]
	for i, w := range words[1:] {
		if i == len(words)-2 {
			out += " and " + w
		} else {
			out += ", " + w
		}
	}
	return out
}
