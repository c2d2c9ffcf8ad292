package table

import (
	"io"
	"slices"
	"strings"
)

// Encodings are the encodings of text files, as a plan names them.
var Encodings = []string{"utf-8", "utf-16le", "utf-16be", "windows-1252", "iso-8859-15", "cp437", "cp850", "macintosh"}

// Delimiter is what parts the cells of a text file, and how a plan names it.
type Delimiter struct {
	Name string
	Sign byte
}

// Delimiters are all of them, in the order in which they are tried: of those that cut a
// text equally well, the first counts. A comma may be a decimal sign in the cells.
var Delimiters = []Delimiter{{"tab", '\t'}, {"semicolon", ';'}, {"pipe", '|'}, {"comma", ','}}

// DelimiterOf is a delimiter by its name or its sign; ok is false for none of them.
func DelimiterOf(text string) (d Delimiter, ok bool) {
	i := slices.IndexFunc(Delimiters, func(d Delimiter) bool { return text == d.Name || text == string(d.Sign) })
	if i < 0 {
		return d, false
	}
	return Delimiters[i], true
}

// Format is a kind of file, or a way to pack one.
type Format struct {
	Endings []string // of files that are read, in lower case: ".csv"
	Outlets []Outlet
}

// Outlet is how deliveries to some paths, or databases, are begun.
type Outlet struct {
	Ending   string // of a path, in lower case: ".csv.gz"; of a database the beginning: "sqlite:"
	Database bool
	Text     bool // it is a text, which metadata may describe
	Page     bool // it is a page for people, no table
	NewSink  func(Target) (Sink, error)
}

// Formats are all formats that a program knows.
type Formats struct {
	All  []Format
	Look func(name string) ([]Table, error) // finds the tables in a file
	Text func(io.Reader) io.Reader          // reads a text of any encoding as UTF-8
	// LookIn finds the tables of a database whose names are wanted, or what a query gives.
	LookIn func(address, query string, wanted func(name string) bool) ([]Table, error)
	// Exists reports whether a database has a table.
	Exists func(address, name string) bool
	// Unread are endings of files that hold tables and are not read, in lower case: nobody may forget one of these.
	Unread []string
}

// Endings are those of all files that may hold extracts.
func (f *Formats) Endings() (out []string) {
	for _, one := range f.All {
		out = append(out, one.Endings...)
	}
	return out
}

// OutletOf is how a delivery to a path or an address is begun; nil where nothing does.
func (f *Formats) OutletOf(to string) *Outlet {
	low := strings.ToLower(to)
	var best *Outlet
	for _, one := range f.All {
		for i := range one.Outlets {
			o := &one.Outlets[i]
			fits := strings.HasSuffix(low, o.Ending)
			if o.Database {
				fits = strings.HasPrefix(low, o.Ending)
			}
			if fits && (best == nil || len(o.Ending) > len(best.Ending)) {
				best = o
			}
		}
	}
	return best
}

// OutletEndings are the endings of files that a table can be delivered to.
func (f *Formats) OutletEndings() (out []string) {
	for _, one := range f.All {
		for _, o := range one.Outlets {
			if !o.Database && !o.Page {
				out = append(out, o.Ending)
			}
		}
	}
	return out
}
