package plan

import (
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
)

// check looks at the plan as a whole: do its parts name each other rightly?
func (r *reader) check(p *Plan) {
	byKey := map[string]*Column{}
	for _, c := range p.Columns {
		k := key.Of(c.Name)
		if k == "" {
			r.fail(c.Pos, "a column needs a name")
		} else if other := byKey[k]; other != nil {
			r.fail(c.Pos, "the columns %s and %s would claim the same headers; give one of them another name", other.Name, c.Name)
		}
		byKey[k] = c
	}
	r.checkMade(p)
	r.checkLookups(p)
	for _, e := range p.Entries {
		r.checkEntry(p, e)
	}
	for _, t := range p.Ties {
		r.checkTie(p, t)
	}
	r.checkGrain(p)
	r.checkHistory(p)
	r.checkDeliveries(p)
	if !slices.ContainsFunc(p.Columns, func(c *Column) bool { return c.Kept }) && len(p.Columns) > 0 {
		r.fail(p.Columns[0].Pos, "every column is a helper (keep: no); nothing would be delivered")
	}
}

// column looks a column up by name and reports one that is not there.
func (r *reader) columnNamed(p *Plan, name string, pos place.Pos, what string) *Column {
	if c := p.Column(name); c != nil {
		return c
	}
	var names []string
	for _, c := range p.Columns {
		names = append(names, c.Name)
	}
	r.fail(pos, "%s: the fact table has no column %q%s", what, place.Shorten(name), didYouMean(name, names))
	return nil
}

// checkEntry looks at what an entry names: columns, each with one source, and globs.
func (r *reader) checkEntry(p *Plan, e *Entry) {
	c := claims{r, p, e, map[string]string{}}
	c.fields(e.Path, "path", e.Pos)
	c.fields(e.Sheet, "sheet", e.Pos)
	for _, t := range e.Titles {
		c.fields(t, "titles", e.Pos)
	}
	if e.Sections != "" {
		c.claim(e.Sections, "sections", e.Pos)
		if c := p.Column(e.Sections); c != nil && c.Kind.Numeric() {
			r.fail(e.Pos, "sections: the text of section rows cannot go to %s, which is a %s column", c.Name, c.Kind)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(e.Set)) {
		c.claim(name, "set", e.Pos)
	}
	if e.Unpivot != nil {
		c.unpivot(e.Unpivot)
	}
	for _, name := range slices.Sorted(maps.Keys(e.Headers)) {
		r.columnNamed(p, name, e.Pos, "headers")
	}
	for _, name := range slices.Sorted(maps.Keys(e.Absents)) {
		r.columnNamed(p, name, e.Pos, "absent")
	}
	for _, g := range append(slices.Clone(e.Files), e.Except...) {
		if g == "" {
			r.fail(e.Pos, "files: an empty glob")
		}
	}
}

// claims are the columns that get their values from elsewhere than cells in an
// entry: each from one place.
type claims struct {
	*reader
	plan  *Plan
	entry *Entry
	from  map[string]string // column → where its value comes from
}

// claim notes that a column comes from a place, and reports what speaks against it.
func (c *claims) claim(name, what string, pos place.Pos) {
	if c.columnNamed(c.plan, name, pos, what) == nil {
		return
	}
	if c.plan.Column(name).Made() {
		c.fail(pos, "column %s gets its value from two places: the plan makes it, and %s", name, what)
		return
	}
	if before, twice := c.from[name]; twice {
		c.fail(pos, "column %s gets its value from two places: %s and %s", name, before, what)
	}
	c.from[name] = what
}

// fields claims the columns that the pieces of a pattern name; years and whole
// numbers are digits without saying so.
func (c *claims) fields(pt *pattern.Pattern, what string, pos place.Pos) {
	if pt == nil {
		return
	}
	u := c.entry.Unpivot
	for _, f := range pt.Fields() {
		if u != nil && pt == u.Header && u.Cells != nil && u.Cells.Has(f) && c.plan.Column(f) == nil {
			continue // it only names the column of the cell
		}
		if f == pattern.Keep {
			c.fail(pos, "%s: the piece {} has no name here; write {column}, or * for text to pass over", what)
			continue
		}
		c.claim(f, what, pos)
		if column := c.plan.Column(f); column != nil && (column.Kind == Year || column.Kind == Whole) {
			pt.SetLimit(f, pattern.Digits)
		}
	}
}

// unpivot claims what wide headers and wide cells feed.
func (c *claims) unpivot(u *Unpivot) {
	c.fields(u.Header, "unpivot.header", u.Pos)
	if u.Cell != "" {
		c.claim(u.Cell, "unpivot.cell", u.Pos)
	}
	if u.Cells == nil {
		return
	}
	for _, f := range u.Cells.Fields() {
		if u.Header != nil && !u.Header.Has(f) {
			c.fail(u.Pos, "unpivot.cell: the piece {%s} does not stand in unpivot.header", f)
		}
	}
}

// checkMade looks at the columns that are made of others, and puts them in an
// order in which each comes after those that it needs.
func (r *reader) checkMade(p *Plan) {
	const (
		unseen = iota
		open
		done
	)
	state := map[string]int{}
	var path []string
	var visit func(c *Column)
	visit = func(c *Column) {
		switch state[c.Name] {
		case done:
			return
		case open:
			circle := append(slices.Clone(path[slices.Index(path, c.Name):]), c.Name)
			r.fail(c.Pos, "columns need each other in a circle: %s", strings.Join(circle, " needs "))
			return
		}
		state[c.Name] = open
		path = append(path, c.Name)
		for _, name := range append(slices.Clone(c.Needs()), c.GapNeeds()...) {
			if c.Formula != nil && p.Column(name) == nil {
				continue // the formula's mistake is told already
			}
			if need := r.columnNamed(p, name, c.Pos, "column "+c.Name); need != nil {
				visit(need)
			}
		}
		path = path[:len(path)-1]
		state[c.Name] = done
		if c.Formula != nil || len(c.Needs()) > 0 || c.GapFormulas() {
			p.Made = append(p.Made, slices.Index(p.Columns, c))
		}
	}
	for _, c := range p.Columns {
		visit(c)
	}
}

func (r *reader) checkGrain(p *Plan) {
	for i, name := range p.Rows.Grain {
		r.columnNamed(p, name, p.Rows.Pos, "grain")
		if slices.Contains(p.Rows.Grain[:i], name) {
			r.fail(p.Rows.Pos, "grain names %s twice", name)
		}
		if c := p.Column(name); c != nil && c.Measure() && p.Rows.Repeats == Sum {
			r.fail(p.Rows.Pos, "grain has %s, which repeats: sum would add up; add: no says that it is not to be added", name)
		}
	}
}
