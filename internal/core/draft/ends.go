package draft

import (
	"slices"

	"umbau/internal/core/survey"
)

// Rows at the ends of tables that lack a label all others have: sums, averages, balances, or what was sold nobody knows where.

// atEnds reports whether the rows that lack a label of a column are, in each table, a few of the first or the last ones.
func (d *drafter) atEnds(c *column) (found bool) {
	for _, e := range d.entries {
		for _, s := range e.sheets {
			own, all := d.unlabelled(e, s, c)
			if own == nil {
				continue
			}
			ends := s.Ends(func(line int) bool { return !slices.Contains(all, line) })
			if 2*len(own) >= s.Rows || slices.ContainsFunc(own, func(line int) bool { return !slices.Contains(ends, line) }) {
				return false
			}
			found = true
		}
	}
	return found
}

// unlabelled are the numbers of the rows of a table that lack a label of a column, and of those that lack some label, as far as they are
// known; of the column all, or 0 for the others.
func (d *drafter) unlabelled(e *entry, s *sheet, c *column) (own, all []int) {
	for _, i := range s.labels() {
		f := &s.Fields[i]
		of := d.claimant(e, s, f.Header)
		if of == nil {
			continue
		}
		lines := linesWithout(f)
		if all = append(all, lines...); of == c {
			own = append(own, lines...)
			if len(lines) < f.Blank+f.Null {
				own = append(own, 0)
			}
		}
	}
	return own, all
}

// linesWithout are the numbers of rows in which nothing stands below a header, or what stands for nothing, as far as they are known.
func linesWithout(f *survey.Field) (out []int) {
	for _, g := range f.Gaps {
		if g.Kind == "blank" || g.Kind == "null" {
			out = append(out, g.Row)
		}
	}
	return out
}
