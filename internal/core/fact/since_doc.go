package fact

import (
	"strconv"

	"umbau/internal/core/place"
	"umbau/internal/core/since"
)

// sinceDoc is what is new since the last build that delivered, for a machine.
type sinceDoc struct {
	First    bool        `json:"first"`
	Extracts []changeDoc `json:"extracts"`
	Headers  []changeDoc `json:"headers"`
	Names    []changeDoc `json:"names"`
	Rows     []changeDoc `json:"rows"`
	Amounts  []changeDoc `json:"amounts"`
	Groups   []changeDoc `json:"groups"`
}

// changeDoc has the columns of since.csv. Before and Now are null where nothing was, or is: texts of
// extracts and headers, counts of names and rows, and amounts with all their digits.
type changeDoc struct {
	What    string  `json:"what"`
	File    *string `json:"file"`
	Sheet   *string `json:"sheet"`
	Column  *string `json:"column"`
	Name    *string `json:"name"`
	Group   *string `json:"group"`
	Measure *string `json:"measure"`
	Before  any     `json:"before"`
	Now     any     `json:"now"`
}

// doc is nil where nothing was compared.
func (s *Since) doc() *sinceDoc {
	if !s.Known {
		return nil
	}
	d := &sinceDoc{s.First, []changeDoc{}, []changeDoc{}, []changeDoc{}, []changeDoc{}, []changeDoc{}, []changeDoc{}}
	lists := map[string]*[]changeDoc{since.Extract: &d.Extracts, since.Header: &d.Headers, since.Name: &d.Names, since.Rows: &d.Rows,
		since.Amount: &d.Amounts, since.Group: &d.Groups}
	for i := range s.Changes {
		c := &s.Changes[i]
		group := place.OrNull(c.Group)
		if c.What == since.Group {
			group = &c.Group
		}
		*lists[c.What] = append(*lists[c.What], changeDoc{c.What, place.OrNull(c.File), place.OrNull(c.Sheet), place.OrNull(c.Column),
			place.OrNull(c.Name), group, place.OrNull(c.Measure), figureDoc(c.What, c.Before), figureDoc(c.What, c.Now)})
	}
	return d
}

// figureDoc is a figure: a count is a number, all else a text.
func figureDoc(what, text string) any {
	if text == "" {
		return nil
	}
	if n, err := strconv.Atoi(text); err == nil && (what == since.Rows || what == since.Name) {
		return n
	}
	return text
}
