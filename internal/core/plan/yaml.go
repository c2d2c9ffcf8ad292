package plan

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/parser"
	"github.com/goccy/go-yaml/token"

	"umbau/internal/core/place"
)

// Limits of a plan: a file beyond them is no plan.
const (
	maxBytes = 1 << 20
	maxKeys  = 10_000
	maxDepth = 50      // levels within one another
	maxNodes = 200_000 // values, aliases counted where they are used
)

// node is one value of the plan: a text, a list or a map. Texts are kept as
// they were written (007 stays 007).
type node struct {
	pos    place.Pos
	kind   nodeKind
	text   string
	quoted bool
	items  []node  // of a list
	pairs  []aPair // of a map, in order
}

type nodeKind int

const (
	nothing nodeKind = iota // a key without a value
	scalar
	list
	mapping
)

var nodeKindNames = [...]string{"nothing", "a text", "a list", "a map"}

type aPair struct {
	key   string
	pos   place.Pos
	value node
}

// parse reads YAML into nodes. It reports what is no YAML at its line.
func parse(src []byte) (node, place.List) {
	var problems place.List
	fail := func(pos place.Pos, format string, args ...any) (node, place.List) {
		problems.Add(place.InPlan(pos, "plan", format, args...))
		return node{}, problems
	}
	if len(src) > maxBytes {
		return fail(place.Pos{Line: 1, Column: 1}, "the plan has %d bytes; a plan has at most %d", len(src), maxBytes)
	}
	if n := bytes.Count(src, []byte(": ")) + bytes.Count(src, []byte(":\n")); n > maxKeys {
		return fail(place.Pos{Line: 1, Column: 1}, "the plan has %d keys; a plan has at most %d: long lists belong in a book", n, maxKeys)
	}
	src = bytes.TrimPrefix(src, []byte("\ufeff"))
	if pos, ok := plainText(src); !ok {
		return fail(pos, "this is no text in UTF-8; a plan is a YAML file")
	}
	if pos, ok := tooDeep(src); ok {
		return fail(pos, "more than %d levels within one another; a plan needs six", maxDepth)
	}
	file, err := parser.ParseBytes(src, 0, parser.AllowDuplicateMapKey())
	if err != nil {
		return fail(syntaxPos(err), "%s", syntaxText(err))
	}
	docs := slices.DeleteFunc(file.Docs, func(d *ast.DocumentNode) bool { return d.Body == nil })
	if len(docs) == 0 {
		return fail(place.Pos{Line: 1, Column: 1}, "the plan is empty; it begins with umbau: 1")
	}
	if len(docs) > 1 {
		return fail(posOf(docs[1].Body), "a plan is one document; leave out what follows ---")
	}
	c := converter{anchors: map[string]ast.Node{}, problems: &problems}
	return c.node(docs[0].Body, 0), problems
}

// plainText reports whether the plan is text, else where it is not.
func plainText(src []byte) (place.Pos, bool) {
	pos := place.Pos{Line: 1, Column: 1}
	for i := 0; i < len(src); {
		r, n := utf8.DecodeRune(src[i:])
		if r == utf8.RuneError && n == 1 || r < ' ' && r != '\n' && r != '\r' && r != '\t' {
			return pos, false
		}
		pos.Column++
		if r == '\n' {
			pos = place.Pos{Line: pos.Line + 1, Column: 1}
		}
		i += n
	}
	return pos, true
}

// tooDeep finds nesting that no plan has before the parser spends time on it:
// many open brackets, many dashes at the start of a line, a very deep indent.
func tooDeep(src []byte) (place.Pos, bool) {
	open := 0
	for i, line := range bytes.Split(src, []byte("\n")) {
		body := bytes.TrimLeft(line, " ")
		open += bytes.Count(line, []byte("[")) + bytes.Count(line, []byte("{")) - bytes.Count(line, []byte("]")) - bytes.Count(line, []byte("}"))
		dashes := len(body) - len(bytes.TrimLeft(body, "-? :"))
		longest, run := 0, 0
		for _, c := range line {
			if c == '[' || c == '{' {
				run++
				longest = max(longest, run)
			} else if c != ' ' {
				run = 0
			}
		}
		if open > maxDepth || dashes > 2*maxDepth || longest > maxDepth || len(line)-len(body) > 8*maxDepth {
			return place.Pos{Line: i + 1, Column: 1}, true
		}
	}
	return place.Pos{}, false
}

func syntaxPos(err error) place.Pos {
	var s *yaml.SyntaxError
	if errors.As(err, &s) && s.Token != nil {
		return place.Pos{Line: s.Token.Position.Line, Column: s.Token.Position.Column}
	}
	return place.Pos{Line: 1, Column: 1}
}

func syntaxText(err error) string {
	text, _, _ := strings.Cut(err.Error(), "\n")
	var s *yaml.SyntaxError
	if errors.As(err, &s) {
		text = s.Message
	}
	if strings.Contains(text, "'\t'") {
		return "a tab stands where the line begins; indent with spaces"
	}
	return "not readable as YAML: " + text
}

// converter turns the parser's tree into nodes. Aliases are followed, within
// maxNodes.
type converter struct {
	anchors  map[string]ast.Node
	problems *place.List
	nodes    int
}

func posOf(n ast.Node) place.Pos {
	if n == nil || n.GetToken() == nil {
		return place.Pos{Line: 1, Column: 1}
	}
	if m, ok := n.(*ast.MappingNode); ok && len(m.Values) > 0 && m.Start != nil && m.Start.Type != token.MappingStartType {
		return posOf(m.Values[0].Key)
	}
	if m, ok := n.(*ast.MappingValueNode); ok {
		return posOf(m.Key)
	}
	p := n.GetToken().Position
	return place.Pos{Line: p.Line, Column: p.Column}
}

func (c *converter) fail(n ast.Node, format string, args ...any) node {
	c.problems.Add(place.InPlan(posOf(n), "plan", format, args...))
	return node{pos: posOf(n)}
}

func (c *converter) node(n ast.Node, depth int) node {
	if c.nodes++; c.nodes > maxNodes {
		if c.nodes == maxNodes+1 {
			return c.fail(n, "more than %d values, aliases followed; a plan has some hundred", maxNodes)
		}
		return node{}
	}
	if depth > maxDepth {
		return c.fail(n, "more than %d levels within one another; a plan needs six", maxDepth)
	}
	out := node{pos: posOf(n)}
	switch n := n.(type) {
	case nil:
		return out
	case *ast.MappingNode:
		out.kind = mapping
		for _, v := range n.Values {
			c.pair(&out, v, depth)
		}
	case *ast.MappingValueNode:
		out.kind = mapping
		c.pair(&out, n, depth)
	case *ast.SequenceNode:
		out.kind = list
		for _, v := range n.Values {
			out.items = append(out.items, c.node(v, depth+1))
		}
	case *ast.AnchorNode:
		c.anchors[n.Name.GetToken().Value] = n.Value
		return c.node(n.Value, depth+1)
	case *ast.AliasNode:
		name := n.Value.GetToken().Value
		target, ok := c.anchors[name]
		if !ok {
			return c.fail(n, "the alias *%s has no anchor &%s above it", name, name)
		}
		return c.node(target, depth+1)
	case *ast.TagNode:
		return c.node(n.Value, depth+1)
	case *ast.LiteralNode:
		out.kind, out.text, out.quoted = scalar, strings.TrimSpace(n.Value.Value), true
	case *ast.NullNode:
		if v := n.GetToken().Value; n.GetToken().Type == token.NullType && v != "" && v != "null" || v == "~" {
			out.kind, out.text = scalar, v
		}
	default:
		t := n.GetToken()
		out.kind, out.text = scalar, t.Value
		out.quoted = t.Type == token.DoubleQuoteType || t.Type == token.SingleQuoteType
	}
	return out
}

func (c *converter) pair(out *node, v *ast.MappingValueNode, depth int) {
	switch v.Key.(type) {
	case *ast.MappingKeyNode, *ast.MergeKeyNode:
		c.fail(v.Key, "a key is one word; write it out")
		return
	}
	name := v.Key.GetToken().Value
	for _, p := range out.pairs {
		if p.key == name {
			c.fail(v.Key, "%s stands twice; the first is in line %d", name, p.pos.Line)
			return
		}
	}
	out.pairs = append(out.pairs, aPair{key: name, pos: posOf(v.Key), value: c.node(v.Value, depth+1)})
}

// describe says what a node is, for a message about what it should be.
func (n node) describe() string {
	if n.kind == scalar {
		return fmt.Sprintf("%q", place.Shorten(n.text))
	}
	return nodeKindNames[n.kind]
}
