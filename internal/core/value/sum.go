package value

import (
	"fmt"
	"math/big"
	"math/bits"
	"slices"
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
// one 128-bit total for each number of places that occurs, two of them in itself,
// so that adding a number of at most 18 places never rounds and seldom needs
// memory. A copy is good as long as nothing is added to either.
type Sum struct {
	own  [2]placed
	n    uint8    // how many of own are in use
	more []placed // further ones
	wide *Decimal
}

// placed is a sum of coefficients with so many places.
type placed struct {
	Sum128
	places uint8
}

// at returns the total for so many places.
func (s *Sum) at(places int) *Sum128 {
	for i := range s.own[:s.n] {
		if p := &s.own[i]; int(p.places) == places {
			return &p.Sum128
		}
	}
	if int(s.n) < len(s.own) {
		s.n++
		p := &s.own[s.n-1]
		p.places = uint8(places)
		return &p.Sum128
	}
	for i := range s.more {
		if p := &s.more[i]; int(p.places) == places {
			return &p.Sum128
		}
	}
	s.more = append(s.more, placed{places: uint8(places)})
	return &s.more[len(s.more)-1].Sum128
}

// AddSmall adds coef × 10^-places; places is at most MaxPlaces.
func (s *Sum) AddSmall(coef int64, places int) { s.at(places).Add(coef) }

// Add128 adds a sum of coefficients with so many places, at most MaxPlaces.
func (s *Sum) Add128(t Sum128, places int) {
	own := s.at(places)
	lo, carry := bits.Add64(own.lo, t.lo, 0)
	own.lo = lo
	own.hi += t.hi + int64(carry)
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

// Clone returns a sum to which more may be added.
func (s *Sum) Clone() Sum {
	c := *s
	c.more = slices.Clone(s.more)
	return c
}

// Empty reports whether nothing was added yet.
func (s *Sum) Empty() bool { return s.n == 0 && s.wide == nil }

// Merge adds all that another sum holds.
func (s *Sum) Merge(t *Sum) {
	for _, p := range t.own[:t.n] {
		s.Add128(p.Sum128, int(p.places))
	}
	for _, p := range t.more {
		s.Add128(p.Sum128, int(p.places))
	}
	if t.wide != nil {
		s.Add(*t.wide)
	}
}

// Total returns the sum, with the places of the longest number added.
func (s *Sum) Total() Decimal {
	var total Decimal
	add := func(p placed) {
		c := new(big.Int).Lsh(big.NewInt(p.hi), 64)
		c.Add(c, new(big.Int).SetUint64(p.lo))
		total = total.Add(newWide(c, int(p.places)))
	}
	for _, p := range s.own[:s.n] {
		add(p)
	}
	for _, p := range s.more {
		add(p)
	}
	if s.wide != nil {
		total = total.Add(*s.wide)
	}
	return total
}

// MarshalBinary writes the sum as its total; an empty one as nothing.
func (s Sum) MarshalBinary() ([]byte, error) {
	if s.Empty() {
		return nil, nil
	}
	return []byte(s.Total().String()), nil
}

// UnmarshalBinary reads what MarshalBinary wrote.
func (s *Sum) UnmarshalBinary(text []byte) error {
	*s = Sum{}
	if len(text) == 0 {
		return nil
	}
	d, _, ok := English.Number(text)
	if !ok {
		return fmt.Errorf("%q is no sum", text)
	}
	s.Add(d)
	return nil
}
