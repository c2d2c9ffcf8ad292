// Package shape turns the columns of an extract into rows: it finds the wide
// columns, whose headers are data, and takes their headers apart.
package shape

import (
	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/plan"
)

// Slot is one wide column: each extract row makes one fact row in it.
type Slot struct {
	Index  int               // which cell of the row
	Header string            // as it stands
	Pieces map[string]string // what its header says, by column of the fact table
}

// Wide finds the wide columns among headers, in their order: those that
// unpivot.columns names, or all free ones where it is silent. free tells whether
// nothing else claims a header, isTotal whether a text is a total word. Headers
// of total columns are returned apart, unless a plain entry names them; those
// that the pattern does not fit as unfit; entries of unpivot.columns that no
// header fits as missing.
func Wide(u *plan.Unpivot, headers []string, free func(int) bool, isTotal func(string) bool) (slots, totals []Slot, unfit, missing []string) {
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
			totals = append(totals, Slot{Index: i, Header: h, Pieces: pieces})
		case !in:
		case !fit:
			unfit = append(unfit, h)
		default:
			slots = append(slots, Slot{Index: i, Header: h, Pieces: pieces})
		}
	}
	for i, p := range u.Columns {
		if !found[i] {
			missing = append(missing, p.String())
		}
	}
	return slots, totals, unfit, missing
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
		if fits(p, header) {
			found[i], in = true, true
			plain = plain || p.Literal()
		}
	}
	return in, plain
}

func fits(p *pattern.Pattern, header string) bool {
	if p.Literal() {
		return key.Same(p.Write(func(string) string { return "" }), header)
	}
	return p.Fits(header)
}
