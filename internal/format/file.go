package format

import (
	"errors"
	"io"
	"os"
	"sync"

	"umbau/internal/core/table"
)

// file is an archive that is open while somebody holds it: there may be more of
// them than a process may have open.
type file struct {
	name  string
	mutex sync.Mutex
	in    *os.File
	held  int
}

// hold opens the file, unless it is.
func (f *file) hold() error {
	f.mutex.Lock()
	defer f.mutex.Unlock()
	if f.held == 0 {
		in, err := os.Open(f.name)
		if err != nil {
			return err
		}
		f.in = in
	}
	f.held++
	return nil
}

// let closes the file when nobody holds it any longer.
func (f *file) let() error {
	f.mutex.Lock()
	defer f.mutex.Unlock()
	if f.held--; f.held > 0 {
		return nil
	}
	return f.in.Close()
}

// ReadAt reads from a file that is held.
func (f *file) ReadAt(p []byte, off int64) (int, error) { return f.in.ReadAt(p, off) }

// during returns an open that holds the file until the source is closed.
func (f *file) during(open func(table.Reading) (table.Source, error)) func(table.Reading) (table.Source, error) {
	return func(how table.Reading) (table.Source, error) {
		if err := f.hold(); err != nil {
			return nil, err
		}
		s, err := open(how)
		if err != nil {
			f.let()
			return nil, err
		}
		return &held{s, f}, nil
	}
}

// duringContent returns an open that holds the file until the content is closed.
func (f *file) duringContent(open func() (io.ReadCloser, error)) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) {
		if err := f.hold(); err != nil {
			return nil, err
		}
		in, err := open()
		if err != nil {
			f.let()
			return nil, err
		}
		return struct {
			io.Reader
			io.Closer
		}{in, closing(func() error { return errors.Join(in.Close(), f.let()) })}, nil
	}
}

// closing is what is to be done when something is closed.
type closing func() error

// Close implements io.Closer.
func (c closing) Close() error { return c() }

// held is a source that holds its file.
type held struct {
	table.Source
	file *file
}

// Close implements table.Source.
func (h *held) Close() error {
	err := h.Source.Close()
	if e := h.file.let(); err == nil {
		err = e
	}
	return err
}
