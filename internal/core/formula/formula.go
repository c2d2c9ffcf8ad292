// Package formula is the language in which a plan calculates: what stands behind
// an = sign.
//
//	formula    = or
//	or         = and { "or" and }
//	and        = not { "and" not }
//	not        = "not" not | comparison
//	comparison = sum [ ( "=" | "==" | "!=" | "<>" | "<" | "<=" | ">" | ">=" ) sum ]
//	sum        = product { ( "+" | "-" ) product }
//	product    = sign { ( "*" | "/" ) sign }
//	sign       = [ "-" | "+" ] sign | value
//	value      = number | text | "true" | "false" | column | function "(" formula { "," formula } ")" | "(" formula ")"
//
// A number is written 1234.56. A text stands in double or single quotes, which are
// doubled within. A column is a name of letters, digits and underscores, or any
// name in braces: {Unit price}. Words may be written in any case.
//
// A formula is parsed once, typed once against the columns it names, and then run
// over batches: each operation works on whole columns, and numbers are exact
// decimals throughout. A value may be empty; what is calculated from an empty value
// is empty, and where a condition is wanted an empty one is false.
package formula

import (
	"fmt"

	"umbau/internal/core/value"
)

// Type is what a value of a formula is.
type Type uint8

// The types of values.
const (
	Number Type = iota
	Text
	Flag // true or false
	Day
	Month
	Quarter
	Year // a number too
)

var typeNames = [...]string{"number", "text", "condition", "date", "month", "quarter", "year"}

// String returns the type as messages call it.
func (t Type) String() string { return typeNames[t] }

func (t Type) numeric() bool { return t == Number || t == Year }

// Error is what is wrong with a formula, and at which of its bytes.
type Error struct {
	Offset int
	Text   string
}

// Error implements error.
func (e *Error) Error() string { return e.Text }

func failed(at int, format string, args ...any) *Error {
	return &Error{at, fmt.Sprintf(format, args...)}
}

// Formula is a formula without mistakes. It may be run by many at once, each with
// its own Machine.
type Formula struct {
	Columns []string // that it names, each once, in the order of their first
	Type    Type     // of its result, once it is checked
	root    *node
}

// node is one operation of a formula.
type node struct {
	op     *operation
	at     int // offset in the source
	typ    Type
	args   []*node
	column int           // of Columns, for a column
	number value.Decimal // of a literal
	text   string        // of a literal, the name of a column
	flag   bool          // of a literal
}

// operation is what a node does: how it is typed and how it is run.
type operation struct {
	name  string
	usage string // of a function
	least int    // arguments
	most  int    // 0 for any number
	check func(c *checker, n *node) *Error
	run   func(m *Machine, n *node, size int, args []*Vector) *Vector
}
