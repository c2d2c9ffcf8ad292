package fact

import (
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/whole"
)

// NotRead is a file beside the extracts that nothing reads, the sheets of one, or a folder of some.
type NotRead struct {
	File   string
	Sheets []string // empty for all of the file
	Files  int      // how many a folder has, at most mostFiles; 0 for a file
}

// mostFiles are as many files as are counted in a folder that nothing reads.
const mostFiles = 1000

// findNotRead lists what stands beside the extracts, in files of kinds that extracts can
// have, or that are not read though they hold tables, and is neither read nor written by the plan: in the
// folders of the extracts, in those above them that are not the plan's own, and in other folders in any of these.
func (b *build) findNotRead() {
	read := map[string]map[string]bool{} // the members or sheets of a file
	folders := map[string]bool{}
	for _, in := range b.inputs {
		if in.Entry.From != "" {
			continue
		}
		if read[in.Path] == nil {
			read[in.Path] = map[string]bool{}
			addFolders(folders, in.Path)
		}
		read[in.Path][in.File+"\x00"+in.Sheet] = true
	}
	u := unread{build: b, known: b.knownFiles(read), own: b.ownFolders(), read: read, folders: folders,
		endings: append(b.plan.Formats.Endings(), b.plan.Formats.Unread...)}
	for _, dir := range slices.Sorted(maps.Keys(folders)) {
		u.look(dir)
	}
}

// addFolders adds the folder of a file, and those above it below the plan's own.
func addFolders(folders map[string]bool, file string) {
	dir := path.Dir(file)
	folders[dir] = true
	if !below(dir) {
		return
	}
	for dir = path.Dir(dir); below(dir); dir = path.Dir(dir) {
		folders[dir] = true
	}
}

// below reports whether a path leads to a folder below that of the plan.
func below(dir string) bool { return dir != "." && filepath.IsLocal(filepath.FromSlash(dir)) }

// knownFiles are what the plan reads and writes, but for the extracts.
func (b *build) knownFiles(read map[string]map[string]bool) map[string]bool {
	known := map[string]bool{whole.Resolved(b.plan.File): true}
	for _, in := range b.summary.Inputs {
		if read[in.Name] == nil {
			known[whole.Resolved(b.plan.At(in.Name))] = true
		}
	}
	for i := range b.plan.Deliveries {
		if to := b.plan.Deliveries[i].File(); to != "" {
			known[whole.Resolved(b.plan.At(to))] = true
		}
	}
	for _, name := range record.Names() {
		known[whole.Resolved(b.plan.At(path.Join(b.plan.Record, name)))] = true
	}
	return known
}

// ownFolders are those that the plan writes into.
func (b *build) ownFolders() map[string]bool {
	own := map[string]bool{path.Clean(b.plan.Record): true}
	for i := range b.plan.Deliveries {
		if to, ok := plan.FileOf(b.plan.Deliveries[i].To); ok {
			to, _, _ = strings.Cut(to, "{")
			own[path.Dir(to)] = true
		}
	}
	return own
}

// unread looks for what nothing reads.
type unread struct {
	*build
	known   map[string]bool            // files, by their resolved names
	own     map[string]bool            // folders that the plan writes into
	read    map[string]map[string]bool // the members or sheets of files that are read
	folders map[string]bool            // that are looked at themselves
	endings []string
}

// look lists what stands in a folder. One that cannot be read has nothing to tell of.
func (u *unread) look(dir string) {
	entries, _ := os.ReadDir(u.plan.At(dir))
	for _, e := range entries {
		name := path.Join(dir, e.Name())
		switch {
		case u.read[name] != nil:
			u.summary.NotRead = append(u.summary.NotRead, unreadTables(name, u.tables[name], u.read[name])...)
		case e.IsDir() && below(dir) && !u.folders[name]:
			u.lookInto(name)
		case u.unknown(name, e):
			u.summary.NotRead = append(u.summary.NotRead, NotRead{File: place.UTF8(name)})
		}
	}
}

// lookInto lists a folder in which nothing is read, if it has files that may hold extracts.
func (u *unread) lookInto(dir string) {
	n := NotRead{File: place.UTF8(dir)}
	_ = filepath.WalkDir(u.plan.At(dir), func(at string, e fs.DirEntry, err error) error {
		rel, relErr := filepath.Rel(u.plan.At(dir), at)
		name := path.Join(dir, filepath.ToSlash(rel))
		switch {
		case err != nil || relErr != nil:
			return nil
		case n.Files == mostFiles:
			return fs.SkipAll
		case e.IsDir() && (u.own[name] || strings.HasPrefix(e.Name(), ".")):
			return fs.SkipDir
		case u.unknown(name, e):
			if n.Files++; n.Files == 1 {
				n.File = place.UTF8(name)
			} else {
				n.File = place.UTF8(dir)
			}
		}
		return nil
	})
	switch {
	case n.Files == 0:
		return
	case n.Files == 1:
		n.Files = 0
	}
	u.summary.NotRead = append(u.summary.NotRead, n)
}

// unknown reports whether a file may hold an extract, as its name says, and is none that the plan reads or writes.
func (u *unread) unknown(name string, e fs.DirEntry) bool {
	return extractLike(e, u.endings) && !u.known[whole.Resolved(u.plan.At(name))]
}

// extractLike reports whether a file may hold an extract, as its name says.
func extractLike(e fs.DirEntry, endings []string) bool {
	name := strings.ToLower(e.Name())
	return !e.IsDir() && !strings.HasPrefix(name, ".") && !strings.HasPrefix(name, "~$") &&
		slices.ContainsFunc(endings, func(ending string) bool { return strings.HasSuffix(name, ending) })
}

// unreadTables lists the members and sheets of a file that were not read.
func unreadTables(name string, tables []table.Table, read map[string]bool) (out []NotRead) {
	for _, t := range tables {
		file := place.UTF8(path.Join(name, t.Member))
		if read[file+"\x00"+t.Sheet] {
			continue
		}
		if n := len(out); t.Sheet != "" && n > 0 && out[n-1].File == file && len(out[n-1].Sheets) > 0 {
			out[n-1].Sheets = append(out[n-1].Sheets, t.Sheet)
			continue
		}
		n := NotRead{File: file}
		if t.Sheet != "" {
			n.Sheets = []string{t.Sheet}
		}
		out = append(out, n)
	}
	return out
}

// String writes it as a message does: Lakes.xlsx, sheets Notes, FY2025; raw/2025 (3 files).
func (n NotRead) String() string {
	if n.Files == mostFiles {
		return fmt.Sprintf("%s (%d files or more)", n.File, n.Files)
	}
	if n.Files > 0 {
		return fmt.Sprintf("%s (%d files)", n.File, n.Files)
	}
	switch len(n.Sheets) {
	case 0:
		return n.File
	case 1:
		return n.File + ", sheet " + n.Sheets[0]
	}
	return n.File + ", sheets " + strings.Join(n.Sheets, ", ")
}
