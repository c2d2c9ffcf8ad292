package build_test

import (
	"fmt"
	"math/big"
	"os"
	"slices"
	"strings"

	"umbau/internal/core/formula"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// readNumber reads a text as a column of numbers wants it.
func (s *second) readNumber(ci int, v *val, reading value.Reading, currency *string) {
	c := s.p.Columns[ci]
	text := v.raw
	if text == "" {
		v.gap = value.Blank
		return
	}
	if c.Words.Figures() && c.Words.TextGap(text) == value.Null {
		v.gap = value.Null
		return
	}
	if c.Read != nil {
		piece, ok := c.Read.Piece(text)
		if !ok {
			v.gap = c.Words.GapOf(text)
			return
		}
		text = piece
	}
	d, cur, ok := reading.Number([]byte(text))
	switch {
	case !ok:
		v.gap = c.Words.GapOf(text)
	case c.Kind == plan.Whole && d.Shorten().Places() > 0:
		v.gap = value.Unclear
	default:
		d = d.Shorten()
		v.num, v.read, *currency = &d, &d, cur
	}
}

// readText reads a text as a column of texts wants it.
func (s *second) readText(r *reading, ci int, v *val, gapped bool) {
	c := s.p.Columns[ci]
	out, ok := v.raw, true
	if gapped {
		v.gap = c.Words.TextGap(v.raw)
	}
	if v.gap == value.NoGap && c.Read != nil {
		out, ok = c.Read.Piece(v.raw)
	}
	if v.gap == value.NoGap && ok {
		out, ok = c.Kind.Read(&r.e.Reading, out)
	}
	if !ok {
		if v.gap = value.Text; c.Kind != plan.Text && c.Kind != plan.Name {
			v.gap = c.Words.GapOf(v.raw)
		}
	}
	if v.gap != value.NoGap {
		return
	}
	v.text = out
	if c.Kind != plan.Name {
		return
	}
	v.name, v.raw = true, out
	if b := s.books[ci]; b != nil {
		if standard, how, ok := b.Find(out); ok {
			v.text, v.how = standard, how
			return
		}
		v.how = names.Unknown
	}
	switch {
	case s.books[ci] == nil || c.Unknown.Remedy == plan.Keep:
		v.first = true
	case c.Unknown.Remedy == plan.Put:
		v.text = c.Unknown.Text
	default:
		v.unknown, v.text = true, ""
	}
}

// row makes the fact rows of a row that is used.
func (s *second) row(r *reading, i int, row []cell, heading string, last map[string]*val, figure func(int) (cell, int)) {
	var facts []*fact
	for _, sl := range r.slots {
		facts = append(facts, &fact{line: i + 1, slot: sl.header, row: r.s.rows[i], x: r, vals: make([]*val, len(s.p.Columns)), column: -1})
	}
	foreign := map[*val]string{} // the currency that a cell names
	add := func(ci int, v *val, own []*fact) {
		v.facts = append(v.facts, own...)
		for _, f := range own {
			f.vals[ci] = v
		}
		r.vals = append(r.vals, v)
	}
	fill := func(ci int, v *val, c cell, own []*fact) {
		v.raw, v.cells = c.trimmed(), true
		if fix, is := s.fixes[fmt.Sprintf("%s|%s|%d|%s", r.s.file, r.s.name, v.line, key.Of(v.header))]; is {
			v.fixed, v.was = true, fix[0]
		}
		if s.p.Columns[ci].Kind.Numeric() {
			reading, currency := r.e.Reading, ""
			if c.text != "" && c.kind == 1 {
				reading = value.Default
			}
			if s.readNumber(ci, v, reading, &currency); currency != "" {
				foreign[v] = currency
			}
			if v.read != nil && r.read[ci] != nil {
				r.read[ci].Add(r.read[ci], rational(*v.read))
			}
		} else {
			s.readText(r, ci, v, true)
		}
		add(ci, v, own)
	}
	var made []int
	for ci, c := range s.p.Columns {
		switch src := r.source[ci]; src.from {
		case "label":
			fill(ci, &val{line: i + 1, header: r.header[src.index]}, row[src.index], facts)
		case "figure":
			x, line := figure(ci)
			fill(ci, &val{line: line, header: r.header[r.cell]}, x, facts)
		case "cell":
			for k, sl := range r.slots {
				v := &val{line: i + 1, header: sl.header}
				x := cell{}
				j, there := sl.cells[ci]
				if there {
					x, v.header = row[j], r.header[j]
				}
				fill(ci, v, x, facts[k:k+1])
				v.fixed = v.fixed && there
			}
		case "section":
			v := &val{line: i + 1, raw: heading}
			s.readText(r, ci, v, true)
			add(ci, v, facts)
		case "made":
			made = append(made, ci)
		default:
			own := [][]*fact{facts}
			if src.from == "piece" {
				own = nil
				for k := range facts {
					own = append(own, facts[k:k+1])
				}
			}
			for k := range own {
				v := &val{raw: value.TrimText(src.text), absent: src.from == ""}
				if src.from == "piece" {
					v.raw, v.header = value.TrimText(r.slots[k].pieces[c.Name]), r.slots[k].header
				}
				if v.raw != "" && c.Kind.Numeric() {
					reading, currency := value.Default, ""
					if src.from == "piece" {
						reading = r.e.Reading
					}
					s.readNumber(ci, v, reading, &currency)
				} else if v.raw != "" {
					s.readText(r, ci, v, false)
				}
				add(ci, v, own[k])
			}
		}
	}
	r.facts = append(r.facts, facts...)
	if r.e.Unpivot != nil && r.e.Unpivot.SkipBlanks {
		for _, f := range facts {
			blank := true
			for ci, src := range r.source {
				blank = blank && (src.from != "cell" || f.vals[ci].gap == value.Blank)
			}
			if blank {
				f.fate = "skipped"
			}
		}
	}
	settle := func(ci int, v *val) {
		cur, named := foreign[v]
		if !named {
			return
		}
		passed := !slices.ContainsFunc(v.facts, func(f *fact) bool { return f.fate != "skipped" && f.fate != "filtered" })
		if s.currency[ci] == "" && !passed {
			s.currency[ci] = cur
		}
		if s.currency[ci] != "" && cur != s.currency[ci] {
			if r.read[ci] != nil && v.read != nil {
				r.read[ci].Sub(r.read[ci], rational(*v.read))
			}
			v.num, v.read, v.gap = nil, nil, value.Unclear
		}
		delete(foreign, v)
	}
	each := func(ci int, do func(k int, v *val)) {
		var before *val
		for k, f := range facts {
			if v := f.vals[ci]; v != before {
				do(k, v)
				before = v
			}
		}
	}
	for ci, c := range s.p.Columns {
		if !slices.ContainsFunc(c.Gaps[:], func(g plan.Rule) bool { return g.Remedy == plan.Above }) || !slices.Contains([]string{"label", "figure", "cell"}, r.source[ci].from) {
			continue
		}
		each(ci, func(k int, v *val) {
			settle(ci, v)
			at := fmt.Sprint(ci, "|", k)
			switch l := last[at]; {
			case v.gap == value.NoGap:
				copied := *v
				last[at] = &copied
			case c.Gaps[v.gap].Remedy == plan.Above && l != nil && (r.source[ci].from != "cell" || v.facts[0].fate != "skipped"):
				v.kind, v.gap = v.gap.String(), value.NoGap
				v.text, v.num, v.first, v.unknown, v.how, v.name = l.text, l.num, l.first, l.unknown, l.how, l.name
				if v.name {
					v.raw = l.raw
				}
			}
		})
	}
	s.make(r, made, facts, foreign)
	if only := s.p.Rows.Only; only != nil {
		for _, f := range facts {
			if v := s.run(only, f); f.fate == "" && (v.States[0] == formula.Empty || v.States[0] == formula.Valid && !v.Flags[0]) {
				f.fate = "filtered"
			}
		}
	}
	for ci := range s.p.Columns {
		if r.source[ci].from == "made" {
			continue
		}
		each(ci, func(_ int, v *val) { settle(ci, v) })
		s.takeFirsts(ci, facts)
	}
	s.make(r, made, facts, foreign)
	for _, ci := range made {
		each(ci, func(_ int, v *val) {
			if r.read[ci] != nil && v.read != nil {
				r.read[ci].Add(r.read[ci], rational(*v.read))
			}
			settle(ci, v)
		})
		s.takeFirsts(ci, facts)
		s.make(r, made[slices.Index(made, ci)+1:], facts, foreign)
	}
	for ci := range made {
		each(made[ci], func(_ int, v *val) { r.vals = append(r.vals, v) })
	}
	s.decide(r, facts)
}

// takeFirsts decides names by their first spelling.
func (s *second) takeFirsts(ci int, facts []*fact) {
	for _, f := range facts {
		v := f.vals[ci]
		if !v.first || f.fate == "skipped" || f.fate == "filtered" {
			continue
		}
		v.first = false
		k := key.Of(v.raw)
		if _, known := s.firsts[ci][k]; !known {
			s.firsts[ci][k] = v.raw
		}
		v.text = s.firsts[ci][k]
		if s.books[ci] == nil {
			if v.how = names.Spelling; v.text == v.raw {
				v.how = names.Same
			}
		}
	}
}

// make works out the columns that are made of others, each value by itself.
func (s *second) make(r *reading, made []int, facts []*fact, foreign map[*val]string) {
	for _, ci := range made {
		c := s.p.Columns[ci]
		var before *val
		for k, f := range facts {
			if c.From != "" && k > 0 && before != nil && f.vals[s.index(c.From)] == facts[k-1].vals[s.index(c.From)] {
				f.vals[ci] = before
				before.facts = append(before.facts, f)
				continue
			}
			v := &val{facts: []*fact{f}}
			f.vals[ci], before = v, v
			if c.Formula != nil {
				out := s.run(c.Formula, f)
				switch out.States[0] {
				case formula.Valid:
					d := out.Numbers[0].Round(15).Shorten()
					if c.Decimals >= 0 {
						d, _ = out.Numbers[0].Rescale(c.Decimals)
					}
					v.num = &d
				case formula.Open:
					v.open = true
				}
				continue
			}
			from := f.vals[s.index(c.From)]
			v.raw = value.TrimText(s.delivered(s.index(c.From), from))
			v.line, v.header = from.line, from.header
			switch {
			case v.raw == "":
			case c.Kind.Numeric():
				currency := ""
				if s.readNumber(ci, v, r.e.Reading, &currency); currency != "" {
					foreign[v] = currency
				}
			default:
				s.readText(r, ci, v, c.Kind.Dated() && s.p.OfTexts(c) && from.cells)
			}
		}
	}
}

func (s *second) index(name string) int {
	return slices.IndexFunc(s.p.Columns, func(c *plan.Column) bool { return c.Name == name })
}

// delivered is what a column will have.
func (s *second) delivered(ci int, v *val) string {
	c := s.p.Columns[ci]
	if v.gap != value.NoGap {
		if rule := c.Gaps[v.gap]; rule.Remedy == plan.Put {
			if c.Kind.Numeric() {
				return rule.Number.String()
			}
			return rule.Text
		}
		return ""
	}
	switch {
	case c.Kind.Numeric() && v.num == nil:
		return ""
	case c.Kind.Numeric() && c.Decimals >= 0:
		d, _ := v.num.Rescale(c.Decimals)
		return d.String()
	case c.Kind.Numeric():
		return v.num.Shorten().String()
	case v.first:
		return v.raw
	case c.Case == plan.Upper:
		return strings.ToUpper(v.text)
	}
	return v.text
}

// run works a formula out in one fact row.
func (s *second) run(f *formula.Formula, of *fact) *formula.Vector {
	var inputs []*formula.Vector
	for _, name := range f.Columns {
		ci := s.index(name)
		c, v, in := s.p.Columns[ci], of.final()[ci], &formula.Vector{}
		in.Resize(1, c.Kind.Type())
		inputs = append(inputs, in)
		text := s.delivered(ci, v)
		if v.unknown || v.first {
			text = v.raw
		}
		switch {
		case v.open, v.gap != value.NoGap && c.Gaps[v.gap].Remedy != plan.Put && c.Gaps[v.gap].Remedy != plan.Leave:
			in.States[0] = formula.Open
		case text == "":
			in.States[0] = formula.Empty
		case c.Kind.Numeric():
			in.Numbers[0], _, _ = value.English.Number([]byte(text))
		case c.Kind == plan.Year:
			in.Numbers[0] = formula.YearNumber(text)
		default:
			in.Texts[0] = text
		}
	}
	return f.Run(s.machine, 1, inputs)
}

func (f *fact) there() bool { return f.fate == "" || f.fate == "summed" }

func (v *val) there() bool { return slices.ContainsFunc(v.facts, (*fact).there) }

// decide applies the rules to the fact rows of a row, column by column.
func (s *second) decide(r *reading, facts []*fact) {
	for ci, c := range s.p.Columns {
		var done []*val
		for _, f := range facts {
			v := f.vals[ci]
			if slices.Contains(done, v) || !v.there() {
				continue
			}
			done = append(done, v)
			remedy := plan.Put
			switch {
			case v.gap != value.NoGap:
				remedy = c.Gaps[v.gap].Remedy
			case v.unknown:
				remedy = c.Unknown.Remedy
			default:
				continue
			}
			switch remedy {
			case plan.Put:
				if v.gap != value.NoGap {
					v.kind = v.gap.String()
				}
			case plan.Leave:
				if v.gap != value.Blank {
					v.kind = v.gap.String()
				}
			case plan.Drop, plan.Hold:
				for _, f := range v.facts {
					if f.fate == "" {
						f.column, f.fate, f.reason = ci, "dropped", ""
						if remedy == plan.Hold {
							f.fate, f.reason = "held", v.gap.String()
							if v.unknown {
								f.reason = "unknown name " + v.raw
							}
						}
					}
				}
			default:
				n := 1
				if !v.cells && r.source[ci].from != "made" && r.source[ci].from != "section" {
					n = 0
					for _, f := range v.facts {
						if f.there() {
							n++
						}
					}
				}
				what := "unknown name"
				if v.gap != value.NoGap {
					what = v.gap.String() + " gap"
				}
				s.stop(what, c.Name, n)
				if os.Getenv("UMBAU_KEEP") != "" {
					println(what, c.Name, r.s.file, r.s.name, facts[0].line, len(v.facts))
				}
				for _, f := range v.facts {
					f.moved = true
				}
			}
		}
	}
	for _, f := range facts {
		if !s.p.Rows.DropZeros || f.fate != "" || len(r.read) == 0 {
			continue
		}
		zero := true
		for ci := range s.p.Columns {
			if r.read[ci] != nil {
				v := f.vals[ci]
				text := s.delivered(ci, v)
				undecided := v.gap != value.NoGap && c(s, ci, v) != plan.Put && c(s, ci, v) != plan.Leave
				zero = zero && !undecided && (text == "" || strings.Trim(text, "-0.") == "")
			}
		}
		if zero {
			f.fate = "zero"
		}
	}
}

func c(s *second, ci int, v *val) plan.Remedy { return s.p.Columns[ci].Gaps[v.gap].Remedy }

// finish settles rows whose grain stands again, and what must be true of every row.
func (s *second) finish() {
	var all []*fact
	for _, r := range s.readings {
		all = append(all, r.facts...)
	}
	if s.p.Rows.Grain != nil && s.p.Rows.Repeats != plan.Keep {
		s.repeats(all)
	}
	for _, m := range s.p.Rows.Must {
		for _, f := range all {
			if f.fate != "" || f.moved {
				continue
			}
			if v := s.run(m.Formula, f); v.States[0] != formula.Valid || !v.Flags[0] {
				s.stop("must", "", 1)
			}
		}
	}
	for k := range s.fixes {
		if !s.used[k] {
			s.stop("correction", "", 1)
		}
	}
}

func (s *second) repeats(all []*fact) {
	groups := map[string][]*fact{}
	var order []string
	for _, f := range all {
		if f.fate != "" || f.moved {
			continue
		}
		var k []string
		for _, name := range s.p.Rows.Grain {
			k = append(k, s.delivered(s.index(name), f.vals[s.index(name)]))
		}
		g := strings.Join(k, "\x00")
		if groups[g] == nil {
			order = append(order, g)
		}
		groups[g] = append(groups[g], f)
	}
	for _, k := range order {
		g := groups[k]
		if len(g) == 1 {
			continue
		}
		switch s.p.Rows.Repeats {
		case plan.First:
			for _, f := range g[1:] {
				f.fate = "repeated"
			}
		case plan.Last:
			for _, f := range g[:len(g)-1] {
				f.fate = "repeated"
			}
		case plan.Sum:
			s.sum(g)
		default:
			s.stop("repeated grain", "", len(g)-1)
		}
	}
}

// sum adds the measures of rows up in the first.
func (s *second) sum(g []*fact) {
	g[0].over = slices.Clone(g[0].vals)
	for ci, c := range s.p.Columns {
		if !s.p.Amount(c) {
			continue
		}
		total, any := value.Decimal{}, false
		for _, f := range g {
			if d, _, ok := value.English.Number([]byte(s.delivered(ci, f.vals[ci]))); ok {
				total, any = total.Add(d), true
			}
		}
		v := &val{facts: g[:1]}
		if any {
			v.num = &total
		}
		g[0].over[ci] = v
	}
	for _, f := range g[1:] {
		f.fate = "summed"
	}
	for ci, c := range s.p.Columns {
		if c.Formula != nil {
			out := s.run(c.Formula, g[0])
			v := &val{facts: g[:1]}
			if out.States[0] == formula.Valid {
				d := out.Numbers[0].Round(15).Shorten()
				if c.Decimals >= 0 {
					d, _ = out.Numbers[0].Rescale(c.Decimals)
				}
				v.num = &d
			}
			g[0].over[ci] = v
		}
	}
}

// outcome is all that a reading comes to, as lists of lines.
type outcome map[string][]string

// outcome puts deliveries and record together.
func (s *second) outcome() outcome {
	o := outcome{"fact": {}, "checks": s.checks, "left_out": s.leftOut}
	counted := map[string]int{}
	for _, r := range s.readings {
		for _, v := range r.vals {
			s.change(r, v)
		}
		where := r.s.file + "," + r.s.name
		tally := map[string]int{}
		for _, f := range r.facts {
			fate := f.fate
			if fate == "summed" {
				fate = "repeated"
			}
			tally[fate]++
			switch f.fate {
			case "":
				var line []string
				for ci, c := range s.p.Columns {
					if c.Kept {
						line = append(line, s.delivered(ci, f.final()[ci]))
					}
				}
				o["fact"] = append(o["fact"], strings.Join(line, "|"))
			case "held":
				o["held"] = append(o["held"], fmt.Sprintf("%s,%d,%s,%s", where, s.heldLine(f), s.p.Columns[f.column].Name, f.reason))
			case "summed":
			default:
				s.leftOut = append(s.leftOut, fmt.Sprintf("%s,%d,%s,%s", where, f.line, f.slot, f.fate))
			}
			for ci, c := range s.p.Columns {
				if v := f.vals[ci]; c.Kind == plan.Name && v.name && v.gap == value.NoGap && f.fate != "skipped" && f.fate != "filtered" {
					counted[fmt.Sprintf("%s|%s|%s|%s", c.Name, v.raw, s.delivered(ci, v), v.how)]++
				}
			}
		}
		n := func(k string) int { return r.count[k] }
		o["rows"] = append(o["rows"], fmt.Sprintf("%s,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d", where, n("read"), n("blank"), n("repeated header"), n("total"), n("footnote"), n("section"), n("same row"), n("used"),
			len(r.facts), tally["skipped"], tally["dropped"], tally["held"], tally["filtered"], tally["zero"], tally["repeated"], tally[""]))
		o["ties"] = append(o["ties"], s.accounts(r)...)
	}
	for k, n := range counted {
		o["names"] = append(o["names"], fmt.Sprintf("%s|%d", k, n))
	}
	o["left_out"], o["changes"] = s.leftOut, s.changes
	return o
}

func (s *second) heldLine(f *fact) int {
	if v := f.vals[f.column]; v.line > 0 && f.x.source[f.column].from == "figure" {
		return v.line
	}
	return f.line
}

// change lists what became of a cell of a delivered fact row.
func (s *second) change(r *reading, v *val) {
	if len(v.facts) == 0 { // nothing is wide
		return
	}
	ci := slices.IndexFunc(v.facts[0].vals, func(o *val) bool { return o == v })
	if ci < 0 || !v.there() { // summed
		return
	}
	c := s.p.Columns[ci]
	line := fmt.Sprintf("%s,%s,%d,%s,%s", r.s.file, r.s.name, v.line, v.header, c.Name)
	if v.kind != "" && c.Formula == nil {
		s.changes = append(s.changes, fmt.Sprintf("%s,%s,%s", line, v.kind, s.delivered(ci, v)))
	}
	if v.gap == value.NoGap && v.num != nil && v.read != nil && c.Decimals >= 0 && v.kind == "" && v.num.Shorten().Places() > c.Decimals {
		s.changes = append(s.changes, fmt.Sprintf("%s,rounding,%s", line, s.delivered(ci, v)))
	}
	if v.fixed {
		s.changes = append(s.changes, fmt.Sprintf("%s,correction,%s", line, s.delivered(ci, v)))
	}
}

// accounts are the amounts of each measure: read + changed = fact + held + left out.
func (s *second) accounts(r *reading) (out []string) {
	for ci, c := range s.p.Columns {
		if r.read[ci] == nil {
			continue
		}
		changed, fact, held, left := new(big.Rat), new(big.Rat), new(big.Rat), new(big.Rat)
		for _, f := range r.facts {
			v := f.vals[ci]
			read := new(big.Rat)
			if v.read != nil && v.gap == value.NoGap {
				read = rational(*v.read)
			}
			switch f.fate {
			case "", "summed":
				if d, _, ok := value.English.Number([]byte(s.delivered(ci, v))); ok {
					fact.Add(fact, rational(d))
					changed.Add(changed, rational(d))
				}
				changed.Sub(changed, read)
			case "held":
				held.Add(held, read)
			default:
				left.Add(left, read)
			}
		}
		out = append(out, fmt.Sprintf("%s|%s|%s|%s|%s|%s|%s", r.s.account(), c.Name, exact(r.read[ci]), exact(changed), exact(fact), exact(held), exact(left)))
	}
	return out
}
