// Package glob finds the files that a glob stands for, and tells which folders it could not
// look into.
package glob

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/bmatcuk/doublestar/v4"
)

// The most that a glob may stand for: each choice in braces multiplies.
const (
	mostChoices = 1000
	mostFolders = 8 // times **
)

// Check reports what makes a glob stand for more than anybody can look through.
func Check(glob string) error {
	choices, here, depth := 1, 0, 0
	for _, c := range glob {
		switch {
		case c == '{':
			depth++
			here++
		case c == ',' && depth > 0:
			here++
		case c == '}' && depth > 0:
			if depth--; depth == 0 {
				choices, here = choices*here, 0
			}
		}
		if choices > mostChoices || here > mostChoices {
			return fmt.Errorf("the glob has more than %d choices in braces", mostChoices)
		}
	}
	if strings.Count(glob, "**") > mostFolders {
		return fmt.Errorf("the glob has ** more than %d times; once finds files in all folders below", mostFolders)
	}
	return nil
}

// IsRecord reports whether a folder, or the one above that in which a record keeps the last build, is
// the record of a build.
func IsRecord(dir string) bool {
	if filepath.Base(dir) == "last" && IsRecord(filepath.Dir(dir)) {
		return true
	}
	f, err := os.Open(filepath.Join(dir, "build.json"))
	if err != nil {
		return false
	}
	defer f.Close()
	head := make([]byte, 64)
	n, _ := io.ReadFull(f, head)
	_, ok := bytes.CutPrefix(bytes.Join(bytes.Fields(head[:n]), nil), []byte(`{"umbau":`))
	return ok
}

// Files lists what a glob matches, in no certain order; ** goes into folders, but not through
// links. A folder that cannot be read is an *fs.PathError with its path: it may hold files.
// Pattern errors are doublestar.ErrBadPattern.
func Files(glob string, options ...doublestar.GlobOption) ([]string, error) {
	if !doublestar.ValidatePattern(filepath.ToSlash(glob)) {
		return nil, doublestar.ErrBadPattern
	}
	if err := Check(glob); err != nil {
		return nil, err
	}
	found, err := doublestar.FilepathGlob(glob, append(options, doublestar.WithNoFollow(), doublestar.WithFailOnIOErrors())...)
	var folder *fs.PathError
	if errors.As(err, &folder) && !filepath.IsAbs(folder.Path) { // it is told within the part without wildcards
		base, _ := doublestar.SplitPattern(filepath.ToSlash(filepath.Clean(glob)))
		return nil, &fs.PathError{Op: folder.Op, Path: filepath.Join(filepath.FromSlash(base), folder.Path), Err: folder.Err}
	}
	return found, err
}
