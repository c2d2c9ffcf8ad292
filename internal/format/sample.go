package format

import (
	"bytes"
	"io"
	"os"

	"umbau/internal/core/table"
)

// A sample of a text file is its head, pieces at equal distances, and its end, each of whole
// lines: the header, what changes on the way, and the totals below are in it.

// LargeText is how many bytes a draft reads of a text file at most.
const LargeText = 64 << 20

const (
	samplePieces = 32
	mostLine     = 1 << 20 // how far a line's beginning is looked for
)

// Sampling are formats that read of a plain text file of more bytes than most only a sample of
// about so many.
func Sampling(of *table.Formats, most int64) *table.Formats {
	sampled := *of
	sampled.Look = func(name string) ([]table.Table, error) {
		tables, err := of.Look(name)
		if len(tables) != 1 || err != nil {
			return tables, err
		}
		if t := &tables[0]; t.Text && t.Bytes > most {
			t.Sampled, t.Size = most, most
			t.Open = func(how table.Reading) (table.Source, error) {
				return (&reader{}).openLines(name, func() (io.ReadCloser, error) { return openSample(name, most) }, most, how)
			}
		}
		return tables, err
	}
	return &sampled
}

// openSample opens a sample of about so many bytes of a text file.
func openSample(name string, most int64) (io.ReadCloser, error) {
	in, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	info, err := in.Stat()
	if err != nil {
		in.Close()
		return nil, err
	}
	head := make([]byte, 2)
	if _, err := in.ReadAt(head, 0); err != nil || info.Size() <= most || head[0] >= 0xfe { // two bytes a letter: a line begins anywhere
		return in, nil
	}
	step, piece := info.Size()/samplePieces, most/2/samplePieces
	cuts := []int64{0, lineFrom(in, most/2)}
	for i := range int64(samplePieces) {
		from, to := step*(i+1)-piece, step*(i+1)
		if i == samplePieces-1 {
			from, to = info.Size()-piece, info.Size()
		} else {
			to = lineFrom(in, to)
		}
		if from = lineFrom(in, from); from >= cuts[len(cuts)-1] && to > from {
			cuts = append(cuts, from, to)
		}
	}
	var parts []io.Reader
	for i := 0; i < len(cuts); i += 2 {
		parts = append(parts, io.NewSectionReader(in, cuts[i], cuts[i+1]-cuts[i]))
	}
	return struct {
		io.Reader
		io.Closer
	}{io.MultiReader(parts...), in}, nil
}

// lineFrom is where a line begins, from an offset on. Whether the offset is within quotes shows in
// what stands beside the quotes that follow: one that opens stands behind a delimiter or a line
// end, one that closes before one.
func lineFrom(in io.ReaderAt, from int64) int64 {
	buffer := make([]byte, mostLine)
	n, _ := in.ReadAt(buffer, from)
	text := buffer[:n]
	outside := misfits(text, false) <= misfits(text, true)
	for i, c := range text {
		switch {
		case c == '"':
			outside = !outside
		case c == '\n' && outside:
			return from + int64(i) + 1
		}
	}
	return from + int64(n)
}

// misfits counts the quotes that open or close where they should not, if a text begins within
// quotes or not.
func misfits(text []byte, quoted bool) (n int) {
	edge := func(i int) bool {
		return i < 0 || i >= len(text) || bytes.IndexByte([]byte(",;|\t\r\n\""), text[i]) >= 0
	}
	for i, c := range text {
		if c != '"' {
			continue
		}
		beside := i - 1 // it opens
		if quoted {
			beside = i + 1
		}
		if !edge(beside) {
			n++
		}
		quoted = !quoted
	}
	return n
}
