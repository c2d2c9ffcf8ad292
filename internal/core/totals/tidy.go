package totals

import (
	"fmt"
	"slices"
	"strings"
)

// Header is that of the result as a tidy table: the columns of By, then one for each column
// of figures.
func (r *Result) Header() []string {
	out := slices.Clone(r.By)
	several := map[string]map[Show]bool{}
	measures := map[string]bool{}
	for _, f := range r.Columns {
		if several[f.Of] == nil {
			several[f.Of] = map[Show]bool{}
		}
		several[f.Of][f.Show] = true
		if f.Show != Count {
			measures[f.Of] = true
		}
	}
	shows := map[Show]bool{}
	for _, f := range r.Columns {
		shows[f.Show] = true
	}
	for _, f := range r.Columns {
		if !f.Total {
			out = append(out, f.header(len(measures) > 1 || len(shows) > 1, len(shows) > 1))
		}
	}
	return out
}

// header is what a column of figures is called.
func (f *Figure) header(measure, show bool) string {
	var parts []string
	switch {
	case f.Across != nil:
		parts = append(parts, *f.Across)
	case f.Empty:
		parts = append(parts, "(empty)")
	default:
		measure = true
	}
	if f.Show == Count {
		if measure || len(parts) == 0 {
			parts = append(parts, "count")
		}
	} else {
		if measure {
			parts = append(parts, f.Of)
		}
		if show {
			parts = append(parts, f.Show.String())
		}
	}
	return strings.Join(parts, " | ")
}

// HeaderOfLevels is the header with the column level behind the columns of By.
func (r *Result) HeaderOfLevels() []string { return slices.Insert(r.Header(), len(r.By), "level") }

// Lines are those of the tidy table: one for each lowest group; with subtotals all, each
// with its level.
func (r *Result) Lines(subtotals bool) (out [][]string) {
	for _, row := range r.Rows {
		if row.Level() < len(r.By) && row.Other == 0 && !subtotals {
			continue
		}
		var line []string
		for i := range r.By {
			if i < len(row.By) && row.By[i] != nil {
				line = append(line, *row.By[i])
			} else {
				line = append(line, "")
			}
		}
		if subtotals {
			line = append(line, fmt.Sprint(row.Level()))
		}
		for i, f := range row.Figures {
			switch {
			case r.Columns[i].Total:
			case f == nil:
				line = append(line, "")
			default:
				line = append(line, *f)
			}
		}
		out = append(out, line)
	}
	return out
}
