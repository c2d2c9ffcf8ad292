package layout

import (
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Reason is why an extract row is left out before it becomes a fact row.
type Reason uint8

// Why a row is left out.
const (
	BlankRow Reason = iota
	SectionRow
	Footnote
	RepeatedHeader
	TotalRow
)

var reasonNames = [...]string{"blank", "section", "footnote", "repeated header", "total"}

// String returns the reason as the record calls it.
func (r Reason) String() string { return reasonNames[r] }

// LeftOut is one row that is not used.
type LeftOut struct {
	Row    int // its index
	Reason Reason
}

// Sorted are the rows of a block: which are used, which are left out and why.
type Sorted struct {
	Used     []int32
	Out      []LeftOut
	Headings []Heading
	Totals   []int32 // rows too short to be used that are total rows, listed in Out too
	Tail     int     // the first row that only rows to come can decide; their number where there is none
}

// Heading is the text of a section row, which heads the used rows from number
// Used on.
type Heading struct {
	Used int
	Text string
}

// Sorter sorts the rows of the blocks of one extract after another; each worker
// has its own.
//
// Rows with a single filled cell need a look ahead: where rows with a measure
// follow they are section rows, if the plan has those, or rows like others; below
// the last row with a measure they are footnotes. What follows may be in the
// next block. Then the rows from the first such one on are the tail, which the
// next block takes over.
type Sorter struct {
	lineup  *Lineup
	first   *table.Dict // texts of the first column …
	likely  []bool      // … and whether each is that of the header
	singles []int       // rows of the block with a single filled cell
}

// Sort sorts the rows from index begin on into out. last says that no more rows
// will come. Rows that are used but too short, or too long, are problems.
func (s *Sorter) Sort(l *Lineup, rows *table.Rows, begin int, last bool, out *Sorted) place.List {
	if s.lineup != l || s.first.Full() {
		s.lineup, s.first, s.likely = l, table.NewDict(), s.likely[:0]
	}
	s.singles = s.singles[:0]
	out.Tail = rows.Len()
	problems := s.pass(rows, begin, true, 0, last, out)
	if len(s.singles) == 0 || !l.Measures() {
		return problems
	}
	deepest := LastMeasure(l, rows, begin)
	if !last {
		for _, i := range s.singles {
			if i > deepest {
				out.Tail = i
				break
			}
		}
	}
	if l.Entry.Sections == "" && (!last || l.Entry.Footnotes == plan.Keep) && out.Tail == rows.Len() {
		return problems
	}
	return s.pass(rows, begin, false, deepest, last, out)
}

// pass sorts the rows up to the tail. The first pass notes those with a single
// filled cell; the second knows the last row with a measure and decides them.
func (s *Sorter) pass(rows *table.Rows, begin int, first bool, deepest int, last bool, out *Sorted) place.List {
	l := s.lineup
	out.Used, out.Out, out.Headings, out.Totals = out.Used[:0], out.Out[:0], out.Headings[:0], out.Totals[:0]
	var problems place.List
	width := len(l.Header.Texts)
	for i := begin; i < out.Tail; i++ {
		cells := rows.Row(i)
		switch filledCells(rows, i, 2) {
		case 0:
			out.Out = append(out.Out, LeftOut{i, BlankRow})
			continue
		case 1:
			if first {
				s.singles = append(s.singles, i)
			} else if text := OnlyText(rows, i); i < deepest && l.Entry.Sections != "" && l.Entry.Reading.IsLabel(text) && !l.hasMeasure(rows, i) {
				out.Out = append(out.Out, LeftOut{i, SectionRow})
				out.Headings = append(out.Headings, Heading{len(out.Used), text})
				continue
			} else if i > deepest && last && l.Entry.Footnotes != plan.Keep {
				out.Out = append(out.Out, LeftOut{i, Footnote})
				continue
			}
		}
		switch {
		case s.repeatsHeader(rows, cells):
			out.Out = append(out.Out, LeftOut{i, RepeatedHeader})
			continue
		case len(cells) < width:
			if l.Entry.Totals != plan.Keep && l.saysTotal(rows, i) { // only rows that remain can be too short
				out.Out = append(out.Out, LeftOut{i, TotalRow})
				out.Totals = append(out.Totals, int32(i))
				continue
			}
			p := l.problem(rows, i, -1, "short row", "the row has fewer cells than the header")
			p.Add, p.Advice = "short_rows: fill", "is a cell or a delimiter missing?"
			problems.Add(p)
			continue
		case len(cells) > width || len(l.blank) > 0:
			if c := l.strayCell(rows, cells); c >= 0 {
				p := l.problem(rows, i, c, "cell without a header", "a filled cell stands where there is no header")
				p.Advice = "is a cell with a comma not in quotes, or a header missing?"
				problems.Add(p)
				continue
			}
		}
		out.Used = append(out.Used, int32(i))
	}
	return problems
}

// LastMeasure returns the last row from begin on that has a measure, begin - 1 if
// there is none.
func LastMeasure(l *Lineup, rows *table.Rows, begin int) int {
	for i := rows.Len() - 1; i >= begin; i-- {
		if l.hasMeasure(rows, i) {
			return i
		}
	}
	return begin - 1
}

// hasMeasure reports whether a row has a number, or what may be one, in a column of
// a measure.
func (l *Lineup) hasMeasure(rows *table.Rows, i int) bool {
	for j, c := range rows.Row(i) {
		if j >= len(l.measure) || !l.measure[j] || c.End == c.Off {
			continue
		}
		if _, ok := l.Number(rows, i, j); ok {
			return true
		}
		if g := value.GapOf(string(value.Trim(rows.Text(c)))); g == value.Unclear || g == value.Error {
			return true
		}
	}
	return false
}

// Number reads cell j of row i as a number: as the entry writes them, or as a sheet
// stores them.
func (l *Lineup) Number(rows *table.Rows, i, j int) (value.Decimal, bool) {
	style := &l.Entry.Reading.Numbers
	if rows.Kind(i, j) == table.NumberCell {
		style = &value.English
	}
	d, _, ok := style.Number(rows.Text(rows.Row(i)[j]))
	return d, ok
}

// saysTotal reports whether a row has a label of total words alone, or one of
// them in its only label.
func (l *Lineup) saysTotal(rows *table.Rows, i int) bool {
	labels, among := 0, false
	for _, c := range rows.Row(i) {
		text := string(value.Trim(rows.Text(c)))
		if text == "" {
			continue
		}
		alone, has := value.Total(text)
		if alone {
			return true
		}
		if l.Entry.Reading.IsLabel(text) {
			labels++
			among = among || has
		}
	}
	return among && labels == 1
}

// OnlyText is the text of the only filled cell of a row.
func OnlyText(rows *table.Rows, i int) string {
	for _, c := range rows.Row(i) {
		if text := value.Trim(rows.Text(c)); len(text) > 0 {
			return string(text)
		}
	}
	return ""
}

func (l *Lineup) problem(rows *table.Rows, i, column int, what, message string) place.Problem {
	at := l.Place
	at.Row = rows.Lines[i]
	if column >= 0 {
		at.Header = "column " + l.Header.Letter(column)
	}
	p := place.At(at, what, "%s", message).ByRule()
	p.Plan = l.Entry.Pos
	return p
}

// strayCell returns the first filled cell without a header, -1 if there is none.
func (l *Lineup) strayCell(rows *table.Rows, cells []table.Cell) int {
	for _, c := range l.blank {
		if len(value.Trim(rows.Text(cells[c]))) > 0 {
			return c
		}
	}
	for c := len(l.Header.Texts); c < len(cells); c++ {
		if len(value.Trim(rows.Text(cells[c]))) > 0 {
			return c
		}
	}
	return -1
}

// blankRow reports whether no cell of the row shows anything.
func blankRow(rows *table.Rows, i int) bool { return filledCells(rows, i, 1) == 0 }

// repeatsHeader reports whether a row is the header once more, by the key. The
// first column settles it for nearly all rows: by its first letter, or once for
// each distinct text.
func (s *Sorter) repeatsHeader(rows *table.Rows, cells []table.Cell) bool {
	h := &s.lineup.Header
	if h.rows != nil {
		return slices.ContainsFunc(h.rows, func(keys []string) bool { return sameKeys(rows, cells, keys) })
	}
	if s.lineup.first >= len(cells) || h.Row == 0 {
		return false
	}
	text, want := rows.Text(cells[s.lineup.first]), h.Keys[s.lineup.first]
	if want != "" && len(text) > 0 && letter(text[0]) != 0 && letter(text[0]) != want[0] {
		return false
	}
	code, fresh := s.first.Code(text)
	if fresh {
		s.likely = append(s.likely, key.Of(s.first.Seen(code)) == want)
	}
	if !s.likely[code] || len(cells) < len(h.Keys) {
		return false
	}
	return sameKeys(rows, cells, h.Keys)
}

// sameKeys reports whether cells have these keys, and nothing beyond them.
func sameKeys(rows *table.Rows, cells []table.Cell, keys []string) bool {
	for i, c := range cells {
		text := rows.Text(c)
		if i < len(keys) && len(text) > 3*len(keys[i])+32 {
			return false
		}
		k := key.Of(string(text))
		if i >= len(keys) && k != "" || i < len(keys) && k != keys[i] {
			return false
		}
	}
	return len(cells) >= len(keys)
}

// letter returns what an ASCII letter or digit at the beginning of a text is at
// the beginning of its key, 0 for any other byte.
func letter(c byte) byte {
	switch {
	case c >= 'A' && c <= 'Z':
		return c | 0x20
	case c >= 'a' && c <= 'z' || c >= '0' && c <= '9':
		return c
	}
	return 0
}
