// Package pass reads extracts under a plan, once, in parallel and in order, and lets
// keepers look at what becomes of them.
//
// One goroutine reads the extracts block by block, workers find out what becomes of each
// block and show it to a part of every keeper; one goroutine lets the parts take what they
// saw, in the order of the extracts. What depends on the blocks before (first spellings,
// values above, currencies) is settled in a short step that blocks take one after another.
// So any number of workers comes to the same.
//
// A build, a dry run, a list of gaps, a file of control totals and a further look at some
// rows are all a pass, with other keepers.
package pass

import (
	"context"
	"fmt"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"

	"umbau/internal/core/lookup"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/since"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
)

// Keeper keeps something of a pass: a sum, a list, a file.
type Keeper interface {
	// Part returns what looks at blocks for the keeper, one at a time. There are as many
	// parts as blocks may be under way.
	Part() Part
}

// Part is what a keeper has of one block.
type Part interface {
	// See looks at a block. Others see theirs meanwhile: a part writes to nothing but
	// itself, and keeps nothing of the block, whose memory is used again.
	See(*Block)
	// Take hands what was seen to the keeper; parts do so one after another, in the
	// order of the fact table.
	Take()
}

// Asking is a keeper that needs what is found out only if somebody asks.
type Asking interface {
	Wants() treat.Wants
}

// Ending is a keeper that hears when all blocks are taken.
type Ending interface {
	End()
}

// Portable is a keeper whose state travels: it is written down and read back by
// encoding/gob, and merged.
type Portable interface {
	Keeper
	// Merge takes in what a keeper of the same kind has of the extracts behind its own.
	Merge(Keeper)
}

// Block is a block of an extract, and what became of it.
type Block struct {
	*treat.Outcome
	Extract int // of the inputs
	Input   *Input
	Last    bool // of the extract
}

// Position is where the fact row of a row and slot of the batch stands.
func (b *Block) Position(row, slot int) Position {
	return PositionOf(b.Extract, b.Line(row), slot, b.Batch.Slots)
}

// At is the place of the fact row of a row and slot of the batch.
func (b *Block) At(row, slot int) place.Place {
	at := b.Input.Place()
	at.Row, at.Header = b.Line(row), b.Program.Slots[slot].Header
	return at
}

// Position is where a fact row stands, in one word: its extract, row and slot. Positions
// are in the order of the fact table.
type Position uint64

const withinBits = 42

// PositionOf puts a position together; there are so many slots.
func PositionOf(extract, line, slot, slots int) Position {
	return Position(extract)<<withinBits | Position(line*slots+slot)
}

// Extract is the number of the extract.
func (p Position) Extract() int { return int(p >> withinBits) }

// Place turns a position back into a place.
func (p Position) Place(inputs []*Input) place.Place {
	in, within := inputs[p.Extract()], int(p&(1<<withinBits-1))
	at := in.Place()
	at.Row, at.Header = within/len(in.Slots), in.Slots[within%len(in.Slots)]
	return at
}

// Rules are a plan and what else a pass goes by.
type Rules struct {
	Plan        *plan.Plan
	Books       []*names.Book    // by column of the plan; nil for none
	Labels      []*names.Book    // further ones that know a label
	Lookups     []*lookup.Column // by column of the plan; none where it has no lookups
	Corrections []*Correction
	// Repeats, if not nil, says what becomes of the rows of an extract whose grain stands
	// again, for one block.
	Repeats  func(extract, slots int) treat.Repeats
	Piece    func(extract int) Piece // if not nil, what of each input is read
	Ended    func(Ended)             // if not nil, hears what the pass leaves for extracts behind its own
	Workers  int                     // how many blocks are worked on at once; 0 for one a core
	Progress func(done, all int64)   // if not nil, hears how many bytes were read
}

// Ended is what a pass leaves.
type Ended struct {
	*treat.Ends
	Met, Within place.List // what stood in the way: what the reader met, and what stands in blocks
	Broken      []int      // the extracts that could not be read to their end
	Cuts        []Cut      // the extracts of which a piece was read
}

// Cut says where a piece of an extract was found.
type Cut struct {
	Extract int
	Before  Edge // of the block before it, None for none
	First   Edge // of its first block, None for an empty one
	Last    Edge // of its last one
	After   Edge // of the block behind it, None at the end of the extract
}

// Edge is where a block begins: its first byte, and its first row.
type Edge struct {
	At  int64
	Row int
}

// None is no edge.
var None = Edge{At: -1}

// Piece is the part of an extract that is read: the blocks that begin at these bytes of its text. Which
// blocks there are does not depend on it.
type Piece struct {
	None     bool
	From, To int64 // To is 0 for its end
}

// All reports whether nothing is left out.
func (p Piece) All() bool { return p == Piece{} }

// has reports whether the block that begins at a byte is part of the piece.
func (p Piece) has(at int64) bool { return at >= p.From && (p.To == 0 || at < p.To) }

// Correction is a line of the file of corrections: a cell answered by hand.
type Correction struct {
	treat.Correction
	At   place.Place // of the cell
	Line int         // in the file
}

// lane is one block on its way; then it is used again. The reader fills in the upper half.
type lane struct {
	number  int
	extract int
	program *treat.Program
	source  table.Source
	raw     treat.Raw
	buffer  []byte

	parts    []Part
	problems place.List
	doubts   place.List
	open     []treat.Unsettled
	err      error
	done     chan struct{}
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

// pass is a pass under way.
type pass struct {
	ctx    context.Context
	rules  *Rules
	inputs []*Input
	wants  treat.Wants
	shared *treat.Shared
	order  *turns
	open   []treat.Unsettled // each once
}

// Run reads the inputs once, and shows each block to a part of every keeper. It returns
// what stands in the way: first what the reader met, then what stands in blocks. A pass
// whose context ends is not complete.
func Run(ctx context.Context, rules *Rules, inputs []*Input, keepers ...Keeper) place.List {
	p := &pass{ctx: ctx, rules: rules, inputs: inputs, shared: treat.NewShared(rules.Plan), order: newTurns()}
	for _, k := range keepers {
		if asking, ok := k.(Asking); ok {
			w := asking.Wants()
			p.wants.Gaps, p.wants.Where = p.wants.Gaps || w.Gaps, p.wants.Where || w.Where
		}
	}
	workers := rules.Workers
	if workers <= 0 {
		workers = runtime.GOMAXPROCS(0)
	}
	ahead := workers + 1 // blocks under way
	free := make(chan *lane, ahead)
	for range ahead {
		l := &lane{done: make(chan struct{}, 1)}
		for _, k := range keepers {
			l.parts = append(l.parts, k.Part())
		}
		free <- l
	}
	lanes, ordered := make(chan *lane, ahead), make(chan *lane, ahead)
	var group sync.WaitGroup
	for range workers {
		group.Add(1)
		go func() {
			defer group.Done()
			w := treat.NewWorker(rules.Plan, p.wants)
			for l := range lanes {
				p.work(w, l)
				l.done <- struct{}{}
			}
		}()
	}
	rd := &reader{pass: p, free: free, lanes: lanes, ordered: ordered, cells: map[place.Place][]readCells{}, headers: since.Texts{}}
	go rd.readAll()
	var problems place.List
	var broken []int
	for l := range ordered {
		<-l.done
		if l.err != nil {
			broken = append(broken, l.extract)
		}
		problems.Merge(p.take(l))
		free <- l
	}
	group.Wait()
	for _, k := range keepers {
		if k, ok := k.(Ending); ok {
			k.End()
		}
	}
	if rules.Ended != nil {
		rules.Ended(Ended{p.ends(), rd.problems, problems, append(rd.broken, broken...), rd.cuts})
	}
	rd.problems.Merge(problems)
	return rd.problems
}

// ends is what the pass leaves for the extracts behind its own.
func (p *pass) ends() *treat.Ends {
	for _, u := range p.open {
		p.shared.Pass(u.Column, u.Currency)
	}
	return p.shared.Ends()
}

// work does one block. A mistake in the program ends as an error of its block.
func (p *pass) work(w *treat.Worker, l *lane) {
	handed := false
	hand := func(do func()) {
		if !handed {
			handed = true
			p.order.take(l.number, do)
		}
	}
	defer func() {
		if mistake := recover(); mistake != nil {
			l.err = fmt.Errorf("a mistake in the program: %v\n%s", mistake, debug.Stack())
		}
		hand(func() {})
	}()
	if l.raw.Repeats = (treat.Repeats{}); p.rules.Repeats != nil {
		l.raw.Repeats = p.rules.Repeats(l.extract, len(l.program.Slots))
	}
	l.raw.Again = func(see func(table.Splitter, treat.Raw) error) error { return p.again(l, see) }
	if l.err = w.Read(l.program, l.source, l.raw); l.err != nil {
		return
	}
	if l.raw.Before {
		hand(func() { w.Await(p.shared, l.raw.First) })
		return
	}
	if hand(func() { l.err = w.HandOver(p.shared) }); l.err != nil {
		return
	}
	b := Block{Outcome: w.Decide(), Extract: l.extract, Input: p.inputs[l.extract], Last: l.raw.Last}
	l.problems, l.doubts, l.open = b.Problems, b.Doubts, b.Unsettled
	for _, part := range l.parts {
		part.See(&b)
	}
}

// take lets the keepers take what was seen of a block.
func (p *pass) take(l *lane) place.List {
	if l.err != nil {
		return place.List{p.inputs[l.extract].unreadable(l.err)}
	}
	if l.raw.Before {
		return nil
	}
	for _, part := range l.parts {
		part.Take()
	}
	p.inputs[l.extract].Doubts.Merge(l.doubts)
	for _, u := range l.open {
		if !slices.Contains(p.open, u) {
			p.open = append(p.open, u)
		}
	}
	return l.problems
}
