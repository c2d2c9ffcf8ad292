package fact

import (
	"errors"
	"io/fs"
	"os"
	"strings"

	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/whole"
)

// readBooks reads the books of the columns, each once; nil for a column without one.
func (b *build) readBooks() []*names.Book {
	books := make([]*names.Book, len(b.plan.Columns))
	read := map[string]*names.Book{}
	for i, c := range b.plan.Columns {
		if c.Book == "" {
			continue
		}
		if book, ok := read[c.Book]; ok {
			books[i] = book
			continue
		}
		book, err := b.readBook(c.Book)
		var list place.List
		switch {
		case errors.As(err, &list):
			b.summary.Problems.Merge(list)
		case err != nil:
			p := place.At(place.Place{File: c.Book}, "book", "the book cannot be read: %s", whole.Reason(err))
			p.Plan, p.Advice = c.BookPos, "a book is a CSV file; its first line is seen,standard"
			b.fail(p)
		}
		read[c.Book], books[i] = book, book
	}
	return books
}

func (b *build) readBook(file string) (*names.Book, error) {
	info, err := os.Stat(b.plan.At(file))
	if b.options.Begin && (errors.Is(err, fs.ErrNotExist) || err == nil && info.Size() == 0) {
		return names.ReadBook(file, strings.NewReader("seen,standard\n"))
	}
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, errors.New("it is no plain file")
	}
	f, err := os.Open(b.plan.At(file))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	book, err := names.ReadBook(file, b.plan.Formats.Text(f))
	if err == nil {
		b.summary.addInputs(pass.File{Name: file, Info: info})
	}
	return book, err
}
