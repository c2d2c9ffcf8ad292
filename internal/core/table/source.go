package table

import (
	"errors"
	"io"
	"io/fs"
	"slices"
	"strings"

	"umbau/internal/core/place"
)

// Table is one table in a file that extracts come in: the only one of a text file,
// a sheet of a workbook, one of those in a member of an archive. The file is open
// as long as a table of it is.
type Table struct {
	Member string // its path within an archive
	Sheet  string // of a workbook
	Hidden bool   // a hidden sheet
	Headed bool   // the first row is the header, whatever it looks like; it is numbered 0
	Text   bool   // a plain text file of cells
	Size   int64  // about how many bytes there are to read
	Open   func(Reading) (Source, error)
	Close  func() // ends the reading of the database that the table is in; nil where there is none
	// Content reads the file or member that the table is in, unpacked.
	Content func() (io.ReadCloser, error)
	Bytes   int64 // of its content; -1 where only unpacking tells
	Sampled int64 // about how many of them are read, 0 where all are
}

// Reading says how a table is to be read. Encoding and Delimiter are as a plan
// writes them, empty where they are to be found out; a workbook has none.
type Reading struct {
	Encoding  string
	Delimiter string
	Count     func(bytes int) // hears what was read, if not nil
	Unpacked  func(bytes int) // hears what a packed text unpacked to, if not nil
	// EmptyNulls takes a value that a database or a column file does not have for an empty
	// cell; else it is a word that means nothing.
	EmptyNulls bool
}

// Facts are how a text file turned out to be written, once it was read, and what a sheet hides, as far as it was read.
type Facts struct {
	Encoding  string
	Delimiter string
	Doubt     *RowError // what speaks against the encoding that was found out, as far as it was read; nil for nothing

	HiddenRows    Spans // that hold something
	HiddenColumns Spans // known once the first block was read
}

// Span is rows, or columns, from one number to another, as people count them.
type Span struct{ First, Last int }

// Spans are some of them, one behind the other.
type Spans []Span

// mostSpans is how many are kept: those behind them count for one.
const mostSpans = 4096

// Add adds one behind the others.
func (s *Spans) Add(one Span) {
	if n := len(*s); n > 0 && ((*s)[n-1].Last+1 == one.First || n == mostSpans) {
		(*s)[n-1].Last += one.Last - one.First + 1
		return
	}
	*s = append(*s, one)
}

// Has reports whether a number is among them.
func (s Spans) Has(n int) bool {
	return slices.ContainsFunc(s, func(one Span) bool { return one.First <= n && n <= one.Last })
}

// Behind counts the numbers behind one, and says which comes first.
func (s Spans) Behind(n int) (count, first int) {
	for _, one := range s {
		if one.Last <= n {
			continue
		}
		from := max(one.First, n+1)
		if count == 0 {
			first = from
		}
		count += one.Last - from + 1
	}
	return count, first
}

// DelimiterName is what a person calls the delimiter.
func (f Facts) DelimiterName() string {
	if d, ok := DelimiterOf(f.Delimiter); ok {
		return d.Name
	}
	return f.Delimiter
}

// Source reads one table. Next is called by one goroutine; Split, which cuts a
// block into rows, by many at once on blocks of their own. Blocks that follow
// each other may be joined.
type Source interface {
	// Next reads the next block into buf, which it may replace by a larger
	// one. It returns io.EOF, and no data, at the end.
	Next(buf []byte) (Block, error)
	Splitter
	Facts() Facts
	Close() error
}

// Skipping is a source that reads blocks sooner than by Next, if nobody looks at their rows. Where one
// ends may be wrong; then so is all that follows.
type Skipping interface {
	Skip(buf []byte) (Block, error)
}

// Splitter cuts blocks into rows.
type Splitter interface {
	// Split appends the rows of a block to rows.
	Split(b Block, rows *Rows) error
}

// Block is a part of a table, cut at a row end. Line is the number of its first
// row. Data has at least BlockSlack bytes of capacity behind its end, which a
// splitter may overwrite.
type Block struct {
	Data []byte
	Line int
}

// MostRow is the longest row of a text or a sheet, and the longest text of a cell, in bytes.
const MostRow = 64 << 20

// BlockSlack is the room behind the data of a block.
const BlockSlack = 64

// RowError is what is wrong with the raw text of one row.
type RowError struct {
	Row    int
	Text   string
	Add    string // the line of a plan that settles it, where one does
	Advice string // what to do, where Add is empty
}

// Error implements error.
func (e *RowError) Error() string { return e.Text }

// FileError is what is wrong with a file, or with a member of it, as a whole.
type FileError struct {
	Member string
	Text   string
	Advice string // what to do
}

// Error implements error.
func (e *FileError) Error() string {
	if e.Advice != "" {
		return e.Text + "; " + e.Advice
	}
	return e.Text
}

// Problem words an error of a file or a source, with its place.
func Problem(at place.Place, err error) place.Problem {
	var row *RowError
	var file *FileError
	var path *fs.PathError
	switch {
	case errors.As(err, &row):
		at.Row = row.Row
		p := place.At(at, "unreadable file", "%s", row.Text)
		if row.Add != "" {
			p = p.ByRule()
			p.What, p.Add = "encoding", row.Add
			p.Advice = "or what it is; or save the file as UTF-8"
		} else if row.Advice != "" {
			p.Advice = row.Advice
		}
		return p
	case errors.As(err, &file):
		if file.Member != "" && !strings.HasSuffix(at.File, "/"+file.Member) {
			at.File += "/" + file.Member
		}
		p := place.At(at, "unreadable file", "%s", file.Text)
		p.Advice = file.Advice
		return p
	case errors.As(err, &path):
		err = path.Err
	}
	return place.At(at, "unreadable file", "the file cannot be read: %s", err)
}
