package tie

import (
	"slices"

	"umbau/internal/core/value"
)

// Families finds wide columns that are the sums of some beside them in every row, three of them at least: a family of products before or
// behind its members. Figures of ten digits together are no chance, be they of several families with four each.
type Families struct {
	left  []family
	begun []bool // by column: it has had a figure
	open  int    // how many have not
}

// family is a wide column that may be the sum of those beside it, from one up to before another, by their places among the numbers.
type family struct {
	of, from, to int
	rows, digits int // in which it is, and two of the others have figures, and of its own figures there
}

const (
	mostFamilies = 512 // wide columns, up to which they are looked at
	mostMembers  = 100 // of a family
)

// Row takes the figures of the wide columns of a row.
func (f *Families) Row(figures []value.Decimal) {
	if f.begun == nil {
		f.begun, f.open = make([]bool, len(figures)), len(figures)
	}
	if len(figures) < 3 || len(figures) > mostFamilies || f.open == 0 && len(f.left) == 0 {
		return
	}
	before, filled := make([]value.Decimal, len(figures)+1), make([]int, len(figures)+1)
	for i, d := range figures {
		before[i+1], filled[i+1] = before[i].Add(d), filled[i]
		if d.Sign() != 0 {
			filled[i+1]++
		}
	}
	is := func(m family) bool { return before[m.to].Sub(before[m.from]).Cmp(figures[m.of]) == 0 }
	f.left = slices.DeleteFunc(f.left, func(m family) bool { return !is(m) })
	f.begin(figures, before, is)
	for i := range f.left {
		if m := &f.left[i]; filled[m.to]-filled[m.from] > 1 {
			m.rows, m.digits = m.rows+1, m.digits+figures[m.of].Digits()
		}
	}
}

// begin takes in the columns that have their first figure in a row: each may be the sum of some beside it that have none before either.
// Most are none by the last digits of their sums already.
func (f *Families) begin(figures, before []value.Decimal, is func(family) bool) {
	var fresh []int
	for of, d := range figures {
		if !f.begun[of] && d.Sign() != 0 {
			fresh = append(fresh, of)
		}
	}
	if len(fresh) == 0 {
		return
	}
	low := make([]uint64, len(before))
	for i, d := range before {
		low[i] = d.Modulo(value.MaxPlaces)
	}
	for _, of := range fresh {
		own := low[of+1] - low[of]
		for from := of - 1; from >= max(0, of-mostMembers) && !f.begun[from]; from-- {
			if low[of]-low[from] == own {
				f.add(family{of: of, from: from, to: of}, is)
			}
		}
		for to := of + 2; to <= min(len(figures), of+1+mostMembers) && !f.begun[to-1]; to++ {
			if low[to]-low[of+1] == own {
				f.add(family{of: of, from: of + 1, to: to}, is)
			}
		}
	}
	for _, of := range fresh {
		f.begun[of] = true
	}
	f.open -= len(fresh)
}

func (f *Families) add(m family, is func(family) bool) {
	if m.to-m.from > 1 && is(m) {
		f.left = append(f.left, m)
	}
}

// Sums are the places of the columns found, and of those that are called sums and have four digits at least.
func (f *Families) Sums(called func(int) bool) (out []int) {
	digits, sure := 0, []int(nil)
	for _, m := range f.left {
		if m.digits > 3 && called(m.of) && !slices.Contains(sure, m.of) {
			sure = append(sure, m.of)
		}
		if m.rows > 2 && m.digits > 3 && !slices.Contains(out, m.of) {
			out, digits = append(out, m.of), digits+m.digits
		}
	}
	slices.Sort(out)
	if digits < 10 {
		return sure
	}
	for _, of := range sure {
		if !slices.Contains(out, of) {
			out = append(out, of)
		}
	}
	return out
}
