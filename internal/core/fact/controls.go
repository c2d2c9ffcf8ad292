package fact

import (
	"fmt"
	"strings"

	"umbau/internal/core/keep"
	"umbau/internal/core/names"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/tie"
	"umbau/internal/core/value"
)

// control is a file of control totals: what it says of its groups.
type control struct {
	tie        *plan.Control
	by         keep.By
	measures   []int
	list       []*saidGroup          // in the order of the file
	groups     map[string]*saidGroup // by the keys of their values
	currencies []string              // of the file's figures, by measure
	failed     bool                  // the file could not be read
}

// saidGroup is what a control file says of one group.
type saidGroup struct {
	key    string
	label  string      // its values, joined
	place  place.Place // in the file
	said   []value.Sum // by measure
	stated []bool
}

// readControls reads the control files.
func (b *build) readControls() {
	for _, t := range b.plan.Ties {
		c := &control{tie: t, groups: map[string]*saidGroup{}}
		var by []int
		for _, pair := range t.By {
			by = append(by, b.plan.Index(pair.Column))
		}
		c.by = keep.NewBy(b.plan, by)
		for _, m := range t.Measures {
			c.measures = append(c.measures, b.plan.Index(m.Column))
		}
		b.controls = append(b.controls, c)
		b.readControl(c)
	}
}

// readControl reads one control file, as an extract of a table of its own.
func (b *build) readControl(c *control) {
	p := c.table(b.plan)
	found := pass.Find(p)
	problems := found.Problems
	if len(problems) == 0 {
		rules := pass.Rules{Plan: p, Books: make([]*names.Book, len(p.Columns)), Labels: b.summary.Books, Workers: 1}
		problems = pass.Run(b.ctx, &rules, found.Inputs, &saidRows{control: c})
	}
	for _, problem := range problems {
		if problem.Column != "" {
			problem.Column, problem.Add = "", ""
			problem.Advice = "mend the control file: its figures and groups must be clear; a blank figure is not compared"
		}
		problem.Plan = c.tie.Pos
		b.fail(problem)
		c.failed = true
	}
	b.summary.addInputs(found.Files...)
}

// table is the plan of a table that a control file is: its groups, and its figures.
func (c *control) table(of *plan.Plan) *plan.Plan {
	p := &plan.Plan{File: of.File, Formats: of.Formats, Entries: []*plan.Entry{c.tie.Entry}, Calendar: of.Calendar}
	add := func(pair plan.Paired, ci int, kind plan.Kind) *plan.Column {
		own := of.Columns[ci]
		col := &plan.Column{Pos: c.tie.Pos, Name: pair.Header, Kind: kind, Decimals: -1, Kept: true, Add: true, Words: own.Words}
		if pair.Header == "" {
			col.Name, col.Headers = own.Name, own.Headers
		}
		col.Gaps[value.Blank].Remedy, col.Currency = plan.Leave, own.Currency
		p.Columns = append(p.Columns, col)
		return col
	}
	for i, ci := range c.by.Columns {
		kind := of.Columns[ci].Kind
		if kind == plan.Name {
			kind = plan.Text
		}
		col := add(c.tie.By[i], ci, kind)
		col.Add, col.Decimals, col.Gaps[value.Null].Remedy = false, of.Columns[ci].Decimals, plan.Leave
	}
	for i, ci := range c.measures {
		add(c.tie.Measures[i], ci, plan.Number)
	}
	return p
}

// saidRows is the keeper of the rows of a control file.
type saidRows struct{ control *control }

// said is one of them.
type said struct {
	place  place.Place
	values []string
	says   []value.Decimal // by measure
	stated []bool
}

type saidPart struct {
	to         *control
	rows       []said
	currencies []string
}

// Part implements pass.Keeper.
func (k *saidRows) Part() pass.Part { return &saidPart{to: k.control} }

// See implements pass.Part.
func (p *saidPart) See(b *pass.Block) {
	groups := len(p.to.by.Columns)
	p.rows, p.currencies = p.rows[:0], append(p.currencies[:0], b.Currencies[groups:]...)
	for row := range b.Delivered {
		s := said{place: b.Program.Lineup.Place}
		s.place.Row = b.Line(row)
		for i := range b.Batch.Columns {
			col := &b.Batch.Columns[i]
			if i < groups {
				s.values = append(s.values, string(b.Batch.AppendText(nil, col, row, 0)))
				continue
			}
			d, ok := col.Decimal(col.At(row, 0, 1))
			s.says, s.stated = append(s.says, d), append(s.stated, ok)
		}
		p.rows = append(p.rows, s)
	}
}

// Take implements pass.Part.
func (p *saidPart) Take() {
	c := p.to
	c.currencies = append(c.currencies[:0], p.currencies...)
	for _, s := range p.rows {
		k, label := c.by.Key(s.values)
		g := c.groups[k]
		if g == nil {
			g = &saidGroup{key: k, label: label, place: s.place, said: make([]value.Sum, len(c.measures)), stated: make([]bool, len(c.measures))}
			c.groups[k] = g
			c.list = append(c.list, g)
		}
		for m, d := range s.says {
			if s.stated[m] {
				g.said[m].Add(d)
				g.stated[m] = true
			}
		}
	}
}

// compared is a figure of a control, what the file says of its group, and what there is:
// nil where there is no such thing.
type compared struct {
	control *control
	said    *saidGroup
	have    *keep.Group
	measure int // of the control
	check   tie.Check
}

func (f *compared) label() string {
	if f.said != nil {
		return f.said.label
	}
	return f.have.Label
}

// place is that of the group in the file; without a row where the file lacks it.
func (f *compared) place() place.Place {
	if f.said != nil {
		return f.said.place
	}
	return place.Place{File: f.control.tie.Entry.Source()}
}

// compareControls compares all control totals, records each, and stops where one
// does not agree.
func (b *build) compareControls() {
	if b.summary.ExitCode() == 1 {
		return
	}
	var broken []compared
	for i, c := range b.controls {
		if c.failed {
			continue
		}
		facts := b.kept.groups[i]
		b.compareCurrencies(c, facts.Currencies)
		compare := func(said *saidGroup, have *keep.Group) {
			for m := range c.measures {
				f := compared{control: c, said: said, have: have, measure: m}
				if !f.compare() {
					continue
				}
				b.summary.Checks.add(f.check)
				if b.out != nil {
					b.out.record.Write(record.ChecksFile, record.AppendControl(nil, b.plan, f.place(), f.label(), f.check, said != nil))
				}
				if f.check.Broken {
					broken = append(broken, f)
				}
			}
		}
		for _, said := range c.list {
			compare(said, facts.Of(said.key))
		}
		for _, have := range facts.List {
			if c.groups[have.Key] == nil {
				compare(nil, have)
			}
		}
	}
	if len(broken) > 0 {
		b.stopControls(broken)
	}
}

// compareCurrencies stops where the figures of a control are in another currency than the
// measure.
func (b *build) compareCurrencies(c *control, of []string) {
	for m, theirs := range c.currencies {
		own := ""
		if m < len(of) {
			own = of[m]
		}
		if theirs == "" || own == "" || theirs == own {
			continue
		}
		p := place.At(place.Place{File: c.tie.Entry.Source(), Header: c.tie.Measures[m].Header}, "control total",
			"control totals cannot be compared: they are in %s, and %s is in %s", theirs, b.plan.Columns[c.measures[m]].Name, own).ByRule()
		p.Plan, p.Advice = c.tie.Pos, "ask for control totals in the same currency, or say the currency of the column with currency"
		b.fail(p)
	}
}

// compare compares the figure; it returns false where there is nothing to compare.
func (f *compared) compare() bool {
	c, m := f.control, f.measure
	if f.said != nil && !f.said.stated[m] || f.said == nil && f.have.Rows == 0 {
		return false
	}
	f.check = tie.Check{Kind: tie.Control, Row: f.place().Row, Header: c.tie.Measures[m].Header, Column: c.measures[m]}
	if f.said != nil {
		f.check.Said = f.said.said[m].Total().Shorten()
	}
	if f.have != nil {
		f.check.Have = f.have.Have[m].Total().Shorten()
	}
	f.check.Within = f.check.Difference().Sign() != 0
	f.check.Broken = f.said == nil || f.have == nil || f.have.Rows == 0 || f.check.Difference().Abs().Cmp(c.tie.Within) > 0
	return true
}

// stopControls reports the figures that do not agree, and what weighs most in their
// groups.
func (b *build) stopControls(broken []compared) {
	weights := b.weigh(broken[:min(len(broken), place.MostPlaces)])
	for i := range broken {
		f := &broken[i]
		at := f.place()
		at.Header = f.check.Header
		p := place.At(at, "control total", "control totals of %s do not agree with the fact table", b.plan.Columns[f.check.Column].Name).ByRule()
		p.Plan, p.Column = f.control.tie.Pos, b.plan.Columns[f.check.Column].Name
		p.Advice = "is an extract missing or doubled, a name in another group, or the control of another date?"
		text := f.tell(b.plan.Columns[f.check.Column].Shown)
		if i < len(weights) && weights[i] != "" {
			text += "; most of it: " + weights[i]
		}
		p.Texts = []string{text}
		b.fail(p)
	}
}

// tell says what does not agree.
func (f *compared) tell(shown func(value.Decimal) string) string {
	text := f.label() + ": "
	switch {
	case f.said == nil:
		text += fmt.Sprintf("not in the control file, the fact table has %s", shown(f.check.Have))
	case f.have == nil || f.have.Rows == 0:
		text += fmt.Sprintf("says %s, the fact table has no such rows", shown(f.check.Said))
	default:
		text += fmt.Sprintf("says %s, the fact table has %s, difference %s", shown(f.check.Said), shown(f.check.Have),
			shown(f.check.Difference()))
	}
	if f.have == nil {
		return text
	}
	if held := f.have.Held[f.measure].Total(); held.Sign() != 0 {
		if held.Cmp(f.check.Difference()) == 0 {
			return text + ", which is what is held"
		}
		text += fmt.Sprintf("; %s is held", shown(held))
	}
	return text
}

// weigh reads the extracts once more for what weighs most in some groups: their
// extracts, or the rows of the only one.
func (b *build) weigh(list []compared) []string {
	var keepers []pass.Keeper
	for i := range list {
		f := &list[i]
		w := &keep.Weights{By: f.control.by, Measure: f.check.Column}
		if f.have != nil {
			w.Key = f.have.Key
		} else {
			w.Key = f.said.key
		}
		keepers = append(keepers, w)
	}
	pass.Run(b.ctx, &b.rules, b.inputs, keepers...) // what that finds else is known
	var out []string
	for i, k := range keepers {
		var parts []string
		for _, w := range k.(*keep.Weights).Heaviest() {
			if w.Extract == "" {
				w.Extract = w.Position.Place(b.inputs).String()
			}
			parts = append(parts, w.Extract+" "+b.plan.Columns[list[i].check.Column].Shown(w.Sum))
		}
		out = append(out, strings.Join(parts, ", "))
	}
	return out
}
