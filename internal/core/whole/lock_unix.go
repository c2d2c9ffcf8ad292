//go:build unix

package whole

import (
	"errors"
	"os"
	"syscall"
)

// ErrHeld says that another process holds a lock.
var ErrHeld = errors.New("it is held by another process")

// Lock creates a file and locks it until its process ends. It returns
// ErrHeld where another one holds the lock, nil and another error where there
// are no locks.
func Lock(path string) (*os.File, error) {
	for {
		f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o666)
		if err != nil {
			return nil, err
		}
		if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
			f.Close()
			if errors.Is(err, syscall.EWOULDBLOCK) {
				return nil, ErrHeld
			}
			os.Remove(path)
			return nil, err
		}
		// The build before may have removed the file between the two.
		held, err := f.Stat()
		if there, e := os.Stat(path); err == nil && e == nil && os.SameFile(held, there) {
			begin(path)
			return f, nil
		}
		f.Close()
	}
}

// Unlock gives a lock back.
func Unlock(f *os.File, path string) {
	os.Remove(path) // first, so that nobody takes a file that is about to go
	end(path)
	f.Close()
}
