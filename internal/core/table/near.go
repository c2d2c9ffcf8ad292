package table

import "encoding/binary"

// near remembers the codes of short texts that come again and again, by the bytes themselves: a small table for a core's
// cache, with room enough that hardly any text is looked for twice.
type near struct {
	slots []uint16   // open addressing, a power of two: a code and 1; 0 while it is free
	texts []nearText // by code
	had   int        // how many are remembered
}

type nearText struct {
	words [3]uint64 // its bytes, zeros behind them
	size  uint32    // in bytes
}

const (
	nearBytes = 24      // of the longest text
	nearTexts = 1 << 11 // of the largest dictionary
	nearRoom  = 4       // slots for each text, at least
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

// newNear returns an empty memory.
func newNear() near { return near{slots: make([]uint16, nearRoom*fewSlots)} }

// wordsOf are the words of a cell that is no longer than nearBytes; BlockSlack bytes of data stand behind it.
func wordsOf(data []byte, c Cell) (x, y, z uint64) {
	bytes, masks := data[c.Off:c.Off+nearBytes], &nearMasks[c.End-c.Off]
	return binary.LittleEndian.Uint64(bytes) & masks[0], binary.LittleEndian.Uint64(bytes[8:]) & masks[1],
		binary.LittleEndian.Uint64(bytes[16:]) & masks[2]
}

func hashOf(x, y, z uint64) uint64 { return Mix(x + y*0x9e3779b97f4a7c15 + z*0xd6e8feb86659fd93) }

// code returns the code of a cell that is remembered.
func (n *near) code(data []byte, c Cell) (code uint32, known bool) {
	x, y, z := wordsOf(data, c)
	mask := uint64(len(n.slots) - 1)
	for i := hashOf(x, y, z); ; i++ {
		next := n.slots[i&mask]
		if next == 0 {
			return 0, false
		}
		if t := &n.texts[next-1]; t.words[0] == x && t.words[1] == y && t.words[2] == z && t.size == c.End-c.Off {
			return uint32(next - 1), true
		}
	}
}

// put remembers a cell that is not, and its code.
func (n *near) put(data []byte, c Cell, code uint32) {
	if code >= 1<<16-1 {
		return
	}
	if short := int(code) + 1 - len(n.texts); short > 0 {
		n.texts = append(n.texts, make([]nearText, max(short, len(n.texts)))...)
	}
	x, y, z := wordsOf(data, c)
	n.texts[code] = nearText{[3]uint64{x, y, z}, c.End - c.Off}
	if n.had++; nearRoom*n.had > len(n.slots) {
		old := n.slots
		n.slots = make([]uint16, 2*len(old))
		for _, next := range old {
			if next > 0 {
				n.place(next)
			}
		}
	}
	n.place(uint16(code + 1))
}

// place puts a code and 1 into a free slot.
func (n *near) place(next uint16) {
	t, mask := &n.texts[next-1], uint64(len(n.slots)-1)
	i := hashOf(t.words[0], t.words[1], t.words[2])
	for n.slots[i&mask] > 0 {
		i++
	}
	n.slots[i&mask] = next
}
