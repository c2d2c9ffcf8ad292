package format

import (
	"encoding/csv"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/table"
)

// A sample is the head, the end, and rows between them, each as it stands in the file.
func TestSample(t *testing.T) {
	remarks := map[string]func(r *rand.Rand) string{
		"plain":  func(r *rand.Rand) string { return fmt.Sprint("late ", r.IntN(90)) },
		"quoted": func(r *rand.Rand) string { return `"said ""yes"", then went"` },
		"lines":  func(r *rand.Rand) string { return "\"said \"\"yes\"\",\nand left, " + fmt.Sprint(r.IntN(90)) + "\"" },
		"some":   func(r *rand.Rand) string { return []string{"", `"a, b"`, "\"x\n\ny\"", "fine"}[r.IntN(4)] },
	}
	for name, remark := range remarks {
		r := rand.New(rand.NewPCG(1, 2))
		var b strings.Builder
		b.WriteString("Row,Product,Amount,Remark\n")
		for i := range 20_000 {
			line := fmt.Sprintf("%d,Oar,%d.%02d,%s\n", i, r.IntN(999), r.IntN(99), remark(r))
			b.WriteString(line)
		}
		file := filepath.Join(t.TempDir(), "a.csv")
		require.NoError(t, os.WriteFile(file, []byte(b.String()), 0o666))
		tables, err := Sampling(All(), 100_000).Look(file)
		require.NoError(t, err)
		require.EqualValues(t, 100_000, tables[0].Sampled)
		in, err := openSample(file, 100_000)
		require.NoError(t, err)
		text, err := io.ReadAll(in)
		require.NoError(t, err)
		require.NoError(t, in.Close())
		require.InDelta(t, 100_000, len(text), 20_000, name)
		rows, err := csv.NewReader(strings.NewReader(string(text))).ReadAll()
		require.NoError(t, err, name)
		require.Equal(t, "Remark", rows[0][3])
		require.Equal(t, "19999", rows[len(rows)-1][0])
		before := -1
		for _, row := range rows[1:] {
			var n int
			_, err := fmt.Sscan(row[0], &n)
			require.NoError(t, err, name)
			require.Greater(t, n, before, name) // no row twice, and in order
			before = n
		}
	}
}

// Small files, packed ones and those of two bytes a letter are read whole.
func TestNoSample(t *testing.T) {
	dir := t.TempDir()
	small := filepath.Join(dir, "small.csv")
	require.NoError(t, os.WriteFile(small, []byte("a,b\n1,2\n"), 0o666))
	tables, err := Sampling(All(), 100).Look(small)
	require.NoError(t, err)
	require.Zero(t, tables[0].Sampled)
	wide := filepath.Join(dir, "wide.csv")
	text := "\xff\xfe" + strings.Repeat("1\x00,\x002\x00\n\x00", 1000)
	require.NoError(t, os.WriteFile(wide, []byte(text), 0o666))
	in, err := openSample(wide, 100)
	require.NoError(t, err)
	defer in.Close()
	read, err := io.ReadAll(in)
	require.NoError(t, err)
	require.Equal(t, text, string(read))
	tables, err = Sampling(All(), 100).Look(wide)
	require.NoError(t, err)
	source, err := tables[0].Open(table.Reading{})
	require.NoError(t, err)
	require.NoError(t, source.Close())
}
