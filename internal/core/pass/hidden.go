package pass

import (
	"strings"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// doubtColumns notes columns of measures that a sheet hides, and that are read like others: whoever looks at the sheet does
// not see their amounts.
func (in *Input) doubtColumns(hidden table.Spans, l *layout.Lineup) {
	left := 0
	if a := in.Entry.Area; a != nil {
		left = a.FirstColumn
	}
	p := place.Problem{What: "hidden columns", Message: "columns of figures that the sheet hides are read like others", Plan: in.Entry.Pos}
	var headers []string
	for j, h := range l.Header.Texts {
		if !l.Measure(j) || !hidden.Has(left+j+1) {
			continue
		}
		if p.Count++; len(p.Places) < place.MostPlaces {
			at := in.Place()
			at.Row, at.Header = l.Header.Row, h
			p.Places, headers = append(p.Places, at), append(headers, layout.FlowHeader(h))
		}
	}
	if p.Count > 0 {
		p.Advice = "if they are not meant, say in the entry of extracts: others: [" + strings.Join(headers, ", ") + "]"
		in.Doubts.Add(p)
	}
}

// doubtRows notes rows that a sheet hides, by a filter or by hand, below its header.
func (in *Input) doubtRows(hidden table.Spans, header int) {
	n, first := hidden.Behind(header)
	if n == 0 {
		return
	}
	at := in.Place()
	at.Row = first
	p := place.At(at, "hidden rows", "rows that the sheet hides are read like others")
	p.Count, p.Plan, p.Advice = n, in.Entry.Pos, "if they are not meant, rows: { only: … } leaves them out, by what stands in them"
	in.Doubts.Add(p)
}
