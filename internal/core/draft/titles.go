package draft

import (
	"slices"
	"strings"

	"umbau/internal/core/filenames"
	"umbau/internal/core/terms"
)

// What stands in lines above the header.

// titles are what stands before places and things in lines above the header: "Coast: " of "Coast: Lakes".
func (s *sheet) titles() (out []string) {
	for _, line := range s.otherTitles() {
		before := titleBefore(line)
		if c := terms.Of(before); before != "" && (c == terms.Region || c == terms.Branch || c == terms.Product) {
			out = append(out, before)
		}
	}
	return out
}

// readTitles finds a title that begins alike in all tables and ends in a label.
func (e *entry) readTitles() {
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
		e.addPieces("titles", filenames.OfTitles(before, texts))
		e.titles++
	}
	e.readTitleYear()
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
	if word, _, ok := strings.Cut(title, " "); ok && (terms.Of(word) == terms.Region || terms.Of(word) == terms.Branch) {
		return title[:len(word)+1]
	}
	return ""
}
