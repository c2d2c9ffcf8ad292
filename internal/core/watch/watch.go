// Package watch notices that files change, and waits until they are at rest.
//
// The system tells of changes where it can (inotify and its kin); where it says nothing, as on network
// file systems, the files are looked at every two seconds. What has changed is always found by
// looking at size and time of all files, so that nothing depends on what the system tells.
package watch

import (
	"context"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/fsnotify/fsnotify"
)

// stamp is what tells that a file has changed.
type stamp struct {
	size int64
	time time.Time
}

// Seen is how files were when they were looked at; one that is not there is not in it.
type Seen map[string]stamp

// Look looks at files.
func Look(files []string) Seen {
	out := Seen{}
	for _, name := range files {
		if info, err := os.Stat(name); err == nil {
			out[name] = stamp{info.Size(), info.ModTime()}
		}
	}
	return out
}

// Changed are the files that are new, gone or otherwise than before, in order.
func (s Seen) Changed(now Seen) (out []string) {
	for name, one := range now {
		if before, known := s[name]; !known || before.size != one.size || !before.time.Equal(one.time) {
			out = append(out, name)
		}
	}
	for name := range s {
		if _, there := now[name]; !there {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

// Watcher watches files.
type Watcher struct {
	Files func() []string // those that matter now
	Quiet time.Duration   // how long nothing must change
	Every time.Duration   // how often to look where the system says nothing

	events  *fsnotify.Watcher // nil where the system has none
	folders map[string]bool
}

// Close ends watching.
func (w *Watcher) Close() {
	if w.events != nil {
		w.events.Close()
	}
}

// Next waits until files are otherwise than they were seen, and have been at rest for a while. It
// returns what has changed, and how they are now; the error is that of ctx.
func (w *Watcher) Next(ctx context.Context, seen Seen) (changed []string, now Seen, err error) {
	if w.events == nil && w.folders == nil {
		w.events, _ = fsnotify.NewWatcher() // without it, looking does
		w.folders = map[string]bool{}
	}
	tick := time.NewTicker(w.Every)
	defer tick.Stop()
	for {
		now = w.look()
		if len(seen.Changed(now)) > 0 {
			if now, err = w.rest(ctx, now); err != nil {
				return nil, nil, err
			}
			if changed = seen.Changed(now); len(changed) > 0 { // else all is as it was again
				return changed, now, nil
			}
		}
		if err := w.wait(ctx, tick.C); err != nil {
			return nil, nil, err
		}
	}
}

// look looks at the files, and has the system tell of their folders.
func (w *Watcher) look() Seen {
	files := w.Files()
	for _, name := range files {
		folder := filepath.Dir(name)
		if w.events != nil && !w.folders[folder] && w.events.Add(folder) == nil {
			w.folders[folder] = true
		}
	}
	return Look(files)
}

// rest waits until the files have not changed for a while.
func (w *Watcher) rest(ctx context.Context, now Seen) (Seen, error) {
	step := max(w.Quiet/10, 10*time.Millisecond)
	for begun := time.Now(); time.Since(begun) < w.Quiet; {
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(step):
		}
		if next := w.look(); !maps.EqualFunc(now, next, func(a, b stamp) bool { return a.size == b.size && a.time.Equal(b.time) }) {
			now, begun = next, time.Now()
		}
	}
	return now, nil
}

// wait waits until something may have changed.
func (w *Watcher) wait(ctx context.Context, tick <-chan time.Time) error {
	var events chan fsnotify.Event
	var errors chan error
	if w.events != nil {
		events, errors = w.events.Events, w.events.Errors
	}
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-tick:
	case <-events:
	case <-errors: // such as too many events: looking finds what they were
	}
	return nil
}
