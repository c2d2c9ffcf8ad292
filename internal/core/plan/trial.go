package plan

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// Trial is a key of the plan and the value that is tried under it, without the plan being touched:
// amount.unclear and 0, rows.repeats and keep, extracts[2].totals and drop. An empty value tries the
// plan's silence.
type Trial struct {
	Key, Value string

	entry *node // a further column in the place of these
}

// Tried is a key that was tried: what the plan has, nil where it is silent, and the value.
type Tried struct {
	Key string
	Was *string
	Is  string
}

// ReadTried reads a plan as if other values stood under some of its keys. The error is of a path
// that leads nowhere, or a place.List of the mistakes that the values make.
func ReadTried(file string, src []byte, formats *table.Formats, trials []Trial) (*Plan, []Tried, error) {
	root, problems := parse(src)
	if len(problems) > 0 {
		return nil, nil, problems
	}
	var tried []Tried
	for _, t := range trials {
		was, err := t.apply(&root)
		if err != nil {
			return nil, nil, err
		}
		tried = append(tried, Tried{t.Key, was, t.Value})
	}
	p, err := readTried(file, src, formats, nil, trials)
	return p, tried, err
}

// indexed is a key of the plan with the number of an entry below it.
var indexed = regexp.MustCompile(`^([a-z_]+)\[(\d+)\]$`)

// apply puts the value into the tree of a plan, and returns what stood there.
func (t Trial) apply(root *node) (was *string, err error) {
	if fact := root.child("fact"); t.entry != nil && fact != nil {
		fact.pairs = append(fact.pairs, aPair{key: t.Key, value: *t.entry})
		return nil, nil
	}
	wrong := func(format string, args ...any) error {
		return fmt.Errorf("--try %s: "+format, append([]any{t.Key}, args...)...)
	}
	value := node{kind: nothing}
	if t.Value != "" {
		var problems place.List
		if value, problems = parse([]byte(t.Value)); len(problems) > 0 {
			return nil, wrong("the value %s: %s", place.Shorten(t.Value), problems[0].Message)
		}
	}
	at, rest, err := t.begin(root)
	if err != nil {
		return nil, wrong("%w", err)
	}
	for i, name := range rest {
		next := at.child(name)
		if next == nil {
			at.pairs = append(at.pairs, aPair{key: name, pos: at.pos, value: node{pos: at.pos}})
			next = &at.pairs[len(at.pairs)-1].value
		}
		if i < len(rest)-1 && next.kind != mapping {
			if next.kind != nothing {
				return nil, wrong("%s is %s, which has no keys", strings.Join(rest[:i+1], "."), next.describe())
			}
			next.kind = mapping
		}
		if i == len(rest)-1 {
			if next.kind != nothing {
				text := next.flow()
				was = &text
			}
			value.pos = next.pos
			*next = value.placed(next.pos)
			if t.Value == "" {
				at.pairs = slices.DeleteFunc(at.pairs, func(p aPair) bool { return p.key == name })
			}
		}
		at = next
	}
	return was, nil
}

// begin finds the part of the plan that a path begins in, and the keys that are left of it.
func (t Trial) begin(root *node) (at *node, rest []string, err error) {
	pieces := strings.Split(t.Key, ".")
	if m := indexed.FindStringSubmatch(pieces[0]); m != nil {
		of := root.child(m[1])
		n, _ := strconv.Atoi(m[2])
		if of == nil || of.kind != list || n < 1 || n > len(of.items) {
			return nil, nil, fmt.Errorf("the plan has no %s", pieces[0])
		}
		at, rest = &of.items[n-1], pieces[1:]
	} else if column, name := root.columnOf(t.Key); column != nil {
		at, rest = column, strings.Split(strings.TrimPrefix(t.Key, name+"."), ".")
	} else if i := slices.IndexFunc(planKeys, func(k aKey) bool { return k.name == pieces[0] && k.shape == aMap }); i >= 0 {
		if at = root.child(pieces[0]); at == nil {
			root.pairs = append(root.pairs, aPair{key: pieces[0], pos: root.pos, value: node{pos: root.pos, kind: mapping}})
			at = &root.pairs[len(root.pairs)-1].value
		}
		rest = pieces[1:]
	} else {
		return nil, nil, fmt.Errorf("the plan has no such column; a path is a column and one of its keys (amount.unclear), rows.… or "+
			"extracts[1].…%s", didYouMean(pieces[0], root.columnNames()))
	}
	if len(rest) == 0 || slices.Contains(rest, "") {
		return nil, nil, fmt.Errorf("name a key, as in %s.key=value", pieces[0])
	}
	return at, rest, nil
}

// columnOf is the entry of the column that a path begins with, as a map of keys, and its name.
func (n *node) columnOf(path string) (column *node, name string) {
	fact := n.child("fact")
	if fact == nil {
		return nil, ""
	}
	for i := range fact.pairs {
		p := &fact.pairs[i]
		own, _, _ := strings.Cut(path, ".")
		if strings.HasPrefix(path, p.key+".") {
			own = p.key
		} else if !key.Same(own, p.key) {
			continue
		}
		v := &p.value
		short := map[bool]string{true: "formula", false: "is"}
		switch v.kind {
		case nothing:
			v.kind = mapping
		case scalar:
			*v = node{pos: v.pos, kind: mapping, pairs: []aPair{{key: short[strings.HasPrefix(v.text, "=")], pos: v.pos, value: *v}}}
		}
		return v, own
	}
	return nil, ""
}

func (n *node) columnNames() (out []string) {
	if fact := n.child("fact"); fact != nil {
		for _, p := range fact.pairs {
			out = append(out, p.key)
		}
	}
	return out
}

// child is what stands under a key of a map, nil for nothing.
func (n *node) child(name string) *node {
	for i := range n.pairs {
		if n.pairs[i].key == name {
			return &n.pairs[i].value
		}
	}
	return nil
}

// placed is a value as if it stood at a place of the plan.
func (n node) placed(pos place.Pos) node {
	n.pos = pos
	for i := range n.items {
		n.items[i] = n.items[i].placed(pos)
	}
	for i := range n.pairs {
		n.pairs[i].pos, n.pairs[i].value = pos, n.pairs[i].value.placed(pos)
	}
	return n
}

// flow writes a value in one line.
func (n *node) flow() string {
	var list []string
	switch n.kind {
	case scalar:
		return n.text
	case mapping:
		for i := range n.pairs {
			list = append(list, n.pairs[i].key+": "+n.pairs[i].value.flow())
		}
		return "{ " + strings.Join(list, ", ") + " }"
	}
	for i := range n.items {
		list = append(list, n.items[i].flow())
	}
	return "[" + strings.Join(list, ", ") + "]"
}
