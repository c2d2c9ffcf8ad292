// Package pattern is the small language by which a plan takes text apart and
// puts it together.
//
//	{name}           a piece of text, at least one character, called name
//	{name:digits}    a piece of digits only
//	{name:letters}   a piece of letters only
//	{}               the piece to keep, without a name
//	*                any text, or none
//	[ … ]            may be absent
//	\                before a special character ({ } [ ] * \) makes it plain
//	white space      one or more white-space characters
//	anything else    itself, in any case
//
// A pattern fits the whole text or not at all. It is read from the left: each
// piece is as short as lets the rest fit, and a bracket is there whenever the
// whole then fits. So "*-{}" on "A-B-C" keeps "B-C", and "{region}_{year}"
// gives region "north_east" for "north_east_2023" when year is limited to digits.
//
// The same pattern writes: each field is replaced by its value, and a bracket
// in which a field is empty is left out. What a pattern without "*" writes from
// fields that are not empty, it fits.
package pattern

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
)

// Keep is the name under which the piece "{}" is found.
const Keep = ""

// Limit restricts the characters of a piece.
type Limit int

// The limits.
const (
	Any Limit = iota
	Digits
	Letters
)

var limits = map[string]Limit{"digits": Digits, "letters": Letters}

func (l Limit) allows(r rune) bool {
	switch l {
	case Digits:
		return r >= '0' && r <= '9'
	case Letters:
		return unicode.IsLetter(r) || unicode.IsMark(r)
	}
	return true
}

type kind int

const (
	literal  kind = iota // one character
	space                // one or more white-space characters
	field                // a piece
	anything             // *
	group                // [ … ]
)

// node is one element of a pattern.
type node struct {
	kind  kind
	char  rune   // of a literal
	name  string // of a field
	limit Limit
	group []node
}

// Pattern is a pattern that was read. It is safe for concurrent use once its
// limits are set.
type Pattern struct {
	text   string
	nodes  []node
	fields []string // in the order in which they stand
	code   []instr
	parts  []part // the same, if the pattern is a simple one
}

// Error is a mistake in a pattern. Offset counts characters from 0.
type Error struct {
	Offset int
	Text   string
}

// Error implements error.
func (e *Error) Error() string { return fmt.Sprintf("character %d: %s", e.Offset+1, e.Text) }

// Parse reads a pattern. Its errors are of type *Error.
func Parse(text string) (*Pattern, error) {
	p := &parser{in: []rune(text)}
	nodes, err := p.sequence(0)
	if err != nil {
		return nil, err
	}
	pt := &Pattern{text: text, nodes: nodes, fields: p.fields}
	pt.compile()
	return pt, nil
}

// String returns the pattern as it was written.
func (p *Pattern) String() string { return p.text }

// Escape returns the pattern that fits a text alone.
func Escape(text string) string { return escaper.Replace(text) }

var escaper = strings.NewReplacer(`\`, `\\`, "{", `\{`, "}", `\}`, "*", `\*`, "[", `\[`, "]", `\]`)

// Fields returns the names of the pieces in the order in which they stand; "{}"
// has the name Keep.
func (p *Pattern) Fields() []string { return slices.Clone(p.fields) }

// Has reports whether the pattern has a piece of this name.
func (p *Pattern) Has(name string) bool { return slices.Contains(p.fields, name) }

// Literal reports whether the pattern is plain text: no piece, no star, no bracket.
func (p *Pattern) Literal() bool {
	return !slices.ContainsFunc(p.nodes, func(n node) bool { return n.kind > space })
}

// Lettered reports whether the pattern says something of the text that it fits: a letter
// or digit of its own, or what a piece is made of.
func (p *Pattern) Lettered() bool { return lettered(p.nodes) }

func lettered(nodes []node) bool {
	return slices.ContainsFunc(nodes, func(n node) bool {
		return n.kind == literal && (unicode.IsLetter(n.char) || unicode.IsNumber(n.char)) || n.kind == field && n.limit == Digits ||
			lettered(n.group)
	})
}

// SetLimit limits the piece of this name, unless the pattern does so itself.
func (p *Pattern) SetLimit(name string, l Limit) {
	setLimit(p.nodes, name, l)
	p.compile()
}

func setLimit(nodes []node, name string, l Limit) {
	for i := range nodes {
		n := &nodes[i]
		if n.kind == field && n.name == name && n.limit == Any {
			n.limit = l
		}
		setLimit(n.group, name, l)
	}
}

// parser reads a pattern from left to right.
type parser struct {
	in     []rune
	at     int
	fields []string
}

func (p *parser) fail(at int, format string, args ...any) error {
	return &Error{Offset: at, Text: fmt.Sprintf(format, args...)}
}

// most brackets within one another; deeper ones serve nobody.
const maxDepth = 20

// sequence reads elements until the end, or until the bracket that ends a group.
func (p *parser) sequence(depth int) ([]node, error) {
	var nodes []node
	for p.at < len(p.in) {
		at, c := p.at, p.in[p.at]
		switch {
		case c == '{':
			n, err := p.field()
			if err != nil {
				return nil, err
			}
			nodes = append(nodes, n)
		case c == '[':
			if depth == maxDepth {
				return nil, p.fail(at, "more than %d brackets within one another", maxDepth)
			}
			p.at++
			inner, err := p.sequence(depth + 1)
			if err != nil {
				return nil, err
			}
			if p.at >= len(p.in) {
				return nil, p.fail(at, "the bracket [ is never closed; write \\[ for a plain one")
			}
			p.at++
			nodes = append(nodes, node{kind: group, group: inner})
		case c == ']':
			if depth > 0 {
				return nodes, nil
			}
			return nil, p.fail(at, "a ] without its [; write \\] for a plain one")
		case c == '}':
			return nil, p.fail(at, "a } without its {; write \\} for a plain one")
		case c == '*':
			p.at++
			nodes = append(nodes, node{kind: anything})
		case unicode.IsSpace(c):
			for p.at < len(p.in) && unicode.IsSpace(p.in[p.at]) {
				p.at++
			}
			nodes = append(nodes, node{kind: space})
		case c == '\\':
			if at+1 >= len(p.in) || !strings.ContainsRune(`{}[]*\`, p.in[at+1]) {
				return nil, p.fail(at, "\\ stands before one of { } [ ] * \\ ; write \\\\ for a plain one")
			}
			nodes = append(nodes, node{char: p.in[at+1]})
			p.at += 2
		default:
			nodes = append(nodes, node{char: c})
			p.at++
		}
	}
	return nodes, nil
}

func (p *parser) field() (node, error) {
	at := p.at
	end := slices.Index(p.in[at:], '}')
	if end < 0 {
		return node{}, p.fail(at, "the brace { is never closed; write \\{ for a plain one")
	}
	inside := string(p.in[at+1 : at+end])
	p.at += end + 1
	name, limit, limited := strings.Cut(inside, ":")
	name = strings.TrimSpace(name)
	n := node{kind: field, name: name}
	if limited {
		l, ok := limits[strings.TrimSpace(limit)]
		if !ok {
			return node{}, p.fail(at, "a piece is limited to digits or letters, not to %q", limit)
		}
		n.limit = l
	}
	if strings.ContainsAny(name, "{[]*\\") {
		return node{}, p.fail(at, "%q is no name for a piece", name)
	}
	if slices.Contains(p.fields, name) {
		return node{}, p.fail(at, "the piece {%s} stands twice", name)
	}
	p.fields = append(p.fields, name)
	return n, nil
}

// Write puts the text together from the values of its fields. A field without
// a value is empty; a bracket with an empty field is left out, "*" writes nothing.
func (p *Pattern) Write(value func(name string) string) string {
	var b strings.Builder
	write(&b, p.nodes, value)
	return b.String()
}

// write reports whether every field in nodes had a value.
func write(b *strings.Builder, nodes []node, value func(string) string) bool {
	full := true
	for _, n := range nodes {
		switch n.kind {
		case literal:
			b.WriteRune(n.char)
		case space:
			b.WriteByte(' ')
		case field:
			v := value(n.name)
			full = full && v != ""
			b.WriteString(v)
		case group:
			var inner strings.Builder
			if write(&inner, n.group, value) {
				b.WriteString(inner.String())
			}
		}
	}
	return full
}
