package value

import (
	"encoding/binary"
	"math/bits"
	"unicode/utf8"
)

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
	zeros = ones * '0'
)

// PlainAt is Plain for the text data[off:end] with a byte as the point. Where at most eight characters
// follow the sign, and data goes on for eight bytes, it reads them all at once
// (the eight-digit parsing of D. Lemire, with the point taken out first).
func PlainAt(data []byte, off, end uint32, sign byte) (coef int64, places int, neat, ok bool) {
	at, n := off, end-off
	if n == 0 {
		return 0, 0, false, false
	}
	negative := data[off] == '-'
	if negative {
		at, n = at+1, n-1
	}
	if n-1 > 7 || int(at)+8 > len(data) {
		return Plain(data[off:end], sign)
	}
	// The text stands in the high bytes of w, its last character highest.
	w := binary.LittleEndian.Uint64(data[at:]) << (64 - 8*n)
	x := w ^ ones*uint64(sign)
	if m := (x - ones) &^ x & highs; m != 0 {
		point := uint32(bits.TrailingZeros64(m)) >> 3
		if point == 7 || point == 8-n {
			return 0, 0, false, false
		}
		places = int(7 - point)
		before := uint64(1)<<(8*point) - 1
		w = w&^(before<<8|0xff) | w&before<<8
		n--
	}
	w = (w | uint64(zeros)>>(8*n)) ^ zeros
	if (w|(w+ones*0x76))&highs != 0 {
		return 0, 0, false, false
	}
	w = w*10 + w>>8
	const low = 0x000000ff000000ff
	coef = int64((w&low*(100+1000000<<32) + w>>16&low*(1+10000<<32)) >> 32)
	neat = (int(n)-places == 1 || data[at] != '0') && (places == 0 || sign == '.')
	if negative {
		return -coef, places, neat && coef != 0, true
	}
	return coef, places, neat, true
}

// Grouped reads a number in groups of three, a minus at most before it, 18 digits
// at most, as Number does. ok is false for every other text, number or not.
func (s *Style) Grouped(b []byte) (coef int64, places int, ok bool) {
	negative := len(b) > 0 && b[0] == '-'
	if negative {
		b = b[1:]
	}
	if len(b) < 5 || len(b) > 24 || b[0] == '0' || s.Group <= 0 || s.Group >= utf8.RuneSelf || s.Pairs {
		return 0, 0, false
	}
	count := 0 // of digits
	for count < 4 && digit(b[count]) {
		coef = coef*10 + int64(b[count]-'0')
		count++
	}
	if count == 0 || count > 3 || b[count] != byte(s.Group) {
		return 0, 0, false
	}
	for b = b[count:]; len(b) > 3 && b[0] == byte(s.Group); b = b[4:] {
		x, y, z := b[1]-'0', b[2]-'0', b[3]-'0'
		if x > 9 || y > 9 || z > 9 {
			return 0, 0, false
		}
		coef = coef*1000 + int64(x)*100 + int64(y)*10 + int64(z)
		count += 3
	}
	if len(b) > 0 {
		if b[0] != s.PointByte() {
			return 0, 0, false
		}
		places = len(b) - 1
		for _, c := range b[1:] {
			if !digit(c) {
				return 0, 0, false
			}
			coef = coef*10 + int64(c-'0')
		}
	}
	if count+places > MaxPlaces {
		return 0, 0, false
	}
	if negative {
		coef = -coef
	}
	return coef, places, true
}
