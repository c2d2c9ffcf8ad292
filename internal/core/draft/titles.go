package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/pattern"
	"umbau/internal/core/terms"
	"umbau/internal/core/value"
)

// What stands in lines above the header.

// titles are what stands before places and things in lines above the header: "Coast: " of "Coast: Lakes".
func (s *sheet) titles() (out []string) {
	for _, line := range s.otherTitles() {
		before := titleBefore(line)
		if c := terms.Of(before); before != "" && terms.SaysNothing(before) && (c == terms.Region || c == terms.Branch || c == terms.Product) {
			out = append(out, before)
		}
	}
	return out
}

// readTitles finds a title that begins alike in all tables and ends in a label.
func (e *entry) readTitles() {
	read := map[string]bool{} // by what stands before what varies
	for _, first := range e.sheets[0].otherTitles() {
		before := titleBefore(first)
		var texts []string
		for _, s := range e.sheets {
			own := slices.DeleteFunc(s.otherTitles(), func(text string) bool { return before == "" || !strings.HasPrefix(text, before) })
			if len(own) != 1 {
				texts = nil
				break
			}
			texts = append(texts, own[0])
		}
		if len(texts) == 0 {
			continue
		}
		pieces := filenames.OfTitles(before, texts)
		if own := filenames.OfSpans(texts); e.fitTitles(own) && strings.HasPrefix(own[0].Before, before) {
			pieces = own
		} else if len(pieces) == 1 && pieces[0].Time == terms.Day && (terms.SaysPeriod(before) || terms.Of(before) == terms.Month) {
			pieces[0].Time, pieces[0].Span = terms.Month, true
		}
		month := func(p filenames.Piece) bool { return p.Time == terms.Month || p.Letters || p.Digits }
		if other := e.headline(texts); len(other) > 0 && strings.HasPrefix(other[0].Before, before) &&
			(slices.ContainsFunc(other, month) && !slices.ContainsFunc(pieces, month) || !e.fitTitles(pieces)) {
			pieces = other
		}
		e.addPieces("titles", pieces)
		e.titles++
		read[before] = true
	}
	e.readTitleYear()
	e.readHeadlines(read)
}

// headline are the pieces of a title of each table that a pattern finds there alone; nil for none.
func (e *entry) headline(texts []string) []filenames.Piece {
	if pieces := filenames.OfSpans(texts); e.fitTitles(pieces) {
		return pieces
	}
	for _, apart := range []bool{false, true} {
		if pieces := filenames.OfHeadlines(texts, apart); e.fitTitles(pieces) {
			return pieces
		}
	}
	return nil
}

// readHeadlines finds what varies in titles that do not say what it is: Sales of Lakes in January 2024. Lines that say who or what made
// the table are passed over; where several lines may say a label, none is taken for one.
func (e *entry) readHeadlines(read map[string]bool) {
	lines := e.sheets[0].headlines(read)
	var found [][]filenames.Piece
	labels := 0
	for k := range lines {
		var texts []string
		for _, s := range e.sheets {
			if own := s.headlines(read); len(own) == len(lines) {
				texts = append(texts, own[k])
			}
		}
		if len(texts) < len(e.sheets) {
			continue
		}
		pieces := e.headline(texts)
		differ := slices.ContainsFunc(texts, func(t string) bool { return t != texts[0] })
		if pieces == nil && differ {
			e.unread = texts
		}
		house := !differ && (!ofSales(texts[0]) || !e.lacksYear()) // a year that all have may be that of one
		if !slices.ContainsFunc(pieces, func(p filenames.Piece) bool { return len(p.Values) > 0 && (!house || p.Time != terms.Year) }) {
			continue
		}
		found = append(found, pieces)
		if slices.ContainsFunc(pieces, filenames.Piece.IsLabel) {
			if labels++; labels > 1 {
				e.unread = texts
			}
		}
	}
	for _, pieces := range found {
		for i := range pieces {
			pieces[i].Aside = pieces[i].IsLabel() && (labels > 1 || e.said(pieces[i]) || slices.ContainsFunc(pieces[i].Values, saysFigures))
		}
		from := len(e.pieces)
		e.addPieces("titles", pieces)
		e.titles++
		for i := from; i < len(e.pieces); i++ {
			e.pieces[i].bare = true
		}
	}
}

// lacksYear reports whether months stand without a year, and nothing says it so far.
func (e *entry) lacksYear() bool {
	_, bare := e.bareTime(&column{class: terms.Month, name: "month"})
	return bare && !e.saysYear()
}

// ofSales reports whether a title says that it is one of sales, with a year in which there may be some, and not since when.
func ofSales(line string) bool {
	return fullTime().FindString(line) >= "2000" && !terms.SaysSince(line) && slices.ContainsFunc(strings.Fields(line), func(w string) bool {
		return terms.Of(w).OfMeasure() || terms.SaysSold(w)
	})
}

// saysFigures reports whether a label says which figures a table has, rather than whose.
func saysFigures(label string) bool {
	return terms.Of(label).OfMeasure() || terms.Planned.In(label) || value.IsCurrency(label)
}

// askUnread asks about lines above tables that differ and that no pattern takes apart, where nothing else says the region.
func (d *drafter) askUnread(e *entry) {
	if c := d.of(terms.Region); len(e.unread) > 0 && (c == nil || !c.used[e]) {
		first, last := layout.Flow(e.unread[0]), layout.Flow(e.unread[len(e.unread)-1])
		e.open = append(e.open, fmt.Sprintf("%s: lines above the tables differ (%s, %s), and no pattern takes from them what they say: say "+
			"set: in an entry for each", e.globs[0], first, last))
	}
}

// headlines are the lines above the header that are not read yet by what stands before what varies, nor say who or what made the
// table; cells of one are joined by spaces.
func (s *sheet) headlines(read map[string]bool) (out []string) {
	lines := s.linesAbove()
	if s.blocked {
		lines = lines[:len(lines)-1]
	}
	for _, cells := range lines {
		text := strings.Join(cells, " ")
		if !read[titleBefore(text)] && !slices.ContainsFunc(cells, func(c string) bool { return strings.HasSuffix(c, ":") }) &&
			!terms.SaysMaking(text) {
			out = append(out, text)
		}
	}
	return out
}

// fitTitles reports whether a pattern of pieces finds in the lines above each table just what they are there.
func (e *entry) fitTitles(pieces []filenames.Piece) bool {
	var text strings.Builder
	for i, p := range pieces {
		text.WriteString(pattern.Escape(p.Before))
		limit := ""
		switch {
		case p.Letters:
			limit = ":letters"
		case p.Digits || p.Time == terms.Year:
			limit = ":digits"
		}
		if len(p.Values) > 0 {
			fmt.Fprintf(&text, "{p%d%s}", i, limit)
		}
	}
	p, err := pattern.Parse(text.String())
	if len(pieces) == 0 || err != nil {
		return false
	}
	for k, s := range e.sheets {
		fits := 0
		for _, cells := range s.linesAbove() {
			if len(cells) > 1 {
				cells = append(cells, strings.Join(cells, " "))
			}
			for _, cell := range cells {
				fields, ok := p.Fit(cell)
				if !ok {
					continue
				}
				for i, piece := range pieces {
					ok = ok && (len(piece.Values) == 0 || key.Same(fields[fmt.Sprintf("p%d", i)], piece.Values[k]))
				}
				if !ok {
					return false
				}
				fits++
			}
		}
		if fits == 0 {
			return false
		}
	}
	return true
}

// readTitleYear finds a year that stands alone above each table.
func (e *entry) readTitleYear() {
	var years []string
	for i, s := range e.sheets {
		for _, line := range s.titleLines() {
			if t, _ := terms.TimeOf(line); t == terms.Year {
				years = append(years, line)
			}
		}
		if len(years) != i+1 {
			return
		}
	}
	e.addPieces("titles", []filenames.Piece{{Values: years, Time: terms.Year}})
	e.titles++
}

// otherTitles are the lines above the header, but for one that heads a block.
func (s *sheet) otherTitles() []string {
	lines := s.titleLines()
	if s.blocked {
		return lines[:len(lines)-1]
	}
	return lines
}

// titleLines are the lines above the header with a single filled cell, those that begin with a cell of what the next one says
// ("Region:", "Lakes"), and the cells of the others that say it themselves ("Region: Lakes").
func (s *sheet) titleLines() (out []string) {
	for _, cells := range s.linesAbove() {
		says := func(c string) bool { return strings.Contains(c, ": ") }
		switch {
		case len(cells) == 1 || len(cells) <= 4 && !slices.ContainsFunc(cells, says) &&
			(strings.HasSuffix(cells[0], ":") || titleBefore(cells[0]+" ") != ""):
			out = append(out, strings.Join(cells, " "))
		default:
			out = append(out, slices.DeleteFunc(cells, func(c string) bool { return !says(c) })...)
		}
	}
	return out
}

// above are all lines above the header, their cells joined by spaces.
func (s *sheet) above() (out []string) {
	for _, cells := range s.linesAbove() {
		out = append(out, strings.Join(cells, " "))
	}
	return out
}

// linesAbove are the filled cells of the lines above the header that have any.
func (s *sheet) linesAbove() (out [][]string) {
	for i, row := range s.Head {
		if s.HeadLines[i] >= s.headerTop() {
			break
		}
		if cells := slices.DeleteFunc(slices.Clone(row), func(c string) bool { return c == "" }); len(cells) > 0 {
			out = append(out, cells)
		}
	}
	return out
}

// headerTop is the line in which the header begins.
func (s *sheet) headerTop() int {
	if s.rows > 1 {
		return s.HeaderTop
	}
	return s.HeaderRow
}

// titleBefore is what stands in a title before what may vary: up to its colon, or a word for a region or a branch.
func titleBefore(title string) string {
	if i := strings.Index(title, ": "); i > 0 {
		return title[:i+2]
	}
	if word, rest, ok := strings.Cut(title, " "); ok && (terms.Of(word) == terms.Region || terms.Of(word) == terms.Branch) {
		if of, _, ok := strings.Cut(rest, " "); ok && (of == "of" || terms.Genitive(of)) {
			word += " " + of
		}
		return title[:len(word)+1]
	}
	return ""
}
