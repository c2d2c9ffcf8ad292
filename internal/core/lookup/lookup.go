// Package lookup finds values in references: tables with a key of one column or more.
//
// A Table is one reference, read for one key; the columns that are looked up by that key
// share it. A Column says what one of them gets for each key: what stands in the only line
// that has it, or what the plan makes of several lines.
package lookup

import (
	"fmt"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// Cell is what stands in a reference.
type Cell struct {
	Text   string // trimmed
	Stored bool   // a number that a sheet stores: written 1234.56, however the reference writes them
}

// Line is a line of a reference.
type Line struct {
	Place place.Place
	Key   string // as KeyOf has it
	Label string // the values of the key, as they stand
	Cells []Cell // by what is taken
}

// Table is a reference, read for one key.
type Table struct {
	Reference *plan.Reference
	By        []plan.Paired
	Lines     []Line

	byKey map[string][]int32
}

// KeyOf is the key of some values, and how a person reads it. A key with an empty piece is
// empty: nothing is found by it.
func KeyOf(values []string) (k, label string) {
	keys := make([]string, len(values))
	empty := false
	for i, v := range values {
		keys[i] = key.Of(v)
		empty = empty || keys[i] == ""
	}
	label = strings.Join(values, " | ")
	if empty {
		return "", label
	}
	return strings.Join(keys, "\x00"), label
}

// Add adds a line behind the others.
func (t *Table) Add(l Line) {
	if t.byKey == nil {
		t.byKey = map[string][]int32{}
	}
	t.byKey[l.Key] = append(t.byKey[l.Key], int32(len(t.Lines)))
	t.Lines = append(t.Lines, l)
}

// Find returns the lines that have a key; none have an empty one.
func (t *Table) Find(k string) []int32 {
	if k == "" {
		return nil
	}
	return t.byKey[k]
}

// Value is what a column gets for a key.
type Value struct {
	Cell
	Lines []int32 // of the table
}

// Column is a column of the fact table that is looked up.
type Column struct {
	Table  *Table
	First  bool // it speaks for all columns that share the table
	Spec   *plan.Column
	Take   int    // which of the cells of a line
	Header string // what the reference calls them
	values map[string]*Value
}

// Reading is how a cell is read.
func (c *Column) Reading(cell Cell) *value.Reading {
	if cell.Stored {
		return &value.Default
	}
	return &c.Table.Reference.Entry.Reading
}

// NewColumn makes ready what a column gets for each key. Keys that stand in several lines
// are problems where the plan does not say what becomes of them, or cannot do it.
func NewColumn(t *Table, spec *plan.Column, take int, header string) (*Column, place.List) {
	c := &Column{Table: t, Spec: spec, Take: take, Header: header, values: make(map[string]*Value, len(t.byKey))}
	var problems place.List
	for i := range t.Lines {
		l := &t.Lines[i]
		lines := t.Find(l.Key)
		if len(lines) == 0 || int(lines[0]) != i {
			continue
		}
		v := &Value{Cell: l.Cells[take], Lines: lines}
		if len(lines) > 1 {
			switch spec.Lookup.Repeats {
			case plan.First:
				v.Lines = lines[:1]
			case plan.Sum:
				if text := c.sum(v); text != "" {
					problems.Add(c.problem("repeated key", "lines of one key cannot be added up in column "+spec.Name, lines, text))
				}
			default:
				problems.Add(c.problem("repeated key", "a key stands twice in the reference "+t.Reference.Name, lines, ""))
			}
		}
		c.values[l.Key] = v
	}
	return c, problems
}

// Find returns what the column gets for a key, nil for nothing.
func (c *Column) Find(k string) *Value { return c.values[k] }

// sum adds the lines of a key up; it returns why it cannot.
func (c *Column) sum(v *Value) (why string) {
	if !c.Spec.Kind.Numeric() {
		for _, i := range v.Lines[1:] {
			if other := c.Table.Lines[i].Cells[c.Take].Text; !key.Same(other, v.Text) {
				return fmt.Sprintf("%q and %q", v.Text, other)
			}
		}
		return ""
	}
	var sum value.Sum
	for _, i := range v.Lines {
		cell := c.Table.Lines[i].Cells[c.Take]
		d, _, ok := c.Reading(cell).Number([]byte(cell.Text))
		if !ok && cell.Text != "" {
			v.Cell = cell // the rule for what it is applies to all
			return ""
		}
		if ok {
			sum.Add(d)
		}
	}
	if v.Cell = (Cell{}); !sum.Empty() {
		v.Cell = Cell{sum.Total().Shorten().String(), true}
	}
	return ""
}

func (c *Column) problem(what, message string, lines []int32, text string) place.Problem {
	first := &c.Table.Lines[lines[0]]
	p := place.At(c.Table.Lines[lines[1]].Place, what, "%s", message).ByRule()
	p.Column, p.Plan, p.Count = c.Spec.Name, c.Spec.Lookup.Pos, len(lines)-1
	p.Texts = []string{fmt.Sprintf("%s, first %s", first.Label, first.Place)}
	if text != "" {
		p.Texts[0] += ": " + text
	}
	p.Add, p.Advice = "repeats: first", "or repeats: sum; or mend the reference, so that each key stands once"
	return p
}
