// Package names standardises names: texts that stand for a thing. Names are
// compared by the key. What each stands for is decided by a book, a CSV file
// with the columns seen and standard; where there is no book, by the spelling
// that came first.
package names

import (
	"bufio"
	"encoding/csv"
	"errors"
	"io"
	"strings"
	"unicode/utf8"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/value"
)

// How says how a name got its standard.
type How uint8

const (
	Same     How = iota // it is the standard
	Spelling            // it is the standard in another spelling
	ByBook              // a line of the book says so
	Unknown             // the book does not have it
)

var howNames = [...]string{"same", "spelling", "book", "unknown"}

// String returns the word for the record.
func (h How) String() string { return howNames[h] }

// Book says which standard name each seen name stands for.
type Book struct {
	lines map[string]line // by the key of what was seen
}

type line struct {
	standard string
	row      int
}

// Find returns the standard of a name; ok is false when the book does not have it.
func (b *Book) Find(name string) (standard string, how How, ok bool) {
	l, ok := b.lines[key.Of(name)]
	switch {
	case !ok:
		return "", Unknown, false
	case l.standard == name:
		return l.standard, Same, true
	case key.Same(l.standard, name):
		return l.standard, Spelling, true
	}
	return l.standard, ByBook, true
}

// ReadBook reads a book. file is what messages call it. The error is a
// place.List of all that is wrong: no columns seen and standard, a broken quote,
// two lines that say two things for one key, a standard that another line
// replaces. A line without a standard is not decided yet and says nothing.
func ReadBook(file string, in io.Reader) (*Book, error) {
	r := &bookReader{file: file, book: &Book{lines: map[string]line{}}}
	buffered := bufio.NewReader(in)
	if mark, _ := buffered.Peek(3); string(mark) == "\ufeff" {
		buffered.Discard(3)
	}
	r.csv = csv.NewReader(buffered)
	r.csv.FieldsPerRecord = -1
	r.csv.ReuseRecord = true
	if seen, standard, ok := r.header(); ok {
		r.read(seen, standard)
		r.standards()
	}
	if err := r.problems.Err(); err != nil {
		return nil, err
	}
	return r.book, nil
}

type bookReader struct {
	file     string
	csv      *csv.Reader
	book     *Book
	problems place.List
	decided  []decision
}

// decision is one line of a book.
type decision struct {
	seen, standard string
	row            int
}

func (r *bookReader) fail(row int, format string, args ...any) {
	r.problems.Add(place.At(place.Place{File: r.file, Row: row}, "book", format, args...))
}

// header finds the two columns.
func (r *bookReader) header() (seen, standard int, ok bool) {
	seen, standard = -1, -1
	record, err := r.csv.Read()
	if err == io.EOF {
		r.fail(0, "the book is empty; its first line is seen,standard")
		return 0, 0, false
	}
	if err != nil {
		r.broken(err)
		return 0, 0, false
	}
	for i, h := range record {
		switch key.Of(h) {
		case "seen":
			seen = i
		case "standard":
			standard = i
		}
	}
	if seen < 0 || standard < 0 {
		header, advice := strings.Join(record, ","), ""
		if strings.ContainsAny(header, ";\t|") {
			advice = ", so save the book as CSV with commas"
		}
		r.fail(1, "a book has the columns seen and standard; this header says %s%s", place.Shorten(header), advice)
		return 0, 0, false
	}
	return seen, standard, true
}

func (r *bookReader) broken(err error) {
	var bad *csv.ParseError
	if errors.As(err, &bad) {
		r.fail(bad.StartLine, "the book cannot be read: %v; put the whole cell in quotes and double those within", bad.Err)
		return
	}
	r.fail(0, "the book cannot be read: %v", err)
}

func (r *bookReader) read(seen, standard int) {
	for {
		record, err := r.csv.Read()
		if err == io.EOF {
			return
		}
		if err != nil {
			r.broken(err)
			return
		}
		row, _ := r.csv.FieldPos(0)
		cell := func(i int) string {
			if i >= len(record) {
				return ""
			}
			return strings.Clone(value.TrimText(record[i]))
		}
		d := decision{seen: cell(seen), standard: cell(standard), row: row}
		if !utf8.ValidString(d.seen+d.standard) || strings.ContainsRune(d.seen+d.standard, 0) {
			r.fail(row, "this is no text in UTF-8; save the book as UTF-8")
			return
		}
		if d.standard == "" || d.seen == "" {
			continue
		}
		k := key.Of(d.seen)
		if before, ok := r.book.lines[k]; ok && before.standard != d.standard {
			r.fail(row, "%q stands for %q here, and for %q in line %d; keep one of the two lines",
				place.Shorten(d.seen), place.Shorten(d.standard), place.Shorten(before.standard), before.row)
			continue
		}
		r.book.lines[k] = line{d.standard, row}
		r.decided = append(r.decided, d)
	}
}

// standards lets each standard stand for itself.
func (r *bookReader) standards() {
	for _, d := range r.decided {
		k := key.Of(d.standard)
		own, ok := r.book.lines[k]
		switch {
		case !ok:
			r.book.lines[k] = line{d.standard, d.row}
		case own.standard == d.standard:
		case key.Same(own.standard, d.standard):
			r.fail(d.row, "the standard is spelt %q here and %q in line %d; keep one spelling",
				place.Shorten(d.standard), place.Shorten(own.standard), own.row)
		default:
			r.fail(d.row, "the standard %q is itself replaced by %q in line %d; let both lines say %[2]q",
				place.Shorten(d.standard), place.Shorten(own.standard), own.row)
		}
	}
}
