package value

import (
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
)

// quarterWords are words for a quarter by the key, in English, German, French, Spanish, Italian, Portuguese and Dutch.
const quarterWords = `q|qtr|quarter|quartal|trimestre|trim|kwartaal`

// namedQuarter is a quarter with a word for it: Quarter 3 2024, 3. Quartal 2024, 3Q 2024, 2024 Q3, 3er trimestre 2024.
var namedQuarter = expression.Of(`^(?:(\d{4}) )?(?:(?:` + quarterWords + `) ?([1-4])|([1-4]) ?(?:st|nd|rd|th|er|e|o|a)? ?(?:` +
	quarterWords + `))(?: (?:of |de |del )?(\d{4}))?$`)

// shortQuarter is a quarter with two digits of its year: Q3/24, Q3 '24, 3Q24, 24Q3. Q324 is a code.
var shortQuarter = expression.Of(`(?i)^(?:(?:q([1-4])(?: ?[/'’.-] ?| )|([1-4])q ?[/'’.-]? ?)(\d\d)|(\d\d)[ /-]?q([1-4]))$`)

// IsQuarter reports whether a text names a quarter of a year, and no date.
func IsQuarter(text string) bool {
	_, _, ok := writtenQuarter(text)
	return ok
}

// BareQuarter is the number of a quarter without a year, as Q3, Quarter 3 and 3. Quartal; 0 for other texts.
func BareQuarter(text string) int {
	if len(text) > longestQuarter {
		return 0
	}
	m := namedQuarter().FindStringSubmatch(key.Of(text))
	if m == nil || m[1]+m[4] != "" {
		return 0
	}
	return number(m[2] + m[3])
}

// longestQuarter is more letters than a quarter has.
const longestQuarter = 32

// writtenQuarter reads Q3 2024, 2024-Q3, 2024Q3, Q3/2024, Quarter 3 2024, and Q3/24, of the years from 1970 to 2069.
func writtenQuarter(text string) (year, quarter int, ok bool) {
	if !mayBeQuarter(text) {
		return 0, 0, false
	}
	if year, quarter, ok = plainQuarter(text); ok {
		return year, quarter, ok
	}
	if m := shortQuarter().FindStringSubmatch(text); m != nil {
		return yearOfTwo(number(m[3] + m[4])), number(m[1] + m[2] + m[5]), true
	}
	m := namedQuarter().FindStringSubmatch(key.Of(text))
	if m == nil || m[1] != "" && m[4] != "" {
		return 0, 0, false
	}
	year, quarter = number(m[1]+m[4]), number(m[2]+m[3])
	return year, quarter, year > 0
}

// mayBeQuarter is false for most texts that are none: they begin with a digit or such a word, all of which have a q, or begin with tri or
// kw, and have five digits, or three.
func mayBeQuarter(text string) bool {
	if len(text) > longestQuarter {
		return false
	}
	begin := 0
	for begin < len(text) && strings.IndexByte(" -/._", text[begin]) >= 0 {
		begin++
	}
	if begin == len(text) || text[begin] < 0x80 && strings.IndexByte("0123456789qQtTkK", text[begin]) < 0 {
		return false
	}
	digits, word := 0, false
	for i := range len(text) {
		switch c := text[i] | 0x20; {
		case text[i] >= '0' && text[i] <= '9':
			digits++
		case c == 'q', c == 'i' && i > 1 && text[i-1]|0x20 == 'r' && text[i-2]|0x20 == 't', c == 'w' && i > 0 && text[i-1]|0x20 == 'k':
			word = true
		}
	}
	return word && (digits == 5 || digits == 3)
}

// betweenParts takes away what stands between a quarter and its year.
var betweenParts = strings.NewReplacer(" ", "", "-", "", "/", "", ".", "", "_", "")

// plainQuarter reads Q and the quarter behind the year or before it.
func plainQuarter(text string) (year, quarter int, ok bool) {
	low := strings.ToLower(betweenParts.Replace(text))
	if len(low) != 6 {
		return 0, 0, false
	}
	q, y := low[:2], low[2:]
	if low[0] != 'q' {
		y, q = low[:4], low[4:]
	}
	if q[0] != 'q' || q[1] < '1' || q[1] > '4' || number(y) < 1 {
		return 0, 0, false
	}
	return number(y), int(q[1] - '0'), true
}
