package terms

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
)

// What stands beside the name of a month in a header: Jan Actual, Budget 2024-01.

// MonthBeside parts a header that begins with a month or a quarter, as long as it is, or ends with one, at the sign beside it. first is
// true where it begins with it.
func MonthBeside(header string) (month, sign, rest string, first, ok bool) {
	header = strings.Join(strings.Fields(header), " ")
	take := func(text, by, other string, front bool) {
		if len(text) > len(month) && other != "" && strings.Trim(text, "()-–:/_ ") == text && (IsMonth(text) || IsQuarter(text)) {
			month, sign, rest, first, ok = text, by, other, front, true
		}
	}
	for _, by := range signs {
		for i := strings.Index(header, by); i >= 0; {
			before, behind, closed := strings.TrimSpace(header[:i]), header[i+len(by):], true
			if by == " (" {
				behind, closed = strings.CutSuffix(behind, ")")
			}
			if behind = strings.TrimSpace(behind); closed {
				take(before, by, behind, true)
				take(behind, by, before, false)
			}
			next := strings.Index(header[i+1:], by)
			if next < 0 {
				break
			}
			i += 1 + next
		}
	}
	return month, sign, rest, first, ok
}

// briefActual and briefOthers are what columns are headed by beside each other, and nowhere else.
var (
	briefActual = List("act acts")
	briefOthers = List("bud fc fcst tgt var abw dev diff δ delta")
)

// SaysActual reports whether a text says that figures were sold, this year, and at most which measure they are: Actual, TY, Actual sales.
func SaysActual(text string) bool {
	k := key.Of(text)
	if slices.Contains(thisYear, k) {
		return true
	}
	list := strings.Fields(k)
	other := func(w string) bool { return !Sold[w] && !briefActual[w] && !words[w].OfMeasure() }
	return (Sold.In(text) || briefActual.In(text)) && !slices.ContainsFunc(list, other)
}

// BesideActual reports whether a text says that figures stand beside those that were sold: planned ones, those of the last year,
// differences. What came back is none of these: it may have to be taken off.
func BesideActual(text string) bool {
	if Returns(text) {
		return false
	}
	return Planned.In(text) || OfYear(text) == "last" || NotSold(text) || briefOthers.In(text)
}
