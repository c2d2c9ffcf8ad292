package table

import (
	"encoding/binary"

	"umbau/internal/core/value"
)

// Fixed reads cells that hold plain numbers with exactly so many places, each
// with all of its bytes at once.
type Fixed struct {
	places uint32
	before uint64 // the bytes before the point, in a word whose highest byte is the last digit
	point  uint64 // the byte of the point
	want   uint64 // a point there
	least  uint32 // characters, sign aside
	form   Form   // of a number without a needless zero
	short  bool   // numbers that end with a zero behind the point are others
}

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
	zeros = ones * '0'
)

// NewFixed returns a reader of numbers with so many places, from 0 to 6, behind
// the byte sign; ok is false for other numbers of places. A short one leaves numbers
// that end with a zero behind the point to others.
func NewFixed(places int, sign byte, short bool) (f Fixed, ok bool) {
	if places < 0 || places > 6 {
		return f, false
	}
	f = Fixed{places: uint32(places), least: 1, form: Copy, short: short && places > 0}
	if places > 0 {
		at := 8 * (7 - places)
		f.before, f.point, f.want = 1<<at-1, 0xff<<at, uint64(sign)<<at
		f.least = f.places + 2
		if sign != '.' {
			f.form = Print
		}
	}
	return f, true
}

// Read reads cells of data into numbers, and adds each to the sum beside it, or all
// to the only one, without its point. It goes up to the first that is no such number
// (a minus at most, and at most eight characters, digits with a point where it must
// be) and returns how many it read. Those whose text is what a delivery has (no
// needless zero before, no -0) are to be copied.
func (f *Fixed) Read(data []byte, cells []Cell, numbers []Number, sums []value.Sum128) int {
	numbers = numbers[:len(cells)]
	beside := -1
	if len(sums) == 1 {
		beside = 0
	}
	for i, cell := range cells {
		size, end := cell.End-cell.Off, int(cell.End)
		if size-1 > 8 || end < 8 || end > len(data) {
			return i
		}
		first := data[cell.Off]
		negative := first == '-'
		if negative {
			first = data[cell.Off+1]
			size--
		}
		if size-f.least > 8-f.least {
			return i
		}
		// The text stands in the high bytes of w, its last character highest.
		shift := (64 - 8*size) & 63
		w := binary.LittleEndian.Uint64(data[end-8:]) >> shift << shift
		if w&f.point != f.want || f.short && data[end-1] == '0' {
			return i
		}
		if f.places > 0 {
			w = w&^(f.before|f.point) | w&f.before<<8
			size--
		}
		w = (w | uint64(zeros)>>8>>((8*size-8)&63)) ^ zeros
		if (w|(w+ones*0x76))&highs != 0 {
			return i
		}
		// The eight-digit parsing of D. Lemire.
		w = w*10 + w>>8
		const low = 0x000000ff000000ff
		coef := int64((w&low*(100+1000000<<32) + w>>16&low*(1+10000<<32)) >> 32)
		form := f.form
		if first == '0' && size-f.places != 1 {
			form = Print
		}
		if negative {
			if coef == 0 {
				form = Print
			}
			coef = -coef
		}
		sums[i&beside].Add(coef)
		n := &numbers[i]
		n.Coef, n.Off, n.Len, n.Places, n.Form = coef, cell.Off, uint8(cell.End-cell.Off), uint8(f.places), form
	}
	return len(cells)
}
