package markup

import (
	"bytes"
	"strconv"
)

// significant is how many digits of a number a spreadsheet shows.
const significant = 15

// AppendNumber appends a number as it is stored, at 15 significant digits and
// without an exponent. ok is false for what is no number, or none that a
// spreadsheet can hold.
func AppendNumber(dst, v []byte) (out []byte, ok bool) {
	var buf [32]byte
	digits, tens, negative, ok := parse(buf[:0], v)
	if !ok {
		return dst, false
	}
	if len(digits) > significant {
		up := digits[significant] >= '5'
		tens += len(digits) - significant
		digits = digits[:significant]
		for i := significant - 1; up; i-- {
			if i < 0 {
				digits[0], tens = '1', tens+significant
				digits = digits[:1]
				break
			}
			if up = digits[i] == '9'; up {
				digits[i] = '0'
			} else {
				digits[i]++
			}
		}
	}
	for len(digits) > 0 && digits[len(digits)-1] == '0' {
		digits, tens = digits[:len(digits)-1], tens+1
	}
	if len(digits) == 0 {
		return append(dst, '0'), true
	}
	if len(digits)+tens > 309 || tens < -400 {
		return dst, false
	}
	if negative {
		dst = append(dst, '-')
	}
	switch point := len(digits) + tens; {
	case tens >= 0:
		dst = append(dst, digits...)
		return append(dst, bytes.Repeat([]byte{'0'}, tens)...), true
	case point > 0:
		dst = append(append(dst, digits[:point]...), '.')
		return append(dst, digits[point:]...), true
	default:
		dst = append(append(dst, "0."...), bytes.Repeat([]byte{'0'}, -point)...)
		return append(dst, digits...), true
	}
}

// parse reads a number as digits × 10^tens, without leading zeros. Digits far
// beyond those that count are cut.
func parse(digits, v []byte) (_ []byte, tens int, negative, ok bool) {
	if len(v) > 0 && (v[0] == '-' || v[0] == '+') {
		negative, v = v[0] == '-', v[1:]
	}
	if i := bytes.IndexAny(v, "eE"); i > 0 {
		n, err := strconv.Atoi(string(v[i+1:]))
		if err != nil || n > 400 || n < -400 {
			return nil, 0, false, false
		}
		tens, v = n, v[:i]
	}
	point, seen := false, false
	for _, c := range v {
		switch {
		case c == '.' && !point:
			point = true
		case c < '0' || c > '9':
			return nil, 0, false, false
		default:
			seen = true
			room := len(digits) < cap(digits)
			if room && (c != '0' || len(digits) > 0) {
				digits = append(digits, c)
			}
			switch {
			case point && room:
				tens--
			case !point && !room:
				tens++
			}
		}
	}
	return digits, tens, negative, seen
}
