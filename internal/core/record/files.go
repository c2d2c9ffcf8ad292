package record

import (
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// Files are the files of a record under way. A nil Files takes everything, and keeps
// nothing.
type Files struct {
	names  []string
	files  []*whole.File // by name
	failed func(file string, err error)
	err    error // of lines that wait
}

// Create begins the files of a record that have these names. create begins one by its name, nil where it cannot;
// failed hears of the first file that cannot be written, after which none is.
func Create(names []string, create func(name string) *whole.File, failed func(file string, err error)) *Files {
	r := &Files{failed: failed}
	for _, name := range names {
		w := create(name)
		if w == nil {
			return r
		}
		r.names, r.files = append(r.names, name), append(r.files, w)
	}
	return r
}

// Begin writes the header lines, and forgets what was written before.
func (r *Files) Begin() error {
	if r == nil {
		return nil
	}
	for i, f := range r.files {
		if err := f.Empty(); err != nil {
			return err
		}
		if header := headerOf(r.names[i]); header != nil {
			r.Write(r.names[i], table.AppendLine(nil, header...))
		}
	}
	return nil
}

// Write appends to a file of the record.
func (r *Files) Write(name string, b []byte) {
	if r == nil || len(b) == 0 {
		return
	}
	for i, f := range r.files {
		if r.names[i] != name || r.failed == nil {
			continue
		}
		if _, err := f.Write(b); err != nil {
			tell := r.failed
			r.failed = nil
			tell(name, err)
		}
	}
}

// Open reads what was written to a file so far.
func (r *Files) Open(name string) (io.ReadCloser, error) {
	for i, f := range r.files {
		if r.names[i] == name {
			return os.Open(f.Temp)
		}
	}
	return nil, fs.ErrNotExist
}

// End brings all that was written safely to the disk. It returns which file it could not.
func (r *Files) End() (name string, err error) {
	for i, f := range r.files {
		if err := f.Finish(); err != nil {
			return r.names[i], err
		}
	}
	return "", nil
}

// Retire removes the build.json of the build before: what appears from now on is not its.
func (r *Files) Retire() { os.Remove(r.files[len(r.files)-1].Target) }

// Publish lets the files appear, build.json last.
func (r *Files) Publish() (name string, err error) {
	for i, f := range r.files {
		if err := f.Publish(); err != nil {
			return r.names[i], err
		}
	}
	return "", nil
}

// Abandon removes what has not appeared.
func (r *Files) Abandon() {
	if r != nil {
		for _, f := range r.files {
			f.Abandon()
		}
	}
}

// aside are the lines of a record that wait in files of their own.
var aside = []string{ChangesFile, HeldFile, LeftOutFile}

// Aside begins the files that come with the rows, and others, in a folder where they wait to be read
// again; they have no header.
func Aside(dir string, others ...string) (*Files, error) {
	var failed error
	r := Create(append(others, aside...), func(name string) *whole.File {
		f, err := whole.Create(filepath.Join(dir, name), ".umbau-aside-")
		if err != nil {
			failed = err
			return nil
		}
		return f
	}, nil)
	if failed != nil {
		r.Abandon()
		return nil, failed
	}
	r.failed = func(_ string, err error) { r.err = err }
	return r, nil
}

// Each reads what was written to each file so far. It returns the first error of all that was written.
func (r *Files) Each(read func(name string, in io.Reader) error) error {
	if r.err != nil {
		return r.err
	}
	for _, name := range r.names {
		in, err := r.Open(name)
		if err != nil {
			return err
		}
		err = read(name, in)
		in.Close()
		if err != nil {
			return err
		}
	}
	return nil
}
