package formula

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/value"
)

// MostBytes is how long a formula may be, MostNested how deep its brackets.
const (
	MostBytes  = 10_000
	MostNested = 200
)

// Parse reads a formula without its = sign. The error is an *Error.
func Parse(src string) (*Formula, error) {
	if len(src) > MostBytes {
		return nil, failed(0, "the formula has %d characters; the most are %d", len(src), MostBytes)
	}
	p := &parser{src: src, formula: &Formula{}}
	p.next()
	root, err := p.or()
	if err == nil && p.token != end {
		err = failed(p.at, "%s is not expected here; is an operator or a comma missing%s?", p.shown(), p.unquoted())
	}
	if p.bad != nil {
		err = p.bad
	}
	if err != nil {
		return nil, err
	}
	p.formula.root = root
	return p.formula, nil
}

// token is what a piece of the source is.
type token uint8

const (
	end    token = iota
	figure       // a number
	quoted       // a text
	word         // a name
	braced       // a name in braces
	sign         // an operator, a bracket or a comma
)

type parser struct {
	src     string
	formula *Formula
	pos     int // behind the token
	at      int // where the token begins
	token   token
	text    string // of the token: without quotes or braces, words as they stand
	depth   int
	bad     *Error // the first mistake in a token
}

func (p *parser) shown() string {
	if p.token == end {
		return "the end"
	}
	return p.src[p.at:p.pos]
}

// unquoted asks, of a word behind another one, whether they are a text, and shows how it would stand in quotes.
func (p *parser) unquoted() string {
	before := strings.TrimRightFunc(p.src[:p.at], unicode.IsSpace)
	first := before[strings.LastIndexFunc(before, func(r rune) bool { return !inName(r) })+1:]
	if p.token != word || first == "" {
		return ""
	}
	return ", or is it a text: '" + first + " " + p.text + "'"
}

// TextInQuotes ends a message about a name that is no column.
func TextInQuotes(name string) string { return "; a text stands in quotes: '" + name + "'" }

// next reads the next token.
func (p *parser) next() {
	for p.pos < len(p.src) {
		r, n := utf8.DecodeRuneInString(p.src[p.pos:])
		if !unicode.IsSpace(r) {
			break
		}
		p.pos += n
	}
	p.at = p.pos
	if p.pos == len(p.src) {
		p.token = end
		return
	}
	switch c := p.src[p.pos]; {
	case c >= '0' && c <= '9' || c == '.':
		p.figure()
	case c == '"' || c == '\'':
		p.quoted(c)
	case c == '{':
		p.token = braced
		i := strings.IndexByte(p.src[p.pos:], '}')
		if i < 0 {
			p.fail("the brace is not closed; a column is named {Unit price}")
			return
		}
		p.text = p.src[p.pos+1 : p.pos+i]
		p.pos += i + 1
	default:
		p.wordOrSign()
	}
}

// fail notes a mistake in a token; nothing is read after it.
func (p *parser) fail(text string) {
	if p.bad == nil {
		p.bad = failed(p.at, "%s", text)
	}
	p.token, p.pos = end, len(p.src)
}

func (p *parser) figure() {
	p.token = figure
	for p.pos < len(p.src) && (p.src[p.pos] >= '0' && p.src[p.pos] <= '9' || p.src[p.pos] == '.') {
		p.pos++
	}
	p.text = p.src[p.at:p.pos]
	r, _ := utf8.DecodeRuneInString(p.src[p.pos:])
	if _, _, ok := value.English.Number([]byte(p.text)); !ok || p.pos < len(p.src) && inName(r) {
		p.fail("a number is written 1234.56, without exponent; a column whose name begins with a digit is named {2nd price}")
	}
}

func (p *parser) quoted(mark byte) {
	p.token = quoted
	var text strings.Builder
	for p.pos++; p.pos < len(p.src); p.pos++ {
		if p.src[p.pos] != mark {
			text.WriteByte(p.src[p.pos])
			continue
		}
		if p.pos+1 < len(p.src) && p.src[p.pos+1] == mark {
			text.WriteByte(mark)
			p.pos++
			continue
		}
		p.pos++
		p.text = text.String()
		return
	}
	p.fail("the quote is not closed")
}

func inName(r rune) bool { return r == '_' || unicode.IsLetter(r) || unicode.IsDigit(r) }

// signs are the operators, those of two characters first.
var signs = []string{"==", "!=", "<>", "<=", ">=", "=", "<", ">", "+", "-", "*", "/", "(", ")", ","}

func (p *parser) wordOrSign() {
	for p.pos < len(p.src) {
		r, n := utf8.DecodeRuneInString(p.src[p.pos:])
		if !inName(r) || r == utf8.RuneError {
			break
		}
		p.pos += n
	}
	if p.text = p.src[p.at:p.pos]; p.text != "" {
		p.token = word
		return
	}
	for _, s := range signs {
		if strings.HasPrefix(p.src[p.pos:], s) {
			p.token, p.text = sign, s
			p.pos += len(s)
			return
		}
	}
	r, _ := utf8.DecodeRuneInString(p.src[p.pos:])
	switch r {
	case '&', '^', '%', '[', ';', '!', '|':
		p.fail(string(r) + " is no operator here; there are + - * /, comparisons, and, or, not")
	default:
		p.fail(string(r) + " has no meaning in a formula")
	}
}

// is reports whether the token is one of these words or signs.
func (p *parser) is(texts ...string) bool {
	if p.token != word && p.token != sign {
		return false
	}
	for _, t := range texts {
		if strings.EqualFold(t, p.text) {
			return true
		}
	}
	return false
}

// binary reads operands with operators between them, from the left.
func (p *parser) binary(operand func() (*node, *Error), signs ...string) (*node, *Error) {
	left, err := operand()
	for err == nil && p.is(signs...) {
		n := &node{op: operators[strings.ToLower(p.text)], at: p.at}
		p.next()
		var right *node
		right, err = operand()
		n.args = []*node{left, right}
		left = n
	}
	return left, err
}

func (p *parser) or() (*node, *Error)  { return p.binary(p.and, "or") }
func (p *parser) and() (*node, *Error) { return p.binary(p.not, "and") }

func (p *parser) not() (*node, *Error) {
	if !p.is("not") {
		return p.comparison()
	}
	return p.prefix(notOperation, p.not)
}

// prefix reads an operator before its operand.
func (p *parser) prefix(op *operation, operand func() (*node, *Error)) (*node, *Error) {
	n := &node{op: op, at: p.at}
	if err := p.deeper(); err != nil {
		return nil, err
	}
	defer p.higher()
	p.next()
	arg, err := operand()
	n.args = []*node{arg}
	return n, err
}

func (p *parser) deeper() *Error {
	if p.depth++; p.depth > MostNested {
		return failed(p.at, "the formula is nested more than %d deep", MostNested)
	}
	return nil
}

func (p *parser) higher() { p.depth-- }

var comparisons = []string{"=", "==", "!=", "<>", "<", "<=", ">", ">="}

func (p *parser) comparison() (*node, *Error) {
	n, err := p.sum()
	if err != nil || !p.is(comparisons...) {
		return n, err
	}
	c := &node{op: operators[p.text], at: p.at}
	p.next()
	right, err := p.sum()
	if err == nil && p.is(comparisons...) {
		err = failed(p.at, "one comparison follows another; join them with and")
	}
	c.args = []*node{n, right}
	return c, err
}

func (p *parser) sum() (*node, *Error)     { return p.binary(p.product, "+", "-") }
func (p *parser) product() (*node, *Error) { return p.binary(p.sign, "*", "/") }

func (p *parser) sign() (*node, *Error) {
	switch {
	case p.is("-"):
		return p.prefix(minusOperation, p.sign)
	case p.is("+"):
		return p.prefix(plusOperation, p.sign)
	}
	return p.value()
}

func (p *parser) value() (*node, *Error) {
	n := &node{at: p.at, text: p.text}
	switch {
	case p.token == figure:
		n.op = literalOperation
		n.number, _, _ = value.English.Number([]byte(p.text))
		n.number = n.number.Shorten()
	case p.token == quoted:
		n.op, n.typ = literalOperation, Text
	case p.token == braced:
		p.column(n)
	case p.is("("):
		return p.brackets()
	case p.is("and", "or", "not", "then", "else"):
		return nil, failed(p.at, "%s is not expected here; is a value missing?", p.text)
	case p.token == word:
		return p.word(n)
	default:
		return nil, failed(p.at, "a value is missing before %s", p.shown())
	}
	p.next()
	return n, nil
}

func (p *parser) brackets() (*node, *Error) {
	if err := p.deeper(); err != nil {
		return nil, err
	}
	defer p.higher()
	open := p.at
	p.next()
	n, err := p.or()
	if err == nil && !p.is(")") {
		err = failed(open, "the bracket is not closed")
		if p.token != end {
			err = failed(p.at, "%s is not expected here; is an operator or a closing bracket missing%s?", p.shown(), p.unquoted())
		}
	}
	p.next()
	return n, err
}

// word reads a column, a function with its arguments, or true and false.
func (p *parser) word(n *node) (*node, *Error) {
	p.next()
	if p.is("(") {
		return p.call(n)
	}
	if low := strings.ToLower(n.text); low == "true" || low == "false" {
		n.op, n.typ, n.flag = literalOperation, Flag, low == "true"
		return n, nil
	}
	p.column(n)
	return n, nil
}

func (p *parser) column(n *node) {
	n.op, n.column = columnOperation, -1
	for i, c := range p.formula.Columns {
		if c == n.text {
			n.column = i
		}
	}
	if n.column < 0 {
		n.column = len(p.formula.Columns)
		p.formula.Columns = append(p.formula.Columns, n.text)
	}
}

func (p *parser) call(n *node) (*node, *Error) {
	name := strings.ToLower(n.text)
	n.op = function(name)
	if n.op == nil {
		return nil, failed(n.at, "there is no function %s; there are %s", n.text, strings.Join(functionNames, ", "))
	}
	if err := p.deeper(); err != nil {
		return nil, err
	}
	defer p.higher()
	for p.next(); !p.is(")"); {
		arg, err := p.or()
		if err != nil {
			return nil, err
		}
		n.args = append(n.args, arg)
		if p.is(")") {
			break
		}
		if !p.is(",") {
			return nil, failed(p.at, "%s( wants a comma or a closing bracket, not %s", name, p.shown())
		}
		p.next()
	}
	p.next()
	if k := len(n.args); k < n.op.least || n.op.most > 0 && k > n.op.most {
		return nil, failed(n.at, "%s has %d values between its brackets; it is written %s", name, k, n.op.usage)
	}
	return n, nil
}
