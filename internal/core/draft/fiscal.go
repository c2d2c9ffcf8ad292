package draft

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// Months without a year that go over the turn of one, while their table has one year for all of them: that of a fiscal year. Nobody
// knows which of the two years it is, nor of which months.

// twoYears are two years in a name or a title, between which a range lies: 2023-2024, Apr 2023 to Mar 2024.
var twoYears = expression.Of(`((?:19|20)\d\d) ?(?:[-–/_]|to|bis|until)(?: ?\pL+)? ?((?:19|20)\d\d)`)

// fiscal are words for a year that is not that of the calendar, mostly.
var fiscal = terms.List("fy fiscal financial ye gj wj geschäftsjahr wirtschaftsjahr exercice ejercicio esercizio boekjaar")

func saysFiscal(text string) bool {
	return slices.ContainsFunc(strings.Fields(key.Of(text)), func(w string) bool { return fiscal[strings.Trim(w, "0123456789")] })
}

// fiscalOnly is why months may be of other years than they seem, where names say no more of it.
const fiscalOnly = "have no year but a fiscal one"

// askFiscal asks about such tables.
func (d *drafter) askFiscal() {
	c := d.of(terms.Month)
	if d.bare == nil || c == nil {
		return
	}
	for _, e := range d.entries {
		header, below := e.bareTime(c)
		if !d.bare.used[e] {
			continue
		}
		for _, s := range e.sheets {
			months, texts := s.bareMonths(header)
			if !below {
				months, texts = nil, nil
			}
			why, later := s.fiscal(header, months, texts)
			if why == fiscalOnly && s.numbersMonths(header) {
				e.await(fmt.Sprintf("%s: the months of %s are numbers in a fiscal year, whose first may be any, so that a build stops; if 1 is April, "+
					"write: \"{began}-{m}\", with %s: { is: whole, keep: no }, m: { is: whole, formula: \"if(%[3]s <= 9, %[3]s + 3, %[3]s - 9)\", "+
					"keep: no } and began: { is: year, formula: \"if(%[3]s <= 9, %[4]s - 1, %[4]s)\", keep: no }, says the months of the calendar",
					e.globs[0], s.Place.Source(), d.bare.name, d.bareYear.name))
				break
			}
			if why != "" {
				write := strings.ReplaceAll(c.write, "{"+d.bareYear.name+"}", "{began}")
				e.await(fmt.Sprintf("%s: the months of %s %s, and one year would be that of all, so that a build stops; write: %q, with "+
					"began: { is: year, formula: \"if(%s, %s, %s - 1)\", keep: no }, says which are of the year before", e.globs[0],
					s.Place.Source(), why, write, d.anyOf(later), d.bareYear.name, d.bareYear.name))
				break
			}
		}
	}
}

// anyOf is a condition that is true for these months.
func (d *drafter) anyOf(months []string) string {
	if len(months) == 0 {
		return d.bare.name + " = …"
	}
	var list []string
	for _, m := range months {
		list = append(list, d.bare.name+" = '"+m+"'")
	}
	return strings.Join(list, " or ")
}

// fiscal tells why the months of a table may not be all of the year that it says, "" where they are, and which are of the later year.
func (s *sheet) fiscal(header string, months []int, texts []string) (why string, later []string) {
	of := func(own []int) (out []string) {
		for i, m := range months {
			if slices.Contains(own, m) {
				out = append(out, texts[i])
			}
		}
		return out
	}
	if header == "" && len(s.yearsOfHeaders()) > 1 {
		return "", nil
	}
	said := append(s.allNames(), s.titleLines()...)
	for _, f := range s.Fields {
		if f.Is == "whole" {
			said = append(said, f.Header)
		}
	}
	over := overTheTurn(months)
	switch years := s.rangeOfYears(); {
	case len(over) > 0 && (header == "" || s.turnsInRows(header, over)):
		return fmt.Sprintf("go from %s to %s", texts[0], texts[len(texts)-1]), of(over)
	case years != "" && !s.saysYears():
		return fmt.Sprintf("have no year, and it says %s", years), of(months[:min(1, len(months))])
	case slices.ContainsFunc(said, saysFiscal) && (len(months) == 0 || months[0] != 1 || s.numbersMonths(header)):
		return fiscalOnly, nil
	}
	return "", nil
}

// numbersMonths reports whether months are numbers, below a header or across: the first one of a fiscal year may be any.
func (s *sheet) numbersMonths(header string) bool {
	if f := s.field(header); header != "" && f != nil {
		return terms.MonthNumbers(f.Values)
	}
	return s.spelt != nil && s.spelt.Numbered
}

// yearsOfHeaders are the years that headers across say.
func (s *sheet) yearsOfHeaders() map[string]bool {
	out := map[string]bool{}
	for _, i := range s.wide {
		for _, w := range strings.Fields(s.Fields[i].Header) {
			if terms.IsYear(w) {
				out[w] = true
			}
		}
	}
	return out
}

// turnsInRows reports whether rows with the same labels, but for the month, have the later months behind the others, as far as rows were
// kept: the first branch of a table may have begun in April.
func (s *sheet) turnsInRows(header string, later []int) bool {
	month := slices.IndexFunc(s.Fields, func(f survey.Field) bool { return strings.TrimSpace(f.Header) == header })
	behind, before := 0, 0
	last := map[string]bool{} // by the other labels: the last row was of the later year
	for _, row := range s.Sample {
		if month >= len(row) {
			continue
		}
		var labels []string
		for _, i := range s.labels() {
			if i != month && i < len(row) && (!s.numeric(i) || s.yearLike(i)) {
				labels = append(labels, key.Of(row[i]))
			}
		}
		k, own := strings.Join(labels, "\x00"), slices.Contains(later, monthOf(row[month]))
		switch was, known := last[k]; {
		case known && own && !was:
			behind++
		case known && !own && was:
			before++
		}
		last[k] = own
	}
	return before == 0 && (behind > 0 || !s.saysYears())
}

// bareMonths are the months without a year in a table, each text once, in their order, below a header or across: there they come again
// for each measure or place.
func (s *sheet) bareMonths(header string) (months []int, texts []string) {
	all := s.wideTimes()
	if f := s.field(header); header != "" && f != nil {
		all = f.Values
	}
	for _, t := range all {
		if !slices.Contains(texts, t) {
			months, texts = append(months, monthOf(t)), append(texts, t)
		}
	}
	return months, texts
}

// monthOf is the number of a month by its name or number, 0 for others.
func monthOf(text string) int {
	text = strings.TrimSpace(text)
	if n, err := strconv.Atoi(text); err == nil {
		return n
	}
	d, _ := value.ReadDate(text + " 2024")
	return d.Month
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
		if m := twoYears().FindStringSubmatch(text); m != nil {
			one, _ := strconv.Atoi(m[1])
			if two, _ := strconv.Atoi(m[2]); two == one+1 {
				return m[0]
			}
		}
	}
	return ""
}

// overTheTurn returns the months of the later year, if months follow each other, forth or back, over the turn of one; none for others.
// One that is written in two ways counts once.
func overTheTurn(all []int) []int {
	var months []int
	for _, m := range all {
		if !slices.Contains(months, m) {
			months = append(months, m)
		}
	}
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
