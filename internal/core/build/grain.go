package build

import (
	"cmp"
	"math/bits"
	"slices"

	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
)

// The grain is checked by a 64-bit hash of each fact row's values in the grain
// columns, kept with the row's position: 16 bytes a fact row. Rows are sorted
// into shards by their hash as they come; at the end equal hashes are looked for
// shard by shard. The chance that two different rows of ten
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

// hasher works out the grain of fact rows. Each worker has its own.
type hasher struct {
	slots []uint64 // of each slot of the block: what its columns add
	text  []byte
}

// rows appends the delivered rows of a block. The hashes of single values are
// added up, so that a column counts the same at whatever level it stands, and
// each is worked out at its level only.
func (h *hasher) rows(dst []seenRow, columns []int, w *treat.Worker, extract int) []seenRow {
	b := &w.Batch
	var all uint64
	var perRow, perCell []int
	h.slots = append(h.slots[:0], make([]uint64, b.Slots)...)
	for _, ci := range columns {
		switch c := &b.Columns[ci]; c.Level {
		case table.PerExtract:
			all += h.value(b, ci, 0)
		case table.PerSlot:
			for slot := range h.slots {
				h.slots[slot] += h.value(b, ci, slot)
			}
		case table.PerRow:
			perRow = append(perRow, ci)
		default:
			perCell = append(perCell, ci)
		}
	}
	for row := range b.Rows {
		line, own := w.Rows.Lines[w.Sorted.Used[row]], all
		for _, ci := range perRow {
			own += h.value(b, ci, row)
		}
		for slot := range b.Slots {
			at := row*b.Slots + slot
			if b.Fates[at] != table.Delivered || w.Stopped(at) {
				continue
			}
			sum := own + h.slots[slot]
			for _, ci := range perCell {
				sum += h.value(b, ci, at)
			}
			dst = append(dst, seenRow{table.Mix(sum), position(extract, line, slot, b.Slots)})
		}
	}
	return dst
}

// value is the hash of value i of a column.
func (h *hasher) value(b *table.Batch, ci, i int) uint64 {
	c := &b.Columns[ci]
	var own uint64
	if c.Numbers == nil {
		own = c.Texts.OutHash(c.Codes[i])
	} else {
		h.text = b.AppendNumber(h.text[:0], c, i)
		own = table.Hash(h.text)
	}
	return table.Mix(own + uint64(ci)*0x9e3779b97f4a7c15)
}

// repeat is a fact row whose grain stood before.
type repeat struct{ again, first uint64 }

// repeats returns the fact rows that stand again, in order. Within a shard rows
// lie in the order of the fact table.
func (g *grain) repeats() []repeat {
	var out []repeat
	var shard []seenRow
	var index []uint32 // open addressing by hash: 1 + the row that has it first, 0 for none
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
		size := 1 << bits.Len(uint(2*len(shard)))
		if index = slices.Grow(index[:0], size)[:size]; len(shard) > 0 {
			clear(index)
		}
		for j := range shard {
			at := shard[j].hash & uint64(size-1)
			for index[at] > 0 && shard[index[at]-1].hash != shard[j].hash {
				at = (at + 1) & uint64(size-1)
			}
			if index[at] == 0 {
				index[at] = uint32(j) + 1
				continue
			}
			out = append(out, repeat{shard[j].position, shard[index[at]-1].position})
		}
	}
	slices.SortFunc(out, func(a, b repeat) int { return cmp.Compare(a.again, b.again) })
	return out
}
