package pass

import (
	"io"

	"umbau/internal/core/layout"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// wordy finds the columns of an extract below whose header words stand and not one
// number. Most columns show a number in the first rows; for one that does not, the extract
// is read once more, up to where it does.
type wordy struct {
	in     *Input
	header layout.Header
	words  []bool // by column: a word stands there, and
	number []bool // a number, or what may be one
	all    bool   // of all rows
	source table.Source
	rows   table.Rows
	buffer []byte
	err    error
}

func newWordy(in *Input, t *top, h layout.Header) *wordy {
	w := &wordy{in: in, header: h, words: make([]bool, len(h.Texts)), number: make([]bool, len(h.Texts)), all: t.whole}
	w.look(&t.within)
	return w
}

// below reports whether words and no number stand below a header.
func (w *wordy) below(column int) bool {
	for !w.number[column] && !w.all && w.err == nil {
		w.next()
	}
	return w.words[column] && !w.number[column]
}

// next reads a further block, from the beginning of the extract on.
func (w *wordy) next() {
	e := w.in.Entry
	if w.source == nil {
		if w.source, w.err = w.in.Table.Open(w.in.reading()); w.err != nil {
			return
		}
	}
	b, err := w.source.Next(w.buffer)
	if err == io.EOF {
		w.all = true
		return
	}
	if w.err = err; err != nil {
		return
	}
	w.buffer = b.Data[:0]
	w.rows.Reset()
	if w.err = w.source.Split(b, &w.rows); w.err == nil {
		layout.Crop(&w.rows, e.Area)
		w.look(&w.rows)
	}
}

// close ends the reading.
func (w *wordy) close() {
	if w.source != nil {
		w.source.Close()
	}
}

// look takes rows in.
func (w *wordy) look(rows *table.Rows) {
	for j := range w.number {
		for i := 0; i < rows.Len() && !w.number[j]; i++ {
			if rows.Lines[i] > w.header.Row && j < len(rows.Row(i)) {
				w.cell(&w.in.Entry.Reading, rows, i, j)
			}
		}
	}
}

// cell takes a cell in.
func (w *wordy) cell(reading *value.Reading, rows *table.Rows, i, j int) {
	text := value.Trim(rows.Text(rows.Row(i)[j]))
	switch kind := rows.Kind(i, j); {
	case kind == table.NumberCell || kind == table.FormulaCell:
		w.number[j] = true
	case len(text) == 0 || kind == table.DateCell:
	default:
		if _, _, ok := reading.Number(text); ok {
			w.number[j] = true
			return
		}
		switch value.GapOf(string(text)) {
		case value.Unclear:
			w.number[j] = true
		case value.Text:
			w.words[j] = true
		}
	}
}
