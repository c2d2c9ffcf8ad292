package names

import (
	"umbau/internal/core/key"
	"umbau/internal/core/table"
)

// FirstSpellings decides names without a book: the spelling that comes first is
// the standard. It is used by one goroutine at a time, in the order of the fact
// table.
type FirstSpellings struct {
	keys *table.Dict // what is delivered for a key is its standard
	key  []byte      // of the name at hand
}

// NewFirstSpellings returns one that has seen no name.
func NewFirstSpellings() *FirstSpellings { return &FirstSpellings{keys: table.NewDict()} }

// Take returns the standard of a name, which is the name itself if no spelling
// of it came before, and which of all standards that is, from 1.
func (f *FirstSpellings) Take(name string) (standard string, how How, which int32) {
	f.key = key.Append(f.key[:0], name)
	code, fresh := f.keys.Code(f.key)
	if fresh {
		f.keys.SetOut(code, name)
	}
	first := f.keys.Out(code)
	if first == name {
		return first, Same, int32(code) + 1
	}
	return first, Spelling, int32(code) + 1
}

// All goes through the names that came first: the key of each, and the spelling that stands.
func (f *FirstSpellings) All(yield func(key, standard string) bool) {
	for code := range uint32(f.keys.Len()) {
		if !yield(f.keys.Seen(code), f.keys.Out(code)) {
			return
		}
	}
}
