package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// What the rows of wide headers say, where there are several: measures, times, things and places.

// parts are what the wide headers of a table say in each of their rows: of one row, if they do not all have as many.
func (s *sheet) parts() (out [][]string) {
	for _, i := range s.wide {
		own := strings.Split(s.Fields[i].Header, " | ")
		if out == nil {
			out = make([][]string, len(own))
		}
		if len(own) != len(out) {
			return [][]string{s.upper()}
		}
		for k, part := range own {
			out[k] = append(out[k], part)
		}
	}
	return out
}

// upper is what the wide headers say in their upper row.
func (s *sheet) upper() (out []string) {
	for _, i := range s.wide {
		first, _, _ := strings.Cut(s.Fields[i].Header, " | ")
		out = append(out, first)
	}
	return out
}

// wideParts are the parts of all tables of an entry.
func (e *entry) wideParts() (out [][]string) {
	upper := [][]string{nil}
	for _, s := range e.sheets {
		own := s.parts()
		if out == nil {
			out = make([][]string, len(own))
		}
		for k := range min(len(out), len(own)) {
			out[k] = append(out[k], own[k]...)
		}
		if upper[0] = append(upper[0], s.upper()...); len(own) != len(out) {
			out = out[:min(1, len(out))]
		}
	}
	if len(out) < 2 {
		return upper
	}
	return out
}

// assignRows says what header rows are: years above the names of times, regions above their branches, and three rows of which one may
// name the measure. It leaves other rows, of which there are two, as they are.
func (d *drafter) assignRows(e *entry, parts [][]string) bool {
	says := rowsSay(parts)
	m := slices.IndexFunc(says, func(r rowSays) bool { return r.Class == terms.Amount })
	cols := d.columnsOfRows(e, parts, says)
	if cols == nil || m >= 0 && len(parts) == 2 {
		return false
	}
	cell, name := "", ""
	if m >= 0 {
		named := map[string]*column{}
		for _, text := range parts[m] {
			if c := d.columnFor(text); c != nil && c.class.OfMeasure() && !c.used[e] {
				named[key.Of(text)] = c
			}
		}
		if len(named) == 0 {
			return false
		}
		e.unpivot.named, e.unpivot.part, e.unpivot.between, e.unpivot.others = named, m, " | ", len(parts)-1
		name, cell = d.claimMeasures(e, parts[m])
	} else if c := d.cellColumn(e); c != nil {
		c.claim(e, "", "wide cells")
		cell = c.name
	} else {
		return false
	}
	var header []string
	for k, c := range cols {
		if k == m {
			header = append(header, name)
			continue
		}
		e.readTimes(parts[k])
		c.claim(e, "", "wide headers")
		if !c.class.OfTime() {
			c.learn(parts[k])
		}
		header = append(header, "{"+c.name+"}")
	}
	e.unpivot.header, e.unpivot.cell = strings.Join(header, " | "), cell
	return true
}

// rowSays is what a header row says: amount for names of measures, aside for units, a class of times, of which bare ones have no year,
// and noClass for things and places.
type rowSays struct {
	terms.Class
	bare bool
}

// rowsSay is what each of some header rows says.
func rowsSay(parts [][]string) (out []rowSays) {
	for _, texts := range parts {
		t, _ := terms.TimesOf(texts)
		switch {
		case all(texts, func(text string) bool { return terms.Of(text).OfMeasure() }):
			out = append(out, rowSays{Class: terms.Amount})
		case all(texts, value.IsUnit):
			out = append(out, rowSays{Class: terms.Aside})
		case t != terms.None:
			out = append(out, rowSays{Class: t})
		default:
			out = append(out, rowSays{Class: terms.BareTimes(texts), bare: terms.BareTimes(texts) != terms.None})
		}
	}
	return out
}

// columnsOfRows are the columns of header rows, but for that of measures; nil where one has none, or where two rows are for others
// to settle.
func (d *drafter) columnsOfRows(e *entry, parts [][]string, says []rowSays) []*column {
	cols := make([]*column, len(parts))
	left := []int{}
	years := slices.ContainsFunc(says, func(r rowSays) bool { return r.Class == terms.Year })
	names := slices.ContainsFunc(says, func(r rowSays) bool { return r.bare })
	measures := 0
	for k, r := range says {
		switch {
		case r.Class == terms.Aside || r.Class == terms.Amount && measures > 0:
			return nil
		case r.Class == terms.Amount:
			measures++
		case r.Class == terms.Year && names:
			cols[k] = d.bareYear
		case r.bare && years:
			cols[k] = d.bare
		case r.Class != terms.None && !r.bare && len(parts) > 2:
			cols[k] = d.wideColumn(e, parts[k])
		case slices.ContainsFunc(parts[k], terms.SaysKind): // no things, then
			return nil
		default:
			left = append(left, k)
		}
	}
	switch {
	case len(left) == 1 && len(parts) > 2 && key.Differ(parts[left[0]]):
		cols[left[0]] = d.wideColumn(e, parts[left[0]])
	case len(left) == 2 && nested(parts[left[0]], parts[left[1]]) && d.product(e) == nil:
		cols[left[0]], cols[left[1]] = d.of(terms.Region), d.of(terms.Branch)
	}
	for k, c := range cols {
		if says[k].Class != terms.Amount && (c == nil || c.used[e] || slices.Contains(cols[:k], c)) {
			return nil
		}
	}
	return cols
}

// product is the column of things, if nothing says them yet; nil for none.
func (d *drafter) product(e *entry) *column {
	if c := d.of(terms.Product); c != nil && !c.used[e] {
		return c
	}
	return nil
}

// nested reports whether each text stands below one other alone, and several below one, as branches do below regions.
func nested(above, below []string) bool {
	of := map[string]string{}
	uppers := map[string]bool{}
	for i, text := range below {
		upper, k := key.Of(above[i]), key.Of(text)
		if had, ok := of[k]; ok && had != upper {
			return false
		}
		of[k], uppers[upper] = upper, true
	}
	return len(uppers) > 1 && len(of) > len(uppers)
}
