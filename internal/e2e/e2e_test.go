// Package e2e drives the built program on files in temporary folders. Each
// script in testdata is one story: files below, commands above.
package e2e

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/xuri/excelize/v2"

	"umbau/internal/cli"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){
		"umbau": func() { os.Exit(cli.Main(os.Args[1:], os.Stdout, os.Stderr)) },
	})
}

func TestScripts(t *testing.T) {
	testscript.Run(t, testscript.Params{
		Dir:                 "testdata",
		RequireExplicitExec: true,
		RequireUniqueNames:  true,
		Cmds: map[string]func(*testscript.TestScript, bool, []string){
			"ends":   ends,
			"bytes":  writeBytes,
			"fifo":   fifo,
			"empty":  empty,
			"repeat": repeat,
			"zip":    zipFile,
			"book":   book,
		},
		Condition: func(c string) (bool, error) { return c == "root" && os.Getuid() == 0, nil },
	})
}

// ends CODE COMMAND... runs a command that must end with this exit code.
func ends(ts *testscript.TestScript, neg bool, args []string) {
	if neg || len(args) < 2 {
		ts.Fatalf("usage: ends CODE COMMAND...")
	}
	err := ts.Exec(args[1], args[2:]...)
	code := 0
	if exit, ok := err.(*exec.ExitError); ok {
		code = exit.ExitCode()
	} else if err != nil {
		ts.Fatalf("%v", err)
	}
	if strconv.Itoa(code) != args[0] {
		ts.Fatalf("exit code %d, not %s", code, args[0])
	}
}

// bytes FILE QUOTED writes a file with the escapes of a Go string.
func writeBytes(ts *testscript.TestScript, _ bool, args []string) {
	text, err := strconv.Unquote(`"` + args[1] + `"`)
	ts.Check(err)
	write(ts, args[0], text)
}

func write(ts *testscript.TestScript, file, text string) {
	ts.Check(os.MkdirAll(filepath.Dir(ts.MkAbs(file)), 0o777))
	ts.Check(os.WriteFile(ts.MkAbs(file), []byte(text), 0o666))
}

// repeat FILE BEFORE TEXT COUNT AFTER writes a text many times over.
func repeat(ts *testscript.TestScript, _ bool, args []string) {
	n, err := strconv.Atoi(args[3])
	ts.Check(err)
	unquote := func(s string) string {
		s, err := strconv.Unquote(`"` + s + `"`)
		ts.Check(err)
		return s
	}
	write(ts, args[0], unquote(args[1])+strings.Repeat(unquote(args[2]), n)+unquote(args[4]))
}

// zip FILE HOW [MEMBER TEXT]... packs members: plain, or as a file that means no good.
func zipFile(ts *testscript.TestScript, _ bool, args []string) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 2; i < len(args); i += 2 {
		text, err := strconv.Unquote(`"` + args[i+1] + `"`)
		ts.Check(err)
		if args[1] == "bomb" {
			text += strings.Repeat("1\n", 70_000_000)
		}
		w, err := z.Create(args[i])
		ts.Check(err)
		_, err = io.WriteString(w, text)
		ts.Check(err)
	}
	ts.Check(z.Close())
	data := b.Bytes()
	switch args[1] {
	case "locked": // say so, in both headers of the first member
		data[6] |= 1
		data[bytes.Index(data, []byte("PK\x01\x02"))+8] |= 1
	case "broken": // another byte within the first member
		data[30+len(args[2])+2] ^= 0x10
	}
	write(ts, args[0], string(data))
}

// book FILE LIST makes a workbook of a list of lines.
func book(ts *testscript.TestScript, _ bool, args []string) {
	ts.Check(writeBook(ts.MkAbs(args[0]), ts.ReadFile(args[1])))
}

// writeBook makes a workbook of lines SHEET CELL KIND VALUE: a string, a number, a
// date, a formula, or a merge up to a cell; hide hides the sheet, hide-row and hide-column those of the cell.
func writeBook(file, list string) error {
	f := excelize.NewFile()
	defer f.Close()
	day, err := f.NewStyle(&excelize.Style{NumFmt: 14})
	for line := range strings.Lines(list) {
		words := strings.SplitN(strings.TrimSpace(line), " ", 4)
		sheet, cell, kind, text := words[0], words[1], words[2], words[3]
		if i, _ := f.GetSheetIndex(sheet); i < 0 && err == nil {
			_, err = f.NewSheet(sheet)
		}
		if err != nil {
			return err
		}
		switch kind {
		case "string":
			err = f.SetCellStr(sheet, cell, text)
		case "number":
			n, _ := strconv.ParseFloat(text, 64)
			err = f.SetCellFloat(sheet, cell, n, -1, 64)
		case "date":
			n, _ := strconv.Atoi(text)
			if err = f.SetCellInt(sheet, cell, int64(n)); err == nil {
				err = f.SetCellStyle(sheet, cell, cell, day)
			}
		case "formula":
			err = f.SetCellFormula(sheet, cell, text)
		case "merge":
			err = f.MergeCell(sheet, cell, text)
		case "hide":
			err = f.SetSheetVisible(sheet, false)
		case "hide-row":
			err = f.SetRowVisible(sheet, rowOf(cell), false)
		case "hide-column":
			err = f.SetColVisible(sheet, strings.Trim(cell, "0123456789"), false)
		default:
			err = errors.New("no kind " + kind)
		}
		if err != nil {
			return err
		}
	}
	if err := f.DeleteSheet("Sheet1"); err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o777); err != nil {
		return err
	}
	return f.SaveAs(file)
}

// rowOf is the row of a cell, 0 for none.
func rowOf(cell string) int {
	_, row, _ := excelize.CellNameToCoordinates(cell)
	return row
}

// fifo FILE makes a named pipe.
func fifo(ts *testscript.TestScript, _ bool, args []string) {
	ts.Check(syscall.Mkfifo(ts.MkAbs(args[0]), 0o666))
}

// empty DIR fails unless the folder is absent or has no file in it, at any depth.
func empty(ts *testscript.TestScript, _ bool, args []string) {
	err := filepath.WalkDir(ts.MkAbs(args[0]), func(path string, d os.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			ts.Fatalf("%s is there", path)
		}
		return nil
	})
	ts.Check(err)
}
