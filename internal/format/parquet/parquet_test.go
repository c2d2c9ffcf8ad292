package parquet

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	pq "github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// readAll reads a column file as rows of texts.
func readAll(file string) (out [][]string, err error) {
	tables, err := Tables(file, 1)
	if err != nil {
		return nil, err
	}
	s, err := tables[0].Open(table.Reading{})
	if err != nil {
		return nil, err
	}
	defer s.Close()
	for {
		b, err := s.Next(nil)
		if err == io.EOF {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		var rows table.Rows
		if err := s.Split(b, &rows); err != nil {
			return nil, err
		}
		for i := range rows.Len() {
			var row []string
			for _, c := range rows.Row(i) {
				row = append(row, string(rows.Text(c)))
			}
			out = append(out, row)
		}
	}
}

// written puts numbers into a column file, so many at a time, and returns its path.
func written(t *testing.T, decimals int, numbers []string, atOnce int) string {
	file := filepath.Join(t.TempDir(), "t.parquet")
	s, err := newSink(table.Target{To: file, Mark: ".x-"})
	require.NoError(t, err)
	require.NoError(t, s.Begin([]table.SinkColumn{{Name: "n", Is: "number", Decimals: decimals}, {Name: "t", Is: "text", Index: 1}}))
	p, b := s.Part(), table.NewBuilder([]bool{true, false})
	for i, n := range numbers {
		if d, _, ok := value.English.Number([]byte(n)); ok {
			b.Number(0, d)
		} else {
			b.NoNumber(0)
		}
		b.Text(1, []byte(n))
		b.EndRow()
		if b.Rows() == atOnce || i == len(numbers)-1 {
			p.Encode(b.Batch())
			require.NoError(t, p.Put())
			b.Clear()
		}
	}
	_, err = s.End()
	require.NoError(t, err)
	require.NoError(t, s.Publish())
	return file
}

// A number that needs more room than all before it begins the file again, and none of them
// changes: more places, more digits, and both, in the first rows and behind them.
func TestWiderNumbers(t *testing.T) {
	for _, wide := range []string{"0.123456", "123456789012345678", "99999999999999999999.5", "-0.00000000000000000001",
		"12345678901234567890123456789012"} {
		numbers := make([]string, 70_000)
		for i := range numbers {
			numbers[i] = []string{"1.25", "-3", "", "0", "1000000"}[i%5]
		}
		numbers = append(numbers, wide, "2.5", "")
		rows, err := readAll(written(t, -1, numbers, 7000))
		require.NoError(t, err)
		require.Len(t, rows, len(numbers)+1)
		for i, n := range numbers {
			if n == "" {
				require.Equal(t, "NULL", rows[i+1][0])
				continue
			}
			want, _, _ := value.English.Number([]byte(n))
			have, _, ok := value.English.Number([]byte(rows[i+1][0]))
			require.True(t, ok && want.Cmp(have) == 0, "%s: %q", n, rows[i+1][0])
		}
	}
}

// Numbers beyond 38 digits are an error, never rounded.
func TestTooLarge(t *testing.T) {
	s, err := newSink(table.Target{To: filepath.Join(t.TempDir(), "t.parquet"), Mark: ".x-"})
	require.NoError(t, err)
	defer s.Abandon()
	require.NoError(t, s.Begin([]table.SinkColumn{{Name: "n", Is: "number", Decimals: 2}}))
	p, b := s.Part(), table.NewBuilder([]bool{true})
	d, _, _ := value.English.Number([]byte("1234567890123456789012345678901234567"))
	b.Number(0, d)
	b.EndRow()
	p.Encode(b.Batch())
	require.NoError(t, p.Put())
	_, err = s.End()
	require.ErrorContains(t, err, "38 digits")
}

// Whatever the bytes, reading ends, with rows or with an error.
func FuzzRead(f *testing.F) {
	var b bytes.Buffer
	w := pq.NewGenericWriter[struct {
		N int64
		T string
	}](&b)
	_, err := w.Write(make([]struct {
		N int64
		T string
	}, 3))
	require.NoError(f, err)
	require.NoError(f, w.Close())
	f.Add(b.Bytes())
	f.Add([]byte("PAR1"))
	f.Add([]byte("PAR1\xf0\xff\xff\xffPAR1")) // which says that 4 GB stand before its end
	f.Fuzz(func(t *testing.T, data []byte) {
		if len(data) > 1<<16 {
			return
		}
		file := filepath.Join(t.TempDir(), "t.parquet")
		require.NoError(t, os.WriteFile(file, data, 0o666))
		_, _ = readAll(file)
	})
}

// Files that are packed by LZ4 are read, in pages of both kinds; a page that cannot be unpacked is damaged, and asks for no memory.
func TestPackedByLZ4(t *testing.T) {
	type line struct {
		N    int64
		Text string `parquet:",dict"`
		Name string `parquet:",plain"`
		Rate *float64
	}
	var lines []line
	for i := range 20_000 {
		rate := float64(i) / 4
		l := line{int64(i * i), strings.Repeat("Dock Line ", i%7), fmt.Sprint("Holm ", i), &rate}
		if i%5 == 0 {
			l.Rate = nil
		}
		lines = append(lines, l)
	}
	for _, version := range []int{1, 2} {
		var b bytes.Buffer
		w := pq.NewGenericWriter[line](&b, pq.Compression(&pq.Lz4Raw), pq.DataPageVersion(version), pq.PageBufferSize(4000))
		_, err := w.Write(lines)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		file := filepath.Join(t.TempDir(), "t.parquet")
		require.NoError(t, os.WriteFile(file, b.Bytes(), 0o666))
		all, err := readAll(file)
		require.NoError(t, err)
		require.Len(t, all, len(lines)+1)
	}
	for block, ok := range map[string]bool{"\x10a": true, "\x30abc": true, "\x00": true, "": false, "\x20a": false, "\xf0": false,
		"\x12a\x01\x00\x10b": true, "\x12a\x02\x00\x10b": false, "\x12a\x00\x00\x10b": false, "\x12a\x01": false,
		"\x1fa\x01\x00\xff\x03\x00": true} {
		require.Equal(t, ok, unpacks([]byte(block)), "%q", block)
	}
}
