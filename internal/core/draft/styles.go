package draft

import (
	"cmp"
	"fmt"
	"path"
	"slices"
	"strconv"

	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// findStyles finds how numbers and dates of the entry are written.
func (e *entry) findStyles() {
	for _, s := range e.sheets {
		if s.Numbers != "" && e.numbers == "" {
			e.numbers = s.Numbers
		}
		for i := range s.Fields {
			f := &s.Fields[i]
			if f.Is == "month" && value.DaysOfMonths(f.Values) {
				e.mayBeDays(path.Base(s.file)+", column "+f.Header+": texts", f.Values)
			}
		}
		if example := s.doubtful(); example != "" && len(e.also) == 0 {
			e.also = []string{example}
		}
		e.addForm(s.Dates)
	}
	if e.numbers == neither {
		e.open = append(e.open, path.Base(e.sheets[0].file)+
			": its numbers read in two ways, as other numbers; say in numbers how they are written")
	}
	if n := e.sheets[0].rows; n > 1 {
		e.header = fmt.Sprintf("%d rows", n)
	}
	e.settleDates()
}

// doubtful is an example of how some numbers of a column are written, or of some that stand across together, if others there may be
// written so, too, and a thousand times as large: 6.102; "" for none.
func (s *sheet) doubtful() string {
	wide, some := "", false
	for i := range s.Fields {
		f := &s.Fields[i]
		switch {
		case s.isWide(i):
			wide, some = cmp.Or(wide, f.Otherwise), some || f.Doubtful > 0
		case f.Otherwise != "" && f.Doubtful > 0:
			return f.Otherwise
		}
	}
	if some {
		return wide
	}
	return ""
}

// addForm adds a way in which dates are written, if there is none yet that is it. It reports whether it did.
func (e *entry) addForm(form string) bool {
	if form == "" || form == e.notDates || slices.Contains(e.dates, form) {
		return false
	}
	e.dates = append(e.dates, form)
	return true
}

// mayBeDays asks about texts that may be days of months, or months of years: no form reads them until somebody says so.
func (e *entry) mayBeDays(which string, texts []string) {
	_, e.notDates = terms.TimeOf(texts[0])
	e.dates = slices.DeleteFunc(e.dates, func(form string) bool { return form == e.notDates })
	e.open = append(e.open, fmt.Sprintf("%s such as %s may be days, or months of some years; dates: %q reads them as months",
		which, texts[0], e.notDates))
}

// addNumbers adds a way in which so many numbers are written that do not read otherwise, if these are many; few of them are
// held. It reports whether it did.
func (e *entry) addNumbers(example string, cells int) bool {
	read, rows := 0, 0
	for _, s := range e.sheets {
		read, rows = read+s.InStyle, rows+s.Rows
	}
	switch {
	case len(e.open) > 0, example == e.numbers, slices.Contains(e.also, example), len(e.also) > 0:
		return false
	case read == 0 && e.numbers == "":
		e.numbers = example
	case 10*cells < rows:
		return false
	default:
		e.also = append(e.also, example)
	}
	return true
}

// neither is a style that reads no number that is written in groups or with decimals: those of
// a toss-up are unclear in it, and the build stops.
const neither = "1 234"

// settleNumbers decides how numbers are written that can be read in two ways, or are the same in two, by other tables of
// the layout.
func (d *drafter) settleNumbers() {
	d.settleAlike()
	for _, s := range d.sheets {
		if s.as != "extract" || !s.Unsettled {
			continue
		}
		var found []string
		for _, o := range d.sheets {
			if o.as == "extract" && o.Shows && !o.Unsettled && o.layout() == s.layout() && !slices.Contains(found, o.Numbers) {
				found = append(found, o.Numbers)
			}
		}
		s.Numbers = neither
		if len(found) == 1 {
			s.Numbers = found[0]
		}
	}
}

// settleAlike writes the numbers of tables without groups as the other tables of the layout have theirs, so that all are of
// one entry, and next month's.
func (d *drafter) settleAlike() {
	firm := map[string][]string{} // by layout, the styles of tables whose numbers can be read in one alone
	for _, s := range d.sheets {
		if s.as == "extract" && !s.Unsettled && len(s.Alike) == 0 && !slices.Contains(firm[s.layout()], s.Numbers) {
			firm[s.layout()] = append(firm[s.layout()], s.Numbers)
		}
	}
	for _, s := range d.sheets {
		if styles := firm[s.layout()]; s.as == "extract" && len(styles) == 1 && slices.Contains(s.Alike, styles[0]) {
			s.Numbers = styles[0]
		}
	}
}

// numbersNote is the evidence for the way numbers of the entry are written.
func (e *entry) numbersNote() string {
	read, byDefault := 0, 0
	for _, s := range e.sheets {
		if s.Numbers == e.numbers {
			read += s.InStyle
			byDefault += s.InDefault
		}
	}
	if e.numbers == neither {
		return "reads none of them"
	}
	return fmt.Sprintf("%s reads %s, %s only %s", e.numbers, counted(read, "cell"), value.English.Example,
		value.Grouped(strconv.Itoa(byDefault)))
}

// settleDates chooses between the day and the month first, where every date can be read both
// ways: those that are all the first of a month, or all its last, are.
func (e *entry) settleDates() {
	for _, s := range e.sheets {
		for i := range s.Fields {
			f := &s.Fields[i]
			if len(f.Values) < 2 {
				continue
			}
			for _, pair := range [][2]string{{"31/12/2024", "12/31/2024"}, {"31.12.2024", "12.31.2024"}, {"31-12-2024", "12-31-2024"}} {
				a, b := sameDay(f.Values, pair[0]), sameDay(f.Values, pair[1])
				if a != b && readsAll(f.Values, pair[0]) && readsAll(f.Values, pair[1]) {
					form := pair[0]
					if b {
						form = pair[1]
					}
					e.addForm(form)
				}
			}
		}
	}
}

// readsAll reports whether a form reads all of some texts.
func readsAll(texts []string, example string) bool {
	form, ok := value.DateFormOf(example)
	for _, t := range texts {
		if _, reads := form.Read(t); !reads {
			ok = false
		}
	}
	return ok
}

// sameDay reports whether dates of a form are all first days of months, and of several.
func sameDay(texts []string, example string) bool {
	form, _ := value.DateFormOf(example)
	months := map[int]bool{}
	for _, t := range texts {
		d, ok := form.Read(t)
		if !ok || d.Day != 1 {
			return false
		}
		months[12*d.Year+d.Month] = true
	}
	return len(months) > 1
}
