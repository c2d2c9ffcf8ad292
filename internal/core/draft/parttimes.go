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
		p := piece{from: whole.from, before: parts.sign, values: values, letters: parts.names[i] == "mon", folder: whole.folder}
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
