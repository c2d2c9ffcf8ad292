package layout

import (
	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Reason is why an extract row is left out before it becomes a fact row.
type Reason uint8

const (
	BlankRow Reason = iota
	RepeatedHeader
)

var reasonNames = [...]string{"blank", "repeated header"}

// String returns the reason as the record calls it.
func (r Reason) String() string { return reasonNames[r] }

// LeftOut is one row that is not used.
type LeftOut struct {
	Row    int // its index
	Reason Reason
}

// Sorted are the rows of a block: which are used, which are left out and why.
type Sorted struct {
	Used []int32
	Out  []LeftOut
}

// Sorter sorts the rows of the blocks of one extract after another; each worker
// has its own.
type Sorter struct {
	lineup *Lineup
	first  *table.Dict // texts of the first column …
	likely []bool      // … and whether each is that of the header
}

// Sort sorts the rows from index begin on into out. Rows that are used but too
// short, or too long, are problems.
func (s *Sorter) Sort(l *Lineup, rows *table.Rows, begin int, out *Sorted) place.List {
	if s.lineup != l || s.first.Full() {
		s.lineup, s.first, s.likely = l, table.NewDict(), s.likely[:0]
	}
	out.Used, out.Out = out.Used[:0], out.Out[:0]
	var problems place.List
	width := len(l.Header.Texts)
	for i := begin; i < rows.Len(); i++ {
		cells := rows.Row(i)
		switch {
		case blankRow(rows, i):
			out.Out = append(out.Out, LeftOut{i, BlankRow})
			continue
		case s.repeatsHeader(rows, cells):
			out.Out = append(out.Out, LeftOut{i, RepeatedHeader})
			continue
		case len(cells) < width:
			p := l.problem(rows, i, -1, "short row", "the row has fewer cells than the header")
			p.Advice = "is a cell or a delimiter missing?"
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

func (l *Lineup) problem(rows *table.Rows, i, column int, what, message string) place.Problem {
	at := l.Place
	at.Row = rows.Lines[i]
	if column >= 0 {
		at.Header = "column " + Letter(column)
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
func blankRow(rows *table.Rows, i int) bool {
	for _, c := range rows.Row(i) {
		if c.End > c.Off && len(value.Trim(rows.Data[c.Off:c.End])) > 0 {
			return false
		}
	}
	return true
}

// repeatsHeader reports whether a row is the header once more, by the key. The
// first column settles it for nearly all rows: by its first letter, or once for
// each distinct text.
func (s *Sorter) repeatsHeader(rows *table.Rows, cells []table.Cell) bool {
	h := &s.lineup.Header
	if s.lineup.first >= len(cells) {
		return false
	}
	text, want := rows.Text(cells[s.lineup.first]), h.Keys[s.lineup.first]
	if want != "" && len(text) > 0 && letter(text[0]) != 0 && letter(text[0]) != want[0] {
		return false
	}
	code, fresh := s.first.Code(text)
	if fresh {
		s.likely = append(s.likely, key.Of(s.first.Seen[code]) == want)
	}
	if !s.likely[code] || len(cells) < len(h.Keys) {
		return false
	}
	for i, c := range cells {
		k := key.Of(string(rows.Text(c)))
		if i >= len(h.Keys) && k != "" || i < len(h.Keys) && k != h.Keys[i] {
			return false
		}
	}
	return true
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
