package parquet

import (
	"fmt"
	"math/big"
	"strconv"
	"time"

	pq "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/compress/zstd"

	"umbau/internal/core/place"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
	"umbau/internal/core/whole"
)

// sink is a column file under way.
type sink struct {
	file    *whole.File
	columns []table.SinkColumn
	numbers []number // by column
	writer  *pq.Writer
	waiting []*block // rows before the writer is begun: they say how numbers are stored
	held    int      // rows of these
	group   int      // rows of the row group under way
	values  []pq.Value
	adopted bool
}

const (
	firstRows = 1 << 16 // that are looked at before the file is begun
	groupRows = 1 << 20 // of a row group
)

func newSink(t table.Target) (table.Sink, error) {
	f, err := whole.Create(t.To, t.Mark)
	if err != nil {
		return nil, err
	}
	return &sink{file: f}, nil
}

// Begin implements table.Sink.
func (s *sink) Begin(columns []table.SinkColumn) error {
	s.columns, s.numbers, s.writer, s.waiting, s.held, s.group = columns, make([]number, len(columns)), nil, nil, 0, 0
	for i, c := range columns {
		s.numbers[i].scale = max(0, c.Decimals)
	}
	return s.file.Empty()
}

// block has the rows of a block column by column.
type block struct {
	rows    int
	values  [][]pq.Value // of columns that hold no numbers
	numbers []numbers    // of those that do
}

// numbers are those of a column, and what they need.
type numbers struct {
	coefs  []int64
	places []uint8 // 255 where there is none, 254 for one of wide
	wide   []value.Decimal
	need   number
}

const (
	noNumber   = 255
	wideNumber = 254
)

// part takes the rows of a block.
type part struct {
	of    *sink
	block *block
	known []known // by column
	err   place.List
}

// known are the texts of a dictionary as values, by code.
type known struct {
	of     *table.Dict
	values []pq.Value
	texts  []string
	ready  []bool
}

// Part implements table.Sink.
func (s *sink) Part() table.SinkPart { return &part{of: s, known: make([]known, len(s.columns))} }

// Encode implements table.SinkPart.
func (p *part) Encode(b *table.Batch) {
	n := 0
	for _, f := range b.Fates {
		if f == table.Delivered {
			n++
		}
	}
	p.err = nil
	p.block = &block{rows: n, values: make([][]pq.Value, len(p.of.columns)), numbers: make([]numbers, len(p.of.columns))}
	for i := range p.of.columns {
		if c := &b.Columns[p.of.columns[i].Index]; c.Texts == nil {
			p.encodeNumbers(b, c, i)
		} else {
			p.encodeTexts(b, c, i)
		}
	}
}

func (p *part) encodeNumbers(b *table.Batch, c *table.Column, i int) {
	out := &p.block.numbers[i]
	out.coefs, out.places = make([]int64, 0, p.block.rows), make([]uint8, 0, p.block.rows)
	for row, slot := range b.Delivered {
		n := &c.Numbers[c.At(row, slot, b.Slots)]
		switch n.Form {
		case table.Empty:
			out.coefs, out.places = append(out.coefs, 0), append(out.places, noNumber)
			continue
		case table.Copy, table.Print:
			if n.Coef < 1e17 && n.Coef > -1e17 {
				out.coefs, out.places = append(out.coefs, n.Coef), append(out.places, n.Places)
				out.need.scale = max(out.need.scale, int(n.Places))
				continue
			}
		}
		d, _ := c.Decimal(c.At(row, slot, b.Slots))
		d = d.Shorten()
		out.coefs, out.places = append(out.coefs, int64(len(out.wide))), append(out.places, wideNumber)
		out.wide = append(out.wide, d)
		out.need.scale = max(out.need.scale, d.Places())
		out.need.wide = true
	}
}

func (p *part) encodeTexts(b *table.Batch, c *table.Column, i int) {
	k, is := &p.known[i], p.of.columns[i].Is
	if k.of != c.Texts {
		*k = known{of: c.Texts}
	}
	for len(k.values) < c.Texts.Len() {
		k.values, k.texts, k.ready = append(k.values, pq.Value{}), append(k.texts, ""), append(k.ready, false)
	}
	out := make([]pq.Value, 0, p.block.rows)
	for row, slot := range b.Delivered {
		code := c.Codes[c.At(row, slot, b.Slots)]
		if text := c.Texts.Out(code); !k.ready[code] || k.texts[code] != text {
			v, ok := valueOf(text, is, i)
			if !ok {
				p.refuse(b, row, slot, i, fmt.Sprintf("%q is no %s that a column file holds", place.Shorten(text), is))
			}
			k.values[code], k.texts[code], k.ready[code] = v, text, true
		}
		out = append(out, k.values[code])
	}
	p.block.values[i] = out
}

// valueOf is the value of a text in a column.
func valueOf(text, is string, column int) (v pq.Value, ok bool) {
	if text == "" {
		return pq.NullValue().Level(0, 0, column), true
	}
	switch is {
	case "date":
		at, err := time.Parse(time.DateOnly, text)
		v, ok = pq.Int32Value(int32(at.Unix()/86400)), err == nil
	case "year":
		n, err := strconv.ParseInt(text, 10, 64)
		v, ok = pq.Int64Value(n), err == nil
	default:
		v, ok = pq.ByteArrayValue([]byte(text)), true
	}
	return v.Level(0, 1, column), ok
}

func (p *part) refuse(b *table.Batch, row, slot, column int, why string) {
	var at place.Place
	if b.Where != nil {
		at = b.Where(row, slot)
	}
	problem := place.At(at, "output", "column %s: %s", p.of.columns[column].Name, why)
	problem.Advice = "deliver to another format, or mend the cell"
	p.err.Add(problem)
}

// Put implements table.SinkPart.
func (p *part) Put() error {
	s := p.of
	if len(p.err) > 0 {
		return p.err
	}
	if s.writer == nil {
		s.waiting, s.held = append(s.waiting, p.block), s.held+p.block.rows
		if s.held < firstRows {
			return nil
		}
		return s.begin()
	}
	return s.write(p.block)
}

// begin begins the file with the rows that wait.
func (s *sink) begin() error {
	for _, b := range s.waiting {
		for i := range s.numbers {
			s.numbers[i] = b.numbers[i].fits(s.numbers[i])
		}
	}
	s.newWriter()
	waiting := s.waiting
	s.waiting, s.held = nil, 0
	for _, b := range waiting {
		if err := s.write(b); err != nil {
			return err
		}
	}
	return nil
}

func (s *sink) newWriter() {
	options := []pq.WriterOption{schemaOf(s.columns, s.numbers), pq.Compression(&zstd.Codec{Level: zstd.SpeedFastest}),
		pq.CreatedBy("umbau", "", ""), pq.DictionaryMaxBytes(4 << 20)}
	for _, c := range s.columns {
		if c.Note != "" {
			options = append(options, pq.KeyValueMetadata("note:"+c.Name, c.Note))
		}
	}
	s.writer, s.group = pq.NewWriter(s.file, options...), 0
}

// fits is how numbers are stored so that these fit too.
func (n *numbers) fits(now number) number {
	now.scale = max(now.scale, n.need.scale)
	now.wide = now.wide || n.need.wide || now.scale > smallDigits
	if now.wide {
		return now
	}
	limit := int64(1e18 - 1)
	for i, places := range n.places {
		if places >= wideNumber {
			continue
		}
		power := value.Power(now.scale - int(places))
		if c := n.coefs[i]; c > limit/power || c < -limit/power {
			now.wide = true
			return now
		}
	}
	return now
}

// write writes the rows of a block.
func (s *sink) write(b *block) error {
	change := false
	next := make([]number, len(s.numbers))
	for i := range s.numbers {
		if next[i] = s.numbers[i]; b.values[i] == nil {
			next[i] = b.numbers[i].fits(s.numbers[i])
		}
		change = change || next[i] != s.numbers[i] && s.columns[i].Is != "whole"
	}
	if change {
		if err := s.restart(next); err != nil {
			return err
		}
	}
	columns := s.writer.ColumnWriters()
	for i := range s.columns {
		values := b.values[i]
		if values == nil {
			var err error
			if values, err = s.numberValues(&b.numbers[i], i); err != nil {
				return err
			}
		}
		if len(values) == 0 {
			continue
		}
		if _, err := columns[i].WriteRowValues(values); err != nil {
			return err
		}
	}
	if s.group += b.rows; s.group >= groupRows {
		s.group = 0
		return s.writer.Flush()
	}
	return nil
}

// numberValues are the values of numbers of a column.
func (s *sink) numberValues(n *numbers, column int) ([]pq.Value, error) {
	s.values = s.values[:0]
	store := s.numbers[column]
	is := s.columns[column].Is
	for i, places := range n.places {
		switch {
		case places == noNumber:
			s.values = append(s.values, pq.NullValue().Level(0, 0, column))
			continue
		case is == "whole":
			if places == wideNumber {
				c, lost := n.wide[n.coefs[i]].Coefficient(0)
				if lost || !c.IsInt64() {
					return nil, s.tooLarge(n.wide[n.coefs[i]], column)
				}
				s.values = append(s.values, pq.Int64Value(c.Int64()).Level(0, 1, column))
				continue
			}
			s.values = append(s.values, pq.Int64Value(n.coefs[i]/value.Power(int(places))).Level(0, 1, column))
		case !store.wide:
			s.values = append(s.values, pq.Int64Value(n.coefs[i]*value.Power(store.scale-int(places))).Level(0, 1, column))
		default:
			d := value.NewDecimal(n.coefs[i], int(places))
			if places == wideNumber {
				d = n.wide[n.coefs[i]]
			}
			b, ok := wideValue(d, store.scale)
			if !ok {
				return nil, s.tooLarge(d, column)
			}
			s.values = append(s.values, pq.FixedLenByteArrayValue(b).Level(0, 1, column))
		}
	}
	return s.values, nil
}

func (s *sink) tooLarge(d value.Decimal, column int) error {
	most := fmt.Sprintf("%d digits, %d of them behind the point", mostDigits, s.numbers[column].scale)
	if s.columns[column].Is == "whole" {
		most = "64 bits"
	}
	p := place.At(place.Place{File: s.file.Target}, "output", "column %s: %s has more digits than a column file holds (%s)",
		s.columns[column].Name, place.Shorten(d.String()), most)
	p.Advice = "deliver to another format"
	return place.List{p}
}

// wideValue is a number as 16 bytes, two's complement, the highest first; ok is false where
// it has more than 38 digits.
func wideValue(d value.Decimal, scale int) (b []byte, ok bool) {
	c, lost := d.Coefficient(scale)
	if lost || c.CmpAbs(mostWide) > 0 {
		return nil, false
	}
	b = make([]byte, wideBytes)
	if c.Sign() < 0 {
		c = new(big.Int).Add(c, beyond)
	}
	c.FillBytes(b)
	return b, true
}

var (
	mostWide = new(big.Int).Sub(new(big.Int).Exp(big.NewInt(10), big.NewInt(mostDigits), nil), big.NewInt(1))
	beyond   = new(big.Int).Lsh(big.NewInt(1), 8*wideBytes)
)

// End implements table.Sink.
func (s *sink) End() ([]table.Written, error) {
	if s.adopted {
		return []table.Written{{File: s.file.Temp, Bytes: s.file.Bytes, Rows: -1}}, s.file.Finish()
	}
	if s.writer == nil {
		if err := s.begin(); err != nil {
			return nil, err
		}
	}
	if err := s.writer.Close(); err != nil {
		return nil, err
	}
	s.writer, s.values = nil, nil // there may be many files
	return []table.Written{{File: s.file.Temp, Bytes: s.file.Bytes, Rows: -1}}, s.file.Finish()
}

// Adopt implements table.Adopting.
func (s *sink) Adopt(file string, _ int) error {
	s.adopted = true
	return s.file.Adopt(file)
}

// Counted implements table.Adopting.
func (s *sink) Counted() int { return 0 }

// Publish implements table.Sink.
func (s *sink) Publish() error { return s.file.Publish() }

// Abandon implements table.Sink.
func (s *sink) Abandon() { s.file.Abandon() }
