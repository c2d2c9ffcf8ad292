package fact

import (
	"crypto/sha256"
	"encoding/hex"
	"io"
	"os"
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
