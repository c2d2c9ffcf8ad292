package cli

import (
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"umbau/internal/core/whole"
	"umbau/internal/format"
)

// readText reads a text file, in whatever encoding it is, as UTF-8. One that is not there
// is empty.
func readText(file string) ([]byte, error) {
	f, err := os.Open(file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(format.Text(f))
}

// patience is how long a command waits for another one that changes the same file.
const patience = 5 * time.Second

// changeFile changes a file that others may change too: under a lock, from what stands in
// it at that moment, whole or not at all. A file that is not there yet begins empty.
func changeFile(file string, change func(old []byte) ([]byte, error)) error {
	if real, err := filepath.EvalSymlinks(file); err == nil {
		file = real
	}
	if info, err := os.Stat(file); err == nil && info.Mode().Perm()&0o200 == 0 {
		return errors.New("it is read-only")
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o777); err != nil {
		return err
	}
	name := filepath.Join(filepath.Dir(file), ".umbau-"+filepath.Base(file)+".lock")
	lock, err := whole.Lock(name)
	for end := time.Now().Add(patience); errors.Is(err, whole.ErrHeld); lock, err = whole.Lock(name) {
		if time.Now().After(end) {
			return errors.New("another command is changing it")
		}
		time.Sleep(20 * time.Millisecond)
	}
	if lock != nil { // else the file system knows no locks
		defer whole.Unlock(lock, name)
	}
	old, err := readText(file)
	if err != nil {
		return err
	}
	text, err := change(old)
	if err != nil {
		return err
	}
	return whole.Replace(file, ".umbau-", text)
}
