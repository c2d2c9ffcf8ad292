package format_test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"umbau/internal/core/table"
	"umbau/internal/demo"
	"umbau/internal/format"
	"umbau/internal/format/packed"
)

// readAll reads all tables of a file and counts their rows.
func readAll(name string, limit packed.Limits) (rows int, err error) {
	tables, err := format.Within(limit).Look(name)
	if err != nil {
		return 0, err
	}
	for _, t := range tables {
		src, err := t.Open(table.Reading{})
		if err != nil {
			return rows, err
		}
		for err == nil {
			var b table.Block
			if b, err = src.Next(nil); err == nil {
				var r table.Rows
				err = src.Split(b, &r)
				rows += r.Len()
			}
		}
		src.Close()
		if err != io.EOF {
			return rows, err
		}
	}
	return rows, nil
}

func TestDemoFiles(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Write(dir))
	for name, want := range map[string]int{"Lakes.xlsx": 130, "2023.zip": 81} {
		rows, err := readAll(filepath.Join(dir, "raw", name), packed.Default)
		require.NoError(t, err)
		require.InDelta(t, want, rows, 8, name)
	}
}

// FuzzFile: whatever a file holds, it is read or refused, within the limit.
func FuzzFile(f *testing.F) {
	var book, archive bytes.Buffer
	x := excelize.NewFile()
	require.NoError(f, x.SetSheetRow("Sheet1", "A1", &[]any{"Branch", 1.5, "x"}))
	require.NoError(f, x.Write(&book))
	z := zip.NewWriter(&archive)
	m, err := z.Create("raw/a.csv")
	require.NoError(f, err)
	_, err = m.Write([]byte("a,b\n1,2\n"))
	require.NoError(f, err)
	require.NoError(f, z.Close())
	f.Add(book.Bytes(), ".xlsx")
	f.Add(archive.Bytes(), ".zip")
	f.Add([]byte("a;b\n1,5;\"x\"\n"), ".csv")
	f.Add([]byte("\x1f\x8b\x08"), ".gz")
	f.Add([]byte("\x28\xb5\x2f\xfd\x04\x00\x01\x00\x00"), ".zst")
	f.Add([]byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"), ".xlsx")
	dir := f.TempDir()
	f.Fuzz(func(t *testing.T, data []byte, ending string) {
		switch ending {
		case ".csv", ".txt", ".gz", ".zst", ".zip", ".xlsx", ".ods":
		default:
			return
		}
		name := filepath.Join(dir, "x"+ending)
		require.NoError(t, os.WriteFile(name, data, 0o666))
		_, _ = readAll(name, packed.Limits{Bytes: 4 << 20})
	})
}
