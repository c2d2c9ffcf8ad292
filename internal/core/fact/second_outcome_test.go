package fact_test

import (
	"fmt"
	"math/big"
	"slices"
	"strings"

	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

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
		o["rows"] = append(o["rows"], fmt.Sprintf("%s,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d,%d", where, n("read"), n("blank"),
			n("repeated header"), n("total"), n("footnote"), n("section"), n("same row"), n("used"),
			len(r.facts), tally["skipped"], tally["dropped"], tally["held"], tally["filtered"], tally["zero"], tally["repeated"], tally[""]))
		o["ties"] = append(o["ties"], s.accounts(r)...)
	}
	for k, n := range counted {
		o["names"] = append(o["names"], fmt.Sprintf("%s|%d", k, n))
	}
	o["left_out"], o["changes"] = s.leftOut, s.changes
	return o
}

func (s *second) heldLine(f *factRow) int {
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
		out = append(out, fmt.Sprintf("%s|%s|%s|%s|%s|%s|%s", r.s.account(), c.Name, exact(r.read[ci]), exact(changed), exact(fact),
			exact(held), exact(left)))
	}
	return out
}
