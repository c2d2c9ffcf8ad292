package build

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"sync/atomic"
)

// output is one file that appears whole or not at all: it is written beside its
// target and renamed when everything has held.
type output struct {
	target string // links resolved
	temp   string
	file   *os.File
	bytes  int64
}

var outputs atomic.Int64

// createOutput begins a file beside its target, whose name begins with mark. A link
// is followed, so that it stays a link.
func createOutput(target, mark string) (*output, error) {
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
	name := mark + strconv.Itoa(os.Getpid()) + "-" + strconv.FormatInt(outputs.Add(1), 10) + ".tmp"
	o := &output{target: target, temp: filepath.Join(filepath.Dir(target), name)}
	if o.file, err = os.OpenFile(o.temp, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o666); err != nil {
		return nil, err
	}
	if info != nil {
		err = o.file.Chmod(info.Mode().Perm())
	}
	if err != nil {
		o.abandon()
	}
	return o, err
}

// Write appends to the file.
func (o *output) Write(b []byte) (int, error) {
	n, err := o.file.Write(b)
	o.bytes += int64(n)
	return n, err
}

// empty forgets what was written.
func (o *output) empty() error {
	o.bytes = 0
	if err := o.file.Truncate(0); err != nil {
		return err
	}
	_, err := o.file.Seek(0, io.SeekStart)
	return err
}

// finish brings all that was written safely to the disk.
func (o *output) finish() error {
	err := o.file.Sync()
	if e := o.file.Close(); err == nil {
		err = e
	}
	return err
}

// publish lets the finished file appear.
func (o *output) publish() error { return os.Rename(o.temp, o.target) }

// abandon removes what was written.
func (o *output) abandon() {
	o.file.Close()
	os.Remove(o.temp)
}

// DigestLimit is the size in bytes up to which files get a digest without being
// asked for. Beyond it, working out SHA-256 would take longer than the build.
const DigestLimit = 1 << 20

// digestOf returns the SHA-256 of a file in hexadecimal, nil for one that is
// too large, unless all is set, or cannot be read.
func digestOf(file string, bytes int64, all bool) *string {
	if bytes > DigestLimit && !all {
		return nil
	}
	f, err := os.Open(file)
	if err != nil {
		return nil
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.CopyBuffer(h, struct{ io.Reader }{f}, make([]byte, min(64<<10, max(512, bytes)))); err != nil {
		return nil
	}
	sum := hex.EncodeToString(h.Sum(nil))
	return &sum
}

// folders are those made for outputs; remove takes back the empty ones.
type folders struct{ made []string }

func (f *folders) make(dir string) error {
	var missing []string
	for d := dir; ; d = filepath.Dir(d) {
		if _, err := os.Stat(d); err == nil || d == filepath.Dir(d) {
			break
		}
		missing = append(missing, d)
	}
	err := os.MkdirAll(dir, 0o777)
	for i := len(missing) - 1; i >= 0; i-- {
		f.made = append(f.made, missing[i])
	}
	return err
}

func (f *folders) remove() {
	for i := len(f.made) - 1; i >= 0; i-- {
		os.Remove(f.made[i]) // stays where something is in it
	}
}
