// Package glob finds the files that a glob stands for, and tells which folders it could not
// look into.
package glob

import (
	"errors"
	"io/fs"
	"path/filepath"

	"github.com/bmatcuk/doublestar/v4"
)

// Files lists what a glob matches, in no certain order; ** goes into folders, but not through
// links. A folder that cannot be read is an *fs.PathError with its path: it may hold files.
// Pattern errors are doublestar.ErrBadPattern.
func Files(glob string, options ...doublestar.GlobOption) ([]string, error) {
	if !doublestar.ValidatePattern(filepath.ToSlash(glob)) {
		return nil, doublestar.ErrBadPattern
	}
	found, err := doublestar.FilepathGlob(glob, append(options, doublestar.WithNoFollow(), doublestar.WithFailOnIOErrors())...)
	var folder *fs.PathError
	if errors.As(err, &folder) && !filepath.IsAbs(folder.Path) { // it is told within the part without wildcards
		base, _ := doublestar.SplitPattern(filepath.ToSlash(filepath.Clean(glob)))
		return nil, &fs.PathError{Op: folder.Op, Path: filepath.Join(filepath.FromSlash(base), folder.Path), Err: folder.Err}
	}
	return found, err
}
