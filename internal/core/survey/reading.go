package survey

import (
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// reading is the ways in which a text can be read.
type reading struct {
	styles uint32 // bit i: as a number in style i
	forms  uint32 // bit 0: as a date by default, bit i+1: in form i
	months bool   // as a date, it has no day
	whole  bool   // as a number, it is whole
	truth  bool   // true or false
	parts  bool   // a quarter
	money  string // the currency that it names
	sheet  table.CellKind
	gap    value.Gap // for every way: blank, null, error; else which gap the text is where it is not read
}

const defaultDate = 1

// The most letters of ASCII that a number has, two currencies among them, and that a date of figures
// has, with a time behind it; some to spare.
const (
	numberLetters = 8
	dateLetters   = 4
)

// The forms of dates, and those that have the name of the month, by their numbers.
var allForms, namedForms = func() (all, named []int) {
	for i, f := range value.DateForms {
		all = append(all, i)
		if f.Named() {
			named = append(named, i)
		}
	}
	return all, named
}()

// All styles have their bits.
var _ [32 - len(value.Styles)]struct{}

// readPlain reads the plain numbers that most cells hold: digits, a minus before
// and a point within. Whole ones that may be dates take the long way.
func readPlain(text []byte, kind table.CellKind) (r reading, ok bool) {
	coef, places, _, ok := value.Plain(text, '.')
	if !ok || kind > table.NumberCell || places == 0 && (len(text) == 6 || len(text) == 8) || len(text) == 4 && places == 0 {
		return r, false
	}
	r = reading{sheet: kind, gap: value.Unclear, whole: places == 0 || places <= value.MaxPlaces && coef%value.Power(places) == 0}
	switch whole := len(text) - places - 1; {
	case places == 0 || kind == table.NumberCell:
		r.styles = 1<<len(value.Styles) - 1
	default:
		for i, s := range value.Styles {
			if s.Point == '.' {
				r.styles |= 1 << i
			}
		}
		if text[0] == '-' {
			whole--
		}
		if places == 3 && whole <= 3 && text[len(text)-places-1-whole] != '0' { // or a group of three
			r.styles |= 1 << 1
		}
	}
	return r, true
}

// read works out the ways in which a text can be read.
func read(text []byte, kind table.CellKind) reading {
	r := reading{sheet: kind}
	if kind == table.FormulaCell || len(text) == 0 {
		r.gap = value.Blank
		return r
	}
	s := string(text)
	if r.gap = value.TextGap(s); r.gap != value.NoGap {
		return r
	}
	r.gap = value.GapOf(s)
	switch kind {
	case table.NumberCell:
		d, code, _ := value.English.Number(text)
		r.money = code
		r.styles, r.whole = 1<<len(value.Styles)-1, d.Shorten().Places() == 0
		return r
	case table.DateCell:
		r.forms = 1<<(len(value.DateForms)+1) - 1
		return r
	}
	if r.gap == value.Text { // no digit in it
		if len(s) <= 16 {
			low := key.Of(s)
			r.truth = low == "true" || low == "false"
		}
		return r
	}
	letters := 0
	for _, b := range text {
		if b |= 0x20; b >= 'a' && b <= 'z' {
			letters++
		}
	}
	for i, style := range value.Styles {
		if letters > numberLetters {
			break
		}
		if d, code, ok := style.Number(text); ok {
			r.styles |= 1 << i
			r.whole = d.Shorten().Places() == 0 && (r.whole || r.styles == 1<<i)
			if code != "" {
				r.money = code
			}
		}
	}
	r.readDate(s, letters)
	return r
}

// readDate works out the ways in which a text of so many letters is a date or a quarter.
func (r *reading) readDate(s string, letters int) {
	may := letters <= dateLetters || value.MayName(s)
	var d value.Date
	date := false
	if may {
		d, date = value.ReadDate(s)
	}
	if r.styles == 0 && !date {
		r.parts = value.IsQuarter(s)
	}
	if r.styles != 0 && (len(s) < 6 || len(s) > 10 || strings.IndexByte(s, ',') >= 0) { // no number with a comma is a date
		return
	}
	if date {
		r.forms |= defaultDate
		r.months = d.Day == 0
	}
	forms := allForms
	switch {
	case !may:
		return
	case letters > dateLetters:
		forms = namedForms
	}
	for _, i := range forms {
		if d, ok := value.DateForms[i].Read(s); ok {
			r.forms |= 1 << (i + 1)
			r.months = d.Day == 0
		}
	}
}
