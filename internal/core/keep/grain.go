package keep

import (
	"cmp"
	"math/bits"
	"slices"

	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
)

// The grain is checked by a 64-bit hash of each fact row's values in the grain
// columns, kept with the row's position: 16 bytes a fact row. Rows are sorted
// into shards by their hash as they come; at the end equal hashes are looked for
// shard by shard. The chance that two different rows of ten
// million share a hash is 3 in a million. Beyond spillRows the shards go to a file
// on disk, and come back one after another: the memory is then that of one shard.

// seenRow is one fact row in the grain check.
type seenRow struct {
	hash     uint64
	position pass.Position
}

const shards = 256

// Grain finds fact rows whose values in the columns of the grain stand again.
type Grain struct {
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

// NewGrain returns a check of the plan's grain, nil where it has none, or repeats are kept.
func NewGrain(p *plan.Plan) *Grain {
	if p.Rows.Grain == nil || p.Rows.Repeats == plan.Keep {
		return nil
	}
	return &Grain{columns: columnsOf(p, p.Rows.Grain)}
}

// grainPart is the grain of the rows of one block.
type grainPart struct {
	to     *Grain
	hasher hasher
	rows   []seenRow
}

// Part implements pass.Keeper.
func (g *Grain) Part() pass.Part { return &grainPart{to: g} }

// See implements pass.Part.
func (p *grainPart) See(b *pass.Block) { p.rows = p.hasher.rows(p.rows[:0], p.to.columns, b) }

// Take implements pass.Part.
func (p *grainPart) Take() { p.to.add(p.rows) }

func (g *Grain) add(rows []seenRow) {
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

// hasher works out the grain of fact rows.
type hasher struct {
	slots []uint64 // of each slot of the block: what its columns add
	text  []byte
}

// rows appends the delivered rows of a block. The hashes of single values are
// added up, so that a column counts the same at whatever level it stands, and
// each is worked out at its level only.
func (h *hasher) rows(dst []seenRow, columns []int, of *pass.Block) []seenRow {
	b := of.Batch
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
		line, own := of.Line(row), all
		for _, ci := range perRow {
			own += h.value(b, ci, row)
		}
		for slot := range b.Slots {
			at := row*b.Slots + slot
			if b.Fates[at] != table.Delivered || of.Stopped(at) {
				continue
			}
			sum := own + h.slots[slot]
			for _, ci := range perCell {
				sum += h.value(b, ci, at)
			}
			dst = append(dst, seenRow{table.Mix(sum), pass.PositionOf(of.Extract, line, slot, b.Slots)})
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

// Repeat is a fact row whose grain stood before, and the first that has it.
type Repeat struct{ Again, First pass.Position }

// Repeats returns the fact rows that stand again, in order. Within a shard rows lie in
// the order of the fact table. The error is that of the file on disk.
func (g *Grain) Repeats() (out []Repeat, err error) {
	if g.failed != nil {
		return nil, g.failed
	}
	var shard []seenRow
	var index []uint32 // open addressing by hash: 1 + the row that has it first, 0 for none
	for i := range g.shards {
		if shard = shard[:0]; g.spill != nil {
			if shard, err = g.spill.read(i, shard); err != nil {
				return nil, err
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
			out = append(out, Repeat{shard[j].position, shard[index[at]-1].position})
		}
	}
	slices.SortFunc(out, func(a, b Repeat) int { return cmp.Compare(a.Again, b.Again) })
	return out, nil
}

// each visits all rows, shard by shard, those of one in the order of the fact table.
func (g *Grain) each(visit func(seenRow)) error {
	for i, pieces := range g.shards {
		if g.spill != nil {
			rows, err := g.spill.read(i, nil)
			if err != nil {
				return err
			}
			pieces = append([][]seenRow{rows}, pieces...)
		}
		for _, piece := range pieces {
			for _, r := range piece {
				visit(r)
			}
		}
	}
	return g.failed
}

// Merge implements pass.Portable.
func (g *Grain) Merge(other pass.Keeper) {
	if err := other.(*Grain).each(func(r seenRow) { g.add([]seenRow{r}) }); err != nil {
		g.failed = err
	}
}

// MarshalBinary writes the rows down.
func (g *Grain) MarshalBinary() (out []byte, err error) {
	err = g.each(func(r seenRow) { out = r.append(out) })
	return out, err
}

// UnmarshalBinary adds the rows that MarshalBinary wrote.
func (g *Grain) UnmarshalBinary(data []byte) error {
	g.add(readRows(nil, data))
	return nil
}

// Close removes what is on disk.
func (g *Grain) Close() {
	if g != nil && g.spill != nil {
		g.spill.close()
		g.spill = nil
	}
}
