package draft

import (
	"path"
	"regexp"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// What the names of files say.

// splitTime parts a name into a label, what stands between, and a time that the plan's default reads
// at its end.
func splitTime(name string) (label, between, text string, ok bool) {
	for i := range len(name) {
		begins := i == 0 || strings.ContainsRune("_- (", rune(name[i-1])) || pointed.MatchString(name[:i])
		if !begins || strings.ContainsRune("_- (", rune(name[i])) {
			continue
		}
		if c, form := timeOf(name[i:]); c != noClass && (form == "" || c == month && strings.ContainsAny(name[i:], "-./ ")) {
			label = strings.TrimRight(name[:i], "_- (.")
			return label, name[len(label):i], name[i:], true
		}
	}
	m := tail.FindStringSubmatch(name)
	if m == nil || strings.HasSuffix(m[1], ".") {
		return "", "", "", false
	}
	return m[1], m[2], m[3], true
}

// pointed is what stands before a time behind a point: Lakes.2024-03.
var pointed = regexp.MustCompile(`\pL\.$`)

// tail is a year, a month or a day of figures alone, at the end of a name, or all of it.
var tail = regexp.MustCompile(`^(.*?)([_\- (]*)((?:19|20)\d\d(?:[-_. ]?(?:0[1-9]|1[0-2]))?|` +
	`(?:19|20)\d\d(?:0[1-9]|1[0-2])(?:0[1-9]|[12]\d|3[01]))$`)

// nameOf is the name of the file, or the member of an archive, that a table is in, without its
// endings.
func (s *sheet) nameOf() string {
	name := s.file
	if s.member != "" {
		name = s.member
	}
	base := path.Base(name)
	for range 2 {
		if ext := path.Ext(base); len(ext) <= 6 && strings.Trim(ext, ".0123456789()") != "" {
			base = strings.TrimSuffix(base, ext)
		}
	}
	return base
}

// wanted are the places and things that are asked for, or, if nothing is, those that headers of some extracts name.
func (d *drafter) wanted() map[class]bool {
	names := d.Columns
	if len(names) == 0 {
		for _, s := range d.extracts() {
			for _, i := range s.labels() {
				names = append(names, s.Fields[i].Header)
			}
		}
	}
	out := map[class]bool{region: len(d.Columns) == 0, branch: len(d.Columns) == 0 && d.pairsInNames()}
	for _, name := range names {
		if c := classOf(name); c == region || c == branch || c == product {
			out[c] = true
		}
	}
	return out
}

// pairsInNames reports whether names of extracts are of two labels, of which the first comes again: Lakes_Mill,
// Lakes_Quay, Holm_Pier.
func (d *drafter) pairsInNames() bool {
	firsts, n := map[string]bool{}, 0
	for _, s := range d.extracts() {
		name, _, _, timed := splitTime(s.nameOf())
		if !timed {
			name = s.nameOf()
		}
		if first, _, _, two := splitTwo(name); two {
			firsts[key.Of(first)] = true
			n++
		}
	}
	return n > 2 && len(firsts) > 1 && len(firsts) < n
}

// unsaid is how many of the places and things wanted neither a header nor a section row, a sheet or a title of a
// table says: its path has to.
func (s *sheet) unsaid(wanted map[class]bool) (n int) {
	said := map[class]bool{product: len(s.wide) > 0 && s.wideTime() == noClass}
	for _, i := range s.labels() {
		f := &s.Fields[i]
		c := classOf(f.Header)
		if said[c] = true; c == noClass && f.Is == "text" { // by elimination it may be one of them
			n--
		}
	}
	for c := range wanted {
		if !said[c] {
			n++
		}
	}
	if sheet := s.Place.Sheet; sheet != "" && !saysNothing(sheet) {
		n--
	}
	if s.sections {
		n--
	}
	return n - len(s.titles())
}

// readNames finds what varies in the names of the files, and of their folders where the files themselves say
// no more than a time.
func (e *entry) readNames() {
	var names []string
	for _, s := range e.sheets {
		names = append(names, s.nameOf())
	}
	if e.sheets[0].two {
		if pieces := twoLabels(names); pieces != nil {
			e.addPieces("path", pieces)
			return
		}
	}
	pieces := namePieces(names)
	if e.sheets[0].inFolder != "" {
		var folders, outer []string
		for _, s := range e.sheets {
			folders, outer = append(folders, s.inFolder), append(outer, s.outer)
		}
		if len(pieces) == 0 {
			pieces = []namePiece{{values: names, digits: outer[0] != "" && monthNumbers(names)}}
		}
		pieces[0].before = "/" + pieces[0].before
		pieces = append(ofFolder(folders), pieces...)
		if outer[0] != "" {
			pieces[0].before = "/"
			pieces = append(ofFolder(outer), pieces...)
		}
	}
	e.addPieces("path", pieces)
}

// addPieces adds pieces of paths, sheets or titles, and how times in them are written.
func (e *entry) addPieces(from string, pieces []namePiece) {
	for _, p := range pieces {
		if value.DaysOfMonths(p.values) {
			e.open = append(e.open, "names such as "+p.values[0]+" may say days, or months of some years: say set: in an entry for each")
			continue
		}
		e.readTimes(p.values)
	}
	for _, p := range pieces {
		own := piece{namePiece: p, from: from}
		if from == "titles" {
			own.title = e.titles
		}
		e.pieces = append(e.pieces, own)
	}
}

// namePieces are the labels and the times in names that are made alike: a label with a time behind it or before it,
// or a label alone, and words around them that say nothing.
func namePieces(names []string) []namePiece {
	names, tail := withoutTail(names)
	if pieces := timeWithin(names, false); pieces != nil {
		return closed(pieces, tail)
	}
	n := len(names)
	labels, between, times := make([]string, n), make([]string, n), make([]string, n)
	timed := 0
	for i, name := range names {
		label, sep, text, ok := splitTime(name)
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
			labels = pieces[0].values
		}
		pieces = append(pieces, timePieces(labels, after+between[0], times)...)
	case after != "" && len(pieces) > 0:
		pieces = append(pieces, namePiece{before: after})
	}
	return closed(pieces, tail)
}

// untimedPieces are those of names that no time ends: a time before a label or within, a number of its own, a period.
func untimedPieces(names []string, tail string) []namePiece {
	within := func(names []string) []namePiece { return timeWithin(names, true) }
	for _, apart := range []func([]string) []namePiece{timeFirst, periodFirst, numbered, bracketed, copied, periodPieces, within} {
		if pieces := apart(names); pieces != nil {
			return closed(pieces, tail)
		}
	}
	if labels, tail := withoutSomeTail(names); tail != "" {
		return []namePiece{{values: labels}, {before: tail, absent: true}}
	}
	return nil
}

// closed are pieces with what stands behind them in all names.
func closed(pieces []namePiece, tail string) []namePiece {
	if len(pieces) > 0 && tail != "" {
		pieces = append(pieces, namePiece{before: tail})
	}
	return pieces
}

// labelPieces are the piece of some labels, if they say anything, and what stands behind it in all of them.
func labelPieces(labels []string, timed bool) (out []namePiece, after string) {
	before := ""
	if len(slices.Compact(slices.Sorted(slices.Values(labels)))) > 1 {
		before, after = commonEnds(labels)
		rests := make([]string, len(labels))
		for i, l := range labels {
			rests[i] = l[len(before) : len(l)-len(after)]
		}
		before, after = untilPlace(before, rests), fromPlace(after, rests)
	} else {
		before, after = generalEnds(labels[0])
	}
	var values []string
	for _, l := range labels {
		values = append(values, strings.Trim(strings.TrimSuffix(strings.TrimPrefix(l, before), after), "_- "))
	}
	if labels[0] != "" && (timed || !allNumbers(values)) {
		out = append(out, namePiece{before: before, values: values})
	}
	return out, after
}

// twoLabels are the pieces of names that are all made of two labels, with a time behind them or without: Lakes_Mill_2024.
// It is nil for others.
func twoLabels(names []string) (out []namePiece) {
	n := len(names)
	first, second, times := make([]string, n), make([]string, n), make([]string, n)
	sign, between := "", ""
	for i, name := range names {
		label, sep, text, timed := splitTime(name)
		if !timed {
			label, sep, text = name, "", ""
		}
		one, by, other, ok := splitTwo(label)
		if !ok || i > 0 && (by != sign || sep != between) {
			return nil
		}
		first[i], sign, second[i], between, times[i] = one, by, other, sep, text
	}
	out, after := labelPieces(first, true)
	more, end := labelPieces(second, true)
	more[0].before = after + sign + more[0].before
	out = append(out, more...)
	if c, _ := timesOf(times); c != noClass {
		return append(out, namePiece{before: end + between, values: times, time: c})
	}
	return closed(out, end)
}

// splitTwo parts a label into two, each of which says something, at the one sign between them.
func splitTwo(label string) (first, sign, second string, ok bool) {
	for _, sign := range []string{"_", " - ", " – "} {
		if first, second, ok := strings.Cut(label, sign); ok {
			return first, sign, second, !strings.Contains(second, sign) && !saysNothing(first) && !saysNothing(second)
		}
	}
	return "", "", "", false
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
		if !two || bareTimes([]string{month}) == noClass || !yearForm.MatchString(year) {
			return nil, nil, false
		}
		months, years = append(months, month), append(years, year)
	}
	return months, years, true
}

// withoutTail takes the same last word that says nothing, or a bracket, from all names, where a time stands before it.
func withoutTail(names []string) (out []string, tail string) {
	end := lastWord.FindString(names[0])
	if end == "" || strings.ContainsAny(end, "0123456789") || !saysNothing(end) {
		return names, ""
	}
	for _, n := range names {
		cut, all := strings.CutSuffix(n, end)
		_, _, _, timed := splitTime(cut)
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
		if end != "" && !strings.ContainsAny(end, "0123456789") && saysNothing(end) {
			if tail != "" && tail != end {
				return nil, ""
			}
			label, tail = strings.TrimSuffix(n, end), end
			with++
		}
		if saysNothing(label) || seen[key.Of(label)] {
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

// lastWords are the words at the end of a name that say nothing, with what parts them from its label.
func lastWords(name string) string {
	label := name
	for {
		end := lastWord.FindString(label)
		if end == "" || strings.ContainsAny(end, "0123456789") || !saysNothing(end) || unitEnds.MatchString(label) {
			return name[len(label):]
		}
		label = strings.TrimRight(strings.TrimSuffix(label, end), "_- ")
	}
}

// unitEnds is the end of a name that has a size: Dock Line 15 m.
var unitEnds = regexp.MustCompile(`\d [a-zA-Z]{1,2}$`)

// lastWord is the last word of a name with what parts it from the others, or a bracket.
var lastWord = regexp.MustCompile(`(\)|[-_ ][^-_ ()]+)$`)

// timeFirst are the pieces of names that begin with a time, behind words that say nothing.
func timeFirst(names []string) []namePiece {
	lead, _ := generalEnds(names[0])
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
			if c, _ := timeOf(rest[:i]); c != noClass && ends {
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
	if c == noClass || value.DaysOfMonths(times) {
		return nil
	}
	if pieces := timeWithin(names, true); c == year && pieces != nil { // of months that no plan reads as they stand: 2024_03 Lakes
		return pieces
	}
	pieces, after := labelPieces(labels, true)
	if len(pieces) == 0 {
		return nil
	}
	pieces[0].before = between + pieces[0].before
	first := []namePiece{{before: lead, values: times, time: c}}
	if months, years, ok := monthsAndYears(times); ok { // or the year would begin the label
		first = []namePiece{{before: lead, values: months, letters: true}, {before: " ", values: years, time: year}}
	}
	return closed(append(first, pieces...), after)
}

// partSheet takes what stands before the time in the names of all sheets for a label.
func (e *entry) partSheet() {
	for i := range e.pieces {
		p := e.pieces[i]
		label := strings.TrimRight(p.before, "_- ")
		if p.from == "sheet" && p.time != noClass && label != "" && !saysNothing(label) {
			e.pieces[i].before = p.before[len(label):]
			label := namePiece{values: slices.Repeat([]string{label}, len(p.values))}
			e.pieces = slices.Insert(e.pieces, i, piece{namePiece: label, from: "sheet"})
			return
		}
	}
}

// generalEnds are the words at both ends of a name that say nothing of what it is of, with the
// signs beside them: of "Lakes sales" the second, and both of "Lakes head office". "New Quay" is a place.
func generalEnds(text string) (before, after string) {
	words := wordForm.FindAllStringIndex(text, -1)
	if len(words) == 0 || saysNothing(text) {
		return "", ""
	}
	word := func(i int) string { return key.Of(text[words[i][0]:words[i][1]]) }
	first, last := len(words), 0
	for first > 0 && (!saysNothing(text[:words[first-1][1]]) || kept[word(first-1)] || listings[word(first-1)]) {
		first--
	}
	for last < len(words) && (!saysNothing(text[words[last][0]:]) || listings[word(last)]) {
		last++
	}
	return text[:words[first][0]], text[words[last-1][1]:]
}

var wordForm = regexp.MustCompile(`[^_\- ()]+`)

func allNumbers(texts []string) bool {
	for _, t := range texts {
		if strings.Trim(t, "0123456789 ()") != "" {
			return false
		}
	}
	return true
}
