package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// Columns without a header, which a build stops at: numbers of rows, and remarks beside the table.

// leaveUnnamed leaves columns without a header aside that have the number of each row, or remarks in some.
func (d *drafter) leaveUnnamed(p *place.Problem) (changed bool) {
	for _, at := range p.Places {
		letter := strings.TrimPrefix(at.Header, "column ")
		for _, e := range d.entriesAt(&place.Problem{Places: []place.Place{at}}) {
			if slices.Contains(e.others, letter) {
				continue
			}
			switch remark := e.remarkIn(letter); {
			case slices.ContainsFunc(e.sheets, func(s *sheet) bool { return s.numbersRowsIn(letter) }):
				e.drop = e.mayDrop()
			case remark != "":
				e.drop, e.remarks = false, append(e.remarks, fmt.Sprintf("%s: remarks beside the table, such as %q", letter, remark))
			default:
				continue
			}
			e.others, changed = append(e.others, letter), true
		}
	}
	return changed
}

// unnamedField is the field of a letter, nil for none.
func (s *sheet) unnamedField(letter string) *survey.Field {
	i := slices.IndexFunc(s.Fields, func(f survey.Field) bool { return f.Header == letter && f.Unnamed })
	if i < 0 {
		return nil
	}
	return &s.Fields[i]
}

// numbersRowsIn reports whether a column has the number of each row.
func (s *sheet) numbersRowsIn(letter string) bool {
	f := s.unnamedField(letter)
	return f != nil && f.Is == "whole" && f.Filled == s.Rows && f.EachOnce(s.Rows)
}

// doubts are words of remarks that say that a row may not be what it seems.
var doubts = terms.List(`wrong error incorrect duplicate twice double doubled not no without excluded exclude estimate estimated provisional
	falsch fehler doppelt nicht kein ohne geschätzt vorläufig erreur faux doublon pas sans estimé provisoire duplicado doble sin estimado
	errore doppio non senza stimato fout dubbel niet zonder geschat`)

// remarkIn is one of the remarks that stand in a column without a header of tables of an entry: words alone, which say nothing of figures,
// in less than half of the rows, which have not gone out of their columns; "" where it may be anything else.
func (e *entry) remarkIn(letter string) (remark string) {
	odd := func(text string) bool {
		return strings.ContainsAny(text, "0123456789") || terms.SaysOfFigures(text) || terms.Returns(text) || terms.Planned.In(text) ||
			terms.NoSales.In(text) || doubts.In(text)
	}
	for _, s := range e.sheets {
		cells, texts, all := 0, []string(nil), true
		if f := s.unnamedField(letter); f != nil {
			cells, texts, all = s.Rows-f.Blank, f.Values, f.Is == "text" && f.Distinct == len(f.Values)
		}
		for i := range s.Beside {
			if b := &s.Beside[i]; b.Letter == letter {
				cells, texts, all = b.Cells, b.Texts, b.All
			}
		}
		switch {
		case cells == 0:
		case len(texts) == 0, !all, 2*cells > s.Rows, !s.Sound && s.Place.Sheet == "", slices.ContainsFunc(texts, odd):
			return ""
		case remark == "":
			remark = place.Shorten(texts[0])
		}
	}
	return remark
}
