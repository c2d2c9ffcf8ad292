package xlsx

import (
	"bytes"
	"fmt"
	"io"
	"strconv"

	"umbau/internal/core/table"
	"umbau/internal/format/markup"
	"umbau/internal/format/packed"
)

// The limits of a sheet (section 18.3.1).
const (
	mostRows    = 1_048_576
	mostColumns = 16_384
)

// sheet reads one sheet.
type sheet struct {
	*markup.Blocks
	book    *book
	strings *pool // which blocks need that are on their way when the sheet is closed …
	styles  []style
}

func newSheet(b *book, in io.ReadCloser, count func(int)) *sheet {
	return &sheet{book: b, strings: b.strings, styles: b.styles, Blocks: markup.NewBlocks(in, nil, count, markup.Dialect{
		Body:   func(t *markup.Tag) bool { return t.Is("sheetData") },
		Row:    "row",
		Filled: []string{"v>", "is>", "f>", "f/>"},
		Rows:   rowNumber,
		Blank:  func(_, to int) string { return fmt.Sprintf(`<row r="%d"/>`, to) },
		Hides:  hides,
		Columns: func(t *markup.Tag, within bool) (table.Span, bool) {
			if within || !t.Is("col") || !hides(t) {
				return table.Span{}, false
			}
			first, e1 := strconv.Atoi(string(t.Attr("min")))
			last, e2 := strconv.Atoi(string(t.Attr("max")))
			return table.Span{First: first, Last: min(last, mostColumns)}, e1 == nil && e2 == nil && first > 0 && first <= last
		},
	})}
}

// hides reports whether the sheet hides what an element is of.
func hides(t *markup.Tag) bool {
	hidden := string(t.Attr("hidden"))
	return hidden == "1" || hidden == "true"
}

// Close implements table.Source.
func (s *sheet) Close() error {
	defer s.book.let()
	return s.Blocks.Close()
}

// rowNumber is the number of the row that begins.
func rowNumber(t *markup.Tag, before int) (first, last int, err error) {
	r := t.Attr("r")
	n := before + 1
	if r != nil {
		if n, err = strconv.Atoi(string(r)); err != nil {
			return 0, 0, wrong("a sheet has a row %q", r)
		}
	}
	switch {
	case n < 1 || n > mostRows:
		return 0, 0, wrong("a sheet has a row %d; the last one is %d", n, mostRows)
	case n <= before:
		return 0, 0, wrong("row %d of a sheet stands after row %d", n, before)
	}
	return n, n, nil
}

// Split implements table.Source.
func (s *sheet) Split(b table.Block, rows *table.Rows) error {
	p := rowParser{sheet: s, data: b.Data, rows: rows, number: b.Line - 1}
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
	sheet  *sheet
	data   []byte
	rows   *table.Rows
	number int                // of the row at hand
	column int                // of the next cell
	blanks int                // cells that wait for one that holds something
	bytes  int64              // of all texts, those that stand more than once counted each time
	placed map[int]table.Cell // long shared strings that stand among the texts already

	// Of the cell at hand:
	kind    string
	style   int
	value   []byte // as it stands in v
	hasV    bool
	open    bool // it has not ended
	formula bool
	inline  collector
	isText  bool
}

func (p *rowParser) parse() error {
	at := 0
	var t markup.Tag
	for {
		err := t.Next(p.data, at)
		if err == markup.ErrMore && !p.open && !markup.Cut(p.data, at) {
			return nil
		}
		if err != nil {
			return p.wrong("%v", err)
		}
		switch {
		case p.open && (t.Is("row") || t.Is("c") && t.Start):
			return p.wrong("a cell has no end")
		case t.Is("row"):
			if t.Start {
				p.begin(&t)
			}
		case t.Is("c"):
			if p.open = !t.End; t.Start {
				if err := p.cell(&t); err != nil {
					return err
				}
			}
			if t.End {
				if err := p.finish(); err != nil {
					return err
				}
			}
		case t.Is("v"):
			if t.Start {
				p.hasV = true
			}
			if !t.Start {
				p.value = p.data[at:t.From]
			}
		case t.Is("f"):
			p.formula = true
		case t.Is("is"):
			p.isText = true
		case p.isText:
			p.inline.take(p.data, at, &t)
		}
		at = t.To
	}
}

func (p *rowParser) wrong(format string, args ...any) error {
	return &table.RowError{Row: p.number, Text: wrong(format, args...).Error()}
}

// begin begins a row; rows that are not stored before it are blank ones.
func (p *rowParser) begin(t *markup.Tag) {
	n := p.number + 1
	if r := t.Attr("r"); r != nil {
		n, _ = strconv.Atoi(string(r)) // Next has looked at it
	}
	for p.number++; p.number <= n; p.number++ {
		p.rows.Starts = append(p.rows.Starts, uint32(len(p.rows.Cells)))
		p.rows.Lines = append(p.rows.Lines, p.number)
	}
	p.number, p.column, p.blanks = n, 0, 0
}

// cell begins a cell; cells that are not stored before it are blank ones.
func (p *rowParser) cell(t *markup.Tag) error {
	p.kind, p.style, p.value, p.hasV, p.formula, p.isText = "", 0, nil, false, false, false
	p.inline = collector{text: p.inline.text[:0]}
	var r []byte
	for name, value, rest := markup.NextAttr(t.Attrs); name != nil; name, value, rest = markup.NextAttr(rest) {
		switch string(name) {
		case "r":
			r = value
		case "t":
			p.kind = kindOf(value)
		case "s":
			p.style, _ = strconv.Atoi(string(value))
		}
	}
	if r == nil {
		if p.column >= mostColumns {
			return p.wrong("it has more than %d cells", mostColumns)
		}
		return nil
	}
	column := -1
	for i, c := range r {
		if c |= 0x20; c < 'a' || c > 'z' || i > 3 {
			break
		}
		column = (column+1)*26 + int(r[i]|0x20-'a')
	}
	if column < 0 || column >= mostColumns {
		return p.wrong("it has a cell %q; the last column is XFD", r)
	}
	if column < p.column {
		return p.wrong("the cell %q stands after one further to the right", r)
	}
	p.blanks += column - p.column
	p.column = column
	return nil
}

// kindOf is the kind of a cell, without memory of its own for those there are.
func kindOf(t []byte) string {
	for _, k := range [...]string{"s", "n", "str", "inlineStr", "b", "e", "d"} {
		if string(t) == k {
			return k
		}
	}
	return string(t)
}

// add adds a cell, and blank ones before it; one that holds nothing waits for one that does.
func (p *rowParser) add(kind table.CellKind, text table.Cell) error {
	if p.column++; kind == table.TextCell && text.Off == text.End {
		p.blanks++
		return nil
	}
	limits := &p.sheet.book.limit
	if int64(len(p.rows.Cells)+p.blanks) >= limits.Cells {
		return p.beyond(packed.Beyond("cells", limits.Cells, "some rows of a sheet have more than %d cells together", limits.Cells))
	}
	if p.bytes += int64(text.End - text.Off); p.bytes > limits.Texts {
		return p.beyond(packed.Beyond("texts", limits.Texts, "the cells of some rows of a sheet take more than %d MB together", limits.Texts>>20))
	}
	for ; p.blanks > 0; p.blanks-- {
		p.rows.Cells, p.rows.Kinds = append(p.rows.Cells, table.Cell{Off: text.Off, End: text.Off}), append(p.rows.Kinds, table.TextCell)
	}
	p.rows.Cells, p.rows.Kinds = append(p.rows.Cells, text), append(p.rows.Kinds, kind)
	return nil
}

// beyond says in which row a limit was met.
func (p *rowParser) beyond(err *table.FileError) error {
	return &table.RowError{Row: p.number, Text: err.Text, Advice: err.Advice}
}

// longString is how long a shared string is that a block has only once.
const longString = 128

// shared is the text of a shared string.
func (p *rowParser) shared(i int) table.Cell {
	text := p.sheet.strings.at(i)
	if cell, ok := p.placed[i]; ok {
		return cell
	}
	from := len(p.rows.Data)
	p.rows.Data = append(p.rows.Data, text...)
	cell := table.Cell{Off: uint32(from), End: uint32(len(p.rows.Data))}
	if len(text) >= longString {
		if p.placed == nil {
			p.placed = map[int]table.Cell{}
		}
		p.placed[i] = cell
	}
	return cell
}

// finish ends a cell.
func (p *rowParser) finish() error {
	from := len(p.rows.Data)
	kind := table.TextCell
	v := p.value
	name := func() string { return columnName(p.column) + strconv.Itoa(p.number) }
	switch {
	case p.kind == "inlineStr" || p.isText:
		p.rows.Data = append(p.rows.Data, p.inline.text...)
	case len(v) == 0 && p.formula && (p.kind != "str" || !p.hasV):
		kind = table.FormulaCell
	case len(v) == 0:
	case p.kind == "s":
		i, err := strconv.Atoi(string(bytes.TrimSpace(v)))
		if n := p.sheet.strings.len(); err != nil || i < 0 || i >= n {
			return p.wrong("the cell %s points to the text %s, of which there are %d", name(), v, n)
		}
		return p.add(table.TextCell, p.shared(i))
	case p.kind == "str":
		p.rows.Data = appendText(p.rows.Data, v)
	case p.kind == "b":
		kind = table.OtherCell
		p.rows.Data = append(p.rows.Data, map[bool]string{true: "TRUE", false: "FALSE"}[string(v) == "1" || string(v) == "true"]...)
	case p.kind == "e":
		kind = table.OtherCell
		p.rows.Data = markup.AppendText(p.rows.Data, v)
	case p.kind == "d":
		kind = table.DateCell
		p.rows.Data = appendISO(p.rows.Data, v)
	default:
		v = bytes.TrimSpace(v)
		ok, shown := false, style{}
		if p.style >= 0 && p.style < len(p.sheet.styles) {
			shown = p.sheet.styles[p.style]
		}
		if shown.date {
			if p.rows.Data, ok = appendDate(p.rows.Data, v, p.sheet.book.from); ok {
				kind = table.DateCell
				break
			}
		}
		kind = table.NumberCell
		p.rows.Data = append(p.rows.Data, shown.currency...)
		if p.rows.Data, ok = markup.AppendNumber(p.rows.Data, v); !ok {
			return p.wrong("the cell %s holds the number %q", name(), v[:min(len(v), 40)])
		}
	}
	return p.add(kind, table.Cell{Off: uint32(from), End: uint32(len(p.rows.Data))})
}

// appendISO appends a date as ISO 8601 has it, without a time that is midnight.
func appendISO(dst, v []byte) []byte {
	day, clock, _ := bytes.Cut(v, []byte("T"))
	dst = append(dst, day...)
	clock, _, _ = bytes.Cut(bytes.TrimSuffix(clock, []byte("Z")), []byte("."))
	if len(clock) > 0 && string(clock) != "00:00:00" && string(clock) != "00:00" {
		dst = append(append(dst, ' '), clock...)
	}
	return dst
}

func columnName(i int) string {
	var b []byte
	for i++; i > 0; i = (i - 1) / 26 {
		b = append([]byte{byte('A' + (i-1)%26)}, b...)
	}
	return string(b)
}
