package value

import (
	"bytes"
	"math/big"
	"slices"
	"unicode"
	"unicode/utf8"
)

// Style is how numbers are written: by example, 1,234.56.
type Style struct {
	Example string
	Point   rune // the decimal sign, none for whole numbers only
	Group   rune // between groups of digits, none for no groups; a space stands for spaces of any kind
	Pairs   bool // groups of two before the last of three
}

// English is the style of 1,234.56, read where a plan names no other.
var English = Style{Example: "1,234.56", Point: '.', Group: ','}

// Styles are all styles, English first.
var Styles = [...]Style{English,
	{Example: "1.234,56", Point: ',', Group: '.'},
	{Example: "1 234,56", Point: ',', Group: ' '},
	{Example: "1'234.56", Point: '.', Group: '\''},
	{Example: "12,34,567.89", Point: '.', Group: ',', Pairs: true},
}

// none is no sign that a text could have.
const none rune = -1

// PointByte is the decimal sign as a byte, one that no text has where there is
// none.
func (s Style) PointByte() byte {
	if s.Point == none {
		return 0xff
	}
	return byte(s.Point)
}

// StyleOf returns the style of a number given as an example: 1,234.56, and with
// other signs, without groups (1234,56) or without decimals (1.234). A single
// sign before three digits parts groups. ok is false where an example shows no
// style.
func StyleOf(example string) (s Style, ok bool) {
	s = Style{Example: example, Point: none, Group: none}
	var signs []rune
	groups := []int{0} // how many digits stand between the signs
	for _, r := range example {
		switch {
		case r >= '0' && r <= '9':
			groups[len(groups)-1]++
			continue
		case unicode.IsSpace(r):
			r = ' '
		case r == '’':
			r = '\''
		case !slices.ContainsFunc(Styles[:], func(s Style) bool { return r == s.Point || r == s.Group }):
			return s, false
		}
		signs, groups = append(signs, r), append(groups, 0)
	}
	if n := len(signs); n > 0 {
		last, before, after := signs[n-1], groups[n-1], groups[n]
		if n == 1 && (before > 3 || after != 3) || n > 1 && last != signs[0] {
			s.Point, signs, groups = last, signs[:n-1], groups[:n]
		}
	}
	if len(signs) > 0 {
		s.Group = signs[0]
		s.Pairs = len(groups) > 2 && groups[1] == 2
	}
	for _, r := range signs {
		if r != s.Group {
			return s, false
		}
	}
	if s.Group == s.Point && s.Point != none || s.Point == ' ' || s.Point == '\'' {
		return s, false
	}
	_, _, ok = s.Number([]byte(example))
	return s, ok
}

// groups reports whether a rune stands between groups of digits.
func (s Style) groups(r rune) bool {
	switch s.Group {
	case ' ':
		return r == ' ' || r > unicode.MaxASCII && unicode.IsSpace(r) // no tab, no line break
	case '\'':
		return r == '\'' || r == '’'
	}
	return r == s.Group
}

// MostDigits is the most digits a number may have; a longer one is unclear.
const MostDigits = 1000

// Plain reads the plain numbers that most cells hold: digits with at most one
// point, the byte sign, between them and at most one minus before, 18 digits at
// most. It returns the number as coef × 10^-places. neat says that the text is already
// what a delivery with exactly that many places has: no needless zero before,
// no -0. ok is false for every other text, number or not.
func Plain(b []byte, sign byte) (coef int64, places int, neat, ok bool) {
	negative := false
	if len(b) > 0 && b[0] == '-' {
		negative = true
		b = b[1:]
	}
	if len(b) == 0 || len(b) > MaxPlaces+1 {
		return 0, 0, false, false
	}
	point := -1
	var n uint64
	for i, c := range b {
		if d := c - '0'; d <= 9 {
			n = n*10 + uint64(d)
		} else if c == sign && point < 0 && i > 0 && i < len(b)-1 {
			point = i
		} else {
			return 0, 0, false, false
		}
	}
	whole := len(b)
	if point >= 0 {
		places = len(b) - 1 - point
		whole = point
	} else if len(b) > MaxPlaces {
		return 0, 0, false, false
	}
	neat = (whole == 1 || b[0] != '0') && (places == 0 || sign == '.')
	coef = int64(n)
	if negative {
		coef = -coef
		neat = neat && n != 0
	}
	return coef, places, neat, true
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// dress is what may stand beside the digits of a number.
type dress struct {
	minus, plus, open, closed, percent bool
	currency                           string
}

// Number reads a number as a person writes it: digits in the style, and beside
// them in any order at most one sign (-, − or +, before or after), a pair of
// parentheses for a minus, one currency sign or ISO 4217 code, a percent sign
// and spaces. Digits may be missing on one side of the decimal sign; groups
// have three digits, and a number with groups does not begin with 0. It returns
// the currency as its code, or its sign where that stands for several, and
// false for every other text.
func (s Style) Number(b []byte) (d Decimal, currency string, ok bool) {
	b = Trim(b)
	if coef, places, _, plain := Plain(b, s.PointByte()); plain {
		return Decimal{coef: coef, places: places}, "", true
	}
	if n := len(b); n > 0 && digit(b[0]) && digit(b[n-1]) { // nothing stands around it
		d, ok = s.digits(b)
		return d, "", ok
	}
	var w dress
	first, last := 0, len(b)
	for first < last && !digit(b[first]) {
		first++
	}
	if first == last {
		return d, "", false
	}
	for !digit(b[last-1]) {
		last--
	}
	bare := false
	if r, n := utf8.DecodeLastRune(b[:first]); r == s.Point { // .5
		first -= n
		bare = true
	}
	if r, n := utf8.DecodeRune(b[last:]); r == s.Point { // 5.
		last += n
	}
	if !w.read(b[:first]) || w.closed || !w.read(b[last:]) || w.open != w.closed {
		return d, "", false
	}
	if d, ok = s.digits(b[first:last]); !ok || bare && bytes.HasSuffix(bytes.ToLower(b[:first]), []byte("kr")) {
		return d, "", false // kr.5 is five, or a half
	}
	if w.minus || w.open {
		d = d.Neg()
	}
	if w.percent {
		d.places += 2
	}
	return d, w.currency, true
}

// Dressed is false for texts with something around their digits that stands around a number in no style.
func Dressed(b []byte) bool {
	first, last := 0, len(b)
	for first < last && !digit(b[first]) {
		first++
	}
	if first == last {
		return false
	}
	for !digit(b[last-1]) {
		last--
	}
	if first > 0 && (b[first-1] == '.' || b[first-1] == ',') {
		first--
	}
	if last < len(b) && (b[last] == '.' || b[last] == ',') {
		last++
	}
	var w dress
	return w.read(b[:first]) && w.read(b[last:])
}

// read takes in what stands on one side of the digits.
func (w *dress) read(b []byte) bool {
	for len(b) > 0 {
		r, n := utf8.DecodeRune(b)
		switch {
		case unicode.IsSpace(r) || r == '\u2060' || r == '\ufeff':
		case r == '-' || r == '−':
			if w.minus || w.plus || w.open {
				return false
			}
			w.minus = true
		case r == '+':
			if w.minus || w.plus || w.open {
				return false
			}
			w.plus = true
		case r == '(':
			if w.open || w.minus || w.plus {
				return false
			}
			w.open = true
		case r == ')':
			if !w.open || w.closed {
				return false
			}
			w.closed = true
		case r == '%':
			if w.percent {
				return false
			}
			w.percent = true
		default:
			code, size := currencyAt(b)
			if size == 0 || w.currency != "" {
				return false
			}
			w.currency, n = code, size
		}
		b = b[n:]
	}
	return true
}

// digits reads the digits themselves, with groups and decimal sign.
func (s Style) digits(b []byte) (Decimal, bool) {
	all := b
	count, n := 0, int64(0) // of the digits, and what they say if they are few
	places, point, group, groups := 0, false, 0, 0
	inner := 3 // digits of a group between two others
	if s.Pairs {
		inner = 2
	}
	for len(b) > 0 {
		r, size := rune(b[0]), 1
		if r >= utf8.RuneSelf {
			r, size = utf8.DecodeRune(b)
		}
		b = b[size:]
		switch {
		case r >= '0' && r <= '9':
			n = n*10 + int64(r-'0')
			count++
			if point {
				places++
			} else {
				group++
			}
		case r == s.Point && !point:
			if groups > 0 && group != 3 {
				return Decimal{}, false
			}
			point = true
		case s.groups(r) && !point:
			if group == 0 || groups == 0 && group > inner || groups > 0 && group != inner || all[0] == '0' {
				return Decimal{}, false
			}
			group = 0
			groups++
		default:
			return Decimal{}, false
		}
	}
	if groups > 0 && !point && group != 3 || count == 0 || count > MostDigits {
		return Decimal{}, false
	}
	if count > MaxPlaces {
		plain := slices.DeleteFunc(slices.Clone(all), func(c byte) bool { return !digit(c) })
		wide, ok := new(big.Int).SetString(string(plain), 10)
		return newWide(wide, places), ok
	}
	return Decimal{coef: n, places: places}, true
}
