package layout

import (
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
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
	SameRow
)

var reasonNames = [...]string{"blank", "section", "footnote", "repeated header", "total", "same row"}

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
	Totals   []int32 // rows too short or too long to be used that are total rows, listed in Out too
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

	// Branches are the lines of rows that are no footnotes, for their label stands
	// above them.
	Branches map[int]bool
}

// Sort sorts the rows from index begin on into out. last says that no more rows
// will come. Rows that are used but too short, or too long, are problems.
func (s *Sorter) Sort(l *Lineup, rows *table.Rows, begin int, last bool, out *Sorted) (problems place.List) {
	if s.lineup != l || s.first.Full() {
		s.lineup, s.first, s.likely = l, table.NewDict(), s.likely[:0]
	}
	s.singles = s.singles[:0]
	out.Tail = rows.Len()
	problems = s.pass(rows, begin, true, 0, last, out)
	if len(s.singles) == 0 || !l.Measures() {
		s.titles(rows, rows.Len(), out.Tail, &problems)
		return problems
	}
	deepest := LastMeasure(l, rows, begin)
	defer func() { s.titles(rows, deepest, out.Tail, &problems) }()
	if !last && (l.Entry.Sections != "" || l.Entry.Footnotes != plan.Keep || len(l.Entry.Titles) > 0) {
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

// titles stops for lines of one filled cell that fit a pattern of titles: another table
// may begin there. Where a pattern fits any text, only those do below which rows with a
// measure follow; where the plan has sections, none.
func (s *Sorter) titles(rows *table.Rows, deepest, upTo int, problems *place.List) {
	l := s.lineup
	if len(l.Entry.Titles) == 0 || l.Entry.Sections != "" {
		return
	}
	for _, i := range s.singles {
		text := OnlyText(rows, i)
		for _, t := range l.Entry.Titles {
			if i < upTo && t.Fits(text) && (i < deepest || t.Lettered()) {
				problems.Add(l.titleAgain(rows, i, t, text))
				break
			}
		}
	}
}

// titleAgain says that a line within the table fits a title.
func (l *Lineup) titleAgain(rows *table.Rows, i int, t *pattern.Pattern, text string) place.Problem {
	p := l.problem(rows, i, -1, "title again", "a line within the table fits the title "+strconv.Quote(t.String())+
		": another table may begin there")
	p.Texts = []string{text}
	p.Advice = "say which part is the table with area, or that such lines head the rows below them with sections"
	return p
}

// titleInTwo is the title that a row without a measure is once more, whose label and what it is stand in two cells (Branch:, Holm); nil
// where it is none.
func (l *Lineup) titleInTwo(rows *table.Rows, i int) (t *pattern.Pattern, text string) {
	cells := rows.Row(i)
	first := slices.IndexFunc(cells, func(c table.Cell) bool { return c.End > c.Off })
	for k, t := range l.Entry.Titles {
		head := l.titleHeads[k]
		if head == "" || first < 0 || !mayBe(rows.Text(cells[first]), head) || filledCells(rows, i, 3) != 2 {
			continue
		}
		if label := string(value.Trim(rows.Text(cells[first]))); key.Of(label) == head && !l.hasMeasure(rows, i) && t.Fits(Joined(rows, i)) {
			return t, Joined(rows, i)
		}
	}
	return nil, ""
}

// headOf is the key of what stands in a pattern before its first piece.
func headOf(t *pattern.Pattern) string {
	head, _, _ := strings.Cut(t.String(), "{")
	if strings.ContainsAny(head, `\\[*`) {
		return ""
	}
	return key.Of(head)
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
			} else if i > deepest && last && l.Entry.Footnotes != plan.Keep && !s.Branches[rows.Lines[i]] {
				out.Out = append(out.Out, LeftOut{i, Footnote})
				continue
			}
		}
		switch {
		case s.repeatsHeader(rows, cells):
			out.Out = append(out.Out, LeftOut{i, RepeatedHeader})
			continue
		case len(cells) < width || len(cells) > width || len(l.blank) > 0:
			p, wrong := l.misfit(rows, i)
			if !wrong {
				break
			}
			if _, total := l.TotalRow(rows, i); total { // only rows that remain can be too short, or too long
				out.Out = append(out.Out, LeftOut{i, TotalRow})
				out.Totals = append(out.Totals, int32(i))
			} else {
				problems.Add(p)
			}
			continue
		}
		if len(l.titleHeads) > 0 {
			if t, text := l.titleInTwo(rows, i); t != nil {
				problems.Add(l.titleAgain(rows, i, t, text))
			}
		}
		out.Used = append(out.Used, int32(i))
	}
	return problems
}

// misfit says what is wrong with a row that has other cells than the header.
func (l *Lineup) misfit(rows *table.Rows, i int) (p place.Problem, wrong bool) {
	if len(rows.Row(i)) < len(l.Header.Texts) {
		p = l.problem(rows, i, -1, "short row", "the row has fewer cells than the header")
		p.Add, p.Advice = "short_rows: fill", "is a cell or a delimiter missing?"
		return p, true
	}
	if c := l.strayCell(rows, i); c >= 0 {
		p = l.problem(rows, i, c, "cell without a header", "a filled cell stands where there is no header")
		p.Advice = "is a cell with a comma not in quotes, or a header missing? others: [" + l.Header.Letter(c) + "] leaves the column aside"
		return p, true
	}
	return p, false
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
		if j >= len(l.measure) || !l.measure[j] {
			continue
		}
		if rows.Kind(i, j) == table.FormulaCell {
			return true
		}
		if c.End == c.Off {
			continue
		}
		if _, _, ok := l.Number(rows, i, j); ok {
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
func (l *Lineup) Number(rows *table.Rows, i, j int) (d value.Decimal, currency string, ok bool) {
	reading := &l.Entry.Reading
	if rows.Kind(i, j) == table.NumberCell {
		reading = &value.Default
	}
	return reading.Number(rows.Text(rows.Row(i)[j]))
}

// TotalRow reports whether a row is a total row, and by which label: one of total words
// alone, or its only label, with a total word among others, that no book knows. A label
// whose words all stand in that one too is none of its own.
func (l *Lineup) TotalRow(rows *table.Rows, i int) (label string, total bool) {
	if l.Entry.Totals == plan.Keep || !l.mentionsTotal(rows, i) {
		return "", false
	}
	labels, among := l.labels(rows, i)
	switch {
	case among < 0:
		return "", false
	case l.Entry.Labels.Alone(labels[among]):
		return labels[among], true
	case l.Known(labels[among]):
		return "", false
	}
	words := strings.Fields(key.Of(labels[among]))
	for k, other := range labels {
		if k != among && slices.ContainsFunc(strings.Fields(key.Of(other)), func(w string) bool { return !slices.Contains(words, w) }) {
			return "", false
		}
	}
	return labels[among], true
}

// mentionsTotal reports whether a total word stands in a text of a row; few have one.
func (l *Lineup) mentionsTotal(rows *table.Rows, i int) bool {
	cells := rows.Row(i)
	if len(cells) == 0 {
		return false
	}
	all := table.Cell{Off: cells[0].Off, End: cells[len(cells)-1].End} // with what stands between them
	within := all.Off <= all.End
	for _, c := range cells {
		within = within && c.Off >= all.Off && c.End <= all.End
	}
	if within && !l.Entry.Labels.MaySay(rows.Text(all)) {
		return false
	}
	for _, c := range cells {
		if c.End == c.Off || !l.Entry.Labels.MaySay(rows.Text(c)) {
			continue
		}
		if _, among := l.Entry.Labels.Says(value.TrimText(string(rows.Text(c)))); among {
			return true
		}
	}
	return false
}

// SaysTotal reports whether a row has a total word in a label that no book knows.
func (l *Lineup) SaysTotal(rows *table.Rows, i int) bool {
	labels, among := l.labels(rows, i)
	return among >= 0 && !l.Known(labels[among])
}

// labels are the labels of a row, texts that are no number and no date, and which of
// them says total: one of total words alone, or the first with one among others; -1 for
// none.
func (l *Lineup) labels(rows *table.Rows, i int) (labels []string, total int) {
	total = -1
	for j, c := range rows.Row(i) {
		if w := l.Widen; w != nil && j == w.Header || c.End == c.Off || rows.Kind(i, j) == table.NumberCell || rows.Kind(i, j) == table.DateCell {
			continue
		}
		text := value.TrimText(string(rows.Text(c)))
		alone, among := l.Entry.Labels.Says(text)
		if text == "" || !among && !l.Entry.Reading.IsLabel(text) {
			continue
		}
		if labels = append(labels, text); alone {
			return labels, len(labels) - 1
		}
		if among && total < 0 {
			total = len(labels) - 1
		}
	}
	return labels, total
}

// LabelKeys are the labels of a row, by the key.
func (l *Lineup) LabelKeys(rows *table.Rows, i int) (out []string) {
	labels, _ := l.labels(rows, i)
	for _, label := range labels {
		out = append(out, key.Of(label))
	}
	return out
}

// OwnLabel is the first label of a row that is not among some, by their keys: those of a row beside it; else its first one,
// and false. It is "" where the row has none.
func (l *Lineup) OwnLabel(rows *table.Rows, i int, beside []string) (label string, own bool) {
	labels, _ := l.labels(rows, i)
	for _, label := range labels {
		if !slices.Contains(beside, key.Of(label)) {
			return label, true
		}
	}
	if len(labels) == 0 {
		return "", false
	}
	return labels[0], false
}

// NoTotal reports whether the entry says of a label of a row that it is no total.
func (l *Lineup) NoTotal(rows *table.Rows, i int) bool {
	labels, _ := l.labels(rows, i)
	return slices.ContainsFunc(labels, l.Entry.Labels.None)
}

// Words are the words of the labels of a row, by the key.
func (l *Lineup) Words(rows *table.Rows, i int) []string {
	labels, _ := l.labels(rows, i)
	return strings.Fields(key.Of(strings.Join(labels, " ")))
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

// strayCell returns the first filled cell without a header, of which nobody says that it is left aside, -1 if there is none.
func (l *Lineup) strayCell(rows *table.Rows, i int) int {
	cells := rows.Row(i)
	filled := func(c int) bool {
		return len(value.Trim(rows.Text(cells[c]))) > 0 || rows.Kind(i, c) == table.FormulaCell
	}
	for _, c := range l.blank {
		if filled(c) {
			return c
		}
	}
	for c := len(l.Header.Texts); c < len(cells); c++ {
		if filled(c) && !l.Entry.LeftAside(l.Header.Letter(c)) {
			return c
		}
	}
	return -1
}

// blankRow reports whether no cell of the row shows anything.
func blankRow(rows *table.Rows, i int) bool { return filledCells(rows, i, 1) == 0 }

// repeatsHeader reports whether a row is the header once more, by the key. First letters
// settle it for nearly all rows, mostly those of the first column; or its text, once for
// each.
func (s *Sorter) repeatsHeader(rows *table.Rows, cells []table.Cell) bool {
	h := &s.lineup.Header
	if h.rows != nil {
		return slices.ContainsFunc(h.rows, func(keys []string) bool { return sameKeys(rows, cells, keys) })
	}
	if s.lineup.first >= len(cells) || h.Row == 0 {
		return false
	}
	text, want := rows.Text(cells[s.lineup.first]), h.Keys[s.lineup.first]
	if !mayBe(text, want) || len(cells) < len(h.Keys) {
		return false
	}
	for i, want := range h.Keys {
		if !mayBe(rows.Text(cells[i]), want) {
			return false
		}
	}
	code, fresh := s.first.Code(text)
	if fresh {
		s.likely = append(s.likely, key.Of(s.first.Seen(code)) == want)
	}
	return s.likely[code] && sameKeys(rows, cells, h.Keys)
}

// mayBe reports whether a text may have a key, by the letters and digits that both begin
// with.
func mayBe(text []byte, want string) bool {
	for i := 0; i < len(text) && i < len(want); i++ {
		have := letter(text[i])
		if have == 0 || letter(want[i]) == 0 {
			break
		}
		if have != want[i] {
			return false
		}
	}
	return true
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
