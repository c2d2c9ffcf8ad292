package build

import (
	"errors"
	"io/fs"
	"os"
)

// lockFile creates a file that nobody can remove while it is open. It returns
// errUnderWay where another process has it open.
func lockFile(path string) (*os.File, error) {
	if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, errUnderWay
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_RDWR, 0o666)
	if errors.Is(err, fs.ErrExist) {
		err = errUnderWay
	}
	return f, err
}

func unlockFile(f *os.File, path string) {
	f.Close()
	os.Remove(path)
}
