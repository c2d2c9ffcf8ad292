package survey

import "umbau/internal/core/table"

// figures counts distinct numbers.
type figures struct {
	slots []figure // open addressing, a power of two
	n     int
}

// figure is coef × 10^-(places-1), without zeros behind it; places is 0 where the slot is free.
type figure struct {
	coef   int64
	places int
}

// clear makes room for so many numbers and forgets all.
func (f *figures) clear(most int) {
	size := 16
	for size < 2*most {
		size *= 2
	}
	if f.n = 0; size > cap(f.slots) {
		f.slots = make([]figure, size)
		return
	}
	f.slots = f.slots[:size]
	clear(f.slots)
}

// add reports whether a number is a new one.
func (f *figures) add(coef int64, places int) bool {
	own, mask := figure{coef, places + 1}, uint64(len(f.slots)-1)
	for i := table.Mix(uint64(coef)<<5+uint64(places)) & mask; ; i = (i + 1) & mask {
		switch f.slots[i] {
		case figure{}:
			f.slots[i] = own
			f.n++
			return true
		case own:
			return false
		}
	}
}
