package draft

import (
	"slices"
	"strings"
)

// What the names of sheets say.

// readSheets finds what varies in the names of sheets: times, or labels.
func (e *entry) readSheets() {
	if e.sheets[0].Place.Sheet == "" {
		return
	}
	var names []string
	for _, s := range e.sheets {
		names = append(names, s.Place.Sheet)
	}
	pieces := piecesOfSheets(names)
	timed := func(p namePiece) bool { return p.time != noClass || p.letters || p.digits }
	if len(names) == 1 && e.sheets[0].database() && !slices.ContainsFunc(pieces, timed) { // one table is called as it may
		return
	}
	e.addPieces("sheet", pieces)
}

// piecesOfSheets are the labels and the times in names of sheets that are made alike; none where some say nothing.
func piecesOfSheets(all []string) []namePiece {
	var times, labels, between []string
	names, tail := withoutTail(all)
	for _, name := range names {
		if label, sep, text, ok := splitTime(name); ok {
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
	case monthNumbers(all) && several(all):
		return []namePiece{{values: all, digits: true}}
	case len(times) == 0 && !slices.ContainsFunc(all, saysNothing):
		return sheetPieces(all)
	}
	return nil
}

// timedSheets are the pieces of names of sheets that all end in a time: a label, if it varies, and the time.
func timedSheets(labels, between, times []string) (out []namePiece) {
	before := labels[0] + between[0]
	if several(labels) && !slices.Contains(labels, "") {
		out, before = []namePiece{{values: labels}}, between[0]
	}
	if uneven(between) {
		return out
	}
	return append(out, timePieces(labels, before, times)...)
}

// sheetPieces are the pieces of names of sheets that no time ends: a time before a label, a number of its own, or what all of them say
// beside it. One alone may be called after a thing, such as Tide Table.
func sheetPieces(names []string) []namePiece {
	for _, apart := range []func([]string) []namePiece{timeFirst, periodFirst, numbered} {
		if pieces := apart(names); pieces != nil {
			return pieces
		}
	}
	if !several(names) {
		before, _ := generalEnds(names[0])
		return []namePiece{{before: before, values: []string{strings.TrimPrefix(names[0], before)}}}
	}
	pieces, after := labelPieces(names, false)
	return closed(pieces, after)
}

// leftSheets are the sheets of the files of the entry that are none of its tables, and whether another entry has some of them.
func (e *entry) leftSheets(d *drafter) (out []string, shared bool) {
	files := e.files()
	for _, s := range d.sheets {
		if s.entry == e || s.Place.Sheet == "" || !slices.Contains(files, s.file) {
			continue
		}
		shared = shared || s.entry != nil
		if name := escaped(s.Place.Sheet); !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out, shared
}
