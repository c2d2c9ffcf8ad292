// Package filenames takes names of files, folders and sheets apart that are made alike: labels and times, and the words around them that
// say nothing. Lakes_2024-01 and Amber Bay_2024-02 are a label, a sign and a month.
package filenames

import (
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// Piece is a part of names that are made alike; the pieces of names stand in the order of what they are of.
type Piece struct {
	Before  string   // what stands before it in the pattern
	Values  []string // by name; none for what is the same in all of them
	Time    terms.Class
	Letters bool // it is made of letters alone, and what stands before it may have spaces
	Digits  bool // it is made of figures alone, and what stands before it may have spaces
	Absent  bool // what stands before it does not in all of them
	Folder  bool // it is of the name of a folder around the file
	Aside   bool // it is a label that says nothing more
	Span    bool // it is when a span of time begins or, of the class of a month, ends; then it stands for that month
}

// IsLabel reports whether it is no time.
func (p Piece) IsLabel() bool {
	return len(p.Values) > 0 && p.Time == terms.None && !p.Digits && !p.Letters && terms.BareTimes(p.Values) == terms.None
}

// OfFolders are the pieces of folders: a time, a month alone or a label, or a label with a time behind it or before it.
func OfFolders(names []string) []Piece {
	c, _ := timesOf(names)
	pieces := []Piece{{Values: names, Time: c, Digits: terms.MonthNumbers(names)}}
	switch within := timeWithin(names, true); {
	case c != terms.None || pieces[0].Digits:
	case within != nil && TimeAlone(names[0]) && !timed(names[0]):
		pieces = within
	case !slices.ContainsFunc(names, func(name string) bool { return NumberedMonth(name) == "" }):
		pieces = numberedMonths(names)
	default:
		if own := Pieces(names); len(own) > 0 {
			pieces = own
		}
	}
	return pieces
}

// timed reports whether a time that the plan's default reads stands at the end of a name.
func timed(name string) bool {
	_, _, _, ok := SplitTime(name)
	return ok
}

// ofNumber is a name with its number before it: 02-February.
var ofNumber = expression.Of(`^(\d\d?)([-_. ]+)(\pL.*)$`)

// NumberedMonth is the month of a name that has its number before it, "" for others.
func NumberedMonth(name string) string {
	if m := ofNumber().FindStringSubmatch(name); m != nil && terms.BareTimes(m[3:]) == terms.Month {
		return m[3]
	}
	return ""
}

// numberedMonths are the pieces of such names: a number that says no more, and the month.
func numberedMonths(names []string) []Piece {
	number, month := Piece{}, Piece{Before: ofNumber().FindStringSubmatch(names[0])[2], Letters: true}
	for _, name := range names {
		m := ofNumber().FindStringSubmatch(name)
		number.Values, month.Values = append(number.Values, m[1]), append(month.Values, m[3])
	}
	return []Piece{number, month}
}

// monthNumber is the number of a month among words.
var monthNumber = expression.Of(`^(\D*)(0[1-9]|1[0-2])(\D*)$`)

// MonthsOfYear are the pieces of names, as in a folder of a year, that are the same words, which are of what comes monthly, and the
// number of a month: sales 03, but not till 03. It is nil for others.
func MonthsOfYear(names []string) []Piece {
	first := monthNumber().FindStringSubmatch(names[0])
	if first == nil || !terms.ComesMonthly(first[1]) || !terms.ComesMonthly(first[3]) {
		return nil
	}
	months := Piece{Before: first[1], Digits: true}
	for _, name := range names {
		m := monthNumber().FindStringSubmatch(name)
		if m == nil || m[1] != first[1] || m[3] != first[3] {
			return nil
		}
		months.Values = append(months.Values, m[2])
	}
	return closed([]Piece{months}, first[3])
}

// Unvaried puts labels that are the same in all names into what stands before the piece behind them.
func Unvaried(pieces []Piece) []Piece {
	for len(pieces) > 1 && pieces[0].IsLabel() && !uneven(pieces[0].Values) {
		pieces[1].Before = pieces[0].Before + pieces[0].Values[0] + pieces[1].Before
		pieces = pieces[1:]
	}
	return pieces
}

// Pieces are the labels and the times in names that are made alike: a label with a time behind it or before it,
// or a label alone, and words around them that say nothing.
func Pieces(names []string) []Piece {
	if pieces, all := spansOfNames(names); all {
		return pieces
	}
	rest, heads, tails := withoutNoise(names, make([]string, len(names)))
	if rest != nil && (!slices.ContainsFunc(rest, timed) || allTimed(rest)) {
		if pieces := amid(heads, Pieces(rest), tails); pieces != nil {
			return pieces
		}
	}
	names, tail := withoutTail(names)
	if pieces := timeWithin(names, false); pieces != nil {
		return closed(pieces, tail)
	}
	n := len(names)
	labels, between, times := make([]string, n), make([]string, n), make([]string, n)
	timed := 0
	for i, name := range names {
		label, sep, text, ok := SplitTime(name)
		if !ok {
			label, sep, text = name, "", ""
		} else {
			timed++
		}
		labels[i], between[i], times[i] = label, sep, text
	}
	if timed == 0 {
		if pieces := untimedPieces(names, tail); pieces != nil {
			return pieces
		}
	}
	if timed > 0 && timed < n {
		return closed(someYears(labels, between, times), tail)
	}
	if rest, heads, tails := withoutNoise(labels, times); timed > 0 && rest != nil {
		if pieces, after := labelPieces(rest, true); len(pieces) > 0 && after == "" {
			if pieces = amid(heads, pieces, tails); pieces != nil {
				return closed(append(pieces, timePieces(rest, between[0], times)...), tail)
			}
		}
	}
	pieces, after := labelPieces(labels, timed > 0)
	switch {
	case timed > 0:
		if len(pieces) > 0 {
			labels = pieces[0].Values
		}
		pieces = append(pieces, timePieces(labels, after+between[0], times)...)
	case after != "" && len(pieces) > 0:
		pieces = append(pieces, Piece{Before: after})
	}
	return closed(pieces, tail)
}

func allTimed(names []string) bool {
	return !slices.ContainsFunc(names, func(name string) bool { return !timed(name) })
}

// untimedPieces are those of names that no time ends: a time before a label or within, a number of its own, a period.
func untimedPieces(names []string, tail string) []Piece {
	within := func(names []string) []Piece { return timeWithin(names, true) }
	for _, apart := range []func([]string) []Piece{timeFirst, periodFirst, numbered, bracketed, copied, periodPieces, within} {
		if pieces := apart(names); pieces != nil {
			return closed(pieces, tail)
		}
	}
	if labels, tail := withoutSomeTail(names); tail != "" {
		return []Piece{{Values: labels}, {Before: tail, Absent: true}}
	}
	return nil
}

// closed are pieces with what stands behind them in all names.
func closed(pieces []Piece, tail string) []Piece {
	if len(pieces) > 0 && tail != "" {
		pieces = append(pieces, Piece{Before: tail})
	}
	return pieces
}

// labelPieces are the piece of some labels, if they say anything, and what stands behind it in all of them.
func labelPieces(labels []string, timed bool) (out []Piece, after string) {
	before := ""
	if len(slices.Compact(slices.Sorted(slices.Values(labels)))) > 1 {
		before, after = CommonEnds(labels)
		rests := make([]string, len(labels))
		for i, l := range labels {
			rests[i] = l[len(before) : len(l)-len(after)]
		}
		before, after = UntilPlace(before, rests), FromPlace(after, rests)
	} else {
		before, after = GeneralEnds(labels[0])
	}
	var values []string
	for _, l := range labels {
		values = append(values, strings.Trim(strings.TrimSuffix(strings.TrimPrefix(l, before), after), "_- "))
	}
	if labels[0] != "" && (timed || !allNumbers(values)) {
		out = append(out, Piece{Before: before, Values: values})
	}
	return out, after
}

// TwoLabels are the pieces of names that are all made of two labels, with a time behind them or without: Lakes_Mill_2024.
// It is nil for others.
func TwoLabels(names []string) (out []Piece) {
	n := len(names)
	first, second, times := make([]string, n), make([]string, n), make([]string, n)
	sign, between := "", ""
	for i, name := range names {
		label, sep, text, timed := SplitTime(name)
		if !timed {
			label, sep, text = name, "", ""
		}
		one, by, other, ok := SplitTwo(label)
		if !ok || i > 0 && (by != sign || sep != between) {
			return nil
		}
		first[i], sign, second[i], between, times[i] = one, by, other, sep, text
	}
	out, after := labelPieces(first, true)
	more, end := labelPieces(second, true)
	more[0].Before = after + sign + more[0].Before
	out = append(out, more...)
	if c, _ := timesOf(times); c != terms.None {
		return append(out, Piece{Before: end + between, Values: times, Time: c})
	}
	return closed(out, end)
}

// withoutTail takes the same last word that says nothing, or a bracket, from all names, where a time stands before it.
func withoutTail(names []string) (out []string, tail string) {
	end := lastWord().FindString(names[0])
	if end == "" || strings.ContainsAny(end, "0123456789") || !terms.SaysNothing(end) {
		return names, ""
	}
	for _, n := range names {
		cut, all := strings.CutSuffix(n, end)
		_, _, _, timed := SplitTime(cut)
		_, _, _, ofPeriod := splitPeriod(cut)
		if !all || !timed && !ofPeriod {
			return names, ""
		}
		out = append(out, cut)
	}
	return out, end
}

// withoutSomeTail takes a last word that says nothing from the names that have it, where others are labels alone.
func withoutSomeTail(names []string) (out []string, tail string) {
	seen := map[string]bool{}
	with := 0
	for _, n := range names {
		label := n
		end := lastWords(n)
		if end != "" && !strings.ContainsAny(end, "0123456789") && terms.SaysNothing(end) {
			if tail != "" && tail != end {
				return nil, ""
			}
			label, tail = strings.TrimSuffix(n, end), end
			with++
		}
		if terms.SaysNothing(label) || seen[key.Of(label)] {
			return nil, ""
		}
		seen[key.Of(label)] = true
		out = append(out, label)
	}
	if with == len(names) {
		return nil, ""
	}
	return out, tail
}
