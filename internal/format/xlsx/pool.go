package xlsx

import "encoding/binary"

// pool holds many strings: their texts, each behind its length, in chunks, and 4 bytes more for each.
type pool struct {
	chunks [][]byte // each of 1 MB; one that is longer takes the places of several
	places [][]uint32
	n      int
	bytes  int64
}

const (
	chunkBits = 20
	group     = 1 << 16
	mostPool  = 1<<32 - 1<<27 // which places can tell
)

// size is how many bytes it takes.
func (p *pool) size() int64 { return p.bytes + 4*int64(p.n) }

// len is how many there are; none in no pool.
func (p *pool) len() int {
	if p == nil {
		return 0
	}
	return p.n
}

// add adds a string.
func (p *pool) add(text []byte) {
	need := len(text) + binary.MaxVarintLen32
	last := len(p.chunks) - 1
	if last < 0 || cap(p.chunks[last])-len(p.chunks[last]) < need {
		last++
		p.chunks = append(p.chunks, make([]byte, 0, max(1<<chunkBits, need)))
	}
	if p.n%group == 0 {
		p.places = append(p.places, make([]uint32, 0, group))
	}
	to := &p.chunks[last]
	list := &p.places[p.n/group]
	*list = append(*list, uint32(last<<chunkBits+len(*to)))
	*to = append(binary.AppendUvarint(*to, uint64(len(text))), text...)
	p.bytes += int64(need)
	p.n++
	for more := (need - 1) >> chunkBits; more > 0; more-- { // the next string stands in a chunk of its own
		p.chunks = append(p.chunks, nil)
	}
}

// at is a string by its number.
func (p *pool) at(i int) []byte {
	place := p.places[i/group][i%group]
	text := p.chunks[place>>chunkBits][place&(1<<chunkBits-1):]
	n, size := binary.Uvarint(text)
	return text[size:][:n]
}
