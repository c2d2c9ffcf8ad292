package treat

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/tie"
)

// headOf tells of used row i of the block, which may be the total of rows above it, or below.
func (w *Worker) headOf(r *runs, i int, behind bool) tie.Head {
	l, row := w.program.Lineup, int(w.sorted.Used[i])
	figures, long, digits := 0, false, 0
	for ci := range w.program.Columns {
		c := &w.program.Columns[ci]
		if !c.measure || c.origin < 0 {
			continue
		}
		width := w.width(c)
		for slot := range width {
			if own, _ := w.asRead(ci).Decimal(i*width + slot); w.program.cellOf(c, slot) >= 0 && own.Sign() != 0 {
				figures++
				digits += own.Digits()
				long = long || own.Digits() >= tie.LongFigure
			}
		}
	}
	var beside []string // the labels of the row next to it
	switch {
	case behind && i > 0:
		beside = l.LabelKeys(&w.rows, int(w.sorted.Used[i-1]))
	case behind:
		beside = r.labels
	case i+1 < len(w.sorted.Used):
		beside = l.LabelKeys(&w.rows, int(w.sorted.Used[i+1]))
	}
	label, own := l.OwnLabel(&w.rows, row, beside)
	return tie.Head{
		Line: w.rows.Lines[row], Label: label, Digits: digits, None: l.NoTotal(&w.rows, row),
		Telling: figures > 1 || long || figures == 1 && l.SaysTotal(&w.rows, row),
		Shared:  !own,
	}
}

// moreOfShared is what to do about a total that has no label of its own.
const moreOfShared = ", no_totals and rows: { only: … }, by what it lacks, leave it out"

// takeLeads returns the groups that all rows since the last total row are, if these begin with their own total; others may follow.
func (r *runs) takeLeads() *tie.Lead {
	defer r.leads.Reset()
	return r.leads.Complete(r.hash)
}

// askLeads stops for groups that begin, or end, with their own total, which nothing says.
func (w *Worker) askLeads(l *tie.Lead, r *runs) {
	if l == nil || l.Behind() && r.asked {
		return
	}
	side := "below"
	if l.Behind() {
		side = "above"
	}
	why, labels := "which the rows "+side+" it add up to", []string{}
	for _, h := range l.Heads {
		if !slices.Contains(labels, h.Label) {
			labels = append(labels, h.Label)
		}
	}
	if !l.Sure() {
		w.doubtLeads(l, side, labels)
		return
	}
	if l.Count > 1 {
		why = fmt.Sprintf("the first of %d such rows, which with the rows %s them are all of the table", l.Count, side)
	}
	more := moreOfShared
	switch {
	case l.Heads[0].Shared:
	case l.Behind():
		more = ""
	default:
		more = ", with totals: drop; where rows below take their label from it" + more
	}
	w.askTotal(l.Heads[0], side, why, labels, more)
}

// doubtLeads names the totals of such groups that may be so by chance.
func (w *Worker) doubtLeads(l *tie.Lead, side string, labels []string) {
	entry := w.program.Lineup.Entry
	at := w.program.Lineup.Place
	at.Row = l.Heads[0].Line
	p := place.At(at, "sum of others", "%s has the sums of the rows %s: is it a total? Then all counts twice", layout.Flow(labels[0]), side)
	for i, label := range labels {
		labels[i] = layout.Flow(label)
	}
	list := "[" + strings.Join(labels, ", ") + "]"
	p.Count, p.Plan = l.Count, entry.Pos
	p.Advice = "if so, say in its entry of extracts: total_words: " + list + ", and totals: drop; if it is none: no_totals: " + list
	if l.Heads[0].Shared { // these would take the rows below, too
		p.Advice = "if so" + moreOfShared + "; if it is none: no_totals: " + list
	}
	w.doubts.Add(p)
}
