package draft

import (
	"slices"

	"umbau/internal/core/survey"
)

// Rows that lack labels: at the ends of tables, where sums, averages and balances stand, below a label that is said once for a group, or
// behind others that have theirs.

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

// inEachRow reports whether three rows of data in a row have the same text in a field, among the first ones: a table that says it once for
// all rows of a group has no such rows.
func (s *sheet) inEachRow(i int) bool {
	last, rows := "", 0
	for k, row := range s.Head {
		column := s.Left + i
		if s.HeadLines[k] <= s.HeaderRow || column >= len(row) {
			continue
		}
		if rows++; row[column] != last {
			last, rows = row[column], 1
		}
		if rows == 3 && last != "" {
			return true
		}
	}
	return false
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
