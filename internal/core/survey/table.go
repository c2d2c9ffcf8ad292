package survey

import (
	"context"
	"errors"
	"fmt"
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
	Place      place.Place
	HeaderRow  int // the last of several,
	HeaderRows int // so many, …
	HeaderTop  int // … and the first
	Rows       int // of data
	Columns    int // total columns included
	Left       int // blank columns before them
	Facts      table.Facts
	Numbers    string // how they are written, "" where the plan's default reads them all, or where it does not show
	Dates      string
	InStyle    int      // cells of columns of numbers that Numbers reads
	InDefault  int      // cells of such columns that the default reads
	Shows      bool     // some cell shows how they are written
	Unsettled  bool     // another style reads as many, as other numbers
	Alike      []string // further styles that read as many, as the same numbers
	Titles, Footnotes, BlankRows, RepeatedHeaders,
	TotalRows []int
	TotalColumns []string
	Fields       []Field
	TitleTexts   []string // of the first titles
	NoteTexts    []string // of the first footnotes
	From         table.Table
	Head         [][]string // the first rows as they stand, those above the header among them
	HeadLines    []int      // their numbers
	Beside       []Beside   // cells beyond the last header, by column
	Sound        bool       // no row with cells below no header has gone out of its columns, as far as it was looked at
	Sample       [][]string // rows of data from all over it as they stand, by field, as far as these are sampled
	Growing      bool       // wide columns grow from left to right in every row
	SumRows      []SumRow   // rows that have the sums of those above them, where all rows stand above such a one
	SumColumns   []string   // headers of columns that are the sums of some beside them, …
	AcrossSums   []string   // … and, among these, of such that have the name of a measure, and are the sums of all months or wide columns

	traps   []Trap
	columns []*column
	style   int    // of its numbers
	form    int    // of its dates, -1 for none
	list    looker // nil where the table is surveyed
	keep    kept
	same    sameRows
	alone   labelAlone
	sample  sample
	ends    ends
	sides   []int // the wide fields, or those of several measures
	lineup  *layout.Lineup
	sorter  layout.Sorter
	sorted  layout.Sorted
	filled  []int       // the rows of data at hand
	tail    *table.Rows // which rows below it decide
}

// mostColumns is how many columns of a table are described, each with what its cells hold.
const mostColumns = 65_536

// errEmpty says that a table has no row at all.
var errEmpty = errors.New("empty")

// window is how many rows are looked at for the header.
const window = 200

// headRows is how many of the first rows are kept, at most.
const headRows = 120

// kept is how much of a table is kept as it stands: values of each field, rows from its header on, and rows from all over it.
type kept struct{ values, rows, sampled int }

// keptOf is how much is kept of each of so many tables: all that is looked at of a few, little of each of
// very many, which are like one another.
func keptOf(tables int) kept {
	tables = max(tables, 1)
	return kept{min(mostDistinct, max(64, 1<<20/tables)), min(headRows, max(20, 200_000/tables)), min(headRows, max(4, 100_000/tables))}
}

// mostListed is how many rows of each kind are listed.
const mostListed = 10_000

// mostWaiting is how many bytes of rows wait for what decides whether they are footnotes.
const mostWaiting = 4 << 20

// surveyTable reads a table; its fields have their values, if these are wanted. With a lister its columns are known already, and their
// gaps are listed.
func surveyTable(ctx context.Context, at place.Place, from table.Table, count func(int), list looker, keep kept) (*Table, error) {
	src, err := from.Open(table.Reading{Count: count})
	if err != nil {
		return nil, err
	}
	defer src.Close()
	t := &Table{Place: at, From: from, list: list, keep: keep}
	var buf, head []byte
	var rows table.Rows
	for ended := false; !ended && ctx.Err() == nil; {
		block, err := src.Next(buf)
		if ended = err == io.EOF; !ended && err != nil {
			return nil, err
		}
		if t.lineup != nil {
			buf = block.Data[:0]
		} else if !ended || len(head) > 0 { // join blocks until the header must be among them
			buf, head = block.Data[:0], append(head, block.Data...)
			if block.Line = 1; from.Headed {
				block.Line = 0
			}
			block.Data = append(head, make([]byte, table.BlockSlack)...)[:len(head)]
		}
		if rows.Reset(); len(block.Data) > 0 {
			if err := src.Split(block, &rows); err != nil {
				return nil, err
			}
		} else {
			rows.End()
		}
		begin := 0
		if t.lineup == nil {
			if !ended && rows.Len() < window && len(head) < 1<<20 {
				continue
			}
			if begin, err = t.begin(&rows, from.Headed); err != nil {
				return nil, err
			}
		}
		t.take(&rows, begin, ended)
	}
	if t.Facts = src.Facts(); list == nil && t.lineup != nil {
		t.finish()
	}
	return t, nil
}

// begin finds the header among the first rows and returns the first row behind it. Rows
// above it that are filled too are titles. Where the table is headed, the first row is it.
func (t *Table) begin(rows *table.Rows, headed bool) (int, error) {
	header, groups := 0, []int(nil)
	if !headed {
		header, groups = layout.Guess(rows)
	}
	if header < 0 {
		return 0, errEmpty
	}
	for i := range min(rows.Len(), headRows, header+t.keep.rows) {
		var texts []string
		for _, c := range rows.Row(i) {
			texts = append(texts, string(value.Trim(rows.Text(c))))
		}
		t.Head, t.HeadLines = append(t.Head, texts), append(t.HeadLines, rows.Lines[i])
	}
	h := layout.ReadHeader(rows, header, 0)
	if len(h.Texts) > mostColumns {
		return 0, &table.FileError{Text: fmt.Sprintf("the header in row %d has %d columns; more than %d are not described", h.Row, len(h.Texts),
			mostColumns), Advice: "if they are meant to be there, write its entry in the plan by hand: a build takes them"}
	}
	if t.HeaderRows = 1 + len(groups); len(groups) > 0 {
		h.AddGroups(rows, groups)
	}
	t.HeaderTop = rows.Lines[slices.Concat(groups, []int{header})[0]]
	t.HeaderRow, t.Columns, t.lineup = h.Row, len(h.Texts), layout.Unplanned(h, rows, t.Place)
	for i, text := range h.Texts {
		t.columns = append(t.columns, newColumn(text, layout.Letter(i), len(h.Texts)))
	}
	t.TotalColumns = totalColumns(h.Texts)
	for i := range header {
		if text := layout.Joined(rows, i); !slices.Contains(groups, i) && text != "" {
			t.Titles = append(t.Titles, rows.Lines[i])
			if len(t.TitleTexts) < 5 {
				t.TitleTexts = append(t.TitleTexts, place.Shorten(text))
			}
		}
	}
	return header + 1, nil
}

// totalColumns are the headers of total words alone, units aside, and those of several rows of which one says so, if it does not say so
// of all.
func totalColumns(headers []string) (out []string) {
	says := func(text string) (total, several bool) {
		parts := strings.Split(text, " | ")
		if n := len(parts); n > 1 && value.IsUnit(parts[n-1]) {
			parts = parts[:n-1]
		}
		return slices.ContainsFunc(parts, new(value.Totals).Alone), len(parts) > 1
	}
	of := func(text string) bool { total, several := says(text); return several && !total }
	some := slices.ContainsFunc(headers, of)
	for _, text := range headers {
		if total, several := says(text); total && (some || !several) {
			out = append(out, text)
		}
	}
	return out
}

// take takes the rows of a block from an index on, and those that waited for them.
func (t *Table) take(rows *table.Rows, begin int, last bool) {
	if t.tail != nil {
		rows, begin, t.tail = table.JoinRows(t.tail, rows.Slice(begin, rows.Len())), 0, nil
	}
	layout.Pad(rows, t.Columns)
	t.sorter.Sort(t.lineup, rows, begin, last, &t.sorted)
	out, upTo := t.sorted.Out, t.sorted.Tail
	if rows.Len()-upTo > mostListed || rows.Slice(upTo, rows.Len()).Bytes() > mostWaiting { // too many to wait for what decides them
		upTo = rows.Len()
	}
	for i := begin; i < upTo; i++ {
		if len(out) > 0 && out[0].Row == i {
			t.leaveOut(rows, out[0])
			out = out[1:]
		} else if _, total := t.lineup.TotalRow(rows, i); total {
			t.TotalRows = listed(t.TotalRows, rows.Lines[i])
		} else {
			t.filled = append(t.filled, i)
		}
	}
	t.data(rows, t.filled)
	t.filled = t.filled[:0]
	if upTo < rows.Len() {
		t.tail = table.JoinRows(rows.Slice(upTo, rows.Len()))
	}
}

// leaveOut lists a row that is none of data.
func (t *Table) leaveOut(rows *table.Rows, o layout.LeftOut) {
	line := rows.Lines[o.Row]
	switch o.Reason {
	case layout.BlankRow:
		t.BlankRows = listed(t.BlankRows, line)
	case layout.RepeatedHeader:
		t.RepeatedHeaders = listed(t.RepeatedHeaders, line)
	case layout.TotalRow:
		t.TotalRows = listed(t.TotalRows, line)
	case layout.Footnote:
		t.Footnotes = listed(t.Footnotes, line)
		if len(t.NoteTexts) < 5 {
			t.NoteTexts = append(t.NoteTexts, place.Shorten(layout.OnlyText(rows, o.Row)))
		}
	}
}

func listed(list []int, line int) []int {
	if len(list) < mostListed {
		list = append(list, line)
	}
	return list
}

// data takes rows of data: column by column, each of which has a memory of its own.
func (t *Table) data(rows *table.Rows, filled []int) {
	t.Rows += len(filled)
	if t.list != nil {
		for _, i := range filled {
			t.list.row(rows, i)
		}
		return
	}
	t.ends.add(rows, filled)
	for k, i := range filled {
		t.same.add(rows, i)
		t.alone.add(rows, i)
		if len(rows.Row(i)) > len(t.columns) {
			t.lookBeside(rows, i)
		}
		if t.keep.sampled > 0 {
			t.sample.take(rows, i, t.Rows-len(filled)+k, t.keep.sampled)
		}
	}
	for j, c := range t.columns {
		c.take(rows, filled, j)
	}
}

// finish decides what the columns hold.
func (t *Table) finish() {
	for _, c := range t.columns {
		c.ofDates = dateHeader(c.header) || t.keep.values > 0 && c.stamped() // a draft looks closer
	}
	style, unsettled := t.chooseStyle()
	t.style, t.Unsettled = style, unsettled
	form, dateTraps := t.chooseForm()
	if style != 0 && !unsettled {
		t.Numbers = value.Styles[style].Example
	}
	if form >= 0 && len(dateTraps) == 0 {
		t.Dates = value.DateForms[form].Example
	}
	t.Fields = make([]Field, 0, len(t.columns))
	var room figures
	for _, c := range t.columns {
		f := c.field(style, form, &room)
		if t.keep.values > 0 {
			f.Values = c.values(style, form, t.keep.values)
		}
		t.Fields = append(t.Fields, f)
	}
	t.form = form
	t.findWide()
	t.daysTraps(form)
	for i, c := range t.columns {
		t.addTraps(c, &t.Fields[i], style)
	}
	t.traps = append(t.traps, dateTraps...)
	t.wholeTraps()
	t.besideTraps()
	if d := t.Facts.Doubt; d != nil {
		at := t.Place
		at.Row = d.Row
		t.traps = append(t.traps, Trap{What: "encoding", Place: at, Count: 1, Detail: d.Text + "; " + d.Add + " in the plan, or what it is"})
	}
	t.Sample = t.sample.rows
	t.columns, t.same, t.sample = nil, sameRows{}, sample{}
	for len(t.Fields) > 1 && t.Fields[0].unused { // the table begins further right
		t.Fields = t.Fields[1:]
		for k := range t.sides {
			t.sides[k]--
		}
		for i, row := range t.Sample {
			t.Sample[i] = row[min(1, len(row)):]
		}
		t.Columns--
		t.Left++
	}
}

// measureNames are headers of measures, not of things that are measured.
var measureNames = func() map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(`amount amounts quantity qty value values price prices sales revenue turnover cost costs margin total
		net gross units volume weight count number no nr id code year month quarter day rate share discount tax vat budget actual plan stock
		betrag menge wert preis umsatz erlös kosten anzahl gewicht jahr monat tag nummer montant quantité qte valeur prix coût nombre année
		importe cantidad valor precio ventas coste año importo quantità prezzo costo numero anno bedrag aantal waarde prijs omzet kosten jaar
		quantidade preço vendas receita custo margem desconto ano ventes vendite fatturato facturación recettes unidades unités pezzi piezas stück
		erlöse umsätze commission provision rabatt remise mwst iva tva gewinn profit`) {
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
// measure's name; beside them those that have a measure's word among others. Where there are none, three of the latter stand side by
// side.
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
	t.sides = append(wide, maybe...)
	if len(wide) < 3 {
		return
	}
	for _, i := range t.sides {
		t.Fields[i].Wide = true
	}
}
