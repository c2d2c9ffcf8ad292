package value

import (
	"encoding/binary"
	"math/bits"
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
