package table

import (
	"io"
	"time"

	"umbau/internal/core/value"
)

// Target is where a delivery goes.
type Target struct {
	To    string // a path, or the address of a database
	Mark  string // with which the names of unfinished files begin
	Title string // of the plan
	Table string // of a database
	Load  Load
}

// Load says what becomes of the rows that a table of a database has already.
type Load struct {
	Append   bool     // they stay
	Replace  []string // those go whose values in these columns occur in the delivery; empty for all
	Recreate bool     // a table with other columns is made anew
}

// SinkColumn is a column of a delivery.
type SinkColumn struct {
	Index    int // of the batches
	Name     string
	Is       string // its kind, as the plan names it
	Decimals int    // of a number; -1 for as many as it needs
	Note     string
	Key      bool // of the grain
	Add      bool // a measure that may be added up
}

// Numeric reports whether the batches have numbers in the column.
func (c *SinkColumn) Numeric() bool { return c.Is == "number" || c.Is == "whole" }

// Written is a file, or a table of a database, that a delivery has become.
type Written struct {
	To    string // "" for that of the delivery
	File  string // a file that has its bytes, "" for none
	Bytes int64
	Rows  int // -1 for all fact rows

	Digest string // its SHA-256 in hexadecimal, where somebody has worked it out; "" else
}

// Sink takes the fact rows of a delivery, block by block, and lets all of them appear or
// none. Its methods are called by one goroutine; those of its parts as they say. An error
// may be a place.List.
type Sink interface {
	// Begin begins, or begins again with nothing.
	Begin([]SinkColumn) error
	// Part returns what takes a block at a time.
	Part() SinkPart
	// End brings all that was put safely to where it will appear, and says what that is.
	End() ([]Written, error)
	// Publish lets the delivery appear. It is called when all deliveries have ended well.
	Publish() error
	// Abandon removes what has not appeared.
	Abandon()
}

// Remarking is a sink that has something to say of what it took, once it has ended.
type Remarking interface {
	Remarks() []string
}

// Lined is a sink whose delivery is plain lines of text in the order of the rows: what a part encodes
// may be kept, and be put later.
type Lined interface {
	Sink
	// Lines reports whether it is.
	Lines() bool
	// Head is how many bytes stand before the lines.
	Head() int64
	// PutText puts text that parts have encoded, and what they counted.
	PutText(text []byte, counted int) error
}

// Adopting is a sink whose file another one may have made, of the same rows and columns.
type Adopting interface {
	Sink
	// Adopt takes a file that is finished in the place of all that would be put, and what its sink
	// has counted.
	Adopt(file string, counted int) error
	Counted() int
}

// LinedPart is a part of a sink of lines.
type LinedPart interface {
	SinkPart
	// Text is what Encode made of a batch, good until the next, and what it counted.
	Text() (text []byte, counted int)
}

// Told is what is known of a build when all its rows were put.
type Told struct {
	Build []byte // build.json, as far as it is known
	Plan  string // the text of the plan, without passwords
	Own   []byte // the text as it is, for its digest
	At    time.Time
	// Calendar says when a year begins.
	Calendar value.Calendar
	Record   func(name string) (io.ReadCloser, error) // a file of the record
	// Digest works out the SHA-256 of a file that the build has worked out none of; nil where that
	// takes too long.
	Digest func(file string) string
}

// Telling is a sink that shows more than rows: it is told of the build before its end.
type Telling interface {
	Tell(Told)
}

// RemarksOf are those of a sink.
func RemarksOf(s Sink) []string {
	if r, ok := s.(Remarking); ok {
		return r.Remarks()
	}
	return nil
}

// SinkPart takes one block of a delivery.
type SinkPart interface {
	// Encode takes the delivered rows of a batch, beside other parts.
	Encode(*Batch)
	// Put puts them behind those of the blocks before; parts do so one after another.
	Put() error
}
