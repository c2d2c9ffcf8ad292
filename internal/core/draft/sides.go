package draft

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/layout"
	"umbau/internal/core/survey"
	"umbau/internal/core/terms"
)

// A small table to the right of the one that is read, behind columns without anything: a summary of it, mostly.

// side is such a table.
type side struct {
	area   string // of the sheet that is read without it
	why    string // what stands there
	across bool   // things or times may stand across beside it: an area would leave those aside that come next
}

// cells is how many cells a field has that are not blank, and nothing reports whether it has none, nor a header.
func cells(f *survey.Field) int   { return f.Filled + f.Null + f.Text + f.Unclear + f.Error }
func nothing(f survey.Field) bool { return f.Unnamed && cells(&f) == 0 }

// isRemark reports whether a header may be a remark beside the table: it stands behind a column without anything, and nothing below it.
func (s *sheet) isRemark(i int) bool {
	return i > 0 && !s.Fields[i].Unnamed && cells(&s.Fields[i]) == 0 && nothing(s.Fields[i-1])
}

// leaveSide leaves a table aside that begins in the first row of another one, to the right of it, and ends before half of its rows.
func (s *sheet) leaveSide() {
	end := slices.IndexFunc(s.Fields, nothing)
	if end < 2 || s.database() || s.HeaderRows > 1 {
		return
	}
	first := end
	for first < len(s.Fields) && nothing(s.Fields[first]) {
		first++
	}
	rows, figures := 0, 0
	for i := first; i < len(s.Fields); i++ {
		if f := &s.Fields[i]; f.Unnamed || cells(f) == 0 || rows > 0 && cells(f) != rows {
			return
		}
		if rows = cells(&s.Fields[i]); s.numeric(i) {
			figures++
		}
	}
	if len(s.Fields)-first < 2 || figures == 0 || 2*rows > s.Rows || !s.endsAfter(s.Left+first, rows) {
		return
	}
	var headers []string
	for _, f := range s.Fields[first:] {
		headers = append(headers, strings.TrimSpace(f.Header))
	}
	across := func(i int) bool {
		f := &s.Fields[i]
		figures := s.numeric(i) && !s.yearLike(i) && !slices.Contains(s.TotalColumns, f.Header) && !s.numbersThings(i) && !s.derived(i)
		return f.Wide || terms.SaysTime(f.Header) || figures && terms.Of(f.Header) == terms.None
	}
	s.side = &side{area: fmt.Sprintf("%s1:%s", layout.Letter(s.Left), layout.Letter(s.Left+end-1)),
		why: fmt.Sprintf("another table stands beside it, over %s: %s", counted(rows, "row"), strings.Join(headers, ", "))}
	for i := range end {
		s.side.across = s.side.across || across(i)
	}
	s.Fields = slices.Clone(s.Fields[:end])
	for _, list := range []*[]string{&s.SumColumns, &s.TotalColumns, &s.AcrossSums} {
		*list = slices.DeleteFunc(slices.Clone(*list), func(h string) bool {
			return !slices.ContainsFunc(s.Fields, func(f survey.Field) bool { return f.Header == h })
		})
	}
}

// askSide asks about a table beside one in which more may come to stand across.
func (e *entry) askSide() {
	if side := e.sheets[0].side; side != nil && side.across {
		e.await(fmt.Sprintf("%s: %s; area leaves it aside, and what would come next in the row of headers, too, and a build stops: have it in a "+
			"sheet of its own", e.globs[0], side.why))
	}
}

// endsAfter reports whether a column is filled in so many rows below the header, and in none behind these, as far as the first rows show.
func (s *sheet) endsAfter(column, rows int) bool {
	below := 0
	for i, row := range s.Head {
		if s.HeadLines[i] <= s.HeaderRow {
			continue
		}
		below++
		if filled := column < len(row) && row[column] != ""; filled != (below <= rows) {
			return false
		}
	}
	return below > rows
}
