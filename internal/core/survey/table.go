package survey

import (
	"context"
	"errors"
	"io"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Table is one table that came in. The rows that lie around its data are lists
// of row numbers.
type Table struct {
	Place     place.Place
	HeaderRow int // the last of several
	Rows      int // of data
	Columns   int // total columns included
	Facts     table.Facts
	Numbers   string // how they are written, "" where the plan's default reads them all, or where it does not show
	Dates     string
	Titles, Footnotes, BlankRows, RepeatedHeaders,
	TotalRows []int
	TotalColumns []string
	Fields       []Field
	TitleTexts   []string // of the first titles
	NoteTexts    []string // of the first footnotes

	traps   []Trap
	columns []*column
	keys    []string // of the headers
	groups  []string // of the labels of groups above them
	style   int      // of its numbers
	list    *lister  // nil where the table is surveyed
	waiting []waiting
	labels  map[string]label // what texts say of totals, of as many as fit
}

// label is what a text says of totals.
type label struct{ is, alone, among bool }

const mostLabels = 20_000

// label works out what a text says of totals, once for each.
func (t *Table) label(text []byte) label {
	if l, ok := t.labels[string(text)]; ok {
		return l
	}
	s := string(text)
	alone, among := value.Total(s)
	l := label{is: value.Default.IsLabel(s), alone: alone, among: among}
	if t.labels == nil {
		t.labels = map[string]label{}
	}
	if len(t.labels) < mostLabels {
		t.labels[s] = l
	}
	return l
}

// waiting is a row with a single filled cell, which rows below it decide.
type waiting struct {
	line  int
	cells []cell
}

// cell is one cell of a row, copied.
type cell struct {
	text string
	kind table.CellKind
}

// errEmpty says that a table has no row at all.
var errEmpty = errors.New("empty")

// window is how many rows are looked at for the header.
const window = 200

// mostListed is how many rows of each kind are listed.
const mostListed = 10_000

// surveyTable reads a table. With a lister its columns are known already, and their
// gaps are listed.
func surveyTable(ctx context.Context, at place.Place, from table.Table, count func(int), list *lister) (*Table, error) {
	src, err := from.Open(table.Reading{Count: count})
	if err != nil {
		return nil, err
	}
	defer src.Close()
	t := &Table{Place: at, list: list}
	var buf []byte
	var rows table.Rows
	begun := false
	var head []byte
	for ctx.Err() == nil {
		block, err := src.Next(buf)
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		buf = block.Data[:0]
		if !begun { // join blocks until the header must be among them
			head = append(head, block.Data...)
			block.Line = 1
			block.Data = append(head, make([]byte, table.BlockSlack)...)[:len(head)]
		}
		rows.Reset()
		if err := src.Split(block, &rows); err != nil {
			return nil, err
		}
		begin := 0
		if !begun {
			if rows.Len() < window && len(head) < 1<<20 {
				continue
			}
			if begin, err = t.begin(&rows); err != nil {
				return nil, err
			}
			begun = true
		}
		t.take(&rows, begin)
	}
	if !begun {
		if len(head) == 0 {
			return nil, errEmpty
		}
		begin, err := t.begin(&rows)
		if err != nil {
			return nil, err
		}
		t.take(&rows, begin)
	}
	t.Facts = src.Facts()
	if t.decide(true); list == nil {
		t.finish()
	}
	return t, nil
}

// begin finds the header among the first rows and returns the first row behind
// it. It is the first row that is filled as most are, but for a corner, with
// texts; or, where there is none near, one that is half as much. Rows above it
// that are filled too are titles, or labels of groups of columns.
func (t *Table) begin(rows *table.Rows) (int, error) {
	usual := usualWidth(rows)
	header, half, first, two := -1, -1, -1, -1
	for i := range rows.Len() {
		filled, texts := t.looks(rows, i)
		if filled > 0 && first < 0 {
			first = i
		}
		if filled < 2 {
			continue
		}
		if two < 0 {
			two = i
		}
		if 2*texts <= filled {
			continue
		}
		corner := filled == usual-1 && len(value.Trim(rows.Text(rows.Row(i)[0]))) == 0
		if filled >= usual || corner {
			header = i
			break
		}
		if half < 0 && 2*filled >= usual {
			half = i
		}
	}
	if header < 0 || half >= 0 && header > half+20 { // far down it is a row of data
		header = half
	}
	for _, other := range []int{two, first} {
		if header < 0 {
			header = other
		}
	}
	if header < 0 {
		return 0, errEmpty
	}
	groups := -1
	if header+1 < rows.Len() {
		filled, _ := t.looks(rows, header)
		if below, texts := t.looks(rows, header+1); below > filled && below == texts && t.grouped(rows, header+1) {
			groups, header = header, header+1
		}
	}
	if groups < 0 && header > 0 && t.grouped(rows, header) {
		groups = header - 1
	}
	t.setHeader(rows, header, groups)
	for i := range header {
		if i != groups && filledCells(rows, i) > 0 {
			t.Titles = append(t.Titles, rows.Lines[i])
			if len(t.TitleTexts) < 5 {
				t.TitleTexts = append(t.TitleTexts, joined(rows, i))
			}
		}
	}
	return header + 1, nil
}

// grouped reports whether the row above the header labels groups of its columns:
// two texts or more, above filled headers, each carried right over blank cells, and
// not from the first column on; or any texts, where headers repeat.
func (t *Table) grouped(rows *table.Rows, header int) bool {
	filled, texts := t.looks(rows, header-1)
	if filled == 0 || filled != texts || !t.fits(rows, header-1) {
		return false
	}
	seen := map[string]bool{}
	for _, c := range rows.Row(header) {
		k := key.Of(string(rows.Text(c)))
		if k != "" && seen[k] {
			return true
		}
		seen[k] = true
	}
	first := rows.Row(header - 1)[0]
	return filled > 1 && len(value.Trim(rows.Text(first))) == 0 && carried(rows, header-1)
}

// carried reports whether a label of the row stands for columns to its right too:
// a blank cell follows it.
func carried(rows *table.Rows, i int) bool {
	label := false
	for _, c := range rows.Row(i) {
		filled := len(value.Trim(rows.Text(c))) > 0
		if label && !filled {
			return true
		}
		label = label || filled
	}
	return false
}

// fits reports whether the row may hold the labels of groups: the row below fills
// all columns that it leaves blank.
func (t *Table) fits(rows *table.Rows, i int) bool {
	above, below := rows.Row(i), rows.Row(i+1)
	for j, c := range above {
		if len(value.Trim(rows.Text(c))) > 0 && (j >= len(below) || len(value.Trim(rows.Text(below[j]))) == 0) {
			return false
		}
	}
	return true
}

// looks counts the filled cells of a row, and those that may be headers: texts,
// dates and years.
func (t *Table) looks(rows *table.Rows, i int) (filled, texts int) {
	for j, c := range rows.Row(i) {
		text := string(value.Trim(rows.Text(c)))
		if text == "" {
			continue
		}
		filled++
		_, _, number := value.English.Number([]byte(text))
		_, date := value.Default.Year(text)
		if date || !number && value.TextGap(text) == value.NoGap && (rows.Kind(i, j) != table.NumberCell || date) {
			texts++
		}
	}
	return filled, texts
}

// usualWidth is how many filled cells most rows have that have two at least.
func usualWidth(rows *table.Rows) int {
	counts, best := map[int]int{}, 0
	for i := range rows.Len() {
		if n := filledCells(rows, i); n > 1 {
			counts[n]++
			if counts[n] > counts[best] || counts[n] == counts[best] && n > best {
				best = n
			}
		}
	}
	return best
}

func filledCells(rows *table.Rows, i int) int {
	n := 0
	for _, c := range rows.Row(i) {
		if c.End > c.Off && len(value.Trim(rows.Text(c))) > 0 {
			n++
		}
	}
	return n
}

// joined is the text of a row.
func joined(rows *table.Rows, i int) string {
	var texts []string
	for _, c := range rows.Row(i) {
		if text := value.Trim(rows.Text(c)); len(text) > 0 {
			texts = append(texts, string(text))
		}
	}
	return place.Shorten(strings.Join(texts, " "))
}

func (t *Table) setHeader(rows *table.Rows, header, groups int) {
	h := layout.ReadHeader(rows, header, 0)
	t.HeaderRow = h.Row
	if groups >= 0 {
		label := ""
		above := rows.Row(groups)
		for _, c := range above {
			t.groups = append(t.groups, key.Of(string(rows.Text(c))))
		}
		for i := range h.Texts {
			if i < len(above) {
				if text := string(value.Trim(rows.Text(above[i]))); text != "" {
					label = text
				}
			}
			if label != "" && h.Texts[i] != "" {
				h.Texts[i] = label + " | " + h.Texts[i]
			}
		}
	}
	for i, text := range h.Texts {
		t.keys = append(t.keys, key.Of(text))
		t.columns = append(t.columns, newColumn(text, layout.Letter(i)))
		if value.TotalAlone(text) {
			t.TotalColumns = append(t.TotalColumns, text)
		}
	}
	t.Columns = len(h.Texts)
}

// take takes the rows of a block from an index on.
func (t *Table) take(rows *table.Rows, begin int) {
	for i := begin; i < rows.Len(); i++ {
		switch filledCells(rows, i) {
		case 0:
			t.BlankRows = listed(t.BlankRows, rows.Lines[i])
			continue
		case 1:
			if t.Columns > 1 && len(t.waiting) < mostListed && !t.hasNumber(rows, i) {
				t.waiting = append(t.waiting, copied(rows, i))
				continue
			}
		}
		if t.repeats(rows, i) {
			t.RepeatedHeaders = listed(t.RepeatedHeaders, rows.Lines[i])
			continue
		}
		if t.hasNumber(rows, i) {
			t.decide(false)
		}
		if t.total(rows, i) {
			t.TotalRows = listed(t.TotalRows, rows.Lines[i])
			continue
		}
		if len(t.waiting) > 0 { // keep the order of rows
			t.waiting = append(t.waiting, copied(rows, i))
			continue
		}
		t.Rows++
		cells := rows.Row(i)
		if t.list != nil {
			t.list.row(rows, i)
			continue
		}
		for j, c := range t.columns {
			if j >= len(cells) {
				c.add(nil, table.TextCell, rows.Lines[i])
				continue
			}
			c.add(rows.Text(cells[j]), rows.Kind(i, j), rows.Lines[i])
		}
	}
}

func listed(list []int, line int) []int {
	if len(list) < mostListed {
		list = append(list, line)
	}
	return list
}

func copied(rows *table.Rows, i int) waiting {
	w := waiting{line: rows.Lines[i]}
	for j, c := range rows.Row(i) {
		w.cells = append(w.cells, cell{string(rows.Text(c)), rows.Kind(i, j)})
	}
	return w
}

// decide takes the rows that wait: as data where rows with a number follow, else
// as footnotes those with a single filled cell.
func (t *Table) decide(last bool) {
	for _, w := range t.waiting {
		filled := 0
		text := ""
		for _, c := range w.cells {
			if s := value.TrimText(c.text); s != "" {
				filled, text = filled+1, s
			}
		}
		if last && filled == 1 {
			t.Footnotes = listed(t.Footnotes, w.line)
			if len(t.NoteTexts) < 5 {
				t.NoteTexts = append(t.NoteTexts, place.Shorten(text))
			}
			continue
		}
		t.Rows++
		if t.list != nil {
			t.list.waited(w, len(t.columns))
			continue
		}
		for j, c := range t.columns {
			if j >= len(w.cells) {
				c.add(nil, table.TextCell, w.line)
			} else {
				c.add([]byte(w.cells[j].text), w.cells[j].kind, w.line)
			}
		}
	}
	t.waiting = t.waiting[:0]
}

// hasNumber reports whether a cell of the row is a number, or may be one.
func (t *Table) hasNumber(rows *table.Rows, i int) bool {
	cells := rows.Row(i)
	for j := len(cells) - 1; j >= 0; j-- {
		text := value.Trim(rows.Text(cells[j]))
		if len(text) == 0 {
			continue
		}
		if rows.Kind(i, j) == table.NumberCell {
			return true
		}
		if _, _, _, ok := value.Plain(text, '.'); ok {
			return true
		}
		if text[0] >= 'a' && text[0] <= 'z' {
			continue
		}
		for _, s := range value.Styles[:2] {
			if _, _, ok := s.Number(text); ok {
				return true
			}
		}
	}
	return false
}

// repeats reports whether the row is the header once more.
func (t *Table) repeats(rows *table.Rows, i int) bool {
	cells := rows.Row(i)
	if len(t.groups) > 0 && slices.EqualFunc(cells, t.groups, func(c table.Cell, k string) bool { return key.Of(string(rows.Text(c))) == k }) {
		return true
	}
	for j, k := range t.keys {
		if j >= len(cells) {
			return false
		}
		text := value.Trim(rows.Text(cells[j]))
		if len(text) > 0 && len(k) > 0 && isLower(text[0]|0x20) && isLower(k[0]) && text[0]|0x20 != k[0] && !strings.Contains(t.columns[j].header, " | ") {
			return false
		}
		if len(text) > 0 && k != "" && len(text) > 3*len(k)+16 {
			return false
		}
		own := key.Of(string(text))
		if own != k && !strings.HasSuffix(k, " | "+own) && !strings.HasSuffix(t.columns[j].header, "| "+string(text)) {
			return false
		}
	}
	return len(t.keys) > 0
}

func isLower(c byte) bool { return c >= 'a' && c <= 'z' }

// total reports whether the row is a total row: by a label of total words alone,
// or by a total word in its only label.
func (t *Table) total(rows *table.Rows, i int) bool {
	labels, among := 0, false
	for j, c := range rows.Row(i) {
		text := value.Trim(rows.Text(c))
		if len(text) == 0 || len(text) > 200 || text[0] >= '0' && text[0] <= '9' || text[0] == '-' || rows.Kind(i, j) == table.NumberCell {
			continue
		}
		l := t.label(text)
		if l.alone {
			return true
		}
		if l.is {
			labels++
			among = among || l.among
		}
	}
	return among && labels == 1
}

// finish decides what the columns hold.
func (t *Table) finish() {
	style, unsettled := t.chooseStyle()
	t.style = style
	form, dateTraps := t.chooseForm()
	if style != 0 && !unsettled {
		t.Numbers = value.Styles[style].Example
	}
	if form >= 0 && len(dateTraps) == 0 {
		t.Dates = value.DateForms[form].Example
	}
	for _, c := range t.columns {
		t.Fields = append(t.Fields, c.field(style, form))
	}
	t.findWide()
	for i, c := range t.columns {
		t.addTraps(c, &t.Fields[i], style)
	}
	t.traps = append(t.traps, dateTraps...)
	t.columns = nil
}

// measureNames are headers of measures, not of things that are measured.
var measureNames = func() map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(`amount amounts quantity qty value values price prices sales revenue turnover cost costs margin total net gross units
		volume weight count number no nr id code year month quarter day rate share discount tax vat budget actual plan stock
		betrag menge wert preis umsatz erlös kosten anzahl gewicht jahr monat tag nummer montant quantité qte valeur prix coût nombre année
		importe cantidad valor precio ventas coste año importo quantità prezzo costo numero anno bedrag aantal waarde prijs omzet kosten jaar`) {
		set[key.Of(w)] = true
	}
	return set
}()

// measureName reports whether a header names a measure: by its first or last
// word.
func measureName(header string) bool {
	words := strings.Fields(key.Of(header))
	return len(words) == 0 || measureNames[words[0]] || measureNames[words[len(words)-1]]
}

// findWide marks the wide columns: three or more of numbers whose headers are no
// measure's name.
func (t *Table) findWide() {
	var wide []int
	for i, f := range t.Fields {
		if (f.Is == "number" || f.Is == "whole") && !measureName(f.Header) && !slices.Contains(t.TotalColumns, f.Header) {
			wide = append(wide, i)
		}
	}
	if len(wide) < 3 {
		return
	}
	for _, i := range wide {
		t.Fields[i].Wide = true
	}
}
