package treat

import (
	"umbau/internal/core/table"
)

// Again reads the blocks of an extract before the one at hand once more, and shows them to see, in order.
type Again func(see func(src table.Splitter, b Raw) error) error

// search looks for labels in the used rows of blocks that are read again: by the hashes of their whole keys, whether
// they stand there.
type search map[uint64]bool

// run reads the extract again.
func (f search) run(p *Program, again Again) error {
	w, s := NewWorker(p.Plan, Wants{}), NewShared(p.Plan)
	w.whole = true
	return again(func(src table.Splitter, b Raw) error {
		if err := w.Read(p, src, b); err != nil {
			return err
		}
		s.begin(p)
		w.takeTail(s)
		for _, l := range w.fresh {
			if _, asked := f[l.Whole]; asked {
				f[l.Whole] = true
			}
		}
		return nil
	})
}
