package fact

import "testing"

// CutFrom cuts text files into pieces of this many bytes at least, until the test ends.
func CutFrom(t *testing.T, bytes int64) {
	before := leastPiece
	leastPiece = bytes
	t.Cleanup(func() { leastPiece = before })
}
