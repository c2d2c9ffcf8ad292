package treat

import (
	"encoding/binary"
	"fmt"
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Rows that are known by those before them in their extract: branches without figures,
// rows that repeat one; and cells answered by hand.

// takeBranches takes the rows that would be footnotes, but whose label stands above in its
// column or in its book, back among the used ones.
func (w *Worker) takeBranches(s *Shared) error {
	branches, asked := map[int]bool{}, search{}
	var notes []int
	for _, o := range w.sorted.Out {
		if o.Reason != layout.Footnote {
			continue
		}
		is, sure := w.branch(s, o.Row)
		if is {
			branches[w.rows.Lines[o.Row]] = true
		} else {
			notes = append(notes, o.Row)
		}
		if !sure {
			for _, l := range w.labelsOf(o.Row) {
				asked[l.Whole] = false
			}
		}
	}
	if len(asked) > 0 {
		if err := asked.run(w.program, w.again); err != nil {
			return err
		}
	}
	for _, row := range notes {
		own := w.labelsOf(row)
		if slices.ContainsFunc(own, func(l label) bool { return asked[l.Whole] }) {
			branches[w.rows.Lines[row]] = true
		} else if w.program.Cut {
			s.asked = append(s.asked, own...)
		}
	}
	s.above.add(w.fresh...)
	if len(branches) > 0 {
		w.sorter.Branches = branches
		w.load()
		w.sorter.Branches = nil
	}
	return nil
}

// branch reports whether the only text of a row is a label of its column, and whether that is sure: it may stand
// above in another block.
func (w *Worker) branch(s *Shared, row int) (is, sure bool) {
	sure = true
	for _, ci := range w.program.labels {
		c := &w.program.Columns[ci]
		cells := w.rows.Row(row)
		if c.source.Index >= min(len(cells), len(w.program.Lineup.Header.Texts)) {
			continue
		}
		text := string(value.Trim(w.rows.Text(cells[c.source.Index])))
		if text == "" {
			continue
		}
		if w.program.Lineup.Entry.Control { // a group whose figures are blank
			_, reads := c.spec.Kind.Read(c.reading, text)
			return reads, true
		}
		if c.book != nil {
			if _, _, known := c.book.Find(text); known {
				return true, true
			}
		}
		switch may, certain := s.above.has(labelOf(c.source.Index, text)); {
		case may && certain:
			return true, true
		case may:
			sure = false
		}
		k := key.Of(text)
		for _, used := range w.sorted.Used {
			if int(used) > row { // below
				break
			}
			above := value.TrimText(string(w.rows.Text(w.rows.Row(int(used))[c.source.Index])))
			if above == text || key.Of(above) == k {
				return true, true
			}
		}
	}
	return false, sure
}

// labelsOf are the labels of a row.
func (w *Worker) labelsOf(row int) (out []label) {
	cells := w.rows.Row(row)
	for _, ci := range w.program.labels {
		at := w.program.Columns[ci].source.Index
		if at >= min(len(cells), len(w.program.Lineup.Header.Texts)) {
			continue
		}
		if text := value.Trim(w.rows.Text(cells[at])); len(text) > 0 {
			out = append(out, labelOf(at, string(text)))
		}
	}
	return out
}

// rowHash tells rows apart: 128 bits, so that no two different ones of any extract are
// taken for the same.
type rowHash [2]uint64

// takeSame takes the rows that repeat an earlier one in every cell out of the used ones,
// if the plan says so.
func (w *Worker) takeSame(s *Shared) {
	if w.program.Lineup.Entry.SameRows != plan.Drop {
		return
	}
	var gone []int
	var text []byte
	for i, row := range w.sorted.Used {
		cells := w.rows.Row(int(row))
		text = text[:0]
		for _, c := range cells {
			t := value.Trim(w.rows.Text(c))
			text = append(binary.AppendUvarint(text, uint64(len(t))), t...)
		}
		for len(text) > 0 && text[len(text)-1] == 0 { // blank cells at the end
			text = text[:len(text)-1]
		}
		h := rowHash{table.Hash(text)}
		h[1] = table.Hash(append(text, byte(h[0]), 1))
		if _, again := s.same[h]; again {
			gone = append(gone, i)
			continue
		}
		s.same[h] = w.rows.Lines[row]
	}
	if len(gone) == 0 {
		return
	}
	w.leaveOut(gone, layout.SameRow)
	if w.program.Lineup.Widen == nil {
		w.readRest()
		w.findCandidates()
	}
}

// correct puts the values of the file of corrections in the place of their cells.
func (w *Worker) correct() (problems place.List) {
	p := w.program
	for i := range w.rows.Len() {
		for _, c := range p.Corrections[w.rows.Lines[i]] {
			at := p.Lineup.Place
			at.Row, at.Header = w.rows.Lines[i], c.Header
			cells := w.rows.Row(i)
			was := ""
			if c.column < len(cells) {
				was = string(value.Trim(w.rows.Text(cells[c.column])))
			}
			w.applied = append(w.applied, c.Index)
			if was != value.TrimText(c.Was) || c.column >= len(cells) {
				problem := place.At(at, "correction", "the cell does not say what the file of corrections says that it was").ByRule()
				problem.Texts = []string{fmt.Sprintf("%q, not %q", was, c.Was)}
				problem.Plan, problem.Advice = p.Plan.CorrectionsPos, "look at the cell again, and mend or remove the line of the correction"
				problems.Add(problem)
				continue
			}
			cell := &w.rows.Cells[int(w.rows.Starts[i])+c.column]
			at0 := len(w.rows.Data) - table.BlockSlack
			w.rows.Data = append(append(w.rows.Data[:at0], c.Value...), make([]byte, table.BlockSlack)...)
			*cell = table.Cell{Off: uint32(at0), End: uint32(at0 + len(c.Value))}
			if len(w.rows.Kinds) > 0 {
				w.rows.Kinds[int(w.rows.Starts[i])+c.column] = table.TextCell
			}
		}
	}
	return problems
}

// Correct makes a correction of a row of the extract ready: it finds its column by the
// header. One whose header is not there never applies.
func (p *Program) Correct(c Correction, row int) {
	h := &p.Lineup.Header
	c.column = slices.IndexFunc(h.Keys, func(k string) bool { return k != "" && k == key.Of(c.Header) })
	for j := range h.Keys {
		if c.column < 0 && h.Keys[j] == "" && h.Letter(j) == c.Header {
			c.column = j
		}
	}
	if c.column < 0 {
		return
	}
	if p.Corrections == nil {
		p.Corrections = map[int][]*Correction{}
	}
	p.Corrections[row] = append(p.Corrections[row], &c)
}

// listCorrections lists the corrections that a fact row of the block has.
func (w *Worker) listCorrections() {
	p := w.program
	if len(p.Corrections) == 0 {
		return
	}
	for ci := range p.Columns {
		c := &p.Columns[ci]
		if !c.fromCells() {
			continue
		}
		for i := range w.size(c.level) {
			row, slot := w.rowAndSlot(c.level, i)
			column := c.cellColumn(p, slot)
			if column >= 0 {
				column = p.Lineup.InExtract(column)
			}
			for _, correction := range p.Corrections[w.lineOf(ci, row)] {
				if correction.column == column && w.present(c.level, i) {
					w.change(c, ci, i, Corrected, w.keepText([]byte(correction.Was)))
				}
			}
		}
	}
}
