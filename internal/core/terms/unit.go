package terms

import (
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/value"
)

// Measured is a header that names a measure, its unit, and what its figures are of.
type Measured struct {
	Header  string // without it
	Unit    string // with what stands before it: " (EUR)", ", pcs"
	Measure string
	Inside  bool // it stands right behind the measure, before the thing
}

// UnitBeside parts the unit from a header such as Sales Jan 2024 (EUR), Jan 2024 Sales in EUR or Qty (pcs) Jan 2024. A unit right behind
// a measure that no sign sets off is part of its name. Measure is "" where the word beside a month is none: Price Jan 2024 (EUR).
func UnitBeside(header string) (u Measured, ok bool) {
	header = strings.Join(strings.Fields(header), " ")
	if measure, sign, thing, first := MeasureFirst(header); first {
		if name, text, setOff := unitBehind(measure); setOff {
			return Measured{name + sign + thing, text, name, true}, true
		}
		if m := setOffUnit().FindStringSubmatch(thing); m != nil && sign == " " && value.IsUnit(m[2]) {
			return Measured{measure + m[3], " " + m[1], measure, true}, true
		}
	}
	base, text, setOff := unitBehind(header)
	if text == "" {
		return Measured{}, false
	}
	if measure, _, _, first := MeasureFirst(base); first {
		return Measured{base, text, measure, false}, true
	}
	_, _, measure, last := MeasureLast(base)
	_, _, _, _, beside := MonthBeside(base)
	return Measured{base, text, measure, false}, (last || beside && !IsMonth(base) && !IsQuarter(base)) && setOff
}

// unitBehind parts the unit, with what stands before it, from the end of a text; "" where there is none. setOff is true where a sign or
// a word stands between.
func unitBehind(text string) (base, unit string, setOff bool) {
	m := endOfText().FindStringSubmatch(text)
	if m == nil || !value.IsUnit(m[3]+m[4]+m[5]) {
		return text, "", false
	}
	return m[1], m[2], m[2] != " "+m[5]
}

var endOfText = expression.Of(`^(.+?)( ?\(([^()]+)\)| ?\[([^\[\]]+)\]|(?:,| in| en)? (\S+))$`)

var setOffUnit = expression.Of(`^([(\[]([^()\[\]]+)[)\]])([ _:-].+)$`)
