package treat

import (
	"umbau/internal/core/layout"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// memory is what a worker has worked out of texts, each distinct one once. What a text is
// and becomes depends on the entry of the plan that it stands in, on the column, and on
// how the texts of that column are read in the extract at hand: the memory is asked with a
// program, which knows all of these.
type memory struct {
	texts map[memoryKey]*texts
	gaps  map[memoryKey]*learned[value.Gap] // of texts in columns of numbers
	says  map[memoryKey]*learned[bool]      // of texts that no column claims
}

type memoryKey struct {
	entry  *plan.Entry
	column int
	class  textClass
}

// textClass is how the texts of a column are read.
type textClass uint8

const (
	ofCells     textClass = iota // gaps have rules
	ofTexts                      // the same, made of texts of cells
	ofLookups                    // looked up: gaps have rules too
	ofColumns                    // made of others
	ofConstants                  // absent, constants, pieces of headers: never a gap
)

// class is how the texts of a column are read, whatever extract of the entry they stand
// in: as cells, as texts that are made, or as constants.
func (c *column) class() textClass {
	switch {
	case c.fromCells() || c.source.From == layout.Section:
		return ofCells
	case c.lookup != nil:
		return ofLookups
	case c.made && c.ofTexts:
		return ofTexts
	case c.made:
		return ofColumns
	}
	return ofConstants
}

func newMemory() memory {
	return memory{map[memoryKey]*texts{}, map[memoryKey]*learned[value.Gap]{}, map[memoryKey]*learned[bool]{}}
}

// of is the dictionary of a column of texts, emptied when it has grown large.
func (m *memory) of(p *Program, ci int) *texts {
	k := memoryKey{p.Lineup.Entry, ci, p.Columns[ci].class()}
	d := m.texts[k]
	switch {
	case d == nil && p.Columns[ci].spec.Kind == plan.Name:
		d = &texts{Dict: table.NewNameDict()}
	case d == nil:
		d = &texts{Dict: table.NewDict()}
	case d.Full():
		d = d.next()
	}
	m.texts[k] = d
	return d
}

// gapsOf is which gap each text is in a column of numbers; NoGap for one that reads as a
// number.
func (m *memory) gapsOf(p *Program, ci int) *learned[value.Gap] {
	c := &p.Columns[ci]
	return ask(m.gaps, memoryKey{p.Lineup.Entry, ci, c.class()}, func(text string) value.Gap {
		if _, _, ok := c.reading.Number([]byte(text)); ok {
			return value.NoGap
		}
		return c.spec.Words.GapOf(text)
	})
}

// saysTotal is whether a total word stands in each text of the columns of the extract that
// nothing claims; there may be very many of these.
func (m *memory) saysTotal(p *Program) *learned[bool] {
	return ask(m.says, memoryKey{p.Lineup.Entry, 0, ofCells}, func(text string) bool {
		_, among := p.Lineup.Entry.Labels.Says(value.TrimText(text))
		return among
	})
}

// learned is what was found out of each distinct text.
type learned[T any] struct {
	*table.Dict
	learn func(text string) T
	is    []T // by code
}

func ask[T any](of map[memoryKey]*learned[T], k memoryKey, learn func(text string) T) *learned[T] {
	l := of[k]
	switch {
	case l == nil:
		l = &learned[T]{Dict: table.NewDict(), learn: learn}
		of[k] = l
	case l.Full():
		*l = learned[T]{Dict: l.Next(), learn: learn}
	}
	return l
}

// of is what a text is.
func (l *learned[T]) of(text []byte) T {
	code, fresh := l.Code(text)
	if fresh {
		l.is = append(l.is, l.learn(l.Seen(code)))
	}
	return l.is[code]
}
