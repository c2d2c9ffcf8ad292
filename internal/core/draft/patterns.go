package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/terms"
)

// Patterns for names, held against all of these.

// settlePatterns holds the patterns of paths and sheets against all names. Where words of a name, which nothing else keeps apart, go
// elsewhere than they belong (Amber Bay Jan), what is not wanted of it becomes a helper of letters alone; where that does not help, it
// is a question.
func (d *drafter) settlePatterns(e *entry) {
	d.askUnread(e)
	for _, from := range []string{"path", "sheet"} {
		if e.takesApart(from) {
			continue
		}
		for i := range e.pieces {
			p := &e.pieces[i]
			switch {
			case p.from != from || !slices.ContainsFunc(p.Values, terms.IsPeriod):
			case terms.BareTimes(p.Values) == terms.Month:
				if p.Letters = true; p.column == nil {
					p.give(e, d.helper("mon", terms.BareTime))
				}
			case p.column == nil && !p.varies(): // Q1 in all of them
				p.Before, p.Values = p.Before+p.Values[0], nil
			}
		}
		if e.takesApart(from) || d.partTimes(e, from) && e.takesApart(from) {
			continue
		}
		name, of := e.sheets[0].nameOf(), "files"
		if from == "sheet" {
			name, of = e.sheets[0].Place.Sheet, "sheets"
		}
		e.open = append(e.open, fmt.Sprintf("%s: no pattern takes names such as %s apart: name the %s otherwise, or say set: in an entry "+
			"for each", e.globs[0], name, of))
		for i := range e.pieces {
			if p := &e.pieces[i]; p.from == from && p.column != nil && p.Time == terms.None && !p.column.helper {
				p.column.used[e], p.column = false, nil
			}
		}
	}
}

// takesApart reports whether a pattern gives each of its columns what belongs to it, in all names.
func (e *entry) takesApart(from string) bool {
	text, _, wanted := e.pattern(from, 0)
	if !wanted {
		return true
	}
	p, err := pattern.Parse(text)
	if err != nil {
		return false
	}
	for _, piece := range e.pieces {
		if piece.from == from && piece.column != nil && piece.column.class == terms.Year {
			p.SetLimit(piece.column.name, pattern.Digits)
		}
	}
	for i, s := range e.sheets {
		name := s.Place.Sheet
		if from == "path" {
			name = s.nameOf()
			for _, f := range slices.Backward(s.folders[len(s.folders)-strings.Count(text, "/"):]) {
				name = f.name + "/" + name
			}
		}
		fields, ok := p.Fit(name)
		for _, piece := range e.pieces {
			if piece.from == from && piece.column != nil && (!ok || !key.Same(fields[piece.column.name], piece.Values[i])) {
				return false
			}
		}
	}
	return true
}

// partTimes parts the times behind labels of several words into helpers of letters and of figures alone, which no words of a label are
// (Old Slip Nov-23, Old Slip 2023-11-15), and puts their column together again. It reports whether it could: all entries that have
// the column have to say it so.
func (d *drafter) partTimes(e *entry, from string) bool {
	at := slices.IndexFunc(e.pieces, func(p piece) bool { return p.from == from && (p.Time == terms.Month || p.Time == terms.Day) })
	if at < 0 {
		return false
	}
	c, parts := e.pieces[at].column, filenames.TimePartsOf(e.pieces[at].Values)
	if len(parts.Names) < 2 || c != nil && c.made() {
		return false
	}
	pieces := map[*entry]int{e: at}
	for _, o := range d.entries {
		if c == nil || o == e || !c.used[o] {
			continue
		}
		at := slices.IndexFunc(o.pieces, func(p piece) bool { return p.column == c })
		if at < 0 {
			return false
		}
		if own := filenames.TimePartsOf(o.pieces[at].Values); !slices.Equal(own.Names, parts.Names) || own.Sign != parts.Sign {
			return false
		}
		pieces[o] = at
	}
	var helpers []*column
	var write []string
	for i, name := range parts.Names {
		switch {
		case name == filenames.Figures && parts.Names[0] == "mon":
			name = "yy"
		case name == filenames.Figures && parts.Names[0] == "year":
			name = []string{"", "mm", "dd"}[min(i, 2)]
		}
		h := d.helper(name, terms.BareTime)
		helpers, write = append(helpers, h), append(write, "{"+h.name+"}")
	}
	if c != nil {
		c.write, c.parts = strings.Join(write, parts.Sign), helpers
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
	parts := filenames.TimePartsOf(whole.Values)
	e.pieces = slices.Delete(e.pieces, at, at+1)
	for i, values := range parts.Values {
		p := piece{from: whole.from}
		p.Before, p.Values, p.Folder = parts.Sign, values, whole.Folder
		p.Letters = parts.Names[i] == "mon"
		if p.Digits = !p.Letters; i == 0 {
			p.Before = whole.Before
		}
		p.give(e, helpers[i])
		e.pieces = slices.Insert(e.pieces, at+i, p)
	}
}
