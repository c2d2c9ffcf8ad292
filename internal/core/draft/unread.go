package draft

import (
	"path"
	"slices"
)

// Files that nobody could read: extracts, maybe.

// noteUnread tells of files that could not be read, and of workbooks in a format that is not. The build waits until somebody has seen
// to them, if these stand among the extracts.
func (d *drafter) noteUnread() {
	for _, name := range d.report.Unread {
		f := File{File: d.relative(name), As: "left aside"}
		f.Why = "workbooks with the ending " + path.Ext(name) + " are not read; save it as .xlsx"
		d.result.Files = append(d.result.Files, f)
		if d.among(f.File) {
			d.await(f.File + " stands among the extracts and is left aside: " + f.Why)
		}
	}
	for _, p := range d.report.Problems {
		if p.What == "empty file" || p.What == "no file" {
			continue
		}
		for _, at := range p.Places {
			at.File = d.relative(at.File)
			d.await(at.String() + " could not be read, and may be an extract; draft again when it can be, or without it")
		}
	}
}

// await asks something, and stops the build until somebody has looked at it.
func (d *drafter) await(text string) {
	d.waits = true
	d.result.Open, d.rules = append(d.result.Open, text), append(d.rules, "? "+text)
}

// among reports whether a file stands among the extracts: in a folder of theirs, or in one beside these, if all are in one folder, or
// extracts are in several.
func (d *drafter) among(file string) bool {
	var folders []string
	for folder := range d.folders() {
		folders = append(folders, folder)
	}
	own := path.Dir(file)
	return slices.ContainsFunc(folders, func(folder string) bool {
		return folder == own || path.Dir(folder) == path.Dir(own) && own != "." && folder != "." && (path.Dir(own) != "." || len(folders) > 1)
	})
}
