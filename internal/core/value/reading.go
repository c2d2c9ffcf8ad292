package value

import (
	"fmt"
	"strings"

	"umbau/internal/core/key"
)

// Reading is how the cells of an entry are written, and how years are counted.
// The zero Reading does not read numbers; use Default.
type Reading struct {
	Numbers  Style
	Also     []Style    // further ways: a cell that two read differently is not read
	Dates    []DateForm // besides those that can be read in one way only; the same holds
	Calendar Calendar
}

// Default is how cells are read where a plan says nothing.
var Default = Reading{Numbers: English}

// Calendar says when years begin. The zero Calendar begins them in January.
type Calendar struct {
	Starts int  // the month, 1 to 12; 0 for January
	ByEnd  bool // a year is called by that in which it ends, else by that in which it begins
}

// Year is the year of a date that has a month.
func (c Calendar) Year(d Date) int {
	switch {
	case c.Starts <= 1:
		return d.Year
	case d.Month >= c.Starts && c.ByEnd:
		return d.Year + 1
	case d.Month < c.Starts && !c.ByEnd:
		return d.Year - 1
	}
	return d.Year
}

// Quarter is the quarter, 1 to 4, of a date that has a month.
func (c Calendar) Quarter(d Date) int {
	return (d.Month-max(1, c.Starts)+12)%12/3 + 1
}

// Number reads a number as Style.Number does, in each of the ways of the entry.
func (r *Reading) Number(b []byte) (d Decimal, currency string, ok bool) {
	d, currency, ok = r.Numbers.Number(b)
	for i := range r.Also {
		other, c, also := r.Also[i].Number(b)
		switch {
		case !also:
		case !ok:
			d, currency, ok = other, c, true
		case d.Cmp(other) != 0:
			return Decimal{}, "", false
		}
	}
	return d, currency, ok
}

// Plain reports whether plain numbers can be read by the first way alone.
func (r *Reading) Plain() bool { return len(r.Also) == 0 }

// Date reads a date as people write it, a month without a day among them.
func (r Reading) Date(text string) (Date, bool) {
	var found Date
	known := false
	for i := range r.Dates {
		d, ok := r.Dates[i].Read(text)
		if ok && known && d != found {
			return Date{}, false
		}
		if ok {
			found, known = d, true
		}
	}
	if known {
		return found, true
	}
	return ReadDate(text)
}

// Otherwise lists the examples under which a text would read that it does not read
// as now: as a number, or as a date.
func (r Reading) Otherwise(text string, number bool) []string {
	var out []string
	if number {
		for _, s := range Styles {
			if _, _, ok := s.Number([]byte(text)); ok {
				out = append(out, s.Example)
			}
		}
		return out
	}
	for _, f := range DateForms {
		if _, ok := f.Read(text); ok {
			out = append(out, f.Example)
		}
	}
	return out
}

// Day reads a text as a day and writes it as 2024-07-31.
func (r Reading) Day(text string) (string, bool) {
	d, ok := r.Date(text)
	if !ok || d.Day == 0 {
		return "", false
	}
	return d.String(), true
}

// Month reads a text as a month and writes it as 2024-07; a day in it is set
// aside.
func (r Reading) Month(text string) (string, bool) {
	d, ok := r.Date(text)
	if !ok {
		return "", false
	}
	d.Day = 0
	return d.String(), true
}

// Quarter reads a text as a quarter (Q3 2024, 2024-Q3, Quarter 3 2024), or a date as the quarter
// it lies in, and writes it as 2024-Q3.
func (r Reading) Quarter(text string) (string, bool) {
	if year, quarter, ok := writtenQuarter(text); ok {
		return fmt.Sprintf("%04d-Q%d", year, quarter), true
	}
	d, ok := r.Date(text)
	if !ok {
		return "", false
	}
	return fmt.Sprintf("%04d-Q%d", r.Calendar.Year(d), r.Calendar.Quarter(d)), true
}

// Year reads a text as a year of four digits, or a date or quarter as the year it
// lies in.
func (r Reading) Year(text string) (string, bool) {
	if len(text) == 4 && number(text) > 0 {
		return text, true
	}
	if year, _, ok := writtenQuarter(text); ok {
		return fmt.Sprintf("%04d", year), true
	}
	d, ok := r.Date(text)
	if !ok {
		return "", false
	}
	return fmt.Sprintf("%04d", r.Calendar.Year(d)), true
}

// flagWords are the words for true and false, by the key, in English, German,
// French, Spanish, Italian, Portuguese and Dutch.
var flagWords = func() map[string]string {
	words := map[string]string{}
	for _, w := range strings.Fields("true yes y t 1 wahr ja j vrai oui o verdadero sí si vero verdadeiro sim waar") {
		words[key.Of(w)] = "true"
	}
	for _, w := range strings.Fields("false no n f 0 falsch nein faux non falso não nao onwaar nee") {
		words[key.Of(w)] = "false"
	}
	return words
}()

// Flag reads a text as true or false.
func Flag(text string) (string, bool) {
	if len(text) > 12 {
		return "", false
	}
	f, ok := flagWords[key.Of(text)]
	return f, ok
}

// IsLabel reports whether a text is a label: no gap, no number and no date.
func (r Reading) IsLabel(text string) bool {
	if TextGap(text) != NoGap {
		return false
	}
	if _, _, ok := r.Number([]byte(text)); ok {
		return false
	}
	_, date := r.Date(text)
	return !date
}
