package draft

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// assignWide says what wide headers and their cells are.
func (d *drafter) assignWide(e *entry) {
	s := e.sheets[0]
	if len(s.wide) == 0 || e.widen[0] != "" { // or what stands across is the cell of a row that says what it is
		return
	}
	e.unpivot = &unpivot{}
	parts := e.withoutUnits(e.wideParts())
	defer e.passUnits()
	two := len(parts) == 2
	switch {
	case len(parts) > 1 && d.assignRows(e, parts):
		return
	case two && (d.assignTwoRows(e, [2][]string(parts), " | ") || d.assignTwoThings(e, [2][]string(parts))):
		return
	case len(parts) > 2, two && eachOfEach([2][]string(parts)) && key.Differ(parts[0]) && key.Differ(parts[1]):
		e.open = append(e.open, e.globs[0]+": which part of the wide headers names a measure, and which a thing, does not show; "+
			"unpivot: { header: … } says it")
		e.unpivot = nil
		return
	}
	for _, last := range []bool{false, true} {
		if own, sign, ok := partsOf(parts[0], last); ok { // a measure's name in each: never a thing's
			d.assignTwoRows(e, own, sign)
			return
		}
	}
	if some := measuresAmong(parts[0]); some > 1 && some < len(parts[0]) && 3*some >= len(parts[0]) {
		e.open = append(e.open, e.globs[0]+": some of the wide headers name a measure, and some do not; unpivot: { header: … } says what "+
			"they are")
		e.unpivot = nil
		return
	}
	c := d.wideColumn(e, parts[0])
	cell := d.cellColumn(e)
	if c == nil || cell == nil || c == cell {
		t, _ := terms.TimesOf(parts[0])
		if t == terms.None && terms.BareTimes(parts[0]) == terms.None && !two { // no things, then, but figures of rows
			e.unpivot = nil
			for _, s := range e.sheets {
				s.wide = nil
			}
		}
		return
	}
	e.readTimes(parts[0])
	c.claim(e, "", "wide headers")
	cell.claim(e, "", "wide cells")
	c.learn(parts[0])
	e.unpivot.header, e.unpivot.cell = "{"+c.name+"}", cell.name
}

// measuresAmong is how many headers name a measure and something else.
func measuresAmong(headers []string) (n int) {
	for _, h := range headers {
		if thingOf(h) != h {
			n++
		}
	}
	return n
}

// partsOf parts headers that begin, or end, with names of measures. One that does not is parted where the thing begins that
// others are of: its measure is called by a word that is not known. The sign between both is the same in all.
func partsOf(headers []string, last bool) (parts [2][]string, sign string, ok bool) {
	part, thing := terms.MeasureFirst, 1
	if last {
		part, thing = terms.MeasureLast, 0
	}
	things := map[string]bool{}
	for _, h := range headers {
		if a, between, b, ok := part(h); ok {
			if things[key.Of([]string{a, b}[thing])] = true; sign != "" && between != sign {
				return parts, "", false
			}
			sign = between
		}
	}
	for _, h := range headers {
		a, _, b, ok := part(h)
		h = strings.Join(strings.Fields(h), " ")
		for i := 0; !ok && len(things) > 1 && i < len(h); i++ {
			if rest, cut := strings.CutPrefix(h[i:], sign); cut {
				a, b = strings.TrimSpace(h[:i]), strings.TrimSpace(rest)
				ok = a != "" && b != "" && things[key.Of([]string{a, b}[thing])]
			}
		}
		if !ok {
			return parts, "", false
		}
		parts[0], parts[1] = append(parts[0], a), append(parts[1], b)
	}
	return parts, sign, true
}

// readTimes notes how times in wide headers are written: months in several ways, if files differ in that.
func (e *entry) readTimes(texts []string) {
	t, form := terms.TimesOf(texts)
	if t == terms.None {
		return
	}
	if value.DaysOfMonths(texts) {
		e.mayBeDays(path.Base(e.sheets[0].file)+", headers", texts)
		return
	}
	forms := []string{form}
	if t == terms.Month {
		for _, text := range texts {
			_, own := terms.TimeOf(text)
			forms = append(forms, own)
		}
	}
	for _, form := range forms {
		e.addForm(form)
	}
}

// assignTwoRows says what the two parts of wide headers are: one names the measure, the other what
// it is of. Measures that are not wanted are left aside; two that may be one column are a question.
func (d *drafter) assignTwoRows(e *entry, parts [2][]string, between string) bool {
	for m := range 2 {
		named, all := map[string]*column{}, true
		for _, text := range parts[m] {
			if c := d.columnFor(text); c != nil && c.class.OfMeasure() {
				named[key.Of(text)] = c
			} else {
				all = false
			}
		}
		if len(named) == 0 {
			continue
		}
		if !all && !eachOfEach(parts) && slices.ContainsFunc(parts[m], func(text string) bool { return !terms.Of(text).OfMeasure() }) {
			e.open = append(e.open, e.globs[0]+": which part of the wide headers names a measure does not show; unpivot: { header: … } says it")
			e.unpivot = nil
			return true
		}
		c := d.wideColumn(e, parts[1-m])
		if c == nil {
			return false
		}
		e.unpivot.named, e.unpivot.part, e.unpivot.between, e.unpivot.others = named, m, between, 1
		measure, cell := d.claimMeasures(e, parts[m])
		e.readTimes(parts[1-m])
		c.claim(e, "", "wide headers")
		c.learn(parts[1-m])
		if between != " | " && m == 1 && measure == "{measure}" && slices.ContainsFunc(parts[0], func(text string) bool {
			return strings.Contains(text, between)
		}) { // else it would begin behind the first of these
			measure = "{measure:letters}"
		}
		e.unpivot.header, e.unpivot.cell = e.unpivot.joined(measure, "{"+c.name+"}"), cell
		return true
	}
	return false
}

// claimMeasures claims the measures that a part of wide headers names. It returns what stands for that in the pattern, and which column
// the cells go to. Measures that are not wanted are left aside.
func (d *drafter) claimMeasures(e *entry, texts []string) (measure, cell string) {
	u := e.unpivot
	asked := d.askWhich(e)
	only := len(u.named) == 1 && len(asked) == 0 && slices.ContainsFunc(texts, func(text string) bool { return u.named[key.Of(text)] == nil })
	measure, cell = "{measure}", "{measure}"
	for _, text := range texts {
		own, left := u.named[key.Of(text)], u.below(text)
		switch {
		case slices.Contains(asked, key.Of(text)):
		case own == nil && !slices.Contains(e.others, left):
			if e.others = append(e.others, left); terms.Of(text) == terms.None {
				u.unknown = append(u.unknown, text)
			}
		case own != nil && only:
			own.claim(e, "", "wide cells below "+text)
			measure, cell = escaped(text), own.name
		case own != nil:
			own.claim(e, text, "wide cells below "+text)
		}
	}
	return measure, cell
}

// assignTwoThings says what the two parts of wide headers are where none names a measure: a time and a thing or place, or a place and
// a thing, by what is known of them elsewhere. Where that does not show, it is a question.
func (d *drafter) assignTwoThings(e *entry, parts [2][]string) bool {
	cell := d.cellColumn(e)
	if cell == nil {
		return false
	}
	var of [2]*column
	for m := range 2 {
		if t, _ := terms.TimesOf(parts[m]); t != terms.None {
			of[m] = d.wideColumn(e, parts[m])
			of[1-m] = d.wideColumn(e, parts[1-m])
			break
		}
	}
	if of[0] == nil {
		place, thing := d.placeAcross(e), d.of(terms.Product)
		if place == nil || thing == nil || thing.used[e] {
			return false
		}
		of = [2]*column{place, thing}
		switch as, other := place.knows(parts[0])+thing.knows(parts[1]), place.knows(parts[1])+thing.knows(parts[0]); {
		case as >= 4*other && as > 0:
		case other >= 4*as && other > 0:
			of[0], of[1] = thing, place
		default:
			e.open = append(e.open, fmt.Sprintf("%s: which part of the wide headers is %s, and which %s, does not show; "+
				"unpivot: { header: … } says it", e.globs[0], place.name, thing.name))
			e.unpivot = nil
			return true
		}
	}
	if of[0] == nil || of[1] == nil || of[0] == of[1] {
		return false
	}
	for m, c := range of {
		e.readTimes(parts[m])
		c.claim(e, "", "wide headers")
		if !c.class.OfTime() {
			c.learn(parts[m])
		}
	}
	cell.claim(e, "", "wide cells")
	e.unpivot.header, e.unpivot.cell = "{"+of[0].name+"} | {"+of[1].name+"}", cell.name
	return true
}

// joined is a header of several parts.
func (u *unpivot) joined(measure string, others ...string) string {
	text := strings.Join(slices.Insert(others, u.part, measure), u.between)
	if strings.HasSuffix(u.between, "(") {
		text += ")"
	}
	return text
}

// below is a pattern of the headers that name a measure.
func (u *unpivot) below(measure string) string {
	return u.over(u.joined(measure, slices.Repeat([]string{"*"}, u.others)...))
}

// measureIn is the part of a wide header that names the measure.
func (u *unpivot) measureIn(header string) string {
	parts := strings.Split(header, " | ")
	if u.units > 0 && u.units <= len(parts) {
		parts = slices.Delete(parts, u.units-1, u.units)
	}
	switch {
	case u.between == " | " && u.part < len(parts):
		return parts[u.part]
	case u.between == " | ":
		return ""
	}
	header = strings.Join(parts, " | ")
	a, _, b, first := terms.MeasureFirst(header)
	if !first {
		a, _, b, _ = terms.MeasureLast(header)
	}
	return [2]string{a, b}[u.part]
}

// eachOfEach reports whether the parts of some headers go with each other in every way, as measures
// of things do.
func eachOfEach(parts [2][]string) bool {
	seen := [3]map[string]bool{{}, {}, {}}
	for i := range parts[0] {
		a, b := key.Of(parts[0][i]), key.Of(parts[1][i])
		seen[0][a], seen[1][b], seen[2][a+"\x00"+b] = true, true, true
	}
	return len(seen[0])*len(seen[1]) == len(seen[2])
}

// askWhich makes a question of measures that are one column in one table, unless one of them is called
// as the column is: the others are not wanted then. The keys of those asked for are returned.
func (d *drafter) askWhich(e *entry) (asked []string) {
	u := e.unpivot
	money := map[*column][]string{} // measures that are called by their currency, in all tables
	for _, s := range e.sheets {
		texts := map[*column][]string{}
		for _, i := range s.wide {
			text := key.Of(u.measureIn(s.Fields[i].Header))
			if c := u.named[text]; c != nil && !slices.Contains(texts[c], text) {
				texts[c] = append(texts[c], text)
				if value.IsCurrency(text) && !slices.Contains(money[c], text) {
					money[c] = append(money[c], text)
				}
			}
		}
		for c, list := range texts {
			own := key.Of(c.name)
			switch {
			case len(list) < 2 && (list[0] == own || !notSold(list[0])):
			case slices.Contains(list, own):
				for _, text := range list {
					if text != own {
						delete(u.named, text)
					}
				}
			default:
				c.tossUps[e] = list
				asked = append(asked, list...)
			}
		}
	}
	for c, list := range money {
		if len(list) > 1 && c.tossUps[e] == nil {
			c.tossUps[e] = list
			asked = append(asked, list...)
		}
	}
	return asked
}

// notAcross are classes that what stands across is not, where nothing says so.
var notAcross = []terms.Class{terms.Region, terms.Branch, terms.Price}

// wideColumn is the column that the texts of wide headers are values of.
func (d *drafter) wideColumn(e *entry, texts []string) *column {
	if c := d.bare; c != nil && !c.used[e] && terms.BareTimes(texts) != terms.None {
		return c
	}
	t, _ := terms.TimesOf(texts)
	var best *column
	for _, c := range d.columns {
		switch {
		case c.used[e]:
		case t != terms.None && c.class == t:
			return c
		case t == terms.None && c.class == terms.Product:
			if best == nil || best.class != terms.Product || !terms.SaysCode(key.Of(c.name)) {
				best = c
			}
		case t != terms.None || best != nil || slices.Contains(notAcross, c.class) || c.class.OfTime() || c.class.OfMeasure() || d.referred(c):
		default:
			best = c
		}
	}
	if best == nil && t != terms.None {
		for _, c := range d.columns {
			if !c.used[e] && c.class.OfTime() {
				return c
			}
		}
	}
	timed := slices.ContainsFunc(texts, func(text string) bool {
		own, _ := terms.TimeOf(text)
		return own != terms.None || terms.BareTimes([]string{text}) != terms.None
	})
	if best == nil && t == terms.None && !timed {
		return d.placeAcross(e)
	}
	return best
}

// placeAcross is the region or branch that stands across: one more of them is asked for than
// paths, sheets, titles and sections can say.
func (d *drafter) placeAcross(e *entry) *column {
	var unmet []*column
	for _, want := range []terms.Class{terms.Branch, terms.Region} {
		for _, c := range d.columns {
			if c.class == want && !c.used[e] {
				unmet = append(unmet, c)
			}
		}
	}
	said := e.labelPieces()
	if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.sections }) {
		said++
	}
	if len(unmet) > said {
		return unmet[0]
	}
	return nil
}

// labelPieces is how many labels the names of files and sheets and the titles say.
func (e *entry) labelPieces() (n int) {
	for _, p := range e.pieces {
		if p.Time == terms.None && len(p.Values) > 0 && !slices.ContainsFunc(p.Values, terms.SaysNothing) {
			n++
		}
	}
	return n
}

// cellColumn is the measure that wide cells are.
func (d *drafter) cellColumn(e *entry) *column {
	var found []*column
	for _, c := range d.columns {
		if list := c.tossUps[e]; list != nil && len(list) == 0 { // unlike
			return nil
		}
		if c.class.OfMeasure() && !c.used[e] {
			found = append(found, c)
		}
	}
	if len(found) == 0 { // by elimination: the last one that is asked for
		for _, c := range d.columns {
			if c.class == terms.None && !c.used[e] && len(c.values) == 0 {
				found = append(found, c)
			}
		}
		if len(found) > 0 {
			found[len(found)-1].class = terms.Amount
			return found[len(found)-1]
		}
		return nil
	}
	want := terms.Amount
	if e.sheets[0].figuresAre == terms.Quantity {
		want = terms.Quantity
	}
	for _, c := range found {
		if c.class == want {
			return c
		}
	}
	if want == terms.Quantity { // which is none of those that are asked for
		return nil
	}
	return found[0]
}

// cellOf is the column of the cells below a wide header.
func (d *drafter) cellOf(e *entry, header string) *column {
	if e.unpivot == nil {
		return nil
	}
	if u := e.unpivot; u.named != nil {
		return u.named[key.Of(u.measureIn(header))]
	}
	return d.columnFor(e.unpivot.cell)
}
