package deliver

import (
	"io"
	"os"

	"umbau/internal/core/table"
)

// Divided is a delivery of several files, which may be made elsewhere, each as a whole or in pieces.
type Divided interface {
	table.Sink
	// Pieces ends all files, and says what they are.
	Pieces() ([]Piece, error)
	// Join takes the pieces of a file, in their order, in the place of its rows. It reports whether
	// these are needed none the less.
	Join(pieces []Piece) (rows bool, err error)
}

// Piece is a file of a delivery, or some of its rows.
type Piece struct {
	Path    string // where it shall appear, as the plan has it
	Values  []string
	Other   []string // other values that would share the path
	File    string   // where it is
	Bytes   int64
	Rows    int
	Counted int // by its sink
	Digest  string
}

// Pieces implements Divided.
func (s *split) Pieces() (out []Piece, err error) {
	for _, f := range s.inOrder() {
		if f.ended == nil {
			if f.ended, err = f.sink.End(); err != nil {
				return nil, err
			}
		}
		w, counted := f.ended[0], 0
		if a, ok := f.sink.(table.Adopting); ok {
			counted = a.Counted()
		}
		out = append(out, Piece{f.path, f.values, f.other, w.File, w.Bytes, f.rows, counted, w.Digest})
	}
	return out, nil
}

// Join implements Divided.
func (s *split) Join(pieces []Piece) (rows bool, err error) {
	var f *splitFile
	for _, p := range pieces {
		if f, err = s.file(p.Values); err != nil {
			return false, err
		}
		if p.Other != nil {
			f.other = p.Other
		}
	}
	lined, ok := f.sink.(table.Lined)
	switch one := pieces[0]; {
	case len(pieces) == 1:
		f.joined, f.rows = true, one.Rows
		if err = f.sink.(table.Adopting).Adopt(one.File, one.Counted); err == nil {
			f.ended, err = f.sink.End()
		}
		for i := range f.ended {
			f.ended[i].Digest = one.Digest
		}
		return false, err
	case !ok || !lined.Lines():
		return true, nil
	}
	f.joined = true
	for _, p := range pieces {
		if err := putBody(lined, p); err != nil {
			return false, err
		}
		f.rows += p.Rows
	}
	f.ended, err = f.sink.End()
	return false, err
}

// putBody puts the lines of a piece behind those before.
func putBody(to table.Lined, p Piece) error {
	in, err := os.Open(p.File)
	if err != nil {
		return err
	}
	defer in.Close()
	if _, err := in.Seek(to.Head(), io.SeekStart); err != nil {
		return err
	}
	buffer := make([]byte, 1<<20)
	for counted := p.Counted; ; counted = 0 {
		n, err := in.Read(buffer)
		if n > 0 {
			if err := to.PutText(buffer[:n], counted); err != nil {
				return err
			}
		}
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
	}
}
