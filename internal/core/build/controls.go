package build

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/tie"
	"umbau/internal/core/treat"
	"umbau/internal/core/value"
)

// control is a file of control totals and what the fact table has of each of its
// groups.
type control struct {
	tie        *plan.Control
	by         []int // columns of the fact table
	measures   []int
	groups     map[string]*controlGroup // by the keys of their values
	currencies []string                 // of the file's figures, by measure
	order      []*controlGroup          // those of the file, then those of the fact table alone
	failed     bool                     // the file could not be read
}

// controlGroup is one group: what the file says of it, and what there is.
type controlGroup struct {
	key    string
	label  string      // its values, joined
	place  place.Place // in the file; without a row where the file lacks it
	said   []value.Sum // by measure
	stated []bool
	have   []value.Sum
	held   []value.Sum
	listed bool // in the file
	rows   int  // fact rows
}

func (c *control) group(k, label string) *controlGroup {
	g := c.groups[k]
	if g == nil {
		n := len(c.measures)
		g = &controlGroup{key: k, label: label, said: make([]value.Sum, n), stated: make([]bool, n), have: make([]value.Sum, n), held: make([]value.Sum, n)}
		c.groups[k] = g
		c.order = append(c.order, g)
	}
	return g
}

// forget drops what the fact table has, for another reading of the extracts.
func (c *control) forget() {
	c.order = slices.DeleteFunc(c.order, func(g *controlGroup) bool {
		if !g.listed {
			delete(c.groups, g.key)
		}
		g.have, g.held, g.rows = make([]value.Sum, len(c.measures)), make([]value.Sum, len(c.measures)), 0
		return !g.listed
	})
}

// readControls reads the control files.
func (r *run) readControls() {
	for _, t := range r.plan.Ties {
		c := &control{tie: t, groups: map[string]*controlGroup{}}
		for _, b := range t.By {
			c.by = append(c.by, slices.Index(r.plan.Columns, r.plan.Column(b.Column)))
		}
		for _, m := range t.Measures {
			c.measures = append(c.measures, slices.Index(r.plan.Columns, r.plan.Column(m.Column)))
		}
		r.controls = append(r.controls, c)
		r.readControl(c)
	}
}

// readControl reads one control file, as an extract of a table of its own.
func (r *run) readControl(c *control) {
	p := &plan.Plan{File: r.plan.File, Entries: []*plan.Entry{c.tie.Entry}, Calendar: r.plan.Calendar}
	add := func(pair plan.Paired, ci int, kind plan.Kind) {
		own := r.plan.Columns[ci]
		col := &plan.Column{Pos: c.tie.Pos, Name: pair.Header, Kind: kind, Decimals: -1, Kept: true, Add: true, Words: own.Words}
		if pair.Header == "" {
			col.Name, col.Headers = own.Name, own.Headers
		}
		col.Gaps[value.Blank].Remedy, col.Currency = plan.Leave, own.Currency
		p.Columns = append(p.Columns, col)
	}
	for i, ci := range c.by {
		kind := r.plan.Columns[ci].Kind
		if kind == plan.Name {
			kind = plan.Text
		}
		add(c.tie.By[i], ci, kind)
		p.Columns[i].Add = false
		p.Columns[i].Gaps[value.Null].Remedy = plan.Leave
	}
	for i, ci := range c.measures {
		add(c.tie.Measures[i], ci, plan.Number)
	}
	options := r.options
	options.Workers, options.DryRun, options.Progress = 1, true, nil
	sub := &run{ctx: r.ctx, plan: p, options: options, dir: r.dir, summary: &Summary{Plan: p}, books: make([]*names.Book, len(p.Columns)), labels: r.books}
	defer sub.cleanUp()
	sub.batches = func(_ int, t *treat.Worker) { c.take(t) }
	sub.findInputs()
	if len(sub.summary.Problems) == 0 {
		sub.pipeline()
	}
	for _, problem := range sub.summary.Problems {
		if problem.Column != "" {
			problem.Column, problem.Add, problem.Advice = "", "", "mend the control file: its figures and groups must be clear; a blank figure is not compared"
		}
		problem.Plan = c.tie.Pos
		r.fail(problem)
		c.failed = true
	}
	r.summary.Inputs = append(r.summary.Inputs, sub.summary.Inputs...)
	for i := range c.measures {
		if sub.shared != nil {
			c.currencies = append(c.currencies, sub.shared.Currency(len(c.by)+i))
		}
	}
}

// take takes in the rows of a control file.
func (c *control) take(t *treat.Worker) {
	b := &t.Batch
	for at, f := range b.Fates {
		if f != table.Delivered {
			continue
		}
		var keys, labels []string
		for i := range c.by {
			text := string(b.AppendText(nil, &b.Columns[i], at, 0))
			keys, labels = append(keys, key.Of(text)), append(labels, text)
		}
		g := c.group(strings.Join(keys, "\x00"), strings.Join(labels, " | "))
		if !g.listed {
			g.listed, g.place = true, t.Program.Lineup.Place
			g.place.Row = t.Rows.Lines[t.Sorted.Used[at]]
		}
		for i := range c.measures {
			if d, ok := b.Columns[len(c.by)+i].Decimal(b.Columns[len(c.by)+i].At(at, 0, 1)); ok {
				g.said[i].Add(d)
				g.stated[i] = true
			}
		}
	}
}

// grouper adds up the fact rows of blocks by the groups of a control. Each worker
// has its own.
type grouper struct {
	control *control
	groups  map[string]*groupSums // by the values as delivered
	touched []*groupSums
	scratch []byte
}

// groupSums is what one block has of a group.
type groupSums struct {
	key, label string
	have, held []value.Sum
	rows       int
	touched    bool
}

// of returns the group of a fact row.
func (g *grouper) of(b *table.Batch, at int) *groupSums {
	g.scratch = g.scratch[:0]
	for _, ci := range g.control.by {
		g.scratch = append(b.AppendText(g.scratch, &b.Columns[ci], at/b.Slots, at%b.Slots), 0)
	}
	s := g.groups[string(g.scratch)]
	if s == nil {
		if len(g.groups) > 1<<16 { // memory stays flat, whatever comes in
			g.groups = map[string]*groupSums{}
		}
		texts := strings.Split(string(g.scratch[:len(g.scratch)-1]), "\x00")
		var keys []string
		for _, t := range texts {
			keys = append(keys, key.Of(t))
		}
		s = &groupSums{key: strings.Join(keys, "\x00"), label: strings.Join(texts, " | ")}
		g.groups[string(g.scratch)] = s
	}
	return s
}

// each visits the fact rows of a block that are delivered or held, with their
// groups, which are looked for as seldom as the levels of their columns allow.
func (g *grouper) each(b *table.Batch, visit func(at int, s *groupSums)) {
	level := table.PerExtract
	for _, ci := range g.control.by {
		switch l := b.Columns[ci].Level; {
		case l == table.PerSlot && level == table.PerRow, l == table.PerRow && level == table.PerSlot:
			level = table.PerCell
		default:
			level = max(level, l)
		}
	}
	var s *groupSums
	last := -1
	for at, f := range b.Fates {
		if f != table.Delivered && f != table.Held {
			continue
		}
		unit := at // rows of one unit are in one group
		switch level {
		case table.PerExtract:
			unit = 0
		case table.PerRow:
			unit = at / b.Slots
		}
		if unit != last {
			s, last = g.of(b, at), unit
		}
		visit(at, s)
	}
}

// add adds up a block.
func (g *grouper) add(b *table.Batch) {
	g.touched = g.touched[:0]
	slots := b.Slots
	g.each(b, func(at int, s *groupSums) {
		if !s.touched {
			n := len(g.control.measures)
			s.touched, s.rows, s.have, s.held = true, 0, make([]value.Sum, n), make([]value.Sum, n)
			g.touched = append(g.touched, s)
		}
		to := s.have
		if b.Fates[at] == table.Held {
			to = s.held
		} else {
			s.rows++
		}
		for i, ci := range g.control.measures {
			c := &b.Columns[ci]
			c.AddTo(&to[i], c.At(at/slots, at%slots, slots))
		}
	})
}

// flush hands over what the block has.
func (g *grouper) flush() []groupSums {
	var out []groupSums
	for _, s := range g.touched {
		s.touched = false
		out = append(out, *s)
	}
	return out
}

// merge takes in what a block has of the groups.
func (c *control) merge(sums []groupSums) {
	for i := range sums {
		s := &sums[i]
		g := c.group(s.key, s.label)
		g.rows += s.rows
		for m := range c.measures {
			g.have[m].Merge(&s.have[m])
			g.held[m].Merge(&s.held[m])
		}
	}
}

// broken is a figure of a control that does not agree.
type broken struct {
	control *control
	group   *controlGroup
	measure int // of the control
	check   tie.Check
}

// compareControls compares all control totals, records each, and stops where one
// does not agree.
func (r *run) compareControls() {
	if r.summary.ExitCode() == 1 {
		return
	}
	var list []broken
	for _, c := range r.controls {
		if c.failed {
			continue
		}
		r.compareCurrencies(c)
		for _, g := range c.order {
			for m := range c.measures {
				check, compared := c.check(g, m)
				if !compared {
					continue
				}
				r.summary.Checks.add(check)
				r.write(r.record[record.ChecksFile], record.AppendControl(nil, r.plan, g.place, g.label, check, g.listed))
				if check.Broken {
					list = append(list, broken{c, g, m, check})
				}
			}
		}
	}
	if len(list) > 0 {
		r.stopControls(list)
	}
}

// compareCurrencies stops where the figures of a control are in another currency than the
// measure.
func (r *run) compareCurrencies(c *control) {
	for m, theirs := range c.currencies {
		own := r.shared.Currency(c.measures[m])
		if theirs == "" || own == "" || theirs == own {
			continue
		}
		p := place.At(place.Place{File: c.tie.Entry.Files[0], Header: c.tie.Measures[m].Header}, "control total", "control totals cannot be compared: they are in %s, and %s is in %s", theirs, r.plan.Columns[c.measures[m]].Name, own).ByRule()
		p.Plan, p.Advice = c.tie.Pos, "ask for control totals in the same currency, or say the currency of the column with currency"
		r.fail(p)
	}
}

// check compares one figure; compared is false where there is nothing to compare.
func (c *control) check(g *controlGroup, m int) (check tie.Check, compared bool) {
	if g.listed && !g.stated[m] || !g.listed && g.rows == 0 {
		return check, false
	}
	check = tie.Check{Kind: tie.Control, Row: g.place.Row, Header: c.tie.Measures[m].Header, Column: c.measures[m], Said: g.said[m].Total().Shorten(), Have: g.have[m].Total().Shorten()}
	if !g.listed {
		g.place = place.Place{File: c.tie.Entry.Files[0]}
	}
	check.Within = check.Difference().Sign() != 0
	check.Broken = !g.listed || g.rows == 0 || check.Difference().Abs().Cmp(c.tie.Within) > 0
	return check, true
}

// stopControls reports the figures that do not agree, and what weighs most in their
// groups.
func (r *run) stopControls(list []broken) {
	weights := r.weigh(list[:min(len(list), place.MostPlaces)])
	for i, b := range list {
		at := b.group.place
		at.Header = b.check.Header
		p := place.At(at, "control total", "control totals of %s do not agree with the fact table", r.plan.Columns[b.check.Column].Name).ByRule()
		p.Plan = b.control.tie.Pos
		p.Advice = "is an extract missing or doubled, a name in another group, or the control of another date?"
		shown := func(d value.Decimal) string { return r.amount(b.check.Column, d) }
		text := b.group.label + ": "
		switch d := b.check.Difference(); {
		case !b.group.listed:
			text += fmt.Sprintf("not in the control file, the fact table has %s", shown(b.check.Have))
		case b.group.rows == 0:
			text += fmt.Sprintf("says %s, the fact table has no such rows", shown(b.check.Said))
		default:
			text += fmt.Sprintf("says %s, the fact table has %s, difference %s", shown(b.check.Said), shown(b.check.Have), shown(d))
		}
		if held := b.group.held[b.measure].Total(); held.Sign() != 0 {
			if held.Cmp(b.check.Difference()) == 0 {
				text += ", which is what is held"
			} else {
				text += fmt.Sprintf("; %s is held", shown(held))
			}
		}
		if i < len(weights) && weights[i] != "" {
			text += "; most of it: " + weights[i]
		}
		p.Texts = []string{text}
		r.fail(p)
	}
}

// weight is how much an extract, or a fact row, has of a group.
type weight struct {
	place    string // of an extract
	position uint64 // of a fact row
	sum      value.Decimal
}

// heaviest are the three greatest weights, whatever their sign, greatest first.
type heaviest []weight

func (h *heaviest) add(w weight) {
	list := *h
	if len(list) == 3 {
		if w.sum.Abs().Cmp(list[2].sum.Abs()) <= 0 {
			return
		}
		list = list[:2]
	}
	i := len(list)
	for i > 0 && w.sum.Abs().Cmp(list[i-1].sum.Abs()) > 0 {
		i--
	}
	*h = slices.Insert(list, i, w)
}

// weigh reads the extracts once more for what weighs most in some groups: their
// extracts, or the rows of the only one.
func (r *run) weigh(list []broken) []string {
	all := make([]weighed, len(list))
	groupers := map[*control]*grouper{}
	r.readOnly(func(extract int, t *treat.Worker) {
		b := &t.Batch
		name := t.Program.Lineup.Place.Source()
		for i, br := range list {
			g := groupers[br.control]
			if g == nil {
				g = &grouper{control: br.control, groups: map[string]*groupSums{}}
				groupers[br.control] = g
			}
			w, c := &all[i], &b.Columns[br.check.Column]
			g.each(b, func(at int, s *groupSums) {
				if b.Fates[at] != table.Delivered || s.key != br.group.key {
					return
				}
				d, ok := c.Decimal(c.At(at/b.Slots, at%b.Slots, b.Slots))
				if !ok {
					return
				}
				w.add(name, position(extract, t.Rows.Lines[t.Sorted.Used[at/b.Slots]], at%b.Slots, b.Slots), d)
			})
		}
	})
	var out []string
	for i := range all {
		out = append(out, all[i].said(r, list[i].check.Column))
	}
	return out
}

// weighed is what weighs most in one group: of its extracts, or of its rows where
// there is only one.
type weighed struct {
	extracts, rows heaviest
	last           string // the extract at hand …
	sum            value.Sum
	many           bool // … which is not the only one
}

// add weighs a number of an extract, which come one after another.
func (w *weighed) add(extract string, position uint64, d value.Decimal) {
	if w.last != extract {
		w.end()
		w.last, w.sum, w.many = extract, value.Sum{}, w.last != ""
	}
	w.sum.Add(d)
	w.rows.add(weight{position: position, sum: d})
}

// end weighs the extract at hand.
func (w *weighed) end() {
	if w.last != "" {
		w.extracts.add(weight{place: w.last, sum: w.sum.Total()})
	}
}

// said lists what weighs most.
func (w *weighed) said(r *run, column int) string {
	w.end()
	heavy := w.rows
	if w.many {
		heavy = w.extracts
	}
	var parts []string
	for _, h := range heavy {
		if !w.many {
			h.place = r.placeOf(h.position).String()
		}
		parts = append(parts, h.place+" "+r.amount(column, h.sum))
	}
	return strings.Join(parts, ", ")
}
