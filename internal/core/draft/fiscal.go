package draft

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Months without a year that go over the turn of one, while their table has one year for all of them: that of a fiscal year. Nobody
// knows which of the two years it is, nor of which months.

// twoYears are two years in a name or a title, between which a range lies: 2023-2024, Apr 2023 to Mar 2024.
var twoYears = regexp.MustCompile(`((?:19|20)\d\d) ?(?:[-–/_]|to|bis|until)(?: ?\pL+)? ?((?:19|20)\d\d)`)

// askFiscal asks about such tables.
func (d *drafter) askFiscal() {
	c := d.of(terms.Month)
	if d.bare == nil || c == nil {
		return
	}
	for _, e := range d.entries {
		header, ok := e.bareTime(c)
		if !ok || !d.bare.used[e] {
			continue
		}
		for _, s := range e.sheets {
			months, texts := s.bareMonths(header)
			if s.saysYears() || len(months) == 0 {
				continue
			}
			later := overTheTurn(months)
			why := ""
			switch years := s.rangeOfYears(); {
			case len(later) > 0:
				why = fmt.Sprintf("go from %s to %s", texts[0], texts[len(texts)-1])
			case years != "":
				why = fmt.Sprintf("have no year, and it says %s", years)
				later = months[:1]
			default:
				continue
			}
			var list []string
			for i, m := range months {
				if slices.Contains(later, m) {
					list = append(list, fmt.Sprintf("%s = '%s'", d.bare.name, texts[i]))
				}
			}
			e.await(fmt.Sprintf("%s: the months of %s %s, and one year would be that of all, so that a build stops; began: { is: year, formula: "+
				"\"if(%s, %s, %s - 1)\", keep: no } in the place of %s in write says that some are of the year before", e.globs[0],
				s.Place.Source(), why, strings.Join(list, " or "), d.bareYear.name, d.bareYear.name, d.bareYear.name))
			break
		}
	}
}

// bareMonths are the months without a year in a table, in their order, below a header or across.
func (s *sheet) bareMonths(header string) (months []int, texts []string) {
	texts = s.wideTimes()
	if f := s.field(header); header != "" && f != nil {
		texts = f.Values
	}
	for _, t := range texts {
		n, err := strconv.Atoi(strings.TrimSpace(t))
		if d, ok := value.ReadDate(strings.TrimSpace(t) + " 2024"); err != nil && ok {
			n = d.Month
		}
		months = append(months, n)
	}
	return months, texts
}

// saysYears reports whether a column has the years of rows.
func (s *sheet) saysYears() bool {
	return slices.ContainsFunc(s.labels(), func(i int) bool {
		f := &s.Fields[i]
		return terms.Of(f.Header) == terms.Year && f.Distinct > 1
	})
}

// rangeOfYears is what the names and titles of a table say of two years, the second one behind the first.
func (s *sheet) rangeOfYears() string {
	for _, text := range append(s.allNames(), s.titleLines()...) {
		if m := twoYears.FindStringSubmatch(text); m != nil {
			one, _ := strconv.Atoi(m[1])
			if two, _ := strconv.Atoi(m[2]); two == one+1 {
				return m[0]
			}
		}
	}
	return ""
}

// overTheTurn returns the months of the later year, if months follow each other, forth or back, over the turn of one; none for others.
func overTheTurn(months []int) []int {
	for _, step := range []int{1, 11} {
		turn := 0
		for i := 1; i < len(months); i++ {
			if (months[i]-months[i-1]+12)%12 != step || i > 11 {
				turn = -len(months)
			} else if step == 1 && months[i] == 1 || step == 11 && months[i] == 12 {
				turn += i
			}
		}
		switch {
		case turn > 0 && step == 1:
			return months[turn:]
		case turn > 0:
			return months[:turn]
		}
	}
	return nil
}
