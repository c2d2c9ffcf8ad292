package value

import (
	"math/big"
	"math/bits"
)

// Sum128 adds whole numbers in 128 bits, which 2^64 numbers cannot overflow.
type Sum128 struct {
	hi int64
	lo uint64
}

// Add adds a number.
func (s *Sum128) Add(n int64) {
	lo, carry := bits.Add64(s.lo, uint64(n), 0)
	s.hi += n>>63 + int64(carry)
	s.lo = lo
}

// Sum adds decimals exactly. The zero Sum is empty and ready to use. It keeps
// one 128-bit total for each number of places, so that adding a number of at
// most 18 places is two instructions and never rounds.
type Sum struct {
	at   [MaxPlaces + 1]Sum128
	used uint32 // bit p: something was added at p places
	wide *Decimal
}

// AddSmall adds coef × 10^-places; places is at most MaxPlaces.
func (s *Sum) AddSmall(coef int64, places int) {
	s.at[places].Add(coef)
	s.used |= 1 << places
}

// Add128 adds a sum of coefficients with so many places, at most MaxPlaces.
func (s *Sum) Add128(t Sum128, places int) {
	own := &s.at[places]
	lo, carry := bits.Add64(own.lo, t.lo, 0)
	own.lo = lo
	own.hi += t.hi + int64(carry)
	s.used |= 1 << places
}

// Add adds a number.
func (s *Sum) Add(d Decimal) {
	if coef, places, ok := d.Small(); ok {
		s.AddSmall(coef, places)
		return
	}
	s.addWide(d)
}

// addWide is apart so that its argument, which it keeps, does not make that of
// Add escape.
func (s *Sum) addWide(d Decimal) {
	if s.wide != nil {
		d = s.wide.Add(d)
	}
	s.wide = &d
}

// Empty reports whether nothing was added yet.
func (s *Sum) Empty() bool { return s.used == 0 && s.wide == nil }

// Merge adds all that another sum holds.
func (s *Sum) Merge(t *Sum) {
	for used := t.used; used != 0; used &= used - 1 {
		p := bits.TrailingZeros32(used)
		s.Add128(t.at[p], p)
	}
	if t.wide != nil {
		s.Add(*t.wide)
	}
}

// Total returns the sum, with the places of the longest number added.
func (s *Sum) Total() Decimal {
	var total Decimal
	for p, at := range s.at {
		if s.used&(1<<p) == 0 {
			continue
		}
		c := new(big.Int).Lsh(big.NewInt(at.hi), 64)
		c.Add(c, new(big.Int).SetUint64(at.lo))
		total = total.Add(newWide(c, p))
	}
	if s.wide != nil {
		total = total.Add(*s.wide)
	}
	return total
}
