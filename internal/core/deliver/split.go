package deliver

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
)

// split is a delivery of a file for each combination of values of some columns, which
// stand in braces in its path; or, without any, of a file for each extract.
type split struct {
	*builder
	pieces  []string // none where each extract has a file
	index   []int    // of the columns in the batches
	columns []table.SinkColumn

	mutex sync.Mutex
	files map[string]*splitFile // by path
	stale []string              // files of values that are no longer there
	last  *splitFile            // into which rows were put last
	err   error
}

// splitFile is a file under way.
type splitFile struct {
	path   string
	values []string
	sink   table.Sink
	rows   int
	other  []string        // other values that would share it, nil for none
	ended  []table.Written // what it has become, once no rows can follow
	joined bool            // its rows are there
}

func newSplit(b *builder, pieces []string) *split {
	s := &split{builder: b, pieces: pieces, files: map[string]*splitFile{}}
	for _, name := range pieces {
		s.index = append(s.index, b.Plan.Index(name))
	}
	return s
}

// Begin implements table.Sink.
func (s *split) Begin(columns []table.SinkColumn) error {
	s.columns, s.err, s.last = columns, nil, nil
	s.Abandon()
	clear(s.files)
	return nil
}

// file is the file of some values, begun if it is new.
func (s *split) file(values []string) (*splitFile, error) {
	s.mutex.Lock()
	defer s.mutex.Unlock()
	to := s.pathOf(values)
	if len(s.pieces) == 0 {
		number, _ := strconv.Atoi(values[0])
		to = s.of.Part(s.to, number)
	}
	f := s.files[to]
	if f != nil {
		if f.other == nil && !slices.Equal(f.values, values) {
			f.other = slices.Clone(values)
		}
		return f, nil
	}
	sink, err := s.sink(to, "")
	if err == nil {
		f = &splitFile{path: to, values: slices.Clone(values), sink: sink}
		s.files[to] = f
		err = sink.Begin(s.columns)
	}
	return f, err
}

// pathOf is the path with values in the place of its pieces.
func (s *split) pathOf(values []string) string {
	to := s.to
	for i, name := range s.pieces {
		before, after, _ := strings.Cut(to, "{"+name+"}")
		to = before + inPath(values[i]) + after
	}
	return to
}

// inPath is a value as a path can hold it on any system: what it cannot hold is a low line.
func inPath(value string) string {
	if value == "" {
		return "(empty)"
	}
	out := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|{}`, r) || unicode.IsControl(r) {
			return '_'
		}
		return r
	}, value)
	if strings.Trim(out, ". ") == "" {
		return strings.Repeat("_", len(out))
	}
	if last := out[len(out)-1]; last == '.' || last == ' ' {
		out = out[:len(out)-1] + "_"
	}
	return out
}

// splitPart parts the rows of a block.
type splitPart struct {
	of    *split
	parts map[string]*splitSub // by values
	used  []*splitSub          // by the block, in the order in which they come
	err   error
}

// splitSub is the part of a file that takes rows of a block.
type splitSub struct {
	file  *splitFile
	part  table.SinkPart
	fates []table.Fate
	rows  int
	used  bool
}

// Part implements table.Sink.
func (s *split) Part() table.SinkPart { return &splitPart{of: s, parts: map[string]*splitSub{}} }

// Encode implements table.SinkPart.
func (p *splitPart) Encode(b *table.Batch) {
	for _, sub := range p.used {
		sub.used, sub.rows = false, 0
	}
	p.used = p.used[:0]
	if p.err != nil {
		return
	}
	if len(p.of.pieces) == 0 {
		p.encodeAll(b)
		return
	}
	var name []byte
	var last *splitSub
	var before string
	for row, slot := range b.Delivered {
		name = name[:0]
		for _, ci := range p.of.index {
			name = append(b.AppendText(name, &b.Columns[ci], row, slot), 0)
		}
		if last == nil || before != string(name) {
			before = string(name)
			if last = p.sub(before); last == nil {
				return
			}
		}
		if last.file.joined {
			continue
		}
		if !last.used {
			last.used = true
			last.fates = slices.Repeat([]table.Fate{table.Dropped}, len(b.Fates))
			p.used = append(p.used, last)
		}
		last.fates[row*b.Slots+slot] = table.Delivered
		last.rows++
	}
	for _, sub := range p.used {
		own := *b
		own.Fates = sub.fates
		sub.part.Encode(&own)
	}
}

// encodeAll gives all rows of a block to the file of their extract.
func (p *splitPart) encodeAll(b *table.Batch) {
	rows := 0
	for range b.Delivered {
		rows++
	}
	if rows == 0 {
		return
	}
	name := strconv.Itoa(b.Extract)
	if p.parts[name] == nil { // no more rows come of those before
		clear(p.parts)
	}
	if sub := p.sub(name); sub != nil && !sub.file.joined {
		sub.used, sub.rows = true, rows
		p.used = append(p.used, sub)
		sub.part.Encode(b)
	}
}

func (p *splitPart) sub(name string) *splitSub {
	sub := p.parts[name]
	if sub == nil {
		f, err := p.of.file(strings.Split(strings.TrimSuffix(name, "\x00"), "\x00"))
		if err != nil {
			p.err = err
			return nil
		}
		p.of.mutex.Lock()
		sub = &splitSub{file: f, part: f.sink.Part()}
		p.of.mutex.Unlock()
		p.parts[name] = sub
	}
	return sub
}

// Put implements table.SinkPart.
func (p *splitPart) Put() error {
	if p.err != nil {
		return p.err
	}
	for _, sub := range p.used {
		if err := p.of.turnTo(sub.file); err != nil {
			return err
		}
		if err := sub.part.Put(); err != nil {
			return err
		}
		sub.file.rows += sub.rows
	}
	return nil
}

// turnTo ends the file of the extract before: there may be more of them than a system lets a program
// hold open.
func (s *split) turnTo(f *splitFile) (err error) {
	if before := s.last; len(s.pieces) == 0 && before != nil && before != f {
		before.ended, err = before.sink.End()
	}
	s.last = f
	return err
}

// inOrder are the files by their paths.
func (s *split) inOrder() (out []*splitFile) {
	for _, to := range slices.Sorted(maps.Keys(s.files)) {
		out = append(out, s.files[to])
	}
	return out
}

// End implements table.Sink.
func (s *split) End() (out []table.Written, err error) {
	var shared place.List
	for _, f := range s.inOrder() {
		if f.other != nil {
			p := place.At(place.Place{File: f.path}, "output", "the values %q and %q of %s would share the file",
				strings.Join(f.values, " | "), strings.Join(f.other, " | "), strings.Join(s.pieces, ", ")).ByRule()
			p.Plan, p.Advice = s.of.Pos, "a path cannot hold some characters; name one of the values otherwise"
			shared.Add(p)
		}
	}
	if len(shared) > 0 {
		return nil, shared
	}
	for _, f := range s.inOrder() {
		if f.ended == nil {
			if f.ended, err = f.sink.End(); err != nil {
				return nil, err
			}
		}
		for _, w := range f.ended {
			if w.Rows < 0 {
				w.Rows = f.rows
			}
			w.To = f.path
			out = append(out, w)
		}
	}
	s.findStale()
	return out, nil
}

// findStale finds files that are there, and are none of these.
func (s *split) findStale() {
	glob := s.Plan.At(s.to)
	for _, name := range s.pieces {
		glob = strings.Replace(glob, "{"+name+"}", "*", 1)
	}
	if len(s.pieces) == 0 {
		at := len(glob) - len(s.of.Ending)
		glob = glob[:at] + "-*" + glob[at:]
	}
	found, _ := filepath.Glob(glob) // a path that is no glob has none
	own := map[string]bool{}
	for to := range s.files {
		own[s.Plan.At(to)] = true
	}
	s.stale = nil
	for _, file := range found {
		base := filepath.Base(file)
		if !s.mayBe(file) {
			continue
		}
		if info, err := os.Stat(file); own[file] || strings.HasPrefix(base, s.Mark) || err != nil || !info.Mode().IsRegular() {
			continue
		}
		if rel, err := filepath.Rel(s.Plan.Dir(), file); err == nil {
			file = filepath.ToSlash(rel)
		}
		s.stale = append(s.stale, file)
	}
}

// mayBe reports whether a file may be one of the delivery.
func (s *split) mayBe(file string) bool {
	if len(s.pieces) > 0 {
		return true
	}
	name := strings.TrimSuffix(filepath.Base(file), s.of.Ending)
	return partForm.MatchString(name)
}

// partForm is how the name of a part ends, but for its ending.
var partForm = regexp.MustCompile(`-\d{5,}$`)

// mostStale is how many of them a remark names.
const mostStale = 10

// Remarks implements table.Remarking.
func (s *split) Remarks() (out []string) {
	for _, f := range s.inOrder() {
		out = append(out, table.RemarksOf(f.sink)...)
	}
	if n := len(s.stale); n > 0 {
		names := strings.Join(s.stale[:min(n, mostStale)], ", ")
		if n > mostStale {
			names += fmt.Sprintf(" and %d more", n-mostStale)
		}
		what := "values"
		if len(s.pieces) == 0 {
			what = "extracts"
		}
		out = append(out, fmt.Sprintf("of %s that are no longer there, and left as they are: %s", what, names))
	}
	return out
}

// Publish implements table.Sink.
func (s *split) Publish() error {
	for i, f := range s.inOrder() {
		if err := f.sink.Publish(); err != nil {
			if i > 0 {
				return fmt.Errorf("%s: %w (%d other files of %s are new already)", f.path, err, i, plan.Shown(s.of.To))
			}
			return err
		}
		f.sink = published{f.sink}
	}
	return nil
}

// published is a sink whose file has appeared: there is nothing to remove.
type published struct{ table.Sink }

func (published) Abandon() {}

// Abandon implements table.Sink.
func (s *split) Abandon() {
	for _, f := range s.files {
		f.sink.Abandon()
	}
}
