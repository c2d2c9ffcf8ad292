package filenames

import (
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// span is a time from one day or month to another, as titles of reports say it: "01.01.2024 - 31.01.2024", "from 1 Jan 2024 to 31 Jan
// 2024".
var span = expression.Of(`^(.*?)(` + day + `)( ?(?:-|–|—|_|to|until|through|bis|au|à|al|a|hasta|até|tot|t/m) ?)(` + day + `)(\D*)$`)

const day = `(?:(?:19|20)\d{6}|\d{1,4}[./-]\d{1,2}[./-]\d{2,4}|\d{1,2}\.?[ -]\pL+\.?[ -]\d{4}|\pL+ \d{1,2}, \d{4}|` +
	`\d{4}[./-]\d{2}|\d{2}[./-]\d{4})`

// OfSpans are the pieces of texts that all say from when to when, behind the same words, if each span is of one month: when it begins, and
// when it ends. It is nil for others, and where the days can be read in two ways.
func OfSpans(texts []string) []Piece {
	m := groupsOf(span().FindStringSubmatch, texts, 1, 3, 5)
	if m == nil || strings.TrimSpace(m[3][0]) == "" {
		return nil
	}
	first, last := m[2], m[4]
	c, example := terms.TimesOf(last)
	if c != terms.Day && c != terms.Month || !inMonths(first, last, example) {
		return nil
	}
	for _, f := range value.DateForms { // in another way they may be of months, too
		if example != "" && f.Example != example && !f.Brief() && inMonths(first, last, f.Example) && !sameMonths(last, example, f.Example) {
			return nil
		}
	}
	return closed(spanPieces(m[1][0], first, m[3][0], last), m[5][0])
}

// spanPieces are the pieces of spans of one month each.
func spanPieces(before string, first []string, between string, last []string) []Piece {
	return []Piece{{Before: before, Values: first, Time: terms.Day, Span: true},
		{Before: between, Values: last, Time: terms.Month, Span: true}}
}

// spanInName is such a time at the end of the name of a file, behind a label, and spanFirst at its beginning.
var (
	spanInName = expression.Of(`^(.*?)([-_ (]*)` + spanOfNames + `(\D*)$`)
	spanFirst  = expression.Of(`^(\D*)()` + spanOfNames + `([-_ ]+\pL.*)$`)
)

const (
	spanOfNames = `(` + dayInName + `)( ?[-_–] ?|[-_ ](?:to|bis|au|al|tot)[-_ ])(` + dayInName + `)`
	dayInName   = `(?:(?:19|20)\d{2}-?[01]\d-?[0-3]\d|[0-3]?\d\.[01]?\d\.(?:19|20)\d{2}|(?:19|20)\d{2}-[01]\d)`
)

// spansOfNames are the pieces of names that all end in a span, or begin with one: a label, when the span begins, and when it ends. Where
// these are not of one month each, they are of no time. all is false where some names have no span; no pattern may take those apart that
// have.
func spansOfNames(names []string) (pieces []Piece, all bool) {
	if pieces, all = spansBehind(names); all {
		return pieces, true
	}
	m := groupsOf(spanFirst().FindStringSubmatch, names, 1, 4)
	if m == nil || !writtenAlike(m[3], m[5]) {
		return nil, false
	}
	pieces, after := labelPieces(m[6], true)
	return closed(append(ofMonths(m[1][0], m[3], m[4][0], m[5]), pieces...), after), true
}

// groupsOf are what the groups of an expression find in some texts, by group; nil where it does not fit one of them, or some groups that
// are to be the same in all are not.
func groupsOf(find func(text string) []string, texts []string, alike ...int) (out [][]string) {
	for i, text := range texts {
		m := find(text)
		if out == nil {
			out = make([][]string, len(m))
		}
		if m == nil || slices.ContainsFunc(alike, func(k int) bool { return i > 0 && m[k] != out[k][0] }) {
			return nil
		}
		for k, own := range m {
			out[k] = append(out[k], own)
		}
	}
	return out
}

// figures are those of a time.
var figures = expression.Of(`\d+`)

// writtenAlike reports whether times have the same signs between their figures as others: 2024-01 and 20240205 are a month, and when it was
// exported.
func writtenAlike(ones, others []string) bool {
	signs := func(text string) string { return figures().ReplaceAllString(text, "0") }
	return slices.EqualFunc(ones, others, func(a, b string) bool { return signs(a) == signs(b) })
}

// ofMonths are the pieces of spans, which are of no time where they are not of one month each.
func ofMonths(before string, first []string, between string, last []string) []Piece {
	_, example := terms.TimesOf(last)
	spans := spanPieces(before, first, between, last)
	if !inMonths(first, last, example) {
		spans[1].Time = terms.Day
	}
	spans[0].Digits = allDigits(first)
	return spans
}

// spansBehind are the pieces of names that end in a span.
func spansBehind(names []string) (pieces []Piece, all bool) {
	m := groupsOf(spanInName().FindStringSubmatch, names, 2, 4, 6)
	if m == nil || !writtenAlike(m[3], m[5]) {
		return nil, false
	}
	labels, sign, first, between, last, after := m[1], m[2][0], m[3], m[4][0], m[5], m[6][0]
	pieces, tail := labelPieces(labels, true)
	spans := ofMonths(tail+sign, first, between, last)
	begins := slices.ContainsFunc(labels, func(l string) bool { // in a label, too: it would end there
		return tail+sign == "" || strings.Contains(l, tail+sign)
	})
	if spans[1].Time == terms.Month && !spans[0].Digits {
		switch {
		case !slices.ContainsFunc(first, func(f string) bool { return !strings.HasPrefix(f, "01.") }): // where no label ends
			spans[0].Before += "01."
			for i, f := range first {
				first[i] = f[len("01."):]
			}
		case begins:
			return nil, true
		}
	}
	return closed(append(pieces, spans...), after), true
}

// inMonths reports whether each span begins in the month in which it ends, read by an example.
func inMonths(first, last []string, example string) bool {
	for i := range last {
		begin, reads := readBy(first[i], example)
		end, ends := readBy(last[i], example)
		if !reads || !ends || begin.Year != end.Year || begin.Month != end.Month || begin.Day > end.Day {
			return false
		}
	}
	return true
}

// sameMonths reports whether two examples read the same months in some texts.
func sameMonths(texts []string, one, other string) bool {
	for _, text := range texts {
		a, _ := readBy(text, one)
		if b, ok := readBy(text, other); ok && (a.Year != b.Year || a.Month != b.Month) {
			return false
		}
	}
	return true
}

// readBy reads a date by an example, "" for those that need none.
func readBy(text, example string) (value.Date, bool) {
	if example == "" {
		return value.ReadDate(text)
	}
	form, _ := value.DateFormOf(example)
	return form.Read(text)
}
