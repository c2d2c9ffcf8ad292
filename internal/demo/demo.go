// Package demo holds the demo: the extracts of Halyard & Moss, a ship chandlery
// that does not exist, a book of its product names, and a commented plan.
//
// The extracts are made by the program in generate, the same bytes every time.
package demo

import (
	"bytes"
	"embed"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"umbau/internal/core/whole"
)

//go:generate go run ./generate files

//go:embed all:files
var embedded embed.FS

// Files returns the files of the demo.
func Files() fs.FS {
	sub, err := fs.Sub(embedded, "files")
	if err != nil {
		panic(err) // the folder is part of the program
	}
	return sub
}

// ChangedError is a file of the demo that was there already with another
// content.
type ChangedError struct{ File string }

func (e *ChangedError) Error() string {
	return fmt.Sprintf("%s is there already and is not the demo's; name an empty folder", e.File)
}

// Write writes the demo into a folder, which it makes where needed. A file that
// is there with another content is left alone: then nothing is written, and the
// error is a *ChangedError.
func Write(dir string) error {
	for _, write := range []bool{false, true} {
		err := fs.WalkDir(Files(), ".", func(name string, d fs.DirEntry, err error) error {
			if err != nil {
				return err
			}
			return put(filepath.Join(dir, filepath.FromSlash(name)), name, d.IsDir(), write)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// put writes one file or folder, or checks whether it may be written.
func put(to, name string, folder, write bool) error {
	if folder {
		if !write {
			return nil
		}
		return os.MkdirAll(to, 0o777)
	}
	data, err := fs.ReadFile(Files(), name)
	if err != nil {
		return err
	}
	if !write {
		there, err := os.ReadFile(to)
		if err == nil && !bytes.Equal(there, data) {
			return &ChangedError{to}
		}
		return nil
	}
	return whole.Replace(to, ".umbau-", data) // a demo that is killed half way can be run again
}
