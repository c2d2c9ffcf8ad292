package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"umbau/internal/core/fact"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/watch"
	"umbau/internal/core/whole"
)

// watchFlags are the flags of watch.
type watchFlags struct {
	quietFor time.Duration
	limits   limits
}

func (a *app) watchCommand() *cobra.Command {
	var o watchFlags
	cmd := &cobra.Command{
		Use:   "watch [PLAN]",
		Short: "Build, and again whenever an extract or the plan changes",
		Long: `Build, and build again whenever an extract, a reference, a book, a control file or the plan
changes. It waits until nothing has changed for a while, so that a copy under way is not read.
A build that stops leaves the delivery as it was, and the watch running. Ctrl-C ends it.`,
		Example: `  umbau watch
  umbau watch plans/march.yaml --quiet-for 5s
  umbau watch --json | jq -c .because`,
		Args:              atMost(1),
		ValidArgsFunction: completePlan,
		RunE: func(c *cobra.Command, args []string) error {
			file := plan.DefaultFile
			if len(args) > 0 {
				file = args[0]
			}
			if o.quietFor < 0 {
				return usageError{errors.New("--quiet-for is a time such as 1s or 500ms")}
			}
			return a.watch(c, file, o)
		},
	}
	cmd.Flags().DurationVar(&o.quietFor, "quiet-for", time.Second, "how long nothing must change before a build begins")
	o.limits.add(cmd)
	return cmd
}

// watchLock is the file in the record's folder that keeps two watches apart.
const watchLock = ".umbau-watch.lock"

// watched are the files that a plan reads, as far as it can be read, and what is to be built.
type watched struct {
	file  string
	last  []string // of the plan when it could be read last
	flags watchFlags
}

func (w *watched) files() []string {
	p, err := readPlan(w.file, w.flags.limits)
	if err != nil {
		return append([]string{w.file}, w.last...)
	}
	w.last = fact.SourceFiles(p)
	for _, name := range pass.Names(p) {
		w.last = append(w.last, p.At(name))
	}
	return append([]string{w.file}, w.last...)
}

func (a *app) watch(c *cobra.Command, file string, o watchFlags) error {
	p, err := readPlan(file, o.limits)
	if err != nil {
		return err
	}
	folder := p.At(p.Record)
	if err := os.MkdirAll(folder, 0o777); err != nil {
		return place1("output", p.Record, "the record cannot be written: "+whole.Reason(err))
	}
	name := filepath.Join(folder, watchLock)
	lock, err := whole.Lock(name)
	if errors.Is(err, whole.ErrHeld) {
		return place1("output", p.Record, "another watch that writes this record is running; end it, or give this plan another record")
	}
	if lock != nil {
		defer whole.Unlock(lock, name)
	}
	of := &watched{file: file, flags: o}
	w := &watch.Watcher{Files: of.files, Quiet: o.quietFor, Every: 2 * time.Second}
	defer w.Close()
	seen, because := watch.Look(of.files()), []string{}
	for {
		if err := a.buildWatched(c, file, o, because); errors.Is(err, context.Canceled) {
			return nil
		}
		if because, seen, err = w.Next(c.Context(), seen); err != nil {
			a.exit = 0
			return nil // Ctrl-C
		}
		for i, name := range because {
			if rel, err := filepath.Rel(filepath.Dir(file), name); err == nil && !strings.HasPrefix(rel, "..") {
				name = rel
			}
			because[i] = filepath.ToSlash(name)
		}
	}
}

// buildWatched builds once, and tells what came of it.
func (a *app) buildWatched(c *cobra.Command, file string, o watchFlags, because []string) error {
	s, err := a.build(c, file, buildFlags{limits: o.limits})
	if errors.Is(err, context.Canceled) {
		return err
	}
	if a.json {
		a.printWatched(c, s, err, because)
		return nil
	}
	if !a.quiet {
		fmt.Fprintf(a.out, "%s  %s\n", time.Now().Format("15:04:05"), becauseOf(because))
	}
	switch {
	case err != nil:
		a.fail(c, err)
	case s.ExitCode() != 0:
		a.printStop(s)
	case !a.quiet:
		a.printDelivered(s)
		a.printSince(s)
	}
	if !a.quiet {
		fmt.Fprintln(a.out)
	}
	return nil
}

// becauseOf says what has changed.
func becauseOf(because []string) string {
	if len(because) == 0 {
		return "watching; Ctrl-C ends it"
	}
	text := strings.Join(because[:min(3, len(because))], ", ")
	if n := len(because) - 3; n > 0 {
		text += fmt.Sprintf(" and %d more", n)
	}
	return text + " changed"
}

// printWatched prints the document of a build in one line.
func (a *app) printWatched(c *cobra.Command, s *fact.Summary, err error, because []string) {
	var doc any
	if err != nil {
		list, code := a.problemsOf(err)
		doc = struct {
			place.DocHead
			Because []string `json:"because"`
		}{head(words(c), code, list), because}
	} else {
		doc = struct {
			*fact.Document
			Because []string `json:"because"`
		}{s.Document(Version, words(c)), because}
	}
	line, err := json.Marshal(doc)
	if err != nil {
		panic(err) // texts, numbers and maps of them always marshal
	}
	fmt.Fprintf(a.out, "%s\n", line)
}
