package survey

import (
	"context"
	"errors"
	"io"
	"slices"
	"strings"

	"umbau/internal/core/key"
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
	list    looker   // nil where the table is surveyed
	same    sameRows
	form    int // of its dates, -1 for none
	left    int // blank columns before it
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
	alone, among := new(value.Totals).Says(s)
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
func surveyTable(ctx context.Context, at place.Place, from table.Table, count func(int), list looker) (*Table, error) {
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
		t.same.add(rows, i)
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
	t.form = form
	t.findWide()
	for i, c := range t.columns {
		t.addTraps(c, &t.Fields[i], style)
	}
	t.traps = append(t.traps, dateTraps...)
	t.wholeTraps()
	if d := t.Facts.Doubt; d != nil {
		at := t.Place
		at.Row = d.Row
		t.traps = append(t.traps, Trap{What: "encoding", Place: at, Count: 1, Detail: d.Text + "; " + d.Add + " in the plan, or what it is"})
	}
	t.columns, t.same = nil, sameRows{}
	for len(t.Fields) > 1 && t.Fields[0].unused { // the table begins further right
		t.Fields = t.Fields[1:]
		t.Columns--
		t.left++
	}
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
// word, or by all of them.
func measureName(header string) (some, all bool) {
	words := strings.Fields(key.Of(header))
	all = true
	for _, w := range words {
		all = all && measureNames[w]
	}
	return len(words) == 0 || measureNames[words[0]] || measureNames[words[len(words)-1]], all
}

// findWide marks the wide columns: three or more of numbers whose headers are no
// measure's name; beside them those that have a measure's word among others.
func (t *Table) findWide() {
	var wide, maybe []int
	for i, f := range t.Fields {
		if f.Is != "number" && f.Is != "whole" || slices.Contains(t.TotalColumns, f.Header) {
			continue
		}
		switch some, all := measureName(f.Header); {
		case !some:
			wide = append(wide, i)
		case !all:
			maybe = append(maybe, i)
		}
	}
	if len(wide) < 3 {
		return
	}
	for _, i := range append(wide, maybe...) {
		t.Fields[i].Wide = true
	}
}
