package fact_test

import (
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

// takeFirsts decides names by their first spelling.
func (s *second) takeFirsts(ci int, facts []*factRow) {
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
func (s *second) make(r *reading, made []int, facts []*factRow, foreign map[*val]string) {
	for _, ci := range made {
		c := s.p.Columns[ci]
		var before *val
		for k, f := range facts {
			if c.From != "" && k > 0 && before != nil && f.vals[s.index(c.From)] == facts[k-1].vals[s.index(c.From)] {
				f.vals[ci] = before
				before.facts = append(before.facts, f)
				continue
			}
			v := &val{facts: []*factRow{f}}
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
			v.line, v.header, v.stored = from.line, from.header, from.stored
			switch {
			case v.raw == "":
			case c.Kind.Numeric():
				currency, reading := "", r.e.Reading
				if strings.Contains(v.stored, v.raw) {
					reading = value.Default
				}
				if s.readNumber(ci, v, reading, &currency); currency != "" {
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
func (s *second) run(f *formula.Formula, of *factRow) *formula.Vector {
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
