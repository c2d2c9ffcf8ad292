package build

import (
	"crypto/sha256"
	"encoding/hex"
	"io"
	"io/fs"
	"os"
	"path"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
)

// checkCopies stops for files of extracts that are copies of others, byte for byte once
// unpacked, and have rows. Only files of one size are compared, by their SHA-256.
func (r *run) checkCopies() {
	if r.summary.ExitCode() == 1 {
		return
	}
	var files []*input
	used := map[string]int{}
	for i := range r.inputs {
		in := &r.inputs[i]
		if _, known := used[in.file]; !known {
			files = append(files, in)
		}
		used[in.file] += r.summary.Extracts[i].Rows.Used
		if n := in.table.Bytes; n >= 0 {
			in.size = n
		}
	}
	bySize := map[int64][]*input{}
	for _, in := range files {
		if used[in.file] > 0 && in.table.Content != nil {
			bySize[in.size] = append(bySize[in.size], in)
		}
	}
	whole := map[string]*FileInfo{} // what is known of the files themselves
	for i := range r.summary.Inputs {
		f := &r.summary.Inputs[i]
		whole[f.Name] = f
	}
	for _, in := range files {
		if same := bySize[in.size]; len(same) > 1 && same[0] == in {
			r.compareCopies(same, whole)
		}
	}
}

// compareCopies compares files of one size.
func (r *run) compareCopies(files []*input, whole map[string]*FileInfo) {
	first := map[string]*input{}
	for _, in := range files {
		digest, err := contentDigest(in, whole[in.path])
		if err != nil {
			r.fail(table.Problem(in.place(), err))
			return
		}
		before := first[digest]
		if before == nil {
			first[digest] = in
			continue
		}
		if in.entry.SameFiles != plan.Stop {
			continue
		}
		p := place.At(place.Place{File: in.file}, "same file", "a file is the copy of another one: its rows would count twice").ByRule()
		p.Texts = []string{"the same as " + before.file}
		p.Plan, p.Add = in.entry.Pos, "same_files: keep"
		p.Advice = "if both are meant; else remove one of them, or leave it out with except"
		r.fail(p)
	}
}

// contentDigest is the SHA-256 of a file of extracts, unpacked.
func contentDigest(in *input, whole *FileInfo) (string, error) {
	if whole != nil && whole.Digest != nil && in.table.Bytes == whole.Bytes && in.table.Member == "" {
		return *whole.Digest, nil
	}
	content, err := in.table.Content()
	if err != nil {
		return "", err
	}
	defer content.Close()
	h := sha256.New()
	if _, err := io.Copy(h, content); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// warnPlaces warns of amounts that all have three digits behind the decimal sign, where
// their column has other decimals: groups may be meant, and 1.234 be read as 1.23.
func (r *run) warnPlaces() {
	for i := range r.summary.Extracts {
		for ci, c := range r.plan.Columns {
			p := r.places[[2]int{i, ci}]
			if p.Three == 0 || p.Other {
				continue
			}
			e := &r.summary.Extracts[i]
			w := place.At(place.Place{File: e.File, Sheet: e.Sheet}, "number readings", "in column %s every cell with a decimal sign has three digits behind it: are they groups (1.234 for 1234)?", c.Name)
			w.Count, w.Column, w.Plan = p.Three, c.Name, r.inputs[i].entry.Pos
			w.Advice = "if they are, say how numbers are written, numbers: \"1.234,56\", in the entry of extracts"
			r.summary.Warnings.Add(w)
		}
	}
}

// NotRead is a file beside the extracts that nothing reads, or the sheets of one.
type NotRead struct {
	File   string
	Sheets []string // empty for all of the file
}

// findNotRead lists what stands beside the extracts, in files of kinds that extracts can
// have, and is neither read nor written by the plan.
func (r *run) findNotRead() {
	read := map[string]map[string]bool{} // the members or sheets of a file
	var folders []string
	for _, in := range r.inputs {
		if read[in.path] == nil {
			read[in.path] = map[string]bool{}
			if dir := path.Dir(in.path); !slices.Contains(folders, dir) {
				folders = append(folders, dir)
			}
		}
		read[in.path][in.file+"\x00"+in.sheet] = true
	}
	known := map[string]bool{resolved(r.plan.File): true}
	for _, in := range r.summary.Inputs {
		if read[in.Name] == nil {
			known[resolved(at(r.dir, in.Name))] = true
		}
	}
	for _, d := range r.plan.Deliveries {
		known[resolved(at(r.dir, d.To))] = true
	}
	for name := range record.Headers {
		known[resolved(at(r.dir, path.Join(r.plan.Record, name)))] = true
	}
	slices.Sort(folders)
	for _, dir := range folders {
		entries, _ := os.ReadDir(at(r.dir, dir)) // one that cannot be read has none to tell of
		for _, e := range entries {
			name := path.Join(dir, e.Name())
			switch {
			case read[name] != nil:
				r.summary.NotRead = append(r.summary.NotRead, unreadTables(name, r.opened[name], read[name])...)
			case extractLike(e) && !known[resolved(at(r.dir, name))]:
				r.summary.NotRead = append(r.summary.NotRead, NotRead{File: place.UTF8(name)})
			}
		}
	}
}

// extractLike reports whether a file may hold an extract, as its name says.
func extractLike(e fs.DirEntry) bool {
	name := strings.ToLower(e.Name())
	return !e.IsDir() && !strings.HasPrefix(name, ".") && !strings.HasPrefix(name, "~$") &&
		slices.ContainsFunc(table.Endings, func(ending string) bool { return strings.HasSuffix(name, ending) })
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

// String writes it as a message does: Lakes.xlsx, sheets Notes, FY2025.
func (n NotRead) String() string {
	switch len(n.Sheets) {
	case 0:
		return n.File
	case 1:
		return n.File + ", sheet " + n.Sheets[0]
	}
	return n.File + ", sheets " + strings.Join(n.Sheets, ", ")
}
