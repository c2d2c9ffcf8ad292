package names

import (
	"umbau/internal/core/place"
	"umbau/internal/core/value"
)

// Seen is one distinct name of a column and what became of it.
type Seen struct {
	Column   int // of the plan
	Text     string
	Standard string
	How      How
	Cells    int         // fact rows that have it
	First    place.Place // where it stands first, if that was asked for
	Amount   value.Sum   // of an unknown name: what the last measure has in its fact rows
}

// Tally counts the names of a build, in the order in which they came. The zero
// Tally is empty.
type Tally struct {
	List  []Seen
	index map[name]int
}

type name struct {
	column int
	text   string
}

// Add counts a name.
func (t *Tally) Add(s Seen) {
	if t.index == nil {
		t.index = map[name]int{}
	}
	k := name{s.Column, s.Text}
	if i, ok := t.index[k]; ok {
		t.List[i].Cells += s.Cells
		t.List[i].Amount.Merge(&s.Amount)
		return
	}
	t.index[k] = len(t.List)
	t.List = append(t.List, s)
}
