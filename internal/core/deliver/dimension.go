package deliver

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strconv"
	"strings"

	"umbau/internal/core/finished"
	"umbau/internal/core/key"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// dimension is a table with a line for each value of a column, and an id for each line.
type dimension struct {
	name     string
	from     []string           // columns of the fact table
	columns  []table.SinkColumn // the same in the batches
	header   []table.SinkColumn // of the dimension, its id aside
	members  map[string]*member // by the first value
	order    []*member          // by id, from 1; those that there were first
	most     int                // the greatest id
	unknown  int                // fact rows with none
	changed  []string
	calendar bool
	days     bool
}

// member is a line of a dimension.
type member struct {
	id     int
	values []string
	seen   bool // in this build
	where  place.Place
}

// none is what the unknown member has for texts.
const none = "(none)"

// id is the id of some values, given to them when they are new.
func (d *dimension) id(c *combo, problems *place.List) int {
	first := c.values[0]
	if first == "" {
		return 0
	}
	m := d.members[first]
	switch {
	case m == nil:
		m = &member{id: d.most + 1, values: c.values, where: c.where}
		if d.calendar {
			m.id = calendarID(first)
		}
		d.most = max(d.most, m.id)
		d.members[first] = m
		d.order = append(d.order, m)
	case d.calendar, slices.Equal(m.values, c.values):
	case !m.seen: // the line follows
		d.changed = append(d.changed, fmt.Sprintf("%s %s: %s, was %s", d.name, first, strings.Join(c.values[1:], " | "),
			strings.Join(m.values[1:], " | ")))
		m.values, m.where = c.values, c.where
	default:
		d.differ(m, c, problems)
	}
	m.seen = true
	return m.id
}

// differ reports a value with two values of another column.
func (d *dimension) differ(m *member, c *combo, problems *place.List) {
	for i := range c.values[1:] {
		if m.values[i+1] == c.values[i+1] {
			continue
		}
		for _, one := range []struct {
			at   place.Place
			text string
		}{{m.where, m.values[i+1]}, {c.where, c.values[i+1]}} {
			p := place.At(one.at, "several values", "dimension %s: %s does not follow from %s", d.name, d.from[i+1], d.from[0]).ByRule()
			p.Texts = []string{fmt.Sprintf("%s has %q", c.values[0], one.text)}
			p.Advice = "mend it in the extracts, or by a book or a lookup; or leave the column out of the dimension"
			problems.Add(p)
		}
	}
}

// readExisting reads the dimension that is there, whose ids stay.
func (d *dimension) readExisting(b *builder, to, name string) error {
	shown, file := to, to
	if name != "" {
		shown, file = plan.Shown(b.of.To)+"#"+name, to+"#"+name
		if !b.Plan.Formats.Exists(b.at(to), name) {
			return nil
		}
	} else if _, err := os.Stat(b.at(to)); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	of := &plan.Plan{Formats: b.Plan.Formats}
	for _, c := range d.header {
		kind, _ := plan.KindNamed(c.Is)
		of.Columns = append(of.Columns, &plan.Column{Name: c.Name, Kind: kind, Decimals: c.Decimals, Kept: true})
	}
	t, err := finished.Open(context.Background(), b.at(file), finished.Options{Formats: b.Plan.Formats, Workers: 1, Of: of})
	if err != nil {
		return err
	}
	defer t.Close()
	if !d.fits(t) {
		p := place.At(place.Place{File: shown}, "output", "what is there is not the dimension %s of this plan: it has %s", d.name,
			place.Shorten(headersOf(t)))
		p.Plan, p.Advice = b.of.Pos, "deliver to another place, or move it away"
		return place.List{p}
	}
	r := &existing{of: d, view: t.View()}
	for _, h := range append([]string{plan.IDColumn(d.name)}, d.headers()...) {
		i, err := r.view.Column("{" + h + "}")
		if err != nil {
			return err
		}
		r.columns = append(r.columns, i)
	}
	if problems := r.view.Run(context.Background(), r); len(problems) > 0 {
		return problems
	}
	return r.take()
}

// at is where a file of the plan is; the address of a database stays one.
func (b *builder) at(to string) string {
	if plan.IsAddress(to) {
		return b.Plan.AddressAt(to)
	}
	return b.Plan.At(to)
}

func (d *dimension) headers() (out []string) {
	for _, c := range d.header {
		out = append(out, c.Name)
	}
	return out
}

func headersOf(t *finished.Table) string {
	var out []string
	for _, c := range t.Columns {
		out = append(out, c.Name)
	}
	return strings.Join(out, ", ")
}

// fits reports whether a table has the columns of the dimension.
func (d *dimension) fits(t *finished.Table) bool {
	want := append([]string{plan.IDColumn(d.name)}, d.headers()...)
	if len(t.Columns) != len(want) {
		return false
	}
	for i, c := range t.Columns {
		if !key.Same(c.Name, want[i]) {
			return false
		}
	}
	return true
}

// existing is the keeper of the lines of a dimension that is there.
type existing struct {
	of      *dimension
	view    *finished.View
	columns []int
	lines   [][]string
}

type existingPart struct {
	of    *existing
	lines [][]string
}

// Part implements pass.Keeper.
func (k *existing) Part() pass.Part { return &existingPart{of: k} }

// See implements pass.Part.
func (p *existingPart) See(b *pass.Block) {
	p.lines = nil
	for row := range b.Batch.Rows {
		var line []string
		for _, ci := range p.of.columns {
			line = append(line, string(b.Batch.AppendText(nil, &b.Batch.Columns[ci], row, 0)))
		}
		p.lines = append(p.lines, line)
	}
}

// Take implements pass.Part.
func (p *existingPart) Take() { p.of.lines = append(p.of.lines, p.lines...) }

// take gives the lines to the dimension.
func (k *existing) take() error {
	d := k.of
	for _, line := range k.lines {
		id, err := strconv.Atoi(line[0])
		if err != nil || id < 0 {
			return fmt.Errorf("%s has an id that is no whole number: %q", d.name, line[0])
		}
		if id == 0 {
			continue
		}
		m := &member{id: id, values: line[1:]}
		if d.calendar { // by its month or day
			m.values = line[1 : 2+boolInt(d.days)]
			m.values = m.values[len(m.values)-1:]
		}
		d.members[m.values[0]] = m
		d.order, d.most = append(d.order, m), max(d.most, id)
	}
	return nil
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// write writes the dimension into a sink, which is not begun yet, and says how many lines.
func (d *dimension) write(sink table.Sink, p *plan.Plan) (rows int, err error) {
	columns := []table.SinkColumn{{Name: plan.IDColumn(d.name), Is: "whole", Decimals: -1, Key: true}}
	numeric := []bool{true}
	for _, c := range d.header {
		c.Index, c.Key = len(columns), false
		columns, numeric = append(columns, c), append(numeric, c.Numeric())
	}
	if err := sink.Begin(columns); err != nil {
		return 0, err
	}
	part, b := sink.Part(), table.NewBuilder(numeric)
	line := func(id int, values []string) error {
		b.Number(0, value.NewDecimal(int64(id), 0))
		for i, v := range values {
			setCell(b, i+1, columns[i+1].Numeric(), []byte(v))
		}
		b.EndRow()
		if rows++; rows%atOnce > 0 {
			return nil
		}
		part.Encode(b.Batch())
		b.Clear()
		return part.Put()
	}
	unknown := make([]string, len(d.header))
	for i, c := range d.header {
		if c.Is == "text" || c.Is == "name" {
			unknown[i] = none
		}
	}
	if err := line(0, unknown); err != nil {
		return 0, err
	}
	if d.calendar {
		err = d.writeCalendar(p.Calendar, line)
	} else {
		slices.SortFunc(d.order, func(x, y *member) int { return x.id - y.id })
		for _, m := range d.order {
			if err = line(m.id, m.values); err != nil {
				break
			}
		}
	}
	if err != nil {
		return 0, err
	}
	part.Encode(b.Batch())
	return rows, part.Put()
}

// mostChanged is how many lines that follow their values a remark names.
const mostChanged = 10

func (d *dimension) remarks() (out []string) {
	if d.unknown > 0 {
		out = append(out, fmt.Sprintf("%s: fact rows without %s, which have the id 0: %d", d.name, d.from[0], d.unknown))
	}
	for i, text := range d.changed {
		if i == mostChanged {
			out = append(out, fmt.Sprintf("%s: %d more lines have changed", d.name, len(d.changed)-i))
			break
		}
		out = append(out, "the line changed of "+text)
	}
	return out
}
