package draft

import (
	"regexp"
	"slices"
	"strings"
)

// partTimes parts the times behind labels of several words into helpers of letters and of figures alone, which no words of a label are
// (Old Slip Nov-23, Old Slip 2023-11-15), and puts their column together again. It reports whether it could: all entries that have
// the column have to say it so.
func (d *drafter) partTimes(e *entry, from string) bool {
	at := slices.IndexFunc(e.pieces, func(p piece) bool { return p.from == from && (p.time == month || p.time == day) })
	if at < 0 {
		return false
	}
	c, parts := e.pieces[at].column, timePartsOf(e.pieces[at].values)
	if len(parts.names) < 2 || c != nil && c.made() {
		return false
	}
	pieces := map[*entry]int{e: at}
	for _, o := range d.entries {
		if c == nil || o == e || !c.used[o] {
			continue
		}
		at := slices.IndexFunc(o.pieces, func(p piece) bool { return p.column == c })
		if at < 0 || !slices.Equal(timePartsOf(o.pieces[at].values).names, parts.names) || timePartsOf(o.pieces[at].values).sign != parts.sign {
			return false
		}
		pieces[o] = at
	}
	var helpers []*column
	var write []string
	for i, name := range parts.names {
		switch {
		case name == figures && parts.names[0] == "mon":
			name = "yy"
		case name == figures && parts.names[0] == "year":
			name = []string{"", "mm", "dd"}[min(i, 2)]
		}
		h := d.helper(name, bareTime)
		helpers, write = append(helpers, h), append(write, "{"+h.name+"}")
	}
	if c != nil {
		c.write, c.parts = strings.Join(write, parts.sign), helpers
	}
	for _, o := range d.entries {
		if at, ok := pieces[o]; ok {
			o.partTime(at, helpers)
		}
	}
	return true
}

// partTime puts the parts of a time in the place of it.
func (e *entry) partTime(at int, helpers []*column) {
	whole := e.pieces[at]
	parts := timePartsOf(whole.values)
	e.pieces = slices.Delete(e.pieces, at, at+1)
	for i, values := range parts.values {
		p := piece{from: whole.from}
		p.before, p.values, p.folder = parts.sign, values, whole.folder
		p.letters = parts.names[i] == "mon"
		if p.digits = !p.letters; i == 0 {
			p.before = whole.before
		}
		p.give(e, helpers[i])
		e.pieces = slices.Insert(e.pieces, at+i, p)
	}
}

// timeParts are what times are made of: what their parts are called, the sign between these, and what each says, by part.
type timeParts struct {
	names  []string
	sign   string
	values [][]string
}

var timePart = regexp.MustCompile(`\pL+|\d+`)

// timePartsOf are the parts of times that are all made in one way, of words and of figures with one sign between them; nothing for others.
func timePartsOf(times []string) (out timeParts) {
	for n, t := range times {
		parts := timePart.FindAllString(t, -1)
		if len(parts) < 2 || n > 0 && len(parts) != len(out.names) {
			return timeParts{}
		}
		sign := strings.TrimPrefix(t, parts[0])[:1]
		if n == 0 {
			out = timeParts{names: make([]string, len(parts)), sign: sign, values: make([][]string, len(parts))}
		}
		if strings.Join(parts, out.sign) != t {
			return timeParts{}
		}
		for i, part := range parts {
			name := partName(part)
			if n > 0 && name != out.names[i] {
				return timeParts{}
			}
			out.names[i], out.values[i] = name, append(out.values[i], part)
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
	return figures
}

// figures are called so where it does not show what they count.
const figures = "part"

// timeForm is a way in which names have a month and a year; the groups of its expression are these two and the sign between them.
type timeForm struct {
	by          *regexp.Regexp
	month, year int
}

var timeForms = []timeForm{
	{regexp.MustCompile(`((?:19|20)\d\d)([-_. ]?)(0[1-9]|1[0-2])(?:$|[-_ ).])`), 3, 1},
	{regexp.MustCompile(`(?:^|[-_ (])(0[1-9]|1[0-2])([-_. ])((?:19|20)\d\d)`), 1, 3},
	{regexp.MustCompile(`(\pL+)([-_. ]?)((?:19|20)\d\d)`), 1, 3},
	{regexp.MustCompile(`((?:19|20)\d\d)([-_. ]?)(\pL+)`), 3, 1},
}

// within is a month and a year in a name, with what stands around them.
type within struct{ left, leftSign, month, sign, year, rightSign, right string }

// find finds the month and the year in a name.
func (f timeForm) find(name string) (w within, ok bool) {
	for at := 0; at < len(name); at++ {
		m := f.by.FindStringSubmatchIndex(name[at:])
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
		if apart && !day && (monthNumbers([]string{w.month}) || bareTimes([]string{w.month}) == month) {
			return w, true
		}
		at += m[2]
	}
	return w, false
}

// timeWithin are the pieces of names that have a month and a year in them, made alike, with a label on one side, perhaps, and words
// that are the same in all of them: report_2024-03_Lakes, Lakes Nov2023. Without odd it is for those alone that nothing else reads.
func timeWithin(names []string, odd bool) []namePiece {
	for _, f := range timeForms {
		var all []within
		for _, name := range names {
			w, ok := f.find(name)
			if !ok || len(all) > 0 && (w.sign != all[0].sign || w.leftSign != all[0].leftSign || w.rightSign != all[0].rightSign) {
				break
			}
			all = append(all, w)
		}
		if len(all) < len(names) || !odd && (f.month == 3 || monthNumbers([]string{all[0].month}) || all[0].sign == " " || all[0].sign == "-") {
			continue
		}
		return f.pieces(all)
	}
	return nil
}

// timeAlone reports whether a name says a month and a year that nothing else reads, and nothing besides.
func timeAlone(name string) bool {
	c, _ := timeOf(name)
	pieces := timeWithin([]string{name}, true)
	return c == noClass && len(pieces) > 0 && !slices.ContainsFunc(pieces, func(p namePiece) bool {
		return len(p.values) > 0 && p.time == noClass && !p.digits && !p.letters
	})
}

// uneven reports whether some texts are not all the same, to the letter.
func uneven(texts []string) bool {
	return slices.ContainsFunc(texts, func(t string) bool { return t != texts[0] })
}

// pieces are those of names.
func (f timeForm) pieces(all []within) []namePiece {
	texts := func(of func(w within) string) (out []string) {
		for _, w := range all {
			out = append(out, of(w))
		}
		return out
	}
	left, right := texts(func(w within) string { return w.left }), texts(func(w within) string { return w.right })
	months := namePiece{values: texts(func(w within) string { return w.month })}
	months.digits = monthNumbers(months.values)
	months.letters = !months.digits
	time := []namePiece{months, {values: texts(func(w within) string { return w.year }), time: year}}
	if f.year < f.month {
		slices.Reverse(time)
	}
	time[1].before = all[0].sign
	if months.digits && all[0].sign == "" { // 202403: nothing parts the two
		time = []namePiece{{values: texts(func(w within) string { return w.year + w.month }), time: month, digits: true}}
	}
	label := func(texts []string) bool { return uneven(texts) || !saysNothing(texts[0]) && texts[0] != "" }
	switch {
	case uneven(left) && uneven(right), !uneven(left) && !uneven(right) && label(left) && label(right):
		return nil
	case label(right) && (uneven(right) || !label(left)):
		time[0].before = left[0] + all[0].leftSign
		pieces, after := labelPieces(right, true)
		if len(pieces) == 0 {
			return nil
		}
		pieces[0].before = all[0].rightSign + pieces[0].before
		return closed(append(time, pieces...), after)
	case label(left):
		pieces, after := labelPieces(left, true)
		if len(pieces) == 0 {
			return nil
		}
		time[0].before = after + all[0].leftSign
		return closed(append(pieces, time...), all[0].rightSign+right[0])
	}
	time[0].before = left[0] + all[0].leftSign
	return closed(time, all[0].rightSign+right[0])
}
