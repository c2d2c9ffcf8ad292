package names

import "umbau/internal/core/table"

// Standards gives each of the standards of a column a code, from 0 in the order of their coming.
type Standards struct {
	Most   int // there can be
	n      int
	which  []int32     // by which of the first spellings it is: its code, and 1
	others *table.Dict // of names of which that is not known
}

// Code returns the code of the standard of a name, and whether it is new. Where it is not known which of the first
// spellings it is, two are one if as says the same of both.
func (s *Standards) Code(n *Seen, as func(standard string) []byte) (code int, fresh bool) {
	if n.Which > 0 {
		if s.which == nil {
			s.which = make([]int32, 0, s.Most)
		}
		at := slotOf(&s.which, n.Which)
		if fresh = *at == 0; fresh {
			s.n++
			*at = int32(s.n)
		}
		return int(*at) - 1, fresh
	}
	if s.others == nil {
		s.others = table.NewNameDict()
		s.others.Expect(s.Most)
	}
	c, fresh := s.others.Code(as(n.Standard))
	s.n = s.others.Len()
	return int(c), fresh
}

// slotOf is where a list by first spellings has one of them.
func slotOf(list *[]int32, which int32) *int32 {
	if more := int(which) - len(*list); more > 0 {
		*list = append(*list, make([]int32, more)...)
	}
	return &(*list)[which-1]
}
