// Package keys looks at the keys of finished tables: which repeat, and which of two tables
// find a partner in the other.
package keys

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/lookup"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
)

// Side is a table, by its keys. Those with an empty piece are counted and match nothing.
type Side struct {
	Name  string
	Rows  int
	Blank int // rows with an empty piece
	Kinds []plan.Kind

	keys   *table.Dict
	labels []byte // of the keys, as they were seen first
	ends   []uint32
	count  []uint32 // rows of each key
	first  []int32  // of each key: its first row
	last   []int32
	next   []int32 // of each row: the next one of its key
	lines  []int32 // of each row, as a person sees it
}

// Read reads the keys of a table: columns, or formulas, of a view. The error is a
// *finished.Mistake, or a place.List.
func Read(ctx context.Context, v *finished.View, on []string) (*Side, error) {
	s := &Side{Name: v.Table.Name, keys: table.NewDict()}
	k := &keeper{side: s, view: v}
	for _, text := range on {
		i, err := v.Column(text)
		if err != nil {
			return nil, err
		}
		k.on = append(k.on, i)
		s.Kinds = append(s.Kinds, v.Spec(i).Kind)
	}
	if problems := v.Run(ctx, k); len(problems) > 0 {
		return nil, problems
	}
	return s, nil
}

// keeper takes the keys of blocks in order.
type keeper struct {
	side *Side
	view *finished.View
	on   []int
}

// part has the keys of one block: of each row its key, empty for one with an empty piece, and
// its label.
type part struct {
	of    *keeper
	text  []byte
	ends  []uint32
	lines []int32
}

// Part implements pass.Keeper.
func (k *keeper) Part() pass.Part { return &part{of: k} }

// See implements pass.Part.
func (p *part) See(b *pass.Block) {
	p.text, p.ends, p.lines = p.text[:0], p.ends[:0], p.lines[:0]
	var label []byte
	for row := range b.Batch.Rows {
		if only := p.of.view.Only; only >= 0 && string(b.Batch.AppendText(nil, &b.Batch.Columns[only], row, 0)) != "true" {
			continue
		}
		begin, whole := len(p.text), true
		label = label[:0]
		for i, ci := range p.of.on {
			from := len(label)
			label = b.Batch.AppendText(label, &b.Batch.Columns[ci], row, 0)
			ok := false
			p.text, ok = lookup.AppendKey(p.text, p.of.side.Kinds[i], string(label[from:]))
			whole = whole && ok
			label = append(label, 0)
		}
		if !whole {
			p.text = p.text[:begin]
		}
		p.ends = append(p.ends, uint32(len(p.text)))
		p.text = append(p.text, label...)
		p.ends = append(p.ends, uint32(len(p.text)))
		p.lines = append(p.lines, int32(b.Line(row)))
	}
}

// Take implements pass.Part.
func (p *part) Take() {
	at := uint32(0)
	for i, line := range p.lines {
		k, label := p.text[at:p.ends[2*i]], p.text[p.ends[2*i]:p.ends[2*i+1]]
		at = p.ends[2*i+1]
		p.of.side.add(k, label, line)
	}
}

func (s *Side) add(k, label []byte, line int32) {
	row := int32(s.Rows)
	s.Rows++
	s.next, s.lines = append(s.next, -1), append(s.lines, line)
	if len(k) == 0 {
		s.Blank++
		return
	}
	code, fresh := s.keys.Code(k)
	if fresh {
		s.labels = append(s.labels, label...)
		s.ends = append(s.ends, uint32(len(s.labels)))
		s.count, s.first, s.last = append(s.count, 1), append(s.first, row), append(s.last, row)
		return
	}
	s.count[code]++
	s.next[s.last[code]] = row
	s.last[code] = row
}

// Distinct is how many keys there are.
func (s *Side) Distinct() int { return len(s.count) }

// Repeated is how many of them stand more than once.
func (s *Side) Repeated() (n int) {
	for _, c := range s.count {
		if c > 1 {
			n++
		}
	}
	return n
}

// Key is a key of a side.
type Key struct {
	Values []string // as they were seen first
	Rows   int

	side *Side
	code uint32
}

func (s *Side) key(code uint32) Key {
	from := uint32(0)
	if code > 0 {
		from = s.ends[code-1]
	}
	return Key{strings.Split(string(s.labels[from:s.ends[code]-1]), "\x00"), int(s.count[code]), s, code}
}

// Places are the rows in which the key stands, as a person sees them; at most so many, or
// all with 0.
func (k Key) Places(most int) (out []int) {
	for row := k.side.first[k.code]; row >= 0 && (most == 0 || len(out) < most); row = k.side.next[row] {
		out = append(out, int(k.side.lines[row]))
	}
	return out
}

// All goes through the keys, in the order in which they came.
func (s *Side) All(yield func(Key) bool) {
	for code := range s.count {
		if !yield(s.key(uint32(code))) {
			return
		}
	}
}

// Most are the keys that stand in the most rows, more than one, at most so many.
func (s *Side) Most(most int) (out []Key) {
	var codes []uint32
	for code, n := range s.count {
		if n > 1 {
			codes = append(codes, uint32(code))
		}
	}
	slices.SortStableFunc(codes, func(a, b uint32) int { return cmp.Compare(s.count[b], s.count[a]) })
	for _, code := range codes[:min(most, len(codes))] {
		out = append(out, s.key(code))
	}
	return out
}

// Partners are the rows and keys of a side that are in the other one.
type Partners struct{ Rows, Keys int }

// Pair is two tables beside each other.
type Pair struct {
	A, B       *Side
	Partners   [2]Partners
	Alone      [2]int // keys of each side that the other one does not have
	SideBySide uint64 // rows, if each row of A stood beside each of B with its key
}

// Beside holds two tables against each other.
func Beside(a, b *Side) *Pair {
	p := &Pair{A: a, B: b}
	for code, n := range a.count {
		other, ok := b.keys.Find([]byte(a.keys.Seen(uint32(code))))
		if !ok {
			p.Alone[0]++
			continue
		}
		m := b.count[other]
		p.Partners[0].Rows, p.Partners[1].Rows = p.Partners[0].Rows+int(n), p.Partners[1].Rows+int(m)
		p.Partners[0].Keys++
		p.SideBySide += uint64(n) * uint64(m)
	}
	p.Partners[1].Keys = p.Partners[0].Keys
	p.Alone[1] = len(b.count) - p.Partners[1].Keys
	return p
}

// Relation is what the tables are to each other, by all their keys.
func (p *Pair) Relation() string {
	side := func(s *Side) string {
		if s.Repeated() > 0 {
			return "many"
		}
		return "one"
	}
	return side(p.A) + " to " + side(p.B)
}

// Lone is a key that the other side does not have.
type Lone struct {
	Key
	Nearest []string // the key of the other side that is most like it, nil where none is
}

// mostNearest is of how many keys of a side the nearest of the other is looked for.
const mostNearest = 2000

// Only are the first keys of one side (0 is A) that the other does not have, at most so many.
func (p *Pair) Only(side, most int) (out []Lone) {
	s, other := p.A, p.B
	if side == 1 {
		s, other = p.B, p.A
	}
	for code := range s.count {
		if len(out) == most {
			break
		}
		if _, ok := other.keys.Find([]byte(s.keys.Seen(uint32(code)))); !ok {
			out = append(out, Lone{Key: s.key(uint32(code))})
		}
	}
	if len(out) == 0 {
		return nil
	}
	values := map[string][]string{}
	var labels []string
	for k := range other.All {
		if len(labels) == mostNearest {
			break
		}
		label := strings.Join(k.Values, " | ")
		labels = append(labels, label)
		values[label] = k.Values
	}
	index := names.NewIndexOf(labels)
	for i := range out[:min(len(out), mostNearest)] {
		if c := index.Suggest(strings.Join(out[i].Values, " | ")); len(c) > 0 {
			out[i].Nearest = values[c[0].Standard]
		}
	}
	return out
}

// Spread goes through the keys of both sides, those of A first, with how many rows each side
// has of them.
func (p *Pair) Spread(yield func(values []string, a, b int) bool) {
	for k := range p.A.All {
		n := 0
		if other, ok := p.B.keys.Find([]byte(p.A.keys.Seen(k.code))); ok {
			n = int(p.B.count[other])
		}
		if !yield(k.Values, k.Rows, n) {
			return
		}
	}
	for k := range p.B.All {
		if _, ok := p.A.keys.Find([]byte(p.B.keys.Seen(k.code))); !ok && !yield(k.Values, 0, k.Rows) {
			return
		}
	}
}

// Fit reports whether keys of these kinds can be compared; the error is a *finished.Mistake
// with the first that cannot.
func Fit(a, b *Side, onA, onB []string) error {
	for i, x := range a.Kinds {
		if y := b.Kinds[i]; !finished.Comparable(x, y) && a.Distinct() > 0 && b.Distinct() > 0 {
			return finished.Unlike(a.Name, onA[i], x, b.Name, onB[i], y)
		}
	}
	return nil
}
