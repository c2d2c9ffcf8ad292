package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// Sources that no header names: paths, sheets, titles, section rows, and what fields hold.

// assignPieces finds the columns of what varies in paths, sheets and titles.
func (d *drafter) assignPieces(e *entry) {
	for i := range e.pieces {
		p := &e.pieces[i]
		if p.column != nil || len(p.Values) == 0 {
			continue
		}
		for _, c := range d.columns {
			if c.used[e] || !p.couldBe(c) {
				continue
			}
			if p.Time == terms.None && 2*c.knows(p.Values) < len(p.Values) && !p.saysSo(c) {
				continue
			}
			p.give(e, c)
			break
		}
	}
}

// couldBe reports whether a piece may be of a column: times of one of times, and texts of one of
// texts.
func (p *piece) couldBe(c *column) bool {
	if p.Time != terms.None {
		return c.class == p.Time && (!p.Span || p.Time == terms.Month) || p.Time == terms.Month && c.class == terms.Day && !p.Span
	}
	return !c.class.OfTime() && !c.class.OfMeasure()
}

// saysSo reports whether the words before a piece name the column.
func (p *piece) saysSo(c *column) bool { return p.from == "titles" && terms.Of(p.Before) == c.class }

// saysOther reports whether the words before a piece name another place or thing than the column: an area is no branch.
func (p *piece) saysOther(c *column) bool {
	said := terms.Of(p.Before)
	return p.from == "titles" && said != c.class && slices.Contains(things, said) && slices.Contains(things, c.class)
}

func (p *piece) give(e *entry, c *column) {
	p.column = c
	c.claim(e, "", p.from)
	if p.Time == terms.None {
		c.learn(p.Values)
	}
}

// assignRest finds, by elimination, the source of columns that have none yet. What a file says is of more than
// what rows within it say.
func (d *drafter) assignRest(e *entry) {
	for _, c := range d.columns {
		if c.settled(e) || c.class.OfTime() || c.class.OfMeasure() {
			continue
		}
		if f, _ := e.byValue(e.sheets[0], c); f != nil && c.knows(f.Values) == len(f.Values) {
			d.assignByValue(e, c)
		}
	}
	d.assignNested(e)
	for _, from := range []string{"titles", "sections", "path", "sheet", headlines} {
		if from == "sheet" && len(d.lacking(e)) > 0 {
			e.partSheet()
		}
		if from == "sections" && slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.sections }) {
			d.assignSections(e)
		}
		if from == "sections" {
			d.takeRules(e)
		}
		for _, p := range e.openPieces(from) {
			list := slices.DeleteFunc(d.lacking(e), p.saysOther)
			if len(list) == 1 && from == "path" && !p.varies() && e.sheetSays(p, list[0]) {
				continue
			} else if len(list) > 0 {
				if p.varies() || !d.tossUp(e, list[0], p.Values[0]) {
					p.give(e, list[0])
				}
			} else if c := d.of(terms.Product); c != nil && !c.used[e] && p.varies() {
				p.give(e, c)
			}
		}
	}
	d.assignByValues(e)
}

// assignSections finds the column of section rows.
func (d *drafter) assignSections(e *entry) {
	c := d.sectionColumn(e)
	if c == nil {
		if !e.sheets[0].blocked {
			d.leaveSections(e)
		}
		return
	}
	e.sections = c.name
	c.claim(e, "", "rows with a label alone")
	if e.sheets[0].blocked {
		d.headBlocks(e, c)
	}
	for _, s := range e.sheets {
		c.learn(s.sectionLabels())
	}
}

// isFrom reports where a piece is from; headlines are no titles.
func (p *piece) isFrom(from string) bool {
	if p.bare {
		return from == headlines
	}
	return p.from == from
}

// assignNested finds the region and the branch in two labels, wherever these stand, of which each of one kind is in one of the other.
func (d *drafter) assignNested(e *entry) {
	var open []*piece
	for _, from := range []string{"titles", "path", "sheet", headlines} {
		open = append(open, e.openPieces(from)...)
	}
	list := d.lacking(e)
	if len(open) != 2 || len(list) != 2 || list[0].class != terms.Region || list[1].class != terms.Branch ||
		slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.sections }) {
		return
	}
	if nested(open[1].Values, open[0].Values) {
		slices.Reverse(open)
	}
	if nested(open[0].Values, open[1].Values) {
		open[0].give(e, list[0])
		open[1].give(e, list[1])
	}
}

// sheetSays reports whether the sheets say a column rather than a piece of the path that is the same for all: one file
// has all of them, or its folder may have any name.
func (e *entry) sheetSays(p *piece, c *column) bool {
	open := e.openPieces("sheet")
	if slices.ContainsFunc(open, (*piece).varies) {
		return true
	}
	if len(open) > 0 && p.Folder {
		e.open = append(e.open, fmt.Sprintf("%s: %s is %s as the sheet says, not %s as the folder", e.globs[0], c.name, open[0].Values[0],
			p.Values[0]))
		return true
	}
	return false
}

// headlines are titles that do not say what they are of.
const headlines = "headlines"

// openPieces are the labels in paths, sheets, titles or headlines that are of no column yet.
func (e *entry) openPieces(from string) (out []*piece) {
	for i := range e.pieces {
		if p := &e.pieces[i]; p.column == nil && !p.Aside && p.isFrom(from) && len(p.Values) > 0 && p.Time == terms.None &&
			!slices.ContainsFunc(p.Values, terms.SaysNothing) && !slices.ContainsFunc(p.Values, terms.IsPeriod) && !p.Digits {
			out = append(out, p)
		}
	}
	return out
}

func (p *piece) varies() bool {
	return len(slices.Compact(slices.Sorted(slices.Values(p.Values)))) > 1
}

// lacking are the columns of texts without a source in an entry: regions before branches.
func (d *drafter) lacking(e *entry) (out []*column) {
	places := d.of(terms.Region) != nil // a column for regions is asked for
	for _, want := range []terms.Class{terms.Region, terms.Branch, terms.None} {
		for _, c := range d.columns {
			if c.class == want && !c.settled(e) && (want != terms.None || !places) {
				out = append(out, c)
			}
		}
	}
	return out
}

// assignByValues finds the source of columns among fields that no header names: those whose
// values others have, and measures, if only one is left.
func (d *drafter) assignByValues(e *entry) {
	for _, years := range []bool{false, true} { // another time says the year, too
		for _, c := range d.columns {
			if c.settled(e) || (c.class == terms.Year) != years || years && d.timeIn(e) != nil {
				continue
			}
			d.assignByValue(e, c)
		}
	}
}

// settled reports whether a column has a source in an entry, or a question about it.
func (c *column) settled(e *entry) bool { return c.used[e] || c.lookup != nil || c.tossUps[e] != nil }

func (d *drafter) assignByValue(e *entry, c *column) {
	best, likely := e.byValue(e.sheets[0], c)
	if len(likely) > 1 {
		c.tossUps[e] = likely
	}
	if len(likely) != 1 {
		return
	}
	if c.class.OfTime() && e.contradicted(best.Header) {
		c.tossUps[e] = likely
		return
	}
	if which := d.measureOf(e, best); c.class.OfMeasure() && which != c {
		if which == nil {
			c.tossUps[e] = likely
		}
		return
	}
	claim := func(f *survey.Field) {
		c.claim(e, f.Header, "column "+f.Header+", by what it holds")
		e.take(f.Header, c)
		if !c.class.OfTime() && !c.class.OfMeasure() {
			c.learn(f.Values)
		}
	}
	claim(best)
	for _, s := range e.sheets[1:] { // they may call it otherwise
		called := func(f survey.Field) bool { return key.Of(f.Header) == key.Of(best.Header) }
		if own, likely := e.byValue(s, c); own != nil && len(likely) == 1 && !slices.ContainsFunc(s.Fields, called) {
			claim(own)
		}
	}
}

// measureOf is the measure that a field of figures is, which no header names: the only one that an entry lacks, or the only amount if
// it has decimals, which a quantity seldom has; nil where that does not settle it.
func (d *drafter) measureOf(e *entry, f *survey.Field) *column {
	var lacking, amounts []*column
	for _, c := range d.columns {
		if c.class.OfMeasure() && !c.used[e] && c.lookup == nil && !c.made() && !c.further {
			if lacking = append(lacking, c); c.class == terms.Amount {
				amounts = append(amounts, c)
			}
		}
	}
	switch {
	case e.sheets[0].figuresAre == terms.Quantity:
		lacking = slices.DeleteFunc(lacking, func(c *column) bool { return c.class != terms.Quantity })
	case f.Is == "number" || e.sheets[0].figuresAre == terms.Amount:
		lacking = amounts
	}
	if len(lacking) != 1 {
		return nil
	}
	return lacking[0]
}

// byValue is the field of a sheet that has most values of a column, and all that may be it.
func (e *entry) byValue(s *sheet, c *column) (best *survey.Field, likely []string) {
	for _, i := range s.labels() {
		f := &s.Fields[i]
		if _, taken := e.measures[key.Of(f.Header)]; taken || terms.Of(f.Header) == terms.Aside || !c.likely(s, i) {
			continue
		}
		if likely = append(likely, strings.TrimSpace(f.Header)); best == nil || f.Filled > best.Filled {
			best = f
		}
	}
	return best, likely
}

// likely reports whether a field holds a column by its values alone.
func (c *column) likely(s *sheet, i int) bool {
	f := &s.Fields[i]
	if c.class.OfMeasure() {
		timed := s.addsTimes(i) || terms.BareTimes([]string{f.Header}) != terms.None
		return s.numeric(i) && !timed && !s.numbersThings(i) && !s.yearLike(i) && terms.Of(f.Header) == terms.None && !terms.Counts(f.Header) &&
			(!notSold(f.Header) || s.hasOtherSide(i))
	}
	if c.class.OfTime() {
		return f.Is == "date" || f.Is == "month" || f.Is == "quarter" && c.class == terms.Quarter || c.class == terms.Year && s.yearLike(i)
	}
	known := c.knows(f.Values)
	return f.Is == "text" && known > 0 && 2*known >= len(f.Values)
}

// hasOtherSide reports whether a field is one side of an account, and another one is the other: Soll beside Haben.
func (s *sheet) hasOtherSide(i int) bool {
	for k := range s.Fields {
		if s.numeric(k) && terms.SidesOfAccount([]string{s.Fields[i].Header, s.Fields[k].Header}) {
			return true
		}
	}
	return false
}

// timeIn is the column of times that an entry has a source for.
func (d *drafter) timeIn(e *entry) *column {
	for _, want := range []terms.Class{terms.Day, terms.Month, terms.Quarter} {
		for _, c := range d.columns {
			if c.class == want && c.used[e] {
				return c
			}
		}
	}
	return nil
}
