package names

import "umbau/internal/core/key"

// FirstSpellings decides names without a book: the spelling that comes first is
// the standard. It is used by one goroutine at a time, in the order of the fact
// table.
type FirstSpellings struct {
	standard map[string]string
	key      []byte // of the name at hand
}

// NewFirstSpellings returns one that has seen no name.
func NewFirstSpellings() *FirstSpellings { return &FirstSpellings{standard: map[string]string{}} }

// Take returns the standard of a name, which is the name itself if no spelling
// of it came before.
func (f *FirstSpellings) Take(name string) (standard string, how How) {
	f.key = key.Append(f.key[:0], name)
	first, ok := f.standard[string(f.key)]
	if !ok {
		f.standard[string(f.key)] = name
		return name, Same
	}
	if first == name {
		return first, Same
	}
	return first, Spelling
}
