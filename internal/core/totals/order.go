package totals

import (
	"cmp"
	"slices"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// Label is a label that is to be put in order: numbers and years by value, dates by time,
// texts by the key and then as they stand; the empty one last.
type Label struct {
	text   string
	key    string // of a text
	number value.Decimal
	rank   int
}

// The ranks of labels.
const (
	numberRank = iota
	textRank
	emptyRank
	otherRank // of a group
)

// NewLabel makes a label of a kind ready for Compare.
func NewLabel(kind plan.Kind, text string) Label {
	l := Label{text: text, key: text, rank: textRank}
	switch {
	case text == "":
		l.rank = emptyRank
	case kind.Numeric() || kind == plan.Year:
		if d, _, ok := value.English.Number([]byte(text)); ok {
			l.number, l.rank, l.key = d, numberRank, ""
			break
		}
		l.key = key.Of(text)
	case !kind.Dated():
		l.key = key.Of(text)
	}
	return l
}

// Compare is negative where l stands before m.
func (l *Label) Compare(m *Label) int {
	if c := cmp.Compare(l.rank, m.rank); c != 0 {
		return c
	}
	if l.rank == numberRank {
		if c := l.number.Cmp(m.number); c != 0 {
			return c
		}
	}
	return cmp.Or(strings.Compare(l.key, m.key), strings.Compare(l.text, m.text))
}

// CompareLabels compares two labels of a kind.
func CompareLabels(kind plan.Kind, a, b string) int {
	if a == b {
		return 0
	}
	x, y := NewLabel(kind, a), NewLabel(kind, b)
	return x.Compare(&y)
}

// label is one of a column of the view: Other of a group stands behind the others.
func (r *run) label(ci int, text string) Label {
	l := NewLabel(r.kindOf(ci), text)
	if r.isOther(ci, text) {
		l.rank = otherRank
	}
	return l
}

// isOther reports whether a label is Other of a group, which stands last.
func (r *run) isOther(ci int, text string) bool {
	return text == finished.Other && r.view.Book(ci) != nil
}

// inOrder puts texts in the order of their labels.
func inOrder(texts []string, label func(string) Label) []string {
	labels := make([]Label, 0, len(texts))
	for _, t := range texts {
		labels = append(labels, label(t))
	}
	slices.SortFunc(labels, func(x, y Label) int { return x.Compare(&y) })
	for i := range labels {
		texts[i] = labels[i].text
	}
	return texts
}
