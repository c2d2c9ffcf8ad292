// Package survey says what came in, before anything is decided: every table in
// the files, how it is laid out and written, what its columns hold, and which
// traps wait.
//
// Each table is read once, as a stream. What a cell is shows only when its whole
// column is known: so each column counts the ways in which its cells can be read
// (as a number in each style, as a date in each form, as neither), and the one
// that reads most decides at the end.
package survey

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"sync"

	"github.com/bmatcuk/doublestar/v4"

	"umbau/internal/core/glob"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// Options say how to survey.
type Options struct {
	Paths   []string // files, folders, globs
	Workers int      // 0 for one a core
	Formats *table.Formats
	// Gap, if not nil, hears of each cell without a usable value in the columns of
	// numbers, row by row in the order of the tables.
	Gap func(at place.Place, kind value.Gap, text string)
	// Progress, if not nil, hears how many bytes were read.
	Progress func(done, all int64)
	Values   bool // the fields of tables have their values, and tables their first rows: the fewer, the more tables there are
	Records  bool // what builds have written of themselves into folders is surveyed, too
}

// Report is what came in.
type Report struct {
	Tables   []*Table
	Headers  []Header
	Traps    []Trap
	Files    []string // that were read, or could not be
	Unread   []string // files in folders that hold tables, in a format that is not read
	Aside    []string // folders with the record of a build, which were left aside
	Problems place.List
}

// Trap is something that is easily overlooked. Row is its first place, Count
// how many cells it concerns.
type Trap struct {
	What   string
	Place  place.Place
	Count  int
	Detail string // for a person
}

// Run surveys. Files that cannot be read are problems of the report; the error is
// that of ctx.
func Run(ctx context.Context, o Options) (*Report, error) {
	r := &Report{}
	files := r.find(&o)
	r.Files = files
	var tasks []*task
	all := int64(0)
	for _, name := range files {
		tables, err := look(name, o.Formats)
		var list place.List
		if errors.As(err, &list) {
			r.Problems.Merge(list)
			continue
		}
		if name = plan.Shown(name); err != nil {
			r.Problems.Add(problem(place.Place{File: filepath.ToSlash(name)}, err))
			continue
		}
		for _, t := range tables {
			at := place.Place{File: filepath.ToSlash(name), Sheet: t.Sheet}
			if t.Member != "" {
				at.File += "/" + t.Member
			}
			if t.Hidden {
				r.Traps = append(r.Traps, Trap{What: "hidden sheet", Place: at, Count: 1, Detail: "it is read only when a plan names it"})
				continue
			}
			tasks = append(tasks, &task{at: at, table: t})
			all += t.Size
		}
	}
	r.work(ctx, tasks, o, all)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	for _, t := range tasks {
		if t.result != nil && o.Gap != nil {
			if _, err := surveyTable(ctx, t.at, t.table, nil, t.result.lister(o.Gap), kept{}); err != nil {
				t.problems.Add(problem(t.at, err))
			}
		}
		r.Problems.Merge(t.problems)
		if t.result != nil {
			r.Tables = append(r.Tables, t.result)
			r.Traps = append(r.Traps, t.result.traps...)
		}
	}
	r.Headers = headersOf(r.Tables)
	for _, name := range r.Unread {
		r.Traps = append(r.Traps, Trap{What: "unread file", Place: place.Place{File: name}, Count: 1,
			Detail: "workbooks with the ending " + strings.ToLower(filepath.Ext(name)) + " are not read; save it as .xlsx"})
	}
	r.fileTraps(tasks)
	r.headerTraps()
	return r, nil
}

// task is one table to survey.
type task struct {
	at       place.Place
	table    table.Table
	result   *Table
	problems place.List
	surveyed chan struct{} // closed then
}

// read surveys the table.
func (t *task) read(ctx context.Context, keep kept, count func(int)) {
	defer close(t.surveyed)
	result, err := safely(func() (*Table, error) { return surveyTable(ctx, t.at, t.table, count, nil, keep) })
	t.result = result
	t.failed(err)
}

// add looks, in a table that was surveyed and is not long, for rows and columns that are sums of others.
func (t *task) add(ctx context.Context, keep kept) {
	<-t.surveyed
	least := 3
	if keep.values > 0 { // a draft looks at the columns of two
		least = 2
	}
	if t.result == nil || t.result.Rows < least || t.result.Rows > mostSummed {
		return
	}
	adder := newAdder(t.result)
	adder.closely = keep.values > 0
	if len(adder.numbers) == 0 {
		return
	}
	_, err := safely(func() (*Table, error) { return surveyTable(ctx, t.at, t.table, nil, adder, kept{}) })
	if err == nil {
		adder.tell()
		t.result.traps = append(t.result.traps, adder.traps()...)
	}
	t.failed(err)
}

// failed notes why a table could not be read.
func (t *task) failed(err error) {
	if err != nil && !(err == errEmpty && t.at.Sheet != "") {
		t.problems.Add(problem(t.at, err))
	}
}

// work surveys the tables, several at once.
func (r *Report) work(ctx context.Context, tasks []*task, o Options, all int64) {
	var mutex sync.Mutex
	done := int64(0)
	count := func(n int) {
		if o.Progress != nil {
			mutex.Lock()
			done += int64(n)
			o.Progress(done, all)
			mutex.Unlock()
		}
	}
	workers := o.Workers
	if workers <= 0 {
		workers = runtime.GOMAXPROCS(0)
	}
	keep := kept{}
	if o.Values {
		keep = keptOf(len(tasks))
	}
	queue := make(chan func())
	var group sync.WaitGroup
	for range workers {
		group.Add(1)
		go func() {
			defer group.Done()
			for do := range queue {
				do()
			}
		}()
	}
	for len(tasks) > 0 { // file by file, whose sheets are read one after another
		n := slices.IndexFunc(tasks, func(t *task) bool { return t.at.File != tasks[0].at.File })
		if n < 0 {
			n = len(tasks)
		}
		for _, t := range tasks[:n] {
			t.surveyed = make(chan struct{})
			queue <- func() { t.read(ctx, keep, count) }
		}
		for _, t := range tasks[:n] {
			queue <- func() { t.add(ctx, keep) }
		}
		tasks = tasks[n:]
	}
	close(queue)
	group.Wait()
}

// safely lets a mistake in the program end as an error of its table.
func safely(do func() (*Table, error)) (t *Table, err error) {
	defer func() {
		if p := recover(); p != nil {
			t, err = nil, fmt.Errorf("a mistake in the program, please report it with the file: %v\n%s", p, debug.Stack())
		}
	}()
	return do()
}

// problem words what is wrong with a file.
func problem(at place.Place, err error) place.Problem {
	if err == errEmpty {
		return place.At(at, "empty file", "the file is empty; it has no header").ByRule()
	}
	return table.Problem(at, err)
}

// look finds the tables in a file, or in a database.
func look(name string, formats *table.Formats) ([]table.Table, error) {
	if !plan.IsAddress(name) {
		return formats.Look(name)
	}
	address, err := plan.Address(name)
	if err != nil {
		return nil, err
	}
	return formats.LookIn(address, "", func(string) bool { return true })
}

// find lists the files that paths stand for, each once: a folder for all files
// below it that can be extracts, a glob for what it matches; in both records are left aside.
func (r *Report) find(o *Options) []string {
	var files []string
	named := map[string]bool{}
	add := func(name string) {
		if name = filepath.Clean(name); !named[name] {
			named[name] = true
			files = append(files, name)
		}
	}
	for _, p := range o.Paths {
		if plan.IsAddress(p) {
			files = append(files, p)
			continue
		}
		info, err := os.Stat(p)
		switch {
		case err == nil && info.IsDir():
			r.walk(p, o, add)
		case err == nil && info.Mode().IsRegular():
			add(p)
		case err == nil:
			r.Problems.Add(place.At(place.Place{File: p}, "unreadable file", "no plain file (%s)", info.Mode().Type()))
		case strings.ContainsAny(p, "*?[{"):
			found, err := glob.Files(p, doublestar.WithFilesOnly())
			var folder *fs.PathError
			if errors.As(err, &folder) { // it is named, the rest is read
				r.Problems.Add(problem(place.Place{File: filepath.ToSlash(folder.Path)}, folder))
				found, _ = doublestar.FilepathGlob(p, doublestar.WithFilesOnly(), doublestar.WithNoFollow())
			} else if err != nil {
				r.Problems.Add(place.Problem{What: "no file", Message: fmt.Sprintf("%s is no glob that can be looked through: %v", p, err), Count: 1})
				continue
			}
			slices.Sort(found)
			n := 0
			for _, f := range found {
				switch {
				case hidden(filepath.Base(f)):
				case !o.Records && filepath.Dir(f) != filepath.Dir(p) && glob.IsRecord(filepath.Dir(f)):
					r.leaveAside(filepath.Dir(f))
				default:
					add(f)
					n++
				}
			}
			if n == 0 && folder == nil {
				r.Problems.Add(place.Problem{What: "no file", Message: p + " matches no file", Count: 1})
			}
		default:
			r.Problems.Add(place.Problem{What: "no file", Message: p + " is not there", Count: 1})
		}
	}
	return files
}

// leaveAside notes a record that is left aside, once.
func (r *Report) leaveAside(folder string) {
	if above := filepath.Dir(folder); glob.IsRecord(above) { // the last build is kept in a record
		folder = above
	}
	if folder = filepath.ToSlash(folder); !slices.Contains(r.Aside, folder) {
		r.Aside = append(r.Aside, folder)
	}
}

func (r *Report) walk(dir string, o *Options, add func(string)) {
	n, endings, records := 0, o.Formats.Endings(), o.Records || glob.IsRecord(dir)
	err := filepath.WalkDir(dir, func(name string, d fs.DirEntry, err error) error {
		switch {
		case err != nil: // what cannot be read is named, the rest is read
			r.Problems.Add(problem(place.Place{File: filepath.ToSlash(name)}, err))
			n++
			if d != nil && d.IsDir() {
				return fs.SkipDir
			}
		case name != dir && hidden(d.Name()):
			if d.IsDir() {
				return fs.SkipDir
			}
		case name != dir && d.IsDir() && !records && glob.IsRecord(name):
			r.leaveAside(name)
			return fs.SkipDir
		case d.Type().IsRegular() && slices.Contains(endings, strings.ToLower(filepath.Ext(name))):
			add(name)
			n++
		case d.Type().IsRegular() && slices.Contains(o.Formats.Unread, strings.ToLower(filepath.Ext(name))):
			r.Unread = append(r.Unread, filepath.ToSlash(filepath.Clean(name)))
		}
		return nil
	})
	if err != nil {
		r.Problems.Add(problem(place.Place{File: filepath.ToSlash(dir)}, err))
	} else if n == 0 {
		p := place.Problem{What: "no file", Message: dir + " holds no file that can be an extract (" + strings.Join(endings, " ") + ")", Count: 1}
		if len(r.Unread) > 0 {
			p.Advice = "save its workbooks as .xlsx: " + r.Unread[0] + " is none that is read"
		}
		r.Problems.Add(p)
	}
}

func hidden(name string) bool {
	return strings.HasPrefix(name, ".") && name != "." && name != ".." || strings.HasPrefix(name, "~$")
}
