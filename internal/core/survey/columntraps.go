package survey

import (
	"fmt"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// addTraps notes what is easily overlooked in a column.
func (t *Table) addTraps(c *column, f *Field, style int) {
	add := func(what string, row, n int, detail string) {
		t.traps = append(t.traps, Trap{What: what, Place: t.placeOf(row, c), Count: n, Detail: detail})
	}
	number := f.Is == "number" || f.Is == "whole"
	if number && f.Text+f.Unclear > 0 {
		odd := func(g *group) bool { return usable(g) && !inStyle(style)(g) }
		row, text := c.firstOf(odd)
		add("text among numbers", row, f.Text+f.Unclear, fmt.Sprintf("such as %q", place.Shorten(text)))
	}
	if number && c.count(func(g *group) bool { return g.sheet == table.NumberCell }) > 0 {
		asText := func(g *group) bool { return g.sheet == table.TextCell && inStyle(style)(g) }
		if n := c.count(asText); n > 0 {
			row, text := c.firstOf(asText)
			add("numbers as text", row, n, fmt.Sprintf("such as %q", place.Shorten(text)))
		}
	}
	if list := c.currencies(); len(list) > 1 {
		other := 0
		for _, m := range list[1:] {
			other += m.cells
		}
		add("currency", list[1].row, other, list[0].code+" before, "+list[1].code+" here")
	}
	if n, text := c.noSales(f); n > 0 {
		add("no sales", 0, n, text+" may be no sales; a build adds up all rows and columns alike")
	}
	if n, text := c.garbled(f); n > 0 {
		add("garbled letters", 0, n, text)
	}
	if c.formulas > 0 {
		add("formula without value", c.formulaRow, c.formulas, "open the workbook in its program and save it")
	}
}

// noSales counts the labels below a header that say that they may be no sales, or a header of figures that does, and names
// the first ones.
func (c *column) noSales(f *Field) (n int, text string) {
	var list []string
	switch {
	case (f.Is == "number" || f.Is == "whole") && value.NoSale(f.Header):
		list = []string{f.Header}
	case f.Is == "text":
		for _, code := range c.texts {
			if label := value.TrimText(c.memo.Seen(code)); value.NoSale(label) {
				list = append(list, place.Shorten(label))
			}
		}
	}
	return len(list), strings.Join(list[:min(3, len(list))], ", ")
}

// garbled counts the texts below a header, and the header, that were read in another encoding before they came, and shows the first.
func (c *column) garbled(f *Field) (n int, text string) {
	look := func(label string) {
		if was, ok := value.Restored(label); ok {
			if n++; n == 1 {
				text = fmt.Sprintf("%s was %s before it was read in another encoding", place.Shorten(label), place.Shorten(was))
			}
		}
	}
	look(f.Header)
	if f.Is == "text" {
		for _, code := range c.texts {
			look(value.TrimText(c.memo.Seen(code)))
		}
	}
	return n, text
}
