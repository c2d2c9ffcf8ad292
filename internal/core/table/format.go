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
	Endings []string // of its files, in lower case: ".csv"
	// NewSink begins a delivery in this format; nil where there are none.
	NewSink func(Target) (Sink, error)
}

// Formats are all formats that a program knows.
type Formats struct {
	All  []Format
	Look func(name string) ([]Table, error) // finds the tables in a file
	Text func(io.Reader) io.Reader          // reads a text of any encoding as UTF-8
}

// Endings are those of all files that may hold extracts.
func (f *Formats) Endings() (out []string) {
	for _, one := range f.All {
		out = append(out, one.Endings...)
	}
	return out
}

// SinkOf finds what begins a delivery to a path by its ending; nil where nothing does.
func (f *Formats) SinkOf(to string) func(Target) (Sink, error) {
	for _, one := range f.All {
		for _, e := range one.Endings {
			if one.NewSink != nil && strings.HasSuffix(strings.ToLower(to), e) {
				return one.NewSink
			}
		}
	}
	return nil
}
