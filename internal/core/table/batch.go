package table

import (
	"umbau/internal/core/place"
	"umbau/internal/core/value"
)

// Level says how often a column has a value in a batch.
type Level uint8

const (
	PerExtract Level = iota // one value
	PerRow                  // one for each extract row
	PerSlot                 // one for each slot
	PerCell                 // one for each extract row and slot
)

// Fate is what becomes of a fact row.
type Fate uint8

// The fates.
const (
	Delivered Fate = iota
	Skipped
	Dropped
	Held
	Filtered // not wanted
	Zero     // every measure is zero or empty
	Repeated // its grain stands again, and another row is delivered for it
	Summed   // the same, and its measures are in that row
)

var fateNames = [...]string{"delivered", "skipped", "dropped", "held", "filtered", "zero", "repeated", "summed"}

// String returns the fate as the record calls it.
func (f Fate) String() string { return fateNames[f] }

// InFact reports whether what the row has is in the fact table.
func (f Fate) InFact() bool { return f == Delivered || f == Summed }

// Passed reports whether the row never came to be: no name in it counts.
func (f Fate) Passed() bool { return f == Skipped || f == Filtered }

// Batch is fact rows as columns. Fact row number row × Slots + slot has the
// fate Fates[row × Slots + slot]; rows that are not delivered stay in the
// columns and are passed over.
type Batch struct {
	Rows    int
	Slots   int
	Fates   []Fate
	Columns []Column // one a column of the plan, helpers among them
	Data    []byte   // the bytes that numbers refer to

	Strong []int // rows that stand out, such as subtotals, in order

	Where   func(row, slot int) place.Place // of a fact row; nil where nobody knows
	Extract int                             // the number of the extract that the rows are of, where they are of one
}

// Delivered goes through the fact rows that are delivered: their row and slot.
func (b *Batch) Delivered(yield func(row, slot int) bool) {
	at := 0
	for row := range b.Rows {
		for slot := range b.Slots {
			if b.Fates[at] == Delivered && !yield(row, slot) {
				return
			}
			at++
		}
	}
}

// Column is one column of a batch: Texts for all that is delivered as text,
// Numbers for numbers.
type Column struct {
	Level   Level
	Codes   []uint32 // a code for each value of the level
	Texts   *Dict    // what the codes mean
	Numbers []Number // in place of codes in a column of numbers
	Wide    []value.Decimal
}

// At returns the index of the value that a fact row has in the column.
func (c *Column) At(row, slot, slots int) int {
	switch c.Level {
	case PerRow:
		return row
	case PerSlot:
		return slot
	case PerCell:
		return row*slots + slot
	}
	return 0
}

// Form is how a number is to be written.
type Form uint8

const (
	Empty Form = iota // no value
	Print             // from Coef and Places
	Copy              // as Data[Off:Off+Len], which is the same
	Large             // as Column.Wide[Coef]
)

// Number is one exact number of a column, Coef × 10^-Places.
type Number struct {
	Coef   int64
	Off    uint32
	Len    uint8
	Places uint8
	Form   Form
}

// Decimal returns the number; ok is false where there is none.
func (c *Column) Decimal(i int) (d value.Decimal, ok bool) {
	switch n := &c.Numbers[i]; n.Form {
	case Print, Copy:
		return value.NewDecimal(n.Coef, int(n.Places)), true
	case Large:
		return c.Wide[n.Coef], true
	}
	return d, false
}

// AddTo adds number i, if there is one.
func (c *Column) AddTo(s *value.Sum, i int) {
	switch n := &c.Numbers[i]; n.Form {
	case Print, Copy:
		s.AddSmall(n.Coef, int(n.Places))
	case Large:
		s.Add(c.Wide[n.Coef])
	}
}

// Set puts a number at index i.
func (c *Column) Set(i int, d value.Decimal) {
	if coef, places, ok := d.Small(); ok {
		c.Numbers[i] = Number{Coef: coef, Places: uint8(places), Form: Print}
		return
	}
	c.Numbers[i] = Number{Coef: int64(len(c.Wide)), Form: Large}
	c.Wide = append(c.Wide, d)
}

// AppendText appends what fact row (row, slot) has in the column, as it is
// delivered but not quoted.
func (b *Batch) AppendText(dst []byte, c *Column, row, slot int) []byte {
	i := c.At(row, slot, b.Slots)
	if c.Numbers == nil {
		return append(dst, c.Texts.Out(c.Codes[i])...)
	}
	return b.AppendNumber(dst, c, i)
}

// AppendNumber appends number i of a column as it is delivered.
func (b *Batch) AppendNumber(dst []byte, c *Column, i int) []byte {
	switch n := &c.Numbers[i]; n.Form {
	case Copy:
		dst = append(dst, b.Data[n.Off:n.Off+uint32(n.Len)]...)
	case Print:
		dst = value.AppendFixed(dst, n.Coef, int(n.Places))
	case Large:
		dst = append(dst, c.Wide[n.Coef].String()...)
	}
	return dst
}
