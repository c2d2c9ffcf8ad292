package packed

import (
	"fmt"
	"sync"

	"umbau/internal/core/table"
)

// Limits are how much is taken from one file: far more than extracts have, and little enough that what
// a stranger sends cannot fill memory or disk, nor take hours.
type Limits struct {
	Bytes   int64 // that a file, or the members of an archive together, unpack to
	Ratio   int64 // times what it takes packed, once that is more than free; 0 for any
	Strings int64 // bytes of the shared strings of a workbook
	Texts   int64 // bytes of the cells of one block of a sheet
	Cells   int64 // of one block of a sheet
	Sheets  int64 // of a workbook
	Members int64 // of an archive
	Depth   int64 // of archives within archives
}

// Default are the limits where nobody says others.
var Default = Limits{Bytes: 64 << 30, Ratio: 500, Strings: 512 << 20, Texts: 64 << 20, Cells: 4_000_000, Sheets: 5_000, Members: 1_000_000,
	Depth: 4}

// free is what any file may unpack to, whatever its ratio.
const free = 128 << 20

// most is how many bytes so many packed ones may become.
func (l Limits) most(packed int64) int64 {
	if l.Ratio == 0 {
		return l.Bytes
	}
	return min(l.Bytes, max(free, l.Ratio*packed))
}

// Beyond is the error of a file that goes beyond a limit, which is called so in --most.
func Beyond(name string, limit int64, format string, args ...any) *table.FileError {
	return &table.FileError{Text: fmt.Sprintf(format, args...),
		Advice: fmt.Sprintf("if it is meant to, allow it with --most %s=%d", name, 2*limit)}
}

// tooMuch is the error of what unpacks to more than it may.
func tooMuch() error {
	return &table.FileError{Text: "it unpacks to far more than it takes packed", Advice: "if it is meant to, allow it with --unpack-most"}
}

// Shelf holds what one file left to be used again soon, until another file leaves something.
type Shelf struct {
	mutex sync.Mutex
	of    any
	drop  func()
}

// Put leaves what is of a file on the shelf: drop lets it go. What lay there of another goes.
func (s *Shelf) Put(of any, drop func()) {
	s.mutex.Lock()
	before := s.drop
	if s.of == of {
		before = nil
	}
	s.of, s.drop = of, drop
	s.mutex.Unlock()
	if before != nil {
		before()
	}
}
