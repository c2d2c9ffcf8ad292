package build

import (
	"cmp"
	"slices"

	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
)

// The grain is checked by a 64-bit hash of each fact row's values in the grain
// columns, kept with the row's position: 16 bytes a fact row. Rows are sorted
// into shards by their hash as they come; at the end each shard is sorted, and
// equal hashes lie side by side. The chance that two different rows of ten
// million share a hash is 3 in a million. Beyond spillRows the shards go to a file
// on disk, and come back one after another: the memory is then that of one shard.

// seenRow is one fact row in the grain check.
type seenRow struct{ hash, position uint64 }

const shards = 256

type grain struct {
	columns []int
	shards  [shards][][]seenRow // lists of full-grown pieces
	rows    int                 // in shards
	spill   *spill              // nil while all is in memory
	failed  error               // of the file on disk
}

// spillRows is how many rows are kept in memory: 160 MB.
var spillRows = 10_000_000

// shardPiece is how many rows are kept in one piece of memory.
const shardPiece = 1024

func newGrain(p *plan.Plan) *grain {
	if p.Rows.Grain == nil || p.Rows.Repeats == plan.Keep {
		return nil
	}
	g := &grain{}
	for _, name := range p.Rows.Grain {
		g.columns = append(g.columns, slices.Index(p.Columns, p.Column(name)))
	}
	return g
}

// position of a fact row: extract, row number and slot in one word.
func position(extract, row, slot, slots int) uint64 {
	return uint64(extract)<<42 | uint64(row*slots+slot)
}

func (g *grain) add(rows []seenRow) {
	if g.rows += len(rows); g.rows > spillRows && g.failed == nil {
		g.failed = g.spillShards()
	}
	for _, r := range rows {
		s := &g.shards[r.hash>>56]
		if n := len(*s); n == 0 || len((*s)[n-1]) == shardPiece {
			*s = append(*s, make([]seenRow, 0, shardPiece))
		}
		last := &(*s)[len(*s)-1]
		*last = append(*last, r)
	}
}

// hashRows appends the delivered rows of a block. The hashes of single values
// are added up, so that a column counts the same at whatever level it stands.
func (g *grain) hashRows(dst []seenRow, w *treat.Worker, extract int, scratch *[]byte) []seenRow {
	b := &w.Batch
	for row := range b.Rows {
		for slot := range b.Slots {
			if at := row*b.Slots + slot; b.Fates[at] != table.Delivered || w.Stopped(at) {
				continue
			}
			var h uint64
			for _, ci := range g.columns {
				*scratch = b.AppendText((*scratch)[:0], &b.Columns[ci], row, slot)
				h += table.Mix(table.Hash(*scratch) + uint64(ci)*0x9e3779b97f4a7c15)
			}
			line := w.Rows.Lines[w.Sorted.Used[row]]
			dst = append(dst, seenRow{table.Mix(h), position(extract, line, slot, b.Slots)})
		}
	}
	return dst
}

// repeat is a fact row whose grain stood before.
type repeat struct{ again, first uint64 }

// repeats returns the fact rows that stand again, in order.
func (g *grain) repeats() []repeat {
	var out []repeat
	var shard []seenRow
	for i := range g.shards {
		if shard = shard[:0]; g.spill != nil {
			if shard, g.failed = g.spill.read(i, shard); g.failed != nil {
				return nil
			}
		}
		for _, piece := range g.shards[i] {
			shard = append(shard, piece...)
		}
		g.shards[i] = nil
		slices.SortFunc(shard, func(a, b seenRow) int {
			return cmp.Or(cmp.Compare(a.hash, b.hash), cmp.Compare(a.position, b.position))
		})
		first := 0
		for j := 1; j < len(shard); j++ {
			if shard[j].hash != shard[first].hash {
				first = j
				continue
			}
			out = append(out, repeat{shard[j].position, shard[first].position})
		}
	}
	slices.SortFunc(out, func(a, b repeat) int { return cmp.Compare(a.again, b.again) })
	return out
}
