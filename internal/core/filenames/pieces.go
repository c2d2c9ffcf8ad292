// Package filenames takes names of files, folders and sheets apart that are made alike: labels and times, and the words around them that
// say nothing. Lakes_2024-01 and Amber Bay_2024-02 are a label, a sign and a month.
package filenames

import (
	"slices"
	"strings"

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
	Folder  bool // it is the name of the file's folder
}

// OfFolders are the pieces of folders: a time, a month alone or a label.
func OfFolders(names []string) []Piece {
	c, _ := terms.TimesOf(names)
	if pieces := timeWithin(names, true); c == terms.None && pieces != nil && TimeAlone(names[0]) {
		for i := range pieces {
			pieces[i].Folder = true
		}
		return pieces
	}
	return []Piece{{Values: names, Time: c, Folder: true, Digits: terms.MonthNumbers(names)}}
}

// Pieces are the labels and the times in names that are made alike: a label with a time behind it or before it,
// or a label alone, and words around them that say nothing.
func Pieces(names []string) []Piece {
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
	if c, _ := terms.TimesOf(times); c != terms.None {
		return append(out, Piece{Before: end + between, Values: times, Time: c})
	}
	return closed(out, end)
}

// withoutTail takes the same last word that says nothing, or a bracket, from all names, where a time stands before it.
func withoutTail(names []string) (out []string, tail string) {
	end := lastWord.FindString(names[0])
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
