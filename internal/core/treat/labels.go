package treat

import (
	"encoding/binary"
	"errors"
	"maps"
	"slices"

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

	touched uint64 // counts for nothing, but must be looked at: see mark
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

func (l *labels) add(hashes ...uint64) {
	for i, hash := range hashes {
		if l.many {
			l.mark(hashes[i:])
			return
		}
		if l.few[hash] = struct{}{}; len(l.few) > fewLabels {
			l.fill()
		}
	}
}

// fill makes many of few.
func (l *labels) fill() {
	if l.many = true; l.bits == nil {
		l.bits = make([]uint64, filterWords)
	}
	l.mark(slices.Collect(maps.Keys(l.few)))
	l.few = nil
}

// place is the word of the filter in which a hash has its two bits, and these.
func (l *labels) place(hash uint64) (word, bits uint64) {
	return hash % filterWords, 1<<(hash>>32%64) | 1<<(hash>>48%64)
}

// mark puts hashes into the filter. The words of many are touched at a time, so that what the memory has to
// bring for one of them does not wait for the one before.
func (l *labels) mark(hashes []uint64) {
	for len(hashes) > 0 {
		n := min(len(hashes), 64)
		for _, hash := range hashes[:n] {
			word, _ := l.place(hash)
			l.touched |= l.bits[word]
		}
		for _, hash := range hashes[:n] {
			word, bits := l.place(hash)
			l.bits[word] |= bits
		}
		hashes = hashes[n:]
	}
}

func (l *labels) has(hash uint64) bool {
	if !l.many {
		_, ok := l.few[hash]
		return ok
	}
	word, bits := l.place(hash)
	return l.bits[word]&bits == bits
}

// merge adds the labels of others.
func (l *labels) merge(o *labels) {
	if !o.many {
		for hash := range o.few {
			l.add(hash)
		}
		return
	}
	l.fill()
	for i, bits := range o.bits {
		l.bits[i] |= bits
	}
}

// MarshalBinary writes the labels down.
func (l *labels) MarshalBinary() (out []byte, err error) {
	hashes := slices.Sorted(maps.Keys(l.few))
	if l.many {
		hashes = l.bits
	}
	for _, h := range hashes {
		out = binary.LittleEndian.AppendUint64(out, h)
	}
	return out, nil
}

// UnmarshalBinary reads labels that were written down.
func (l *labels) UnmarshalBinary(data []byte) error {
	l.forget()
	if len(data)%8 != 0 || len(data)/8 > fewLabels && len(data)/8 != filterWords {
		return errors.New("these are no labels")
	}
	if len(data)/8 == filterWords {
		l.fill()
	}
	for i := range len(data) / 8 {
		h := binary.LittleEndian.Uint64(data[8*i:])
		if l.many {
			l.bits[i] = h
		} else {
			l.few[h] = struct{}{}
		}
	}
	return nil
}
