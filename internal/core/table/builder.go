package table

import (
	"slices"

	"umbau/internal/core/value"
)

// Builder makes batches of rows that come one by one. The zero Builder is not ready; use
// NewBuilder.
type Builder struct {
	batch Batch
}

// NewBuilder returns a builder of batches with these columns: numeric says which hold
// numbers, the others hold texts.
func NewBuilder(numeric []bool) *Builder {
	b := &Builder{Batch{Slots: 1, Columns: make([]Column, len(numeric))}}
	for i, n := range numeric {
		c := &b.batch.Columns[i]
		if c.Level = PerRow; n {
			c.Numbers = []Number{}
		} else {
			c.Texts = NewDict()
		}
	}
	return b
}

// Text sets what the row under way has in a column of texts.
func (b *Builder) Text(column int, text []byte) {
	c := &b.batch.Columns[column]
	code, fresh := c.Texts.Code(text)
	if fresh {
		c.Texts.SetOut(code, c.Texts.Seen(code))
	}
	c.Codes = append(c.Codes, code)
}

// Number sets what it has in a column of numbers.
func (b *Builder) Number(column int, d value.Decimal) {
	c := &b.batch.Columns[column]
	c.Numbers = append(c.Numbers, Number{})
	c.Set(len(c.Numbers)-1, d)
}

// NoNumber says that it has none.
func (b *Builder) NoNumber(column int) {
	c := &b.batch.Columns[column]
	c.Numbers = append(c.Numbers, Number{})
}

// EndRow ends a row, all of whose columns are set.
func (b *Builder) EndRow() {
	b.batch.Rows++
	b.batch.Fates = append(b.batch.Fates, Delivered)
}

// Strong says of the row that ended last that it stands out.
func (b *Builder) Strong() {
	b.batch.Strong = append(b.batch.Strong, b.batch.Rows-1)
}

// Rows is how many rows there are.
func (b *Builder) Rows() int { return b.batch.Rows }

// Batch is what was built. It is good until Clear.
func (b *Builder) Batch() *Batch { return &b.batch }

// Clear begins another batch.
func (b *Builder) Clear() {
	b.batch.Rows, b.batch.Fates, b.batch.Strong = 0, b.batch.Fates[:0], b.batch.Strong[:0]
	for i := range b.batch.Columns {
		c := &b.batch.Columns[i]
		c.Codes, c.Wide = c.Codes[:0], c.Wide[:0]
		if c.Numbers != nil {
			c.Numbers = slices.Grow(c.Numbers[:0], 1)
		} else if c.Texts.Full() {
			c.Texts = c.Texts.Next()
		}
	}
}
