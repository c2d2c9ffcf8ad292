package filenames

import (
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/terms"
)

// OfTitles are a label, a time, or both of them behind what is the same in some titles.
func OfTitles(before string, texts []string) []Piece {
	var values []string
	for _, t := range texts {
		values = append(values, strings.TrimSpace(t[len(before):]))
	}
	c, _ := timesOf(values)
	one := []Piece{{Before: before, Values: values, Time: c}}
	var labels, times []string
	between := ""
	for i, v := range values {
		m := titleTail().FindStringSubmatch(v)
		if c != terms.None || m == nil || i > 0 && m[2] != between {
			return plainTitles(one)
		}
		labels, between, times = append(labels, m[1]), m[2], append(times, m[3])
	}
	c, _ = timesOf(times)
	return []Piece{{Before: before, Values: labels}, {Before: between, Values: times, Time: c}}
}

// plainTitles takes words that some titles have beside their label out of it.
func plainTitles(one []Piece) []Piece {
	label := one[0]
	rest, heads, tails := withoutNoise(label.Values, make([]string, len(label.Values)))
	if rest == nil || label.Time != terms.None {
		return one
	}
	return append([]Piece{{Before: label.Before}}, amid(heads, []Piece{{Values: rest}}, tails)...)
}

// titleTail is a time at the end of a title, behind a sign and perhaps a word for it: "Lakes, year 2024".
var titleTail = expression.Of(`^(.+?)([,;:–—-]? (?:\pL+:? )?)((?:19|20)\d\d(?:-(?:0[1-9]|1[0-2]))?)$`)
