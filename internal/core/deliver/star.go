package deliver

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// star is a delivery of several tables: facts, and dimensions, whose lines the facts name by
// their ids.
type star struct {
	*builder
	columns  []table.SinkColumn // of the batches
	fields   []field            // of the facts
	dims     []*dimension
	fact     table.Sink
	factPart table.SinkPart
	rows     *table.Builder // of the facts
	problems place.List
	sinks    []table.Sink // all of them, as they appear: dimensions, then facts
	remarks  []string
}

// field is a column of the facts: one of the fact table, or the ids of a dimension.
type field struct {
	column table.SinkColumn // index in the batches
	dim    int              // -1 for none
}

// newStar begins a star; its tables are begun when their columns are known.
func newStar(b *builder) *star { return &star{builder: b} }

// target is where a table of the star goes.
func (s *star) target(name string) (to, inDatabase string) {
	if plan.IsAddress(s.to) {
		return s.to, name
	}
	return strings.Replace(s.to, "{"+plan.TablePiece+"}", inPath(name), 1), ""
}

// Begin implements table.Sink.
func (s *star) Begin(columns []table.SinkColumn) error {
	s.Abandon()
	s.sinks, s.problems, s.columns, s.fields, s.remarks = nil, nil, columns, nil, nil
	if err := s.beginDimensions(); err != nil {
		return err
	}
	of := map[string]int{} // which dimension a column belongs to
	first := map[string]bool{}
	for i, d := range s.dims {
		for k, name := range d.from {
			of[name], first[name] = i, k == 0
		}
	}
	var facts []table.SinkColumn
	var numeric []bool
	for _, c := range columns {
		dim, ok := of[c.Name]
		switch {
		case !ok:
			s.fields = append(s.fields, field{c, -1})
		case first[c.Name]:
			c.Name, c.Is, c.Decimals = plan.IDColumn(s.dims[dim].name), "whole", -1
			s.fields = append(s.fields, field{c, dim})
		default:
			continue
		}
		c.Index = len(facts)
		facts, numeric = append(facts, c), append(numeric, c.Numeric())
	}
	s.rows = table.NewBuilder(numeric)
	to, name := s.target(s.of.Star.Fact)
	fact, err := s.sink(to, name)
	if err != nil {
		return err
	}
	if plan.IsAddress(s.to) { // rows come when the dimensions are there
		fact = &sorted{to: fact, plan: s.Plan}
	}
	s.fact = fact
	s.sinks = append(s.sinks, fact)
	if err := fact.Begin(facts); err != nil {
		return err
	}
	s.factPart = fact.Part()
	return nil
}

// beginDimensions begins the dimensions with what is there already.
func (s *star) beginDimensions() error {
	s.dims = nil
	column := func(name string) table.SinkColumn {
		return s.columns[slices.IndexFunc(s.columns, func(c table.SinkColumn) bool { return c.Name == name })]
	}
	for _, one := range s.of.Star.Dimensions {
		d := &dimension{name: one.Name, from: one.Columns, members: map[string]*member{}}
		for _, name := range one.Columns {
			c := column(name)
			d.columns = append(d.columns, c)
			d.header = append(d.header, c)
		}
		s.dims = append(s.dims, d)
	}
	if name := s.of.Star.Calendar; name != "" {
		c := column(name)
		s.dims = append(s.dims, &dimension{name: plan.CalendarTable, from: []string{name}, columns: []table.SinkColumn{c},
			header: calendarHeader(c.Is == "date", s.Plan.Calendar), members: map[string]*member{}, days: c.Is == "date", calendar: true})
	}
	for _, d := range s.dims {
		to, name := s.target(d.name)
		if err := d.readExisting(s.builder, to, name); err != nil {
			return err
		}
	}
	return nil
}

// starPart takes the rows of a block.
type starPart struct {
	of     *star
	text   []byte // of the rows: what the facts keep of each
	ends   []int
	combos [][]combo // by dimension: what the block has of it, in the order in which it comes
	codes  [][]int32 // by dimension: which of these each row has
}

// combo is a value of a dimension's first column with those of the others.
type combo struct {
	values []string
	where  place.Place // of the first row that has them
}

// Part implements table.Sink.
func (s *star) Part() table.SinkPart {
	return &starPart{of: s, combos: make([][]combo, len(s.dims)), codes: make([][]int32, len(s.dims))}
}

// kept are the columns of the batches that facts keep.
func (s *star) kept() (out []table.SinkColumn) {
	for _, f := range s.fields {
		if f.dim < 0 {
			out = append(out, f.column)
		}
	}
	return out
}

// Encode implements table.SinkPart.
func (p *starPart) Encode(b *table.Batch) {
	p.text, p.ends = p.text[:0], p.ends[:0]
	kept := p.of.kept()
	known := make([]map[string]int32, len(p.of.dims))
	for i := range p.of.dims {
		known[i], p.combos[i], p.codes[i] = map[string]int32{}, p.combos[i][:0], p.codes[i][:0]
	}
	var name []byte
	for row, slot := range b.Delivered {
		p.text = appendRow(p.text, b, kept, row, slot)
		p.ends = append(p.ends, len(p.text))
		for i, d := range p.of.dims {
			name = name[:0]
			for _, c := range d.columns {
				name = append(b.AppendText(name, &b.Columns[c.Index], row, slot), 0)
			}
			code, again := known[i][string(name)]
			if !again {
				code = int32(len(p.combos[i]))
				known[i][string(name)] = code
				one := combo{values: strings.Split(string(name[:len(name)-1]), "\x00")}
				if b.Where != nil {
					one.where = b.Where(row, slot)
				}
				p.combos[i] = append(p.combos[i], one)
			}
			p.codes[i] = append(p.codes[i], code)
		}
	}
}

// Put implements table.SinkPart.
func (p *starPart) Put() error {
	s := p.of
	ids := make([][]int, len(s.dims)) // by dimension and combo
	for i, d := range s.dims {
		for k := range p.combos[i] {
			ids[i] = append(ids[i], d.id(&p.combos[i][k], &s.problems))
		}
		for _, code := range p.codes[i] {
			if ids[i][code] == 0 {
				d.unknown++
			}
		}
	}
	from := 0
	for row, end := range p.ends {
		s.addFact(p.text[from:end], func(dim int) int { return ids[dim][p.codes[dim][row]] })
		from = end
	}
	s.factPart.Encode(s.rows.Batch())
	s.rows.Clear()
	return s.factPart.Put()
}

// addFact adds a row of the facts.
func (s *star) addFact(row []byte, id func(dim int) int) {
	for i, f := range s.fields {
		if f.dim >= 0 {
			s.rows.Number(i, value.NewDecimal(int64(id(f.dim)), 0))
			continue
		}
		var text []byte
		text, row = cutCell(row)
		setCell(s.rows, i, f.column.Numeric(), text)
	}
	s.rows.EndRow()
}

// End implements table.Sink.
func (s *star) End() (out []table.Written, err error) {
	if len(s.problems) > 0 {
		return nil, s.problems
	}
	facts := s.sinks
	s.sinks = nil
	for _, d := range s.dims {
		to, name := s.target(d.name)
		sink, err := s.sink(to, name)
		if err != nil {
			s.sinks = append(s.sinks, facts...)
			return nil, err
		}
		s.sinks = append(s.sinks, sink)
		rows, err := d.write(sink, s.Plan)
		if err != nil {
			s.sinks = append(s.sinks, facts...)
			return nil, err
		}
		written, err := sink.End()
		if err != nil {
			s.sinks = append(s.sinks, facts...)
			return nil, err
		}
		out = append(out, s.named(written, to, name, rows)...)
		s.remarks = append(s.remarks, d.remarks()...)
	}
	s.sinks = append(s.sinks, facts...)
	written, err := s.fact.End()
	if err != nil {
		return nil, err
	}
	to, name := s.target(s.of.Star.Fact)
	return append(s.named(written, to, name, -1), out...), nil
}

// named says of what was written which table it is.
func (s *star) named(written []table.Written, to, name string, rows int) []table.Written {
	for i := range written {
		if written[i].Rows < 0 {
			written[i].Rows = rows
		}
		if written[i].To = to; name != "" {
			written[i].To = plan.Shown(s.of.To) + "#" + name
		}
	}
	return written
}

// Remarks implements table.Remarking.
func (s *star) Remarks() []string {
	out := slices.Clone(s.remarks)
	for _, sink := range s.sinks {
		out = append(out, table.RemarksOf(sink)...)
	}
	return out
}

// Publish implements table.Sink.
func (s *star) Publish() error {
	for i, sink := range s.sinks {
		if err := sink.Publish(); err != nil {
			if i > 0 && !plan.IsAddress(s.to) {
				return fmt.Errorf("%w (%d other tables of %s are new already)", err, i, plan.Shown(s.of.To))
			}
			return err
		}
		s.sinks[i] = published{sink}
	}
	return nil
}

// Abandon implements table.Sink.
func (s *star) Abandon() {
	for _, sink := range s.sinks {
		sink.Abandon()
	}
}
