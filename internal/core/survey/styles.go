package survey

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

func usable(g *group) bool { return g.gap == value.Text || g.gap == value.Unclear }

func inStyle(i int) func(*group) bool { return func(g *group) bool { return g.styles&(1<<i) != 0 } }

// inForm tells dates that the default or a form reads; -1 is the default alone.
func inForm(i int) func(*group) bool {
	return func(g *group) bool { return g.forms&defaultDate != 0 || i >= 0 && g.forms&(1<<(i+1)) != 0 }
}

// chooseStyle finds how the numbers of the table are written: the style that
// reads most cells of columns of numbers, English if it reads as many. unsettled
// says that another one reads as many, as other numbers.
func (t *Table) chooseStyle() (style int, unsettled bool) {
	best := -1
	var reads [len(value.Styles)]int
	for i := range value.Styles {
		for _, c := range t.columns {
			if n := c.count(inStyle(i)); 2*n > c.count(usable) || c.mixed(n) {
				reads[i] += n
			}
		}
		if reads[i] > best {
			best, style = reads[i], i
		}
	}
	for i := range value.Styles[1:] {
		for _, c := range t.columns {
			if style == 0 && reads[i+1] == best && c.ambiguous[i+1] > 0 {
				unsettled = true
				t.traps = append(t.traps, Trap{What: "number readings", Place: t.placeOf(c.ambigRow[i+1], c), Count: c.ambiguous[i+1],
					Detail: fmt.Sprintf("written as %s or as %s, they are other numbers", value.English.Example, value.Styles[i+1].Example)})
			}
		}
		if unsettled {
			break
		}
	}
	if !unsettled && style != 0 {
		for i, s := range value.Styles {
			if i != style && reads[i] == best && s.Point != value.Styles[style].Point {
				unsettled = true
			}
		}
	}
	for i, s := range value.Styles {
		others := func(c *column) bool { return c.ambiguous[i] > 0 }
		same := s.Point == value.Styles[style].Point || style == 0 && !slices.ContainsFunc(t.columns, others)
		if i != style && reads[i] == best && same && !unsettled {
			t.Alike = append(t.Alike, s.Example)
		}
	}
	t.InStyle, t.InDefault = max(best, 0), reads[0]
	for i, s := range value.Styles {
		t.Shows = t.Shows || s.Point != value.Styles[style].Point && reads[i] < best
	}
	return style, unsettled
}

// otherwise is an example of the style that reads most of the numbers that a style does not, if it has another sign before the places
// and one of them has both signs, or they are more than slips (1,23), "" where there is none; and how many there are that it may read
// as a thousand times as large: 6.102 among 12.5 and 1.234,50.
func (c *column) otherwise(style int) (example string, doubtful int) {
	own, most := value.Styles[style].Point, 0
	for i, s := range value.Styles {
		n := c.count(func(g *group) bool { return usable(g) && !inStyle(style)(g) && inStyle(i)(g) })
		if s.Point != own && n > most {
			most, example = n, s.Example
		}
	}
	proven, doubtful := c.foreign, c.pointed
	if own == ',' {
		proven, doubtful = c.english, c.commaed
	}
	if proven == 0 && most < fewSlips {
		example = ""
	}
	return example, doubtful
}

// fewSlips is how many numbers are none.
const fewSlips = 3

// mixed reports whether a style that reads so many cells reads a third of those of a column at least, and other styles nearly all others:
// they are numbers, written in several ways.
func (c *column) mixed(reads int) bool {
	numbers := c.count(func(g *group) bool { return usable(g) && g.styles != 0 })
	return 3*reads >= numbers && 10*numbers >= 9*c.count(usable)
}

// chooseForm finds how the dates of the table are written, -1 where the default
// reads them all. Where two forms read as many, days before months or after,
// that is a trap.
func (t *Table) chooseForm() (form int, traps []Trap) {
	form = -1
	best := 0
	reads := make([]int, len(value.DateForms))
	for _, c := range t.columns {
		if all := c.count(usable); all > 0 {
			best += count2(c.count(inForm(-1)), all)
			for i := range value.DateForms {
				reads[i] += c.dateCount(i, all)
			}
		}
	}
	for i, n := range reads {
		if n > best {
			best, form = n, i
		}
	}
	if form < 0 {
		return form, nil
	}
	for i, n := range reads {
		if i == form || n != best {
			continue
		}
		for _, c := range t.columns {
			both, row := 0, 0
			for k := range c.groups {
				g := &c.groups[k]
				if g.sheet == table.TextCell && g.forms&(1<<(form+1)) != 0 && g.forms&(1<<(i+1)) != 0 {
					if both += g.cells; row == 0 || g.first[0].row < row {
						row = g.first[0].row
					}
				}
			}
			if both > 0 {
				traps = append(traps, Trap{What: "date readings", Place: t.placeOf(row, c), Count: both,
					Detail: fmt.Sprintf("written as %s or as %s, they are other days", value.DateForms[form].Example, value.DateForms[i].Example)})
			}
		}
		break
	}
	return form, traps
}

// daysTraps notes texts and headers across such as Nov-05, Nov-12 that may be days of months, where they would be read as months of years.
func (t *Table) daysTraps(form int) {
	const detail = "%s, %s: days of a month, or that month of several years?"
	var wide [2][]string
	var first *column
	for i, c := range t.columns {
		f := &t.Fields[i]
		if f.Wide {
			above, below, _ := strings.Cut(f.Header, " | ")
			if wide[0], wide[1] = append(wide[0], above), append(wide[1], below); first == nil {
				first = c
			}
		}
		if f.Is != "month" || c.more != nil {
			continue
		}
		if texts := c.values(t.style, form, mostDistinct); value.DaysOfMonths(texts) {
			row, _ := c.firstOf(usable)
			t.traps, t.Dates = append(t.traps, Trap{What: "date readings", Place: t.placeOf(row, c), Count: f.Filled,
				Detail: fmt.Sprintf(detail, texts[0], texts[1])}), ""
		}
	}
	for _, headers := range wide {
		if len(headers) > 1 && value.DaysOfMonths(headers) {
			t.traps = append(t.traps, Trap{What: "date readings", Place: t.placeOf(t.HeaderRow, first), Count: len(headers),
				Detail: fmt.Sprintf(detail, headers[0], headers[1])})
		}
	}
}

// dateCount is how many cells of a column are dates in a form, 0 where most are
// not, or are numbers that nothing calls dates.
func (c *column) dateCount(form, all int) int {
	n := c.count(inForm(form))
	if c.count(inStyle(0)) >= n && !c.ofDates {
		return 0
	}
	return count2(n, all)
}

// count2 is n if it is more than half of all, else 0.
func count2(n, all int) int {
	if 2*n > all {
		return n
	}
	return 0
}

// dateHeader reports whether a header is that of dates, by a word of it.
func dateHeader(header string) bool {
	for _, w := range strings.Fields(key.Of(header)) {
		if dateWords[w] || strings.HasSuffix(w, "datum") || strings.HasSuffix(w, "monat") {
			return true
		}
	}
	return false
}

// dateWords are what columns of dates are called, by the key.
var dateWords = func() map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(`date day month period yyyymm yyyymmdd datum tag monat periode zeitraum mois jour période mes día fecha
		período periodo mese giorno data maand dag mês dia`) {
		set[key.Of(w)] = true
	}
	return set
}()

// stamped reports whether all that stands in the column are days or months of figures alone, three different ones at least,
// and its header does not call them numbers.
func (c *column) stamped() bool {
	if some, _ := measureName(c.header); some && c.header != "" || c.more != nil || len(c.texts) < 3 {
		return false
	}
	for i := range c.groups {
		if g := &c.groups[i]; usable(g) && !value.IsStamp(g.first[0].text) {
			return false
		}
	}
	return !slices.ContainsFunc(c.texts, func(code uint32) bool { return !value.IsStamp(c.memo.Seen(code)) })
}
