package build

import (
	"sync"

	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
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

	done        chan struct{}
	err         error
	facts       [][]byte // by delivery
	changes     []byte
	headChanges []headChange
	held        []byte
	leftOut     []byte
	seen        []names.Seen
	counts      []treat.Change // one of each kind of change, with …
	numbers     []int          // … how many there are
	accounts    []tie.Account
	rows        tie.Rows
	problems    place.List
	empties     []treat.Emptied
	looked      []lookedAt
	gaps        []treat.GapCell
	groups      [][]groupSums // by control
	checked     []tie.Check
	applied     []int // corrections
	places      []treat.Places
	notes       []note
	grain       []seenRow
	head        [][]string
}

// headChange is a change of a value that stands above the rows, and its line of
// changes.csv. All blocks of an extract have it, if they deliver a fact row of it.
type headChange struct {
	treat.Change
	line []byte
}

// headKey tells such changes apart.
type headKey struct{ extract, column, slot int }

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
	r.places = map[[2]int]treat.Places{}
	r.headChanges, r.cells = map[headKey]bool{}, map[place.Place][]readCells{}
	ahead := r.options.Workers + 2 // blocks under way
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
	r.shared = shared
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

// take adds what a block brings to the whole, in the order of the blocks.
func (r *run) take(j *job) {
	e := &r.summary.Extracts[j.extract]
	for _, row := range j.looked {
		r.looked(row)
	}
	if j.err != nil {
		r.fail(r.inputs[j.extract].unreadable(j.err))
		j.err = nil
		return
	}
	for _, g := range j.gaps {
		r.options.Gaps(g)
	}
	for i, d := range r.deliveries {
		r.write(d, j.facts[i])
	}
	for i := range j.headChanges {
		a := &j.headChanges[i]
		k := headKey{j.extract, int(a.Column), int(a.Slot)}
		if !r.headChanges[k] {
			r.headChanges[k] = true
			r.write(r.record[record.ChangesFile], a.line)
			r.summary.countChange(r.plan, a.Change, 1)
		}
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
	if j.block.Last {
		e.Measures = j.program.Measures()
	}
	for _, m := range j.program.Measures() {
		e.Accounts[m].Merge(&j.accounts[m])
	}
	e.Rows.Merge(j.rows)
	r.summary.Problems.Merge(j.problems)
	for _, c := range j.checked {
		r.check(e, c)
	}
	for _, p := range j.places {
		s := r.places[[2]int{j.extract, p.Column}]
		r.places[[2]int{j.extract, p.Column}] = treat.Places{Column: p.Column, Three: s.Three + p.Three, Other: s.Other || p.Other}
	}
	for _, i := range j.applied {
		r.corrections[i].applied = true
	}
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
