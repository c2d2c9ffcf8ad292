package fact_test

import (
	"fmt"
	"slices"

	"umbau/internal/core/formula"
	"umbau/internal/core/key"
	"umbau/internal/core/plan"
	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// oneRow is a row that is used, on its way to fact rows.
type oneRow struct {
	*second
	r       *reading
	i       int // of the sheet
	row     []cell
	heading string
	last    map[string]*val                // the values above, by column and slot
	figure  func(ci, slot int) (cell, int) // of widen: the cell of a column, and its line
	facts   []*factRow
	foreign map[*val]string // the currency that a cell names
	made    []int
	early   map[*factRow][]int // the columns whose currency was not known yet where a fact row was filtered
}

// row makes the fact rows of a row that is used.
func (s *second) row(r *reading, i int, row []cell, heading string, last map[string]*val, figure func(ci, slot int) (cell, int)) {
	o := &oneRow{second: s, r: r, i: i, row: row, heading: heading, last: last, figure: figure, foreign: map[*val]string{},
		early: map[*factRow][]int{}}
	for _, sl := range r.slots {
		o.facts = append(o.facts, &factRow{line: i + 1, slot: sl.header, row: r.s.rows[i], x: r, vals: make([]*val, len(s.p.Columns)),
			column: -1})
	}
	for ci := range s.p.Columns {
		o.read(ci)
	}
	r.facts = append(r.facts, o.facts...)
	o.skip()
	o.above()
	s.make(r, o.made, o.facts, o.foreign)
	o.filter()
	for ci := range s.p.Columns {
		if r.source[ci].from != "made" {
			o.each(ci, func(_ int, v *val) { o.settle(ci, v) })
			s.takeFirsts(ci, o.facts)
		}
	}
	s.make(r, o.made, o.facts, o.foreign)
	for k, ci := range o.made {
		o.each(ci, func(_ int, v *val) {
			if r.read[ci] != nil && v.read != nil {
				r.read[ci].Add(r.read[ci], rational(*v.read))
			}
			o.settle(ci, v)
		})
		s.takeFirsts(ci, o.facts)
		s.make(r, o.made[k+1:], o.facts, o.foreign)
	}
	for _, ci := range o.made {
		o.each(ci, func(_ int, v *val) { r.vals = append(r.vals, v) })
	}
	for _, ci := range r.foreign {
		s.mixed = s.mixed || s.currency[ci] == ""
	}
	s.decide(r, o.facts)
}

// read reads the values of a column.
func (o *oneRow) read(ci int) {
	switch src := o.r.source[ci]; src.from {
	case "label":
		o.fill(ci, &val{line: o.i + 1, header: o.r.header[src.index]}, o.row[src.index], o.facts)
	case "figure":
		if o.r.cell >= 0 {
			x, line := o.figure(ci, 0)
			o.fill(ci, &val{line: line, header: o.r.header[o.r.cell]}, x, o.facts)
			return
		}
		for k, sl := range o.r.slots {
			x, line := o.figure(ci, k)
			o.fill(ci, &val{line: line, header: sl.header}, x, o.facts[k:k+1])
		}
	case "cell":
		for k, sl := range o.r.slots {
			v := &val{line: o.i + 1, header: sl.header}
			x := cell{}
			j, there := sl.cells[ci]
			if there {
				x, v.header = o.row[j], o.r.header[j]
			}
			o.fill(ci, v, x, o.facts[k:k+1])
			v.fixed = v.fixed && there
		}
	case "section":
		v := &val{line: o.i + 1, raw: o.heading}
		o.readText(o.r, ci, v, true)
		o.add(ci, v, o.facts)
	case "piece":
		for k, sl := range o.r.slots {
			v := &val{raw: value.TrimText(sl.pieces[o.p.Columns[ci].Name]), header: sl.header}
			o.constant(ci, v, o.r.e.Reading, o.facts[k:k+1])
		}
	case "made":
		o.made = append(o.made, ci)
	default:
		o.constant(ci, &val{raw: value.TrimText(src.text), absent: src.from == ""}, value.Default, o.facts)
	}
}

// add gives fact rows a value.
func (o *oneRow) add(ci int, v *val, own []*factRow) {
	v.facts = append(v.facts, own...)
	for _, f := range own {
		f.vals[ci] = v
	}
	o.r.vals = append(o.r.vals, v)
}

// fill reads a cell.
func (o *oneRow) fill(ci int, v *val, c cell, own []*factRow) {
	v.raw, v.cells = c.trimmed(), true
	if c.kind == table.NumberCell {
		v.stored = v.raw
	}
	if fix, is := o.fixes[fmt.Sprintf("%s|%s|%d|%s", o.r.s.file, o.r.s.name, v.line, key.Of(v.header))]; is {
		v.fixed, v.was = true, fix[0]
	}
	if !o.p.Columns[ci].Kind.Numeric() {
		o.readText(o.r, ci, v, true)
		o.add(ci, v, own)
		return
	}
	reading, currency := o.r.e.Reading, ""
	if c.text != "" && c.kind == table.NumberCell {
		reading = value.Default
	}
	if o.readNumber(ci, v, reading, &currency); currency != "" {
		o.foreign[v] = currency
	}
	if v.read != nil && o.r.read[ci] != nil {
		o.r.read[ci].Add(o.r.read[ci], rational(*v.read))
	}
	o.add(ci, v, own)
}

// constant reads what stands in no cell of the row.
func (o *oneRow) constant(ci int, v *val, reading value.Reading, own []*factRow) {
	currency := ""
	switch {
	case v.raw == "":
	case o.p.Columns[ci].Kind.Numeric():
		o.readNumber(ci, v, reading, &currency)
	default:
		o.readText(o.r, ci, v, false)
	}
	o.add(ci, v, own)
}

// skip passes over the fact rows of blank wide cells.
func (o *oneRow) skip() {
	if o.r.e.Unpivot == nil || !o.r.e.Unpivot.SkipBlanks {
		return
	}
	for _, f := range o.facts {
		blank := true
		for ci := range o.r.source {
			blank = blank && (!o.r.wide(ci) || f.vals[ci].gap == value.Blank)
		}
		if blank {
			f.fate = "skipped"
		}
	}
}

// filter passes over the fact rows that are not wanted, one after another: the first that is may say the currency of a measure, and
// what is in another is unclear from there on.
func (o *oneRow) filter() {
	only := o.p.Rows.Only
	if only == nil {
		return
	}
	for _, f := range o.facts {
		if f.fate != "" {
			continue
		}
		for ci, v := range f.vals {
			if o.currency[ci] != "" && o.r.source[ci].from != "made" {
				o.settle(ci, v)
			}
		}
		o.makeKnown()
		v := o.run(only, f)
		if v.States[0] == formula.Empty || v.States[0] == formula.Valid && !v.Flags[0] {
			f.fate = "filtered"
		}
		for ci, v := range f.vals {
			cur := o.foreign[v]
			switch {
			case o.currency[ci] != "" || cur == "":
			case f.fate == "":
				o.currency[ci] = cur
			default:
				o.early[f] = append(o.early[f], ci)
			}
		}
	}
}

// makeKnown makes columns of others, in the currencies that are known.
func (o *oneRow) makeKnown() {
	o.make(o.r, o.made, o.facts, o.foreign)
	for k, ci := range o.made {
		o.each(ci, func(_ int, v *val) {
			if cur := o.foreign[v]; cur != "" && o.currency[ci] != "" && cur != o.currency[ci] { // it is made again, and read then
				v.num, v.read, v.gap = nil, nil, value.Unclear
			}
		})
		o.make(o.r, o.made[k+1:], o.facts, o.foreign)
	}
}

// settle takes the first currency of a column as its own; a number in another is unclear.
func (o *oneRow) settle(ci int, v *val) {
	cur, named := o.foreign[v]
	if !named {
		return
	}
	passed := !slices.ContainsFunc(v.facts, func(f *factRow) bool { return f.fate != "skipped" && f.fate != "filtered" })
	if passed && slices.ContainsFunc(v.facts, func(f *factRow) bool { return slices.Contains(o.early[f], ci) }) {
		return
	}
	if o.currency[ci] == "" && !passed {
		o.currency[ci] = cur
	}
	if o.currency[ci] != "" && cur != o.currency[ci] {
		if o.r.read[ci] != nil && v.read != nil {
			o.r.read[ci].Sub(o.r.read[ci], rational(*v.read))
		}
		v.num, v.read, v.gap = nil, nil, value.Unclear
	}
	delete(o.foreign, v)
}

// each visits the values of a column, each once.
func (o *oneRow) each(ci int, do func(k int, v *val)) {
	var before *val
	for k, f := range o.facts {
		if v := f.vals[ci]; v != before {
			do(k, v)
			before = v
		}
	}
}

// above puts the values above in the place of gaps.
func (o *oneRow) above() {
	for ci, c := range o.p.Columns {
		from := o.r.source[ci].from
		if !slices.ContainsFunc(c.Gaps[:], func(g plan.Rule) bool { return g.Remedy == plan.Above }) ||
			!slices.Contains([]string{"label", "figure", "cell"}, from) {
			continue
		}
		o.each(ci, func(k int, v *val) {
			o.settle(ci, v)
			at := fmt.Sprint(ci, "|", k)
			switch l := o.last[at]; {
			case v.gap == value.NoGap:
				copied := *v
				o.last[at] = &copied
			case c.Gaps[v.gap].Remedy == plan.Above && l != nil && (!o.r.wide(ci) || v.facts[0].fate != "skipped"):
				v.kind, v.gap = v.gap.String(), value.NoGap
				v.text, v.num, v.first, v.unknown, v.how, v.name = l.text, l.num, l.first, l.unknown, l.how, l.name
				if v.name {
					v.raw = l.raw
				}
			}
		})
	}
}

// wide reports whether a column has a cell in each slot.
func (r *reading) wide(ci int) bool {
	from := r.source[ci].from
	return from == "cell" || from == "figure" && r.cell < 0
}
