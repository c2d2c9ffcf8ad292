package whole

import (
	"errors"
	"io/fs"
	"os"
)

// ErrHeld says that another process holds a lock.
var ErrHeld = errors.New("it is held by another process")

// Lock creates a file that nobody can remove while it is open. It returns
// ErrHeld where another process has it open.
func Lock(path string) (*os.File, error) {
	if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, ErrHeld
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_RDWR, 0o666)
	if errors.Is(err, fs.ErrExist) {
		err = ErrHeld
	}
	if err == nil {
		begin(path)
	}
	return f, err
}

// Unlock gives a lock back.
func Unlock(f *os.File, path string) {
	f.Close()
	os.Remove(path)
	end(path)
}
