package terms

import (
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/key"
	"umbau/internal/core/value"
)

// BareTimes is what some texts are: month where all are names of months, quarter where all are those
// of quarters, both without a year.
func BareTimes(texts []string) Class {
	of := None
	for _, t := range texts {
		own := None
		t = strings.TrimSpace(t)
		if value.BareQuarter(t) > 0 {
			own = Quarter
		} else if d, ok := value.ReadDate(t + " 2024"); ok && d.Day == 0 && !strings.ContainsAny(t, "0123456789") {
			own = Month
		}
		if own == None || of != None && own != of {
			return None
		}
		of = own
	}
	return of
}

// OtherWord reports whether the name of a month is another word, too, which may stand above figures: Out, Set. Beside other months it is
// one.
func OtherWord(month string) bool { return otherWords[key.Of(month)] }

var otherWords = List("out set ago")

// MonthNumbers reports whether some texts are numbers of months.
func MonthNumbers(texts []string) bool {
	return len(texts) > 0 && !slices.ContainsFunc(texts, func(t string) bool {
		n, err := strconv.Atoi(t)
		return err != nil || n < 1 || n > 12 || len(t) > 2
	})
}

// MonthsAtM reports whether some texts are numbers of months behind the letter M: M01.
func MonthsAtM(texts []string) bool {
	return len(texts) > 0 && !slices.ContainsFunc(texts, func(t string) bool {
		number, ok := strings.CutPrefix(strings.TrimSpace(t), "M")
		return !ok || !MonthNumbers([]string{number})
	})
}

// period is a quarter, a half or a week; months are periods too.
var period = expression.Of(`(?i)^(?:q[ .]?[1-4]|hj?[ .]?[12]|(?:kw|cw|wk|w|week|woche|semaine|semana|sem)[ .]?\d{1,2})$`)

// IsPeriod reports whether a text is a month, a quarter, a half or a week, without a year or with one behind it: JAN24.
func IsPeriod(text string) bool {
	return period().MatchString(text) || BareTimes([]string{text}) != None ||
		yearBehind().MatchString(text) && BareTimes([]string{strings.TrimRight(text, "0123456789")}) == Month
}

// Weeks reports whether some texts are weeks: W01, KW 12, Week 5 2024, 2024-W05.
func Weeks(texts []string) bool {
	return len(texts) > 0 && !slices.ContainsFunc(texts, func(text string) bool {
		m := week().FindStringSubmatch(strings.TrimSpace(text))
		if m == nil {
			return true
		}
		n, _ := strconv.Atoi(m[1] + m[2])
		return n < 1 || n > 53
	})
}

var week = expression.Of(`(?i)^(?:(?:kw|cw|wk|w|week|woche|semaine|semana|settimana|sem)[ .-]?(\d{1,2})(?:[ /-]+(?:\d{2}|\d{4}))?|` +
	`\d{4}[ /-]?(?:kw|cw|wk|w)[ -]?(\d{1,2}))$`)

// mostPeriods is how many periods a year has at most: months, and those that close the books.
const mostPeriods = 16

// Periods reports whether some texts are periods of a year whose beginning nobody knows, P01, FY24 P3, FY24-Q1, FY24, or months of which
// nobody knows whether a day or a year stands before them, 24-Jan. They are dated where all have a year; else they are numbered from 1 on.
func Periods(texts []string) (dated, ok bool) {
	dated = true
	numbers, last := map[int]bool{}, 0
	for _, text := range texts {
		text = strings.TrimSpace(text)
		m, before := accounting().FindStringSubmatch(text), figuresBefore().FindStringSubmatch(text)
		if m == nil && (before == nil || BareTimes(before[1:]) != Month) {
			return false, false
		}
		if m == nil {
			continue
		}
		n, _ := strconv.Atoi(m[3])
		if numbers[n], last = true, max(last, n); n > mostPeriods {
			return false, false
		}
		dated = dated && m[1]+m[2]+m[4] != ""
	}
	return dated, len(texts) > 0 && (dated || len(numbers) == last)
}

var figuresBefore = expression.Of(`^\d\d[ ./_-]?(\pL+)\.?$`)

var accounting = expression.Of(`(?i)^(?:(fy|gj|wj)[ ']?(?:\d{4}|\d\d)|` +
	`(?:((?:fy|gj|wj)[ ']?(?:\d{4}|\d\d)|(?:19|20)\d\d)[ ./_-]*)?(?:(?:p|m|pd|per|period|periode|periodo)[ ._-]?(\d{1,3})|[qh][1-4])` +
	`(?:[ ./_-]*((?:fy|gj|wj)[ ']?(?:\d{4}|\d\d)|(?:19|20)\d\d))?)$`)

// SaysWeek reports whether a header is of weeks.
func SaysWeek(header string) bool { return weekWords.In(header) }

var weekWords = List("week weeks kw cw wk woche wochen kalenderwoche semaine semana settimana")

var yearBehind = expression.Of(`^\pL+(?:\d\d){1,2}$`)

// TimeOf is what a text is as a time: month, year, quarter or day; "" for none. form is the
// example of the way of writing that reads it, "" for one that needs none.
func TimeOf(text string) (c Class, form string) {
	text = strings.TrimSpace(text)
	if IsYear(text) {
		return Year, ""
	}
	if d, ok := value.ReadDate(text); ok {
		if d.Day == 0 {
			return Month, ""
		}
		return Day, ""
	}
	if value.IsQuarter(text) {
		return Quarter, ""
	}
	for _, f := range value.DateForms {
		if d, ok := f.Read(text); ok && !f.Brief() { // which may as well be a size
			if d.Day == 0 {
				return Month, f.Example
			}
			return Day, f.Example
		}
	}
	return None, ""
}

// SaysDayOfMonth reports whether a header may be that of days of months: a day, or its number.
func SaysDayOfMonth(header string) bool {
	return Of(header) == Day || daysOfMonths().MatchString(key.Of(header))
}

var daysOfMonths = expression.Of(`^(d|dd|dom|day (of|in) (the )?month|day no|monatstag|kalendertag|jour du mois|dia del mes)$`)

// SaysSince reports whether a line says since when something is, or whose prices figures are at, rather than of which year they are.
func SaysSince(line string) bool { return sinceWhen.In(line) }

var sinceWhen = List(`since est established founded copyright version edition prices price seit gegründet depuis fondée desde dal sinds`)

// IsMonth reports whether a text is a month, with its year or without.
func IsMonth(text string) bool {
	c, _ := TimeOf(text)
	return c == Month || BareTimes([]string{text}) == Month
}

// SaysTime reports whether a text is a time, or the name of a month or quarter without its year.
func SaysTime(text string) bool {
	c, _ := TimeOf(text)
	return c != None || BareTimes([]string{text}) != None
}

// IsQuarter reports whether a text is a quarter, with its year or without.
func IsQuarter(text string) bool {
	c, _ := TimeOf(text)
	return c == Quarter || BareTimes([]string{text}) == Quarter
}

// IsHalf reports whether a text is a half of a year, with its year or without.
func IsHalf(text string) bool { return half().MatchString(strings.TrimSpace(text)) }

var half = expression.Of(`(?i)^(?:hj?[ .]?[12]|[12]\. (?:hj|halbjahr)|half[ -]?(?:year )?[12])(?:[ /-]?(?:19|20)\d\d)?$`)

// IsYear reports whether a text is a year of figures alone.
func IsYear(text string) bool { return yearForm().MatchString(text) }

var yearForm = expression.Of(`^(19|20)\d\d$`)

// TimesOf is what all of some texts are as times, and the form that reads them.
func TimesOf(texts []string) (c Class, form string) {
	for _, t := range texts {
		own, f := TimeOf(t)
		if own == None || c != None && own != c {
			return None, ""
		}
		c = own
		if f != "" {
			form = f
		}
	}
	return c, form
}
