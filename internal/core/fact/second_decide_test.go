package fact_test

import (
	"os"
	"slices"
	"strings"

	"umbau/internal/core/formula"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

func (f *factRow) there() bool { return f.fate == "" || f.fate == "summed" }

func (v *val) there() bool { return slices.ContainsFunc(v.facts, (*factRow).there) }

// decide applies the rules to the fact rows of a row, column by column.
func (s *second) decide(r *reading, facts []*factRow) {
	for ci := range s.p.Columns {
		var done []*val
		for _, f := range facts {
			if v := f.vals[ci]; !slices.Contains(done, v) && v.there() {
				done = append(done, v)
				s.decideValue(r, ci, v)
			}
		}
	}
	for _, f := range facts {
		if s.p.Rows.DropZeros && f.fate == "" && len(r.read) > 0 && s.zero(r, f) {
			f.fate = "zero"
		}
	}
}

// decideValue applies the rule that a value has, if it has one.
func (s *second) decideValue(r *reading, ci int, v *val) {
	remedy := plan.Put
	switch {
	case v.gap != value.NoGap:
		remedy = c(s, ci, v)
	case v.unknown:
		remedy = s.p.Columns[ci].Unknown.Remedy
	default:
		return
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
		s.stopValue(r, ci, v)
	}
}

// stopValue stops for a value: once a cell, or once a fact row where it is none.
func (s *second) stopValue(r *reading, ci int, v *val) {
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
	s.stop(what, s.p.Columns[ci].Name, n)
	if os.Getenv("UMBAU_KEEP") != "" {
		println(what, s.p.Columns[ci].Name, r.s.file, r.s.name, v.facts[0].line, len(v.facts))
	}
	for _, f := range v.facts {
		f.moved = true
	}
}

// zero reports whether every measure of a fact row is zero or empty.
func (s *second) zero(r *reading, f *factRow) bool {
	for ci := range s.p.Columns {
		if r.read[ci] == nil {
			continue
		}
		v := f.vals[ci]
		undecided := v.gap != value.NoGap && c(s, ci, v) != plan.Put && c(s, ci, v) != plan.Leave
		if undecided || strings.Trim(s.delivered(ci, v), "-0.") != "" {
			return false
		}
	}
	return true
}

func c(s *second, ci int, v *val) plan.Remedy { return s.p.Columns[ci].Gaps[v.gap].Remedy }

// finish settles rows whose grain stands again, and what must be true of every row.
func (s *second) finish() {
	var all []*factRow
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

func (s *second) repeats(all []*factRow) {
	groups := map[string][]*factRow{}
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
func (s *second) sum(g []*factRow) {
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
