package draft

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// Figures that are worked out of others, count rows, or stand against others: ranks, shares, balances, returns.

// figures is how many columns of figures a table has, those of ranks and shares aside, beside others.
func (s *sheet) figures() (n int) {
	all := 0
	for i := range s.Fields {
		if s.numeric(i) && !s.yearLike(i) {
			all++
			if !s.derived(i) {
				n++
			}
		}
	}
	return cmp.Or(n, all)
}

// derived reports whether the figures of a column are ranks, shares or numbers of rows, by its header, which are worked out of others.
func (s *sheet) derived(i int) bool { return derived(s.Fields[i].Header) }

func derived(header string) bool {
	return terms.Of(header) != terms.Price && (terms.Counts(header) || terms.NotAdded(header))
}

// keepsApart reports whether such a column is left aside in which rows differ that widen would put together without it.
func (e *entry) keepsApart() bool { return e.widen[0] != "" && slices.ContainsFunc(e.others, derived) }

// leaveBalances takes figures that are not added up out of those across, where others stand there: Sales YTD, Closing balance, and a rank
// below what is carried to it from the left.
func (s *sheet) leaveBalances() {
	below := map[string]int{}
	lastPart := func(i int) string {
		parts := strings.Split(s.Fields[i].Header, " | ")
		return parts[len(parts)-1]
	}
	for _, i := range s.wide {
		below[lastPart(i)]++
	}
	notAdded := func(i int) bool {
		header, last := s.Fields[i].Header, lastPart(i)
		return terms.NotAdded(header) && terms.SaysFiguresOnly(header) || last != header && derived(last) && below[last] == 1
	}
	rest := slices.DeleteFunc(slices.Clone(s.wide), notAdded)
	if len(rest) > 1 {
		s.wide = rest
	}
}

// askReturns asks about figures of what came back that are left aside beside those of what was sold.
func (d *drafter) askReturns() {
	for _, e := range d.entries {
		for _, header := range e.others {
			s := e.sheets[0]
			i := slices.IndexFunc(s.Fields, func(f survey.Field) bool { return key.Same(f.Header, header) })
			if i >= 0 && s.numeric(i) && terms.Returns(header) && d.measures(e) {
				e.open = append(e.open, fmt.Sprintf("%s: the figures below %s are left aside: are they taken off those of %s already?", e.globs[0],
					strings.TrimSpace(header), joined(d.measuresIn(e))))
			}
		}
	}
}
