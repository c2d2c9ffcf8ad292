package names

import (
	"bytes"
	"encoding/gob"
	"iter"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Seen is one distinct name of a column and what became of it.
type Seen struct {
	Column   int // of the plan
	Text     string
	Standard string
	How      How
	Which    int32        // of the first spellings its standard is; 0 where nobody knows, for no name of the column then
	Cells    int          // fact rows that have it
	Again    *int32       // the same one whenever this name comes again, for Tally; nil for none
	First    *place.Place // where it stands first, if that was asked for
	From, To string       // the first and the last year it stands in, if that was asked for
	Amount   *value.Sum   // of an unknown name: what the last measure has in its fact rows
}

// Tally counts the names of a build, in the order in which they came. The zero
// Tally is empty.
type Tally struct {
	list  table.Chunks[Seen]
	cells []int    // of each of these, as they are counted
	index []*index // by column
}

// index finds a name of one column in the list.
type index struct {
	names  *table.Dict
	at     []int32 // by code
	firsts []int32 // by which first spelling a name is: where it stands in the list, and 1
}

// LenOf returns the number of names of a column that has some.
func (t *Tally) LenOf(column int) int { return len(t.index[column].at) }

// All goes through the names: column by column of the plan, those of one in the order in
// which they came.
func (t *Tally) All() iter.Seq[*Seen] {
	return func(yield func(*Seen) bool) {
		for _, x := range t.index {
			for _, i := range x.at {
				n := t.list.At(int(i))
				n.Cells = t.cells[i]
				if !yield(n) {
					return
				}
			}
		}
	}
}

// Abroad goes through the names as another tally takes them in: which first spelling each is means nothing there.
func (t *Tally) Abroad() iter.Seq[Seen] {
	return func(yield func(Seen) bool) {
		for n := range t.All() {
			own := *n
			own.Which = 0
			if !yield(own) {
				return
			}
		}
	}
}

// Count is how many spellings a column came in, how many of them are unknown, and how many
// names they became.
type Count struct{ Column, Spellings, Unknown, Names int }

// Counts counts the names of each column that has some.
func (t *Tally) Counts() (out []Count) {
	var standards Standards
	for n := range t.All() {
		if len(out) == 0 || out[len(out)-1].Column != n.Column {
			out, standards = append(out, Count{Column: n.Column}), Standards{Most: t.LenOf(n.Column)}
		}
		c := &out[len(out)-1]
		c.Spellings++
		if n.How == Unknown {
			c.Unknown++
		}
		if n.Standard != "" {
			standards.Code(n, func(standard string) []byte { return []byte(standard) })
		}
		c.Names = standards.n
	}
	return out
}

// MarshalBinary writes all names down.
func (t *Tally) MarshalBinary() ([]byte, error) {
	var list []Seen
	for n := range t.Abroad() {
		list = append(list, n)
	}
	var out bytes.Buffer
	err := gob.NewEncoder(&out).Encode(list)
	return out.Bytes(), err
}

// UnmarshalBinary counts the names that MarshalBinary wrote.
func (t *Tally) UnmarshalBinary(data []byte) error {
	var list []Seen
	err := gob.NewDecoder(bytes.NewReader(data)).Decode(&list)
	for i := range list {
		t.Add(&list[i])
	}
	return err
}

// Add counts a name.
func (t *Tally) Add(s *Seen) {
	for len(t.index) <= s.Column {
		t.index = append(t.index, &index{names: table.NewDict()})
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
	t.cells[i] += s.Cells
	if !again || s.From == "" && s.To == "" && s.Amount == nil {
		return
	}
	all := t.list.At(i)
	if s.From != "" && (all.From == "" || s.From < all.From) {
		all.From = s.From
	}
	all.To = max(all.To, s.To)
	switch {
	case all.Amount == nil:
		all.Amount = s.Amount
	case s.Amount != nil:
		all.Amount.Merge(s.Amount)
	}
}

// find returns which of the list a name is, added when it is new.
func (t *Tally) find(s *Seen) (i int, again bool) {
	x := t.index[s.Column]
	if s.Which > 0 && s.How == Same { // nobody looks for its text
		at := slotOf(&x.firsts, s.Which)
		if *at > 0 {
			return int(*at) - 1, true
		}
		*at = int32(t.list.Len()) + 1
		return t.add(s, x, x.names.Append([]byte(s.Text))), false
	}
	code, fresh := x.names.Code([]byte(s.Text))
	if fresh {
		return t.add(s, x, code), false
	}
	return int(x.at[code]), true
}

// add puts a name into the list, with its code in the index of its column, and returns where it is.
func (t *Tally) add(s *Seen, x *index, code uint32) int {
	i := t.list.Len()
	x.at = append(x.at, int32(i))
	x.names.SetOut(code, s.Standard)
	own := *s
	own.Text, own.Standard = x.names.Seen(code), x.names.Out(code) // which stay when a worker's dictionary goes
	own.Again = nil
	t.list.Add(own)
	t.cells = append(t.cells, 0)
	return i
}
