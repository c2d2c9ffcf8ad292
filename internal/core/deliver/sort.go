package deliver

import (
	"bufio"
	"bytes"
	"container/heap"
	"encoding/binary"
	"errors"
	"io"
	"slices"

	"umbau/internal/core/key"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// sorted gives rows to a sink in the order of some columns: numbers and dates by value,
// texts by the key and then as they stand, empty last; rows that are equal stay as they
// come. What memory does not hold is sorted on disk.
type sorted struct {
	to      table.Sink
	by      []plan.SortKey
	plan    *plan.Plan
	wanted  []table.SinkColumn // of the sink, as the builder has them
	columns []table.SinkColumn // all that is kept of a row
	rows    [][]byte           // in memory: each the length of its key, the key and what the row has
	size    int
	spilled []*whole.AsideFile
	part    table.SinkPart
	builder *table.Builder
}

// mostSorted is how many bytes of rows are held in memory.
var mostSorted = 48 << 20

// rowCost is what a row takes besides its bytes.
const rowCost = 24

// Begin implements table.Sink.
func (s *sorted) Begin(columns []table.SinkColumn) error {
	s.drop()
	var names []string
	for _, k := range s.by {
		names = append(names, k.Column)
	}
	if split, ok := s.to.(*split); ok {
		names = append(names, split.pieces...)
	}
	s.columns = all(s.plan, columns, names)
	s.wanted = slices.Clone(columns)
	var numeric []bool
	at := map[int]int{} // where the builder has a column of the plan
	for i := range s.columns {
		numeric = append(numeric, s.columns[i].Numeric())
		at[s.columns[i].Index] = i
	}
	for i := range s.wanted {
		s.wanted[i].Index = at[s.wanted[i].Index]
	}
	if split, ok := s.to.(*split); ok {
		for i, name := range split.pieces {
			split.index[i] = at[s.plan.Index(name)]
		}
	}
	s.builder = table.NewBuilder(numeric)
	if err := s.to.Begin(s.wanted); err != nil {
		return err
	}
	s.part = s.to.Part()
	return nil
}

// sortedPart writes the rows of a block down, each with its key.
type sortedPart struct {
	of    *sorted
	text  []byte
	ends  []int
	place []int // of the keys among the columns
}

// Part implements table.Sink.
func (s *sorted) Part() table.SinkPart { return &sortedPart{of: s} }

// Encode implements table.SinkPart.
func (p *sortedPart) Encode(b *table.Batch) {
	p.text, p.ends = p.text[:0], p.ends[:0]
	var k, cell []byte
	for row, slot := range b.Delivered {
		k = k[:0]
		for _, by := range p.of.by {
			ci := p.of.plan.Index(by.Column)
			from := len(k)
			k, cell = appendSortKey(k, cell, b, ci, row, slot, p.of.plan.Columns[ci].Kind)
			if by.Descending && k[from] != emptyMark {
				for i := from; i < len(k); i++ {
					k[i] = ^k[i]
				}
			}
		}
		p.text = binary.AppendUvarint(p.text, uint64(len(k)))
		p.text = append(p.text, k...)
		p.text = appendRow(p.text, b, p.of.columns, row, slot)
		p.ends = append(p.ends, len(p.text))
	}
}

// appendRow writes down what a row has in some columns.
func appendRow(dst []byte, b *table.Batch, columns []table.SinkColumn, row, slot int) []byte {
	var scratch [64]byte
	for i := range columns {
		text := b.AppendText(scratch[:0], &b.Columns[columns[i].Index], row, slot)
		dst = binary.AppendUvarint(dst, uint64(len(text)))
		dst = append(dst, text...)
	}
	return dst
}

// cutCell parts the first cell of a row that appendRow wrote from the others.
func cutCell(row []byte) (text, rest []byte) {
	n, size := binary.Uvarint(row)
	return row[size : size+int(n)], row[size+int(n):]
}

// setCell sets what a row has in a column of a builder.
func setCell(b *table.Builder, column int, numeric bool, text []byte) {
	switch {
	case !numeric:
		b.Text(column, text)
	case len(text) == 0:
		b.NoNumber(column)
	default:
		d, _, _ := value.English.Number(text)
		b.Number(column, d)
	}
}

// readRow gives a builder what appendRow wrote.
func readRow(b *table.Builder, columns []table.SinkColumn, row []byte) {
	for i := range columns {
		var text []byte
		text, row = cutCell(row)
		setCell(b, i, columns[i].Numeric(), text)
	}
	b.EndRow()
}

// The marks before the pieces of a key: what is empty stands last, whichever way the others
// are sorted. Inverted they are 0xfe to 0xfb.
const (
	negativeMark = 1 + iota
	zeroMark
	positiveMark
	textMark
	emptyMark = 0xff
)

// appendSortKey appends what rows are compared by, byte by byte.
func appendSortKey(dst, cell []byte, b *table.Batch, ci, row, slot int, kind plan.Kind) (key1, scratch []byte) {
	c := &b.Columns[ci]
	if c.Texts == nil {
		d, ok := c.Decimal(c.At(row, slot, b.Slots))
		if !ok {
			return append(dst, emptyMark), cell
		}
		return appendNumberKey(dst, d), cell
	}
	cell = b.AppendText(cell[:0], c, row, slot)
	if len(cell) == 0 {
		return append(dst, emptyMark), cell
	}
	dst = append(dst, textMark)
	if !kind.Dated() && kind != plan.Year {
		dst = appendEnded(dst, []byte(key.Of(string(cell))))
	}
	return appendEnded(dst, cell), cell
}

// appendEnded appends a text so that a shorter one stands before those that begin with it.
func appendEnded(dst, text []byte) []byte {
	for _, c := range text {
		if dst = append(dst, c); c == 0 {
			dst = append(dst, 1)
		}
	}
	return append(dst, 0, 0)
}

// appendNumberKey appends a number: its sign, how many digits stand before the point, and
// its digits.
func appendNumberKey(dst []byte, d value.Decimal) []byte {
	d = d.Shorten()
	sign := d.Sign()
	if sign == 0 {
		return append(dst, zeroMark)
	}
	from := len(dst)
	if sign > 0 {
		dst = append(dst, positiveMark)
	} else {
		dst = append(dst, negativeMark)
	}
	text := d.Abs().String()
	whole, places, _ := bytes.Cut([]byte(text), []byte("."))
	digits := append(bytes.TrimLeft(whole, "0"), places...)
	before := len(bytes.TrimLeft(whole, "0"))
	if before == 0 {
		rest := bytes.TrimLeft(digits, "0")
		before, digits = len(rest)-len(digits), rest
	}
	dst = binary.BigEndian.AppendUint32(dst, uint32(before+1<<30))
	dst = append(dst, bytes.TrimRight(digits, "0")...)
	dst = append(dst, 0)
	if sign < 0 {
		for i := from + 1; i < len(dst); i++ {
			dst[i] = ^dst[i]
		}
	}
	return dst
}

// Put implements table.SinkPart.
func (p *sortedPart) Put() error {
	s := p.of
	if len(p.ends) == 0 {
		return nil
	}
	text := bytes.Clone(p.text)
	from := 0
	for _, end := range p.ends {
		s.rows = append(s.rows, text[from:end:end])
		from = end
	}
	s.size += len(text) + rowCost*len(p.ends)
	if s.size > mostSorted {
		return s.spill()
	}
	return nil
}

func keyOf(row []byte) []byte {
	n, size := binary.Uvarint(row)
	return row[size : size+int(n)]
}

func (s *sorted) sort() {
	slices.SortStableFunc(s.rows, func(x, y []byte) int { return bytes.Compare(keyOf(x), keyOf(y)) })
}

// spill writes the rows in memory to disk, in order.
func (s *sorted) spill() error {
	f, err := whole.Aside()
	if err != nil {
		return err
	}
	s.spilled = append(s.spilled, f)
	s.sort()
	w := bufio.NewWriterSize(f, 1<<20)
	var size [binary.MaxVarintLen64]byte
	for _, row := range s.rows {
		w.Write(size[:binary.PutUvarint(size[:], uint64(len(row)))])
		w.Write(row)
	}
	if err := w.Flush(); err != nil {
		return err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	clear(s.rows)
	s.rows, s.size = s.rows[:0], 0
	return nil
}

// run is a list of rows in order: one on disk, or that in memory.
type run struct {
	number int // in the order in which they came
	in     *bufio.Reader
	rows   [][]byte
	row    []byte // the next one
}

// next goes on to the next row; ok is false at the end.
func (r *run) next() (ok bool, err error) {
	if r.in == nil {
		if len(r.rows) == 0 {
			return false, nil
		}
		r.row, r.rows = r.rows[0], r.rows[1:]
		return true, nil
	}
	n, err := binary.ReadUvarint(r.in)
	if errors.Is(err, io.EOF) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	r.row = slices.Grow(r.row[:0], int(n))[:n]
	_, err = io.ReadFull(r.in, r.row)
	return err == nil, err
}

// runs is a heap of them, the one with the least row first.
type runs []*run

func (r runs) Len() int { return len(r) }
func (r runs) Less(i, j int) bool {
	if c := bytes.Compare(keyOf(r[i].row), keyOf(r[j].row)); c != 0 {
		return c < 0
	}
	return r[i].number < r[j].number
}
func (r runs) Swap(i, j int) { r[i], r[j] = r[j], r[i] }
func (r *runs) Push(x any)   { *r = append(*r, x.(*run)) }
func (r *runs) Pop() any {
	last := (*r)[len(*r)-1]
	*r = (*r)[:len(*r)-1]
	return last
}

// atOnce is how many rows the sink gets at once.
const atOnce = 8192

// End implements table.Sink.
func (s *sorted) End() ([]table.Written, error) {
	s.sort()
	var all runs
	for i, f := range s.spilled {
		all = append(all, &run{number: i, in: bufio.NewReaderSize(f, 256<<10)})
	}
	all = append(all, &run{number: len(all), rows: s.rows})
	live := all[:0]
	for _, r := range all {
		ok, err := r.next()
		if err != nil {
			return nil, err
		}
		if ok {
			live = append(live, r)
		}
	}
	heap.Init(&live)
	for len(live) > 0 {
		r := live[0]
		n, size := binary.Uvarint(r.row)
		readRow(s.builder, s.columns, r.row[size+int(n):])
		if s.builder.Rows() == atOnce {
			if err := s.give(); err != nil {
				return nil, err
			}
		}
		ok, err := r.next()
		if err != nil {
			return nil, err
		}
		if ok {
			heap.Fix(&live, 0)
		} else {
			heap.Pop(&live)
		}
	}
	if err := s.give(); err != nil {
		return nil, err
	}
	s.drop()
	return s.to.End()
}

// give gives the rows that were built to the sink.
func (s *sorted) give() error {
	s.part.Encode(s.builder.Batch())
	s.builder.Clear()
	return s.part.Put()
}

// drop forgets all rows.
func (s *sorted) drop() {
	for _, f := range s.spilled {
		f.Close()
	}
	s.spilled, s.rows, s.size = nil, nil, 0
}

// Remarks implements table.Remarking.
func (s *sorted) Remarks() []string { return table.RemarksOf(s.to) }

// Publish implements table.Sink.
func (s *sorted) Publish() error { return s.to.Publish() }

// Abandon implements table.Sink.
func (s *sorted) Abandon() {
	s.drop()
	s.to.Abandon()
}
