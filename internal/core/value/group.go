package value

import "strings"

// Grouped puts commas between groups of three digits of a number, for a person:
// 27667101.40 is 27,667,101.40.
func Grouped(number string) string {
	sign, rest := "", number
	if strings.HasPrefix(rest, "-") {
		sign, rest = "-", rest[1:]
	}
	whole, places, pointed := strings.Cut(rest, ".")
	if len(whole) == 0 || strings.Trim(whole, "0123456789") != "" {
		return number
	}
	var b strings.Builder
	b.WriteString(sign)
	for i, c := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteByte(',')
		}
		b.WriteRune(c)
	}
	if pointed {
		b.WriteString("." + places)
	}
	return b.String()
}
