package filenames

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// OfSheets are the labels and the times in names of sheets that are made alike; none where some say nothing.
func OfSheets(all []string) []Piece {
	if rest, heads, tails := withoutNoise(all, make([]string, len(all))); rest != nil && key.Differ(rest) {
		if pieces := amid(heads, OfSheets(rest), tails); pieces != nil {
			return pieces
		}
	}
	var times, labels, between []string
	names, tail := withoutTail(all)
	for _, name := range names {
		if label, sep, text, ok := SplitTime(name); ok {
			times, labels, between = append(times, text), append(labels, label), append(between, sep)
		}
	}
	periods, apart := periodPieces(names), timeWithin(names, false)
	switch {
	case apart != nil:
		return closed(apart, tail)
	case len(times) == len(all):
		return closed(timedSheets(labels, between, times), tail)
	case len(periods) > 1:
		return closed(periods, tail)
	case terms.MonthNumbers(all) && key.Differ(all):
		return []Piece{{Values: all, Digits: true}}
	case len(times) == 0 && !slices.ContainsFunc(all, terms.SaysNothing):
		return sheetPieces(all)
	}
	return nil
}

// timedSheets are the pieces of names of sheets that all end in a time: a label, if it varies, and the time.
func timedSheets(labels, between, times []string) (out []Piece) {
	before := labels[0] + between[0]
	if key.Differ(labels) && !slices.Contains(labels, "") {
		out, before = []Piece{{Values: labels}}, between[0]
		if rest, heads, tails := withoutNoise(labels, times); rest != nil {
			out, labels = amid(heads, []Piece{{Values: rest}}, tails), rest
		}
	}
	if uneven(between) {
		return out
	}
	return append(out, timePieces(labels, before, times)...)
}

// sheetPieces are the pieces of names of sheets that no time ends: a time before a label, a number of its own, or what all of them say
// beside it. One alone may be called after a thing, such as Tide Table.
func sheetPieces(names []string) []Piece {
	for _, apart := range []func([]string) []Piece{timeFirst, periodFirst, numbered} {
		if pieces := apart(names); pieces != nil {
			return pieces
		}
	}
	if !key.Differ(names) {
		before, _ := GeneralEnds(names[0])
		piece := Piece{Before: before}
		for _, name := range names {
			piece.Values = append(piece.Values, strings.TrimPrefix(name, before))
		}
		return []Piece{piece}
	}
	pieces, after := labelPieces(names, false)
	return closed(pieces, after)
}
