package treat

import (
	"encoding/binary"
	"errors"
	"maps"
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
)

// labels are the texts that stand in the columns of an extract, by their hashes. A few are kept one by one; of
// many only how their keys begin, as two bits each in a word of a filter (Bloom 1970), which never forgets one, but
// takes others for one of them: memory stays flat, and who is told that one may be there reads the extract again.
// The answer is the same whoever adds them, in whatever order and how often.
type labels struct {
	few  map[uint64]uint64 // the hash of the beginning by that of the whole
	many bool
	bits []uint64
}

// label is a text in a column of an extract: hashes of the column with its key, and with the head of that. Of
// one of very many the whole is not worked out, and 0.
type label struct{ Whole, Begins uint64 }

const (
	fewLabels   = 4096
	filterWords = 1 << 17
)

func labelOf(column int, text string) label {
	return label{wholeLabel(column, key.Append(nil, text)), beginOf(column, text)}
}

func wholeLabel(column int, key []byte) uint64 { return table.Mix(table.Hash(key) + uint64(column)) }

func beginOf(column int, text string) uint64 { return table.Mix(key.Head(text) + uint64(column)) }

// forget begins again.
func (l *labels) forget() {
	l.few = map[uint64]uint64{}
	if l.many {
		l.many = false
		clear(l.bits)
	}
}

func (l *labels) add(more ...label) {
	for i, a := range more {
		if l.many {
			for _, a := range more[i:] {
				l.mark(a.Begins)
			}
			return
		}
		if l.few[a.Whole] = a.Begins; len(l.few) > fewLabels || a.Whole == 0 {
			l.fill()
		}
	}
}

// fill makes many of few.
func (l *labels) fill() {
	if l.many = true; l.bits == nil {
		l.bits = make([]uint64, filterWords)
	}
	for begins := range maps.Values(l.few) {
		l.mark(begins)
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

// has reports whether a label may be among these, and whether that is sure.
func (l *labels) has(a label) (may, sure bool) {
	if !l.many {
		_, ok := l.few[a.Whole]
		return ok, true
	}
	word, bits := l.place(a.Begins)
	may = l.bits[word]&bits == bits
	return may, !may
}

// merge adds the labels of others.
func (l *labels) merge(o *labels) {
	if !o.many {
		for whole, begins := range o.few {
			l.add(label{whole, begins})
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
	words := l.bits
	if !l.many {
		words = nil
		for _, whole := range slices.Sorted(maps.Keys(l.few)) {
			words = append(words, whole, l.few[whole])
		}
	}
	for _, w := range words {
		out = binary.LittleEndian.AppendUint64(out, w)
	}
	return out, nil
}

// UnmarshalBinary reads labels that were written down.
func (l *labels) UnmarshalBinary(data []byte) error {
	l.forget()
	if len(data)%16 != 0 || len(data)/16 > fewLabels && len(data)/8 != filterWords {
		return errors.New("these are no labels")
	}
	if len(data)/8 == filterWords {
		l.fill()
	}
	word := func(i int) uint64 { return binary.LittleEndian.Uint64(data[8*i:]) }
	for i := range len(data) / 8 {
		switch {
		case l.many:
			l.bits[i] = word(i)
		case i%2 == 0:
			l.few[word(i)] = word(i + 1)
		}
	}
	return nil
}
