package treat

import (
	"strings"

	"umbau/internal/core/formula"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// must stops for delivered fact rows of which a formula of rows.must is not true, as they
// are delivered, sums among them.
func (w *Worker) must() {
	p := w.program
	if len(p.Plan.Rows.Must) == 0 {
		return
	}
	var rows []int
	for at, f := range w.batch.Fates {
		if f == table.Delivered && (len(w.stopped) == 0 || !w.stopped[at]) {
			rows = append(rows, at)
		}
	}
	if len(rows) == 0 {
		return
	}
	for _, m := range p.Plan.Rows.Must {
		var inputs []*formula.Vector
		needs := p.Plan.Indexes(m.Formula.Columns)
		for _, ci := range needs {
			inputs = append(inputs, w.finalVector(ci, rows))
		}
		v := m.Formula.Run(w.machine, len(rows), inputs)
		for k, at := range rows {
			if i := v.At(k); v.States[i] == formula.Valid && v.Flags[i] {
				continue
			}
			problem := place.At(w.placeOfRow(at), "must", "%s is not true of every fact row", m.Text).ByRule()
			problem.Texts = []string{w.valuesOf(needs, at)}
			problem.Plan, problem.Advice = m.Pos, "mend the extracts, or let the formula say what may be"
			if len(needs) == 0 {
				problem.Advice = "it asks no column, and stops every build: take it out of must when what the plan asks is settled"
			}
			w.problems.Add(problem)
		}
	}
}

// placeOfRow is the place of a fact row: its extract row, and the header of its wide cell.
func (w *Worker) placeOfRow(at int) place.Place {
	slots := w.batch.Slots
	out := w.program.Lineup.Place
	out.Row, out.Header = w.rows.Lines[w.sorted.Used[at/slots]], w.program.Slots[at%slots].Header
	return out
}

// valuesOf says what some columns are in a fact row.
func (w *Worker) valuesOf(columns []int, at int) string {
	b := &w.batch
	var parts []string
	for _, ci := range columns {
		text := string(b.AppendText(nil, &b.Columns[ci], at/b.Slots, at%b.Slots))
		if text == "" {
			text = "empty"
		}
		parts = append(parts, w.program.Plan.Columns[ci].Name+" "+place.Shorten(text))
	}
	return strings.Join(parts, ", ")
}
