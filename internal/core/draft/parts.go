package draft

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/value"
)

// What the names of files are made of: labels behind numbers, before brackets, and periods without a year: Lakes Jan, Holm_Q2,
// Lakes week 12.

// period is a quarter, a half or a week; months are periods too.
var period = regexp.MustCompile(`(?i)^(?:q[ .]?[1-4]|hj?[ .]?[12]|(?:kw|cw|wk|w|week|woche|semaine|semana|sem)[ .]?\d{1,2})$`)

// isPeriod reports whether a text is a month, a quarter, a half or a week, without a year or with one that no plan reads: JAN24.
func isPeriod(text string) bool {
	return period.MatchString(text) || bareTimes([]string{text}) != noClass ||
		yearBehind.MatchString(text) && bareTimes([]string{strings.TrimRight(text, "0123456789")}) == month
}

var yearBehind = regexp.MustCompile(`^\pL+(?:\d\d){1,2}$`)

// splitPeriod parts a name into a label, what stands between, and a period at its end, which may be two words (week 12).
func splitPeriod(name string) (label, between, text string, ok bool) {
	for i := range len(name) {
		if (i == 0 || strings.ContainsRune("_- (", rune(name[i-1]))) && name[i] != '(' && isPeriod(name[i:]) {
			label = strings.TrimRight(name[:i], "_- (")
			return label, name[len(label):i], name[i:], true
		}
	}
	return "", "", "", false
}

// periodFirst are the pieces of names that all begin with the name of a month, without a year: Nov Lakes, Dec Lakes.
func periodFirst(names []string) []namePiece {
	months, labels, sign, ok := inTwo(names, firstWords)
	if !ok || bareTimes(months) != month {
		return nil
	}
	pieces, after := labelPieces(labels, true)
	if len(pieces) == 0 || slices.ContainsFunc(labels, saysNothing) {
		return nil
	}
	pieces[0].before = sign + pieces[0].before
	return closed(append([]namePiece{{values: months, letters: true}}, pieces...), after)
}

// firstWords parts a name behind its first word.
var firstWords = regexp.MustCompile(`^(\pL+)([-_ ]+)(.+)$`)

// periodPieces are the pieces of names that all end in a period: a label, perhaps with a year behind it, and the period.
func periodPieces(names []string) []namePiece {
	var labels, periods []string
	between := ""
	for i, name := range names {
		label, sep, text, ok := splitPeriod(name)
		if !ok || i > 0 && sep != between {
			return nil
		}
		labels, between, periods = append(labels, label), sep, append(periods, text)
	}
	last := namePiece{before: between, values: periods}
	lead := strings.TrimRight(periods[0], "0123456789")
	alike := !slices.ContainsFunc(periods, func(p string) bool { return !strings.HasPrefix(p, lead) })
	if alike && bareTimes(periods) == noClass { // KW12
		last.before += lead
		for i, p := range periods {
			last.values[i] = p[len(lead):]
		}
	}
	if saysNothing(labels[0]) { // sales Jan, sales Feb
		last.before = labels[0] + last.before
		if slices.ContainsFunc(labels, func(l string) bool { return l != labels[0] }) {
			return nil
		}
		return []namePiece{last}
	}
	years, parted, sign := []string(nil), []string(nil), ""
	for i, l := range labels {
		label, sep, text, ok := splitTime(l)
		if !ok || i > 0 && sep != sign {
			years = nil
			break
		}
		parted, sign, years = append(parted, label), sep, append(years, text)
	}
	if c, _ := timesOf(years); c == year && len(years) == len(labels) {
		out, after := labelPieces(parted, true)
		return append(out, namePiece{before: after + sign, values: years, time: year}, last)
	}
	out, after := labelPieces(labels, false)
	if len(out) == 0 {
		return nil
	}
	last.before = after + last.before
	return append(out, last)
}

// settlePatterns holds the patterns of paths and sheets against all names. Where words of a name, which nothing else keeps apart, go
// elsewhere than they belong (Amber Bay Jan), what is not wanted of it becomes a helper of letters alone; where that does not help, it
// is a question.
func (d *drafter) settlePatterns(e *entry) {
	for _, from := range []string{"path", "sheet"} {
		if e.takesApart(from) {
			continue
		}
		for i := range e.pieces {
			p := &e.pieces[i]
			switch {
			case p.from != from || !slices.ContainsFunc(p.values, isPeriod):
			case bareTimes(p.values) == month:
				if p.letters = true; p.column == nil {
					p.give(e, d.helper("mon", bareTime))
				}
			case p.column == nil && !p.varies(): // Q1 in all of them
				p.before, p.values = p.before+p.values[0], nil
			}
		}
		if e.takesApart(from) || d.partTimes(e, from) && e.takesApart(from) {
			continue
		}
		name, of := e.sheets[0].nameOf(), "files"
		if from == "sheet" {
			name, of = e.sheets[0].Place.Sheet, "sheets"
		}
		e.open = append(e.open, fmt.Sprintf("%s: no pattern takes names such as %s apart: name the %s otherwise, or say set: in an entry "+
			"for each", e.globs[0], name, of))
		for i := range e.pieces {
			if p := &e.pieces[i]; p.from == from && p.column != nil && p.time == noClass && !p.column.helper {
				p.column.used[e], p.column = false, nil
			}
		}
	}
}

// takesApart reports whether a pattern gives each of its columns what belongs to it, in all names.
func (e *entry) takesApart(from string) bool {
	text, _, wanted := e.pattern(from, 0)
	if !wanted {
		return true
	}
	p, err := pattern.Parse(text)
	if err != nil {
		return false
	}
	for _, piece := range e.pieces {
		if piece.from == from && piece.column != nil && piece.column.class == year {
			p.SetLimit(piece.column.name, pattern.Digits)
		}
	}
	for i, s := range e.sheets {
		name := s.nameOf()
		switch {
		case from == "sheet":
			name = s.Place.Sheet
		case strings.Count(text, "/") == 2:
			name = s.outer + "/" + s.inFolder + "/" + name
		case strings.Contains(text, "/"):
			name = s.inFolder + "/" + name
		}
		fields, ok := p.Fit(name)
		for _, piece := range e.pieces {
			if piece.from == from && piece.column != nil && (!ok || !key.Same(fields[piece.column.name], piece.values[i])) {
				return false
			}
		}
	}
	return true
}

// timePieces are the pieces of times behind labels. A year and a month that words of a label could begin (Amber Bay 2024-03), or between
// which a sign stands that no date has (2024_03), are two, of figures alone.
func timePieces(labels []string, before string, times []string) []namePiece {
	if months, years, ok := apart(labels, times); ok {
		return []namePiece{{before: before, values: months, letters: true}, {before: " ", values: years, time: year}}
	}
	c, _ := timesOf(times)
	one := namePiece{before: before, values: times, time: c}
	if value.DaysOfMonths(times) {
		one.time = noClass
		return []namePiece{one}
	}
	if c != noClass && (before == "" || !slices.ContainsFunc(labels, func(l string) bool { return strings.Contains(l, before) })) {
		return []namePiece{one}
	}
	if years, months, sign, ok := inTwo(times, yearMonth); ok && sign != "" {
		return []namePiece{{before: before, values: years, time: year}, {before: sign, values: months, digits: true}}
	} else if ok || allDigits(times) {
		one.digits = true
	} else if months, years, sign, ok := inTwo(times, monthYear); ok {
		return []namePiece{{before: before, values: months, digits: true}, {before: sign, values: years, time: year}}
	}
	return []namePiece{one}
}

// allDigits reports whether some texts are of figures alone.
func allDigits(texts []string) bool {
	return !slices.ContainsFunc(texts, func(t string) bool { return strings.Trim(t, "0123456789") != "" })
}

var (
	yearMonth = regexp.MustCompile(`^((?:19|20)\d\d)([-_. ]?)(0[1-9]|1[0-2])$`)
	monthYear = regexp.MustCompile(`^(0?[1-9]|1[0-2])([-_. ])((?:19|20)\d\d)$`)
)

// numbered are the pieces of names that begin with numbers of their own, 01 Lakes, 02 Amber Bay, or of months: 11 sales, 12 sales.
func numbered(names []string) []namePiece {
	numbers, labels, sign, ok := inTwo(names, numberedName)
	if ok && monthNumbers(numbers) && saysNothing(labels[0]) && len(slices.Compact(slices.Clone(labels))) == 1 {
		return []namePiece{{values: numbers, digits: true}, {before: sign + labels[0]}}
	}
	if !ok || len(names) < 2 || !distinct(labels) || slices.ContainsFunc(labels, saysNothing) || !countUp(numbers) {
		return nil
	}
	return []namePiece{{values: numbers}, {before: sign, values: labels}}
}

// countUp reports whether numbers are all different and count from one, or are padded with zeros: "2 Rivers" is a place.
func countUp(numbers []string) bool {
	seen := map[int]bool{}
	padded := false
	for _, text := range numbers {
		n, _ := strconv.Atoi(text)
		padded = padded || strings.HasPrefix(text, "0")
		seen[n] = true
	}
	for n := range numbers {
		if !padded && !seen[n+1] {
			return false
		}
	}
	return len(seen) == len(numbers)
}

// bracketed are the pieces of names with brackets behind a label: Lakes (Ines), Amber Bay (Maren).
func bracketed(names []string) []namePiece {
	labels, brackets, sign, ok := inTwo(names, bracketedName)
	if !ok || !distinct(labels) || slices.ContainsFunc(labels, saysNothing) {
		return nil
	}
	return []namePiece{{values: labels}, {before: sign, values: brackets}, {before: ")"}}
}

// copied are the pieces of names of which some say that they are copies: Copy of Lakes.
func copied(names []string) []namePiece {
	lead, with := "", 0
	var labels []string
	for _, n := range names {
		m := copyOf.FindString(n)
		if m != "" && lead != "" && m != lead {
			return nil
		}
		if m != "" {
			lead = m
			with++
		}
		labels = append(labels, n[len(m):])
	}
	if with == 0 || !distinct(labels) {
		return nil
	}
	return []namePiece{{before: lead, values: labels, absent: with < len(names)}}
}

var (
	numberedName  = regexp.MustCompile(`^(\d{1,3})([._ -]+)(\D.*)$`)
	bracketedName = regexp.MustCompile(`^([^()]+?)( ?\()([^()]*)\)$`)
	copyOf        = regexp.MustCompile(`(?i)^(?:copy of|kopie von|copie de|copia de|copia di|kopie van) `)
)

// inTwo parts all names by an expression with three groups, of which the second is the same in all of them.
func inTwo(names []string, by *regexp.Regexp) (first, second []string, sign string, ok bool) {
	for i, n := range names {
		m := by.FindStringSubmatch(n)
		if m == nil || i > 0 && m[2] != sign {
			return nil, nil, "", false
		}
		first, sign, second = append(first, m[1]), m[2], append(second, m[3])
	}
	return first, second, sign, true
}

// distinct reports whether no two of some texts are the same.
func distinct(texts []string) bool {
	return len(slices.Compact(slices.Sorted(slices.Values(texts)))) == len(texts)
}

// someYears are the pieces of labels of which some have a year behind them, and others words that say nothing: Lakes_2023, Amber Bay,
// Skerries by branch.
func someYears(labels, between, times []string) []namePiece {
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
		case labels[i] == "" || saysNothing(labels[i]) || t != "" && !yearForm.MatchString(t):
			return nil
		case t != "" && sign != "" && between[i] != sign:
			return nil
		case t != "":
			sign = between[i]
		}
	}
	pieces := []namePiece{{values: labels}}
	if tail != "" {
		pieces = append(pieces, namePiece{before: tail, absent: true})
	}
	return append(pieces, namePiece{before: sign, values: times, absent: true})
}
