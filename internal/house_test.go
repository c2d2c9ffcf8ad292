// Package internal has only this test of the house as a whole.
package internal

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
)

// floors orders the rooms from the ground up: a room may use those on lower
// floors only. A new room gets its floor here; a new format has that of the others.
var floors = [][]string{
	{"core/place", "core/key", "core/glob", "core/whole", "core/watch", "core/expression"},
	{"core/parts"},
	{"core/value", "core/pattern"},
	{"core/terms"},
	{"core/filenames"},
	{"core/formula"},
	{"core/table"},
	{"core/plan"},
	{"core/names", "core/shape", "core/tie", "core/lookup", "core/since"},
	{"core/layout"},
	{"core/treat"},
	{"core/record", "core/survey"},
	{"core/pass"},
	{"core/keep"},
	{"core/finished"},
	{"core/deliver"},
	{"core/fact"},
	{"core/totals", "core/keys"},
	{"core/compare", "core/widen", "core/draft", "core/cube", "core/trace"},
	{"format/charset", "format/packed", "format/markup", "format/cells", "format/rowset", "demo"},
	{"format/lines"},
	{"format/csv", "format/jsonl", "format/parquet", "format/xlsx", "format/ods", "format/sqlite"},
	{"format/postgres"},
	{"report"},
	{"format"},
	{"cli"},
	{"e2e", "demo/generate", "demo/hostile", "demo/messy", "cli/man"},
	{"demo/messy/measure"},
}

// The core has no terminal, no flags and no files of its own format.
var barred = []string{"github.com/spf13/", "github.com/mattn/", "github.com/vbauerster/", "flag"}

func TestImportsRunDownwards(t *testing.T) {
	floor := map[string]int{}
	for i, rooms := range floors {
		for _, r := range rooms {
			floor[r] = i
		}
	}
	err := filepath.WalkDir(".", func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
			return err
		}
		src, err := os.ReadFile(file)
		require.NoError(t, err)
		f, err := parser.ParseFile(token.NewFileSet(), file, src, parser.ImportsOnly)
		require.NoError(t, err)
		room := filepath.ToSlash(filepath.Dir(file))
		own, ok := floor[room]
		if !ok && strings.HasPrefix(room, "format/") {
			own, ok = floor["format/xlsx"], true
		}
		require.True(t, ok, "%s has no floor", room)
		for _, imp := range f.Imports {
			name := strings.Trim(imp.Path.Value, `"`)
			if other, ok := strings.CutPrefix(name, "umbau/internal/"); ok {
				require.Less(t, floor[other], own, "%s imports %s", file, other) // 0 for a format that is new
			}
			for _, b := range barred {
				if strings.HasPrefix(room, "core/") {
					require.False(t, strings.HasPrefix(name, b) || path.Clean(name) == b, "%s imports %s", file, name)
				}
			}
		}
		return nil
	})
	require.NoError(t, err)
}

// A file that needs scrolling for long holds more than one thing.
func TestFilesAreShort(t *testing.T) {
	require.NoError(t, filepath.WalkDir(".", func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(file, ".go") {
			return err
		}
		src, err := os.ReadFile(file)
		require.LessOrEqual(t, strings.Count(string(src), "\n"), 500, file)
		return err
	}))
}

// Lines fit on a screen beside another file; functions are read without scrolling.
func TestLinesAndFunctionsAreShort(t *testing.T) {
	const mostWide, mostLong = 140, 60
	require.NoError(t, filepath.WalkDir("..", func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(file, ".go") {
			return err
		}
		src, err := os.ReadFile(file)
		require.NoError(t, err)
		for i, line := range strings.Split(string(src), "\n") {
			require.LessOrEqual(t, utf8.RuneCountInString(line), mostWide, "%s:%d", file, i+1)
		}
		files := token.NewFileSet()
		f, err := parser.ParseFile(files, file, src, 0)
		require.NoError(t, err)
		for _, d := range f.Decls {
			if fn, ok := d.(*ast.FuncDecl); ok {
				first, last := files.Position(fn.Pos()), files.Position(fn.End()).Line
				require.LessOrEqual(t, last-first.Line+1, mostLong, "%s of %s", fn.Name, first)
			}
		}
		return nil
	}))
}

// The page on the architecture names every room.
func TestPageNamesRooms(t *testing.T) {
	page, err := os.ReadFile("../docs/architecture.md")
	require.NoError(t, err)
	for _, rooms := range floors {
		for _, r := range rooms {
			require.Contains(t, string(page), r)
		}
	}
}
