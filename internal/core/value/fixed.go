package value

import "encoding/binary"

// Fixed reads plain numbers that have exactly so many places, all bytes at once.
type Fixed struct {
	places int
	before uint64 // the bytes before the point, in a word whose highest byte is the last digit
	point  uint64 // the byte of the point
	want   uint64 // a point there
	copied bool   // the text is what a delivery has
}

// Of a word whose highest bytes are n bytes of text: those bytes, and digits zero
// in the others.
var textBytes, zeroBytes [16]uint64

func init() {
	for n := 1; n <= 8; n++ {
		textBytes[n] = ^uint64(0) << (64 - 8*n)
		zeroBytes[n] = zeros &^ textBytes[n]
	}
}

// NewFixed returns a reader of numbers with so many places, from 0 to 6, behind
// the byte sign; ok is false for other numbers of places.
func NewFixed(places int, sign byte) (f Fixed, ok bool) {
	if places < 0 || places > 6 {
		return f, false
	}
	f.places, f.copied = places, places == 0 || sign == '.'
	if places > 0 {
		at := 8 * (7 - places)
		f.before, f.point, f.want = 1<<at-1, 0xff<<at, uint64(sign)<<at
	}
	return f, true
}

// Read reads the text data[off:end], which is not empty: a minus at most, and at
// most eight characters, digits with a point where it must be. It returns the
// number without its point; neat says that the text is what a delivery has (no
// needless zero before, no -0). ok is false for every other text, number or not.
func (f *Fixed) Read(data []byte, off, end uint32) (coef int64, neat, ok bool) {
	first := data[off]
	negative := first == '-'
	if negative {
		off++
		first = data[off]
	}
	n := end - off
	if n-1 > 7 || end < 8 {
		return 0, false, false
	}
	w := binary.LittleEndian.Uint64(data[end-8:]) & textBytes[n&15]
	if f.places > 0 {
		if w&f.point != f.want || n < uint32(f.places)+2 {
			return 0, false, false
		}
		w = w&^(f.before|f.point) | w&f.before<<8
		n--
	}
	w = (w | zeroBytes[n&15]) ^ zeros
	if (w|(w+ones*0x76))&highs != 0 {
		return 0, false, false
	}
	w = w*10 + w>>8
	const low = 0x000000ff000000ff
	coef = int64((w&low*(100+1000000<<32) + w>>16&low*(1+10000<<32)) >> 32)
	neat = f.copied && (first != '0' || int(n)-f.places == 1)
	if negative {
		return -coef, neat && coef != 0, true
	}
	return coef, neat, true
}
