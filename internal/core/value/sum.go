package value

import (
	"math/big"
	"math/bits"
)

// Sum adds decimals exactly. The zero Sum is empty and ready to use. It keeps
// one 128-bit total for each number of places, so that adding a number of at
// most 18 places is two instructions and never rounds.
type Sum struct {
	hi   [MaxPlaces + 1]int64
	lo   [MaxPlaces + 1]uint64
	used uint32 // bit p: something was added at p places
	wide *Decimal
}

// AddSmall adds coef × 10^-places; places is at most MaxPlaces.
func (s *Sum) AddSmall(coef int64, places int) {
	lo, carry := bits.Add64(s.lo[places], uint64(coef), 0)
	s.lo[places] = lo
	s.hi[places] += coef>>63 + int64(carry)
	s.used |= 1 << places
}

// Add adds a number.
func (s *Sum) Add(d Decimal) {
	if coef, places, ok := d.Small(); ok {
		s.AddSmall(coef, places)
		return
	}
	if s.wide != nil {
		d = s.wide.Add(d)
	}
	s.wide = &d
}

// Merge adds all that another sum holds.
func (s *Sum) Merge(t *Sum) {
	for p := range s.lo {
		if t.used&(1<<p) == 0 {
			continue
		}
		lo, carry := bits.Add64(s.lo[p], t.lo[p], 0)
		s.lo[p] = lo
		s.hi[p] += t.hi[p] + int64(carry)
	}
	s.used |= t.used
	if t.wide != nil {
		s.Add(*t.wide)
	}
}

// Total returns the sum, with the places of the longest number added.
func (s *Sum) Total() Decimal {
	var total Decimal
	for p := range s.lo {
		if s.used&(1<<p) == 0 {
			continue
		}
		c := new(big.Int).Lsh(big.NewInt(s.hi[p]), 64)
		c.Add(c, new(big.Int).SetUint64(s.lo[p]))
		total = total.Add(newWide(c, p))
	}
	if s.wide != nil {
		total = total.Add(*s.wide)
	}
	return total
}
