package fact

import (
	"errors"
	"fmt"
	"hash/fnv"
	"os"
	"path"
	"path/filepath"
	"strings"

	"umbau/internal/core/deliver"
	"umbau/internal/core/place"
	"umbau/internal/core/whole"
)

// lock keeps two builds that write the same record apart, and says which
// unfinished files are those of a build that was killed.
type lock struct {
	file *os.File // nil where the file system knows no locks
	path string
	mark string // of all unfinished files of this record
}

const lockName = ".umbau.lock"

// lockRecord takes the lock of the record, and removes what a build that was
// killed left unfinished. It reports whether the build may go on.
func (b *build) lockRecord(o *outputs) bool {
	folder := b.plan.At(b.plan.Record)
	h := fnv.New32a()
	h.Write([]byte(whole.Resolved(folder)))
	o.lock = &lock{path: filepath.Join(folder, lockName), mark: fmt.Sprintf(".umbau-%08x-", h.Sum32())}
	if err := o.folders.Make(folder); err != nil {
		return true // creating the files will say why
	}
	var err error
	o.lock.file, err = whole.Lock(o.lock.path)
	if errors.Is(err, whole.ErrHeld) {
		p := place.At(place.Place{File: b.plan.Record}, "output", "another build that writes this record is under way")
		p.Plan, p.Advice = b.plan.RecordPos, "wait for it to end, or give this plan another record"
		b.fail(p)
		return false
	}
	if o.lock.file == nil {
		return true
	}
	folders := []string{folder, b.plan.At(path.Join(b.plan.Record, lastFolder))}
	for i := range b.plan.Deliveries {
		folders = append(folders, deliver.Folders(b.plan, &b.plan.Deliveries[i])...)
	}
	for _, f := range folders {
		entries, _ := os.ReadDir(f) // one that is not there has none
		for _, e := range entries {
			if strings.HasPrefix(e.Name(), o.lock.mark) {
				os.Remove(filepath.Join(f, e.Name()))
			}
		}
	}
	return true
}

// release gives the lock back.
func (l *lock) release() {
	if l != nil && l.file != nil {
		whole.Unlock(l.file, l.path)
	}
}
