package filenames

import (
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
	"umbau/internal/core/terms"
)

// Words that somebody put beside the label in some of several names, and that say nothing of it: Lakes final 2024 beside Skerries 2024.

var (
	noiseBehind = expression.Of(`(?i)[-_ ]+(?:(?:by|per)[-_ ](?:branch|shop|store|outlet|month|day|week|product|item|article|region)|` +
		`(?:from|for|von|für)[-_ ]\pL+|signed[-_ ]off|in[-_ ]\S+|(?:as[-_ ]of|printed|exported|created|stand|erstellt)[-_: ]+[\d./-]+|` +
		`\pL+[-_ ](?:to|bis|until)[-_ ]\pL+|[^-_ ()]+|\([^()]*\))$`)
	rangeBehind = expression.Of(`[-_ ]+\pL+-\pL+$`)
	noiseBefore = expression.Of(`(?i)^(?:\pL+(?:-|[-_ ](?:to|bis|until)[-_ ])\pL+|[^-_ ()]+)[-_ ]+`)
	phrase      = expression.Of(`(?i)^(?:(?:v|ver|rev)\d{1,2}|\(\d\)|(?:signed|as|by|per|from|for|von|für)[-_ ].*|` +
		`(?:printed|exported|created|stand|erstellt)[-_: ].*)$`)
	fromTo     = expression.Of(`(?i)^(\pL+)(?:-|[-_ ](?:to|bis|until)[-_ ])(\pL+)$`)
	halfOrWeek = expression.Of(`(?i)^(?:q[1-4]|hj?[12]|(?:kw|cw|wk)\d{1,2})$`)
)

// noise knows words beside a label that say nothing of it.
type noise struct {
	periods bool // times, too: some names have none
	single  bool // there is one name, whose words for tables of sales are known without
}

// word reports whether it is one; behind a label, which age it is of may stand, too.
func (n noise) word(word string, behind bool) bool {
	k := key.Of(word)
	if k == "" || n.single && terms.SaysNothing(word) {
		return false
	}
	return terms.OfMaking(k, behind) || phrase().MatchString(word) || strings.HasPrefix(k, "in ") && terms.SaysMoney(word) ||
		n.periods && period(word)
}

// period reports whether a word is a time but a year, which says of a file when it was made, or what is in it; no name of a month, for
// there are Cape May and Mar Road.
func period(word string) bool {
	if m := fromTo().FindStringSubmatch(word); m != nil {
		return terms.IsPeriod(m[1]) && terms.IsPeriod(m[2])
	}
	c, _ := timeOf(word)
	return halfOrWeek().MatchString(word) || c == terms.Day || dayOfName().MatchString(word)
}

var dayOfName = expression.Of(`^20\d\d(?:0[1-9]|1[0-2])(?:0[1-9]|[12]\d|3[01])$`)

// trim takes such words from both ends of a label, as long as more remains of it.
func (n noise) trim(label string) (head, rest, tail string) {
	rest = label
	for {
		end := rangeBehind().FindString(rest)
		if !n.word(strings.TrimLeft(end, "-_ "), true) {
			end = noiseBehind().FindString(rest)
		}
		if end == "" || !n.word(strings.TrimLeft(end, "-_ "), true) || terms.SaysNothing(strings.TrimSuffix(rest, end)) {
			break
		}
		rest, tail = strings.TrimSuffix(rest, end), end+tail
	}
	for {
		begin := noiseBefore().FindString(rest)
		if begin == "" || copyOf().MatchString(rest) || !n.word(strings.TrimRight(begin, "-_ "), false) || terms.SaysNothing(rest[len(begin):]) {
			return head, rest, tail
		}
		head, rest = head+begin, rest[len(begin):]
	}
}

// mostNoise is how many different ones there may be in names that are made alike.
const mostNoise = 3

// withoutNoise takes such words from the labels that have them, but for those that all have: heads and tails are what is taken. It is nil
// for others, and where labels that differ in these alone would be the same; apart tells them apart.
func withoutNoise(labels, apart []string) (out, heads, tails []string) {
	plain := func(label string) bool {
		_, rest, _ := noise{periods: true}.trim(label)
		return rest == label
	}
	n := noise{periods: slices.ContainsFunc(labels, plain), single: len(labels) == 1}
	head, _, tail := n.trim(labels[0])
	for _, label := range labels[1:] {
		if !strings.HasPrefix(label, head) {
			head = ""
		}
		if !strings.HasSuffix(label, tail) {
			tail = ""
		}
	}
	if len(labels) == 1 {
		head, tail = "", ""
	}
	seen := map[string]string{} // labels by what tells them apart without
	for i, label := range labels {
		if len(head)+len(tail) > len(label) {
			return nil, nil, nil
		}
		own := label[len(head) : len(label)-len(tail)]
		before, rest, behind := n.trim(own)
		heads, tails = withEnd(heads, before), withEnd(tails, behind)
		id := key.Of(rest) + "\x00" + apart[i]
		if other, again := seen[id]; again && other != label || rest == "" || len(heads) > mostNoise || len(tails) > mostNoise {
			return nil, nil, nil
		}
		seen[id], out = label, append(out, head+rest+tail)
	}
	if len(heads)+len(tails) == 0 || head != "" && len(heads) > 0 || tail != "" && len(tails) > 0 {
		return nil, nil, nil
	}
	return out, heads, tails
}

func withEnd(list []string, end string) []string {
	if end == "" || slices.Contains(list, end) {
		return list
	}
	return append(list, end)
}

// amid puts the pieces of ends that some names have around others; nil where something else stands there in all of them.
func amid(heads []string, pieces []Piece, tails []string) (out []Piece) {
	if len(pieces) == 0 || len(heads) > 0 && (pieces[0].Before != "" || pieces[0].Absent) {
		return nil
	}
	for _, h := range heads {
		out = append(out, Piece{Before: h, Absent: true})
	}
	out = append(out, pieces...)
	for _, t := range tails {
		out = append(out, Piece{Before: t, Absent: true})
	}
	return out
}
