package whole

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// Join is the path of a file, written with slashes, that is relative to a folder.
func Join(dir, file string) string {
	if filepath.IsAbs(file) {
		return file
	}
	return filepath.Join(dir, filepath.FromSlash(file))
}

// Resolved is a path without links and dots, as far as it is there.
func Resolved(file string) string {
	if abs, err := filepath.Abs(file); err == nil {
		file = abs
	}
	rest := ""
	for dir := file; ; dir = filepath.Dir(dir) {
		if real, err := filepath.EvalSymlinks(dir); err == nil {
			return filepath.Join(real, rest)
		}
		if _, err := os.Lstat(dir); dir == filepath.Dir(dir) || strings.HasSuffix(dir, string(filepath.Separator)) && err == nil {
			return file
		}
		rest = filepath.Join(filepath.Base(dir), rest)
	}
}

// Same reports whether two paths lead to one file, links followed.
func Same(a, b string) bool { return Resolved(a) == Resolved(b) }

// Reason is an error of the file system without the path, which the place says.
func Reason(err error) string {
	var pe *fs.PathError
	var le *os.LinkError
	switch {
	case errors.As(err, &pe):
		err = pe.Err
	case errors.As(err, &le):
		err = le.Err
	}
	return err.Error()
}

// Folders are those made for outputs; Remove takes back the empty ones.
type Folders struct{ made []string }

// Make makes a folder, and those above it.
func (f *Folders) Make(dir string) error {
	var missing []string
	for d := dir; ; d = filepath.Dir(d) {
		if _, err := os.Stat(d); err == nil || d == filepath.Dir(d) {
			break
		}
		missing = append(missing, d)
	}
	err := os.MkdirAll(dir, 0o777)
	unfinished.mutex.Lock()
	defer unfinished.mutex.Unlock()
	if len(missing) > 0 && !slices.Contains(unfinished.folders, f) {
		unfinished.folders = append(unfinished.folders, f)
	}
	for i := len(missing) - 1; i >= 0; i-- {
		f.made = append(f.made, missing[i])
	}
	return err
}

// Remove removes those of the folders that are empty.
func (f *Folders) Remove() {
	unfinished.mutex.Lock()
	defer unfinished.mutex.Unlock()
	f.remove()
	unfinished.folders = slices.DeleteFunc(unfinished.folders, func(o *Folders) bool { return o == f })
}

func (f *Folders) remove() {
	for i := len(f.made) - 1; i >= 0; i-- {
		os.Remove(f.made[i]) // stays where something is in it
	}
}
