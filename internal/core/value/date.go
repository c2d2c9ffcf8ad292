package value

import (
	"strings"
	"unicode"

	"umbau/internal/core/key"
)

// Date is a calendar day, or a month or year where the smaller parts are 0.
type Date struct{ Year, Month, Day int }

// monthNames gives the number of a month by the key of its name in English,
// German, French, Spanish, Italian, Portuguese or Dutch, in full and short.
var monthNames = func() map[string]int {
	names := map[string]int{}
	for i, line := range []string{
		"january jan januar jänner janvier janv enero ene gennaio gen janeiro januari",
		"february feb februar février févr fév febrero febbraio fevereiro fev februari",
		"march mar märz mär mrz mars marzo março maart mrt",
		"april apr avril avr abril abr aprile",
		"may mai mayo maggio mag maio mei",
		"june jun juni juin junio giugno giu junho",
		"july jul juli juillet juil julio luglio lug julho",
		"august aug août aout agosto ago augustus",
		"september sep sept septembre septiembre setiembre set settembre sett setembro",
		"october oct oktober okt octobre octubre ottobre ott outubro out",
		"november nov novembre noviembre novembro",
		"december dec dezember dez décembre déc diciembre dic dicembre dezembro",
	} {
		for _, n := range strings.Fields(line) {
			names[key.Of(n)] = i + 1
		}
	}
	return names
}()

// ReadDate reads a date that can be read in one way only: ISO 8601 (2024-12-31,
// 2024-12, a time after it set aside), or with the name of the month
// (31-Dec-2024, 5 March 2024, March 5, 2024, Dec 2024, 31DEC2024, Dec_2024). It returns
// false for every other text, and for days that no calendar has.
func ReadDate(text string) (Date, bool) {
	if len(text) > 64 {
		return Date{}, false
	}
	if d, ok := isoDate(text); ok {
		return d, d.Valid()
	}
	return namedDate(withoutClock(text))
}

// isoDate reads YYYY-MM or YYYY-MM-DD.
func isoDate(text string) (Date, bool) {
	if len(text) < 7 || text[4] != '-' {
		return Date{}, false
	}
	d := Date{Year: number(text[:4]), Month: number(text[5:7])}
	if len(text) == 7 {
		return d, d.Year > 0 && d.Month > 0
	}
	if len(text) < 10 || text[7] != '-' {
		return Date{}, false
	}
	d.Day = number(text[8:10])
	return d, d.Year > 0 && d.Month > 0 && d.Day > 0 && (len(text) == 10 || clock(text[10:]))
}

// clock reports whether a text is a time of day after a date: T10:30, 10:30:15.5Z, 9:05 PM.
func clock(text string) bool {
	rest, found := strings.CutPrefix(text, "T")
	if !found {
		rest = strings.TrimLeft(text, " ")
		if rest == text {
			return false
		}
	}
	i := strings.IndexByte(rest, ':')
	if i != 2 && (i != 1 || found) || len(rest) < i+3 || number(rest[:i]) < 0 || number(rest[i+1:i+3]) < 0 {
		return false
	}
	rest = strings.TrimLeft(rest[i+3:], "0123456789:.+-Z")
	if found || rest == "" {
		return rest == ""
	}
	switch strings.ToLower(strings.TrimLeft(rest, " \u00a0\u202f")) {
	case "am", "pm", "a.m.", "p.m.":
		return true
	}
	return false
}

// withoutClock is a text without the time of day at its end, and a comma before it.
func withoutClock(text string) string {
	i := strings.IndexByte(text, ':')
	if i < 0 {
		return text
	}
	for i > 0 && text[i-1] >= '0' && text[i-1] <= '9' {
		i--
	}
	if i > 0 && clock(text[i-1:]) {
		return strings.TrimRight(text[:i-1], " ,")
	}
	return text
}

// number reads decimal digits; -1 when there are others.
func number(s string) int {
	n := 0
	for _, c := range []byte(s) {
		if c < '0' || c > '9' {
			return -1
		}
		n = n*10 + int(c-'0')
	}
	return n
}

// namedDate reads a date with the name of its month.
func namedDate(text string) (Date, bool) {
	var d Date
	var figures [2]string
	n, nameAt := 0, -1
	for w, rest := word(text, betweenNamed, true); w != ""; w, rest = word(rest, betweenNamed, true) {
		if w[0] >= '0' && w[0] <= '9' {
			if n == len(figures) {
				return Date{}, false
			}
			figures[n] = w
			n++
			continue
		}
		if strings.EqualFold(w, "de") || strings.EqualFold(w, "di") {
			continue
		}
		m := monthOf(w)
		if m == 0 || d.Month != 0 {
			return Date{}, false
		}
		d.Month, nameAt = m, n
	}
	if d.Month == 0 || n == 0 || nameAt == 2 {
		return Date{}, false
	}
	last := figures[n-1]
	if d.Year = number(last); len(last) != 4 || d.Year < 1 {
		return Date{}, false
	}
	if n == 2 {
		if d.Day = number(figures[0]); d.Day < 1 || len(figures[0]) > 2 {
			return Date{}, false
		}
	}
	return d, d.Valid()
}

// MayName reports whether a text may be a date with the name of its month, in any form: it begins with
// figures, such a name or a word that may stand between.
func MayName(text string) bool {
	may := func(w string) bool {
		return w != "" && (w[0] >= '0' && w[0] <= '9' || monthOf(w) > 0 || strings.EqualFold(w, "de") || strings.EqualFold(w, "di"))
	}
	n := 0
	for n < len(text) && text[n]|0x20 >= 'a' && text[n]|0x20 <= 'z' {
		n++
	}
	if n > 0 && n < len(text) && text[n] == ' ' {
		return may(text[:n])
	}
	one, _ := word(text, betweenNamed, true)
	other, _ := word(text, betweenNamedParts, true)
	return may(one) || may(other)
}

func betweenNamed(r rune) bool {
	return r == '-' || r == '/' || r == '.' || r == ',' || r == '_' || r == '–' || unicode.IsSpace(r)
}

// word is the first word of a text, or with apart the first letters or figures of it, and what follows; "" where there is none.
func word(text string, between func(rune) bool, apart bool) (word, rest string) {
	begin, figures := -1, false
	for i, r := range text {
		switch {
		case between(r):
			if begin >= 0 {
				return text[begin:i], text[i:]
			}
		case begin < 0:
			begin, figures = i, r >= '0' && r <= '9'
		case apart && figures != (r >= '0' && r <= '9'):
			return text[begin:i], text[i:]
		}
	}
	if begin < 0 {
		return "", ""
	}
	return text[begin:], ""
}

// monthOf is the month with a name, 0 for none.
func monthOf(name string) int {
	const longest = 24 // far more than any has
	if len(name) > longest || len(name) < 2 || !mayBeginMonth(name[0]|0x20, name[1]|0x20) {
		return 0
	}
	var low [longest]byte
	for i := range len(name) {
		c := name[i] | 0x20
		if c < 'a' || c > 'z' {
			return monthNames[key.Of(name)]
		}
		low[i] = c
	}
	return monthNames[string(low[:len(name)])]
}

// mayBeginMonth is false for most pairs of small letters of ASCII with which the name of no month begins.
func mayBeginMonth(a, b byte) bool {
	return a < 'a' || a > 'z' || b < 'a' || b > 'z' || monthBegins[a-'a']>>(b-'a')&1 != 0
}

// monthBegins are the second letters of the names of months, a bit for each, by the first.
var monthBegins = func() (table [26]uint32) {
	for name := range monthNames {
		table[name[0]-'a'] |= 1 << (name[1] - 'a')
	}
	return table
}()

// Valid reports whether the calendar has this date.
func (d Date) Valid() bool {
	if d.Month < 1 || d.Month > 12 || d.Day < 0 {
		return false
	}
	days := [...]int{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}[d.Month-1]
	if d.Month == 2 && d.Year%4 == 0 && (d.Year%100 != 0 || d.Year%400 == 0) {
		days = 29
	}
	return d.Day <= days
}

// String writes a date as ISO 8601 does: 2024-07-31, and 2024-07 where it has no
// day.
func (d Date) String() string {
	text := append(appendPadded(nil, d.Year, 4), '-')
	text = appendPadded(text, d.Month, 2)
	if d.Day > 0 {
		text = appendPadded(append(text, '-'), d.Day, 2)
	}
	return string(text)
}

func appendPadded(dst []byte, n, width int) []byte {
	for unit := int(powers[width-1]); unit > 0; unit /= 10 {
		dst = append(dst, byte('0'+n/unit%10))
	}
	return dst
}
