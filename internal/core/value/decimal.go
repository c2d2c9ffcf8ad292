package value

import (
	"fmt"
	"math/big"
	"math/bits"
	"strconv"
	"strings"
)

// Decimal is an exact decimal number, coefficient × 10^-places. The zero value
// is 0. Numbers of up to 18 digits need no memory of their own; there is no
// upper limit.
type Decimal struct {
	coef   int64
	places int
	wide   *big.Int // the coefficient, where an int64 is too small
}

// MaxPlaces is the most places a Decimal has without memory of its own.
const MaxPlaces = 18

var powers = func() (p [MaxPlaces + 1]int64) {
	p[0] = 1
	for i := 1; i < len(p); i++ {
		p[i] = 10 * p[i-1]
	}
	return p
}()

// Power returns 10^n for n from 0 to MaxPlaces.
func Power(n int) int64 { return powers[n] }

// NewDecimal returns coef × 10^-places.
func NewDecimal(coef int64, places int) Decimal { return Decimal{coef: coef, places: places} }

func newWide(coef *big.Int, places int) Decimal {
	if coef.IsInt64() {
		return Decimal{coef: coef.Int64(), places: places}
	}
	return Decimal{places: places, wide: coef}
}

// Small returns coefficient and places of a number that needs no memory of its
// own and has at most MaxPlaces places.
func (d Decimal) Small() (coef int64, places int, ok bool) {
	return d.coef, d.places, d.wide == nil && d.places <= MaxPlaces
}

// Places returns how many places the number is written with.
func (d Decimal) Places() int { return d.places }

func (d Decimal) big() *big.Int {
	if d.wide != nil {
		return d.wide
	}
	return big.NewInt(d.coef)
}

var ten = big.NewInt(10)

// scaled is the coefficient of d at more places.
func (d Decimal) scaled(places int) *big.Int {
	c := d.big()
	if places > d.places {
		c = new(big.Int).Mul(c, new(big.Int).Exp(ten, big.NewInt(int64(places-d.places)), nil))
	}
	return c
}

// Sign is -1, 0 or 1.
func (d Decimal) Sign() int {
	if d.wide != nil {
		return d.wide.Sign()
	}
	switch {
	case d.coef < 0:
		return -1
	case d.coef > 0:
		return 1
	}
	return 0
}

// Neg returns -d.
func (d Decimal) Neg() Decimal {
	if d.wide == nil && d.coef != -1<<63 {
		return Decimal{coef: -d.coef, places: d.places}
	}
	return newWide(new(big.Int).Neg(d.big()), d.places)
}

// Rescale returns the number with exactly so many places, rounded half away
// from zero where digits go, and whether its value changed by that.
func (d Decimal) Rescale(places int) (Decimal, bool) {
	if d.wide == nil && places >= d.places && places-d.places <= MaxPlaces {
		if hi, lo := bits.Mul64(magnitude(d.coef), uint64(powers[places-d.places])); hi == 0 && lo < 1<<63 {
			return Decimal{coef: d.coef * powers[places-d.places], places: places}, false
		}
	}
	if places >= d.places {
		return newWide(d.scaled(places), places), false
	}
	if cut := d.places - places; d.wide == nil && cut <= MaxPlaces {
		q, r := d.coef/powers[cut], d.coef%powers[cut]
		if 2*magnitude(r) >= uint64(powers[cut]) {
			if d.coef < 0 {
				q--
			} else {
				q++
			}
		}
		return Decimal{coef: q, places: places}, r != 0
	}
	unit := new(big.Int).Exp(ten, big.NewInt(int64(d.places-places)), nil)
	q, r := new(big.Int).QuoRem(d.big(), unit, new(big.Int))
	if twice := new(big.Int).Lsh(r, 1); twice.CmpAbs(unit) >= 0 {
		q.Add(q, big.NewInt(int64(d.Sign())))
	}
	return newWide(q, places), r.Sign() != 0
}

func magnitude(n int64) uint64 {
	if n < 0 {
		return -uint64(n)
	}
	return uint64(n)
}

// Digits returns how many digits the number has, zeros at either end aside that it does
// not need.
func (d Decimal) Digits() int {
	return len(strings.TrimPrefix(d.Shorten().big().String(), "-"))
}

// Modulo returns the coefficient with so many places modulo 2^64.
func (d Decimal) Modulo(places int) uint64 {
	if shift := places - d.places; d.wide == nil && shift >= 0 && shift <= MaxPlaces {
		return uint64(d.coef) * uint64(powers[shift])
	}
	r, _ := d.Rescale(places)
	c := r.big()
	low := new(big.Int).And(new(big.Int).Abs(c), new(big.Int).SetUint64(1<<64-1)).Uint64()
	if c.Sign() < 0 {
		return -low
	}
	return low
}

// Shorten returns the number without trailing zeros in its places.
func (d Decimal) Shorten() Decimal {
	if d.wide == nil {
		for d.places > 0 && d.coef%10 == 0 {
			d.coef, d.places = d.coef/10, d.places-1
		}
		return d
	}
	digits := d.wide.String()
	zeros := min(len(digits)-len(strings.TrimRight(digits, "0")), d.places)
	if zeros == 0 {
		return d
	}
	short, _ := d.Rescale(d.places - zeros)
	return short
}

// String writes the number with all its places: -0.50, 1200, 3.125. Zero has
// no sign.
func (d Decimal) String() string {
	if d.wide == nil {
		return string(AppendFixed(nil, d.coef, d.places))
	}
	digits := new(big.Int).Abs(d.wide).String()
	if len(digits) <= d.places {
		digits = strings.Repeat("0", d.places-len(digits)+1) + digits
	}
	if d.places > 0 {
		digits = digits[:len(digits)-d.places] + "." + digits[len(digits)-d.places:]
	}
	if d.wide.Sign() < 0 {
		return "-" + digits
	}
	return digits
}

// pairs are the numbers from 00 to 99.
const pairs = "0001020304050607080910111213141516171819202122232425262728293031323334353637383940414243444546474849" +
	"5051525354555657585960616263646566676869707172737475767778798081828384858687888990919293949596979899"

// AppendFixed appends coef × 10^-places to dst, written with all its places.
func AppendFixed(dst []byte, coef int64, places int) []byte {
	m := magnitude(coef)
	if coef < 0 {
		dst = append(dst, '-')
	}
	if places == 0 {
		return strconv.AppendUint(dst, m, 10)
	}
	if places > MaxPlaces {
		digits := strconv.FormatUint(m, 10)
		if n := places - len(digits); n >= 0 {
			dst = append(append(dst, "0."...), strings.Repeat("0", n)...)
			return append(dst, digits...)
		}
		dst = append(append(dst, digits[:len(digits)-places]...), '.')
		return append(dst, digits[len(digits)-places:]...)
	}
	var digits [24]byte // from the end: places, point, whole
	at := len(digits)
	for ; places > 1; places -= 2 {
		at -= 2
		copy(digits[at:], pairs[m%100*2:][:2])
		m /= 100
	}
	if places > 0 {
		at--
		digits[at] = byte('0' + m%10)
		m /= 10
	}
	at--
	digits[at] = '.'
	for ; m > 9; m /= 100 {
		at -= 2
		copy(digits[at:], pairs[m%100*2:][:2])
	}
	if m > 0 || digits[at] == '.' {
		at--
		digits[at] = byte('0' + m)
	}
	return append(dst, digits[at:]...)
}

// Coefficient is the coefficient of the number at so many places, and whether digits are
// lost there.
func (d Decimal) Coefficient(places int) (c *big.Int, lost bool) {
	d, lost = d.Rescale(places)
	return new(big.Int).Set(d.big()), lost
}

// WithCoefficient is coef × 10^-places.
func WithCoefficient(coef *big.Int, places int) Decimal { return newWide(coef, places) }

// MarshalBinary implements encoding.BinaryMarshaler.
func (d Decimal) MarshalBinary() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalBinary implements encoding.BinaryUnmarshaler.
func (d *Decimal) UnmarshalBinary(text []byte) error {
	read, _, ok := English.Number(text)
	if !ok {
		return fmt.Errorf("%q is no number", text)
	}
	*d = read
	return nil
}
