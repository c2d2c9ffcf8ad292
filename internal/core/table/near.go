package table

import "encoding/binary"

// near remembers the codes of short texts that come again and again, by the bytes themselves: each text has
// one place, which the last one that belongs there has. It is as large as the texts of its dictionary need,
// or there is none, where they are many.
type near []nearText

type nearText struct {
	words [3]uint64 // its bytes, zeros behind them
	code  uint32
	size  uint32 // in bytes, and 1; 0 for a free place
}

const (
	nearBytes = 24      // of the longest text
	nearTexts = 1 << 11 // of the largest dictionary
	nearRoom  = 4       // places for each text, at least
	mostNear  = 1 << 12 // places, above which no more are made for texts that take each other's
)

// nearMasks keep the bytes of a text of a length in three words.
var nearMasks = func() (masks [nearBytes + 1][3]uint64) {
	for n := range masks {
		for i := range n {
			masks[n][i/8] |= 0xff << (8 * (i % 8))
		}
	}
	return masks
}()

// newNear returns a memory with so many places, or a few more.
func newNear(places int) near {
	size := 64
	for size < places {
		size *= 2
	}
	return make(near, size)
}

// crowded reports whether texts that take each other's place, so many times in so many cells, want more room.
func (n near) crowded(missed, cells int) bool { return 32*missed > cells && len(n) < mostNear }

// full reports whether so many texts want more room.
func (n near) full(texts int) bool { return nearRoom*texts >= 2*len(n) }

// place returns the place of a cell, and whether it is remembered there. The cell is no longer than nearBytes,
// and BlockSlack bytes of data stand behind it.
func (n near) place(data []byte, c Cell) (at *nearText, known bool) {
	bytes, masks := data[c.Off:c.Off+nearBytes], &nearMasks[c.End-c.Off]
	a := binary.LittleEndian.Uint64(bytes) & masks[0]
	b := binary.LittleEndian.Uint64(bytes[8:]) & masks[1]
	e := binary.LittleEndian.Uint64(bytes[16:]) & masks[2]
	at = &n[Mix(a+b*0x9e3779b97f4a7c15+e*0xd6e8feb86659fd93)&uint64(len(n)-1)]
	size := c.End - c.Off + 1
	if at.words[0] == a && at.words[1] == b && at.words[2] == e && at.size == size {
		return at, true
	}
	at.words, at.size = [3]uint64{a, b, e}, size
	return at, false
}
