package treat

import (
	"fmt"
	"slices"

	"umbau/internal/core/plan"
)

// leads find out whether the used rows of an extract, or those between two total rows, are groups that each begin
// with their own total, as pivot tables write them: from the first row on, or the second one below a total of all,
// to the last one. Rows are known by the hashes that runs have.
type leads []lead

// lead follows groups of one kind.
type lead struct {
	from  int    // the row that the first one begins with
	depth uint64 // 2 where the rows of a group are themselves groups that begin with a total; else 1

	seen   int    // rows so far
	end    uint64 // the hash of all rows to the end of the group at hand
	rows   int    // of it that have figures, its total aside
	groups int    // before it, of two rows or more for each level …
	single int    // … and of fewer
	over   bool   // these are no groups
	heads  []head // the first ones
	count  int    // of all
	digits int    // of their figures, as far as these count: those of one that is as the one before do not
	own    uint64 // the hash of the last one
}

// head is a row that is the total of those below it.
type head struct {
	line    int
	label   string
	telling bool // its figures are no chance
	none    bool // the plan says that it is no total
	digits  int  // of its figures
	shared  bool // the row below has the same label
}

const (
	// mostSingle is how many more groups there may be, for a time, of too few rows than of enough: rows that are all the same are such.
	mostSingle = 64
	mostHeads  = 1000 // that are kept
)

// fewRows is how many a table has at least that groups are looked for in: fewer may agree by chance.
const fewRows = 5

// reset begins again, below a total row or above all rows.
func (l *leads) reset() { *l = leads{{depth: 1}, {from: 1, depth: 1}, {depth: 2}, {from: 1, depth: 2}} }

// follow takes in more rows, by their hashes; those before them add up to hash. headOf tells of one of them.
func (l leads) follow(hashes []uint64, hash uint64, headOf func(i int) head) {
	for k := range l {
		l[k].follow(hashes, hash, headOf)
	}
}

func (l *lead) follow(hashes []uint64, hash uint64, headOf func(i int) head) {
	for i, own := range hashes {
		if l.over {
			return
		}
		if own != 0 {
			if l.seen == l.from || l.seen > l.from && hash == l.end && l.rows > 0 {
				l.close()
				l.begin(headOf(i), own)
				l.end, l.rows = hash+own+l.depth*own, 0
			} else {
				l.rows++
			}
			l.seen++
		}
		hash += own
	}
}

// begin takes the total of a group, and its hash.
func (l *lead) begin(h head, own uint64) {
	if l.count++; len(l.heads) < mostHeads {
		l.heads = append(l.heads, h)
	}
	if l.digits < longFigure && own != l.own {
		l.digits += h.digits
	}
	l.own = own
	l.over = l.over || h.none || l.single > l.groups+mostSingle
}

// close counts the group at hand.
func (l *lead) close() {
	switch {
	case l.count == 0:
	case l.rows > int(l.depth):
		l.groups++
	default: // three rows of one figure are no total of two levels
		l.single++
	}
}

// complete returns the groups, if all rows so far, which add up to hash, are such.
func (l leads) complete(hash uint64) *lead {
	for _, g := range l {
		if g.over || g.rows == 0 || g.count == 0 || hash != g.end || g.seen < fewRows {
			continue
		}
		if g.close(); g.groups > g.single && g.digits >= longFigure {
			return &g
		}
	}
	return nil
}

// headOf tells of used row i of the block.
func (w *Worker) headOf(i int) head {
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
				long = long || own.Digits() >= longFigure
			}
		}
	}
	label := l.FirstLabel(&w.rows, row)
	return head{w.rows.Lines[row], label, figures > 1 || long || figures == 1 && l.SaysTotal(&w.rows, row), l.NoTotal(&w.rows, row), digits,
		i+1 < len(w.sorted.Used) && l.FirstLabel(&w.rows, int(w.sorted.Used[i+1])) == label}
}

// takeLeads stops for groups that begin with their own total, which nothing says; before a total row, where it is not compared.
func (w *Worker) takeLeads(r *runs, end bool) {
	if end || w.program.Lineup.Entry.Totals == plan.Drop {
		if l := r.leads.complete(r.hash); l != nil {
			w.askLeads(l)
		}
	}
	r.leads.reset()
}

func (w *Worker) askLeads(l *lead) {
	why, labels := "which the rows below it add up to", []string{}
	for _, h := range l.heads {
		if !slices.Contains(labels, h.label) {
			labels = append(labels, h.label)
		}
	}
	if l.count > 1 {
		why = fmt.Sprintf("the first of %d such rows, with their rows below them, to the end", l.count)
	}
	more := ", no_totals and rows: { only: … }, by what it lacks, leave it out"
	if !l.heads[0].shared {
		more = ", with totals: drop; where rows below take their label from it" + more
	}
	w.askTotal(l.heads[0], "below", why, labels, more)
}
