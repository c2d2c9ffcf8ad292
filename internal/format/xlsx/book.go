// Package xlsx reads the sheets of .xlsx and .xlsm workbooks as streams.
//
// A sheet is cut into blocks of whole rows, still as XML, by one goroutine; many
// cut blocks into cells. Of a workbook only the shared strings and the number
// formats are kept in memory. Numbers are taken as stored, at 15 significant
// digits, as spreadsheets show them; a number whose format is that of a date is a
// date, by the calendar of the workbook (from 1900 or 1904).
//
// The format is that of ECMA-376, part 1, section 18, in its transitional and
// strict forms.
package xlsx

import (
	"bytes"
	"io"
	"path"
	"strconv"
	"strings"
	"sync"

	"umbau/internal/core/table"
	"umbau/internal/format/markup"
	"umbau/internal/format/packed"
)

// book is an open workbook.
type book struct {
	members map[string]packed.Member // by their names in small letters
	limit   packed.Limits
	shelf   *packed.Shelf
	name    string // of the workbook part
	from    int    // the year its calendar begins: 1900 or 1904

	mutex   sync.Mutex // strings and styles are read with the first sheet
	read    bool
	strings *pool
	styles  []style // by the index in cells
	problem error
	open    int // how many sheets are being read
}

// wrong is an error of a damaged workbook.
func wrong(format string, args ...any) error { return markup.Damaged(format, args...) }

// Format is that of these workbooks.
var Format = table.Format{Endings: []string{".xlsx", ".xlsm"}, Outlets: []table.Outlet{{Ending: ".xlsx", NewSink: newSink}}}

// Open lists the sheets of a workbook in their order.
func Open(members []packed.Member, limits packed.Limits, shelf *packed.Shelf) ([]table.Table, error) {
	b := &book{members: map[string]packed.Member{}, limit: limits, shelf: shelf, from: 1900}
	for _, m := range members {
		if name := strings.ToLower(m.Name); !b.has(name) {
			b.members[name] = m
		}
	}
	root, err := b.relations("")
	if err != nil {
		return nil, err
	}
	for _, r := range root {
		if strings.HasSuffix(r.kind, "/officeDocument") {
			b.name = r.target
		}
	}
	if b.name == "" {
		return nil, &table.FileError{Text: "this is no workbook, though it is packed like one", Advice: "save the table as .xlsx or .csv"}
	}
	return b.sheets()
}

// small returns the whole of a part that is small.
func (b *book) small(name string, most int64) ([]byte, error) {
	in, err := b.part(name)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	data, err := io.ReadAll(io.LimitReader(in, most+1))
	if err == nil && int64(len(data)) > most {
		err = wrong("%s is larger than %d MB", name, most>>20)
	}
	if err == nil {
		data, err = utf8Of(data)
	}
	return data, err
}

// utf8Of refuses parts in other encodings, which no known program writes.
func utf8Of(data []byte) ([]byte, error) {
	if bytes.HasPrefix(data, []byte("\xff\xfe")) || bytes.HasPrefix(data, []byte("\xfe\xff")) {
		return nil, wrong("a part of it is in UTF-16")
	}
	return data, nil
}

// part opens a part.
func (b *book) part(name string) (io.ReadCloser, error) {
	m, ok := b.members[strings.ToLower(name)]
	if !ok {
		return nil, wrong("%s is missing", name)
	}
	return m.Open(b.limit)
}

func (b *book) has(name string) bool {
	_, ok := b.members[strings.ToLower(name)]
	return ok
}

// relation is one part that another refers to.
type relation struct{ id, kind, target string }

// relations lists what a part refers to, "" for the package as a whole.
func (b *book) relations(of string) ([]relation, error) {
	name := path.Join(path.Dir(of), "_rels", path.Base(of)+".rels")
	if of == "" {
		name = "_rels/.rels"
	}
	if !b.has(name) {
		return nil, nil
	}
	data, err := b.small(name, 16<<20)
	if err != nil {
		return nil, err
	}
	var out []relation
	err = each(data, func(t *markup.Tag, _ int) error {
		if t.Is("Relationship") && t.Start {
			target := t.Text("Target")
			if strings.HasPrefix(target, "/") {
				target = strings.TrimPrefix(path.Clean(target), "/")
			} else {
				target = path.Join(path.Dir(of), target)
			}
			out = append(out, relation{t.Text("Id"), t.Text("Type"), target})
		}
		return nil
	})
	return out, err
}

// each visits all tags of a part.
func each(data []byte, visit func(t *markup.Tag, at int) error) error {
	var t markup.Tag
	for at := 0; ; {
		err := t.Next(data, at)
		if err == markup.ErrMore && !markup.Cut(data, at) {
			return nil
		}
		if err != nil {
			return wrong("%v", err)
		}
		if err := visit(&t, at); err != nil {
			return err
		}
		at = t.To
	}
}

// sheets lists the sheets that hold cells.
func (b *book) sheets() ([]table.Table, error) {
	parts, err := b.relations(b.name)
	if err != nil {
		return nil, err
	}
	data, err := b.small(b.name, 64<<20)
	if err != nil {
		return nil, err
	}
	byID := map[string]relation{}
	for _, r := range parts {
		byID[r.id] = r
	}
	var tables []table.Table
	err = each(data, func(t *markup.Tag, _ int) error {
		switch {
		case !t.Start:
		case t.Is("workbookPr"):
			if v := t.Text("date1904"); v == "1" || v == "true" {
				b.from = 1904
			}
		case t.Is("sheet"):
			part, ok := byID[t.Text("id")]
			if !ok {
				return wrong("the sheet %s has no part", t.Text("name"))
			}
			if !strings.HasSuffix(part.kind, "/worksheet") {
				return nil // a chart
			}
			if !b.has(part.target) {
				return wrong("the sheet %s is missing (%s)", t.Text("name"), part.target)
			}
			if int64(len(tables)) == b.limit.Sheets {
				return packed.Beyond("sheets", b.limit.Sheets, "a workbook of more than %d sheets", b.limit.Sheets)
			}
			tables = append(tables, b.table(t.Text("name"), t.Text("state"), part.target))
		}
		return nil
	})
	if err == nil && len(tables) == 0 {
		err = &table.FileError{Text: "the workbook has no sheet with cells", Advice: "was it saved?"}
	}
	return tables, err
}

func (b *book) table(name, state, part string) table.Table {
	return table.Table{Sheet: name, Hidden: state == "hidden" || state == "veryHidden", Size: b.members[strings.ToLower(part)].Size,
		Open: func(how table.Reading) (table.Source, error) {
			if err := b.take(); err != nil {
				return nil, err
			}
			in, err := b.part(part)
			if err != nil {
				b.let()
				return nil, err
			}
			return newSheet(b, in, how.Count), nil
		}}
}

// take begins the reading of a sheet: strings and styles are there.
func (b *book) take() error {
	b.mutex.Lock()
	defer b.mutex.Unlock()
	if !b.read {
		b.read = true
		b.problem = b.load()
	}
	if b.problem == nil {
		b.open++
	}
	return b.problem
}

// let ends it. The strings of the workbook whose sheet was read last stay, for the next of its sheets.
func (b *book) let() {
	b.mutex.Lock()
	b.open--
	idle := b.open == 0
	b.mutex.Unlock()
	if idle {
		b.shelf.Put(b, func() {
			b.mutex.Lock()
			defer b.mutex.Unlock()
			if b.open == 0 {
				b.read, b.strings, b.styles = false, nil, nil
			}
		})
	}
}

// load reads the shared strings and the styles.
func (b *book) load() error {
	parts, err := b.relations(b.name)
	if err != nil {
		return err
	}
	for _, p := range parts {
		switch {
		case strings.HasSuffix(p.kind, "/sharedStrings"):
			err = b.loadStrings(p.target)
		case strings.HasSuffix(p.kind, "/styles"):
			err = b.loadStyles(p.target)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (b *book) loadStrings(part string) error {
	in, err := b.part(part)
	if err != nil {
		return err
	}
	defer in.Close()
	all, c := &pool{}, collector{}
	err = markup.Each(in, func(data []byte, at int, t *markup.Tag) error {
		c.take(data, at, t)
		if t.Is("si") && t.End {
			all.add(c.text)
			c.text = c.text[:0]
		}
		if all.size()+int64(len(c.text)) > min(b.limit.Strings, mostPool) {
			err := packed.Beyond("strings", b.limit.Strings, "the shared strings of the workbook take more than %d MB", b.limit.Strings>>20)
			err.Advice = "save the table as .csv; or " + err.Advice
			return err
		}
		return nil
	})
	if err == markup.ErrType || err == markup.ErrSyntax {
		err = wrong("%s: %v", part, err)
	}
	b.strings = all
	return err
}

// collector puts the text of a rich string together: that of all its runs, but
// not of how they are pronounced.
type collector struct {
	text     []byte
	phonetic bool
	inText   bool
}

// take takes the next tag; at is where the one before ended.
func (c *collector) take(b []byte, at int, t *markup.Tag) {
	switch {
	case t.Is("rPh"):
		c.phonetic = t.Start && !t.End
	case t.Is("t") && t.Start:
		c.inText = !t.End
	case t.Is("t"):
		if c.inText && !c.phonetic {
			c.text = appendText(c.text, b[at:t.From])
		}
		c.inText = false
	}
}

// appendText appends the text of a cell, in which _x000D_ stands for a character.
func appendText(dst, b []byte) []byte {
	begin := len(dst)
	dst = markup.AppendText(dst, b)
	text := dst[begin:]
	if !bytes.Contains(text, []byte("_x")) {
		return dst
	}
	for dst = dst[:begin]; ; { // what a character takes is less than what stands for it
		i := bytes.Index(text, []byte("_x"))
		if i < 0 || i+7 > len(text) {
			return append(dst, text...)
		}
		dst = append(dst, text[:i]...)
		if n, err := strconv.ParseUint(string(text[i+2:i+6]), 16, 16); err == nil && text[i+6] == '_' {
			if n != '\r' {
				dst = append(dst, string(rune(n))...)
			}
			text = text[i+7:]
			continue
		}
		dst = append(dst, "_x"...)
		text = text[i+2:]
	}
}
