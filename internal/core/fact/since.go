package fact

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"slices"
	"strings"
	"time"

	"umbau/internal/core/keep"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/record"
	"umbau/internal/core/since"
	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// What the next build compares with stands in a folder of the record: the state of the last build
// that delivered, and its plan.
const (
	lastFolder = "last"
	lastState  = "build.csv"
	LastPlan   = lastFolder + "/umbau.yaml" // in the record
)

// Since is what is new since the last build that delivered.
type Since struct {
	Known    bool // it was compared
	First    bool // there is no such build
	At       time.Time
	Changes  []since.Change
	Alike    map[*since.Change]Alike // by what is new
	Sizes    []Size                  // of extracts that are unlike all of the last build
	Behind   []Behind                // groups that others have left behind
	Regroup  bool                    // groups are made by other columns now, and are not compared
	Accepted bool                    // figures that should have stopped the build did not: a person wanted it so

	now *since.State
}

// historyGroups are the groups that are compared with those of the last build; nil for none.
func (b *build) historyGroups() *keep.Groups {
	p := b.plan
	g := &keep.Groups{By: keep.NewBy(p, p.HistoryBy())}
	for i, c := range p.Columns {
		if c.Measure() && c.Kept {
			g.Measures = append(g.Measures, i)
		}
	}
	if len(g.By.Columns) == 0 || len(g.Measures) == 0 {
		return nil
	}
	return g
}

// compareWithLast compares the build with the last one that delivered.
func (b *build) compareWithLast() {
	s := &b.summary.Since
	s.Known, s.now = true, b.state()
	file := b.plan.At(path.Join(b.plan.Record, lastFolder, lastState))
	f, err := os.Open(file)
	if errors.Is(err, fs.ErrNotExist) {
		s.First = true
		return
	}
	var last *since.State
	if err == nil {
		defer f.Close()
		if info, e := f.Stat(); e == nil {
			s.At = info.ModTime()
		}
		if s.now.IsAsIn(bufio.NewReader(f)) {
			return
		}
		if _, err = f.Seek(0, io.SeekStart); err == nil {
			last, err = since.Read(f)
		}
	}
	if err != nil {
		p := place.At(place.Place{File: path.Join(b.plan.Record, lastFolder, lastState)}, "unreadable file",
			"what the last build left cannot be read: %s",
			whole.Reason(err))
		p.Advice = "remove the folder " + path.Join(b.plan.Record, lastFolder) + " to begin anew; nothing is compared then"
		b.fail(p)
		s.First = true
		return
	}
	s.Changes, s.Regroup = since.Compare(last, s.now), !slices.Equal(last.By, s.now.By)
	s.findAlike(last)
	s.findSizes(last)
	s.findBehind(b.plan, last)
	if b.plan.History.Restated || b.plan.History.Gone {
		b.checkHistory()
	}
}

// state is what the next build will compare with.
func (b *build) state() *since.State {
	p, st := b.plan, &since.State{}
	digests := map[string]string{}
	for _, in := range b.summary.Inputs {
		if in.Digest != nil {
			digests[in.Name] = (*in.Digest)[:12]
		} else {
			digests[in.Name] = fmt.Sprintf("%d bytes", in.Bytes)
		}
	}
	add := func(l since.Line) { st.Lines = append(st.Lines, l) }
	for _, in := range b.inputs {
		add(since.Line{What: since.Extract, File: in.File, Sheet: in.Sheet, Value: digests[in.Path]})
	}
	for _, in := range b.inputs {
		st.Headers = append(st.Headers, since.Headed{File: in.File, Sheet: in.Sheet, Texts: in.Headers})
	}
	b.addNames(st)
	b.addValues(st)
	for i := range b.summary.Extracts {
		e := &b.summary.Extracts[i]
		add(since.Line{What: since.Rows, File: e.File, Sheet: e.Sheet, Value: fmt.Sprint(e.Rows.Fact)})
	}
	for i := range b.summary.Extracts {
		e := &b.summary.Extracts[i]
		for _, m := range e.Measures {
			add(since.Line{What: since.Amount, File: e.File, Sheet: e.Sheet, Measure: p.Columns[m].Name,
				Value: b.amount(m, e.Account(m).Totals().Fact)})
		}
	}
	if g := b.kept.history; g != nil {
		for _, ci := range g.By.Columns {
			st.By = append(st.By, p.Columns[ci].Name)
		}
		st.Lines = slices.Grow(st.Lines, len(g.List)*len(g.Measures))
		for _, group := range g.List {
			for i, ci := range g.Measures {
				if group.Rows > 0 {
					add(since.Line{What: since.Group, Group: group.Label, Measure: p.Columns[ci].Name, Value: b.amount(ci, group.Have[i].Total())})
				}
			}
		}
	}
	return st
}

// addNames adds the standards of names, with the cells that are one of them.
func (b *build) addNames(st *since.State) {
	type seen struct {
		names.Standards
		at []int // of each, by its code, where it is in the names
	}
	columns := map[int]*seen{}
	var k []byte
	asKey := func(standard string) []byte {
		k = key.Append(k[:0], standard)
		return k
	}
	for n := range b.summary.Names.All() {
		if n.Standard == "" || b.plan.Columns[n.Column].Lookup != nil {
			continue
		}
		c := columns[n.Column]
		if c == nil {
			most := b.summary.Names.LenOf(n.Column)
			c = &seen{Standards: names.Standards{Most: most}}
			c.at, st.Names = make([]int, 0, most), slices.Grow(st.Names, most)
			columns[n.Column] = c
		}
		code, fresh := c.Code(n, asKey)
		if fresh {
			c.at = append(c.at, len(st.Names))
			st.Names = append(st.Names, since.Named{Column: b.plan.Columns[n.Column].Name, Name: n.Standard})
		}
		st.Names[c.at[code]].Cells += n.Cells
	}
}

// amount writes an amount of a column as it is compared.
func (b *build) amount(column int, d value.Decimal) string {
	if places := b.plan.Columns[column].Decimals; places >= 0 {
		if fixed, lost := d.Rescale(places); !lost {
			return fixed.String()
		}
	}
	return d.Shorten().String()
}

// checkHistory stops the build where the plan asks for it: groups that had another figure, and
// those that have none any more.
func (b *build) checkHistory() {
	h, s := b.plan.History, &b.summary.Since
	restated := place.Problem{What: "restated", Rule: true, Plan: h.Pos, Message: "a figure of the last delivered build is another one now"}
	gone := place.Problem{What: "gone", Rule: true, Plan: h.Pos, Message: "a group of the last delivered build is gone"}
	for i := range s.Changes {
		c := &s.Changes[i]
		if c.What != since.Group {
			continue
		}
		p, wanted := &restated, h.Restated
		if c.Now == "" {
			p, wanted = &gone, h.Gone
		}
		if !wanted || c.Now != "" && c.Difference().Abs().Cmp(h.Within) <= 0 {
			continue
		}
		if p.Count++; p.Count <= place.MostPlaces {
			at, text := b.tellChange(c)
			p.Places, p.Texts = append(p.Places, at), append(p.Texts, text)
		}
	}
	for _, p := range []place.Problem{restated, gone} {
		if p.Count == 0 {
			continue
		}
		if b.options.Accept {
			s.Accepted = true
			continue
		}
		p.Add = p.What + ": say"
		p.Advice = "is it meant? umbau build --accept delivers, and the record says so; all of it is in " +
			path.Join(b.plan.Record, record.SinceFile)
		b.fail(p)
	}
}

// tellChange says what became of a group, and in which extracts the difference may lie: those that
// have another amount; the first of them is the place.
func (b *build) tellChange(c *since.Change) (at place.Place, text string) {
	now := c.Now
	if now == "" {
		now = "nothing"
	}
	text = fmt.Sprintf("%s: %s was %s, is %s", c.Group, c.Measure, value.Grouped(c.Before), value.Grouped(now))
	var in []string
	for _, o := range b.summary.Since.Changes {
		if o.What == since.Amount && o.Measure == c.Measure && len(in) < 3 {
			name := o.File
			if o.Sheet != "" {
				name += ", sheet " + o.Sheet
			}
			in = append(in, name)
			if len(in) == 1 {
				at = place.Place{File: o.File, Sheet: o.Sheet}
			}
		}
	}
	if len(in) > 1 {
		text += "; other amounts in " + strings.Join(in[1:], ", ")
	}
	return at, text
}

// writeSince writes what is new to the record.
func (b *build) writeSince() {
	var lines []byte
	for i := range b.summary.Since.Changes {
		if c := &b.summary.Since.Changes[i]; !c.Noticed() { // build.json has those
			lines = c.Append(lines)
		}
	}
	b.out.record.Write(record.SinceFile, lines)
}

// keepLast leaves what the next build will compare with, if this one delivered. It reports whether
// that could be written.
func (b *build) keepLast() bool {
	s := b.summary
	if s.ExitCode() != 0 || !s.Since.Known {
		return true
	}
	err := os.MkdirAll(b.plan.At(path.Join(b.plan.Record, lastFolder)), 0o777)
	if last := b.plan.At(path.Join(b.plan.Record, LastPlan)); err == nil && b.plan.Secret() {
		if err = os.Remove(last); errors.Is(err, fs.ErrNotExist) { // no record holds a password
			err = nil
		}
	} else if err == nil {
		err = whole.Replace(last, b.out.lock.mark, b.plan.Source())
	}
	state := path.Join(b.plan.Record, lastFolder, lastState)
	if err == nil {
		err = whole.Write(b.plan.At(state), b.out.lock.mark, s.Since.now.Write)
	}
	if err != nil {
		b.out.cannot(state, err, "the deliveries are new, but the next build compares with an older one")
	}
	return err == nil
}
