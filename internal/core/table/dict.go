package table

import (
	"encoding/binary"
	"math/bits"
)

// Dict gives each distinct text a code, from 0 in the order of their coming,
// and keeps what the text becomes beside it. The zero Dict is not ready; use
// NewDict.
type Dict struct {
	Seen   []string // the text, as read
	Out    []string // what is delivered for it
	Quoted []string // the same, quoted for text files where that is needed
	hashes []uint64 // of what is delivered, 0 where nobody has asked
	slots  []slot   // open addressing, a power of two
	size   int      // bytes of all texts
	asked  int      // how often a code was asked for
	most   int      // texts it takes
}

const (
	mostTexts = 1 << 16 // that a dictionary takes …
	mostNames = 1 << 18 // … and one of names, which come again, if late
	fewTexts  = 1 << 12
	mostBytes = 16 << 20
)

type slot struct {
	hash uint64
	code uint32
	used bool
}

// NewDict returns an empty dictionary.
func NewDict() *Dict { return &Dict{slots: make([]slot, 64), most: mostTexts} }

// NewNameDict returns an empty dictionary for names.
func NewNameDict() *Dict { return &Dict{slots: make([]slot, 64), most: mostNames} }

// Len returns the number of distinct texts.
func (d *Dict) Len() int { return len(d.Seen) }

// Full reports whether the dictionary has grown so large that it should be
// cleared before the next batch: memory stays flat, whatever comes in.
func (d *Dict) Full() bool { return len(d.Seen) > d.most || d.size > mostBytes }

// Next returns an empty dictionary for what comes after this one is full. Where
// few of its texts came again (they are all different, as invoice numbers are),
// that is a small one, which stays in a processor's cache.
func (d *Dict) Next() *Dict {
	next := &Dict{slots: make([]slot, 64), most: d.most}
	if d.asked < 2*len(d.Seen) {
		next.most = fewTexts
	}
	return next
}

// Code returns the code of a text and whether it is new. Out and Quoted of a
// new text are empty.
func (d *Dict) Code(text []byte) (code uint32, fresh bool) {
	d.asked++
	h := Hash(text)
	mask := uint64(len(d.slots) - 1)
	for i := h & mask; ; i = (i + 1) & mask {
		s := &d.slots[i]
		if !s.used {
			return d.add(text, h), true
		}
		if s.hash == h && d.Seen[s.code] == string(text) {
			return s.code, false
		}
	}
}

func (d *Dict) add(text []byte, h uint64) uint32 {
	code := uint32(len(d.Seen))
	d.Seen = append(d.Seen, string(text))
	d.Out = append(d.Out, "")
	d.Quoted = append(d.Quoted, "")
	d.size += len(text)
	if 2*len(d.Seen) > len(d.slots) {
		old := d.slots
		d.slots = make([]slot, 2*len(old))
		for _, s := range old {
			if s.used {
				d.place(s)
			}
		}
	}
	d.place(slot{h, code, true})
	return code
}

func (d *Dict) place(s slot) {
	mask := uint64(len(d.slots) - 1)
	i := s.hash & mask
	for d.slots[i].used {
		i = (i + 1) & mask
	}
	d.slots[i] = s
}

// SetOut records what a text becomes.
func (d *Dict) SetOut(code uint32, out string) {
	d.Out[code] = out
	d.Quoted[code] = Quoted(out)
	if int(code) < len(d.hashes) {
		d.hashes[code] = 0
	}
}

// OutHash is the hash of what is delivered for a text.
func (d *Dict) OutHash(code uint32) uint64 {
	if int(code) >= len(d.hashes) {
		d.hashes = append(d.hashes, make([]uint64, len(d.Out)-len(d.hashes))...)
	}
	h := &d.hashes[code]
	if *h == 0 {
		*h = Hash([]byte(d.Out[code]))
	}
	return *h
}

// Hash is a 64-bit hash of a text, the same on every machine and in every run:
// multiply and fold (the mixing step of W. Y. Wang's wyhash) over eight bytes
// at a time, the last ones once more where they are fewer than eight.
func Hash(b []byte) uint64 {
	h := uint64(len(b)+1) * 0x9e3779b97f4a7c15
	if len(b) < 8 {
		return Mix(h ^ few(b))
	}
	for rest := b; len(rest) > 8; rest = rest[8:] {
		h = Mix(h ^ binary.LittleEndian.Uint64(rest))
	}
	return Mix(h ^ binary.LittleEndian.Uint64(b[len(b)-8:]))
}

// few puts up to seven bytes into one word.
func few(b []byte) uint64 {
	n := len(b)
	switch {
	case n >= 4:
		return uint64(binary.LittleEndian.Uint32(b)) | uint64(binary.LittleEndian.Uint32(b[n-4:]))<<32
	case n > 0:
		return uint64(b[0]) | uint64(b[n/2])<<8 | uint64(b[n-1])<<16
	}
	return 0
}

// Mix spreads the bits of a word over all of its bits.
func Mix(x uint64) uint64 {
	hi, lo := bits.Mul64(x^0xa0761d6478bd642f, 0xe7037ed1a0b428db)
	return hi ^ lo ^ x>>32
}
