// Package rowset has what deliveries into databases share: names that are quoted, values of
// texts, and texts that no database takes.
package rowset

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// Quoted is a name as SQL has it, whatever it holds.
func Quoted(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// QuotedList are names with commas.
func QuotedList(names []string) string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = Quoted(n)
	}
	return strings.Join(out, ", ")
}

// Names are those of columns.
func Names(columns []table.SinkColumn) (out []string) {
	for _, c := range columns {
		out = append(out, c.Name)
	}
	return out
}

// Problem is a delivery into a database that cannot be.
func Problem(to, format string, args ...any) place.Problem {
	return place.At(place.Place{File: to}, "output", format, args...)
}

// OtherColumns is a delivery into a table whose columns differ, in what is listed.
func OtherColumns(to string, differ []string) place.Problem {
	p := Problem(to, "the table has other columns: %s", strings.Join(differ, "; "))
	p.Advice = "name another table, or say recreate: yes to have this one dropped and made anew"
	return p
}

// NULs finds texts with NUL bytes, which no database takes. Each part has its own.
type NULs struct {
	seen []looked // by column
}

// looked are the texts of a dictionary that were looked at.
type looked struct {
	of  *table.Dict
	bad []bool
}

// Check looks at the texts of the delivered rows of a batch.
func (n *NULs) Check(b *table.Batch, columns []table.SinkColumn) (problems place.List) {
	for len(n.seen) < len(columns) {
		n.seen = append(n.seen, looked{})
	}
	for i, col := range columns {
		c := &b.Columns[col.Index]
		if c.Texts == nil {
			continue
		}
		k := &n.seen[i]
		if k.of != c.Texts {
			*k = looked{of: c.Texts}
		}
		for code := len(k.bad); code < c.Texts.Len(); code++ {
			k.bad = append(k.bad, strings.IndexByte(c.Texts.Out(uint32(code)), 0) >= 0)
		}
		if !slices.Contains(k.bad, true) {
			continue
		}
		for row, slot := range b.Delivered {
			if k.bad[c.Codes[c.At(row, slot, b.Slots)]] {
				problems.Add(nulProblem(b, row, slot, col.Name))
			}
		}
	}
	return problems
}

func nulProblem(b *table.Batch, row, slot int, column string) place.Problem {
	var at place.Place
	if b.Where != nil {
		at = b.Where(row, slot)
	}
	p := place.At(at, "output", "column %s: a text has a NUL byte, which no database holds", column)
	p.Advice = "mend the cell, or deliver to a file"
	return p
}

// Differ lists columns that a table has otherwise than a delivery; nil where it has the same.
func Differ(have, want []Column) (out []string) {
	for _, w := range want {
		i := slices.IndexFunc(have, func(h Column) bool { return h.Name == w.Name })
		switch {
		case i < 0:
			out = append(out, w.Name+" is not there")
		case !w.Fits(have[i].Type):
			out = append(out, fmt.Sprintf("%s is %s, not %s", w.Name, have[i].Type, w.Type))
		}
	}
	for _, h := range have {
		if !slices.ContainsFunc(want, func(w Column) bool { return h.Name == w.Name }) {
			out = append(out, h.Name+" is no column of the delivery")
		}
	}
	return out
}

// Column is a column of a table of a database.
type Column struct {
	Name, Type string
	Fits       func(have string) bool // whether another type holds its values
}
