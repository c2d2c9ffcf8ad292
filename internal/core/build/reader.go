package build

import (
	"fmt"
	"io"
	"maps"
	"runtime/debug"
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
)

// reader reads the extracts one after another and deals out their blocks.
type reader struct {
	run      *run
	free     chan *job
	jobs     chan<- *job
	ordered  chan<- *job
	number   int
	bytes    int64
	all      int64
	problems place.List
}

func (rd *reader) readAll() {
	defer close(rd.jobs)
	defer close(rd.ordered)
	defer func() {
		if p := recover(); p != nil {
			rd.problems.Add(mistake(p))
		}
	}()
	for _, in := range rd.run.inputs {
		rd.all += in.table.Size
	}
	for i := range rd.run.inputs {
		if rd.run.ctx.Err() != nil {
			return
		}
		in := &rd.run.inputs[i]
		if err := rd.readExtract(i, in); err != nil {
			rd.problems.Add(in.unreadable(err))
		}
	}
}

// unreadable is the problem of an extract that cannot be read: a matter of the plan where
// the plan does not say how it is encoded.
func (in *input) unreadable(err error) place.Problem {
	p := table.Problem(in.place(), err)
	if p.Rule && in.entry.Encoding != "" {
		p.Rule, p.Add, p.Advice = false, "", "save the file as "+in.entry.Encoding+", or mend encoding in its entry of extracts"
	}
	if p.Rule {
		p.Plan = in.entry.Pos
	}
	return p
}

// mistake is the problem of a mistake in the program.
func mistake(p any) place.Problem {
	return place.Problem{What: "mistake", Message: fmt.Sprintf("a mistake in the program: %v\n%s", p, debug.Stack()), Count: 1,
		Advice: "nothing was delivered; please report it with the plan and these lines"}
}

// count tells the progress how many bytes were read.
func (rd *reader) count(n int) {
	rd.bytes += int64(n)
	if p := rd.run.options.Progress; p != nil {
		p(rd.bytes, rd.all)
	}
}

// readExtract deals out the blocks of an extract. One is always held back, so
// that the last one is known.
func (rd *reader) readExtract(extract int, in *input) error {
	e := in.entry
	in.size = 0
	source, err := in.table.Open(table.Reading{Encoding: e.Encoding, Delimiter: e.Delimiter, Count: rd.count, Unpacked: func(n int) { in.size += int64(n) }})
	if err != nil {
		return err
	}
	defer source.Close()
	held, err := rd.next(source)
	if err == io.EOF {
		p := place.At(in.place(), "empty file", "the file is empty; it has no header").ByRule()
		p.Advice = "was it saved? leave it out with except if it is meant to be empty"
		if in.sheet != "" {
			p.Message, p.Advice = "the sheet is empty; it has no header", "leave it out with except_sheets if it is meant to be empty"
		}
		p.Plan = e.Pos
		rd.problems.Add(p)
		return nil
	}
	if err != nil {
		return err
	}
	program, err := rd.begin(extract, in, source, held)
	if program == nil {
		rd.free <- held
		return err
	}
	held.block.First = true
	for rd.run.ctx.Err() == nil {
		j, err := rd.next(source)
		held.extract, held.program, held.source, held.number = extract, program, source, rd.number
		held.block.Last = err != nil
		rd.number++
		rd.jobs <- held
		rd.ordered <- held
		if err == io.EOF {
			if doubt := source.Facts().Doubt; doubt != nil && in.entry.Encoding == "" {
				return doubt
			}
			return nil
		}
		if err != nil {
			return err
		}
		held = j
	}
	rd.free <- held
	return nil
}

// next reads a block into a free job.
func (rd *reader) next(source table.Source) (*job, error) {
	j := <-rd.free
	b, err := source.Next(j.buffer)
	if err != nil {
		rd.free <- j
		return nil, err
	}
	j.buffer = b.Data[:0]
	j.block = treat.Block{Block: b}
	return j, nil
}

// mostHead is how many bytes are looked at for the header at most.
const mostHead = 16 << 20

// top is the beginning of an extract: its rows, those within the area of the entry,
// and its header, which ends with the row at an index among these.
type top struct {
	rows, within table.Rows
	at           int  // -1 for none
	whole        bool // the extract has no further rows
}

// top looks for the header in the first blocks, which it joins to one.
func (rd *reader) top(in *input, source table.Source, j *job) (t top, err error) {
	finder := layout.NewFinder(rd.run.plan, in.entry)
	for {
		t.rows.Reset()
		if err := source.Split(j.block.Block, &t.rows); err != nil {
			return t, err
		}
		t.within = t.rows
		layout.Crop(&t.within, in.entry.Area)
		if in.entry.Header.None {
			return t, nil
		}
		var sure bool
		t.at, sure = finder.Find(&t.within)
		if sure || len(j.block.Data) > mostHead {
			return t, nil
		}
		more, err := source.Next(nil)
		if err == io.EOF {
			t.whole = true
			return t, nil
		}
		if err != nil {
			return t, err
		}
		n := len(j.block.Data)
		j.block.Data = append(j.block.Data[:n:n], more.Data...)
	}
}

// begin makes the plan ready for an extract. It returns nil where the extract cannot
// be used.
func (rd *reader) begin(extract int, in *input, source table.Source, j *job) (*treat.Program, error) {
	p, e := rd.run.plan, in.entry
	t, err := rd.top(in, source, j)
	if err != nil {
		return nil, err
	}
	rows := &t.rows
	header, first, ok := rd.header(in, &t)
	if !ok {
		return nil, nil
	}
	j.block.Begin = 0
	for j.block.Begin < rows.Len() && rows.Lines[j.block.Begin] <= header.Row {
		j.block.Begin++
	}
	fields := maps.Clone(in.fields)
	above := 0 // rows above the header, as far as titles are concerned
	for above < rows.Len() && rows.Lines[above] < first {
		above++
	}
	titles, problems := layout.Titles(e, rows, above, in.place())
	maps.Copy(fields, titles)
	words := newWordy(in, &t, header)
	defer words.close()
	lineup, unmatched := layout.LineUp(p, e, header, fields, words.below, in.place())
	if words.err != nil {
		return nil, words.err
	}
	problems.Merge(unmatched)
	if len(unmatched) == 0 {
		lineup.Known = rd.run.known
		problems.Merge(layout.OneTable(lineup, &t.within, t.at))
		problems.Merge(rd.run.readTwice(in, lineup))
	}
	if len(problems) > 0 {
		rd.problems.Merge(problems)
		return nil, nil
	}
	program, more := treat.NewProgram(p, lineup, rd.run.books)
	if len(more) > 0 {
		rd.problems.Merge(more)
		return nil, nil
	}
	rd.run.correct(in, program, &rd.problems)
	rd.run.summary.Extracts[extract].Measures = program.Measures()
	rd.run.headers[extract] = lineup.Header
	for _, s := range program.Slots {
		rd.run.slots[extract] = append(rd.run.slots[extract], s.Header)
	}
	return program, nil
}

// header reads the header that was found, and reports one that was not; first is the
// number of its first row.
func (rd *reader) header(in *input, t *top) (h layout.Header, first int, ok bool) {
	e, rows, at := in.entry, &t.within, t.at
	left := 0
	if e.Area != nil {
		left = e.Area.FirstColumn
	}
	if e.Header.None {
		width := 0
		for i := range rows.Len() {
			width = max(width, len(rows.Row(i)))
		}
		return layout.Lettered(width, left), 0, true
	}
	if at < 0 {
		p := place.At(in.place(), "no header", "there is no header row").ByRule()
		if e.Header.Row > 0 {
			p = place.At(in.place(), "no header", "row %d, which the plan says is the header, is blank or not there", e.Header.Row).ByRule()
		} else if e.Area == nil && e.Header.Rows < 2 {
			p = place.At(in.place(), "empty file", "the file is empty; it has no header").ByRule()
		}
		p.Plan, p.Advice = e.Pos, "leave it out with except if it is meant to be empty"
		rd.problems.Add(p)
		return h, 0, false
	}
	h = layout.ReadHeader(rows, at, left)
	first = h.Row
	raw := len(rows.Row(at))
	var above []int
	for i := range at {
		if slices.Contains(e.Header.Above, rows.Lines[i]) {
			above = append(above, i)
		}
	}
	if e.Header.Rows > 1 {
		above = layout.Above(at-e.Header.Rows+1, e.Header.Rows)
	}
	if len(above) > 0 {
		h.AddGroups(rows, above)
		first = rows.Lines[above[0]]
	}
	for _, i := range append(above, at) {
		for k := range rows.Row(i) {
			if rows.Kind(i, k) == table.FormulaCell {
				place := in.place()
				place.Row, place.Header = rows.Lines[i], layout.Letter(left+k)
				rd.problems.Add(treat.FormulaProblem(place))
				ok = true
			}
		}
	}
	if ok {
		return h, 0, false
	}
	if in.sheet != "" || e.FillShort {
		raw = 1 << 14
	}
	h.Widen(min(raw, layout.ClaimedLetters(rd.run.plan, e, left)))
	return h, first, true
}
