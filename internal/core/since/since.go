// Package since compares a build with the last one that delivered: which extracts, headers and
// names are new or gone, what came out of each extract, and which groups that had a figure have
// another one now.
package since

import (
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// The kinds of lines, in their order.
const (
	Extract = "extract" // the value is the beginning of its digest
	Header  = "header"  // the header as it stands
	Name    = "name"    // the cells of a standard
	Rows    = "rows"    // fact rows of an extract
	Amount  = "amount"  // of an extract, in the fact table
	Group   = "group"   // the figure of a group
	by      = "by"      // a column that groups are made by; it is compared with nothing
)

var kinds = []string{Extract, Header, Name, Rows, Amount, Group}

// Line is one thing that a build knows of itself.
type Line struct{ What, File, Sheet, Column, Name, Group, Measure, Value string }

// State is what a build knows of itself, to be compared with the next one.
type State struct {
	By    []string // the columns that groups are made by
	Lines []Line
}

// stateHeader is the header of a state's file.
var stateHeader = []string{"what", "file", "sheet", "column", "name", "group", "measure", "value"}

// Append writes a state as comma text.
func (s *State) Append(dst []byte) []byte {
	dst = table.AppendLine(dst, stateHeader...)
	for _, name := range s.By {
		dst = table.AppendLine(dst, by, "", "", name, "", "", "", "")
	}
	for _, l := range s.Lines {
		dst = table.AppendLine(dst, l.What, l.File, l.Sheet, l.Column, l.Name, l.Group, l.Measure, l.Value)
	}
	return dst
}

// Read reads a state.
func Read(in io.Reader) (*State, error) {
	r := csv.NewReader(in)
	header, err := r.Read()
	if err != nil || !slices.Equal(header, stateHeader) {
		return nil, fmt.Errorf("it is not the state of a build: its first line is not %s", strings.Join(stateHeader, ","))
	}
	s := &State{}
	for {
		c, err := r.Read()
		if err == io.EOF {
			return s, nil
		}
		if err != nil {
			return nil, err
		}
		if c[0] == by {
			s.By = append(s.By, c[3])
			continue
		}
		s.Lines = append(s.Lines, Line{c[0], c[1], c[2], c[3], c[4], c[5], c[6], c[7]})
	}
}

// Change is what differs between two builds: Before is empty of what is new, Now of what is gone.
type Change struct {
	What, File, Sheet, Column, Name, Group, Measure, Before, Now string

	Elsewhere bool // a header that is new here stood in another extract then, or one that is gone stands in one now
}

// ChangeHeader is the header of since.csv.
var ChangeHeader = []string{"what", "file", "sheet", "column", "name", "group", "measure", "before", "now"}

// Append writes a change as a line of since.csv.
func (c *Change) Append(dst []byte) []byte {
	return table.AppendLine(dst, c.What, c.File, c.Sheet, c.Column, c.Name, c.Group, c.Measure, c.Before, c.Now)
}

// Difference is now less before, of amounts; what is not there counts as nothing.
func (c *Change) Difference() value.Decimal { return number(c.Now).Sub(number(c.Before)) }

func number(text string) value.Decimal {
	d, _, _ := value.English.Number([]byte(text))
	return d
}

// id is what a line is of.
func (l *Line) id() Line {
	id := *l
	id.Name, id.Value = key.Of(l.Name), ""
	if l.What == Header {
		id.Value = key.Of(l.Value)
	}
	return id
}

// differs reports whether a line says something else than one before, as far as it is told.
func (l *Line) differs(before string) bool {
	switch l.What {
	case Header, Name: // only new and gone ones
		return false
	case Amount, Group:
		return l.Value == "" || before == "" || number(l.Value).Cmp(number(before)) != 0
	}
	return l.Value != before
}

// headers are the keys of all headers.
func (s *State) headers() map[string]bool {
	out := map[string]bool{}
	for i := range s.Lines {
		if l := &s.Lines[i]; l.What == Header {
			out[key.Of(l.Value)] = true
		}
	}
	return out
}

// Compare lists what differs: kind by kind, in the order of the lines now and then of those that
// are gone; groups by their difference, the largest first. A new group is not told.
func Compare(last, now *State) (out []Change) {
	before := make(map[Line]string, len(last.Lines))
	for i := range last.Lines {
		before[last.Lines[i].id()] = last.Lines[i].Value
	}
	then, today := last.headers(), now.headers()
	grouped := slices.Equal(last.By, now.By)
	add := func(l *Line, was, is string) {
		if l.What != Group || grouped {
			c := Change{l.What, l.File, l.Sheet, l.Column, l.Name, l.Group, l.Measure, was, is, false}
			if l.What == Header {
				c.Elsewhere = is != "" && then[key.Of(is)] || was != "" && today[key.Of(was)]
			}
			out = append(out, c)
		}
	}
	for i := range now.Lines {
		l := &now.Lines[i]
		was, known := before[l.id()]
		switch {
		case !known && l.What != Group:
			add(l, "", l.Value)
		case known && l.differs(was) && (l.What != Group || was != ""): // a group that had no figure is a new one
			add(l, was, l.Value)
		}
		delete(before, l.id())
	}
	for i := range last.Lines {
		l := &last.Lines[i]
		if _, gone := before[l.id()]; gone && !(l.What == Group && l.Value == "") {
			add(l, l.Value, "")
		}
	}
	slices.SortStableFunc(out, func(a, b Change) int {
		if c := slices.Index(kinds, a.What) - slices.Index(kinds, b.What); c != 0 || a.What != Group {
			return c
		}
		return b.Difference().Abs().Cmp(a.Difference().Abs())
	})
	return out
}
