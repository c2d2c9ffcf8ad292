// Package format registers the formats that extracts are read in and fact
// tables are delivered in. A new format is a folder here and a line below.
package format

import (
	"bytes"
	"io"
	"os"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/table"
	"umbau/internal/format/csv"
	"umbau/internal/format/jsonl"
	"umbau/internal/format/ods"
	"umbau/internal/format/packed"
	"umbau/internal/format/parquet"
	"umbau/internal/format/postgres"
	"umbau/internal/format/sqlite"
	"umbau/internal/format/xlsx"
)

// formats is the table of all formats; a further one is a line here. A workbook is an
// archive that has a certain member.
var formats = []struct {
	table.Format
	member string
	open   func(members []packed.Member, limits packed.Limits, shelf *packed.Shelf) ([]table.Table, error)
}{
	{Format: csv.Format},
	{Format: csv.Tabbed},
	{Format: csv.Others},
	{Format: jsonl.Format},
	{Format: parquet.Format},
	{Format: sqlite.Format},
	{Format: postgres.Format},
	{Format: packed.Format},
	{xlsx.Format, "[Content_Types].xml", xlsx.Open},
	{ods.Format, "content.xml", ods.Open},
}

// unread are the endings of workbooks that are not read.
var unread = []string{".xls", ".xlsb", ".numbers", ".fods"}

// All are all formats.
func All() *table.Formats { return Within(packed.Default) }

// Within are all formats, within limits of one file.
func Within(limits packed.Limits) *table.Formats {
	all := &table.Formats{Look: (&reader{limit: limits}).file, Text: Text, LookIn: lookIn, Exists: exists, Unread: unread}
	for _, f := range formats {
		all.All = append(all.All, f.Format)
	}
	return all
}

// reader looks into files of extracts.
type reader struct {
	limit packed.Limits
	shelf packed.Shelf
}

// headLen is how many bytes tell a format.
const headLen = 32

// file looks into a file for its tables. What it is shows in its first bytes; an
// ending that says otherwise is an error.
func (r *reader) file(name string) ([]table.Table, error) {
	f := &file{name: name}
	if err := f.hold(); err != nil {
		return nil, err
	}
	defer f.let()
	info, err := f.in.Stat()
	if err != nil {
		return nil, err
	}
	head := make([]byte, headLen)
	n, err := io.ReadFull(f.in, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return nil, err
	}
	head = head[:n]
	if err := disguised(name, head); err != nil {
		return nil, err
	}
	if isColumns(name, head) {
		return parquet.Tables(name, info.Size())
	}
	if packed.KindOf(head) != packed.Zip {
		return []table.Table{r.text(name, info.Size(), packed.KindOf(head))}, nil
	}
	tables, err := r.archive(f, info.Size(), name, 1)
	for i := range tables {
		t := &tables[i]
		t.Open = f.during(t.Open)
		if t.Content == nil { // a sheet: the workbook
			t.Bytes, t.Content = info.Size(), func() (io.ReadCloser, error) { return os.Open(name) }
		} else {
			t.Content = f.duringContent(t.Content)
		}
	}
	return tables, err
}

// isColumns reports whether a file is one of columns.
func isColumns(name string, head []byte) bool { return bytes.HasPrefix(head, []byte("PAR1")) }

// isLines reports whether a file has a JSON object a line, packed or not.
func isLines(name string) bool {
	ending := endingOf(name)
	if kind := packed.KindOfName(ending); kind == packed.Gzip || kind == packed.Zstandard {
		ending = endingOf(strings.TrimSuffix(strings.ToLower(name), ending))
	}
	return slices.Contains(jsonl.Format.Endings, ending)
}

// endingOf is the last ending of a name, in lower case.
func endingOf(name string) string { return strings.ToLower(path.Ext(name)) }

// isBook reports whether a name is that of a workbook.
func isBook(name string) bool {
	for _, f := range formats {
		if f.open != nil && slices.Contains(f.Endings, endingOf(name)) {
			return true
		}
	}
	return false
}

// disguised reports a file that is not what its ending says.
func disguised(name string, head []byte) error {
	is := func(text, advice string) error { return &table.FileError{Text: text, Advice: advice} }
	ending, book := endingOf(name), isBook(name)
	kind := packed.KindOf(head)
	switch {
	case bytes.HasPrefix(head, []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")):
		return is("this is an old binary workbook, or one locked with a password", "save it as .xlsx, without a password")
	case len(head) == 0: // named where it is read
		return nil
	case isMarkup(head):
		return is("this is a page or a document in markup (HTML, XML), no table of text", "open it in a spreadsheet program and save it as .xlsx")
	case slices.Contains(parquet.Format.Endings, ending) != isColumns(name, head):
		if isColumns(name, head) {
			return is("this is a column file", "give it the ending .parquet")
		}
		return is("this is no column file", "give it the ending that it is")
	case book && kind == packed.Plain:
		return is("this is no workbook; it looks like a text file", "give it the ending .csv, or save it as a workbook")
	case book && kind != packed.Zip:
		return is("this is no workbook but a packed file", "give it the ending that it is")
	case packed.KindOfName(ending) != packed.Plain && packed.KindOfName(ending) != kind:
		return is("this is no "+ending+" archive", "give it the ending that it is, or pack it again")
	}
	return nil
}

// isMarkup reports whether a file begins as a page or a document in markup does.
func isMarkup(head []byte) bool {
	begin := bytes.ToLower(bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n"))
	return slices.ContainsFunc([]string{"<?xml ", "<!doctype ", "<html>", "<html ", "<table>", "<table "}, func(s string) bool {
		return bytes.HasPrefix(begin, []byte(s))
	})
}

// archive lists the tables in a zip archive, which may be a workbook.
func (r *reader) archive(in io.ReaderAt, size int64, name string, depth int64) ([]table.Table, error) {
	if depth > r.limit.Depth {
		return nil, packed.Beyond("depth", r.limit.Depth, "an archive within an archive, %d deep", depth)
	}
	members, err := packed.Members(in, size, r.limit)
	if packed.Torn(err) && isBook(name) {
		return nil, &table.FileError{Text: "the workbook is torn: its end is missing", Advice: "save it again, or have it sent again"}
	}
	if err != nil {
		return nil, err
	}
	for _, f := range formats {
		for _, m := range members {
			if f.open != nil && m.Name == f.member {
				return f.open(members, r.limit, &r.shelf)
			}
		}
	}
	if isBook(name) {
		return nil, &table.FileError{Text: "this is no workbook but another archive", Advice: "give it the ending .zip, or save it as a workbook"}
	}
	var tables []table.Table
	for _, m := range members {
		if m.Hidden() {
			continue
		}
		more, err := r.member(m, depth)
		if err != nil {
			return nil, err
		}
		tables = append(tables, more...)
	}
	if len(tables) == 0 {
		return nil, &table.FileError{Text: "there is no file in the archive", Advice: "pack the extracts again"}
	}
	return tables, nil
}

// mostInMemory is the size of a workbook within an archive.
const mostInMemory = 512 << 20

// member lists the tables of one member of an archive.
func (r *reader) member(m packed.Member, depth int64) ([]table.Table, error) {
	in, err := m.Open(r.limit)
	if err != nil {
		return nil, inMember(m.Name, err)
	}
	defer in.Close()
	head := make([]byte, headLen)
	n, err := io.ReadFull(in, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return nil, inMember(m.Name, err)
	}
	head = head[:n]
	if err := disguised(m.Name, head); err != nil {
		return nil, inMember(m.Name, err)
	}
	if packed.KindOf(head) != packed.Zip {
		open := func() (io.ReadCloser, error) { return m.Open(r.limit) }
		if isColumns(m.Name, head) {
			return nil, inMember(m.Name, &table.FileError{Text: "a column file in an archive", Advice: "take it out of the archive"})
		}
		t := table.Table{Member: m.Name, Headed: isLines(m.Name), Size: m.Size, Bytes: m.Size, Content: r.content(open, m.Size)}
		if packed.KindOf(head) != packed.Plain {
			t.Bytes = -1
		}
		t.Open = func(how table.Reading) (table.Source, error) {
			s, err := r.openLines(m.Name, open, m.Size, how)
			return s, inMember(m.Name, err)
		}
		return []table.Table{t}, nil
	}
	data, err := io.ReadAll(io.LimitReader(io.MultiReader(bytes.NewReader(head), in), mostInMemory+1))
	if err == nil && len(data) > mostInMemory {
		err = &table.FileError{Text: "a workbook of more than 512 MB in an archive", Advice: "take it out of the archive"}
	}
	if err != nil {
		return nil, inMember(m.Name, err)
	}
	tables, err := r.archive(bytes.NewReader(data), int64(len(data)), m.Name, depth+1)
	for i := range tables {
		tables[i].Member = path.Join(m.Name, tables[i].Member)
		if tables[i].Content == nil {
			tables[i].Bytes, tables[i].Content = m.Size, func() (io.ReadCloser, error) { return m.Open(r.limit) }
		}
	}
	return tables, inMember(m.Name, err)
}

// inMember says which member of an archive an error is in.
func inMember(name string, err error) error {
	if e, ok := err.(*table.FileError); ok {
		return &table.FileError{Member: path.Join(name, e.Member), Text: e.Text, Advice: e.Advice}
	}
	return err
}

// text is the table in a text file, which may be compressed.
func (r *reader) text(name string, size int64, kind packed.Kind) table.Table {
	open := func() (io.ReadCloser, error) { return os.Open(name) }
	lines := isLines(name)
	t := table.Table{Text: kind == packed.Plain && !lines, Headed: lines, Size: size, Bytes: size, Content: r.content(open, size),
		Open: func(how table.Reading) (table.Source, error) { return r.openLines(name, open, size, how) }}
	if kind != packed.Plain {
		t.Bytes = -1
	}
	return t
}
