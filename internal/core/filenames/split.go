package filenames

import (
	"regexp"
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// CommonEnds are what paths begin and end with, cut between words.
func CommonEnds(texts []string) (prefix, suffix string) {
	prefix, suffix = texts[0], texts[0]
	for _, t := range texts[1:] {
		n := 0
		for n < len(prefix) && n < len(t) && prefix[n] == t[n] {
			n++
		}
		prefix = prefix[:n]
		n = 0
		for n < len(suffix) && n < len(t) && suffix[len(suffix)-1-n] == t[len(t)-1-n] {
			n++
		}
		suffix = suffix[len(suffix)-n:]
	}
	shortest := len(texts[0])
	for _, t := range texts {
		shortest = min(shortest, len(t))
	}
	for len(prefix) > 0 && !strings.ContainsRune("/_- (", rune(prefix[len(prefix)-1])) {
		prefix = prefix[:len(prefix)-1]
	}
	for len(suffix) > 0 && !strings.ContainsRune("._- )", rune(suffix[0])) {
		suffix = suffix[1:]
	}
	if len(prefix)+len(suffix) > shortest {
		suffix = suffix[min(len(suffix), len(prefix)+len(suffix)-shortest):]
	}
	return prefix, suffix
}

// splitPeriod parts a name into a label, what stands between, and a period at its end, which may be two words (week 12).
func splitPeriod(name string) (label, between, text string, ok bool) {
	for i := range len(name) {
		if (i == 0 || strings.ContainsRune("_- (", rune(name[i-1]))) && name[i] != '(' && terms.IsPeriod(name[i:]) {
			label = strings.TrimRight(name[:i], "_- (")
			return label, name[len(label):i], name[i:], true
		}
	}
	return "", "", "", false
}

// allDigits reports whether some texts are of figures alone.
func allDigits(texts []string) bool {
	return !slices.ContainsFunc(texts, func(t string) bool { return strings.Trim(t, "0123456789") != "" })
}

// InTwo parts all names by an expression with three groups, of which the second is the same in all of them.
func InTwo(names []string, by *regexp.Regexp) (first, second []string, sign string, ok bool) {
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

// uneven reports whether some texts are not all the same, to the letter.
func uneven(texts []string) bool {
	return slices.ContainsFunc(texts, func(t string) bool { return t != texts[0] })
}

// timeOf is what a text is as a time, and its form: of 2024_01 each part is a piece of its own.
func timeOf(text string) (c terms.Class, form string) {
	if strings.Contains(text, "_") {
		return terms.None, ""
	}
	return terms.TimeOf(text)
}

// timesOf is what all of some texts are as times, and the form that reads them.
func timesOf(texts []string) (c terms.Class, form string) {
	if slices.ContainsFunc(texts, func(t string) bool { return strings.Contains(t, "_") }) {
		return terms.None, ""
	}
	return terms.TimesOf(texts)
}

// SplitTime parts a name into a label, what stands between, and a time that the plan's default reads
// at its end.
func SplitTime(name string) (label, between, text string, ok bool) {
	for i := range len(name) {
		begins := i == 0 || strings.ContainsRune("_- (", rune(name[i-1])) || pointed().MatchString(name[:i])
		if !begins || strings.ContainsRune("_- (", rune(name[i])) {
			continue
		}
		if c, form := timeOf(name[i:]); c != terms.None && (form == "" || c == terms.Month && strings.ContainsAny(name[i:], "-./ ")) {
			label = strings.TrimRight(name[:i], "_- (.")
			return label, name[len(label):i], name[i:], true
		}
	}
	m := tail().FindStringSubmatch(name)
	if m == nil || strings.HasSuffix(m[1], ".") {
		return "", "", "", false
	}
	return m[1], m[2], m[3], true
}

// pointed is what stands before a time behind a point: Lakes.2024-03.
var pointed = expression.Of(`\pL\.$`)

// tail is a year, a month or a day of figures alone, at the end of a name, or all of it.
var tail = expression.Of(`^(.*?)([_\- (]*)((?:19|20)\d\d(?:[-_. ]?(?:0[1-9]|1[0-2]))?|` +
	`(?:19|20)\d\d(?:0[1-9]|1[0-2])(?:0[1-9]|[12]\d|3[01]))$`)

// SplitTwo parts a label into two, each of which says something, at the one sign between them.
func SplitTwo(label string) (first, sign, second string, ok bool) {
	for _, sign := range []string{"_", " - ", " – "} {
		if first, second, ok := strings.Cut(label, sign); ok {
			return first, sign, second, !strings.Contains(second, sign) && !terms.SaysNothing(first) && !terms.SaysNothing(second)
		}
	}
	return "", "", "", false
}

// PartLabel parts the one label among pieces into two, if it is made of two in all names; it is nil for others.
func PartLabel(pieces []Piece) []Piece {
	at := -1
	for i, p := range pieces {
		if !p.IsLabel() {
			continue
		}
		if at >= 0 {
			return nil
		}
		at = i
	}
	if at < 0 {
		return nil
	}
	whole := pieces[at]
	first, second := whole, whole
	first.Values, second.Values = nil, nil
	for i, v := range whole.Values {
		one, sign, other, ok := SplitTwo(v)
		if !ok || i > 0 && sign != second.Before {
			return nil
		}
		first.Values, second.Values, second.Before = append(first.Values, one), append(second.Values, other), sign
	}
	return slices.Replace(slices.Clone(pieces), at, at+1, first, second)
}

// Label is what a name says beside a time or a period at its end, without words there that say nothing.
func Label(name string) string {
	label, _, _, timed := SplitTime(name)
	if !timed {
		label, _, _, timed = splitPeriod(name)
	}
	if !timed {
		label = name
	}
	return strings.TrimSuffix(label, lastWords(label))
}

// lastWords are the words at the end of a name that say nothing, with what parts them from its label; none where a bracket would stay open.
func lastWords(name string) string {
	label := name
	for {
		end := lastWord().FindString(label)
		if end == "" || strings.ContainsAny(end, "0123456789") || !terms.SaysNothing(end) || unitEnds().MatchString(label) {
			if strings.Count(label, "(") != strings.Count(label, ")") {
				return ""
			}
			return name[len(label):]
		}
		label = strings.TrimRight(strings.TrimSuffix(label, end), "_- ")
	}
}

// unitEnds is the end of a name that has a size: Dock Line 15 m.
var unitEnds = expression.Of(`\d [a-zA-Z]{1,2}$`)

// lastWord is the last word of a name with what parts it from the others, or a bracket.
var lastWord = expression.Of(`(\)|[-_ ][^-_ ()]+)$`)

// GeneralEnds are the words at both ends of a name that say nothing of what it is of, with the
// signs beside them: of "Lakes sales" the second, and both of "Lakes head office". "New Quay" is a place.
func GeneralEnds(text string) (before, after string) {
	words := wordForm().FindAllStringIndex(text, -1)
	if len(words) == 0 || terms.SaysNothing(text) {
		return "", ""
	}
	word := func(i int) string { return key.Of(text[words[i][0]:words[i][1]]) }
	first, last := len(words), 0
	for first > 0 && (!terms.SaysNothing(text[:words[first-1][1]]) || terms.Kept(word(first-1)) || terms.Listing(word(first-1))) {
		first--
	}
	for last < len(words) && (!terms.SaysNothing(text[words[last][0]:]) || terms.Listing(word(last))) {
		last++
	}
	if first >= last { // no word of its own says anything: Region:_a1
		return "", ""
	}
	return text[:words[first][0]], text[words[last-1][1]:]
}

var wordForm = expression.Of(`[^_\- ()]+`)

func allNumbers(texts []string) bool {
	for _, t := range texts {
		if strings.Trim(t, "0123456789 ()") != "" {
			return false
		}
	}
	return true
}
