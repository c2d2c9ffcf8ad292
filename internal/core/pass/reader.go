package pass

import (
	"fmt"
	"io"
	"maps"
	"runtime/debug"
	"slices"

	"umbau/internal/core/layout"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/since"
	"umbau/internal/core/table"
	"umbau/internal/core/terms"
	"umbau/internal/core/treat"
)

// reader reads the extracts one after another and deals out their blocks.
type reader struct {
	*pass
	free     chan *lane
	lanes    chan<- *lane
	ordered  chan<- *lane
	number   int
	bytes    int64
	all      int64
	cells    map[place.Place][]readCells // by file, sheet and member: what was read into measures
	headers  since.Texts                 // extracts of one layout share them
	problems place.List
	broken   []int // extracts that could not be read to their end
	cuts     []Cut
}

func (rd *reader) readAll() {
	defer close(rd.lanes)
	defer close(rd.ordered)
	defer func() {
		if p := recover(); p != nil {
			rd.problems.Add(mistake(p))
		}
	}()
	for _, in := range rd.inputs {
		rd.all += in.Table.Size
	}
	for i, in := range rd.inputs {
		if rd.ctx.Err() != nil {
			return
		}
		piece := Piece{}
		if rd.rules.Piece != nil {
			piece = rd.rules.Piece(i)
		}
		if piece.None {
			continue
		}
		if err := rd.readExtract(i, in, piece); err != nil {
			rd.problems.Add(in.unreadable(err))
			rd.broken = append(rd.broken, i)
		}
	}
}

// unreadable is the problem of an extract that cannot be read: a matter of the plan where
// the plan does not say how it is encoded.
func (in *Input) unreadable(err error) place.Problem {
	p := table.Problem(in.Place(), err)
	if p.Rule && in.Entry.Encoding != "" {
		p.Rule, p.Add, p.Advice = false, "", "save the file as "+in.Entry.Encoding+", or mend encoding in its entry of extracts"
	}
	if p.Rule {
		p.Plan = in.Entry.Pos
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
	if p := rd.rules.Progress; p != nil {
		p(rd.bytes, rd.all)
	}
}

// readExtract deals out the blocks of a piece of an extract, and the one before them, in which rows may
// wait. One is always held back, so that the last one is known.
func (rd *reader) readExtract(extract int, in *Input, piece Piece) error {
	told := slices.Clone(rd.problems)
	source, held, program, err := rd.head(in)
	if source != nil {
		defer source.Close()
	}
	if program == nil {
		if held != nil {
			rd.free <- held
		}
		if piece.From > 0 { // who reads the first piece tells it
			rd.problems = told
		}
		return err
	}
	program.Cut, program.Extract = !piece.All(), extract
	held.raw.First = true
	cut := Cut{extract, None, None, None, None}
	read := source.Next
	skipping, may := source.(table.Skipping)
	for begin := int64(0); rd.ctx.Err() == nil; {
		if read = source.Next; may && begin+int64(len(held.raw.Data)) < piece.From {
			read = skipping.Skip
		}
		j, err := rd.read(read)
		edge, end := Edge{begin, held.raw.Line}, begin+int64(len(held.raw.Data))
		held.extract, held.program, held.source = extract, program, source
		held.raw.Last = err != nil
		switch {
		case piece.has(begin):
			if cut.Last = edge; cut.First == None {
				cut.First = edge
			}
			rd.deal(held)
		case err == nil && piece.has(end):
			cut.Before, held.raw.Before = edge, true
			rd.deal(held)
		default:
			rd.free <- held
		}
		if err != nil {
			rd.noteCut(program, cut)
			if doubt := source.Facts().Doubt; err == io.EOF && doubt != nil && in.Entry.Encoding == "" {
				return doubt
			} else if err == io.EOF {
				in.doubtRows(source.Facts().HiddenRows, program.Lineup.Header.Row)
				return nil
			}
			return err
		}
		held, begin = j, end
		if piece.To > 0 && begin >= piece.To {
			cut.After = Edge{begin, held.raw.Line}
			rd.noteCut(program, cut)
			break
		}
	}
	rd.free <- held
	return nil
}

// noteCut notes where a piece was found.
func (rd *reader) noteCut(p *treat.Program, cut Cut) {
	if p.Cut {
		rd.cuts = append(rd.cuts, cut)
	}
}

// head opens an extract, reads its first block and makes the plan ready for it; program is nil where it
// cannot be used.
func (rd *reader) head(in *Input) (source table.Source, held *lane, program *treat.Program, err error) {
	e := in.Entry
	in.Size = 0
	reading := in.reading()
	reading.Count, reading.Unpacked = rd.count, func(n int) { in.Size += int64(n) }
	source, err = in.Table.Open(reading)
	if err != nil {
		return nil, nil, nil, err
	}
	held, err = rd.next(source)
	if err == io.EOF {
		p := place.At(in.Place(), "empty file", "the file is empty; it has no header").ByRule()
		p.Advice = "was it saved? leave it out with except if it is meant to be empty"
		if in.Sheet != "" {
			p.Message, p.Advice = "the sheet is empty; it has no header", "leave it out with except_sheets if it is meant to be empty"
		}
		p.Plan = e.Pos
		rd.problems.Add(p)
		return source, nil, nil, nil
	}
	if err == nil {
		program, err = rd.begin(in, source, held)
	}
	return source, held, program, err
}

// reading is how the entry of the extract has it read.
func (in *Input) reading() table.Reading {
	return table.Reading{Encoding: in.Entry.Encoding, Delimiter: in.Entry.Delimiter, EmptyNulls: in.Entry.EmptyNulls}
}

// again reads the blocks of its extract before a block once more.
func (p *pass) again(l *lane, see func(table.Splitter, treat.Raw) error) error {
	source, err := p.inputs[l.extract].Table.Open(p.inputs[l.extract].reading())
	if err != nil {
		return err
	}
	defer source.Close()
	for b := (table.Block{}); ; {
		if b, err = source.Next(b.Data[:0]); err == io.EOF || err == nil && b.Line >= l.raw.Line {
			return nil
		}
		if err == nil {
			err = see(source, treat.Raw{Block: b})
		}
		if err != nil {
			return err
		}
	}
}

// deal deals out a block.
func (rd *reader) deal(l *lane) {
	l.number = rd.number
	rd.number++
	rd.lanes <- l
	rd.ordered <- l
}

// next reads a block into a free lane.
func (rd *reader) next(source table.Source) (*lane, error) { return rd.read(source.Next) }

func (rd *reader) read(next func([]byte) (table.Block, error)) (*lane, error) {
	j := <-rd.free
	b, err := next(j.buffer)
	if err != nil {
		rd.free <- j
		return nil, err
	}
	j.buffer = b.Data[:0]
	j.raw = treat.Raw{Block: b}
	return j, nil
}

// mostTitles is how many rows above the header are looked at for what they say of its figures.
const mostTitles = 100

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
func (rd *reader) top(in *Input, source table.Source, j *lane) (t top, err error) {
	finder := layout.NewFinder(rd.rules.Plan, in.Entry)
	for {
		t.rows.Reset()
		if err := source.Split(j.raw.Block, &t.rows); err != nil {
			return t, err
		}
		t.within = t.rows
		if in.Table.Headed {
			return t, nil
		}
		layout.Crop(&t.within, in.Entry.Area)
		if in.Entry.Header.None {
			return t, nil
		}
		var sure bool
		t.at, sure = finder.Find(&t.within)
		if sure || len(j.raw.Data) > mostHead {
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
		n := len(j.raw.Data)
		j.raw.Data = append(j.raw.Data[:n:n], more.Data...)
	}
}

// begin makes the plan ready for an extract. It returns nil where the extract cannot
// be used.
func (rd *reader) begin(in *Input, source table.Source, j *lane) (*treat.Program, error) {
	p, e := rd.rules.Plan, in.Entry
	t, err := rd.top(in, source, j)
	if err != nil {
		return nil, err
	}
	rows := &t.rows
	header, first, ok := rd.header(in, &t)
	if !ok {
		return nil, nil
	}
	in.Headers = rd.headers.Of(header.Texts)
	fields := maps.Clone(in.fields)
	above := 0 // rows above the header, as far as titles are concerned
	for above < rows.Len() && rows.Lines[above] < first {
		above++
	}
	titles, problems := layout.Titles(e, rows, above, in.Place())
	maps.Copy(fields, titles)
	lines := layout.LinesAbove(rows, min(above, mostTitles))
	in.Says = terms.SaidOfAll(lines, []string{in.File, in.Sheet})
	words := newWordy(in, &t, header)
	defer words.close()
	lineup, unmatched := layout.LineUp(p, e, header, fields, words.below, in.Place())
	if words.err != nil {
		return nil, words.err
	}
	problems.Merge(unmatched)
	in.Doubts = lineup.Doubts
	lineup.SetAbove(lines)
	if len(unmatched) == 0 {
		lineup.Known = rd.known
		problems.Merge(layout.OneTable(lineup, &t.within, t.at))
		problems.Merge(rd.readTwice(in, lineup))
	}
	if len(problems) > 0 {
		rd.problems.Merge(problems)
		return nil, nil
	}
	program, more := treat.NewProgram(p, lineup, rd.rules.Books, rd.rules.Lookups)
	if len(more) > 0 {
		rd.problems.Merge(more)
		return nil, nil
	}
	for _, c := range rd.rules.Corrections {
		if c.At.File == in.File && c.At.Sheet == in.Sheet {
			program.Correct(c.Correction, c.At.Row)
		}
	}
	in.Measures, in.Slots = program.Measures(), nil
	for _, s := range program.Slots {
		in.Slots = append(in.Slots, s.Header)
	}
	in.Doubts.Merge(program.SumsBeside(&t.within))
	in.doubtColumns(source.Facts().HiddenColumns, lineup)
	return program, nil
}

// reach is how many columns an extract has by the rows at hand: one more than they fill, which others may, or all that
// its area names.
func reach(e *plan.Entry, rows *table.Rows) int {
	if a := e.Area; a != nil {
		return a.LastColumn - a.FirstColumn + 1
	}
	return rows.Widest() + 1
}

// header reads the header that was found, and reports one that was not; first is the
// number of its first row.
func (rd *reader) header(in *Input, t *top) (h layout.Header, first int, ok bool) {
	e, rows, at := in.Entry, &t.within, t.at
	left := 0
	if e.Area != nil {
		left = e.Area.FirstColumn
	}
	if e.Header.None {
		return layout.Lettered(rows.Widest(), left), 0, true
	}
	if at < 0 {
		p := place.At(in.Place(), "no header", "there is no header row").ByRule()
		if e.Header.Row > 0 {
			p = place.At(in.Place(), "no header", "row %d, which the plan says is the header, is blank or not there", e.Header.Row).ByRule()
		} else if e.Area == nil && e.Header.Rows < 2 {
			p = place.At(in.Place(), "empty file", "the file is empty; it has no header").ByRule()
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
				place := in.Place()
				place.Row, place.Header = rows.Lines[i], layout.Letter(left+k)
				rd.problems.Add(treat.FormulaProblem(place))
				ok = true
			}
		}
	}
	if ok {
		return h, 0, false
	}
	if in.Sheet != "" || e.FillShort { // rows may be longer than the header
		raw = reach(e, rows.Slice(at, rows.Len()))
	}
	h.Widen(min(raw, layout.ClaimedLetters(rd.rules.Plan, e, left)))
	return h, first, true
}
