package build

import (
	"fmt"
	"slices"

	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// totals compares the total rows of one extract with the rows they total. A
// total row ties to a run of used rows that ends just above it and begins at the
// first row or after some total row: the sums of all rows so far, less those at
// that beginning.
type totals struct {
	extract int
	before  []beginning
	rows    int         // used so far
	sums    []value.Sum // of them, by column of the extract
}

// beginning is where a run may begin: how many rows stand before it, and their
// sums.
type beginning struct {
	rows int
	sums []value.Decimal
}

// copyTotals takes what the worker found of totals.
func (j *job) copyTotals(t *treat.Worker) {
	j.totals = append(j.totals[:0], t.Totals...)
	j.checked = append(j.checked[:0], t.Checks...)
	for len(j.sums) < len(t.Sums) {
		j.sums = append(j.sums, treat.Sums{})
	}
	j.sums = j.sums[:len(t.Sums)]
	for i, s := range t.Sums {
		j.sums[i].Rows, j.sums[i].Columns = s.Rows, append(j.sums[i].Columns[:0], s.Columns...)
	}
}

// checkTotals compares the totals of a block, blocks in their order.
func (r *run) checkTotals(j *job) {
	e := &r.summary.Extracts[j.extract]
	for _, c := range j.checked {
		r.check(e, c)
	}
	if len(j.sums) == 0 {
		return
	}
	t := &r.totals
	if t.sums == nil || t.extract != j.extract || len(t.sums) != len(j.sums[0].Columns) {
		n := len(j.sums[0].Columns)
		*t = totals{extract: j.extract, sums: make([]value.Sum, n), before: []beginning{{0, make([]value.Decimal, n)}}}
	}
	for i := range j.sums {
		t.rows += j.sums[i].Rows
		for c := range t.sums {
			t.sums[c].Merge(&j.sums[i].Columns[c])
		}
		if i < len(j.totals) {
			r.checkTotal(e, j, j.totals[i])
		}
	}
}

// checkTotal compares one total row with the run that agrees with it in most
// figures, the shortest of these.
func (r *run) checkTotal(e *record.Extract, j *job, total treat.Total) {
	t := &r.totals
	here := beginning{t.rows, make([]value.Decimal, len(t.sums))}
	for c := range t.sums {
		here.sums[c] = t.sums[c].Total().Shorten()
	}
	best, most := 0, -1
	for i := len(t.before) - 1; i >= 0; i-- {
		if t.before[i].rows == t.rows && t.rows > 0 {
			continue // no rows between
		}
		agree := 0
		for _, f := range total.Figures {
			if here.sums[f.Column].Sub(t.before[i].sums[f.Column]).Cmp(f.Said) == 0 {
				agree++
			}
		}
		if agree > most {
			best, most = i, agree
		}
		if agree == len(total.Figures) {
			break
		}
	}
	for _, f := range total.Figures {
		r.check(e, tie.Check{Kind: tie.TotalRow, Row: total.Line, Header: r.headers[j.extract].Name(f.Column), Column: j.program.MeasureAt(f.Column),
			Said: f.Said, Have: here.sums[f.Column].Sub(t.before[best].sums[f.Column])})
	}
	if t.before[len(t.before)-1].rows < t.rows {
		t.before = append(t.before, here)
	}
}

// check records a figure that was compared, and stops where it does not agree.
func (r *run) check(e *record.Extract, c tie.Check) {
	d := c.Difference()
	c.Broken = d.Sign() != 0
	r.summary.Checks.add(c)
	r.write(r.record[record.ChecksFile], record.AppendCheck(nil, r.plan, e, c))
	if !c.Broken {
		return
	}
	p := place.At(place.Place{File: e.File, Sheet: e.Sheet, Row: c.Row, Header: c.Header}, "total", "a %s does not agree with the rows it totals", c.Kind).ByRule()
	if c.Kind == tie.TotalColumn {
		p.Message = "a total column does not agree with the wide cells of its row"
	}
	p.Column = r.plan.Columns[c.Column].Name
	p.Texts = []string{fmt.Sprintf("says %s, they add up to %s, difference %s", c.Said, c.Have, d)}
	p.Advice = "is a row missing or doubled in the extract? totals: drop leaves totals out without comparing"
	if i := slices.IndexFunc(r.inputs, func(in input) bool { return in.file == e.File && in.sheet == e.Sheet }); i >= 0 {
		p.Plan = r.inputs[i].entry.Pos
	}
	p.Add = "totals: drop"
	r.fail(p)
}

// Checks counts the figures that were compared.
type Checks struct{ TotalRows, TotalColumns, Controls, Broken int }

func (c *Checks) add(k tie.Check) {
	switch k.Kind {
	case tie.TotalRow:
		c.TotalRows++
	case tie.TotalColumn:
		c.TotalColumns++
	default:
		c.Controls++
	}
	if k.Broken {
		c.Broken++
	}
}

// All is how many figures were compared.
func (c *Checks) All() int { return c.TotalRows + c.TotalColumns + c.Controls }

// note is a footnote and the row it stands in.
type note struct {
	row  int
	text string
}

// Note is a footnote that was left out, and where.
type Note struct {
	Place place.Place
	Text  string
}

// addNote keeps the first footnotes of the build.
func (s *Summary) addNote(e *record.Extract, n note) {
	s.FootnoteRows++
	if len(s.Footnotes) < place.MostPlaces {
		s.Footnotes = append(s.Footnotes, Note{place.Place{File: e.File, Sheet: e.Sheet, Row: n.row}, n.text})
	}
}
