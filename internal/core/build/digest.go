package build

import (
	"crypto/sha256"
	"encoding/hex"
	"io"
	"os"
	"path/filepath"
)

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
