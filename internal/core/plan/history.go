package plan

import (
	"slices"

	"umbau/internal/core/pattern"
	"umbau/internal/core/place"
	"umbau/internal/core/value"
)

// History is what is asked of figures that the last delivered build had.
type History struct {
	Pos      place.Pos
	By       []string      // the columns whose groups are compared; empty when silent
	Restated bool          // a group that has another figure stops the build
	Gone     bool          // a group that has none any more does
	Within   value.Decimal // the greatest difference that stops nothing
}

var historyKeys = []aKey{
	{name: "by", shape: someTexts, means: "The columns whose groups are compared with the last delivered build. Default: the time " +
		"column, and " +
		"those that path, sheet, titles and set say."},
	{name: "restated", shape: aWord, words: []string{"say", "stop"}, means: "A group that had another figure then: say (default) or stop."},
	{name: "gone", shape: aWord, words: []string{"say", "stop"},
		means: "A group that had a figure then, and has none: say (default) or stop."},
	{name: "within", shape: aText, means: "The greatest difference that stops nothing (it is told). Default: 0."},
}

// history reads what is asked of the past.
func (r *reader) history(n node) (h History) {
	m := r.mapOf(n, historyKeys, "history")
	h.Pos = n.pos
	set(m, "by", r.texts, &h.By)
	if v, ok := m["restated"]; ok {
		h.Restated = r.word(v, historyKeys, "restated") == "stop"
	}
	if v, ok := m["gone"]; ok {
		h.Gone = r.word(v, historyKeys, "gone") == "stop"
	}
	set(m, "within", r.difference, &h.Within)
	return h
}

// difference reads the greatest difference that is none.
func (r *reader) difference(n node, key string) value.Decimal {
	d, _, ok := value.English.Number([]byte(r.text(n, key)))
	if n.kind == scalar && (!ok || d.Sign() < 0) {
		r.fail(n.pos, "%s is an amount such as 0.05, not %s", key, n.describe())
	}
	return d
}

// checkHistory looks whether the columns of history are there.
func (r *reader) checkHistory(p *Plan) {
	for i, name := range p.History.By {
		if c := r.columnNamed(p, name, p.History.Pos, "history, by"); c != nil && c.Kind.Numeric() && !r.open[c.Name] {
			r.fail(p.History.Pos, "history, by: %s is a %s column; groups are made by labels", c.Name, c.Kind)
		}
		if slices.Contains(p.History.By[:i], name) {
			r.fail(p.History.Pos, "history, by names %s twice", name)
		}
	}
}

// HistoryBy are the columns whose groups are compared with the last delivered build: those of
// history, or else the finest time column and those that paths, sheets, titles and set say, in the
// order of the plan.
func (p *Plan) HistoryBy() (out []int) {
	if len(p.History.By) > 0 {
		for _, name := range p.History.By {
			out = append(out, p.Index(name))
		}
		return out
	}
	said := map[string]bool{}
	for _, e := range p.Entries {
		for _, one := range append([]*pattern.Pattern{e.Path, e.Sheet}, e.Titles...) {
			if one != nil {
				for _, name := range one.Fields() {
					said[name] = true
				}
			}
		}
		for name := range e.Set {
			said[name] = true
		}
	}
	time := -1
	for i, c := range p.Columns {
		if c.Kept && c.Kind.Dated() && (time < 0 || c.Kind < p.Columns[time].Kind) {
			time = i
		}
	}
	for i, c := range p.Columns {
		if c.Kept && !c.Kind.Numeric() && (i == time || said[c.Name]) {
			out = append(out, i)
		}
	}
	return out
}
