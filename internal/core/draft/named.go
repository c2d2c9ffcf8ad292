package draft

import (
	"path"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// What the names of files and sheets, and titles, say of figures whose headers do not: a sheet Quantity beside a sheet Amount.

// names are what the file, the sheet and the folder of a table are called, their words apart.
func (s *sheet) names() (out []string) {
	for _, name := range []string{s.Place.Sheet, s.nameOf(), path.Base(path.Dir(s.file)), path.Base(path.Dir(s.member))} {
		out = append(out, parted(name))
	}
	return out
}

// findNamed finds what names and titles say of the figures of tables whose headers do not say it. Quantities that nobody asked
// for, and what was not sold, are left aside where others are there.
func (d *drafter) findNamed() {
	all := d.extracts()
	wanted := func(c terms.Class) bool {
		return len(d.Columns) == 0 && c == terms.Quantity || slices.ContainsFunc(d.Columns, func(name string) bool {
			return terms.Of(name) == c || c == terms.Aside && terms.NoSales.In(name)
		})
	}
	names := nameTables(all, (*sheet).nameWords)
	for _, s := range all {
		if !s.unsaidFigures() {
			if names.noSales(s) && !wanted(terms.Aside) {
				s.figuresAre = terms.Aside
			}
			continue
		}
		if s.figuresAre = terms.FiguresOf(s.names()); s.figuresAre != terms.None {
			continue
		}
		if s.figuresAre = terms.FiguresOf(s.titleLines()); s.figuresAre == terms.Aside { // of a cost centre, perhaps
			s.figuresAre = terms.None
		}
	}
	beside := func(s *sheet) bool { // others of its kind have other figures
		return slices.ContainsFunc(all, func(o *sheet) bool {
			return o.figuresAre != s.figuresAre && slices.Equal(o.labelKeys(), s.labelKeys())
		})
	}
	var left []*sheet
	for _, s := range all {
		if s.figuresAre == terms.Aside && !wanted(terms.Aside) && s.ofOthers(all) {
			s.perhaps, s.figuresAre = "it has no sales", terms.None
		}
		switch {
		case s.figuresAre == terms.Aside && !wanted(terms.Aside),
			s.figuresAre == terms.Quantity && !wanted(terms.Quantity) && s.wholeFigures() && beside(s),
			s.figuresAre == terms.Amount && onlyQuantities(d.Columns) && beside(s):
			left = append(left, s)
		}
	}
	if len(left) == len(all) {
		return
	}
	for _, s := range left {
		s.apart = true
		switch s.figuresAre {
		case terms.Quantity:
			s.leaveAside("left aside", "its name says that it has quantities, which are not asked for")
		case terms.Amount:
			s.leaveAside("left aside", "its name says that it has amounts, which are not asked for")
		default:
			s.leaveAside("left aside", "its name says that it has no sales")
		}
	}
}

// onlyQuantities reports whether quantities are asked for, and no column that may be of amounts.
func onlyQuantities(columns []string) (only bool) {
	for _, name := range columns {
		switch terms.Of(name) {
		case terms.Quantity:
			only = true
		case terms.Amount, terms.None:
			return false
		}
	}
	return only
}

// wholeFigures reports whether no figure of a table has decimals, as those of quantities seldom have.
func (s *sheet) wholeFigures() bool {
	return !slices.ContainsFunc(s.Fields, func(f survey.Field) bool { return f.Is == "number" })
}

// labelKeys are the headers of labels, by the key, in order.
func (s *sheet) labelKeys() (out []string) {
	for _, i := range s.labels() {
		if f := &s.Fields[i]; !s.numeric(i) {
			out = append(out, key.Of(f.Header))
		}
	}
	slices.Sort(out)
	return out
}

// askNamed asks about tables of quantities, by their name, where none are asked for, and about those of amounts.
func (d *drafter) askNamed() {
	for _, e := range d.entries {
		text := ""
		switch of := e.sheets[0].figuresAre; {
		case of == terms.Quantity && d.of(terms.Quantity) == nil:
			text = "quantities"
		case of == terms.Amount && onlyQuantities(d.Columns):
			text = "amounts"
		default:
			continue
		}
		d.withhold(e)
		e.open = append(e.open, e.globs[0]+": its figures are "+text+", by its name, which are not asked for: except leaves it aside")
	}
}

// unsaidFigures reports whether no header of a table says which measure its figures are.
func (s *sheet) unsaidFigures() bool {
	said := func(header string) bool {
		_, _, _, first := terms.MeasureFirst(header)
		_, _, _, last := terms.MeasureLast(header)
		return first || last || slices.ContainsFunc(strings.Split(header, " | "), func(part string) bool { return terms.Of(part).OfMeasure() })
	}
	if len(s.wide) > 0 {
		return !slices.ContainsFunc(s.wide, func(i int) bool { return said(s.Fields[i].Header) })
	}
	return s.kind < 0 && s.figures() == 1 && slices.ContainsFunc(s.Fields, func(f survey.Field) bool {
		return (f.Is == "number" || f.Is == "whole") && (saysFigure(f.Header) || terms.Of(f.Header) == terms.None && !terms.Counts(f.Header))
	})
}

// columnOf is the column that a field of a table is of by its header; Value among quantities is one of these.
func (d *drafter) columnOf(s *sheet, header string) *column {
	c := d.columnFor(header)
	if q := d.of(terms.Quantity); s.figuresAre == terms.Quantity && q != nil && saysFigure(header) {
		return q
	}
	if s.total != "" && header == s.total && c == nil {
		return d.of(terms.Amount)
	}
	return c
}

// findTotal takes a column called total for the amounts of a table that has no others, nor any across: beside quantities and prices, or
// alone. Beside figures that may be amounts, too, it is one of them.
func (s *sheet) findTotal() {
	if len(s.wide) > 0 || len(s.TotalColumns) != 1 || s.field(s.TotalColumns[0]) == nil {
		return
	}
	for i := range s.Fields {
		header := s.Fields[i].Header
		c := terms.Of(header)
		other := c == terms.Quantity || c == terms.Price || c == terms.Aside || s.numbersThings(i) || s.saysCodes(i) || s.numbersRows(i) ||
			notSold(header)
		if !s.numeric(i) || s.yearLike(i) || header == s.TotalColumns[0] || other {
			continue
		}
		s.TotalColumns = nil
		return
	}
	s.total, s.TotalColumns = s.TotalColumns[0], nil
}

// classOf is the class of a field by its header.
func (s *sheet) classOf(header string) terms.Class {
	if s.total != "" && header == s.total {
		return terms.Amount
	}
	return terms.Of(header)
}

// saysFigure reports whether a header is of figures, and does not say which.
func saysFigure(header string) bool { return figureWords[key.Of(header)] }

var figureWords = terms.List("value values figure figures number total wert werte zahl valeur valor valore waarde")
