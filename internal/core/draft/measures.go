package draft

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/pattern"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// What wide headers name beside times and things: measures.

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

// claimMeasures claims the measures that a part of wide headers names. It returns what stands for that in the pattern, and which column
// the cells go to. Measures that are not wanted are left aside.
func (d *drafter) claimMeasures(e *entry, texts []string) (measure, cell string) {
	u := e.unpivot
	asked := d.askWhich(e)
	only := len(u.named) == 1 && len(asked) == 0 && (u.between != " | " && !key.Differ(texts) ||
		slices.ContainsFunc(texts, func(text string) bool { return u.named[key.Of(text)] == nil }))
	measure, cell = "{measure}", "{measure}"
	before, lasts := u.lastWords(texts)
	if before != "" {
		measure = before + "{measure:letters}"
	}
	for _, text := range texts {
		own, left := u.named[key.Of(text)], u.below(text)
		switch {
		case slices.Contains(asked, key.Of(text)):
		case own == nil && !slices.Contains(e.others, left):
			if e.others = append(e.others, left); terms.Of(text) == terms.None {
				u.unknown = append(u.unknown, text)
			}
			if len(d.Columns) == 0 { // nobody said that they are not wanted
				e.open = append(e.open, fmt.Sprintf("%s: the figures below %s are left aside, beside %s; umbau draft --columns says which are wanted",
					e.globs[0], text, joined(u.texts())))
			}
		case own != nil && only:
			own.claim(e, "", "wide cells below "+text)
			measure, cell = pattern.Escape(text), own.name
		case own != nil && before != "":
			own.claim(e, lasts[text], "wide cells below "+text)
		case own != nil:
			own.claim(e, text, "wide cells below "+text)
		}
	}
	return measure, cell
}

// texts are the names of measures that are of columns, as they stand in headers.
func (u *unpivot) texts() []string { return slices.Sorted(maps.Keys(u.named)) }

// lastWords takes measures of several words, which no pattern could tell from what they are of, by their last words: before is a pattern
// of what stands before these, "" where none has several, or one has the last word of another. lasts are the words by the texts.
func (u *unpivot) lastWords(texts []string) (before string, lasts map[string]string) {
	lasts = map[string]string{}
	known := map[string]string{}
	for _, text := range texts {
		if lasts[text] != "" || u.named[key.Of(text)] == nil || u.between == " | " {
			continue
		}
		i := strings.LastIndex(text, u.between) + len(u.between)
		if i < len(u.between) {
			i = 0
		}
		lead, last := text[:i], text[i:]
		other, taken := known[key.Of(last)]
		noLetter := func(r rune) bool { return !unicode.IsLetter(r) }
		if taken && u.named[key.Of(other)] != u.named[key.Of(text)] || strings.ContainsFunc(last, noLetter) {
			return "", nil
		}
		known[key.Of(last)], lasts[text] = text, last
		if option := "[" + pattern.Escape(lead) + "]"; i > 0 && !strings.Contains(before, option) {
			before += option
		}
	}
	return before, lasts
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
	last := false
	if !first {
		a, _, b, last = terms.MeasureLast(header)
	}
	if parts, _, ok := partsByMonth([]string{header}); !first && !last && ok {
		return parts[u.part][0]
	}
	return [2]string{a, b}[u.part]
}

// measuresOf are the names of a measure in the wide headers of a table.
func (u *unpivot) measuresOf(c *column, s *sheet) (out []string) {
	for _, i := range s.wide {
		if text := u.measureIn(s.Fields[i].Header); u.named[key.Of(text)] == c && !slices.Contains(out, text) {
			out = append(out, text)
		}
	}
	return out
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

// leaveFigures leaves figures aside, and texts that might be some, that stand beside wide ones and are of no column: a build would take
// them for wide.
func (e *entry) leaveFigures() {
	if e.unpivot == nil {
		return
	}
	for _, s := range e.sheets {
		for i := range s.Fields {
			if header := strings.TrimSpace(s.Fields[i].Header); s.isRemark(i) && !slices.Contains(e.others, header) {
				e.open = append(e.open, fmt.Sprintf("%s: nothing stands below %s: is it one of those across, or a remark (others: [%s])?",
					e.globs[0], header, layout.FlowHeader(header)))
			}
		}
		for _, i := range s.labels() {
			header := strings.TrimSpace(s.Fields[i].Header)
			_, taken := e.measures[key.Of(header)]
			label := unclear(&s.Fields[i]) && !strings.Contains(header, " | ")
			if taken || !s.numeric(i) && !label || header == "" || slices.Contains(e.others, header) || slices.Contains(e.against, header) {
				continue
			}
			if label {
				e.others = append(e.others, header)
				continue
			}
			t, _ := terms.TimeOf(header)
			unknown := t == terms.None && terms.Of(header) == terms.None && !besideTimes(header) && !s.saysCodes(i)
			if unknown && s.wideTime() != terms.None && fullTime().MatchString(header) { // a month that is misspelt is held
				e.open = append(e.open, fmt.Sprintf("%s: %s stands beside times, and is none: is it misspelt?", e.globs[0], header))
				continue
			}
			if slices.Contains(s.AcrossSums, s.Fields[i].Header) && e.unpivot.ties(header) {
				if !slices.Contains(e.totalWords, header) {
					e.totalWords = append(e.totalWords, header)
				}
				continue
			}
			if e.others = append(e.others, header); unknown && !slices.Contains(s.SumColumns, s.Fields[i].Header) {
				e.open = append(e.open, fmt.Sprintf("%s: the figures below %s are left aside: are they none of those across?", e.globs[0], header))
			}
		}
	}
}

// ties reports whether a build compares a column with what stands across, if its header is said to be that of a total: there is one
// measure, and the header is not read as one of what stands across.
func (u *unpivot) ties(header string) bool {
	if strings.Contains(u.cell, "{") {
		return false
	}
	thing := thingOf(header)
	alone := strings.HasPrefix(u.header, "{") && strings.Index(u.header, "}") == len(u.header)-1
	return alone || thing == header || value.IsTotalWord(key.Of(thing))
}

// whyTotals is why headers are taken for totals that no word calls so, behind what totals are; "" for none.
func (e *entry) whyTotals() string {
	sum := func(h string) bool {
		return slices.ContainsFunc(e.sheets, func(s *sheet) bool { return slices.Contains(s.AcrossSums, h) })
	}
	if !slices.ContainsFunc(e.totalWords, sum) {
		return ""
	}
	return ", the sum of what stands across in every row"
}

// whySums says which headers that are left aside are sums of others, in one text if there are some.
func (e *entry) whySums() []string {
	var sums []string
	for _, h := range e.others {
		if slices.ContainsFunc(e.sheets, func(s *sheet) bool { return slices.Contains(s.SumColumns, h) }) {
			sums = append(sums, h)
		}
	}
	if len(sums) == 0 {
		return nil
	}
	return []string{strings.Join(sums, ", ") + ": in every row the sum of columns beside it"}
}
