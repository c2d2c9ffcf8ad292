package formula

import (
	"slices"
	"strings"

	"umbau/internal/core/value"
)

// Check types a formula: column tells the type of a column that it names, and
// fails for one that there is not. calendar counts the years. The error is an
// *Error.
func (f *Formula) Check(calendar value.Calendar, column func(name string) (Type, error)) error {
	c := &checker{column: column, reading: value.Reading{Numbers: value.English, Calendar: calendar}}
	if err := c.check(f.root); err != nil {
		return err
	}
	f.Type = f.root.typ
	return nil
}

// Condition reports whether the formula is one, and where it is not, why.
func (f *Formula) Condition() error {
	if f.Type == Flag {
		return nil
	}
	return failed(f.root.at, "a condition is wanted, such as amount > 0; this is a %s", f.Type)
}

type checker struct {
	column  func(name string) (Type, error)
	reading value.Reading
}

func (c *checker) check(n *node) *Error {
	for _, a := range n.args {
		if err := c.check(a); err != nil {
			return err
		}
	}
	return n.op.check(c, n)
}

func checkLiteral(*checker, *node) *Error { return nil }

func checkColumn(c *checker, n *node) *Error {
	t, err := c.column(n.text)
	if err != nil {
		return failed(n.at, "%v", err)
	}
	n.typ = t
	return nil
}

// wantNumber fails for an argument that is no number.
func wantNumber(n, arg *node) *Error {
	if arg.typ.numeric() {
		return nil
	}
	hint := ""
	switch {
	case n.op.name == "+" && !slices.ContainsFunc(n.args, func(a *node) bool { return a.typ != Text }):
		hint = "; texts are joined with write: \"{name} {size}\""
	case arg.op == columnOperation && arg.typ == Text:
		hint = "; say is: number if it holds numbers"
	}
	return failed(arg.at, "%s calculates with numbers; this is a %s%s", n.op.name, arg.typ, hint)
}

func checkNumbers(_ *checker, n *node) *Error {
	for _, a := range n.args {
		if err := wantNumber(n, a); err != nil {
			return err
		}
	}
	n.typ = Number
	return nil
}

// unify finds the one type of several values. A text that stands beside dates is
// read as one.
func (c *checker) unify(n *node, args []*node) (Type, *Error) {
	t := args[0].typ
	for _, a := range args[1:] {
		switch {
		case a.typ == t:
		case a.typ.numeric() && t.numeric():
			t = Number
		case t == Text && a.typ != Text && args[0].op == literalOperation:
			t = a.typ
		}
	}
	for _, a := range args {
		if a.typ == t || a.typ.numeric() && t.numeric() {
			continue
		}
		if a.op != literalOperation || a.typ != Text || !c.convert(a, t) {
			hint := ""
			if t.numeric() && a.typ == Text || t == Text && a.typ.numeric() {
				hint = "; a number stands without quotes, a text in quotes"
			}
			return t, failed(a.at, "%s wants values of one type: this is a %s beside a %s%s", n.op.name, a.typ, t, hint)
		}
	}
	return t, nil
}

// convert reads a text that stands in a formula as a date of some kind, or a year.
func (c *checker) convert(n *node, t Type) bool {
	text, ok := n.text, false
	switch t {
	case Day:
		text, ok = c.reading.Day(text)
	case Month:
		text, ok = c.reading.Month(text)
	case Quarter:
		text, ok = c.reading.Quarter(text)
	case Year:
		if text, ok = c.reading.Year(text); ok {
			n.number, _, ok = value.English.Number([]byte(text))
		}
	}
	if ok {
		n.text, n.typ = text, t
	}
	return ok
}

func checkComparison(c *checker, n *node) *Error {
	t, err := c.unify(n, n.args)
	if err != nil {
		return err
	}
	if t == Flag && strings.ContainsAny(n.op.name, "<>") && n.op.name != "<>" {
		return failed(n.at, "conditions are equal or not; neither is greater")
	}
	n.typ = Flag
	return nil
}

func checkConditions(_ *checker, n *node) *Error {
	for _, a := range n.args {
		if a.typ != Flag {
			return failed(a.at, "%s wants conditions, such as amount > 0; this is a %s", n.op.name, a.typ)
		}
	}
	n.typ = Flag
	return nil
}

func checkIf(c *checker, n *node) *Error {
	if n.args[0].typ != Flag {
		return failed(n.args[0].at, "if( begins with a condition, such as amount > 0; this is a %s", n.args[0].typ)
	}
	t, err := c.unify(n, n.args[1:])
	n.typ = t
	return err
}

func checkSame(c *checker, n *node) *Error {
	t, err := c.unify(n, n.args)
	n.typ = t
	return err
}

func checkOrdered(c *checker, n *node) *Error {
	t, err := c.unify(n, n.args)
	if err == nil && (t == Text || t == Flag) {
		err = failed(n.at, "%s compares numbers or dates; these are %ss", n.op.name, t)
	}
	n.typ = t
	return err
}

func checkText(_ *checker, n *node) *Error {
	if n.args[0].typ != Text {
		return failed(n.args[0].at, "%s( wants a text; this is a %s", n.op.name, n.args[0].typ)
	}
	n.typ = Text
	return nil
}

func checkRound(_ *checker, n *node) *Error {
	if err := wantNumber(n, n.args[0]); err != nil {
		return err
	}
	n.typ = Number
	if len(n.args) < 2 {
		return nil
	}
	places, negative := n.args[1], false
	if places.op == minusOperation {
		places, negative = places.args[0], true
	}
	coef, decimals, ok := places.number.Small()
	if places.op != literalOperation || places.typ != Number || !ok || decimals != 0 || coef > value.MostDigits {
		return failed(n.args[1].at, "round( wants how many places as a whole number, such as round(amount, 2)")
	}
	n.column = int(coef) // how many places
	if negative {
		n.column = -n.column
	}
	n.args = n.args[:1]
	return nil
}

// checkDate types year(, quarter( and month(, which read a date of some kind.
func checkDate(result Type) func(*checker, *node) *Error {
	return func(_ *checker, n *node) *Error {
		a := n.args[0]
		switch {
		case a.typ == Day || a.typ == Month || a.typ == Quarter && result != Month || a.typ == Year && result == Year:
			n.typ = result
			return nil
		case a.typ == Text:
			return failed(a.at, "%s( wants a date; this is a text; say is: date or is: month of the column", n.op.name)
		}
		return failed(a.at, "%s( wants a date; this is a %s", n.op.name, a.typ)
	}
}
