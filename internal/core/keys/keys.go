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

	keys  index // with the labels as they were seen first
	stand table.Chunks[stands]
	next  table.Chunks[int32] // of each row: the next one of its key, -1 for none
	lines []jump
}

// stands is where a key stands.
type stands struct {
	count       uint32
	first, last int32 // rows
}

// jump is a row whose number, as a person sees it, is not that of the row before and one.
type jump struct{ row, line int32 }

// Read reads the keys of a table: columns, or formulas, of a view. The error is a
// *finished.Mistake, or a place.List.
func Read(ctx context.Context, v *finished.View, on []string) (*Side, error) {
	s := &Side{Name: v.Table.Name}
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
	s.next.Add(-1)
	if n := len(s.lines); n == 0 || line-s.lines[n-1].line != row-s.lines[n-1].row {
		s.lines = append(s.lines, jump{row, line})
	}
	if len(k) == 0 {
		s.Blank++
		return
	}
	code, fresh := s.keys.number(k, label)
	if fresh {
		s.stand.Add(stands{1, row, row})
		return
	}
	at := s.stand.At(int(code))
	at.count++
	*s.next.At(int(at.last)) = row
	at.last = row
}

// line is the number of a row as a person sees it.
func (s *Side) line(row int32) int {
	i, found := slices.BinarySearchFunc(s.lines, row, func(j jump, row int32) int { return cmp.Compare(j.row, row) })
	if !found {
		i--
	}
	return int(s.lines[i].line + row - s.lines[i].row)
}

// Distinct is how many keys there are.
func (s *Side) Distinct() int { return s.stand.Len() }

// Repeated is how many of them stand more than once.
func (s *Side) Repeated() (n int) {
	for at := range s.stand.All() {
		if at.count > 1 {
			n++
		}
	}
	return n
}

// rows is in how many rows a key stands.
func (s *Side) rows(code uint32) int { return int(s.stand.At(int(code)).count) }

// Key is a key of a side.
type Key struct {
	Values []string // as they were seen first
	Rows   int

	side *Side
	code uint32
}

func (s *Side) key(code uint32) Key {
	_, label := s.keys.text(code)
	return Key{strings.Split(string(label[:len(label)-1]), "\x00"), s.rows(code), s, code}
}

// Places are the rows in which the key stands, as a person sees them; at most so many, or
// all with 0.
func (k Key) Places(most int) (out []int) {
	for row := k.side.stand.At(int(k.code)).first; row >= 0 && (most == 0 || len(out) < most); row = *k.side.next.At(int(row)) {
		out = append(out, k.side.line(row))
	}
	return out
}

// All goes through the keys, in the order in which they came.
func (s *Side) All(yield func(Key) bool) {
	for code := range s.Distinct() {
		if !yield(s.key(uint32(code))) {
			return
		}
	}
}

// Most are the keys that stand in the most rows, more than one, at most so many.
func (s *Side) Most(most int) (out []Key) {
	var codes []uint32
	for code := range s.Distinct() {
		if s.rows(uint32(code)) > 1 {
			codes = append(codes, uint32(code))
		}
	}
	slices.SortStableFunc(codes, func(a, b uint32) int { return cmp.Compare(s.rows(b), s.rows(a)) })
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
	for code := range a.Distinct() {
		n := a.rows(uint32(code))
		other, ok := b.keys.look(a.keys.key(uint32(code)))
		if !ok {
			p.Alone[0]++
			continue
		}
		m := b.rows(other)
		p.Partners[0].Rows, p.Partners[1].Rows = p.Partners[0].Rows+n, p.Partners[1].Rows+m
		p.Partners[0].Keys++
		p.SideBySide += uint64(n) * uint64(m)
	}
	p.Partners[1].Keys = p.Partners[0].Keys
	p.Alone[1] = b.Distinct() - p.Partners[1].Keys
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
	for code := range s.Distinct() {
		if len(out) == most {
			break
		}
		if _, ok := other.keys.look(s.keys.key(uint32(code))); !ok {
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
		if other, ok := p.B.keys.look(p.A.keys.key(k.code)); ok {
			n = p.B.rows(other)
		}
		if !yield(k.Values, k.Rows, n) {
			return
		}
	}
	for k := range p.B.All {
		if _, ok := p.A.keys.look(p.B.keys.key(k.code)); !ok && !yield(k.Values, 0, k.Rows) {
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
