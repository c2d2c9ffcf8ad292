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

// askSigns asks about tables in which the figures of a measure are nearly all below zero, though no name says that they are of what came
// back, beside others in which they are not.
func (d *drafter) askSigns() {
	for _, c := range d.columns {
		if c.missing || !c.class.OfMeasure() {
			continue
		}
		below, above := map[*sheet]bool{}, 0
		for _, e := range d.entries {
			for _, s := range e.sheets {
				if n, of := d.countBelowZero(e, s, c); of > 3 && 10*n >= 9*of {
					below[s] = true
				} else if of > 0 {
					above++
				}
			}
		}
		for _, e := range d.entries {
			i := slices.IndexFunc(e.sheets, func(s *sheet) bool { return below[s] && !s.against() })
			if above > 0 && i >= 0 {
				e.await(fmt.Sprintf("%s: nearly all figures of %s are below zero, those of others are not: were they sold, and its ledger "+
					"writes so? Added up they count against each other, and a build stops", e.sheets[i].Place.Source(), c.name))
			}
		}
	}
}

// countBelowZero is how many figures of a measure are below zero in a table, and how many there are, as far as they are kept.
func (d *drafter) countBelowZero(e *entry, s *sheet, c *column) (n, of int) {
	for i := range s.Fields {
		f := &s.Fields[i]
		own := d.claimant(e, s, f.Header)
		if s.isWide(i) {
			own = d.cellOf(e, f.Header)
		}
		if own != c || !s.numeric(i) {
			continue
		}
		for _, v := range f.Values {
			if of++; minus(v) {
				n++
			}
		}
	}
	return n, of
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
