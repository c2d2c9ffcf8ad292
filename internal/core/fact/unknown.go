package fact

import (
	"fmt"
	"slices"

	"umbau/internal/core/names"
	"umbau/internal/core/place"
)

// listUnknown lists the unknown names that stop the build, those in most fact rows
// first: where each stands first, how much is at stake, and the standard most like
// it.
func (s *Summary) listUnknown() {
	for k := range s.Problems {
		p := &s.Problems[k]
		column := s.Plan.Index(p.Column)
		if p.What != "unknown name" || column < 0 {
			continue
		}
		var list []names.Seen
		for n := range s.Names.All() {
			if n.Column == column && n.How == names.Unknown {
				list = append(list, *n)
			}
		}
		if len(list) == 0 {
			continue
		}
		slices.SortStableFunc(list, func(a, b names.Seen) int { return b.Cells - a.Cells })
		p.Places, p.Texts, p.Notes = nil, nil, nil
		var index *names.Index
		if s.Books[column] != nil {
			index = s.Books[column].NewIndex()
		}
		for _, n := range list[:min(len(list), place.MostPlaces)] {
			p.Places, p.Texts = append(p.Places, *n.First), append(p.Texts, n.Text)
			p.Notes = append(p.Notes, s.stake(n, index))
		}
		p.Message = fmt.Sprintf("%s of column %s not in the book %s", counted(len(list), "name"), p.Column, s.Plan.Columns[column].Book)
	}
}

// stake says how much is at stake for an unknown name.
func (s *Summary) stake(n names.Seen, index *names.Index) string {
	text := counted(n.Cells, "fact row")
	if m := s.Plan.LastMeasure(); m >= 0 && n.Amount != nil {
		text += fmt.Sprintf(", %s of %s", s.Plan.Columns[m].Shown(n.Amount.Total()), s.Plan.Columns[m].Name)
	}
	if index != nil {
		if c := index.Suggest(n.Text); len(c) > 0 {
			text += fmt.Sprintf("; likely %q", c[0].Standard)
		}
	}
	return text
}

func counted(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}
