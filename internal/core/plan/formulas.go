package plan

import (
	"errors"
	"slices"
	"strings"
	"unicode/utf8"

	"umbau/internal/core/formula"
	"umbau/internal/core/place"
)

// parseFormula reads a formula, with or without its = sign; nil after a mistake.
func (r *reader) parseFormula(n node, key string) *formula.Formula {
	text := r.text(n, key)
	if n.kind != scalar {
		return nil
	}
	f, err := formula.Parse(strings.TrimPrefix(text, "="))
	if err != nil {
		r.failFormula(n, err)
		return nil
	}
	return f
}

// failFormula reports a mistake of a formula at its character.
func (r *reader) failFormula(n node, err error) {
	var bad *formula.Error
	if !errors.As(err, &bad) {
		return
	}
	pos, src := n.pos, strings.TrimPrefix(n.text, "=")
	pos.Column += len(n.text) - len(src) + utf8.RuneCountInString(src[:min(bad.Offset, len(src))])
	if n.quoted {
		pos.Column++
	}
	p := place.InPlan(pos, "plan", "%s", bad.Text)
	if pos.Line > 0 && pos.Line <= len(r.lines) { // else it does not stand in the plan
		p.Line = strings.TrimRight(r.lines[pos.Line-1], "\r")
		if line := []rune(p.Line); !n.quoted && pos.Column <= len(line) && line[pos.Column-1] == ',' {
			p.Message += "; within { } a formula with commas stands in quotes"
		}
	}
	r.problems.Add(p)
}

// checkFormula types a formula whose columns are known.
func (r *reader) checkFormula(p *Plan, n node, f *formula.Formula) bool {
	if r.needsOpen(f) {
		return true
	}
	err := f.Check(p.Calendar, func(name string) (formula.Type, error) {
		if c := p.Column(name); c != nil {
			return c.Kind.Type(), nil
		}
		var names []string
		for _, c := range p.Columns {
			if c.Formula != f {
				names = append(names, c.Name)
			}
		}
		near := didYouMean(name, names)
		if !strings.HasSuffix(near, "?") {
			near += formula.TextInQuotes(place.Shorten(name))
		}
		return 0, errors.New("the fact table has no column " + place.Shorten(name) + near)
	})
	r.failFormula(n, err)
	return err == nil
}

// needsOpen reports whether a formula needs a column whose kind is not known yet.
func (r *reader) needsOpen(f *formula.Formula) bool {
	return slices.ContainsFunc(f.Columns, func(name string) bool { return r.open[name] })
}

// formula reads and types a formula; nil after a mistake.
func (r *reader) formula(p *Plan, n node, key string) *formula.Formula {
	f := r.parseFormula(n, key)
	if f == nil || !r.checkFormula(p, n, f) {
		return nil
	}
	return f
}

// condition reads a formula that is a condition; nil after a mistake. Whether it is one is not known as long as the kind of a column is
// not that it needs.
func (r *reader) condition(p *Plan, n node, key string) *formula.Formula {
	f := r.formula(p, n, key)
	if f != nil && !r.needsOpen(f) {
		r.failFormula(n, f.Condition())
	}
	return f
}

// gapFormula reads a formula that fills gaps of a column.
func (r *reader) gapFormula(p *Plan, n node, key string, c *Column) *formula.Formula {
	f := r.formula(p, n, key)
	switch {
	case f == nil, r.needsOpen(f):
	case slices.Contains(f.Columns, c.Name):
		r.fail(n.pos, "%s: the formula needs %s, the column whose gaps it fills", key, c.Name)
		return nil
	case c.Kind.Numeric() != (f.Type == formula.Number || f.Type == formula.Year) && c.Kind != Year && c.Kind != Text && c.Kind != Name:
		r.fail(n.pos, "%s: the formula gives a %s; %s is a %s column", key, f.Type, c.Name, c.Kind)
		return nil
	}
	return f
}
