package treat

import (
	"umbau/internal/core/key"
	"umbau/internal/core/table"
)

// labels are the texts that stand in the columns of an extract, by their hashes. A few are
// kept one by one; many as two bits each in a word of a filter (Bloom 1970), which never forgets
// one, but takes one text in many for another: memory stays flat, and the answer is the same
// whoever adds them, in whatever order and how often.
type labels struct {
	few  map[uint64]struct{}
	many bool
	bits []uint64
}

const (
	fewLabels   = 4096
	filterWords = 1 << 17
)

// labelOf is the hash of a text, by the key, in a column of the extract.
func labelOf(column int, text string) uint64 { return labelOfKey(column, key.Append(nil, text)) }

func labelOfKey(column int, key []byte) uint64 {
	return table.Mix(table.Hash(key) + uint64(column))
}

// forget begins again.
func (l *labels) forget() {
	l.few = map[uint64]struct{}{}
	if l.many {
		l.many = false
		clear(l.bits)
	}
}

func (l *labels) add(hash uint64) {
	if l.many {
		l.mark(hash)
		return
	}
	if l.few[hash] = struct{}{}; len(l.few) <= fewLabels {
		return
	}
	if l.many = true; l.bits == nil {
		l.bits = make([]uint64, filterWords)
	}
	for h := range l.few {
		l.mark(h)
	}
	l.few = nil
}

// place is the word of the filter in which a hash has its two bits, and these.
func (l *labels) place(hash uint64) (word, bits uint64) {
	return hash % filterWords, 1<<(hash>>32%64) | 1<<(hash>>48%64)
}

func (l *labels) mark(hash uint64) {
	word, bits := l.place(hash)
	l.bits[word] |= bits
}

func (l *labels) has(hash uint64) bool {
	if !l.many {
		_, ok := l.few[hash]
		return ok
	}
	word, bits := l.place(hash)
	return l.bits[word]&bits == bits
}
