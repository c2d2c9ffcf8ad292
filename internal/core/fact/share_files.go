package fact

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"umbau/internal/core/deliver"
	"umbau/internal/core/parts"
	"umbau/internal/core/plan"
)

// A delivery of several files, one for each extract or for each value of some columns, is made by the
// shares: a file whose rows are all in one share is taken by the join as it is.

// divided reports whether a delivery is several files that shares can make.
func divided(d *plan.Delivery) bool {
	return (d.Parts || len(d.Pieces()) > 0) && !d.Database() && d.Star == nil && len(d.Sort) == 0 && !d.Describe
}

// shareFile is a file of a delivery that a share has made.
type shareFile struct {
	deliver.Piece
	Name string // in the folder of the share
}

// filesKeeper makes the files of a delivery for the part of a share.
type filesKeeper struct {
	deliver.Keeper
	delivery int
	name     func(path string) string
	divided  deliver.Divided
	failed   error
}

// filesOf begins the deliveries of several files, in a folder of the share; rows says which rows the
// join may need none the less: all, or those of extracts that other shares read too.
func (b *build) filesOf(share *Share) (list []*filesKeeper, rows wantedRows, err error) {
	folder := filepath.Join(share.Dir, parts.Folder(share.N, share.Of))
	for i := range b.plan.Deliveries {
		d := &b.plan.Deliveries[i]
		if !divided(d) {
			continue
		}
		name := func(file string) string { return fileName(i, file, d.Ending) }
		s, err := deliver.New(d, deliver.Options{Plan: b.plan, Mark: ".umbau-aside-",
			Make:   func(file string) error { return os.MkdirAll(filepath.Dir(file), 0o777) },
			Divert: func(file string) string { return filepath.Join(folder, name(file)) },
		})
		if err != nil {
			return list, rows, err
		}
		k := &filesKeeper{delivery: i, name: func(path string) string { return name(b.plan.At(path)) }, divided: s.(deliver.Divided)}
		k.Keeper = deliver.Keeper{Sink: s, Origin: d.Origin, Failed: func(err error) { k.failed = err }}
		list = append(list, k)
		lines, err := linesOf(b.plan.Formats.OutletOf(d.To), share.Dir)
		if err == nil {
			err = s.Begin(deliver.Columns(b.plan, d))
		}
		switch {
		case err != nil:
			return list, rows, err
		case lines != nil:
			lines.Abandon()
		case d.Parts:
			rows = max(rows, cutRows)
		default:
			rows = allRows
		}
	}
	return list, rows, nil
}

// fileName is what a file of a delivery is called in the folder of a share, whichever share makes it.
func fileName(delivery int, file, ending string) string {
	digest := sha256.Sum256([]byte(file))
	return fmt.Sprintf("%d-%s%s", delivery, hex.EncodeToString(digest[:12]), ending)
}

// publish lets the files appear in the folder of the share, and says what they are.
func (k *filesKeeper) publish() (out []shareFile, err error) {
	if k.failed != nil {
		return nil, k.failed
	}
	pieces, err := k.divided.Pieces()
	for _, p := range pieces {
		digest := digestOf(p.File, p.Bytes, true)
		if digest == nil {
			return nil, fmt.Errorf("%s cannot be read again", p.Path)
		}
		p.Digest = *digest
		out = append(out, shareFile{p, k.name(p.Path)})
	}
	if err == nil {
		err = k.divided.Publish()
	}
	return out, err
}

// joinFiles takes the files that shares have made. It returns the deliveries of which rows are needed none
// the less.
func (b *build) joinFiles(list []*parts.Part, states []shareState, dir string) (rows []*out, err error) {
	if err := checkFiles(list, states, dir); err != nil {
		return nil, err
	}
	for k, d := range b.out.outs {
		to, ok := d.Sink.(deliver.Divided)
		if d.broken || !ok || !divided(d.of) {
			continue
		}
		pieces, again := map[string][]deliver.Piece{}, false
		var order []string
		for i := range states {
			for _, f := range states[i].Files[k] {
				if pieces[f.Path] == nil {
					order = append(order, f.Path)
				}
				f.Piece.File = filepath.Join(dir, parts.Folder(i+1, len(list)), f.Name)
				pieces[f.Path] = append(pieces[f.Path], f.Piece)
			}
		}
		for _, path := range order {
			rows, err := to.Join(pieces[path])
			if err != nil {
				b.out.full(d.to, err)
				break
			}
			again = again || rows
		}
		if again {
			rows = append(rows, d)
		}
	}
	return rows, nil
}

// checkFiles makes sure that the files of shares are as they were made.
func checkFiles(list []*parts.Part, states []shareState, dir string) error {
	type one struct {
		part int
		file shareFile
	}
	work, wrong := make(chan one), make([]string, len(list))
	var group sync.WaitGroup
	var mutex sync.Mutex
	for range runtime.GOMAXPROCS(0) {
		group.Go(func() {
			for w := range work {
				name := filepath.Join(parts.Folder(w.part+1, len(list)), w.file.Name)
				if d := digestOf(filepath.Join(dir, name), w.file.Bytes, true); d == nil || *d != w.file.Digest {
					mutex.Lock()
					wrong[w.part] = name
					mutex.Unlock()
				}
			}
		})
	}
	for i := range states {
		for _, files := range states[i].Files {
			for _, f := range files {
				work <- one{i, f}
			}
		}
	}
	close(work)
	group.Wait()
	if i := slices.IndexFunc(wrong, func(name string) bool { return name != "" }); i >= 0 {
		return &partError{list[i].Name, fmt.Errorf("its file %s is not there, or not as it was written", strings.ReplaceAll(wrong[i], `\`, "/"))}
	}
	return nil
}
