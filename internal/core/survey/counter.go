package survey

import "umbau/internal/core/table"

// counter counts the distinct values of a column of which not all texts are kept: exactly up to a number, beyond
// that it estimates them.
type counter struct {
	slots   []uint64 // open addressing, a power of two: hashes, a bit for each group in the low ones; 0 is free
	n       int
	most    int
	waiting []uint64 // to be put
	touched uint64
	sketch  *sketch // once there are more
}

// groupBits are the low bits of a hash that say which groups a value has cells in; the last one stands for all further ones.
const (
	groupBits = 16
	groupMask = 1<<groupBits - 1
)

// mostCounted is how many values of a column are counted exactly, fewer where a table has many columns; mostAmounts is how
// many where numbers have decimals: those are amounts, of which nobody needs to know more than about how many there are.
const (
	mostCounted = 1 << 15
	mostAmounts = 1 << 13
)

// newCounter is one of so many of a table.
func newCounter(columns int) *counter {
	most := min(mostCounted, 1<<19/max(columns, 1))
	if most <= mostDistinct {
		return &counter{sketch: &sketch{}}
	}
	return &counter{most: most, slots: make([]uint64, 4*mostDistinct), waiting: make([]uint64, 0, 64)}
}

// add takes the table.Hash of a value, and the group of its cells.
func (c *counter) add(hash uint64, group int) {
	value := table.Mix(hash) &^ groupMask
	if c.sketch != nil {
		c.sketch.add(value)
		return
	}
	c.touched |= c.slots[value>>32&uint64(len(c.slots)-1)] // so that the memory brings it until it is needed
	c.waiting = append(c.waiting, value|1<<min(group, groupBits-1))
	if len(c.waiting) == cap(c.waiting) {
		c.flush()
	}
}

// addNumber takes a number.
func (c *counter) addNumber(s *short, group int) {
	hash, decimals := hashOfNumber(s.coef, s.places)
	if c.sketch == nil && decimals && c.n > mostAmounts {
		if c.flush(); c.sketch == nil {
			c.estimate()
		}
	}
	c.add(hash, group)
}

// flush puts what waits.
func (c *counter) flush() {
	for i, v := range c.waiting {
		if c.put(v); c.n > c.most {
			c.estimate()
			for _, v := range c.waiting[i+1:] {
				c.sketch.add(v &^ groupMask)
			}
			break
		}
		if 2*c.n > len(c.slots) {
			old := c.slots
			c.slots, c.n = make([]uint64, 2*len(old)), 0
			for _, s := range old {
				if s != 0 {
					c.put(s)
				}
			}
		}
	}
	c.waiting = c.waiting[:0]
}

// put puts a value with its groups.
func (c *counter) put(v uint64) {
	mask := uint64(len(c.slots) - 1)
	for i := v >> 32 & mask; ; i = (i + 1) & mask {
		switch s := c.slots[i]; {
		case s == 0:
			c.slots[i] = v
			c.n++
			return
		case (s^v)&^groupMask == 0:
			c.slots[i] = s | v
			return
		}
	}
}

// estimate goes over to the sketch.
func (c *counter) estimate() {
	c.sketch = &sketch{}
	for _, s := range c.slots {
		if s != 0 {
			c.sketch.add(s &^ groupMask)
		}
	}
	c.slots = nil
}

// count is how many values there are in the groups that are meant, of so many, all of them where they are estimated.
func (c *counter) count(groups int, meant func(group int) bool) (n int, exact bool) {
	if c.flush(); c.sketch != nil {
		return c.sketch.count(), false
	}
	mask := uint64(0)
	for g := range groups {
		if meant(g) {
			mask |= 1 << min(g, groupBits-1)
		}
	}
	for _, s := range c.slots {
		if s&mask != 0 {
			n++
		}
	}
	return n, true
}
