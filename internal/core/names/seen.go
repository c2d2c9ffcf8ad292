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
	Cells    int          // fact rows that have it
	Again    *int32       // the same one whenever this name comes again, for Tally; nil for none
	First    *place.Place // where it stands first, if that was asked for
	Amount   *value.Sum   // of an unknown name: what the last measure has in its fact rows
}

// Tally counts the names of a build, in the order in which they came. The zero
// Tally is empty.
type Tally struct {
	List  []Seen
	index []map[string]int // by column
}

// Add counts a name.
func (t *Tally) Add(s Seen) {
	for len(t.index) <= s.Column {
		t.index = append(t.index, map[string]int{})
	}
	i, again := 0, s.Again != nil && *s.Again > 0
	if again {
		i = int(*s.Again) - 1
	} else {
		i, again = t.find(s)
	}
	if s.Again != nil {
		*s.Again = int32(i) + 1
	}
	if !again {
		return
	}
	all := &t.List[i]
	all.Cells += s.Cells
	switch {
	case all.Amount == nil:
		all.Amount = s.Amount
	case s.Amount != nil:
		all.Amount.Merge(s.Amount)
	}
}

// find returns which of the list a name is, added when it is new.
func (t *Tally) find(s Seen) (i int, again bool) {
	index := t.index[s.Column]
	if i, again = index[s.Text]; !again {
		i = len(t.List)
		index[s.Text] = i
		t.List = append(t.List, s)
	}
	return i, again
}
