package pass

import (
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"

	"umbau/internal/core/glob"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/whole"
)

// expand finds what a glob matches, relative to dir. A path without wildcards
// is itself, if something is there.
func expand(dir, pattern string) ([]string, error) {
	if !strings.ContainsAny(pattern, `*?[{\`) {
		if _, err := os.Lstat(whole.Join(dir, pattern)); err != nil {
			return nil, nil
		}
		return []string{path.Clean(pattern)}, nil
	}
	found, err := glob.Files(whole.Join(dir, pattern))
	if err != nil {
		return nil, err
	}
	for i, f := range found {
		found[i] = relative(dir, f, pattern)
	}
	found = withoutRecords(dir, found)
	if path.Base(pattern) == "**" { // ** stands for folders too; what is in them is matched itself
		found = slices.DeleteFunc(found, func(f string) bool {
			info, err := os.Stat(whole.Join(dir, f))
			return err == nil && info.IsDir()
		})
	}
	return found, nil
}

// withoutRecords leaves out what builds have written of themselves: a record is no extract, wherever it is.
func withoutRecords(dir string, files []string) []string {
	records := map[string]bool{}
	return slices.DeleteFunc(files, func(file string) bool {
		folder := path.Dir(file)
		is, known := records[folder]
		if !known {
			is = glob.IsRecord(whole.Join(dir, folder))
			records[folder] = is
		}
		return is
	})
}

// relative is how the plan would name a file that its glob matched.
func relative(dir, file, glob string) string {
	if filepath.IsAbs(glob) {
		return filepath.ToSlash(file)
	}
	if dir == "" {
		dir = "."
	}
	r, err := filepath.Rel(dir, file)
	if err != nil {
		return filepath.ToSlash(file)
	}
	return filepath.ToSlash(r)
}

// passedOver reports whether a name in the path begins with a dot or ~$ and is
// not written out in the glob.
func passedOver(file, glob string) bool {
	for _, name := range strings.Split(file, "/") {
		hidden := strings.HasPrefix(name, ".") && name != ".." && name != "." || strings.HasPrefix(name, "~$")
		if hidden && !slices.ContainsFunc(strings.Split(glob, "/"), func(g string) bool {
			return strings.HasPrefix(g, name[:1]) && g != ".." && g != "."
		}) {
			return true
		}
	}
	return false
}

func excepted(file string, globs []string) bool {
	return slices.ContainsFunc(globs, func(g string) bool {
		ok, _ := doublestar.Match(path.Clean(g), file)
		return ok
	})
}

// withoutEnding leaves out what stands at the end of a path when it is held against
// its pattern: one ending of an extract, or two as in .csv.gz.
func withoutEnding(file string, endings []string) string {
	for range 2 {
		for _, e := range endings {
			if strings.HasSuffix(strings.ToLower(file), e) && len(path.Base(file)) > len(e) {
				file = file[:len(file)-len(e)]
				break
			}
		}
	}
	return file
}

// fieldsOf reads the constants of an extract: what set says and what its path does.
func fieldsOf(e *plan.Entry, file string, endings []string) (map[string]string, *place.Problem) {
	fields := map[string]string{}
	for k, v := range e.Set {
		fields[k] = v
	}
	if e.Path == nil {
		return fields, nil
	}
	pieces, ok := fitPath(e.Path, file, endings)
	if !ok {
		p := place.At(place.Place{File: file}, "path does not fit", "the path does not fit the pattern %q", e.Path).ByRule()
		p.Advice = "let the pattern fit it, or leave the file out with except"
		return nil, &p
	}
	for k, v := range pieces {
		fields[k] = v
	}
	return fields, nil
}

// inArchive ends the name of an archive, within the path of a member.
var inArchive = regexp.MustCompile(`(?i)\.zip/`)

// fitPath holds a pattern against the last segments of a path, as many as the
// pattern has; the file's ending may be left out, and that of the archive that it is in.
func fitPath(p *pattern.Pattern, file string, endings []string) (map[string]string, bool) {
	segments := strings.Split(file, "/")
	for n := min(strings.Count(p.String(), "/")+1, len(segments)); n > 0; n-- {
		tail := strings.Join(segments[len(segments)-n:], "/")
		member := inArchive.ReplaceAllString(tail, "/")
		for _, text := range []string{withoutEnding(member, endings), member, withoutEnding(tail, endings), tail} {
			if pieces, ok := p.Fit(text); ok && !crosses(pieces) {
				return pieces, true
			}
		}
	}
	return nil, false
}

// crosses reports whether a piece holds the boundary of a folder.
func crosses(pieces map[string]string) bool {
	for _, v := range pieces {
		if strings.Contains(v, "/") {
			return true
		}
	}
	return false
}
