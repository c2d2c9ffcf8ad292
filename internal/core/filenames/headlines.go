package filenames

import (
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/terms"
)

// OfHeadlines are the pieces of titles of tables that are made alike: a label, a month, quarter or year, or both, and the words
// around them, which are the same in all of them: Sales of Lakes in January 2024. With apart, months and years of times are pieces
// of their own. It is nil for others.
func OfHeadlines(texts []string, apart bool) []Piece {
	if rest, heads, tails := withoutNoise(texts, make([]string, len(texts))); rest != nil && len(heads) == 0 && uneven(rest) {
		return amid(nil, OfHeadlines(rest, apart), tails)
	}
	var left, times, right []string
	for _, text := range texts {
		before, time, after, ok := timeIn(text)
		if !ok {
			return nil
		}
		left, times, right = append(left, before), append(times, time), append(right, after)
	}
	switch {
	case !slices.Contains(times, ""):
	case uneven(times):
		return nil
	default:
		pieces, after := variedLabel(texts)
		return closed(pieces, after)
	}
	if uneven(left) && uneven(right) {
		return nil
	}
	pieces, between := variedLabel(left)
	time := timesOfHeadlines(times, apart)
	if time == nil {
		return nil
	}
	time[0].Before = between
	pieces = append(pieces, time...)
	behind, after := variedLabel(right)
	return closed(append(pieces, behind...), after)
}

// variedLabel is the label in some texts, if they differ, and what stands behind it in all of them; what they are, if they do not.
func variedLabel(texts []string) (label []Piece, after string) {
	if !uneven(texts) {
		return nil, texts[0]
	}
	sign := signsBehind().FindString(texts[0])
	words := make([]string, len(texts))
	for i, text := range texts {
		if words[i] = strings.TrimSuffix(text, sign); signsBehind().FindString(text) != sign {
			return nil, ""
		}
	}
	label, after = labelPieces(words, true)
	if len(label) == 1 { // a sign behind all labels is none of theirs
		own := signsBehind().FindString(label[0].Values[0])
		if !slices.ContainsFunc(label[0].Values, func(v string) bool { return !strings.HasSuffix(v, own) }) {
			for i, v := range label[0].Values {
				label[0].Values[i] = strings.TrimSuffix(v, own)
			}
			after = own + after
		}
	}
	return label, after + sign
}

// timesOfHeadlines are the pieces of times of one class, or nil.
func timesOfHeadlines(times []string, apart bool) []Piece {
	c, _ := timesOf(times)
	if !apart {
		if c == terms.None {
			return nil
		}
		return []Piece{{Values: times, Time: c}}
	}
	months, years := Piece{Digits: true}, Piece{Time: terms.Year}
	for _, time := range times {
		m := yearAndMonth().FindStringSubmatch(time)
		if m == nil || months.Before != "" && months.Before != m[2] {
			break
		}
		years.Values, months.Before, months.Values = append(years.Values, m[1]), m[2], append(months.Values, m[3])
	}
	if len(months.Values) == len(times) {
		return []Piece{years, months}
	}
	months, years = Piece{Letters: true}, Piece{Time: terms.Year}
	for _, time := range times {
		m := monthAndYear().FindStringSubmatch(time)
		if m == nil || years.Before != "" && years.Before != m[2] {
			return nil
		}
		months.Values, years.Before, years.Values = append(months.Values, m[1]), m[2], append(years.Values, m[3])
	}
	return []Piece{months, years}
}

// yearAndMonth is a year, and the number of a month.
var yearAndMonth = expression.Of(`^((?:19|20)\d\d)([-_./])(0[1-9]|1[0-2])$`)

// monthAndYear is a month by its name, and its year.
var monthAndYear = expression.Of(`^(\pL+)([-. ]+)((?:19|20)\d\d)$`)

// signsBehind are what stands behind the last word of a text.
var signsBehind = expression.Of(`[^\pL\d)]*$`)

// wordInTitle is a word of a title, without the signs around it.
var wordInTitle = expression.Of(`[\pL\d][^\s,;:()]*`)

// timeIn finds the month, quarter or year in a title; ok is false where there are several, or a day, which may be that on which it was
// written. Time is "" where there is none.
func timeIn(text string) (before, time, after string, ok bool) {
	words := wordInTitle().FindAllStringIndex(text, -1)
	from, to := -1, -1
	for i := 0; i < len(words); i++ {
		for n := min(3, len(words)-i); n > 0; n-- {
			part := text[words[i][0]:words[i+n-1][1]]
			c, _ := timeOf(part)
			if c == terms.None {
				continue
			}
			if c == terms.Day || from >= 0 {
				return "", "", "", false
			}
			from, to = words[i][0], words[i+n-1][1]
			i += n - 1
			break
		}
	}
	if from < 0 {
		return text, "", "", true
	}
	return text[:from], text[from:to], text[to:], true
}
