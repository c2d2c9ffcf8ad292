package survey

import (
	"strings"
	"unsafe"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// reading is the ways in which a text can be read.
type reading struct {
	styles uint32 // bit i: as a number in style i
	wholes uint32 // bit i: as a whole one
	forms  uint32 // bit 0: as a date by default, bit i+1: in form i
	months bool   // as a date, it has no day
	truth  bool   // true or false
	parts  bool   // a quarter
	money  string // the currency that it names
	sheet  table.CellKind
	gap    value.Gap // for every way: blank, null, error; else which gap the text is where it is not read
}

// short is a reading of a number that nothing stands around, and that is no date.
type short struct {
	styles uint32
	wholes uint32
	coef   int64 // in its first style, × 10^-places
	places int
}

// hashOfNumber is the hash of a number, however it is written, and whether it has decimals.
func hashOfNumber(coef int64, places int) (hash uint64, decimals bool) {
	for places > 0 && coef%10 == 0 {
		coef, places = coef/10, places-1
	}
	return table.Mix(uint64(coef)<<5 + uint64(places)), places > 0
}

// of is the reading of a cell of a kind.
func (s short) of(kind table.CellKind) reading {
	return reading{styles: s.styles, wholes: s.wholes, sheet: kind, gap: value.Unclear}
}

const defaultDate = 1

// The most letters of ASCII that a number has, two currencies among them, and that a date of figures
// has, with a time behind it; some to spare.
const (
	numberLetters = 8
	dateLetters   = 4
)

// The forms of dates, and those that have the name of the month, by their numbers: without those that may as well be sizes.
var allForms, namedForms = func() (all, named []int) {
	for i, f := range value.DateForms {
		if f.Brief() {
			continue
		}
		all = append(all, i)
		if f.Named() {
			named = append(named, i)
		}
	}
	return all, named
}()

// All styles have their bits.
var _ [32 - len(value.Styles)]struct{}

// allStyles has the bits of all.
const allStyles = 1<<len(value.Styles) - 1

// pointed are the styles in which a point parts the places from the rest.
var pointed = func() (styles uint32) {
	for i, s := range value.Styles {
		if s.Point == '.' {
			styles |= 1 << i
		}
	}
	return styles
}()

// readPlain reads the plain numbers that most cells hold: digits, a minus before
// and a point within. Those that may be dates take the long way.
func readPlain(text []byte, kind table.CellKind) (r short, ok bool) {
	coef, places, _, ok := value.Plain(text, '.')
	if !ok || kind > table.NumberCell || kind == table.TextCell && mayBeDate(len(text)-places, places, coef) ||
		kind == table.NumberCell && value.IsStamp(string(text)) {
		return r, false
	}
	r.coef, r.places = coef, places
	switch whole := len(text) - places - 1; {
	case places == 0 || kind == table.NumberCell:
		r.styles = allStyles
	default:
		r.styles = pointed
		if text[0] == '-' {
			whole--
		}
		if places == 3 && whole <= 3 && text[len(text)-places-1-whole] != '0' { // or a group of three
			r.styles |= 1 << 1
			r.wholes = 1 << 1
		}
	}
	if places == 0 || text[len(text)-1] == '0' && coef%value.Power(places) == 0 {
		r.wholes = r.styles
	}
	return r, true
}

// mayBeDate reports whether a plain number of so many bytes before its places may be a date of figures: 20241231,
// 202412, 2024.12, 12.2024.
func mayBeDate(before, places int, coef int64) bool {
	switch places {
	case 0:
		return before == 4 || before == 6 || before == 8
	case 1, 2:
		return before == 5 && coef%value.Power(places) <= 12
	case 4:
		return before <= 3 && coef < 13_0000
	}
	return false
}

// readGrouped reads numbers of ASCII digits whose groups of three have commas between them, with a point behind them or
// none: 1,234.56.
func readGrouped(text []byte) (r short, ok bool) {
	if len(text) < 5 || len(text) > value.MaxPlaces || text[0] == '0' {
		return r, false
	}
	lead, group, commas, point := 0, 0, 0, false // digits before the first comma, and since the last sign
	zeros, coef := true, int64(0)                // zeros: behind the point
	for _, c := range text {
		switch {
		case c >= '0' && c <= '9':
			group++
			coef = 10*coef + int64(c-'0')
			zeros = zeros && (!point || c == '0')
		case c == ',' && commas == 0 && group > 0 && group <= 3:
			lead, group, commas = group, 0, 1
		case c == ',' && commas > 0 && group == 3 && !point:
			group = 0
			commas++
		case c == '.' && commas > 0 && group == 3 && !point:
			group, point = 0, true
		default:
			return r, false
		}
	}
	if commas == 0 || group == 0 || !point && group != 3 {
		return r, false
	}
	r = short{styles: 1, coef: coef}
	if point {
		r.places = group
	}
	if commas == 1 && !point { // or the comma is a point
		r.styles |= 1<<1 | 1<<2
	}
	if commas == 1 && lead < 3 { // or groups are pairs
		r.styles |= 1 << 4
	}
	switch {
	case !zeros:
	case string(text[len(text)-3:]) == "000":
		r.wholes = r.styles
	default:
		r.wholes = r.styles & pointed
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
	s := unsafe.String(unsafe.SliceData(text), len(text)) // nobody keeps it
	if r.gap = value.TextGap(s); r.gap != value.NoGap {
		return r
	}
	r.gap = value.GapOf(s)
	switch kind {
	case table.NumberCell:
		d, code, _ := value.English.Number(text)
		r.money = code
		r.number(allStyles, d)
		if value.IsStamp(s) {
			r.readDate(s, 0)
		}
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
	if _, places, _, ok := value.Plain(text, '.'); ok && places == 0 { // readPlain knows all others
		r.styles, r.wholes = allStyles, allStyles
		r.readDate(s, 0)
		return r
	}
	letters := 0
	for _, b := range text {
		if b |= 0x20; b >= 'a' && b <= 'z' {
			letters++
		}
	}
	for i, style := range value.Styles {
		if letters > numberLetters || i == 0 && letters > 0 && !value.Dressed(text) {
			break
		}
		if d, code, ok := style.Number(text); ok {
			r.number(1<<i, d)
			if code != "" {
				r.money = code
			}
		}
	}
	r.readDate(s, letters)
	return r
}

// number takes in what the text is as a number in some styles.
func (r *reading) number(styles uint32, d value.Decimal) {
	r.styles |= styles
	if d.Shorten().Places() == 0 {
		r.wholes |= styles
	}
}

// readDate works out the ways in which a text of so many letters is a date or a quarter.
func (r *reading) readDate(s string, letters int) {
	figures := letters <= dateLetters && s[0] >= '0' && s[0] <= '9'
	may := figures || value.MayName(s)
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
	if date && likelyYear(d) {
		r.forms |= defaultDate
		r.months = d.Day == 0
	}
	forms := allForms
	switch {
	case !may:
		return
	case !figures:
		forms = namedForms
	}
	for _, i := range forms {
		if d, ok := value.DateForms[i].Read(s); ok && likelyYear(d) {
			r.forms |= 1 << (i + 1)
			r.months = d.Day == 0
		}
	}
}

// likelyYear reports whether a date may be of something sold; 5451-11 is a code.
func likelyYear(d value.Date) bool { return d.Year >= 1800 && d.Year < 2200 }
