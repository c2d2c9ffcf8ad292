package treat

import (
	"strings"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// texts is a worker's dictionary of one column: what each distinct text is and
// becomes.
type texts struct {
	*table.Dict
	marks []uint8  // by code: what a whole column is asked first
	at    []uint32 // by code: which of info, and 1; 0 for a plain text, which has a value and is no name
	info  table.Chunks[counted]
}

const (
	oddMark   = 1 << iota // as textInfo.odd
	totalMark             // a total word is among its words
	openMark              // a name whose first spelling is not known yet
	newMark               // not yet handed on as a label of the extract at hand
)

// next returns an empty dictionary for what comes after this one is full, which has had its day.
func (d *texts) next() *texts {
	return &texts{Dict: d.Dict.Next(), marks: d.marks[:0], at: d.at[:0]}
}

// of returns what the text with a code is.
func (d *texts) of(code uint32) textInfo {
	if at := d.at[code]; at > 0 {
		return d.info.At(int(at - 1)).textInfo
	}
	return textInfo{text: value.TrimText(d.Seen(code))}
}

// name returns what the text with a code is, for keeps, if it is a name; else nil.
func (d *texts) name(code uint32) *counted {
	if at := d.at[code]; at > 0 {
		if in := d.info.At(int(at - 1)); in.name {
			return in
		}
	}
	return nil
}

// odd reports whether a text needs a decision wherever it stands.
func (d *texts) odd(code uint32) bool { return d.marks[code]&oddMark != 0 }

// open reports whether a text is a name whose first spelling is not known yet.
func (d *texts) open(code uint32) bool { return d.marks[code]&openMark != 0 }

// tell notes what the text with the next code is.
func (d *texts) tell(in textInfo) {
	d.info.Add(counted{textInfo: in})
	d.at = append(d.at, uint32(d.info.Len()))
	m := uint8(newMark)
	if in.odd {
		m |= oddMark
	}
	d.marks = append(d.marks, m)
}

// tellPlain notes that the text with the next code is a plain one.
func (d *texts) tellPlain() {
	d.at = append(d.at, 0)
	d.marks = append(d.marks, newMark)
}

type textInfo struct {
	text string // trimmed
	gap  value.Gap
	odd  bool // needs a decision wherever it stands
	name bool // counted among the names
	how  names.How
}

// counted is what a text is, and where it stands, if it is a name.
type counted struct {
	textInfo
	cells int32 // of the block at hand
	first int32 // value of the block at hand that has it first
	again int32 // what names.Seen.Again points to: others write it
	which int32 // names.Seen.Which
}

// readTexts gives each value of a column of texts its code.
func (w *Worker) readTexts(ci int) {
	c, s, out := &w.program.Columns[ci], &w.columns[ci], &w.batch.Columns[ci]
	s.texts, s.total = w.memory.of(w.program, ci), false
	n := w.size(c.level)
	out.Level, out.Texts, out.Numbers = c.level, s.texts.Dict, nil
	out.Codes = resized(out.Codes, n)
	switch c.source.From {
	case layout.Label:
		w.readLabels(ci)
		return
	case layout.Piece: // the same in all blocks of an extract
		if s.pieces.of != w.program || s.pieces.texts != s.texts {
			w.readPieces(ci)
		}
		copy(out.Codes, s.pieces.codes)
		s.odd = s.odd || s.pieces.odd
		return
	}
	for i := range n {
		if c.level == table.PerCell && w.program.Slots[i%w.batch.Slots].Itself {
			out.Codes[i] = s.texts.empty()
			continue
		}
		code := s.texts.code(c, w.textAt(c, i))
		out.Codes[i] = code
		s.odd = s.odd || s.texts.odd(code)
		s.total = s.total || s.texts.marks[code]&totalMark != 0
	}
}

// pieces are what the wide headers of an extract say of a column.
type pieces struct {
	of    *Program
	texts *texts // that codes are of
	codes []uint32
	odd   bool // one of them needs a decision
}

// readPieces reads a column of pieces of the wide headers.
func (w *Worker) readPieces(ci int) {
	c, s := &w.program.Columns[ci], &w.columns[ci]
	s.pieces = pieces{of: w.program, texts: s.texts, codes: s.pieces.codes[:0]}
	for i := range w.program.Slots {
		code := s.texts.code(c, []byte(w.field(c, i)))
		s.pieces.codes = append(s.pieces.codes, code)
		s.pieces.odd = s.pieces.odd || s.texts.odd(code)
	}
}

// readLabels is readTexts for a column of labels.
func (w *Worker) readLabels(ci int) {
	c, s, codes := &w.program.Columns[ci], &w.columns[ci], w.batch.Columns[ci].Codes
	s.texts.Codes(w.rows.Data, w.gather(c.source.Index), codes, func(code uint32) { s.texts.learn(c, code) })
	var all uint8
	for _, code := range codes {
		all |= s.texts.marks[code]
	}
	s.odd = s.odd || all&oddMark != 0
	s.total = all&totalMark != 0
	s.fresh = all&newMark != 0 || s.labelsOf != w.program || s.labels != s.texts
}

// noteLabels lists the labels of used rows that no block of the extract had before, as far
// as this worker knows.
func (w *Worker) noteLabels(ci int) {
	c, s := &w.program.Columns[ci], &w.columns[ci]
	if w.only || !s.fresh || c.source.Index >= len(w.program.Lineup.Header.Texts) {
		return
	}
	if s.labelsOf != w.program || s.labels != s.texts {
		s.labelsOf, s.labels = w.program, s.texts
		for code := range s.texts.marks {
			s.texts.marks[code] |= newMark
		}
	}
	for _, code := range w.batch.Columns[ci].Codes {
		if m := &s.texts.marks[code]; *m&newMark != 0 {
			*m &^= newMark
			text := value.TrimText(s.texts.Seen(code))
			l := label{Begins: beginOf(c.source.Index, text)}
			if w.noted++; w.noted <= fewLabels || w.whole { // else nobody asks
				w.key = key.Append(w.key[:0], text)
				l.Whole = wholeLabel(c.source.Index, w.key)
			} else if begun := &w.begun[l.Begins%uint64(len(w.begun))]; *begun == l.Begins {
				continue
			} else {
				*begun = l.Begins
			}
			w.fresh = append(w.fresh, l)
		}
	}
}

// textAt is the raw text behind value i of a column that is none of labels.
func (w *Worker) textAt(c *column, i int) []byte {
	switch c.source.From {
	case layout.WideCell:
		cell, _ := w.cell(c, i)
		return w.rows.Text(cell)
	case layout.Section:
		return []byte(w.heading(i))
	}
	return []byte(w.field(c, i))
}

// heading is the text of the last section row of the block above used row i.
func (w *Worker) heading(i int) string {
	text := ""
	for _, h := range w.sorted.Headings {
		if h.Used > i {
			break
		}
		text = h.Text
	}
	return text
}

// empty is the code of a value that is empty without being a gap.
func (d *texts) empty() uint32 {
	code, fresh := d.Code([]byte{0}) // no text of a cell
	if fresh {
		d.tell(textInfo{})
	}
	return code
}

// filled is the code of a text that a formula gives to a gap; ok is false where it
// does not read as the column's kind.
func (d *texts) filled(c *column, text string) (code uint32, ok bool) {
	out, ok := c.spec.Kind.Read(c.reading, text)
	if !ok {
		return 0, false
	}
	code, fresh := d.Code(append([]byte{0, '='}, text...)) // no text of a cell
	if fresh {
		d.tell(textInfo{text: text})
		d.SetOut(code, cased(c.spec.Case, out))
	}
	return code, true
}

// failed is the code of an error of a formula.
func (d *texts) failed() uint32 {
	code, fresh := d.Code([]byte{0, '#'}) // no text of a cell
	if fresh {
		d.tell(textInfo{gap: value.Error, odd: true})
	}
	return code
}

// code returns the code of a text, learned when it is new.
func (d *texts) code(c *column, text []byte) uint32 {
	code, fresh := d.Code(text)
	if fresh {
		d.learn(c, code)
	}
	return code
}

// learn works out what a new text becomes.
func (d *texts) learn(c *column, code uint32) {
	in := textInfo{text: value.TrimText(d.Seen(code))}
	out := in.text
	ok, open, total := true, false, false
	switch {
	case (!c.gapped() || c.ofTexts) && in.text == "": // what is absent, or made of nothing, is empty without a rule
		d.tell(in)
		return
	case c.gapped():
		in.gap = c.spec.Words.TextGap(in.text)
		_, total = c.totals.Says(in.text)
	}
	if in.gap == value.NoGap && c.spec.Read != nil {
		out, ok = c.spec.Read.Piece(in.text)
	}
	if in.gap == value.NoGap && ok {
		out, ok = c.spec.Kind.Read(c.reading, out)
	}
	if !ok {
		in.gap = misfit(c, in.text)
	}
	switch {
	case in.gap != value.NoGap:
		rule := c.spec.Gaps[in.gap]
		out = ""
		if rule.Remedy == plan.Put {
			out = rule.Text
		}
		in.odd = rule.Remedy != plan.Leave || in.gap != value.Blank
	case c.spec.Kind == plan.Name:
		in.name = true
		in.text = out // what was kept of it
		out, open = standard(c, &in)
	}
	if in.gap == value.NoGap {
		out = cased(c.spec.Case, out)
	}
	if in.name || in.gap != value.NoGap {
		d.tell(in)
	} else {
		d.tellPlain()
	}
	if open {
		d.marks[code] |= openMark
	}
	if total {
		d.marks[code] |= totalMark
	}
	d.SetOut(code, out)
}

// misfit tells which gap a text is that does not read: text, or unclear where the
// column wants a number or a date and a digit is in it.
func misfit(c *column, text string) value.Gap {
	if c.spec.Kind == plan.Text || c.spec.Kind == plan.Name {
		return value.Text
	}
	return c.spec.Words.GapOf(text)
}

// standard looks a name up in its book. open says that its first spelling is to
// decide.
func standard(c *column, in *textInfo) (out string, open bool) {
	if c.book != nil {
		if standard, how, ok := c.book.Find(in.text); ok {
			in.how = how
			return standard, false
		}
		in.how = names.Unknown
	}
	switch {
	case c.firsts:
		return "", true
	case c.spec.Unknown.Remedy == plan.Put:
		return c.spec.Unknown.Text, false
	default:
		in.odd = true
	}
	return "", false
}

// cased writes a text in the case its column wants. Casers keep state; each call
// has its own.
func cased(c plan.Case, s string) string {
	switch c {
	case plan.Lower:
		return strings.ToLower(s)
	case plan.Upper:
		return strings.ToUpper(s)
	case plan.TitleCase:
		return cases.Title(language.Und).String(s)
	}
	return s
}
