package cli

import (
	"bytes"
	"crypto/rand"
	"encoding/hex"
	"io"
	"os"
	"unicode/utf8"

	"golang.org/x/term"

	"umbau/internal/core/place"
)

// screen is where a command prints. Control characters and terminal escapes in what it is
// given (names of files, sheets and headers, cells) are shown escaped; only its own
// colours pass. The first failure to write is kept.
type screen struct {
	out io.Writer
	err error
}

// paintMark stands for the beginning of a terminal's escape where the program itself
// means one; nobody else can know it.
var paintMark = func() string {
	var b [8]byte
	rand.Read(b[:]) // which never fails
	return "\x1b" + hex.EncodeToString(b[:])
}()

// Write implements io.Writer.
func (s *screen) Write(b []byte) (int, error) {
	if s.err != nil {
		return 0, s.err
	}
	if _, s.err = s.out.Write(shown(b)); s.err != nil {
		return 0, s.err
	}
	return len(b), nil
}

// shown escapes what a terminal would act upon.
func shown(b []byte) []byte {
	var out []byte
	for rest := b; len(rest) > 0; {
		if after, own := bytes.CutPrefix(rest, []byte(paintMark)); own {
			out, rest = append(out, "\x1b["...), after
			continue
		}
		r, n := utf8.DecodeRune(rest)
		if r != '\n' && r != '\t' && place.Hidden(r, n) {
			out = append(out, place.Visible(string(rest[:n]))...)
		} else {
			out = append(out, rest[:n]...)
		}
		rest = rest[n:]
	}
	return out
}

// terminal reports whether w prints on a terminal, and which.
func terminal(w io.Writer) (*os.File, bool) {
	if s, ok := w.(*screen); ok {
		w = s.out
	}
	f, ok := w.(*os.File)
	return f, ok && term.IsTerminal(int(f.Fd()))
}
