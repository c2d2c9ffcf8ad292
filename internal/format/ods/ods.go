// Package ods reads the sheets of .ods workbooks (OpenDocument 1.3, part 3,
// section 9) as streams.
//
// All sheets stand in one part, content.xml; they are read one after another where that is
// their order, else from the beginning of the part. What an element repeats is repeated, but for blank
// cells and rows with nothing behind them.
package ods

import (
	"bytes"
	"io"
	"slices"
	"strconv"
	"strings"
	"sync"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
	"umbau/internal/format/markup"
	"umbau/internal/format/packed"
)

const part = "content.xml"

// The limits of a sheet.
const (
	mostRows    = 1 << 24
	mostColumns = 16_384
)

// Format is that of these workbooks.
var Format = table.Format{Endings: []string{".ods"}}

// document is one part with the sheets. Where the reading of one sheet ended that of the next begins.
type document struct {
	member packed.Member
	limit  packed.Limits
	shelf  *packed.Shelf

	mutex sync.Mutex
	idle  []*stream
}

// stream is the part from some place on.
type stream struct {
	in     io.ReadCloser
	rest   []byte // that was read already
	sheets int    // that began before
}

// Open lists the sheets of a workbook in their order.
func Open(members []packed.Member, limits packed.Limits, shelf *packed.Shelf) ([]table.Table, error) {
	i := slices.IndexFunc(members, func(m packed.Member) bool { return m.Name == part })
	if i < 0 {
		return nil, markup.Damaged("%s is missing", part)
	}
	d := &document{member: members[i], limit: limits, shelf: shelf}
	in, err := d.member.Open(limits)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	var tables []table.Table
	hiddenStyles, style := map[string]bool{}, ""
	depth := 0
	err = markup.Each(in, func(_ []byte, _ int, t *markup.Tag) error {
		switch {
		case t.Is("style") && t.Start:
			style = t.Text("name")
		case t.Is("table-properties") && t.Text("display") == "false":
			hiddenStyles[style] = true
		case t.Is("table") && t.Start && !t.End:
			if depth++; depth == 1 {
				if int64(len(tables)) == limits.Sheets {
					return packed.Beyond("sheets", limits.Sheets, "a workbook of more than %d sheets", limits.Sheets)
				}
				tables = append(tables, d.sheet(len(tables), t.Text("name"), hiddenStyles[t.Text("style-name")]))
			}
		case t.Is("table") && t.End && !t.Start:
			depth--
		}
		return nil
	})
	if err == markup.ErrType || err == markup.ErrSyntax {
		err = markup.Damaged("%v", err)
	}
	if err == nil && len(tables) == 0 {
		err = &table.FileError{Text: "this workbook has no sheets", Advice: "is it a table? save it as .xlsx or .csv"}
	}
	for i := range tables { // about
		tables[i].Size = d.member.Size / int64(len(tables))
	}
	return tables, err
}

// mostIdle is how many places the part is kept open at: one for each of those that read its sheets.
const mostIdle = 8

// at opens the part at a place before a sheet, the nearest there is.
func (d *document) at(sheet int) (*stream, error) {
	d.mutex.Lock()
	best := -1
	for i, s := range d.idle {
		if s.sheets <= sheet && (best < 0 || s.sheets > d.idle[best].sheets) {
			best = i
		}
	}
	if best >= 0 {
		s := d.idle[best]
		d.idle = slices.Delete(d.idle, best, best+1)
		d.mutex.Unlock()
		return s, nil
	}
	d.mutex.Unlock()
	in, err := d.member.Open(d.limit)
	return &stream{in: in}, err
}

// leave keeps the part open where a sheet ended, for one of the next.
func (d *document) leave(s *stream) {
	d.shelf.Put(d, func() {
		d.mutex.Lock()
		defer d.mutex.Unlock()
		for _, s := range d.idle {
			s.in.Close()
		}
		d.idle = nil
	})
	d.mutex.Lock()
	defer d.mutex.Unlock()
	if d.idle = append(d.idle, s); len(d.idle) > mostIdle {
		d.idle[0].in.Close()
		d.idle = slices.Delete(d.idle, 0, 1)
	}
}

// sheet is one of the document.
func (d *document) sheet(index int, name string, hidden bool) table.Table {
	return table.Table{Sheet: name, Hidden: hidden, Open: func(how table.Reading) (table.Source, error) {
		from, err := d.at(index)
		if err != nil {
			return nil, err
		}
		seen, depth, column := from.sheets-1, 0, 0
		body := func(t *markup.Tag) bool {
			if !t.Is("table") || t.Start && t.End {
				return false
			}
			if t.Start {
				if depth++; depth == 1 {
					seen++
				}
				return depth == 1 && seen == index
			}
			depth--
			return depth == 0 && seen == index
		}
		return &sheet{document: d, index: index, Blocks: markup.NewBlocks(from.in, from.rest, how.Count, markup.Dialect{
			Body:   body,
			Row:    "table-row",
			Filled: []string{":p>", ":p ", "value-type=", "formula="},
			Rows:   rowNumbers,
			Blank:  func(from, to int) string { return blankRows(to - from + 1) },
			Hides:  hides,
			Columns: func(t *markup.Tag, within bool) (table.Span, bool) {
				if !within || !t.Is("table-column") {
					return table.Span{}, false
				}
				first := column + 1
				column += repeated(t, "number-columns-repeated")
				return table.Span{First: first, Last: column}, hides(t) && first <= column
			},
		})}, nil
	}}
}

// hides reports whether the sheet hides what an element is of: by hand, or by a filter.
func hides(t *markup.Tag) bool {
	seen := string(t.Attr("visibility"))
	return seen == "collapse" || seen == "filter"
}

func blankRows(n int) string {
	return `<table:table-row table:number-rows-repeated="` + strconv.Itoa(n) + `"/>`
}

// rowNumbers are the numbers of the rows that an element stands for.
func rowNumbers(t *markup.Tag, before int) (first, last int, err error) {
	n := repeated(t, "number-rows-repeated")
	if n < 1 || before+n > mostRows {
		return 0, 0, markup.Damaged("a sheet has more than %d rows", mostRows)
	}
	return before + 1, before + n, nil
}

// repeated is how often an element stands for itself; 0 for no number.
func repeated(t *markup.Tag, attr string) int {
	v := t.Attr(attr)
	if v == nil {
		return 1
	}
	n, err := strconv.Atoi(string(v))
	if err != nil || n < 1 || n > 1<<30 {
		return 0
	}
	return n
}

type sheet struct {
	*markup.Blocks
	document *document
	index    int
}

// Close implements table.Source.
func (s *sheet) Close() error {
	if rest, ok := s.Blocks.Behind(); ok {
		s.document.leave(&stream{in: s.Blocks.In(), rest: rest, sheets: s.index + 1})
		return nil
	}
	return s.Blocks.Close()
}

// Split implements table.Source.
func (s *sheet) Split(b table.Block, rows *table.Rows) error {
	p := rowParser{limits: &s.document.limit, data: b.Data, rows: rows, number: b.Line}
	rows.Data = rows.Scratch[:0]
	if err := p.parse(); err != nil {
		return err
	}
	rows.End()
	rows.Scratch = rows.Data
	return nil
}

// rowParser takes the rows of a block apart.
type rowParser struct {
	limits  *packed.Limits
	data    []byte
	rows    *table.Rows
	number  int // of the next row
	repeats int // of the row at hand
	blanks  int // cells that wait for one that holds something

	bytes     int64 // of all texts, those that stand more than once counted each time
	cell      markup.Tag
	inCell    bool
	text      []byte
	texts     int // paragraphs so far
	notes     int // depth within notes, frames and sub-tables
	paragraph int // where the text of the paragraph goes on, -1 outside
}

func (p *rowParser) wrong(format string, args ...any) error {
	return &table.RowError{Row: p.number, Text: markup.Damaged(format, args...).Error()}
}

func (p *rowParser) parse() error {
	at := 0
	p.paragraph = -1
	var t markup.Tag
	for {
		err := t.Next(p.data, at)
		if err == markup.ErrMore && !markup.Cut(p.data, at) {
			return nil
		}
		if err != nil {
			return p.wrong("%v", err)
		}
		if p.inCell {
			p.inside(&t, at)
		}
		switch {
		case p.notes > 0:
		case t.Is("table-row"):
			if t.Start {
				p.repeats, p.blanks = repeated(&t, "number-rows-repeated"), 0
				p.begin()
			}
			if p.inCell {
				return p.wrong("a cell has no end")
			}
			if t.End {
				if err := p.endRow(); err != nil {
					return err
				}
			}
		case t.Is("table-cell") || t.Is("covered-table-cell"):
			if t.Start && p.inCell {
				return p.wrong("a cell has no end")
			}
			if t.Start {
				p.cell, p.inCell, p.text, p.texts = t, true, p.text[:0], 0
			}
			if t.End {
				p.inCell = false
				if err := p.finish(); err != nil {
					return err
				}
			}
		}
		at = t.To
	}
}

// inside takes the tags within a cell: its paragraphs, but not those of notes.
func (p *rowParser) inside(t *markup.Tag, at int) {
	if t.Is("annotation") || t.Is("frame") || t.Is("table") || t.Is("shapes") {
		switch {
		case t.Start && !t.End:
			p.notes++
		case t.End && !t.Start:
			p.notes--
		}
		p.paragraph = -1
		return
	}
	if p.notes > 0 {
		return
	}
	if p.paragraph >= 0 {
		p.text = markup.AppendText(p.text, p.data[at:t.From])
	}
	switch {
	case t.Is("p") && t.Start && !t.End:
		if p.texts++; p.texts > 1 {
			p.text = append(p.text, '\n')
		}
		p.paragraph = t.To
	case t.Is("p"):
		p.paragraph = -1
	case t.Is("s") && t.Start:
		n := 1
		if v := t.Attr("c"); v != nil {
			n, _ = strconv.Atoi(string(v))
		}
		p.text = append(p.text, strings.Repeat(" ", max(0, min(n, 1000)))...)
	case t.Is("tab") && t.Start:
		p.text = append(p.text, '\t')
	case t.Is("line-break") && t.Start:
		p.text = append(p.text, '\n')
	}
}

func (p *rowParser) begin() {
	p.rows.Starts = append(p.rows.Starts, uint32(len(p.rows.Cells)))
	p.rows.Lines = append(p.rows.Lines, p.number)
}

// endRow repeats a row as often as it says.
func (p *rowParser) endRow() error {
	first := int(p.rows.Starts[len(p.rows.Starts)-1])
	cells := len(p.rows.Cells) - first
	if cells > 0 {
		text := 0
		for _, c := range p.rows.Cells[first:] {
			text += int(c.End - c.Off)
		}
		if err := p.room(cells*(p.repeats-1)+p.repeats, text*(p.repeats-1)); err != nil {
			return err
		}
	}
	for p.number++; p.repeats > 1; p.repeats-- {
		p.begin()
		p.rows.Cells = append(p.rows.Cells, p.rows.Cells[first:first+cells]...)
		p.rows.Kinds = append(p.rows.Kinds, p.rows.Kinds[first:first+cells]...)
		p.number++
	}
	return nil
}

// room reports whether there is room for so many more cells and bytes of text.
func (p *rowParser) room(cells, text int) error {
	p.bytes += int64(text)
	var beyond *table.FileError
	switch l := p.limits; {
	case int64(len(p.rows.Cells)+cells) > l.Cells:
		beyond = packed.Beyond("cells", l.Cells, "some rows of a sheet have more than %d cells together", l.Cells)
	case p.bytes > l.Texts:
		beyond = packed.Beyond("texts", l.Texts, "the cells of some rows of a sheet take more than %d MB together", l.Texts>>20)
	default:
		return nil
	}
	return &table.RowError{Row: p.number, Text: beyond.Text, Advice: beyond.Advice}
}

// finish adds a cell as often as it stands there; blank ones only when one that
// holds something follows.
func (p *rowParser) finish() error {
	n := repeated(&p.cell, "number-columns-repeated")
	from := len(p.rows.Data)
	kind, err := p.value()
	if err != nil {
		return err
	}
	if len(p.rows.Data) == from && kind == table.TextCell {
		p.blanks += n
		return nil
	}
	row := len(p.rows.Cells) - int(p.rows.Starts[len(p.rows.Starts)-1])
	if n < 1 || row+p.blanks+n > mostColumns {
		return p.wrong("it has more than %d cells", mostColumns)
	}
	if err := p.room(p.blanks+n, (len(p.rows.Data)-from)*n); err != nil {
		return err
	}
	for ; p.blanks > 0; p.blanks-- {
		p.rows.Cells, p.rows.Kinds = append(p.rows.Cells, table.Cell{Off: uint32(from), End: uint32(from)}), append(p.rows.Kinds, table.TextCell)
	}
	for range n {
		p.rows.Cells = append(p.rows.Cells, table.Cell{Off: uint32(from), End: uint32(len(p.rows.Data))})
		p.rows.Kinds = append(p.rows.Kinds, kind)
	}
	return nil
}

// value appends the text of the cell and tells its kind.
func (p *rowParser) value() (table.CellKind, error) {
	t := &p.cell
	if t.Is("covered-table-cell") {
		return table.TextCell, nil
	}
	switch string(t.Attr("value-type")) {
	case "float", "percentage", "currency":
		v, ok := bytes.TrimSpace(t.Attr("value")), false
		if code := t.Text("currency"); value.CurrencyIn(code) == code { // which counts as if it stood in the cell
			p.rows.Data = append(p.rows.Data, code...)
		}
		if p.rows.Data, ok = markup.AppendNumber(p.rows.Data, v); !ok {
			return 0, p.wrong("a cell holds the number %q", v[:min(len(v), 40)])
		}
		return table.NumberCell, nil
	case "date":
		day, clock, _ := strings.Cut(t.Text("date-value"), "T")
		p.rows.Data = append(p.rows.Data, day...)
		if clock, _, _ = strings.Cut(clock, "."); clock != "" && clock != "00:00:00" {
			p.rows.Data = append(append(p.rows.Data, ' '), clock...)
		}
		return table.DateCell, nil
	case "boolean":
		p.rows.Data = append(p.rows.Data, strings.ToUpper(t.Text("boolean-value"))...)
		return table.OtherCell, nil
	case "string":
		if text := t.Attr("string-value"); text != nil && len(p.text) == 0 {
			p.rows.Data = append(p.rows.Data, t.Text("string-value")...)
			return table.TextCell, nil
		}
	case "":
		if t.Attr("formula") != nil && len(p.text) == 0 {
			return table.FormulaCell, nil
		}
	}
	p.rows.Data = append(p.rows.Data, p.text...)
	return table.TextCell, nil
}
