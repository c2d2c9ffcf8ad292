// Package packed reads through compressed files: gzip (also of several members),
// Zstandard, and the members of zip archives.
//
// What is unpacked is limited, in bytes and in its ratio to what was packed, so
// that a small file cannot fill memory or disk.
package packed

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"slices"
	"strings"

	"github.com/klauspost/compress/flate"
	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"

	"umbau/internal/core/table"
)

// Kind is how a file is packed.
type Kind uint8

// The kinds.
const (
	Plain Kind = iota
	Gzip
	Zstandard
	Zip
)

// forms are the ways to pack a file: how its name ends, and how it begins.
var forms = []struct {
	kind   Kind
	ending string
	head   string
}{{Gzip, ".gz", "\x1f\x8b"}, {Zstandard, ".zst", "\x28\xb5\x2f\xfd"}, {Zip, ".zip", "PK\x03\x04"}, {Zip, ".zip", "PK\x05\x06"}}

// Format is that of packed files.
var Format = table.Format{Endings: []string{".gz", ".zst", ".zip"}}

// KindOf tells how a file is packed by its first bytes.
func KindOf(head []byte) Kind {
	if len(head) > 3 && head[0]&0xf0 == 0x50 && string(head[1:4]) == "\x2a\x4d\x18" { // a frame to skip comes first
		return Zstandard
	}
	for _, f := range forms {
		if bytes.HasPrefix(head, []byte(f.head)) {
			return f.kind
		}
	}
	return Plain
}

// KindOfName tells how a file should be packed by its ending.
func KindOfName(ending string) Kind {
	for _, f := range forms {
		if f.ending == ending {
			return f.kind
		}
	}
	return Plain
}

// Unpack reads a gzip or Zstandard stream of so many packed bytes.
func Unpack(in io.Reader, kind Kind, packed int64, limit Limits) (io.ReadCloser, error) {
	var out io.ReadCloser
	switch kind {
	case Gzip:
		z, err := gzip.NewReader(in)
		if err != nil {
			return nil, broken(err)
		}
		out = z
	case Zstandard:
		z, err := zstd.NewReader(in, zstd.WithDecoderMaxMemory(256<<20), zstd.WithDecoderConcurrency(1))
		if err != nil {
			return nil, broken(err)
		}
		out = z.IOReadCloser()
	default:
		return nil, fmt.Errorf("kind %d is no stream", kind)
	}
	return &limited{in: out, left: limit.most(packed)}, nil
}

// limited reads at most so many bytes and says what is wrong with an archive in
// words.
type limited struct {
	in   io.ReadCloser
	left int64
}

// Read implements io.Reader.
func (l *limited) Read(p []byte) (int, error) {
	n, err := l.in.Read(p)
	if l.left -= int64(n); l.left < 0 {
		return 0, tooMuch()
	}
	if err != nil && err != io.EOF {
		err = broken(err)
	}
	return n, err
}

// Close implements io.Closer.
func (l *limited) Close() error { return l.in.Close() }

const torn = "this is no zip archive, or the end of it is missing"

// Torn reports whether an error is that of an archive whose end is missing.
func Torn(err error) bool {
	var file *table.FileError
	return errors.As(err, &file) && file.Text == torn
}

// broken words what is wrong with an archive.
func broken(err error) error {
	var path *os.PathError
	if errors.As(err, &path) {
		return err
	}
	text := "the archive is damaged: " + err.Error()
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF):
		text = "the archive is cut: it ends too early"
	case errors.Is(err, gzip.ErrChecksum), errors.Is(err, zip.ErrChecksum), errors.Is(err, zstd.ErrCRCMismatch):
		text = "the archive is damaged: its checksum is wrong"
	case errors.Is(err, zstd.ErrWindowSizeExceeded), errors.Is(err, zstd.ErrDecoderSizeExceeded):
		return &table.FileError{Text: "the archive was packed with a window of more than 256 MB, as zstd --long=31 does",
			Advice: "pack it again without --long"}
	case errors.Is(err, zip.ErrFormat):
		text = torn
	case errors.Is(err, zip.ErrAlgorithm):
		text = "the archive is packed in a way that is not known here"
	}
	return &table.FileError{Text: text, Advice: "pack it again, or send it again"}
}

// Member is one file in a zip archive.
type Member struct {
	Name string
	Size int64
	file *zip.File
}

// Open reads a member.
func (m *Member) Open(limit Limits) (io.ReadCloser, error) {
	in, err := m.file.Open()
	if err != nil {
		return nil, broken(err)
	}
	return &limited{in: in, left: limit.most(int64(m.file.CompressedSize64))}, nil
}

// Members lists the files in an archive in their order, those in its folders too. None of them gives
// more bytes than it says.
func Members(in io.ReaderAt, size int64, limit Limits) ([]Member, error) {
	z, err := zip.NewReader(in, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return nil, broken(err)
	}
	z.RegisterDecompressor(zip.Deflate, flate.NewReader)
	if limit.Members > 0 && int64(len(z.File)) > limit.Members {
		return nil, Beyond("members", limit.Members, "an archive of more than %d members", limit.Members)
	}
	var out []Member
	names, left := map[string]bool{}, limit.most(size)
	for _, f := range z.File {
		name := strings.ReplaceAll(memberName(f.Name), `\`, "/")
		if strings.HasSuffix(name, "/") {
			continue
		}
		if path.IsAbs(name) || slices.Contains(strings.Split(name, "/"), "..") || strings.Contains(name, ":/") {
			return nil, &table.FileError{Member: f.Name, Text: "the path of the member leads out of the archive",
				Advice: "nothing was unpacked; where does this file come from?"}
		}
		if f.Flags&1 != 0 {
			return nil, &table.FileError{Member: f.Name, Text: "the archive is locked with a password", Advice: "pack it without one"}
		}
		if names[path.Clean(name)] {
			return nil, &table.FileError{Member: f.Name, Text: "the archive has two members of this name",
				Advice: "which is the right one? pack the archive again with one of them"}
		}
		names[path.Clean(name)] = true
		if f.UncompressedSize64 > uint64(left) {
			return nil, tooMuch()
		}
		left -= int64(f.UncompressedSize64)
		out = append(out, Member{Name: path.Clean(name), Size: int64(f.UncompressedSize64), file: f})
	}
	return out, nil
}

// Hidden reports whether a member begins with a dot or ~$, or is what a system
// keeps in an archive for itself.
func (m *Member) Hidden() bool {
	return slices.ContainsFunc(strings.Split(m.Name, "/"), func(s string) bool {
		return strings.HasPrefix(s, ".") || strings.HasPrefix(s, "~$") || s == "__MACOSX" || s == "Thumbs.db"
	})
}
