// Package whole writes files that appear whole or not at all: beside their target, under a
// name that nobody can guess, synced, and renamed when all has held.
package whole

import (
	"crypto/rand"
	"encoding/hex"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
)

// File is a file under way.
type File struct {
	Target string // links resolved
	Temp   string // where it is written
	Bytes  int64  // written so far
	file   *os.File
}

// Create begins a file beside its target; the name of what is unfinished begins with
// mark. A link is followed once, so that it stays a link; what is there and no plain file
// is an error. The file will have the rights of the one before it.
func Create(target, mark string) (*File, error) {
	if real, err := filepath.EvalSymlinks(target); err == nil {
		target = real
	} else if to, err := os.Readlink(target); err == nil { // to a file that is yet to be
		if !filepath.IsAbs(to) {
			to = filepath.Join(filepath.Dir(target), to)
		}
		target = to
	}
	info, err := os.Stat(target)
	if err == nil && !info.Mode().IsRegular() {
		return nil, &fs.PathError{Op: "create", Path: target, Err: errors.New("it is there already and no plain file")}
	}
	var random [8]byte
	rand.Read(random[:]) // which never fails
	f := &File{Target: target, Temp: filepath.Join(filepath.Dir(target), mark+hex.EncodeToString(random[:])+".tmp")}
	if f.file, err = os.OpenFile(f.Temp, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666); err != nil {
		return nil, err
	}
	begin(f.Temp)
	if info != nil {
		if err := f.file.Chmod(info.Mode().Perm()); err != nil {
			f.Abandon()
			return nil, err
		}
	}
	return f, nil
}

// Write appends to the file.
func (f *File) Write(b []byte) (int, error) {
	n, err := f.file.Write(b)
	f.Bytes += int64(n)
	return n, err
}

// Empty forgets what was written.
func (f *File) Empty() error {
	f.Bytes = 0
	if err := f.file.Truncate(0); err != nil {
		return err
	}
	_, err := f.file.Seek(0, io.SeekStart)
	return err
}

// Adopt puts a file that is finished in the place of what was written: by a link where the system has
// one for it, so that nothing is copied.
func (f *File) Adopt(from string) error {
	rights, err := f.file.Stat()
	if err == nil {
		err = f.file.Close()
	}
	if err == nil {
		err = os.Remove(f.Temp)
	}
	if err != nil {
		return err
	}
	linked := os.Link(from, f.Temp) == nil
	if f.file, err = os.OpenFile(f.Temp, os.O_RDWR|os.O_CREATE, 0o666); err != nil {
		return err
	}
	if !linked {
		in, err := os.Open(from)
		if err != nil {
			return err
		}
		defer in.Close()
		if _, err := io.Copy(f.file, in); err != nil {
			return err
		}
	}
	info, err := f.file.Stat()
	if err == nil && info.Mode() != rights.Mode() {
		err = f.file.Chmod(rights.Mode().Perm())
	}
	if err == nil {
		f.Bytes = info.Size()
	}
	return err
}

// Finish brings all that was written safely to the disk.
func (f *File) Finish() error {
	err := f.file.Sync()
	if e := f.file.Close(); err == nil {
		err = e
	}
	return err
}

// Publish lets the finished file appear.
func (f *File) Publish() error {
	err := os.Rename(f.Temp, f.Target)
	if err == nil {
		end(f.Temp)
	}
	return err
}

// Abandon removes what was written.
func (f *File) Abandon() {
	f.file.Close()
	os.Remove(f.Temp)
	end(f.Temp)
}

// Replace puts a text in the place of a file.
func Replace(target, mark string, text []byte) error {
	return Write(target, mark, func(w io.Writer) error {
		_, err := w.Write(text)
		return err
	})
}

// Write puts what is written in the place of a file.
func Write(target, mark string, write func(io.Writer) error) error {
	f, err := Create(target, mark)
	if err != nil {
		return err
	}
	err = write(f)
	if err == nil {
		err = f.Finish()
	}
	if err == nil {
		err = f.Publish()
	}
	if err != nil {
		f.Abandon()
	}
	return err
}
