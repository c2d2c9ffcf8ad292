package terms

import (
	"strconv"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/value"
)

// Seeming is a month that a text seems to stand for, which is not read as one as it stands: a number, with a word before it or without, a
// name behind its number or in brackets, or a month in a form that may be something else.
type Seeming struct {
	Before, Behind string // patterns of what stands around the month
	Numbered       bool   // it is a number
	Form           string // the example of the form that reads it, if it is one that may be something else
	Name           string // the name of the month, or the month as 2024-07
	Month          int    // its number, from the year 0 on where it has one
	Word           bool   // a word says that it is one …
	Letter         bool   // … but a letter alone, as it stands before sizes
}

var (
	numberedMonth = expression.Of(`(?i)^((?:m|mth|mon|month|monat|mois|mes|mês|mese|maand)[ ._-]?)?(0?[1-9]|1[0-2])$`)
	orderedMonth  = expression.Of(`^(0?[1-9]|1[0-2])(\. ?| ?- ?| |_)(\pL+)\.?$`)
	bracketed     = expression.Of(`^\[(.+)\]$`)
)

// monthNames are names of the months, for numbers.
var monthNames = strings.Fields("January February March April May June July August September October November December")

// SeemsMonth takes a text for a month, if it may stand for one and is not read as one as it stands.
func SeemsMonth(text string) (s Seeming, ok bool) {
	if m := numberedMonth().FindStringSubmatch(text); m != nil {
		n, _ := strconv.Atoi(m[2])
		return Seeming{Before: m[1], Numbered: true, Name: monthNames[n-1], Month: n, Word: m[1] != "", Letter: len(m[1]) == 1}, true
	}
	if m := orderedMonth().FindStringSubmatch(text); m != nil {
		n, _ := strconv.Atoi(m[1])
		d, _ := value.ReadDate(m[3] + " 2024")
		return Seeming{Before: "*" + m[2], Name: m[3], Month: n, Word: true}, d.Month == n
	}
	if m := bracketed().FindStringSubmatch(text); m != nil {
		d, ok := value.ReadDate(m[1])
		if !ok {
			d, ok = value.ReadDate(m[1] + " 2024")
			d.Year = 0
		}
		return Seeming{Before: `\[`, Behind: `\]`, Name: m[1], Month: 12*d.Year + d.Month, Word: true}, ok && IsMonth(m[1])
	}
	for _, f := range value.DateForms {
		d, ok := f.Read(text)
		if f.Counted() {
			ok, d.Day = ok && d.Day == 1, 0 // the first day stands for a month
		}
		if ok && f.Brief() {
			return Seeming{Form: f.Example, Name: d.String(), Month: 12*d.Year + d.Month}, true
		}
	}
	return Seeming{}, false
}
