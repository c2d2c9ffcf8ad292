package value

import (
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"umbau/internal/core/expression"
)

// DateForm is a way of writing dates that is read only where a plan gives it as
// an example: in figures alone, or with a year of two digits.
type DateForm struct {
	Example string
	order   string // of day, month and year: DMY, MDY, YMD, YM, MY; N for a count of days
	sep     byte   // between them, 0 for none
	short   bool   // years have two digits
	named   bool   // the month is a name
	glued   bool   // nothing stands behind it
}

// DateForms are all forms, those that are brief at the end.
var DateForms = func() []DateForm {
	var forms []DateForm
	for _, sep := range []byte("/.-") {
		s := string(sep)
		forms = append(forms,
			DateForm{Example: "31" + s + "12" + s + "2024", order: "DMY", sep: sep},
			DateForm{Example: "12" + s + "31" + s + "2024", order: "MDY", sep: sep},
			DateForm{Example: "31" + s + "12" + s + "24", order: "DMY", sep: sep, short: true},
			DateForm{Example: "12" + s + "31" + s + "24", order: "MDY", sep: sep, short: true},
			DateForm{Example: "2024" + s + "12" + s + "31", order: "YMD", sep: sep},
			DateForm{Example: "2024" + s + "12", order: "YM", sep: sep},
			DateForm{Example: "12" + s + "2024", order: "MY", sep: sep})
	}
	forms = append(forms, DateForm{Example: "31-Dec-24", order: "DMY", sep: '-', short: true, named: true},
		DateForm{Example: "Dec-24", order: "MY", sep: '-', short: true, named: true},
		DateForm{Example: "20241231", order: "YMD"}, DateForm{Example: "202412", order: "YM"},
		DateForm{Example: "2024_12", order: "YM", sep: '_'}, DateForm{Example: "12_2024", order: "MY", sep: '_'},
		DateForm{Example: "2024M12", order: "YM", sep: 'M'}, DateForm{Example: "M12 2024", order: "MY", sep: 'M'})
	for _, sep := range []byte("/.-") {
		forms = append(forms, DateForm{Example: "12" + string(sep) + "24", order: "MY", sep: sep, short: true})
	}
	return append(forms, DateForm{Example: "DEC24", order: "MY", short: true, named: true, glued: true},
		DateForm{Example: "45657", order: "N"})
}()

// DateFormOf returns the form of a date given as an example. The zero form stands
// for an example with the name of the month and the whole year, which needs none. ok is false for
// an example that no form reads, or several do (03/04/2024).
func DateFormOf(example string) (form DateForm, ok bool) {
	_, plain := ReadDate(example)
	for _, f := range DateForms {
		if _, reads := f.Read(example); reads {
			if ok {
				return DateForm{}, false
			}
			form, ok = f, true
		}
	}
	if ok || !plain {
		form.Example = example
	}
	return form, ok || plain
}

// Readings lists the distinct dates that the forms read in a text.
func Readings(text string) []string {
	var out []string
	for _, f := range DateForms {
		if d, ok := f.Read(text); ok && !slices.Contains(out, d.String()) {
			out = append(out, d.String())
		}
	}
	return out
}

// DaysOfMonths reports whether texts such as Nov-05 and Nov-12 say days of months rather than months of years: all can be either, and
// there are more of these figures than of months, or years between them that nothing is of.
func DaysOfMonths(texts []string) bool {
	months, years := map[int]bool{}, map[int]bool{}
	first, last := 99, 0
	for _, t := range texts {
		parts := wordsAndFigures().FindAllString(t, 3)
		if len(parts) != 2 || len(parts[1]) != 2 || strings.ContainsAny(t, "'’") { // '24 is a year
			return false
		}
		m, n := monthOf(parts[0]), number(parts[1])
		if n == 0 || !(Date{Year: 2024, Month: m, Day: n}).Valid() {
			return false
		}
		months[m], years[n] = true, true
		first, last = min(first, n), max(last, n)
	}
	return len(years) > len(months) || last-first >= len(years)
}

var wordsAndFigures = expression.Of(`\pL+|\d+`)

// IsStamp reports whether a text is a day or a month of figures alone, as systems write them (20241231, 202412), of a year
// that sales may be of: from 1990 to 2059.
func IsStamp(text string) bool {
	if len(text) != 6 && len(text) != 8 {
		return false
	}
	for _, f := range DateForms {
		if f.sep == 0 && !f.named {
			if d, ok := f.Read(text); ok {
				return d.Year >= 1990 && d.Year < 2060
			}
		}
	}
	return false
}

// Named reports whether the form has the name of the month.
func (f DateForm) Named() bool { return f.named }

// Brief reports whether what the form reads may as well be something else than a month with a year of two digits or a day: 12/24 a size,
// 12.24 or 45657 a number, SET12 a code.
func (f DateForm) Brief() bool {
	return f.Counted() || f.short && f.order == "MY" && (!f.named || f.glued)
}

// Counted reports whether the form is the count of days that spreadsheets keep for a day, of which 61 is the first of March 1900
// (ISO/IEC 29500-1, 18.17.4.1: the 1900 date base).
func (f DateForm) Counted() bool { return f.order == "N" }

// Read reads a date in the form, its figures padded or not. Years of two digits
// are those from 1970 to 2069.
func (f DateForm) Read(text string) (Date, bool) {
	if len(text) > 32 {
		return Date{}, false
	}
	if i := strings.IndexByte(text, ' '); i > 0 && !f.named && clock(text[i:]) { // a time is set aside
		text = text[:i]
	} else if f.named {
		text = withoutClock(text)
	}
	if f.Counted() {
		return dayCounted(text)
	}
	parts, n := f.parts(text)
	if n != len(f.order) {
		return Date{}, false
	}
	var d Date
	for i, part := range parts[:n] {
		n := number(part)
		switch {
		case part == "":
			return d, false
		case f.order[i] == 'M' && f.named:
			d.Month = monthOf(part)
		case n < 0:
			return d, false
		case f.order[i] == 'Y' && f.short && len(part) == 2:
			d.Year = yearOfTwo(n)
		case f.order[i] == 'Y' && !f.short && len(part) == 4:
			d.Year = n
		case f.order[i] == 'M' && len(part) <= 2:
			d.Month = n
		case f.order[i] == 'D' && len(part) <= 2 && n > 0:
			d.Day = n
		default:
			return d, false
		}
	}
	return d, d.Year > 0 && d.Valid()
}

// yearOfTwo is the year that two digits stand for.
func yearOfTwo(digits int) int {
	if digits < 70 {
		return 2000 + digits
	}
	return 1900 + digits
}

// dayCounted reads a count of days, from 1970 to 2069, as years of two digits; a part of a day is set aside.
func dayCounted(text string) (Date, bool) {
	const first, last = 25_569, 62_093
	whole, part, pointed := strings.Cut(text, ".")
	n := number(whole)
	if len(whole) != 5 || n < first || n > last || pointed && (part == "" || number(part) < 0) {
		return Date{}, false
	}
	year, month, day := time.Date(1899, 12, 30+n, 0, 0, 0, 0, time.UTC).Date()
	return Date{year, int(month), day}, true
}

func betweenNamedParts(r rune) bool {
	return r == ' ' || r == '-' || r == '/' || r == '.' || r == '_' || r == '\'' || r == '’'
}

// parts takes a text apart, into as many parts as there are, or more than a date has.
func (f DateForm) parts(text string) (parts [3]string, n int) {
	switch {
	case f.glued:
		name := strings.TrimRight(text, "0123456789")
		first, _ := utf8.DecodeRuneInString(name)
		if last, _ := utf8.DecodeLastRuneInString(name); unicode.IsLetter(first) && unicode.IsLetter(last) {
			return [3]string{name, text[len(name):]}, 2
		}
	case f.named:
		for w, rest := word(text, betweenNamedParts, false); w != ""; w, rest = word(rest, betweenNamedParts, false) {
			if n == len(parts) {
				return parts, n + 1
			}
			parts[n], n = w, n+1
		}
	case f.sep == 'M':
		return f.partsAtM(text)
	case f.sep != 0:
		for {
			if n == len(parts) {
				return parts, n + 1
			}
			i := strings.IndexByte(text, f.sep)
			if i < 0 {
				parts[n] = text
				return parts, n + 1
			}
			parts[n], text, n = text[:i], text[i+1:], n+1
		}
	case f.order == "YMD" && len(text) == 8:
		return [3]string{text[:4], text[4:6], text[6:]}, 3
	case f.order == "YM" && len(text) == 6:
		return [3]string{text[:4], text[4:]}, 2
	}
	return parts, n
}

// partsAtM takes apart a month that stands behind the letter M: 2024M12, 2024-M12, M12 2024.
func (f DateForm) partsAtM(text string) (parts [3]string, n int) {
	const between = " -/._"
	before, behind, ok := strings.Cut(text, "M")
	if f.order == "YM" && ok {
		if n := len(before) - 1; n > 0 && strings.IndexByte(between, before[n]) >= 0 {
			before = before[:n]
		}
		return [3]string{before, behind}, 2
	}
	if i := strings.IndexAny(behind, between); ok && before == "" && i > 0 {
		return [3]string{behind[:i], behind[i+1:]}, 2
	}
	return parts, 1
}
