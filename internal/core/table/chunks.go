package table

import "iter"

// Chunks is a list that grows without moving what it holds. The zero Chunks is
// empty.
type Chunks[T any] struct {
	parts [][]T
	n     int
}

const chunk = 128

// Len returns how many values it holds.
func (c *Chunks[T]) Len() int { return c.n }

// At returns value i.
func (c *Chunks[T]) At(i int) *T { return &c.parts[uint(i)/chunk][uint(i)%chunk] }

// Add adds a value.
func (c *Chunks[T]) Add(v T) {
	if c.n%chunk == 0 {
		c.parts = append(c.parts, make([]T, chunk))
	}
	*c.At(c.n) = v
	c.n++
}

// All goes through the values in their order.
func (c *Chunks[T]) All() iter.Seq[*T] {
	return func(yield func(*T) bool) {
		for i := range c.n {
			if !yield(c.At(i)) {
				return
			}
		}
	}
}
