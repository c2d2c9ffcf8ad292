package table

import (
	"encoding/binary"
	"math/bits"
	"slices"
	"sync/atomic"
	"unsafe"
)

// Dict gives each distinct text a code, from 0 in the order of their coming,
// and keeps what the text becomes beside it. The zero Dict is not ready; use
// NewDict.
type Dict struct {
	arena   []byte   // all texts; only ever added to, with BlockSlack bytes of room behind
	texts   []text   // by code
	hashes  []uint64 // of what is delivered, 0 where nobody has asked
	slots   []slot   // open addressing, a power of two
	near    near     // what Codes looks at first
	asked   int      // how often a code was asked for
	touched uint32   // see Codes: what was looked at counts for nothing, but must be looked at
	most    int      // texts it takes
	placed  int      // texts that can be found
	loose   int      // see Codes: how many dictionaries yet take texts that hardly come again; 0 for none
	number  uint64
	last    struct { // the last text of a loose dictionary
		code   uint32
		quoted span // as it is, 0 where nobody knows
	}
}

// dicts is how many dictionaries there were.
var dicts atomic.Uint64

const (
	mostTexts = 1 << 16 // that a dictionary takes …
	mostNames = 1 << 18 // … and one of names, which come again, if late
	fewTexts  = 1 << 12
	loosely   = 16 // dictionaries, until one looks again whether texts come again
	mostBytes = 16 << 20
)

type text struct {
	seen   span // as read
	out    span // what is delivered for it
	quoted span // the same, quoted for text files where that is needed
}

// slot is a text's code and 1, and half of its hash; 0 while it is free.
type slot struct{ next, hash uint32 }

// span is where a text stands in the arena, and its length in the low bits.
type span uint64

const spanBits = 30 // of the length: 1 GB, twice the longest row of any format; 16 GB for the arena

// fewSlots is how many an empty dictionary has: there may be one for each of very many columns.
const fewSlots = 16

// NewDict returns an empty dictionary.
func NewDict() *Dict { return newDict(mostTexts) }

// NewNameDict returns an empty dictionary for names.
func NewNameDict() *Dict { return newDict(mostNames) }

func newDict(most int) *Dict {
	return &Dict{slots: make([]slot, fewSlots), most: most, number: dicts.Add(1)}
}

// Number tells a dictionary from all others of the program.
func (d *Dict) Number() uint64 { return d.number }

// Loose reports whether texts have codes of their own mostly: see Codes.
func (d *Dict) Loose() bool { return d.loose > 0 }

// Expect makes room for so many texts.
func (d *Dict) Expect(n int) {
	d.texts = slices.Grow(d.texts, n)
	for slots := len(d.slots); ; slots *= 2 {
		if slots >= 2*(d.placed+n) {
			d.spread(slots)
			return
		}
	}
}

// Len returns the number of distinct texts.
func (d *Dict) Len() int { return len(d.texts) }

// Seen returns the text with a code, as it was read.
func (d *Dict) Seen(code uint32) string { return d.text(d.texts[code].seen) }

// Out returns what is delivered for the text with a code.
func (d *Dict) Out(code uint32) string { return d.text(d.texts[code].out) }

// Quoted returns the same as a cell of a comma text file (RFC 4180). At least
// BlockSlack bytes stand behind it, whatever they hold.
func (d *Dict) Quoted(code uint32) []byte {
	return d.bytes(d.texts[code].quoted)
}

// text is a text without copying it: what stands in the arena never changes.
func (d *Dict) text(s span) string {
	b := d.bytes(s)
	return unsafe.String(unsafe.SliceData(b), len(b))
}

func (d *Dict) bytes(s span) []byte {
	off := s >> spanBits
	return d.arena[off : off+s&(1<<spanBits-1)]
}

// keep puts a text into the arena.
func (d *Dict) keep(text []byte) span {
	off := len(d.arena)
	d.room(len(text))
	d.arena = append(d.arena, text...)
	return span(off)<<spanBits | span(len(text))
}

// keepQuoted puts a text into the arena as a cell of a comma text file, in quotes.
func (d *Dict) keepQuoted(text []byte) span {
	off := len(d.arena)
	d.room(2*len(text) + 2)
	d.arena = appendQuotes(d.arena, text)
	return span(off)<<spanBits | span(len(d.arena)-off)
}

// keepBetween puts a text without quotes into the arena, between two.
func (d *Dict) keepBetween(text []byte) span {
	off := len(d.arena)
	d.room(len(text) + 2)
	d.arena = append(append(append(d.arena, '"'), text...), '"')
	return span(off)<<spanBits | span(len(text)+2)
}

// room makes room for so many bytes in the arena.
func (d *Dict) room(n int) {
	if need := len(d.arena) + n + BlockSlack; need > cap(d.arena) {
		d.arena = append(make([]byte, 0, 2*need), d.arena...)
	}
}

// Full reports whether the dictionary has grown so large that it should be
// cleared before the next batch: memory stays flat, whatever comes in.
func (d *Dict) Full() bool { return len(d.texts) > d.most || len(d.arena) > mostBytes }

// Next returns an empty dictionary for what comes after this one is full, whose codes mean nothing any
// more; texts that it gave stay. Where few of its texts came again (they are all different, as invoice
// numbers are), that is a small one, which stays in a processor's cache, and has room for as much as it
// is to take; where that is so again, a loose one: see Codes.
func (d *Dict) Next() *Dict {
	if d.loose == 0 && d.asked >= 2*len(d.texts) {
		return newDict(d.most)
	}
	const most = fewTexts + fewTexts/4 // it takes a batch to its end
	next := newDict(fewTexts)
	next.arena = make([]byte, 0, min(mostBytes, len(d.arena)/len(d.texts)*most+BlockSlack))
	if next.texts = d.texts[:0]; cap(next.texts) < most || cap(next.texts) > 2*most {
		next.texts = make([]text, 0, most)
	}
	d.texts = nil
	switch {
	case d.most > fewTexts || d.loose == 1:
		next.slots = make([]slot, 4*fewTexts)
	case d.loose == 0:
		next.loose = loosely
	default:
		next.loose = d.loose - 1
	}
	return next
}

// Code returns the code of a text and whether it is new. What is delivered for
// a new text is empty.
func (d *Dict) Code(text []byte) (code uint32, fresh bool) {
	return d.code(text, uint32(Hash(text)))
}

// Codes gives the cells of a column of data their codes, and hears of each new one
// at once. Some cells are looked for at a time, so that what the memory has to bring
// for one of them does not wait for the one before. A loose dictionary does not look for them: each cell
// has a code of its own, but for those that are as the one above them.
func (d *Dict) Codes(data []byte, cells []Cell, codes []uint32, fresh func(code uint32)) {
	switch {
	case d.loose > 0:
		d.looseCodes(data, cells, codes, fresh)
		return
	case len(d.texts) <= nearTexts:
		d.nearCodes(data, cells, codes, fresh)
		return
	}
	var hashes [64]uint32
	for len(cells) > 0 {
		n, mask := min(len(cells), len(hashes)), uint32(len(d.slots)-1)
		touched := uint32(0)
		for i, c := range cells[:n] {
			h := uint32(Hash(data[c.Off:c.End]))
			hashes[i] = h
			touched |= d.slots[h&mask].next
		}
		d.touched = touched
		d.asked += n
		for i, c := range cells[:n] {
			own, h := data[c.Off:c.End], hashes[i]
			if i > 0 && h == hashes[i-1] && string(own) == string(data[cells[i-1].Off:cells[i-1].End]) {
				codes[i] = codes[i-1] // as above it
				continue
			}
			code, ok := d.find(own, h)
			if !ok {
				code = d.add(own, h)
				fresh(code)
			}
			codes[i] = code
		}
		cells, codes = cells[n:], codes[n:]
	}
}

// nearCodes is Codes for a dictionary of few texts.
func (d *Dict) nearCodes(data []byte, cells []Cell, codes []uint32, fresh func(code uint32)) {
	if d.near.slots == nil {
		d.near = newNear()
	}
	for i, c := range cells {
		if c.End-c.Off > nearBytes {
			codes[i] = d.codeOf(data[c.Off:c.End], fresh)
			continue
		}
		code, known := d.near.code(data, c)
		if known {
			d.asked++
		} else {
			code = d.codeOf(data[c.Off:c.End], fresh)
			d.near.put(data, c, code)
		}
		codes[i] = code
	}
	if len(d.texts) > nearTexts {
		d.near = near{}
	}
}

// codeOf is Code, but for who hears of a new text.
func (d *Dict) codeOf(text []byte, fresh func(code uint32)) uint32 {
	code, isNew := d.Code(text)
	if isNew {
		fresh(code)
	}
	return code
}

func (d *Dict) looseCodes(data []byte, cells []Cell, codes []uint32, fresh func(code uint32)) {
	for i, c := range cells {
		if own := data[c.Off:c.End]; i > 0 && string(own) == string(data[cells[i-1].Off:cells[i-1].End]) {
			codes[i] = codes[i-1]
		} else {
			codes[i] = d.appendLoose(own)
			fresh(codes[i])
		}
	}
}

// Find returns the code of a text that is there.
func (d *Dict) Find(text []byte) (code uint32, ok bool) { return d.find(text, uint32(Hash(text))) }

func (d *Dict) find(text []byte, h uint32) (code uint32, ok bool) {
	mask := uint32(len(d.slots) - 1)
	for i := h & mask; ; i = (i + 1) & mask {
		s := d.slots[i]
		if s.next == 0 {
			return 0, false
		}
		if s.hash == h && string(d.bytes(d.texts[s.next-1].seen)) == string(text) {
			return s.next - 1, true
		}
	}
}

// Touch looks at where a text with this Hash would be, for the memory to bring it.
func (d *Dict) Touch(hash uint64) { d.touched |= d.slots[uint32(hash)&uint32(len(d.slots)-1)].next }

// FindHashed is Find for a text with this Hash.
func (d *Dict) FindHashed(text []byte, hash uint64) (code uint32, ok bool) {
	return d.find(text, uint32(hash))
}

// CodeHashed is Code for a text with this Hash.
func (d *Dict) CodeHashed(text []byte, hash uint64) (code uint32, fresh bool) {
	return d.code(text, uint32(hash))
}

// code is Code for a text with this hash.
func (d *Dict) code(text []byte, h uint32) (code uint32, fresh bool) {
	d.asked++
	if code, ok := d.find(text, h); ok {
		return code, false
	}
	return d.add(text, h), true
}

// Append adds a text that nobody will look for.
func (d *Dict) Append(text []byte) (code uint32) { return d.append(text) }

func (d *Dict) append(b []byte) uint32 { return d.addText(d.keep(b)) }

// addText adds a text that stands in the arena.
func (d *Dict) addText(seen span) uint32 {
	code := uint32(len(d.texts))
	if len(d.texts) == cap(d.texts) {
		d.texts = slices.Grow(d.texts, max(len(d.texts), fewSlots/2))
	}
	d.texts = append(d.texts, text{seen: seen})
	return code
}

// appendLoose is append for a text that is delivered as it is, mostly: where that takes quotes, and none
// is to be doubled, it is kept between them.
func (d *Dict) appendLoose(b []byte) uint32 {
	needs, doubled := signsIn(b)
	var seen, quoted span
	switch {
	case !needs:
		seen = d.keep(b)
		quoted = seen
	case doubled:
		seen, quoted = d.keep(b), d.keepQuoted(b)
	default:
		quoted = d.keepBetween(b)
		seen = quoted + 1<<spanBits - 2
	}
	d.last.code, d.last.quoted = d.addText(seen), quoted
	return d.last.code
}

func (d *Dict) add(b []byte, h uint32) uint32 {
	code := d.appendLoose(b)
	if d.placed++; 2*d.placed > len(d.slots) {
		d.spread(2 * len(d.slots))
	}
	d.place(slot{code + 1, h})
	return code
}

// spread places the texts that can be found in so many slots.
func (d *Dict) spread(slots int) {
	old := d.slots
	d.slots = make([]slot, slots)
	for _, s := range old {
		if s.next > 0 {
			d.place(s)
		}
	}
}

func (d *Dict) place(s slot) {
	mask := uint32(len(d.slots) - 1)
	i := s.hash & mask
	for d.slots[i].next > 0 {
		i = (i + 1) & mask
	}
	d.slots[i] = s
}

// SetOut records what a text becomes.
func (d *Dict) SetOut(code uint32, out string) {
	t := &d.texts[code]
	switch {
	case out == d.Seen(code):
		t.out = t.seen
	case out != d.Out(code):
		t.out = d.keep([]byte(out))
	}
	switch {
	case t.out == t.seen && d.last.code == code && d.last.quoted != 0:
		t.quoted = d.last.quoted
	case !needsQuotes(out):
		t.quoted = t.out
	default:
		t.quoted = d.keepQuoted([]byte(out))
	}
	if int(code) < len(d.hashes) {
		d.hashes[code] = 0
	}
}

// OutHash is the hash of what is delivered for a text.
func (d *Dict) OutHash(code uint32) uint64 {
	if int(code) >= len(d.hashes) {
		d.hashes = append(d.hashes, make([]uint64, len(d.texts)-len(d.hashes))...)
	}
	h := &d.hashes[code]
	if *h == 0 {
		*h = Hash([]byte(d.Out(code)))
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
