package value

import (
	"math/big"
	"math/bits"
)

// QuotientDigits is how many significant digits a quotient that does not end has.
const QuotientDigits = 34

// aligned returns the coefficients of two numbers at the places of the longer one;
// ok is false where they need more than 64 bits.
func aligned(d, e Decimal) (a, b int64, places int, ok bool) {
	if d.wide != nil || e.wide != nil {
		return 0, 0, 0, false
	}
	switch n := d.places - e.places; {
	case n == 0:
		return d.coef, e.coef, d.places, true
	case n > 0 && n <= MaxPlaces:
		b, ok = times(e.coef, powers[n])
		return d.coef, b, d.places, ok
	case n < 0 && n >= -MaxPlaces:
		a, ok = times(d.coef, powers[-n])
		return a, e.coef, e.places, ok
	}
	return 0, 0, 0, false
}

// times is a product, if it fits.
func times(a, b int64) (int64, bool) {
	hi, lo := bits.Mul64(magnitude(a), magnitude(b))
	if hi != 0 || lo >= 1<<63 {
		return 0, false
	}
	if (a < 0) != (b < 0) {
		return -int64(lo), true
	}
	return int64(lo), true
}

// Add returns d + e with the places of the longer one.
func (d Decimal) Add(e Decimal) Decimal {
	if a, b, places, ok := aligned(d, e); ok {
		if sum := a + b; (a < 0) != (b < 0) || (sum < 0) == (a < 0) {
			return Decimal{coef: sum, places: places}
		}
	}
	places := max(d.places, e.places)
	return newWide(new(big.Int).Add(d.scaled(places), e.scaled(places)), places)
}

// Sub returns d - e.
func (d Decimal) Sub(e Decimal) Decimal { return d.Add(e.Neg()) }

// Cmp is -1, 0 or 1 as d is less than, equal to or greater than e.
func (d Decimal) Cmp(e Decimal) int {
	if a, b, _, ok := aligned(d, e); ok {
		switch {
		case a < b:
			return -1
		case a > b:
			return 1
		}
		return 0
	}
	places := max(d.places, e.places)
	return d.scaled(places).Cmp(e.scaled(places))
}

// Mul returns d × e, with the places of both.
func (d Decimal) Mul(e Decimal) Decimal {
	places := d.places + e.places
	if d.wide == nil && e.wide == nil {
		if product, ok := times(d.coef, e.coef); ok {
			return Decimal{coef: product, places: places}
		}
	}
	return newWide(new(big.Int).Mul(d.big(), e.big()), places)
}

// Quo returns d / e: exactly where the quotient ends, else at 34 significant
// digits, halves away from zero. ok is false where e is zero.
func (d Decimal) Quo(e Decimal) (q Decimal, ok bool) {
	if e.Sign() == 0 {
		return q, false
	}
	if q, ok := shortQuotient(d, e); ok {
		return q, true
	}
	num, den := d.big(), e.big()
	negative := num.Sign()*den.Sign() < 0
	num, den = new(big.Int).Abs(num), new(big.Int).Abs(den)
	if g := new(big.Int).GCD(nil, nil, num, den); g.Sign() > 0 {
		num, den = num.Quo(num, g), den.Quo(den, g)
	}
	digits, ends := digitsOf(den)
	if !ends {
		digits = QuotientDigits - (len(num.String()) - len(den.String()))
	}
	coef, rest := divided(num, den, digits)
	if !ends && len(coef.String()) > QuotientDigits {
		digits--
		coef, rest = divided(num, den, digits)
	}
	if !ends && rest.Lsh(rest, 1).CmpAbs(shifted(den, -digits)) >= 0 {
		coef.Add(coef, big.NewInt(1))
	}
	if negative {
		coef.Neg(coef)
	}
	places := digits + d.places - e.places
	if places < 0 {
		coef, places = shifted(coef, -places), 0
	}
	return newWide(coef, places).Shorten(), true
}

// shortQuotient divides in 64 bits, digit by digit, where the quotient ends soon.
func shortQuotient(d, e Decimal) (q Decimal, ok bool) {
	if d.wide != nil || e.wide != nil || d.places < e.places {
		return q, false
	}
	num, den, places := magnitude(d.coef), magnitude(e.coef), d.places-e.places
	coef, rest := num/den, num%den
	for rest != 0 {
		hi, lo := bits.Mul64(rest, 10)
		if hi >= den || coef > (1<<63-10)/10 || places >= MaxPlaces {
			return q, false
		}
		var digit uint64
		digit, rest = bits.Div64(hi, lo, den)
		coef, places = 10*coef+digit, places+1
	}
	if coef >= 1<<63 {
		return q, false
	}
	q = Decimal{coef: int64(coef), places: places}
	if (d.coef < 0) != (e.coef < 0) {
		q.coef = -q.coef
	}
	return q.Shorten(), true
}

// digitsOf tells whether 1/den ends, and after how many digits.
func digitsOf(den *big.Int) (digits int, ends bool) {
	rest := new(big.Int).Set(den)
	twos := int(rest.TrailingZeroBits())
	rest.Rsh(rest, uint(twos))
	fives, five, r := 0, big.NewInt(5), new(big.Int)
	for {
		q, _ := new(big.Int).QuoRem(rest, five, r)
		if r.Sign() != 0 {
			break
		}
		rest, fives = q, fives+1
	}
	return max(twos, fives), rest.IsInt64() && rest.Int64() == 1
}

// divided returns num × 10^digits / den and what remains. The rest is that of a
// division by den × 10^-digits where digits is less than 0.
func divided(num, den *big.Int, digits int) (q, rest *big.Int) {
	return new(big.Int).QuoRem(shifted(num, digits), shifted(den, -digits), new(big.Int))
}

// shifted is n × 10^digits, n where digits is less than 0.
func shifted(n *big.Int, digits int) *big.Int {
	if digits <= 0 {
		return n
	}
	return new(big.Int).Mul(n, new(big.Int).Exp(ten, big.NewInt(int64(digits)), nil))
}

// Round returns the number rounded to so many places, half away from zero; before
// the point where places is less than 0. It has no more places than before.
func (d Decimal) Round(places int) Decimal {
	if places >= d.places {
		return d
	}
	r, _ := d.Rescale(places)
	if places < 0 {
		r = newWide(shifted(r.big(), -places), 0)
	}
	return r
}

// QuoTo returns d / e with at most so many places, rounded half away from zero from the
// exact quotient. ok is false where e is zero.
func (d Decimal) QuoTo(e Decimal, places int) (q Decimal, ok bool) {
	if e.Sign() == 0 {
		return q, false
	}
	common := max(d.places, e.places)
	num, den := shifted(d.scaled(common), places), e.scaled(common)
	whole, rest := new(big.Int).QuoRem(num, den, new(big.Int))
	if twice := rest.Lsh(rest, 1); twice.CmpAbs(den) >= 0 {
		whole.Add(whole, big.NewInt(int64(d.Sign()*e.Sign())))
	}
	return newWide(whole, places).Shorten(), true
}

// Abs returns the number without its sign.
func (d Decimal) Abs() Decimal {
	if d.Sign() < 0 {
		return d.Neg()
	}
	return d
}
