package treat

import (
	"slices"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// A measure has one currency: that of the plan, or that of the first amount which names one, in a fact row that is wanted. An amount in
// another is unclear.

// money is a number cell that names its currency.
type money struct {
	at       int32
	currency string
	cell     table.Cell
}

// namesCurrency reports whether a number of the block names its currency.
func (w *Worker) namesCurrency() bool {
	return slices.ContainsFunc(w.columns, func(s columnState) bool { return len(s.currencies) > 0 })
}

// allPassed reports whether no fact row of value i ever came to be.
func (w *Worker) allPassed(l table.Level, i int) bool {
	all := true
	w.factRows(l, i, func(f *table.Fate, _ int) { all = all && f.Passed() })
	return all
}

// settleCurrency takes the first currency of a measure as its own; numbers in
// another are unclear. Those before it, in rows that are not wanted, stay what they are.
func (w *Worker) settleCurrency(ci int, shared *Shared) {
	s, out, own := &w.columns[ci], &w.batch.Columns[ci], &shared.currencies[ci]
	found := false
	for _, m := range s.currencies {
		if *own == "" && !(w.passed && w.allPassed(out.Level, int(m.at))) {
			*own = m.currency
		}
		if *own == "" || m.at < s.knownFrom {
			shared.Pass(ci, m.currency)
			continue
		}
		if m.currency == *own {
			continue
		}
		found, w.hashed = true, false
		d, _ := out.Decimal(int(m.at))
		s.reads.add(int(m.at)%w.width(&w.program.Columns[ci]), d.Neg())
		out.Numbers[m.at] = table.Number{}
		s.rounded = slices.DeleteFunc(s.rounded, func(r rounded) bool { return r.at == m.at })
		s.gapCells = append(s.gapCells, gapCell{m.at, value.Unclear, m.cell, 0})
	}
	s.currencies = s.currencies[:0]
	if found {
		slices.SortFunc(s.gapCells, func(a, b gapCell) int { return int(a.at - b.at) })
	}
}

// Pass notes the currency of an amount in a row that was not wanted, or of a total, while that of its measure was not known: had it
// been, the row may have been another, or the total no agreement.
func (s *Shared) Pass(ci int, currency string) {
	if !slices.Contains(s.passed[ci], currency) {
		s.passed[ci] = append(s.passed[ci], currency)
	}
}

// filterInTurn is filter for a block in which amounts name currencies, or that depends on the blocks before in another way. Which fact
// rows are wanted may depend on what is unclear, and the currency of a measure on which of them are wanted: of the first of these.
func (w *Worker) filterInTurn(s *Shared) {
	w.makeKnown(s)
	for w.currencyOpen(s) {
		w.filter()
		found := w.takeCurrency(s)
		w.problems = slices.DeleteFunc(w.problems, func(p place.Problem) bool { return p.What == filterKind }) // found again
		for at, f := range w.batch.Fates {
			if f == table.Filtered {
				w.batch.Fates[at] = table.Delivered
			}
		}
		w.passed = w.program.skip >= 0
		if !found {
			break
		}
		w.makeKnown(s)
	}
	w.filter()
	w.forget()
}

// makeKnown settles the currencies that are known, and works out the columns that are made: as far as they are known, as names may be
// spelt otherwise yet.
func (w *Worker) makeKnown(s *Shared) {
	w.forget()
	for ci := range w.program.Columns {
		if c := &w.program.Columns[ci]; !c.made && s.currencies[ci] != "" {
			w.settleCurrency(ci, s)
		}
	}
	for _, ci := range w.program.Plan.Made {
		if w.make(ci); s.currencies[ci] != "" {
			w.settleCurrency(ci, s)
		}
	}
}

// currencyOpen reports whether an amount names a currency while that of its measure is not known.
func (w *Worker) currencyOpen(s *Shared) bool {
	for ci := range w.columns {
		if s.currencies[ci] == "" && len(w.columns[ci].currencies) > 0 {
			return true
		}
	}
	return false
}

// takeCurrency finds the first fact row that is wanted and has an amount which names a currency while that of its measure is not
// known, and takes what it names. It reports whether there is one.
func (w *Worker) takeCurrency(s *Shared) bool {
	first, slots := len(w.batch.Fates), w.batch.Slots
	for ci := range w.columns {
		for _, m := range w.columns[ci].currencies {
			w.factRows(w.batch.Columns[ci].Level, int(m.at), func(f *table.Fate, at int) {
				if s.currencies[ci] == "" && !f.Passed() {
					first = min(first, at)
				}
			})
		}
	}
	if first == len(w.batch.Fates) {
		return false
	}
	for ci := range w.columns {
		at := w.batch.Columns[ci].At(first/slots, first%slots, slots)
		for _, m := range w.columns[ci].currencies {
			if s.currencies[ci] == "" && int(m.at) == at {
				s.currencies[ci], w.columns[ci].knownFrom = m.currency, m.at
			}
		}
	}
	return true
}
