package keys

import (
	"encoding/binary"

	"umbau/internal/core/table"
)

// index gives each distinct key a number, from 0 in the order of their coming, and keeps it
// with its label. There may be very many: it takes some 24 bytes for a key beside its texts,
// and what it holds is never moved.
type index struct {
	slots   []uint32             // a number and 1, open addressing, a power of two
	entries table.Chunks[entry]  // by number
	texts   table.Chunks[[]byte] // pieces of memory: of each key its length and its label's, then both
	room    []byte               // what is left of the last piece
}

// entry is where a key stands.
type entry struct {
	hash  uint32
	piece uint32
	at    uint32 // within the piece
}

// pieceSize is how large the pieces of memory are, but for keys that are larger.
const pieceSize = 1 << 18

// number is the number of a key; fresh says that it is new. Its label is kept when it is.
func (x *index) number(key, label []byte) (n uint32, fresh bool) {
	if len(x.slots) == 0 {
		x.slots = make([]uint32, 64)
	}
	hash := uint32(table.Hash(key))
	at, n, ok := x.find(key, hash)
	if ok {
		return n, false
	}
	n = uint32(x.entries.Len())
	x.slots[at] = n + 1
	piece, from := x.keep(key, label)
	x.entries.Add(entry{hash, piece, from})
	if 4*x.entries.Len() > 3*len(x.slots) {
		x.slots = make([]uint32, 2*len(x.slots))
		mask := uint32(len(x.slots) - 1)
		for i := range x.entries.Len() {
			at := x.entries.At(i).hash & mask
			for x.slots[at] > 0 {
				at = (at + 1) & mask
			}
			x.slots[at] = uint32(i) + 1
		}
	}
	return n, true
}

// find is the number of a key, and otherwise the slot that is free for it.
func (x *index) find(key []byte, hash uint32) (slot, n uint32, ok bool) {
	if len(x.slots) == 0 {
		return 0, 0, false
	}
	mask := uint32(len(x.slots) - 1)
	for slot = hash & mask; ; slot = (slot + 1) & mask {
		next := x.slots[slot]
		if next == 0 {
			return slot, 0, false
		}
		if x.entries.At(int(next-1)).hash == hash && string(x.key(next-1)) == string(key) {
			return slot, next - 1, true
		}
	}
}

// look is the number of a key that is there.
func (x *index) look(key []byte) (n uint32, ok bool) {
	_, n, ok = x.find(key, uint32(table.Hash(key)))
	return n, ok
}

func (x *index) keep(key, label []byte) (piece, at uint32) {
	need := 2*binary.MaxVarintLen32 + len(key) + len(label)
	if need > len(x.room) {
		x.room = make([]byte, max(need, pieceSize))
		x.texts.Add(x.room)
	}
	piece = uint32(x.texts.Len() - 1)
	at = uint32(len(*x.texts.At(int(piece))) - len(x.room))
	n := binary.PutUvarint(x.room, uint64(len(key)))
	n += binary.PutUvarint(x.room[n:], uint64(len(label)))
	n += copy(x.room[n:], key)
	n += copy(x.room[n:], label)
	x.room = x.room[n:]
	return piece, at
}

func (x *index) text(n uint32) (key, label []byte) {
	e := x.entries.At(int(n))
	b := (*x.texts.At(int(e.piece)))[e.at:]
	k, i := binary.Uvarint(b)
	l, j := binary.Uvarint(b[i:])
	b = b[i+j:]
	return b[:k], b[k : k+l]
}

// key is the key with a number.
func (x *index) key(n uint32) []byte {
	key, _ := x.text(n)
	return key
}
