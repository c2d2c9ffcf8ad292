package xlsx

import (
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// What a sheet holds.
const (
	sheetRows  = excelize.TotalRows
	mostText   = excelize.TotalCellChars // in units of UTF-16
	mostDigits = 15                      // of a number
)

// sink is a workbook under way: a sheet with the rows, and one that says what they are.
type sink struct {
	file    *whole.File
	title   string
	sheet   string
	columns []table.SinkColumn
	styles  styles
	book    *excelize.File
	stream  *excelize.StreamWriter // nil until the widths are known
	waiting [][]cell               // rows until then
	bold    []bool                 // of these
	rows    int
	long    int // numbers that stand as text
	early   int // dates that do
	sums    []value.Sum
}

// cell is what stands in a cell.
type cell struct {
	kind   cellKind
	number float64
	text   string
}

type cellKind uint8

const (
	noCell cellKind = iota
	textCell
	numberCell
	flagCell
)

func newSink(t table.Target) (table.Sink, error) {
	f, err := whole.Create(t.To, t.Mark)
	if err != nil {
		return nil, err
	}
	return &sink{file: f, title: t.Title, sheet: sheetName(t.To)}, nil
}

// sheetName is what the sheet with the rows is called: as the file, as far as a sheet can be.
func sheetName(file string) string {
	name := strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))
	name = strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]`, r) {
			return ' '
		}
		return r
	}, name)
	name = strings.Trim(name, "' ")
	for len(utf16.Encode([]rune(name))) > excelize.MaxSheetNameLength {
		_, n := utf8.DecodeLastRuneInString(name)
		name = strings.TrimSpace(name[:len(name)-n])
	}
	if name == "" || strings.EqualFold(name, aboutSheet) || strings.EqualFold(name, "history") {
		return "Fact table"
	}
	first, n := utf8.DecodeRuneInString(name)
	return string(unicode.ToUpper(first)) + name[n:]
}

// Begin implements table.Sink.
func (s *sink) Begin(columns []table.SinkColumn) (err error) {
	s.close()
	s.columns, s.rows, s.long, s.early, s.waiting = columns, 0, 0, 0, nil
	s.sums = make([]value.Sum, len(columns))
	s.book = excelize.NewFile()
	if err := s.book.SetSheetName("Sheet1", s.sheet); err != nil {
		return err
	}
	if s.styles, err = newStyles(s.book, columns); err != nil {
		return err
	}
	return s.file.Empty()
}

// part turns the rows of a block into cells.
type part struct {
	of    *sink
	cells [][]cell
	bold  []bool // by row
	sums  []value.Sum
	long  int
	early int
	err   place.List
}

// Part implements table.Sink.
func (s *sink) Part() table.SinkPart { return &part{of: s} }

// Encode implements table.SinkPart.
func (p *part) Encode(b *table.Batch) {
	p.cells, p.bold, p.long, p.early, p.err = nil, nil, 0, 0, nil
	p.sums = make([]value.Sum, len(p.of.columns))
	n := 0
	for range b.Delivered {
		n++
	}
	all := make([]cell, n*len(p.of.columns))
	for row, slot := range b.Delivered {
		own := all[:len(p.of.columns):len(p.of.columns)]
		all = all[len(own):]
		for i := range p.of.columns {
			c := &b.Columns[p.of.columns[i].Index]
			at := c.At(row, slot, b.Slots)
			if c.Texts == nil {
				own[i] = p.number(c, at, i)
				continue
			}
			text := c.Texts.Out(c.Codes[at])
			if own[i] = p.text(text, p.of.columns[i].Is); own[i].kind == textCell {
				p.check(b, text, row, slot, p.of.columns[i].Name)
			}
		}
		_, strong := slices.BinarySearch(b.Strong, row)
		p.cells, p.bold = append(p.cells, own), append(p.bold, strong)
	}
}

// number is the cell of a number: as text where a sheet does not hold all of its digits.
func (p *part) number(c *table.Column, at, i int) cell {
	d, ok := c.Decimal(at)
	if !ok {
		return cell{}
	}
	p.sums[i].Add(d)
	if coef, places, ok := d.Shorten().Small(); ok && coef > -1e15 && coef < 1e15 {
		return cell{kind: numberCell, number: float64(coef) / float64(value.Power(places))}
	}
	p.long++
	return cell{kind: textCell, text: d.String()}
}

// text is the cell of a value that is written as text: dates are days, years numbers.
func (p *part) text(text, is string) cell {
	if text == "" {
		return cell{}
	}
	switch is {
	case "year":
		if n, err := strconv.Atoi(text); err == nil {
			return cell{kind: numberCell, number: float64(n)}
		}
	case "flag":
		return cell{kind: flagCell, text: text}
	case "date", "month":
		form := time.DateOnly
		if is == "month" {
			form = "2006-01"
		}
		at, err := time.Parse(form, text)
		if days := at.Sub(time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)).Hours() / 24; err == nil && days > 60 {
			return cell{kind: numberCell, number: days}
		}
		p.early++
	}
	return cell{kind: textCell, text: strings.Clone(text)}
}

// check reports a text that a cell cannot hold.
func (p *part) check(b *table.Batch, text string, row, slot int, column string) {
	why := ""
	switch {
	case len(text) > mostText && len(utf16.Encode([]rune(text))) > mostText:
		why = fmt.Sprintf("a text has more than the %d characters that a cell of a workbook holds", mostText)
	case strings.IndexFunc(text, func(r rune) bool {
		return r < ' ' && r != '\t' && r != '\n' && r != '\r' || r == 0xfffe ||
			r == 0xffff
	}) >= 0:
		why = "a text has a control character, which a workbook cannot hold"
	default:
		return
	}
	var at place.Place
	if b.Where != nil {
		at = b.Where(row, slot)
	}
	problem := place.At(at, "output", "column %s: %s", column, why)
	problem.Advice = "deliver to another format, or mend the cell"
	p.err.Add(problem)
}

// widthRows is how many rows tell how wide the columns are.
const widthRows = 1000

// Put implements table.SinkPart.
func (p *part) Put() error {
	s := p.of
	if len(p.err) > 0 {
		return p.err
	}
	for i := range p.sums {
		s.sums[i].Merge(&p.sums[i])
	}
	s.long, s.early = s.long+p.long, s.early+p.early
	if s.rows+len(s.waiting)+len(p.cells) > sheetRows-1 {
		problem := place.At(place.Place{File: filepath.Base(s.file.Target)}, "output",
			"a sheet holds %d rows below its header, and there are more",
			sheetRows-1).ByRule()
		problem.Advice = "make a file for each year with {year} in the path, or deliver to another format"
		return place.List{problem}
	}
	if s.stream == nil {
		s.waiting, s.bold = append(s.waiting, p.cells...), append(s.bold, p.bold...)
		if len(s.waiting) < widthRows {
			return nil
		}
		return s.begin()
	}
	return s.write(p.cells, p.bold)
}

// begin begins the sheet, with the rows that wait.
func (s *sink) begin() (err error) {
	if err := onPaper(s.book, s.sheet); err != nil {
		return err
	}
	if s.stream, err = s.book.NewStreamWriter(s.sheet); err != nil {
		return err
	}
	for i, c := range s.columns {
		width := utf8.RuneCountInString(c.Name) + 4 // and the mark of the filter
		for _, row := range s.waiting[:min(len(s.waiting), widthRows)] {
			width = max(width, s.widthOf(&row[i], c)+2)
		}
		if err := s.stream.SetColWidth(i+1, i+1, float64(min(width, 60))); err != nil {
			return err
		}
	}
	if err := s.stream.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	head := make([]any, len(s.columns))
	for i, c := range s.columns {
		head[i] = excelize.Cell{StyleID: s.styles.bold, Value: c.Name}
		if c.Numeric() {
			head[i] = excelize.Cell{StyleID: s.styles.right, Value: c.Name}
		}
	}
	if err := s.stream.SetRow("A1", head); err != nil {
		return err
	}
	waiting, bold := s.waiting, s.bold
	s.waiting, s.bold = nil, nil
	return s.write(waiting, bold)
}

// widthOf is how many characters a cell shows.
func (s *sink) widthOf(c *cell, of table.SinkColumn) int {
	if c.kind != numberCell {
		return utf8.RuneCountInString(c.text)
	}
	switch of.Is {
	case "date":
		return len(time.DateOnly)
	case "month":
		return len("2006-01")
	case "year":
		return 4
	}
	text := strconv.FormatFloat(c.number, 'f', of.Decimals, 64)
	return len(text) + len(text)/4
}

// write writes rows.
func (s *sink) write(rows [][]cell, bold []bool) error {
	values := make([]any, len(s.columns))
	cells := make([]excelize.Cell, len(s.columns))
	for k, row := range rows {
		for i := range row {
			values[i] = nil
			c := &cells[i]
			switch row[i].kind {
			case textCell:
				*c = excelize.Cell{StyleID: s.styles.text, Value: row[i].text}
			case numberCell:
				*c = excelize.Cell{StyleID: s.styleOf(s.columns[i]), Value: row[i].number}
			case flagCell:
				*c = excelize.Cell{Value: row[i].text == "true"}
			default:
				continue
			}
			if values[i] = c; bold[k] {
				id, err := s.strong(c.StyleID)
				if err != nil {
					return err
				}
				c.StyleID = id
			}
		}
		s.rows++
		at, err := excelize.CoordinatesToCellName(1, s.rows+1)
		if err != nil {
			return err
		}
		if err := s.stream.SetRow(at, values); err != nil {
			return err
		}
	}
	return nil
}

// End implements table.Sink.
func (s *sink) End() ([]table.Written, error) {
	if s.stream == nil {
		if err := s.begin(); err != nil {
			return nil, err
		}
	}
	last, err := excelize.CoordinatesToCellName(max(1, len(s.columns)), max(2, s.rows+1))
	if err != nil {
		return nil, err
	}
	if tableFits(s.columns) {
		if err := s.stream.AddTable(&excelize.Table{Range: "A1:" + last, Name: "Facts", StyleName: "TableStyleLight1"}); err != nil {
			return nil, err
		}
	}
	if err := s.stream.Flush(); err != nil {
		return nil, err
	}
	if err := s.writeAbout(); err != nil {
		return nil, err
	}
	if _, err := s.book.WriteTo(s.file); err != nil {
		return nil, err
	}
	s.close()
	return []table.Written{{File: s.file.Temp, Bytes: s.file.Bytes, Rows: -1}}, s.file.Finish()
}

// tableFits reports whether the headers can be those of a table: none twice in any case.
func tableFits(columns []table.SinkColumn) bool {
	seen := map[string]bool{}
	for _, c := range columns {
		name := strings.ToLower(c.Name)
		if name == "" || len(name) > 255 || seen[name] {
			return false
		}
		seen[name] = true
	}
	return true
}

// Remarks implements table.Remarking.
func (s *sink) Remarks() (out []string) {
	if s.long > 0 {
		out = append(out, fmt.Sprintf("numbers with more than %d digits, which stand as text: %d", mostDigits, s.long))
	}
	if s.early > 0 {
		out = append(out, fmt.Sprintf("dates before March 1900, which stand as text: %d", s.early))
	}
	return out
}

// Publish implements table.Sink.
func (s *sink) Publish() error { return s.file.Publish() }

// Abandon implements table.Sink.
func (s *sink) Abandon() {
	s.close()
	s.file.Abandon()
}

// close gives back what the workbook under way holds.
func (s *sink) close() {
	if s.book != nil {
		s.book.Close() // its temporary files
	}
	s.book, s.stream = nil, nil
}
