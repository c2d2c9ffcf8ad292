package plan

import (
	"strconv"

	"umbau/internal/core/value"
)

// monthWord is a month for a person, by its name or number.
func monthWord(text string) int {
	if n, err := strconv.Atoi(text); err == nil && n >= 1 && n <= 12 {
		return n
	}
	if d, ok := value.ReadDate("1 " + text + " 2000"); ok {
		return d.Month
	}
	return 0
}

// calendar reads when years begin.
func (r *reader) calendar(n node) value.Calendar {
	m := r.mapOf(n, calendarKeys, "calendar")
	var c value.Calendar
	if v, ok := m["year_starts"]; ok {
		if c.Starts = monthWord(r.text(v, "year_starts")); c.Starts == 0 && v.kind == scalar {
			r.fail(v.pos, "year_starts is a month such as april, not %s", v.describe())
		}
	}
	if v, ok := m["named_by"]; ok {
		c.ByEnd = r.word(v, calendarKeys, "named_by") == "end"
	}
	return c
}

// tie reads an entry of ties.
func (r *reader) tie(n node) *Control {
	m := r.mapOf(n, tieKeys, "an entry of ties")
	t := &Control{Pos: n.pos, Entry: &Entry{Pos: n.pos, Others: Drop, Absent: Stop, SameRows: Keep, SameFiles: Keep, Control: true}}
	if v, ok := m["file"]; ok {
		t.Entry.Files = []string{r.path(v, "file")}
		t.Entry.Name, t.Entry.Pos = t.Entry.Files[0], v.pos
		t.Pos = v.pos
	}
	if n.kind == mapping {
		if r.from(t.Entry, m, "file"); t.Entry.From != "" {
			t.Entry.Name, t.Pos = Shown(t.Entry.From), t.Entry.Pos
		}
	}
	set(m, "by", r.paired, &t.By)
	if v, ok := m["measures"]; ok && r.perColumn(v, "measures") {
		t.Measures = r.paired(v, "measures")
	}
	set(m, "within", r.difference, &t.Within)
	r.sheets(t.Entry, m)
	r.layout(t.Entry, m)
	r.reading(t.Entry, m)
	t.Entry.Totals = Drop
	return t
}

// paired reads columns, and the headers that stand for them elsewhere.
func (r *reader) paired(n node, key string) []Paired {
	var out []Paired
	if n.kind != mapping {
		for _, name := range r.texts(n, key) {
			out = append(out, Paired{Column: name})
		}
		return out
	}
	for _, p := range n.pairs {
		out = append(out, Paired{Column: p.key, Header: r.text(p.value, key)})
	}
	if len(out) == 0 {
		r.fail(n.pos, "%s names no column", key)
	}
	return out
}

// checkTie looks whether the columns of a tie are there.
func (r *reader) checkTie(p *Plan, t *Control) {
	for _, by := range t.By {
		r.columnNamed(p, by.Column, t.Pos, "ties, by")
	}
	for _, m := range t.Measures {
		if c := r.columnNamed(p, m.Column, t.Pos, "ties, measures"); c != nil && !c.Kind.Numeric() && !r.open[c.Name] {
			r.fail(t.Pos, "ties, measures: %s is a %s column; only numbers have totals", c.Name, c.Kind)
		}
	}
}
