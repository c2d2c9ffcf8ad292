package filenames

import (
	"regexp"
	"slices"
	"strings"

	"umbau/internal/core/expression"
	"umbau/internal/core/terms"
)

// TimeParts are what times are made of: what their parts are called, the sign between these, and what each says, by part.
type TimeParts struct {
	Names  []string
	Sign   string
	Values [][]string
}

var timePart = expression.Of(`\pL+|\d+`)

// TimePartsOf are the parts of times that are all made in one way, of words and of figures with one sign between them; nothing for others.
func TimePartsOf(times []string) (out TimeParts) {
	for n, t := range times {
		parts := timePart().FindAllString(t, -1)
		if len(parts) < 2 || n > 0 && len(parts) != len(out.Names) {
			return TimeParts{}
		}
		sign := strings.TrimPrefix(t, parts[0])[:1]
		if n == 0 {
			out = TimeParts{Names: make([]string, len(parts)), Sign: sign, Values: make([][]string, len(parts))}
		}
		if strings.Join(parts, out.Sign) != t {
			return TimeParts{}
		}
		for i, part := range parts {
			name := partName(part)
			if n > 0 && name != out.Names[i] {
				return TimeParts{}
			}
			out.Names[i], out.Values[i] = name, append(out.Values[i], part)
		}
	}
	return out
}

// partName is what a part of a time is called.
func partName(part string) string {
	switch {
	case part[0] > '9':
		return "mon"
	case len(part) == 4:
		return "year"
	}
	return Figures
}

// Figures are called so where it does not show what they count.
const Figures = "part"

// timeForm is a way in which names have a month and a year; the groups of its expression are these two and the sign between them.
type timeForm struct {
	by          func() *regexp.Regexp
	month, year int
}

var timeForms = []timeForm{
	{expression.Of(`((?:19|20)\d\d)([-_. ]?)(0[1-9]|1[0-2])(?:$|[-_ ).])`), 3, 1},
	{expression.Of(`(?:^|[-_ (])(0[1-9]|1[0-2])([-_. ])((?:19|20)\d\d)`), 1, 3},
	{expression.Of(`(\pL+)([-_. ]?)((?:19|20)\d\d)`), 1, 3},
	{expression.Of(`((?:19|20)\d\d)([-_. ]?)(\pL+)`), 3, 1},
}

// within is a month and a year in a name, with what stands around them.
type within struct{ left, leftSign, month, sign, year, rightSign, right string }

// find finds the month and the year in a name.
func (f timeForm) find(name string) (w within, ok bool) {
	for at := 0; at < len(name); at++ {
		m := f.by().FindStringSubmatchIndex(name[at:])
		if m == nil {
			return w, false
		}
		text := func(group int) string { return name[at+m[2*group] : at+m[2*group+1]] }
		w = within{month: text(f.month), sign: text(2), year: text(f.year)}
		left, right := name[:at+m[2]], name[at+m[7]:]
		w.left, w.right = strings.TrimRight(left, "_- (."), strings.TrimLeft(right, "_- ).")
		w.leftSign, w.rightSign = left[len(w.left):], right[:len(right)-len(w.right)]
		apart := (w.left == "" || w.leftSign != "") && (w.right == "" || w.rightSign != "")
		day := w.right != "" && w.right[0] <= '9' && strings.Contains("-_. ", w.rightSign)
		if apart && !day && (terms.MonthNumbers([]string{w.month}) || terms.BareTimes([]string{w.month}) == terms.Month) {
			return w, true
		}
		at += m[2]
	}
	return w, false
}

// timeWithin are the pieces of names that have a month and a year in them, made alike, with a label on one side, perhaps, and words
// that are the same in all of them: report_2024-03_Lakes, Lakes Nov2023. Without odd it is for those alone that nothing else reads.
func timeWithin(names []string, odd bool) []Piece {
	for _, f := range timeForms {
		var all []within
		for _, name := range names {
			w, ok := f.find(name)
			if !ok || len(all) > 0 && (w.sign != all[0].sign || w.leftSign != all[0].leftSign || w.rightSign != all[0].rightSign) {
				break
			}
			all = append(all, w)
		}
		if len(all) < len(names) {
			continue
		}
		first := all[0]
		if !odd && (f.month == 3 || terms.MonthNumbers([]string{first.month}) || first.sign == " " || first.sign == "-") {
			continue
		}
		return f.pieces(all)
	}
	return nil
}

// Alone reports whether a name says a time, and nothing besides.
func Alone(name string) bool {
	c, _ := timeOf(name)
	return c != terms.None || TimeAlone(name)
}

// TimeAlone reports whether a name says a month and a year that nothing else reads, and nothing besides.
func TimeAlone(name string) bool {
	c, _ := timeOf(name)
	pieces := timeWithin([]string{name}, true)
	return c == terms.None && len(pieces) > 0 && !slices.ContainsFunc(pieces, func(p Piece) bool {
		return len(p.Values) > 0 && p.Time == terms.None && !p.Digits && !p.Letters
	})
}

// pieces are those of names.
func (f timeForm) pieces(all []within) []Piece {
	texts := func(of func(w within) string) (out []string) {
		for _, w := range all {
			out = append(out, of(w))
		}
		return out
	}
	left, right := texts(func(w within) string { return w.left }), texts(func(w within) string { return w.right })
	months := Piece{Values: texts(func(w within) string { return w.month })}
	months.Digits = terms.MonthNumbers(months.Values)
	months.Letters = !months.Digits
	time := []Piece{months, {Values: texts(func(w within) string { return w.year }), Time: terms.Year}}
	if f.year < f.month {
		slices.Reverse(time)
	}
	time[1].Before = all[0].sign
	if months.Digits && all[0].sign == "" { // 202403: nothing parts the two
		time = []Piece{{Values: texts(func(w within) string { return w.year + w.month }), Time: terms.Month, Digits: true}}
	}
	label := func(texts []string) bool { return uneven(texts) || !terms.SaysNothing(texts[0]) && texts[0] != "" }
	switch {
	case uneven(left) && uneven(right), !uneven(left) && !uneven(right) && label(left) && label(right):
		return nil
	case label(right) && (uneven(right) || !label(left)):
		time[0].Before = left[0] + all[0].leftSign
		pieces, after := labelPieces(right, true)
		if len(pieces) == 0 {
			return nil
		}
		pieces[0].Before = all[0].rightSign + pieces[0].Before
		return closed(append(time, pieces...), after)
	case label(left):
		pieces, after := labelPieces(left, true)
		if len(pieces) == 0 {
			return nil
		}
		time[0].Before = after + all[0].leftSign
		return closed(append(pieces, time...), all[0].rightSign+right[0])
	}
	time[0].Before = left[0] + all[0].leftSign
	return closed(time, all[0].rightSign+right[0])
}
