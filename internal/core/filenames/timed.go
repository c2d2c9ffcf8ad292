package filenames

import (
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// periodFirst are the pieces of names that all begin with the name of a month, without a year: Nov Lakes, Dec Lakes.
func periodFirst(names []string) []Piece {
	months, labels, sign, ok := InTwo(names, firstWords())
	if !ok || terms.BareTimes(months) != terms.Month {
		return nil
	}
	pieces, after := labelPieces(labels, true)
	if len(pieces) == 0 || slices.ContainsFunc(labels, terms.SaysNothing) {
		return nil
	}
	pieces[0].Before = sign + pieces[0].Before
	return closed(append([]Piece{{Values: months, Letters: true}}, pieces...), after)
}

// firstWords parts a name behind its first word.
var firstWords = expression.Of(`^(\pL+)([-_ ]+)(.+)$`)

// periodPieces are the pieces of names that all end in a period: a label, perhaps with a year behind it, and the period.
func periodPieces(names []string) []Piece {
	var labels, periods []string
	between := ""
	for i, name := range names {
		label, sep, text, ok := splitPeriod(name)
		if !ok || i > 0 && sep != between {
			return nil
		}
		labels, between, periods = append(labels, label), sep, append(periods, text)
	}
	last := Piece{Before: between, Values: periods}
	lead := strings.TrimRight(periods[0], "0123456789")
	alike := !slices.ContainsFunc(periods, func(p string) bool { return !strings.HasPrefix(p, lead) })
	if alike && terms.BareTimes(periods) == terms.None { // KW12
		last.Before += lead
		for i, p := range periods {
			last.Values[i] = p[len(lead):]
		}
	}
	if terms.SaysNothing(labels[0]) { // sales Jan, sales Feb
		last.Before = labels[0] + last.Before
		if slices.ContainsFunc(labels, func(l string) bool { return l != labels[0] }) {
			return nil
		}
		return []Piece{last}
	}
	years, parted, sign := []string(nil), []string(nil), ""
	for i, l := range labels {
		label, sep, text, ok := SplitTime(l)
		if !ok || i > 0 && sep != sign {
			years = nil
			break
		}
		parted, sign, years = append(parted, label), sep, append(years, text)
	}
	if c, _ := timesOf(years); c == terms.Year && len(years) == len(labels) {
		out, after := labelPieces(parted, true)
		return append(out, Piece{Before: after + sign, Values: years, Time: terms.Year}, last)
	}
	out, after := labelPieces(labels, false)
	if len(out) == 0 {
		return nil
	}
	last.Before = after + last.Before
	return append(out, last)
}

// timePieces are the pieces of times behind labels. A year and a month that words of a label could begin (Amber Bay 2024-03), or between
// which a sign stands that no date has (2024_03), are two, of figures alone.
func timePieces(labels []string, before string, times []string) []Piece {
	if months, years, ok := apart(labels, times); ok {
		return []Piece{{Before: before, Values: months, Letters: true}, {Before: " ", Values: years, Time: terms.Year}}
	}
	c, _ := timesOf(times)
	one := Piece{Before: before, Values: times, Time: c}
	if value.DaysOfMonths(times) {
		one.Time = terms.None
		return []Piece{one}
	}
	if c != terms.None && (before == "" || !slices.ContainsFunc(labels, func(l string) bool { return strings.Contains(l, before) })) {
		return []Piece{one}
	}
	if years, months, sign, ok := InTwo(times, yearMonth()); ok && sign != "" {
		return []Piece{{Before: before, Values: years, Time: terms.Year}, {Before: sign, Values: months, Digits: true}}
	} else if ok || allDigits(times) {
		one.Digits = true
	} else if months, years, sign, ok := InTwo(times, monthYear()); ok {
		return []Piece{{Before: before, Values: months, Digits: true}, {Before: sign, Values: years, Time: terms.Year}}
	}
	return []Piece{one}
}

var (
	yearMonth = expression.Of(`^((?:19|20)\d\d)([-_. ]?)(0[1-9]|1[0-2])$`)
	monthYear = expression.Of(`^(0?[1-9]|1[0-2])([-_. ])((?:19|20)\d\d)$`)
)

// someYears are the pieces of labels of which some have a year behind them, and others words that say nothing: Lakes_2023, Amber Bay,
// Skerries by branch.
func someYears(labels, between, times []string) []Piece {
	sign, tail := "", ""
	labels = slices.Clone(labels)
	for i, t := range times {
		if end := lastWords(labels[i]); t == "" && end != "" && end != labels[i] {
			if tail != "" && tail != end {
				return nil
			}
			labels[i], tail = strings.TrimSuffix(labels[i], end), end
		}
	}
	for i, t := range times {
		switch {
		case labels[i] == "" || terms.SaysNothing(labels[i]) || t != "" && !terms.IsYear(t):
			return nil
		case t != "" && sign != "" && between[i] != sign:
			return nil
		case t != "":
			sign = between[i]
		}
	}
	pieces := []Piece{{Values: labels}}
	if tail != "" {
		pieces = append(pieces, Piece{Before: tail, Absent: true})
	}
	return append(pieces, Piece{Before: sign, Values: times, Absent: true})
}

// apart parts times such as "Jul 2024" behind labels of several words, which would take the month's name for one
// more of theirs.
func apart(labels, times []string) (months, years []string, ok bool) {
	if !slices.ContainsFunc(labels, func(l string) bool { return strings.Contains(l, " ") }) {
		return nil, nil, false
	}
	return monthsAndYears(times)
}

// monthsAndYears parts times such as "Jul 2024".
func monthsAndYears(times []string) (months, years []string, ok bool) {
	for _, t := range times {
		month, year, two := strings.Cut(t, " ")
		if !two || terms.BareTimes([]string{month}) == terms.None || !terms.IsYear(year) {
			return nil, nil, false
		}
		months, years = append(months, month), append(years, year)
	}
	return months, years, true
}

// timeFirst are the pieces of names that begin with a time, behind words that say nothing.
func timeFirst(names []string) []Piece {
	lead, _ := GeneralEnds(names[0])
	if strings.ContainsAny(lead, "0123456789") || slices.ContainsFunc(names, func(n string) bool { return !strings.HasPrefix(n, lead) }) {
		lead = ""
	}
	var labels, times []string
	between := ""
	for _, name := range names {
		rest := name[len(lead):]
		at := -1
		for i := len(rest) - 1; i > 0 && at < 0; i-- {
			ends := strings.ContainsRune("_- ", rune(rest[i])) && !strings.ContainsRune("_- ", rune(rest[i-1]))
			if c, _ := timeOf(rest[:i]); c != terms.None && ends {
				at = i
			}
		}
		if at < 0 {
			return nil
		}
		label := strings.TrimLeft(rest[at:], "_- ")
		if between = rest[at : len(rest)-len(label)]; label == "" {
			return nil
		}
		labels, times = append(labels, label), append(times, rest[:at])
	}
	c, _ := timesOf(times)
	if c == terms.None || value.DaysOfMonths(times) {
		return nil
	}
	if pieces := timeWithin(names, true); c == terms.Year && pieces != nil { // of months that no plan reads as they stand: 2024_03 Lakes
		return pieces
	}
	pieces, after := labelPieces(labels, true)
	if len(pieces) == 0 {
		return nil
	}
	pieces[0].Before = between + pieces[0].Before
	first := []Piece{{Before: lead, Values: times, Time: c}}
	if months, years, ok := monthsAndYears(times); ok { // or the year would begin the label
		first = []Piece{{Before: lead, Values: months, Letters: true}, {Before: " ", Values: years, Time: terms.Year}}
	}
	return closed(append(first, pieces...), after)
}
