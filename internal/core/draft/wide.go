package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
)

// assignWide says what wide headers and their cells are.
func (d *drafter) assignWide(e *entry) {
	s := e.sheets[0]
	if len(s.wide) == 0 {
		return
	}
	e.unpivot = &unpivot{}
	var parts [2][]string
	two := true
	for _, s := range e.sheets {
		for _, i := range s.wide {
			a, b, ok := strings.Cut(s.Fields[i].Header, " | ")
			two = two && ok
			parts[0], parts[1] = append(parts[0], a), append(parts[1], b)
		}
	}
	if two && d.assignTwoRows(e, parts, " | ") {
		return
	}
	for _, part := range []func(string) (string, string, bool){measureFirst, measureLast} {
		var firsts, rests []string
		for _, h := range parts[0] {
			if first, rest, ok := part(h); ok {
				firsts, rests = append(firsts, first), append(rests, rest)
			}
		}
		if len(firsts) == len(parts[0]) { // a measure's name in each: never a thing's
			d.assignTwoRows(e, [2][]string{firsts, rests}, " ")
			return
		}
	}
	c := d.wideColumn(e, parts[0])
	cell := d.cellColumn(e)
	if c == nil || cell == nil {
		return
	}
	if t, form := timesOf(parts[0]); t != noClass && form != "" && !slices.Contains(e.dates, form) {
		e.dates = append(e.dates, form)
	}
	c.claim(e, "", "wide headers")
	cell.claim(e, "", "wide cells")
	c.learn(parts[0])
	e.unpivot.header, e.unpivot.cell = "{"+c.name+"}", cell.name
}

// assignTwoRows says what two header rows are: one names the measure, the other what it is of.
func (d *drafter) assignTwoRows(e *entry, parts [2][]string, between string) bool {
	for m := range 2 {
		named := map[string]*column{}
		for _, text := range parts[m] {
			c := d.columnFor(text)
			if c == nil || !c.class.ofMeasure() {
				named = nil
				break
			}
			named[key.Of(text)] = c
		}
		if named == nil {
			continue
		}
		c := d.wideColumn(e, parts[1-m])
		if c == nil {
			return false
		}
		for i, text := range parts[m] {
			named[key.Of(text)].claim(e, text, "wide cells below "+text)
			_ = i
		}
		c.claim(e, "", "wide headers")
		c.learn(parts[1-m])
		pieces := [2]string{"{measure}", "{" + c.name + "}"}
		if m == 1 {
			pieces[0], pieces[1] = pieces[1], pieces[0]
		}
		e.unpivot.header, e.unpivot.cell = pieces[0]+between+pieces[1], "{measure}"
		return true
	}
	return false
}

// wideColumn is the column that the texts of wide headers are values of.
func (d *drafter) wideColumn(e *entry, texts []string) *column {
	if c := d.of(monthName); c != nil && !c.used[e] && bareMonths(texts) {
		return c
	}
	t, _ := timesOf(texts)
	var best *column
	for _, c := range d.columns {
		switch {
		case c.used[e]:
		case t != noClass && c.class == t:
			return c
		case t == noClass && c.class == product:
			best = c
		case t == noClass && best == nil && !c.class.ofTime() && !c.class.ofMeasure() && c.class != region && c.class != branch:
			best = c
		}
	}
	if best == nil && t != noClass {
		for _, c := range d.columns {
			if !c.used[e] && c.class.ofTime() {
				return c
			}
		}
	}
	timed := slices.ContainsFunc(texts, func(text string) bool {
		own, _ := timeOf(text)
		return own != noClass || bareMonths([]string{text})
	})
	if best == nil && t == noClass && !timed {
		return d.placeAcross(e)
	}
	return best
}

// placeAcross is the region or branch that stands across: one more of them is asked for than
// paths, sheets, titles and sections can say.
func (d *drafter) placeAcross(e *entry) *column {
	var unmet []*column
	for _, want := range []class{branch, region} {
		for _, c := range d.columns {
			if c.class == want && !c.used[e] {
				unmet = append(unmet, c)
			}
		}
	}
	said := 0
	for _, p := range e.pieces {
		if p.time == noClass && len(p.values) > 0 && !slices.ContainsFunc(p.values, saysNothing) {
			said++
		}
	}
	if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.sections }) {
		said++
	}
	if len(unmet) > said {
		return unmet[0]
	}
	return nil
}

// cellColumn is the measure that wide cells are.
func (d *drafter) cellColumn(e *entry) *column {
	var found []*column
	for _, c := range d.columns {
		if c.class.ofMeasure() && !c.used[e] {
			found = append(found, c)
		}
	}
	if len(found) == 0 { // by elimination: the last one that is asked for
		for _, c := range d.columns {
			if c.class == noClass && !c.used[e] && len(c.values) == 0 {
				found = append(found, c)
			}
		}
		if len(found) > 0 {
			found[len(found)-1].class = amount
			return found[len(found)-1]
		}
		return nil
	}
	for _, c := range found {
		if c.class == amount {
			return c
		}
	}
	return found[0]
}

// cellOf is the column of the cells below a wide header.
func (d *drafter) cellOf(e *entry, header string) *column {
	if e.unpivot == nil {
		return nil
	}
	if e.unpivot.cell != "{measure}" {
		return d.columnFor(e.unpivot.cell)
	}
	a, b, two := strings.Cut(header, " | ")
	if !two {
		var first bool
		if a, b, first = measureFirst(header); !first {
			a, b, _ = measureLast(header)
		}
	}
	if strings.HasPrefix(e.unpivot.header, "{measure}") {
		return d.columnFor(a)
	}
	return d.columnFor(b)
}
