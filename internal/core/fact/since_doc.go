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

// noticedDoc is what else a person should see, of which since.csv has no lines.
type noticedDoc struct {
	Values []valueDoc  `json:"values"`
	Spans  []spanDoc   `json:"spans"`
	Says   []saidDoc   `json:"says"`
	Sizes  []sizeDoc   `json:"sizes"`
	Behind []behindDoc `json:"behind"`
}

// valueDoc is a text that a column of text has, or had: new, with the text of the last build that it is most like and the
// column of that, or gone.
type valueDoc struct {
	Column     string  `json:"column"`
	Value      string  `json:"value"`
	New        bool    `json:"new"`
	Like       *string `json:"like"`
	LikeColumn *string `json:"like_column"`
}

// spanDoc is the first and the last of a column of time, 2024-01-01/2024-12-31; null where it has none.
type spanDoc struct {
	Column string  `json:"column"`
	Before *string `json:"before"`
	Now    *string `json:"now"`
}

// saidDoc is a line above a table, or a name, that says something of all its figures that none said then, or none says now; without
// a file, what cells say of the money of a measure.
type saidDoc struct {
	File  *string `json:"file"`
	Sheet *string `json:"sheet"`
	Text  string  `json:"text"`
	New   bool    `json:"new"`
}

// sizeDoc is the mean of a measure in the fact rows of an extract, far from all of the last build, and the least and the most of those.
type sizeDoc struct {
	File    string  `json:"file"`
	Sheet   *string `json:"sheet"`
	Measure string  `json:"measure"`
	Mean    string  `json:"mean"`
	Least   string  `json:"least"`
	Most    string  `json:"most"`
}

// behindDoc is a group without the last month of the others: its own last one, that of the others.
type behindDoc struct {
	Group string `json:"group"`
	Then  string `json:"then"`
	Now   string `json:"now"`
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
	none := []changeDoc{}
	d := &sinceDoc{s.First, none, none, none, none, none, none}
	lists := map[string]*[]changeDoc{since.Extract: &d.Extracts, since.Header: &d.Headers, since.Name: &d.Names, since.Rows: &d.Rows,
		since.Amount: &d.Amounts, since.Group: &d.Groups}
	for i := range s.Changes {
		c := &s.Changes[i]
		if c.Noticed() {
			continue
		}
		group := place.OrNull(c.Group)
		if c.What == since.Group {
			group = &c.Group
		}
		*lists[c.What] = append(*lists[c.What], changeDoc{c.What, place.OrNull(c.File), place.OrNull(c.Sheet), place.OrNull(c.Column),
			place.OrNull(c.Name), group, place.OrNull(c.Measure), figureDoc(c.What, c.Before), figureDoc(c.What, c.Now)})
	}
	return d
}

// noticed is nil where nothing was compared.
func (s *Since) noticed() *noticedDoc {
	if !s.Known {
		return nil
	}
	d := &noticedDoc{[]valueDoc{}, []spanDoc{}, []saidDoc{}, []sizeDoc{}, []behindDoc{}}
	for i := range s.Changes {
		switch c := &s.Changes[i]; c.What {
		case since.Value:
			like := s.Alike[c]
			d.Values = append(d.Values, valueDoc{c.Column, c.Name, c.Now != "", place.OrNull(like.Text), place.OrNull(like.Column)})
		case since.Says:
			d.Says = append(d.Says, saidDoc{place.OrNull(c.File), place.OrNull(c.Sheet), c.Before + c.Now, c.Now != ""})
		case since.Span:
			d.Spans = append(d.Spans, spanDoc{c.Column, place.OrNull(c.Before), place.OrNull(c.Now)})
		}
	}
	for _, z := range s.Sizes {
		d.Sizes = append(d.Sizes, sizeDoc{z.File, place.OrNull(z.Sheet), z.Measure, z.Mean.String(), z.Least.String(), z.Most.String()})
	}
	for _, g := range s.Behind {
		d.Behind = append(d.Behind, behindDoc(g))
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
