// Package shape turns the columns of an extract into rows: it finds the wide
// columns, whose headers are data, and takes their headers apart.
package shape

import (
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/plan"
)

// Column is one wide column.
type Column struct {
	Index  int               // which cell of the row
	Header string            // as it stands
	Pieces map[string]string // what its header says
}

// Slot is one wide column, or several whose cells share a fact row: each extract
// row makes one fact row in it.
type Slot struct {
	Header string            // of the first
	Pieces map[string]string // what the headers say, by column of the fact table
	Cells  []int             // which cell of the row goes to each column of cells; -1 for none
	Itself bool              // the extract row itself: no cell at all
}

// Wide finds the wide columns among headers, in their order: those that
// unpivot.columns names, or all free ones where it is silent. free tells whether
// nothing else claims a header, isTotal whether a text is a total word, wordy whether
// words and no number stand below a header: it is no wide column, unless unpivot.columns
// names it. Headers of total columns are returned apart, unless a plain entry names them;
// those that the pattern does not fit as unfit; entries of unpivot.columns that no
// header fits as missing.
func Wide(u *plan.Unpivot, headers []string, free func(int) bool, isTotal func(string) bool, wordy func(int) bool) (wide, totals []Column,
	unfit []string, missing []*pattern.Pattern) {
	found := make([]bool, len(u.Columns))
	for i, h := range headers {
		if !free(i) {
			continue
		}
		in, plain := chosen(u, h, found)
		pieces, fit := u.Header.Fit(h)
		total := !plain && (isTotal(h) || in && fit && anyTotal(pieces, isTotal))
		switch {
		case total:
			totals = append(totals, Column{Index: i, Header: h, Pieces: pieces})
		case !in:
		case len(u.Columns) == 0 && wordy(i):
		case !fit:
			unfit = append(unfit, h)
		default:
			wide = append(wide, Column{Index: i, Header: h, Pieces: pieces})
		}
	}
	for i, p := range u.Columns {
		if !found[i] {
			missing = append(missing, p)
		}
	}
	return wide, totals, unfit, missing
}

func anyTotal(pieces map[string]string, isTotal func(string) bool) bool {
	for _, p := range pieces {
		if isTotal(p) {
			return true
		}
	}
	return false
}

// chosen reports whether a header is a wide column, and whether a plain entry
// names it. A plain entry is compared by the key, a pattern as it stands; each
// that chooses is marked as found.
func chosen(u *plan.Unpivot, header string, found []bool) (in, plain bool) {
	in = len(u.Columns) == 0
	for i, p := range u.Columns {
		if plan.FitsHeader(p, header) {
			found[i], in = true, true
			plain = plain || p.Literal()
		}
	}
	return in, plain
}

// Group makes slots of wide columns, in the order of their first. columns tells
// to which column of cells each wide column goes, of so many. Those that go to
// different ones and agree in their other pieces, by the key, share a slot; names
// tells which pieces only name the column of cells. Two that would share a cell
// are returned as clashes.
func Group(wide []Column, columns []int, of int, names func(piece string) bool) (slots []Slot, clashes [][2]Column) {
	slots = make([]Slot, 0, len(wide)/max(1, of))
	index := map[string]int{}
	var by map[int]Column // wide columns by their index, once two clash
	for i, w := range wide {
		at := len(slots)
		if of > 1 { // else each is its own
			k := others(w.Pieces, names)
			if known, ok := index[k]; ok {
				at = known
			}
			index[k] = at
		}
		if at == len(slots) {
			slots = append(slots, newSlot(w, of))
		}
		cell := &slots[at].Cells[columns[i]]
		if *cell < 0 {
			*cell = w.Index
			continue
		}
		if by == nil {
			by = make(map[int]Column, len(wide))
			for _, c := range wide {
				by[c.Index] = c
			}
		}
		clashes = append(clashes, [2]Column{by[*cell], w})
	}
	return slots, clashes
}

func newSlot(w Column, of int) Slot {
	s := Slot{Header: w.Header, Pieces: w.Pieces, Cells: make([]int, of)}
	for i := range s.Cells {
		s.Cells[i] = -1
	}
	return s
}

// others joins the pieces that do not name the column of cells, by the key.
func others(pieces map[string]string, names func(string) bool) string {
	var parts []string
	for name, text := range pieces {
		if !names(name) {
			parts = append(parts, name+"\x00"+key.Of(text))
		}
	}
	slices.Sort(parts)
	return strings.Join(parts, "\x00")
}
